-- A vendor is paid for several bills at once, and a bill in parts. Quick pay and pay when paid are terms of the vendor.
alter table companies
    add quick_pay_percent numeric(5, 2) check (quick_pay_percent > 0 and quick_pay_percent <= 15),
    add quick_pay_days int not null default 1 check (quick_pay_days between 0 and 14),
    add pay_when_paid boolean not null default false;

insert into accounts (code, name, kind, parent) select '5010', 'Quick-pay discounts', 'expense', code from accounts where code = '5000'
    on conflict (code) do nothing;

create table payment_batches (
    id bigint generated always as identity primary key,
    paid_on date not null,
    method text not null check (method in ('check', 'ach', 'wire', 'card', 'cash')),
    made_by bigint references users,
    made_at timestamptz not null
);

-- One check or ACH credit.
create table vendor_payments (
    id bigint generated always as identity primary key,
    batch_id bigint not null references payment_batches,
    vendor_id bigint not null references companies,
    payee text not null,
    paid_on date not null,
    posted_on date not null,
    method text not null check (method in ('check', 'ach', 'wire', 'card', 'cash')),
    reference text,
    amount numeric(12, 2) not null check (amount > 0),
    paid_by bigint references users,
    paid_at timestamptz not null,
    reversed_at timestamptz
);
create index vendor_payments_vendor on vendor_payments (vendor_id, id);
create index vendor_payments_batch on vendor_payments (batch_id);

create table bill_payments (
    payment_id bigint not null references vendor_payments,
    bill_id bigint not null references bills,
    amount numeric(12, 2) not null check (amount > 0),
    discount numeric(12, 2) not null default 0 check (discount >= 0),
    standing boolean not null default true,
    primary key (payment_id, bill_id)
);
create index bill_payments_bill on bill_payments (bill_id);

-- A bill's quick pay is agreed with its approval.
alter table bills
    add paid numeric(12, 2) not null default 0,
    add quick_pay_discount numeric(12, 2) not null default 0 check (quick_pay_discount >= 0),
    add quick_pay_on date,
    add constraint bills_quick_pay check (quick_pay_on is not null or quick_pay_discount = 0),
    add constraint bills_quick_pay_approved check (quick_pay_on is null or (approved is not null and quick_pay_discount < approved));

-- A payment of one bill keeps the bill's key, as its ledger entry does.
insert into payment_batches (id, paid_on, method, made_by, made_at) overriding system value
    select id, paid_on, paid_method, paid_by, coalesce(approved_at, entered_at) from bills where paid_on is not null and not is_expense;
insert into vendor_payments (id, batch_id, vendor_id, payee, paid_on, posted_on, method, reference, amount, paid_by, paid_at)
    overriding system value
    select b.id, b.id, b.vendor_id, c.name, b.paid_on,
        coalesce((select max(e.posted_on) from entries e where e.source = 'bill_payment' and e.source_id = b.id and e.reverses_id is null),
            b.paid_on),
        b.paid_method, b.paid_reference, b.approved, b.paid_by, coalesce(b.approved_at, b.entered_at)
    from bills b join companies c on c.id = b.vendor_id where b.paid_on is not null and not b.is_expense;
insert into bill_payments (payment_id, bill_id, amount)
    select id, id, approved from bills where paid_on is not null and not is_expense;
update bills set paid = approved where paid_on is not null and not is_expense;
select setval(pg_get_serial_sequence('payment_batches', 'id'), greatest((select max(id) from bills), 1));
select setval(pg_get_serial_sequence('vendor_payments', 'id'), greatest((select max(id) from bills), 1));

alter table bills
    add constraint bills_paid check (paid >= 0 and (paid = 0 or paid <= approved)),
    add constraint bills_paid_in_full check (is_expense or (paid_on is not null) = (paid > 0 and paid = approved));

create function keep_bill_paid() returns trigger language plpgsql as $$
declare
    changed bill_payments := case when tg_op = 'DELETE' then old else new end;
    settled numeric := 0;
    payment vendor_payments;
    bill bills;
