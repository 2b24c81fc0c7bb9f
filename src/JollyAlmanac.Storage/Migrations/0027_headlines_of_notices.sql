-- What a notice is told by; empty where its first line does.
alter table notices add column headline text not null default '';
