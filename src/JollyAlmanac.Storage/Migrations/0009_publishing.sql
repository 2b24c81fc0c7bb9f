-- What an event of a file became, so that the same file again changes nothing and a newer one changes what it says otherwise.
create table imports (
    series_id   integer primary key references series (id) on delete cascade,
    calendar_id integer not null references calendars (id) on delete cascade,
    -- The event's own UID (RFC 5545 §3.8.4.7); the series has another where that was taken.
    uid         text    not null,
    -- Of the event as the file had it, and the series as it was made of it.
    hash        text    not null,
    made        text    not null check (json_valid(made)),
    -- Lines that the almanac has no place for, as an iCalendar document: they go out again with an export.
    kept        text    not null,
    unique (calendar_id, uid)
) strict;

-- Lists of people and files of sessions are reviewed alike.
alter table bring_ins add column kind text not null default 'people' check (kind in ('people', 'sessions'));

-- What else an outlet shows, and how: JSON, read and written whole.
alter table outlets add column options text not null default '{}' check (json_valid(options));
-- Beside its own calendar: the classes of that department, or all of the school.
alter table outlets add column scope text not null default 'calendar' check (scope in ('calendar', 'department', 'school', 'group'));
alter table outlets add column group_id integer references groups (id) on delete set null;
alter table outlets add column paused_at integer;
-- The ids of further calendars that it tells as well, a blank apart.
alter table outlets add column others text not null default '';
drop trigger outlets_update_stands;
create trigger outlets_update_stands after update of kind, calendar_id, name, level, descriptions, materials, join_links, sites, generation, token_hash, version, revoked_at, offered, options, scope, group_id, others, paused_at on outlets begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
end;

-- A feed of all that is somebody's own, for them alone.
create table own_feeds (
    person_id       integer primary key references people (id) on delete cascade,
    generation      integer not null,
    token_hash      blob    not null unique,
    options         text    not null check (json_valid(options)),
    version         integer not null,
    changed_at      integer not null,
    last_fetched_at integer
) strict;

-- The last times that a feed was asked for, by which kind of program; a minute each at most.
create table fetches (
    id        integer primary key,
    outlet_id integer not null references outlets (id) on delete cascade,
    at        integer not null,
    program   text    not null,
    status    integer not null,
    bytes     integer not null
) strict;
create index fetches_of_outlet on fetches (outlet_id, id);

-- Dated messages of a calendar.
create table notices (
    id             integer primary key,
    calendar_id    integer not null references calendars (id) on delete cascade,
    text           text    not null,
    first_day      text    not null,
    last_day       text    not null check (last_day >= first_day),
    only_for       text,
    -- The session it is about, as SessionKey has it; it may be over with it.
    session        text,
    ends_with      integer not null default 0 check (ends_with in (0, 1)),
    shows_join     integer not null default 0 check (shows_join in (0, 1)),
    material_id    integer references materials (id),
    version        integer not null default 1,
    made_by        integer not null references people (id),
    made_at        integer not null,
    changed_at     integer not null,
    withdrawn_at   integer
) strict;
create index notices_of_calendar on notices (calendar_id, withdrawn_at, last_day);
create table notices_seen (
    notice_id integer not null references notices (id) on delete cascade,
    person_id integer not null references people (id) on delete cascade,
    at        integer not null,
    by_mail   integer not null check (by_mail in (0, 1)),
    primary key (notice_id, person_id)
) strict, without rowid;
create index notices_seen_by on notices_seen (person_id);
create table notice_texts (
    id   integer primary key,
    name text not null unique,
    text text not null
) strict;
create trigger notices_insert_stands after insert on notices begin
    update calendars set standing = standing + 1 where id = new.calendar_id;
end;
create trigger notices_update_stands after update on notices begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
end;
create trigger notices_delete_stands after delete on notices begin
    update calendars set standing = standing + 1 where id = old.calendar_id;
end;

-- Who is reminded by mail before each session of a calendar, and of which sessions they were: a session that is moved is a new one.
create table reminders (
    calendar_id integer not null references calendars (id) on delete cascade,
    person_id   integer not null references people (id) on delete cascade,
    minutes     integer not null check (minutes > 0),
    primary key (calendar_id, person_id)
) strict, without rowid;
create index reminders_of_person on reminders (person_id);
create table reminded (
    id        integer primary key autoincrement,
    series_id integer not null references series (id) on delete cascade,
    person_id integer not null references people (id) on delete cascade,
    session   text    not null,
    starts_at integer not null,
    unique (series_id, person_id, session, starts_at)
) strict;
create index reminded_before on reminded (starts_at);
