-- How a thing stands: a number that rises whenever anything changes that is shown of it. What is read and planned is kept under it,
-- in every process that serves. The database counts by itself, so that no writing can forget to; a sign-in or a fetched feed counts nothing.
alter table school add column standing integer not null default 1;
alter table calendars add column standing integer not null default 1;
alter table join_links add column standing integer not null default 1;

create index changes_of_link on changes (link_id) where link_id is not null;
create index calendars_of_department on calendars (department_id) where department_id is not null;
create index grants_to_all on grants (grantee, level, calendar_id) where grantee in ('everyone', 'anyone');
create index calendars_by_mark on calendars (mark_colour, mark_shape) where put_away_at is null and deleted_at is null;
create index departments on calendars (title) where kind = 'department';
create index calendars_of_title on calendars (title collate nocase);
create index series_of_place on series (place collate nocase);
create index hosts_of_person on join_hosts (person_id);

-- Which links a series is joined by, as a whole or in one session.
create view series_links as
    select id as series_id, calendar_id, join_link_id as link_id from series where join_link_id is not null
    union all
    select c.series_id, s.calendar_id, c.link_id from changes c join series s on s.id = c.series_id where c.link_id is not null;

create trigger series_insert_stands after insert on series begin
    update calendars set standing = standing + 1 where id in (new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.id union select new.join_link_id);
end;

create trigger series_update_stands after update of calendar_id, title, description, place, pattern, number_label, first_number, follows_id, join_link_id, version, deleted_at on series begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.id union select old.join_link_id);
end;

create trigger series_delete_stands after delete on series begin
    update calendars set standing = standing + 1 where id in (old.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = old.id union select old.join_link_id);
end;

create trigger changes_insert_stands after insert on changes begin
    update calendars set standing = standing + 1 where id in (select calendar_id from series where id = new.series_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.series_id union select new.link_id);
end;

create trigger changes_update_stands after update on changes begin
    update calendars set standing = standing + 1 where id in (select calendar_id from series where id = new.series_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.series_id union select old.link_id);
end;

create trigger changes_delete_stands after delete on changes begin
    update calendars set standing = standing + 1 where id in (select calendar_id from series where id = old.series_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = old.series_id union select old.link_id);
end;

create trigger materials_insert_stands after insert on materials begin
    update calendars set standing = standing + 1 where id in (new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.series_id);
end;

create trigger materials_update_stands after update on materials begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.series_id);
end;

create trigger materials_delete_stands after delete on materials begin
    update calendars set standing = standing + 1 where id in (old.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = old.series_id);
end;

create trigger grants_insert_stands after insert on grants begin
    update calendars set standing = standing + 1 where id in (new.calendar_id);
    update join_links set standing = standing + 1 where id in (select id from join_links where calendar_id = new.calendar_id union select link_id from series_links where calendar_id = new.calendar_id);
end;

create trigger grants_update_stands after update on grants begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
    update join_links set standing = standing + 1 where id in (select id from join_links where calendar_id = new.calendar_id union select link_id from series_links where calendar_id = new.calendar_id);
end;

create trigger grants_delete_stands after delete on grants begin
    update calendars set standing = standing + 1 where id in (old.calendar_id);
    update join_links set standing = standing + 1 where id in (select id from join_links where calendar_id = old.calendar_id union select link_id from series_links where calendar_id = old.calendar_id);
end;

create trigger calendars_update_stands after update of kind, department_id, title, slug, description, mark_colour, mark_shape, zone, owner_id, version, revision, put_away_at, deleted_at on calendars begin
    update calendars set standing = standing + 1 where id in (new.id);
    update join_links set standing = standing + 1 where id in (select id from join_links where calendar_id = new.id union select link_id from series_links where calendar_id = new.id);
end;

create trigger join_links_insert_stands after insert on join_links begin
    update join_links set standing = standing + 1 where id in (new.id);
    update calendars set standing = standing + 1 where id in (select calendar_id from series_links where link_id = new.id union select new.calendar_id);
