-- Each sign-in by itself, known by the hash of what its cookie carries: signing out ends it at once.
create table sign_ins (
    token_hash blob    primary key,
    person_id  integer not null references people (id) on delete cascade,
    ends_at    integer not null
) strict, without rowid;
create index sign_ins_of_person on sign_ins (person_id);

-- How the school writes 12 October in figures, and times.
alter table school add column month_first integer not null default 0 check (month_first in (0, 1));
alter table school add column twelve_hours integer not null default 0 check (twelve_hours in (0, 1));

-- A calendar that is put away is kept and hidden; one that is deleted can come back for a month.
alter table calendars add column put_away_at integer;
alter table calendars add column deleted_at integer;

-- Its address stands on the class page, for whoever may open that.
alter table outlets add column offered integer not null default 0 check (offered in (0, 1));
