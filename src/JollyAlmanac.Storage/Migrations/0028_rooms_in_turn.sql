-- Further rooms behind a link: with the room of the link they take turns, a session each.
create table rooms_in_turn (
    link_id  integer not null references join_links (id) on delete cascade,
    -- From 1; the link's own room is 0.
    position integer not null check (position >= 1),
    address  text    not null,
    host     text    not null,
    primary key (link_id, position)
) strict, without rowid;
create trigger rooms_in_turn_insert_stands after insert on rooms_in_turn begin
    update join_links set standing = standing + 1 where id = new.link_id;
end;
create trigger rooms_in_turn_delete_stands after delete on rooms_in_turn begin
    update join_links set standing = standing + 1 where id = old.link_id;
end;
-- Which room a session has of those that take turns; null for a room that is of no turn.
alter table join_targets add column turn integer;
