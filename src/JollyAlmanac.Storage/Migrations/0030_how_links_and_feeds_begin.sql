-- How a new join link begins, as columns of join_links have it; an audience of null is that of its calendar. And how many minutes before
-- a session a new feed reminds; null for not at all.
alter table school add column new_link_entry text not null default '10 20';
alter table school add column new_link_audience text;
alter table school add column new_feed_reminder integer default 15;
-- Two more lines where the school has not changed its checklist.
insert into room_checks (position, name)
    select column1, column2 from (values (6, 'Cameras as agreed'), (7, 'Chat as agreed'))
    where (select group_concat(name, '|') from (select name from room_checks order by position))
        = 'Waiting area on|Sound off on entry|Only hosts share their screen|Recording allowed|Nobody enters before the host';
