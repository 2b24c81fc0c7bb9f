-- A keeper of a calendar asks the coordinators to add somebody whom the school does not know, with access to it.
create table person_requests (
    id          integer primary key,
    calendar_id integer not null references calendars (id) on delete cascade,
    email       text    not null,
    level       text    not null,
    until       text,
    made_by     integer not null references people (id) on delete cascade,
    made_at     integer not null,
    unique (calendar_id, email)
) strict;
create index person_requests_of_person on person_requests (made_by);

-- A notice may lead to a join link without being about a session.
alter table notices add column link_id integer references join_links (id);

-- A copy may go to an address outside the school; empty for people of the school.
alter table copies add column address text not null default '';
