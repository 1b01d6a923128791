-- Incoming email is identified by its content, not by what it says of itself. What cannot be read is kept apart and shown.
alter table mails drop constraint mails_message_id_key;
alter table mails
    add content_hash bytea,
    add quarantined_why text,
    add claimed_until timestamptz;
update mails set content_hash = sha256(eml) where direction = 'in';
create unique index mails_in_once on mails (content_hash) where direction = 'in';

-- Where a user has signed in from before, so that a stranger's failures do not lock them out.
alter table sessions add address text;
create index sessions_user_address on sessions (user_id, address);
