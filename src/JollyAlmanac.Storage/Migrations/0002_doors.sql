-- The door of a join link: when it is open, to whom, and what somebody did to it by hand.
alter table join_links add column entry text not null default '10 20';
alter table join_links add column audience text not null default 'anyone' check (audience in ('anyone', 'school', 'peopleofthecalendar'));
alter table join_links add column entry_word text not null default '';
alter table join_links add column shows_details integer not null default 0 check (shows_details in (0, 1));
alter table join_links add column renews integer not null default 0 check (renews in (0, 1));
alter table join_links add column reach text not null default '';
alter table join_links add column is_personal integer not null default 0 check (is_personal in (0, 1));
alter table join_links add column is_shared integer not null default 0 check (is_shared in (0, 1));
alter table join_links add column notes text not null default '';
alter table join_links add column ticked text not null default '[]' check (json_valid(ticked));
alter table join_links add column withdrawn_at integer;
alter table join_links add column hand text check (hand is null or json_valid(hand));

-- Every short address that was ever given out; an older one of a link leads to it still, and none is given out again.
create table join_codes (
    code    text    primary key,
    link_id integer not null references join_links (id)
) strict, without rowid;
insert into join_codes (code, link_id) select code, id from join_links;

-- A target with a session is that session's own room; the newest without one leads all others.
alter table join_targets add column meeting_id text not null default '';
alter table join_targets add column passcode text not null default '';
alter table join_targets add column passcode_inside integer not null default 0 check (passcode_inside in (0, 1));
alter table join_targets add column dial_in text not null default '[]' check (json_valid(dial_in));
alter table join_targets add column provider text not null default '';
alter table join_targets add column room text not null default '';
alter table join_targets add column series_id integer references series (id);
alter table join_targets add column original text;
alter table join_targets add column tested_at integer;
alter table join_targets add column test_said text not null default '';
alter table join_targets add column closed_at integer;
create index join_targets_of_session on join_targets (link_id, series_id, original) where series_id is not null;
create index join_targets_of_room on join_targets (room) where room <> '';

create table join_hosts (
    link_id   integer not null references join_links (id) on delete cascade,
    person_id integer not null references people (id),
    primary key (link_id, person_id)
) strict, without rowid;

-- A guest link: one session, then it is dead. The token is derived from the installation's secret; only its hash is kept.
create table guest_links (
    id         integer primary key,
    link_id    integer not null references join_links (id) on delete cascade,
    series_id  integer not null references series (id),
    original   text    not null,
    token_hash blob    not null unique,
    made_by    integer not null references people (id),
    made_at    integer not null,
    revoked_at integer
) strict;
create index guest_links_of_link on guest_links (link_id);

-- The school's checklist for rooms, one line an entry, in order.
create table room_checks (
    position integer primary key,
    name     text not null unique
) strict;
insert into room_checks (position, name) values (1, 'Waiting area on'), (2, 'Sound off on entry'), (3, 'Only hosts share their screen'), (4, 'Recording allowed'), (5, 'Nobody enters before the host');

-- Who was in a session's room, as its provider told when the meeting ended.
create table attendance (
    id        integer primary key,
    series_id integer not null references series (id),
    original  text    not null,
    name      text    not null,
    entered   integer not null,
    minutes   integer not null
) strict;
create index attendance_of_session on attendance (series_id, original);

alter table changes add column link_id integer references join_links (id);
alter table changes add column entry text;
alter table materials add column is_recording integer not null default 0 check (is_recording in (0, 1));
