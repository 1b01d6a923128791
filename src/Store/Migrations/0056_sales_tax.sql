-- GST and HST on invoices for freight within Canada.
insert into accounts (code, name, kind) select '2400', 'GST/HST payable', 'liability'
    where exists (select 1 from accounts where code = '5000') on conflict (code) do nothing;

create table invoice_taxes (
    invoice_id bigint not null references invoices,
    seq integer not null,
    name text not null,
    percent numeric(6, 3) not null check (percent > 0),
    taxed numeric(12, 2) not null check (taxed > 0),
    amount numeric(12, 2) not null check (amount > 0),
    primary key (invoice_id, seq)
);
alter table invoice_taxes enable row level security;
grant select, insert on invoice_taxes to lark_app;
grant select on invoice_taxes to lark_limited;
create policy unlimited on invoice_taxes to lark_app using (true) with check (true);
create policy limited on invoice_taxes for select to lark_limited using (exists (select 1 from invoices i where i.id = invoice_id));
alter table invoices add column tax numeric(12, 2) not null default 0 check (tax >= 0 and tax <= total);

-- The tax within a write-off or a credit memo.
alter table payment_applications add column tax numeric(12, 2) not null default 0 check (tax >= 0 and tax <= write_off);
alter table payments add column tax numeric(12, 2) not null default 0 check (tax >= 0 and (tax = 0 or memo_invoice_id is not null));

create or replace function invoice_equals_lines() returns trigger language plpgsql as $$
declare
    the_invoice bigint := case tg_table_name when 'invoices' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'invoice_id')::bigint end;
begin
    -- An opening balance has no lines, and may have none.
    if (select case when is_opening then 0 else total - tax end from invoices where id = the_invoice)
        <> (select coalesce(sum(amount), 0) from invoice_lines where invoice_id = the_invoice) then
        raise exception 'The lines of invoice % do not add up to its total', the_invoice using errcode = 'LK002';
    end if;
    if (select tax from invoices where id = the_invoice) <> (select coalesce(sum(amount), 0) from invoice_taxes where invoice_id = the_invoice) then
        raise exception 'The taxes of invoice % do not add up', the_invoice using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger invoice_equals_taxes after insert or update or delete on invoice_taxes deferrable initially deferred
    for each row execute function invoice_equals_lines();
