-- On which sites an embed was shown, first and last. Not a part of how it stands.
create table embed_sites (
    outlet_id integer not null references outlets (id) on delete cascade,
    site      text    not null,
    first_at  integer not null,
    last_at   integer not null,
    primary key (outlet_id, site)
) strict, without rowid;
