-- The heading that a material stands under, and by when it is to be done: a day, a day and a time, or "session": when its session starts.
alter table materials add column heading text not null default '';
alter table materials add column due text;
-- What somebody marked as done. Nobody else ever reads it, so it has no history.
create table done_materials (
    person_id integer not null references people (id) on delete cascade,
    material_id integer not null references materials (id) on delete cascade,
    done_at integer not null,
    primary key (person_id, material_id)
) without rowid;
create index done_materials_by_material on done_materials (material_id);
