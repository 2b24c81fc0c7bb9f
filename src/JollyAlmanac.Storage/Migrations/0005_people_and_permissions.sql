-- People who need no address, guests, who has left, and what a list knew them by. The table is made anew for its checks; references
-- are not enforced while a migration runs.
create table people_anew (
    id              integer primary key,
    name            text    not null,
    email           text    collate nocase unique,
    role            text    not null check (role in ('coordinator', 'teacher', 'student', 'family', 'guest')),
    password_hash   text,
    stamp           text    not null,
    made_at         integer not null,
    last_sign_in_at integer,
    version         integer not null default 1,
    source          text    unique,
    ended_at        integer,
    erased_at       integer,
    -- The second factor: its key is made from the installation's secret and this number; none where it is 0.
    factor          integer not null default 0,
    factor_since    integer,
    factor_step     integer not null default 0
) strict;
insert into people_anew (id, name, email, role, password_hash, stamp, made_at, last_sign_in_at)
    select id, name, email, role, password_hash, stamp, made_at, last_sign_in_at from people;
drop table people;
alter table people_anew rename to people;

create table groups_anew (
    id       integer primary key,
    name     text not null unique,
    kind     text not null check (kind in ('classlist', 'section', 'department', 'staff')),
    source   text unique,
    version  integer not null default 1
) strict;
insert into groups_anew (id, name, kind) select id, name, kind from groups;
drop table groups;
alter table groups_anew rename to groups;

-- A group may hold groups.
create table group_groups (
    group_id integer not null references groups (id) on delete cascade,
    child_id integer not null references groups (id) on delete cascade,
    primary key (group_id, child_id),
    check (group_id <> child_id)
) strict, without rowid;
create index groups_of_group on group_groups (child_id, group_id);

-- The words by which people and groups are found, accents and case apart; the almanac writes them.
create table person_words (
    word      text    not null,
    person_id integer not null references people (id) on delete cascade,
    primary key (word, person_id)
) strict, without rowid;
create index words_of_person on person_words (person_id);
create table group_words (
    word     text    not null,
    group_id integer not null references groups (id) on delete cascade,
    primary key (word, group_id)
) strict, without rowid;
create index words_of_group on group_words (group_id);

alter table grants add column until text;
alter table grants add column given_by integer references people (id);
create index grants_that_end on grants (until) where until is not null;

-- One-time ways in: an invitation, or a new password. The token is made from the installation's secret; only its hash is kept.
create table invitations (
    id           integer primary key,
    person_id    integer not null references people (id) on delete cascade,
    purpose      text    not null check (purpose in ('join', 'reset')),
    generation   integer not null,
    token_hash   blob    not null unique,
    made_by      integer references people (id),
    made_at      integer not null,
    ends_at      integer not null,
    used_at      integer,
    withdrawn_at integer
) strict;
create index invitations_of_person on invitations (person_id, purpose);

-- Letters that are to go out, and that went. Their text is made when they go, from how things stand then.
create table letters (
    id            integer primary key,
    kind          text    not null,
    person_id     integer not null references people (id),
    about_id      integer not null,
    made_at       integer not null,
    due_at        integer not null,
    tries         integer not null default 0,
    sent_at       integer,
    given_up_at   integer,
    not_needed_at integer,
    problem       text    not null default ''
) strict;
create index letters_due on letters (due_at) where sent_at is null and given_up_at is null and not_needed_at is null;

-- Somebody asks the keepers of a calendar for access.
create table access_requests (
    id          integer primary key,
    calendar_id integer not null references calendars (id) on delete cascade,
    person_id   integer not null references people (id) on delete cascade,
    level       text    not null,
    why         text    not null,
    made_at     integer not null,
    answered_at integer,
    answered_by integer references people (id),
    given       text
) strict;
create unique index one_open_request on access_requests (calendar_id, person_id) where answered_at is null;

alter table sign_ins add column made_at integer;
alter table sign_ins add column browser text not null default '';
-- Whom somebody looks as, while they do: "person 5", "group 4", "stranger"; and the calendar they came from.
alter table sign_ins add column looks_as text;
alter table sign_ins add column looks_from text;

create table recovery_codes (
    person_id integer not null references people (id) on delete cascade,
    code_hash blob    not null,
    primary key (person_id, code_hash)
) strict, without rowid;

-- A list that is being reviewed before it is taken in; gone after a day.
create table bring_ins (
    id      integer primary key,
    made_by integer not null references people (id) on delete cascade,
    made_at integer not null,
    content text    not null check (json_valid(content))
) strict;

alter table calendars add column shows_list integer not null default 0 check (shows_list in (0, 1));
create index history_of_person on history (person_id, id);
