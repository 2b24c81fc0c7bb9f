-- Materials of a whole calendar, too; what is said of them, in which order they stand, and when they are given. References are not
-- enforced while a migration runs.
create table materials_anew (
    id            integer primary key,
    calendar_id   integer not null references calendars (id),
    series_id     integer references series (id),
    session_start text,
    key           text    not null unique,
    title         text    not null,
    note          text    not null default '',
    address       text,
    content_hash  text,
    file_name     text,
    media_type    text,
    size          integer,
    audience      text    not null check (audience in ('anyone', 'people')),
    only_for      text,
    is_recording  integer not null default 0 check (is_recording in (0, 1)),
    position      integer not null default 0,
    release       text    not null default 'now',
    last_day      text,
    version       integer not null default 1,
    edition       integer not null default 1,
    words         text    not null default '',
    made_by       integer not null references people (id),
    made_at       integer not null,
    deleted_at    integer,
    check ((address is null) = (content_hash is not null)),
    check (series_id is not null or session_start is null)
) strict;
insert into materials_anew (id, calendar_id, series_id, session_start, key, title, address, content_hash, file_name, media_type, size, audience,
        only_for, is_recording, made_by, made_at, deleted_at)
    select id, calendar_id, series_id, session_start, key, title, address, content_hash, file_name, media_type, size, audience,
        only_for, is_recording, made_by, made_at, deleted_at from materials;
drop table materials;
alter table materials_anew rename to materials;
create index materials_of_calendar on materials (calendar_id, deleted_at);
create index materials_by_hash on materials (content_hash) where content_hash is not null;
create index materials_taken_off on materials (deleted_at) where deleted_at is not null;

create trigger materials_insert_stands after insert on materials begin
    update calendars set standing = standing + 1 where id in (new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = new.series_id);
end;
create trigger materials_update_stands after update of calendar_id, series_id, session_start, key, title, note, address, content_hash, file_name, media_type, size, audience, only_for, is_recording, position, release, last_day, version, edition, deleted_at on materials begin
    update calendars set standing = standing + 1 where id in (old.calendar_id, new.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id in (old.series_id, new.series_id));
end;
create trigger materials_delete_stands after delete on materials begin
    update calendars set standing = standing + 1 where id in (old.calendar_id);
    update join_links set standing = standing + 1 where id in (select link_id from series_links where series_id = old.series_id);
end;

-- What a material was before it was replaced.
create table editions (
    material_id  integer not null references materials (id) on delete cascade,
    edition      integer not null,
    address      text,
    content_hash text,
    file_name    text,
    media_type   text,
    size         integer,
    replaced_by  integer not null references people (id),
    replaced_at  integer not null,
    primary key (material_id, edition),
    check ((address is null) = (content_hash is not null))
) strict, without rowid;
create index editions_by_hash on editions (content_hash) where content_hash is not null;

-- Files on their way in: sent whole or in parts, and not yet attached to anything.
create table uploads (
    id           integer primary key,
    key          text    not null unique,
    person_id    integer not null references people (id) on delete cascade,
    calendar_id  integer not null references calendars (id) on delete cascade,
    file_name    text    not null,
    size         integer not null,
    content_hash text,
    media_type   text,
    words        text    not null default '',
    touched_at   integer not null
) strict;
create index uploads_of_person on uploads (person_id, calendar_id);
create index uploads_by_touch on uploads (touched_at);

-- Files in the vault that nothing refers to any more, and since when: their bytes go after a time of grace.
create table unused_files (
    content_hash text    primary key,
    since        integer not null
) strict, without rowid;

-- Whose family somebody is, and when they last looked at their own page: the look before this one says what is new.
create table families (
    family_id integer not null references people (id) on delete cascade,
    child_id  integer not null references people (id) on delete cascade,
    primary key (family_id, child_id)
) strict, without rowid;
create index families_of on families (child_id);
create table own_looks (
    person_id integer primary key references people (id) on delete cascade,
    since     integer,
    looked_at integer not null
) strict;

-- How the school has it with recordings: given at once, or with a word of the keeper.
alter table school add column recordings_wait integer not null default 0 check (recordings_wait in (0, 1));

-- What is found by words, accents and case apart. Of materials and series that are there alone.
create virtual table found_materials using fts5 (title, note, name, words, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
create virtual table found_series using fts5 (title, description, place, words, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
insert into found_materials (rowid, title, note, name, words)
    select id, title, note, coalesce(file_name, address, ''), words from materials where deleted_at is null;
insert into found_series (rowid, title, description, place, words)
    select s.id, s.title, s.description, s.place, coalesce((select group_concat(coalesce(c.title, '') || ' ' || coalesce(c.place, '') || ' ' || c.note, ' ') from changes c where c.series_id = s.id), '')
    from series s where s.deleted_at is null;

create trigger materials_insert_found after insert on materials when new.deleted_at is null begin
    insert into found_materials (rowid, title, note, name, words) values (new.id, new.title, new.note, coalesce(new.file_name, new.address, ''), new.words);
end;
create trigger materials_update_found after update of title, note, file_name, address, words, deleted_at on materials begin
    delete from found_materials where rowid = old.id;
    insert into found_materials (rowid, title, note, name, words)
        select new.id, new.title, new.note, coalesce(new.file_name, new.address, ''), new.words where new.deleted_at is null;
end;
create trigger materials_delete_found after delete on materials begin
    delete from found_materials where rowid = old.id;
end;
create trigger series_insert_found after insert on series when new.deleted_at is null begin
    insert into found_series (rowid, title, description, place, words) values (new.id, new.title, new.description, new.place, '');
end;
create trigger series_update_found after update of title, description, place, deleted_at on series
    when old.title is not new.title or old.description is not new.description or old.place is not new.place or old.deleted_at is not new.deleted_at begin
    delete from found_series where rowid = old.id;
    insert into found_series (rowid, title, description, place, words)
        select new.id, new.title, new.description, new.place, coalesce((select group_concat(coalesce(c.title, '') || ' ' || coalesce(c.place, '') || ' ' || c.note, ' ') from changes c where c.series_id = new.id), '')
        where new.deleted_at is null;
end;
create trigger series_delete_found after delete on series begin
    delete from found_series where rowid = old.id;
end;