end;

create trigger join_links_update_stands after update of calendar_id, name, code, version, entry, audience, entry_word, shows_details, renews, reach, is_personal, is_shared, notes, ticked, withdrawn_at, hand on join_links begin
    update join_links set standing = standing + 1 where id in (new.id);
    update calendars set standing = standing + 1 where id in (select calendar_id from series_links where link_id = new.id union select new.calendar_id);
end;

create trigger join_targets_insert_stands after insert on join_targets begin
    update join_links set standing = standing + 1 where id in (new.link_id);
end;

create trigger join_targets_update_stands after update on join_targets begin
    update join_links set standing = standing + 1 where id in (old.link_id, new.link_id);
end;

create trigger join_targets_delete_stands after delete on join_targets begin
    update join_links set standing = standing + 1 where id in (old.link_id);
end;

create trigger join_hosts_insert_stands after insert on join_hosts begin
    update join_links set standing = standing + 1 where id in (new.link_id);
end;

create trigger join_hosts_update_stands after update on join_hosts begin
    update join_links set standing = standing + 1 where id in (old.link_id, new.link_id);
end;

create trigger join_hosts_delete_stands after delete on join_hosts begin
    update join_links set standing = standing + 1 where id in (old.link_id);
end;

create trigger outlets_insert_stands after insert on outlets begin
    update calendars set standing = standing + 1 where id in (new.calendar_id);
end;

create trigger outlets_update_stands after update of kind, calendar_id, name, level, descriptions, materials, join_links, sites, generation, token_hash, version, revoked_at, offered on outlets begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
end;

create trigger outlets_delete_stands after delete on outlets begin
    update calendars set standing = standing + 1 where id in (old.calendar_id);
end;

create trigger terms_insert_stands after insert on terms begin
    update school set standing = standing + 1;
end;

create trigger terms_update_stands after update on terms begin
    update school set standing = standing + 1;
end;

create trigger terms_delete_stands after delete on terms begin
    update school set standing = standing + 1;
end;

create trigger no_class_days_insert_stands after insert on no_class_days begin
    update school set standing = standing + 1;
end;

create trigger no_class_days_update_stands after update on no_class_days begin
    update school set standing = standing + 1;
end;

create trigger no_class_days_delete_stands after delete on no_class_days begin
    update school set standing = standing + 1;
end;

create trigger bell_schedules_insert_stands after insert on bell_schedules begin
    update school set standing = standing + 1;
end;

create trigger bell_schedules_update_stands after update on bell_schedules begin
    update school set standing = standing + 1;
end;

create trigger bell_schedules_delete_stands after delete on bell_schedules begin
    update school set standing = standing + 1;
end;

create trigger bell_periods_insert_stands after insert on bell_periods begin
    update school set standing = standing + 1;
end;

create trigger bell_periods_update_stands after update on bell_periods begin
    update school set standing = standing + 1;
end;

create trigger bell_periods_delete_stands after delete on bell_periods begin
    update school set standing = standing + 1;
end;

create trigger shortened_days_insert_stands after insert on shortened_days begin
    update school set standing = standing + 1;
end;

create trigger shortened_days_update_stands after update on shortened_days begin
    update school set standing = standing + 1;
end;

create trigger shortened_days_delete_stands after delete on shortened_days begin
    update school set standing = standing + 1;
end;

create trigger cycle_days_insert_stands after insert on cycle_days begin
    update school set standing = standing + 1;
end;

create trigger cycle_days_update_stands after update on cycle_days begin
    update school set standing = standing + 1;
end;

create trigger cycle_days_delete_stands after delete on cycle_days begin
    update school set standing = standing + 1;
end;

create trigger school_update_stands after update of name, zone, first_day_of_week, cycle_start, revision, month_first, twelve_hours on school begin
    update school set standing = standing + 1;
end;
