-- How many days a passcode may be in use; null for as long as one likes.
alter table school add column passcode_days integer;
drop trigger school_update_stands;
create trigger school_update_stands after update of name, zone, first_day_of_week, cycle_start, revision, month_first, twelve_hours, help, passcode_days on school begin
    update school set standing = standing + 1;
end;
-- How the classes of a department begin, where that is otherwise than at the school; columns as those of school.
create table department_defaults (
    calendar_id          integer primary key references calendars (id) on delete cascade,
    new_open_to          text    not null,
    new_for_coordinators integer not null,
    new_shows_list       integer not null,
    new_link_entry       text    not null,
    new_link_audience    text,
    new_feed_reminder    integer
) strict;
-- A department's own checklist for rooms; no line of it, and the school's holds.
create table department_checks (
    calendar_id integer not null references calendars (id) on delete cascade,
    position    integer not null,
    name        text    not null,
    primary key (calendar_id, position)
) strict, without rowid;
