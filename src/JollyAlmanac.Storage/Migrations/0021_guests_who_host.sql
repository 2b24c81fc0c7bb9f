-- A guest who leads a session enters as its host.
alter table guest_links add column is_host integer not null default 0 check (is_host in (0, 1));
