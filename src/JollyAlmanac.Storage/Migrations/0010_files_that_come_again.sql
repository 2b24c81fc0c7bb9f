-- What a file said of an event, each time that it came: whoever goes back to an earlier state goes back to what the file had said by
-- then, too, so that the same file brings again what was undone.
create table imports_by_line (
    series_id   integer not null references series (id) on delete cascade,
    -- The line of the history since which it is so; 0 for before there were lines.
    line_id     integer not null,
    calendar_id integer not null references calendars (id) on delete cascade,
    uid         text    not null,
    hash        text    not null,
    made        text    not null check (json_valid(made)),
    kept        text    not null,
    -- What the file attached, as JSON: what was taken off by hand since does not come back.
    attached    text    not null default '[]' check (json_valid(attached)),
    -- By then no file had said anything of it.
    is_none     integer not null default 0 check (is_none in (0, 1)),
    primary key (series_id, line_id)
) strict, without rowid;
insert into imports_by_line (series_id, line_id, calendar_id, uid, hash, made, kept)
    select series_id, 0, calendar_id, uid, hash, made, kept from imports;
drop table imports;
alter table imports_by_line rename to imports;
create index imports_of_calendar on imports (calendar_id, uid);

-- Files that were fetched by their address, for a calendar or for the school's time; what was there last, so that it is sent again
-- only where it is another.
create table fetched_files (
    id            integer primary key,
    calendar_id   integer references calendars (id) on delete cascade,
    address       text    not null,
    etag          text    not null,
    last_modified text    not null,
    content       blob    not null,
    fetched_by    integer not null references people (id),
    fetched_at    integer not null,
    -- Since when its content is as it is.
    changed_at    integer not null
) strict;
create unique index fetched_files_once on fetched_files (ifnull(calendar_id, 0), address);

-- Copies of some days of a calendar that went, or are to go, by mail.
create table copies (
    id          integer primary key,
    calendar_id integer not null references calendars (id) on delete cascade,
    level       text    not null,
    first_day   text    not null,
    last_day    text    not null check (last_day >= first_day),
    says        text    not null,
    made_by     integer not null references people (id),
    made_at     integer not null
) strict;

-- How a series stands: rises with each change of what is read of it, so that of a calendar with hundreds only those are read anew that
-- changed.
alter table series add column standing integer not null default 0;
create trigger series_stand_update after update of calendar_id, uid, title, description, place, pattern, number_label, first_number, follows_id, join_link_id, made_by, made_at, changed_at, is_private, only_for, version, deleted_at on series begin
    update series set standing = standing + 1 where id = new.id;
end;
create trigger series_stand_changes_insert after insert on changes begin
    update series set standing = standing + 1 where id = new.series_id;
end;
create trigger series_stand_changes_update after update on changes begin
    update series set standing = standing + 1 where id in (old.series_id, new.series_id);
end;
create trigger series_stand_changes_delete after delete on changes begin
    update series set standing = standing + 1 where id = old.series_id;
end;
