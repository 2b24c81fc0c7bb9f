-- A series that may not take place yet, and single sessions that differ from their series in that; null where they do not.
alter table series add column is_tentative integer not null default 0 check (is_tentative in (0, 1));
alter table changes add column is_tentative integer check (is_tentative in (0, 1));
