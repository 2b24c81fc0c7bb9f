-- A day without class takes out what was moved onto it, unless somebody said that it meets all the same. What stands on one now was
-- meant to.
update changes set standing = 'held'
where day is not null and standing = 'asplanned'
    and exists (select 1 from no_class_days where changes.day between no_class_days.first_day and no_class_days.last_day);
