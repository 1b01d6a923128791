-- Rows found by their load, stop or leg.
create index emails_load on emails (load_id, id) where load_id is not null;
create index reports_stop on reports (stop_id, id) where stop_id is not null;
create index holds_load on holds (load_id);
create index invoice_lines_load on invoice_lines (load_id);
create index invoice_lines_charge on invoice_lines (charge_id) where charge_id is not null;
create index bill_lines_load on bill_lines (load_id) where load_id is not null;
create index settlement_lines_leg on settlement_lines (leg_id) where leg_id is not null;
create index documents_email on documents (email_id) where email_id is not null;
create index pay_items_load on pay_items (load_id) where load_id is not null;

-- Old keys and sessions are purged.
create index idempotency_keys_at on idempotency_keys (at);
create index if not exists sessions_ends on sessions (ends_at);

-- The books are in US dollars.
alter table loads add constraint loads_in_usd check (currency = 'USD');
alter table charges add constraint charges_in_usd check (currency = 'USD');
alter table invoices add constraint invoices_in_usd check (currency = 'USD');
alter table bills add constraint bills_in_usd check (currency = 'USD');
alter table payments add constraint payments_in_usd check (currency = 'USD');
alter table entry_lines add constraint entry_lines_in_usd check (currency = 'USD');

-- Totals equal their lines, checked when the transaction commits.
create function invoice_equals_lines() returns trigger language plpgsql as $$
declare
    the_invoice bigint := case tg_table_name when 'invoices' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'invoice_id')::bigint end;
begin
    if (select total from invoices where id = the_invoice) <> (select coalesce(sum(amount), 0) from invoice_lines where invoice_id = the_invoice) then
        raise exception 'The lines of invoice % do not add up to its total', the_invoice using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger invoice_equals_lines after insert or update of total on invoices deferrable initially deferred for each row execute function invoice_equals_lines();
create constraint trigger invoice_equals_lines after insert or update or delete on invoice_lines deferrable initially deferred for each row execute function invoice_equals_lines();

create function revenue_equals_charges() returns trigger language plpgsql as $$
declare
    the_load bigint := case tg_table_name when 'loads' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'load_id')::bigint end;
begin
    if (select revenue from loads where id = the_load) <> (select coalesce(sum(amount), 0) from charges where load_id = the_load) then
        raise exception 'The charges of load % do not add up to its revenue', the_load using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger revenue_equals_charges after insert or update of revenue on loads deferrable initially deferred for each row execute function revenue_equals_charges();
create constraint trigger revenue_equals_charges after insert or update or delete on charges deferrable initially deferred for each row execute function revenue_equals_charges();

create function settlement_equals_lines() returns trigger language plpgsql as $$
declare
    s settlements;
begin
    select * into s from settlements where id = new.id;
    if s.earned <> (select coalesce(sum(amount), 0) from settlement_lines where settlement_id = s.id)
        or s.reimbursed <> (select coalesce(sum(amount), 0) from settlement_reimbursements where settlement_id = s.id)
        or s.deducted <> (select coalesce(sum(amount), 0) from settlement_deductions where settlement_id = s.id)
                       + (select coalesce(sum(amount), 0) from advance_deductions where settlement_id = s.id)
        or s.net <> s.earned + s.reimbursed - s.deducted + s.carried_over then
        raise exception 'The lines of settlement % do not add up to its amounts', s.id using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger settlement_equals_lines after insert or update of earned, reimbursed, deducted, net, carried_over on settlements
    deferrable initially deferred for each row execute function settlement_equals_lines();

-- A bill keeps the amount that its lines add up to.
create constraint trigger bill_amount_kept after update of amount on bills deferrable initially deferred for each row execute function bill_lines_sum();
