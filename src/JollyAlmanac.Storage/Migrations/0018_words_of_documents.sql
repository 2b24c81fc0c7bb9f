-- Documents, slides and tables are read as PDFs are: in a process of its own, once each, after they came.
create trigger materials_insert_unread_document after insert on materials
    when new.words = '' and (new.media_type glob 'application/vnd.openxmlformats-officedocument.*'
        or new.media_type glob 'application/vnd.oasis.opendocument.*') begin
    insert or ignore into unread_files (content_hash) values (new.content_hash);
end;
create trigger materials_update_unread_document after update of content_hash on materials
    when new.content_hash is not old.content_hash and (new.media_type glob 'application/vnd.openxmlformats-officedocument.*'
        or new.media_type glob 'application/vnd.oasis.opendocument.*') begin
    insert or ignore into unread_files (content_hash) values (new.content_hash);
end;
