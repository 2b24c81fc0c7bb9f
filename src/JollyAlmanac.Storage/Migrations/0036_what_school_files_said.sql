-- What files of the whole school said when they were last taken in, so that newer ones change only what they say otherwise, and what
-- people changed by hand stays. A class by what its file knows it by.
create table imported_classes (
    source      text    primary key,
    calendar_id integer not null references calendars (id) on delete cascade
) strict, without rowid;
create index imported_classes_by_calendar on imported_classes (calendar_id);
-- A series, what was said of it, and the version that it had then: a later one was changed by somebody.
create table imported_meetings (
    series_id integer primary key references series (id) on delete cascade,
    source    text    not null,
    said      text    not null,
    version   integer not null
) strict;
create index imported_meetings_by_source on imported_meetings (source);
-- Files of the whole school are reviewed as lists of people and files of sessions are. What waits for a review is kept for a day.
drop table bring_ins;
create table bring_ins (
    id      integer primary key,
    kind    text    not null check (kind in ('people', 'sessions', 'school')),
    made_by integer not null references people (id) on delete cascade,
    made_at integer not null,
    content text    not null check (json_valid(content))
) strict;
