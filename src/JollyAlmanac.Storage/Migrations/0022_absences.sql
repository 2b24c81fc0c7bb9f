-- A member of staff is away from a day to a day. Why is for coordinators alone.
create table absences (
    id        integer primary key,
    person_id integer not null references people (id) on delete cascade,
    first     text    not null,
    last      text    not null,
    reason    text    not null default '',
    made_by   integer not null references people (id),
    made_at   integer not null
) strict;
create index absences_by_day on absences (last, first);
create index absences_of_person on absences (person_id);
