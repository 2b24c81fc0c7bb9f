-- PDFs whose words are still to be read, once each: reading one takes longer than anybody should wait who attaches it.
create table unread_files (
    content_hash text primary key
) strict, without rowid;
insert or ignore into unread_files (content_hash)
    select content_hash from materials where media_type = 'application/pdf' and content_hash is not null;

create trigger materials_insert_unread after insert on materials when new.media_type = 'application/pdf' and new.words = '' begin
    insert or ignore into unread_files (content_hash) values (new.content_hash);
end;
create trigger materials_update_unread after update of content_hash on materials
    when new.media_type = 'application/pdf' and new.content_hash is not old.content_hash begin
    insert or ignore into unread_files (content_hash) values (new.content_hash);
end;
