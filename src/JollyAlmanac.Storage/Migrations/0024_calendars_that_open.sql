-- The day from which a calendar is seen by those who do not work on it; null where it is open.
alter table calendars add column opens_on text;
create index calendars_that_open on calendars (opens_on) where opens_on is not null;
create trigger calendars_open_access after update of opens_on on calendars begin
    update school set access = access + 1;
end;