begin
    if tg_op = 'DELETE' or (tg_op = 'UPDATE' and (new.payment_id, new.bill_id, new.amount, new.discount)
        is distinct from (old.payment_id, old.bill_id, old.amount, old.discount)) then
        raise exception 'A payment is reversed by marking it, not by changing it' using errcode = 'LK001';
    end if;
    settled := case when new.standing then new.amount + new.discount else 0 end
        - case when tg_op = 'UPDATE' and old.standing then old.amount + old.discount else 0 end;
    select * into payment from vendor_payments where id = changed.payment_id;
    select * into bill from bills where id = changed.bill_id for update;
    if bill.vendor_id <> payment.vendor_id then
        raise exception 'A payment is for bills of its own vendor' using errcode = 'LK002';
    end if;
    if new.standing and payment.paid_by = bill.approved_by and (select two_person_approval from business) then
        raise exception 'Who approved does not pay' using errcode = 'LK005';
    end if;
    if bill.paid + settled = bill.approved then
        update bills set paid = paid + settled, paid_on = payment.paid_on, paid_method = payment.method, paid_reference = payment.reference,
            paid_by = payment.paid_by where id = bill.id;
    else
        update bills set paid = paid + settled, paid_on = null, paid_method = null, paid_reference = null, paid_by = null where id = bill.id;
    end if;
    return null;
end $$;
create trigger keep_bill_paid after insert or update or delete on bill_payments for each row execute function keep_bill_paid();

-- A payment's parts add up to it.
create function vendor_payment_sum() returns trigger language plpgsql as $$
declare
    the_payment bigint := coalesce(to_jsonb(new) ->> 'payment_id', to_jsonb(new) ->> 'id')::bigint;
begin
    if (select amount from vendor_payments where id = the_payment)
        <> (select coalesce(sum(amount), 0) from bill_payments where payment_id = the_payment) then
        raise exception 'The parts of payment % do not come to its amount', the_payment using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger vendor_payment_sum after insert or update of amount on vendor_payments deferrable initially deferred
    for each row execute function vendor_payment_sum();
create constraint trigger bill_payment_sum after insert on bill_payments deferrable initially deferred
    for each row execute function vendor_payment_sum();

do $$
declare
    child text;
begin
    foreach child in array array['payment_batches', 'vendor_payments', 'bill_payments'] loop
        execute format('alter table %I enable row level security', child);
        execute format('create policy unlimited on %I to lark_app using (true) with check (true)', child);
        execute format('grant select, insert, update on %I to lark_app', child);
        execute format('grant select on %I to lark_limited', child);
    end loop;
end $$;
create policy limited on bill_payments for select to lark_limited using (exists (select 1 from bills b where b.id = bill_id));
create policy limited on vendor_payments for select to lark_limited using (
    exists (select 1 from bill_payments x where x.payment_id = vendor_payments.id));
create policy limited on payment_batches for select to lark_limited using (
    exists (select 1 from vendor_payments p where p.batch_id = payment_batches.id));

drop view bill_list;
create view bill_list with (security_invoker = true) as
select b.id, b.number,
    case when b.voided_at is not null then 'void' when b.is_expense then 'paid expense' when b.paid_on is not null then 'paid'
        when b.paid > 0 then 'part paid' when b.approved is not null then 'approved' when b.amount > b.agreed then 'over agreed'
        else 'to approve' end as state,
    c.name as vendor,
    (select l.number from legs g join loads l on l.id = g.load_id where g.id = b.leg_id) as load,
    (select string_agg(distinct a.name, ', ') from bill_lines x join accounts a on a.code = x.account where x.bill_id = b.id) as accounts,
    b.billed_on as billed, coalesce(b.quick_pay_on, b.due_on) as due, b.agreed, b.amount, b.approved,
    b.amount - b.agreed as difference,
    b.approved_at, u.name as approved_by, b.approved_why as approved_reason,
    b.paid_on as paid, b.paid_method, b.paid_reference, b.note, b.entered_at as entered,
    case when b.voided_at is not null or b.is_expense then 0 else coalesce(b.approved, b.amount) - b.paid end as open,
    nullif(b.quick_pay_discount, 0) as quick_pay_discount
from bills b
join companies c on c.id = b.vendor_id
left join users u on u.id = b.approved_by;
