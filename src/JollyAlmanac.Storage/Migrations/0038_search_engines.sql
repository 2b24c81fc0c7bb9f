-- Whether search engines may list the front page and the class pages that are open to anyone.
alter table school add column listed integer not null default 0 check (listed in (0, 1));
drop trigger school_update_stands;
create trigger school_update_stands after update of name, zone, first_day_of_week, cycle_start, revision, month_first, twelve_hours, help, passcode_days, front_page, listed on school begin
    update school set standing = standing + 1;
end;
