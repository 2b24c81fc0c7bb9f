-- How somebody reads times and dates; null for the school's way.
alter table people add column twelve_hours integer check (twelve_hours in (0, 1));
alter table people add column month_first integer check (month_first in (0, 1));
