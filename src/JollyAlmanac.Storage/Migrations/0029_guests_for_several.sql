-- The last day of a guest's sessions, of the same series; null for one session.
alter table guest_links add column until text;
