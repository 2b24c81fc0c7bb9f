-- When a room that was opened at once ends by itself; null for links that stay.
alter table join_links add column ends_at integer;
create index join_links_that_end on join_links (ends_at) where ends_at is not null and withdrawn_at is null;
