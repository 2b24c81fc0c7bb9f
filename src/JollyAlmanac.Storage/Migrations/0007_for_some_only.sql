-- What is only for some of a calendar's people: "g12 g13 p7", groups and persons; null for all.
alter table series add column only_for text;
alter table materials add column only_for text;
alter table join_links add column only_for text;

drop trigger series_update_stands;
create trigger series_update_stands after update of calendar_id, title, description, place, pattern, number_label, first_number, follows_id, join_link_id, is_private, only_for, version, deleted_at on series begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.id union select old.join_link_id);
end;
drop trigger join_links_update_stands;
create trigger join_links_update_stands after update of calendar_id, name, code, version, entry, audience, only_for, entry_word, shows_details, renews, reach, is_personal, is_shared, notes, ticked, withdrawn_at, hand on join_links begin
    update join_links set standing = standing + 1 where id in (new.id);
    update calendars set standing = standing + 1 where id in (select calendar_id from series_links where link_id = new.id union select new.calendar_id);
end;

-- The id of a group that is gone is never given to another one. References are not enforced while a migration runs.
create table groups_anew (
    id       integer primary key autoincrement,
    name     text not null unique,
    kind     text not null check (kind in ('classlist', 'section', 'department', 'staff')),
    source   text unique,
    version  integer not null default 1
) strict;
insert into groups_anew (id, name, kind, source, version) select id, name, kind, source, version from groups;
drop table groups;
alter table groups_anew rename to groups;

-- A new calendar's mark is found among the latest ones, which need no index.
drop index calendars_by_mark;

-- How the school has it with new calendars, and how long it keeps who was in a room; null for as long as the entry is there.
alter table school add column new_open_to text not null default 'anyone';
alter table school add column new_for_coordinators integer not null default 1 check (new_for_coordinators in (0, 1));
alter table school add column new_shows_list integer not null default 0 check (new_shows_list in (0, 1));
alter table school add column attendance_days integer check (attendance_days > 0);
create index attendance_by_time on attendance (entered);

-- People by name, and how many of each kind: so that a page of them costs what it shows.
create index people_by_name on people (name, id) where ended_at is null and erased_at is null;
create index people_by_role on people (role, ended_at) where erased_at is null;
