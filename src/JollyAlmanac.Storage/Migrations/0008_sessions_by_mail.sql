-- Who gets a calendar's sessions by mail, into a calendar of their own.
create table mailings (
    calendar_id integer not null references calendars (id) on delete cascade,
    person_id   integer not null references people (id),
    since       integer not null,
    -- How calendar, school and day stood when it was last looked at; empty to look again.
    looked_at   text    not null default '',
    primary key (calendar_id, person_id)
) strict, without rowid;
create index mailings_of_person on mailings (person_id);

-- What was sent of a series, so that each change is told once. Hashes, and what a cancellation must say.
create table mailed_series (
    id           integer primary key autoincrement,
    series_id    integer not null references series (id) on delete cascade,
    person_id    integer not null references people (id),
    title        text    not null,
    sequence     integer not null,
    times        text    not null,
    content      text    not null,
    ends_at      integer not null,
    cancelled_at integer,
    unique (series_id, person_id)
) strict;
create index mailed_series_of_person on mailed_series (person_id);

-- What they answered: about the whole series, or about one session, known as RECURRENCE-ID has it.
create table mail_answers (
    mailed_id integer not null references mailed_series (id) on delete cascade,
    session   text    not null default '',
    answer    text    not null check (answer in ('accepted', 'declined', 'tentative')),
    sequence  integer not null,
    stamp     integer not null,
    primary key (mailed_id, session)
) strict, without rowid;

-- Who somebody is, and in which groups, decides what they see: then it is looked at again.
create trigger people_update_mailings after update of name, email, role, ended_at on people begin
    update mailings set looked_at = '' where person_id = new.id;
end;
create trigger group_members_insert_mailings after insert on group_members begin
    update mailings set looked_at = '' where person_id = new.person_id;
end;
create trigger group_members_delete_mailings after delete on group_members begin
    update mailings set looked_at = '' where person_id = old.person_id;
end;
create trigger group_groups_insert_mailings after insert on group_groups begin
    update mailings set looked_at = '';
end;
create trigger group_groups_delete_mailings after delete on group_groups begin
    update mailings set looked_at = '';
end;

-- Which letter is about a thing: one that waits is not written twice.
create index letters_about on letters (kind, about_id);

-- All that a reading needs of the grants of many calendars, without their rows.
create index grants_of_calendar on grants (calendar_id, grantee, person_id, group_id, level, until);

-- How access stands: rises with each grant that is given, changed or ended, so that what somebody reaches is read once.
alter table school add column access integer not null default 1;
create trigger grants_insert_access after insert on grants begin
    update school set access = access + 1;
end;
create trigger grants_update_access after update on grants begin
    update school set access = access + 1;
end;
create trigger grants_delete_access after delete on grants begin
    update school set access = access + 1;
end;
