-- A payment tells its payee by email which bills it pays. Where a factor is paid, the advice goes to the factor.
alter table emails drop constraint emails_purpose_check, add constraint emails_purpose_check
    check (purpose in ('other', 'rate_confirmation', 'invoice', 'statement', 'document_request', 'account', 'claim', 'remittance_advice'));
alter table remit_tos add email text check (length(email) <= 200);
alter table vendor_payments add email_id bigint references emails;
