-- Whom a line of the history names beside its doer and its subject, so that a person who is erased is found by their id and not by
-- letters of their name, which others may have in theirs.
create table history_people (
    history_id integer not null references history (id),
    person_id  integer not null references people (id),
    primary key (history_id, person_id)
) strict, without rowid;
create index history_people_of_person on history_people (person_id);
create index history_of_subject on history (subject, subject_id);

-- Lines that were written before name somebody as a whole word, and nobody else whose name holds it.
insert into history_people (history_id, person_id)
select h.id, p.id from history h join people p
    on instr(' ' || replace(h.summary, ',', ' ') || ' ', ' ' || p.name || ' ') > 0
where h.act in ('GiveAccess', 'EndAccess', 'HandOver', 'AnswerRequest', 'LookAs', 'LookAsAnybody', 'EndPerson', 'SetChildren', 'ChangeGroup')
    and p.name <> '' and not exists (
        select 1 from people longer where longer.id <> p.id and instr(longer.name, p.name) > 0 and instr(h.summary, longer.name) > 0);
