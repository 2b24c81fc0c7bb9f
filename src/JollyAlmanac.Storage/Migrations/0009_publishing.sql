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
