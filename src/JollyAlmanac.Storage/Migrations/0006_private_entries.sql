-- For others than its maker and those who may change everything, only that the time is taken.
alter table series add column is_private integer not null default 0 check (is_private in (0, 1));
