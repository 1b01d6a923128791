-- What an email of ours is for decides who may read it.
alter table mails add column purpose text not null default 'other'
    check (purpose in ('other', 'rate_confirmation', 'invoice', 'statement', 'document_request', 'account'));
update mails set purpose = case
    when subject like 'Rate confirmation%' or subject like 'Load % canceled' then 'rate_confirmation'
    when id in (select mail_id from invoices where mail_id is not null) or subject like 'Invoice %' then 'invoice'
    when subject like 'Statement%' then 'statement'
    when subject like '%document%' then 'document_request'
    else 'other' end
where direction = 'out';
