-- A group that holds whoever has a role in the school, and nobody else: what the office looks after is the office's, not one person's.
create table role_groups (
    role     text    not null primary key,
    group_id integer not null unique references groups (id)
) strict;

insert into groups (name, kind)
    select case when exists (select 1 from groups where name = 'Coordinators' collate nocase)
            then 'Coordinators of the school' else 'Coordinators' end, 'staff'
        where exists (select 1 from school);
insert into role_groups (role, group_id) select 'coordinator', id from groups where exists (select 1 from school) order by id desc limit 1;
insert or ignore into group_words (word, group_id) select 'coordinators', group_id from role_groups;
insert into group_members (group_id, person_id)
    select group_id, people.id from role_groups join people on people.role = role_groups.role where people.ended_at is null;

create trigger people_insert_role_group after insert on people begin
    insert or ignore into group_members (group_id, person_id) select group_id, new.id from role_groups where role = new.role;
end;
create trigger people_update_role_group after update of role, ended_at on people begin
    delete from group_members where person_id = new.id and group_id in (select group_id from role_groups where role is not new.role);
    insert or ignore into group_members (group_id, person_id)
        select group_id, new.id from role_groups where role = new.role and new.ended_at is null;
end;
create trigger role_groups_insert after insert on role_groups begin
    insert or ignore into group_members (group_id, person_id)
        select new.group_id, id from people where role = new.role and ended_at is null;
end;
