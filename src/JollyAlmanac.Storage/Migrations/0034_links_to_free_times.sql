-- Links by which somebody shows when they are free, on some days within some hours. Each ends with its last day.
create table free_links (
    id         integer primary key,
    person_id  integer not null references people (id) on delete cascade,
    token_hash blob    not null unique,
    first      text    not null,
    last       text    not null,
    day_from   text    not null,
    day_to     text    not null,
    made_at    integer not null,
    ended_at   integer
) strict;
create index free_links_by_person on free_links (person_id);
