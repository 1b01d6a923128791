-- Invoices that another system issued and that were open when the books began here: they have no loads and no lines.
alter table invoices add column is_opening boolean not null default false;
insert into accounts (code, name, kind) select '3900', 'Opening balances', 'equity'
    where exists (select 1 from accounts where code = '5000') on conflict (code) do nothing;
update accounts set name = 'Customer deposits and unapplied payments' where code = '2300' and name = 'Unapplied payments';
alter table payments drop constraint payments_method_check;
alter table payments add constraint payments_method_check check (method in
    ('check', 'ach', 'wire', 'card', 'cash', 'credit_memo', 'opening_balance'));
create or replace function invoice_equals_lines() returns trigger language plpgsql as $$
declare
    the_invoice bigint := case tg_table_name when 'invoices' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'invoice_id')::bigint end;
begin
    -- An opening balance has no lines, and may have none.
    if (select case when is_opening then 0 else total end from invoices where id = the_invoice)
        <> (select coalesce(sum(amount), 0) from invoice_lines where invoice_id = the_invoice) then
        raise exception 'The lines of invoice % do not add up to its total', the_invoice using errcode = 'LK002';
    end if;
    return null;
end $$;
