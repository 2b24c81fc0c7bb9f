-- What to do, and whom to ask, where something does not work.
alter table school add column help text not null default '';

drop trigger school_update_stands;
create trigger school_update_stands after update of name, zone, first_day_of_week, cycle_start, revision, month_first, twelve_hours, help on school begin
    update school set standing = standing + 1;
end;
