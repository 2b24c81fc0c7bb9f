-- Local times are text as people said them; instants are UTC epoch milliseconds.

create table school (
    id                integer primary key check (id = 1),
    name              text    not null,
    zone              text    not null,
    first_day_of_week integer not null check (first_day_of_week between 1 and 7),
    cycle_start       text,
    revision          integer not null default 1,
    made_at           integer not null,
    changed_at        integer not null
) strict;

create table terms (
    id        integer primary key,
    year      text not null,
    name      text not null,
    first_day text not null,
    last_day  text not null check (last_day >= first_day)
) strict;

create table no_class_days (
    id        integer primary key,
    first_day text not null,
    last_day  text not null check (last_day >= first_day),
    name      text not null,
    kind      text not null check (kind in ('holiday', 'staffday', 'examination', 'weather'))
) strict;

create table bell_schedules (
    id         integer primary key,
    name       text    not null,
    is_regular integer not null check (is_regular in (0, 1))
) strict;
create unique index one_regular_schedule on bell_schedules (is_regular) where is_regular = 1;

create table bell_periods (
    schedule_id integer not null references bell_schedules (id) on delete cascade,
    position    integer not null,
    name        text    not null,
    starts      text    not null,
    ends        text    not null check (ends > starts),
    primary key (schedule_id, position),
    unique (schedule_id, name)
) strict, without rowid;

create table shortened_days (
    day         text    primary key,
    schedule_id integer not null references bell_schedules (id) on delete cascade
) strict, without rowid;

create table cycle_days (
    position integer primary key,
    name     text not null
) strict;

create table people (
    id              integer primary key,
    name            text    not null,
    email           text    not null collate nocase unique,
    role            text    not null check (role in ('coordinator', 'teacher', 'student', 'family')),
    password_hash   text,
    stamp           text    not null,
    made_at         integer not null,
    last_sign_in_at integer
) strict;

create table groups (
    id   integer primary key,
    name text not null unique,
    kind text not null check (kind in ('classlist', 'staff'))
) strict;

create table group_members (
    group_id  integer not null references groups (id) on delete cascade,
    person_id integer not null references people (id) on delete cascade,
    primary key (group_id, person_id)
) strict, without rowid;
create index groups_of_person on group_members (person_id, group_id);

create table calendars (
    id            integer primary key,
    kind          text    not null check (kind in ('class', 'department', 'school')),
    department_id integer references calendars (id),
    title         text    not null,
    slug          text    not null unique,
    description   text    not null,
    mark_colour   text    not null,
    mark_shape    text    not null,
    zone          text    not null,
    owner_id      integer not null references people (id),
    version       integer not null,
    revision      integer not null,
    changed_at    integer not null
) strict;

create table grants (
    id          integer primary key,
    calendar_id integer not null references calendars (id) on delete cascade,
    grantee     text    not null check (grantee in ('person', 'group', 'everyone', 'anyone')),
    person_id   integer references people (id) on delete cascade,
    group_id    integer references groups (id) on delete cascade,
    level       text    not null check (level in ('busy', 'outline', 'full', 'contributor', 'editor', 'manager')),
    check ((grantee = 'person') = (person_id is not null)),
    check ((grantee = 'group') = (group_id is not null))
) strict;
create unique index one_grant_each on grants (calendar_id, grantee, ifnull(person_id, 0), ifnull(group_id, 0));
create index grants_of_person on grants (person_id) where person_id is not null;
create index grants_of_group on grants (group_id) where group_id is not null;

create table join_links (
    id          integer primary key,
    calendar_id integer not null references calendars (id),
    name        text    not null,
    code        text    not null unique,
    version     integer not null,
    made_by     integer not null references people (id),
    made_at     integer not null,
    changed_at  integer not null
) strict;
create index join_links_of_calendar on join_links (calendar_id);

-- What is, and was, behind a link: the newest row leads there. Kept apart so that no list of links carries it along.
create table join_targets (
    id      integer primary key,
    link_id integer not null references join_links (id) on delete cascade,
    address text    not null,
    host    text    not null,
    set_by  integer not null references people (id),
    set_at  integer not null
) strict;
create index join_targets_of_link on join_targets (link_id, id);

-- The pattern is JSON, always read and written whole; the term it runs with stands beside it, so that a term in use is not lost.
create table series (
    id           integer primary key,
    calendar_id  integer not null references calendars (id),
    uid          text    not null unique,
    title        text    not null,
    description  text    not null,
    place        text    not null,
    pattern      text    not null check (json_valid(pattern)),
    term_id      integer references terms (id),
    number_label text    not null,
    first_number integer not null check (first_number >= 1),
    follows_id   integer references series (id),
    join_link_id integer references join_links (id),
    made_by      integer not null references people (id),
    version      integer not null,
    made_at      integer not null,
    changed_at   integer not null,
    deleted_at   integer
) strict;
create index series_of_calendar on series (calendar_id, deleted_at);
create index series_of_link on series (join_link_id) where join_link_id is not null;
create index series_of_term on series (term_id) where term_id is not null;

-- What people did to single sessions, known by their original local start.
create table changes (
    series_id integer not null references series (id) on delete cascade,
    original  text    not null,
    standing  text    not null check (standing in ('asplanned', 'cancelled', 'held')),
    day       text,
    time      text,
    title     text,
    place     text,
    note      text    not null,
    primary key (series_id, original)
) strict, without rowid;

create table materials (
    id            integer primary key,
    calendar_id   integer not null references calendars (id),
    series_id     integer not null references series (id),
    session_start text,
    key           text    not null unique,
    title         text    not null,
    address       text,
    content_hash  text,
    file_name     text,
    media_type    text,
    size          integer,
    audience      text    not null check (audience in ('anyone', 'people')),
    made_by       integer not null references people (id),
    made_at       integer not null,
    deleted_at    integer,
    check ((address is null) = (content_hash is not null))
) strict;
create index materials_of_calendar on materials (calendar_id, deleted_at);

-- Feeds and embeds. Tokens are found by their hash; the address itself is not stored.
create table outlets (
    id              integer primary key,
    kind            text    not null check (kind in ('feed', 'embed')),
    calendar_id     integer not null references calendars (id),
    name            text    not null,
    level           text    not null check (level in ('busy', 'outline', 'full')),
    descriptions    integer not null check (descriptions in (0, 1)),
    materials       integer not null check (materials in (0, 1)),
    join_links      integer not null check (join_links in (0, 1)),
    sites           text    not null,
    generation      integer not null,
    token_hash      blob    not null unique,
    version         integer not null,
    made_by         integer not null references people (id),
    made_at         integer not null,
    changed_at      integer not null,
    last_fetched_at integer,
    revoked_at      integer
) strict;
create index outlets_of_calendar on outlets (calendar_id, revoked_at);

-- Who did what, when. The states before and after are JSON; targets and tokens are never among them.
create table history (
    id          integer primary key,
    at          integer not null,
    person_id   integer not null references people (id),
    calendar_id integer references calendars (id),
    subject     text    not null,
    subject_id  integer not null,
    act         text    not null,
    summary     text    not null,
    before      text,
    after       text
) strict;
create index history_of_calendar on history (calendar_id, id);
