-- Whether a stranger finds the classes that are open to anyone at the almanac's first address.
alter table school add column front_page integer not null default 0 check (front_page in (0, 1));
drop trigger school_update_stands;
create trigger school_update_stands after update of name, zone, first_day_of_week, cycle_start, revision, month_first, twelve_hours, help, passcode_days, front_page on school begin
    update school set standing = standing + 1;
end;
