-- A door that opens once a host is in, and some lines for whoever enters by it.
alter table join_links add column waits_for_host integer not null default 0;
alter table join_links add column what_to_do text not null default '';
-- Whom to ask where something of the calendar does not work.
alter table calendars add column contact text not null default '';
-- When a host first came to a session by a link.
create table host_arrivals (
    link_id    integer not null references join_links (id) on delete cascade,
    series_id  integer not null references series (id) on delete cascade,
    original   text    not null,
    arrived_at integer not null,
    primary key (link_id, series_id, original)
) strict, without rowid;
create index host_arrivals_by_series on host_arrivals (series_id);
create trigger host_arrivals_insert_stands after insert on host_arrivals begin
    update join_links set standing = standing + 1 where id = new.link_id;
end;
