-- Cargo claims, recoveries from carriers, and debit memos on vendors' bills.
insert into series (name, prefix, next) values ('claim', 'CL-', 1001), ('debit_memo', 'DM-', 1001);

insert into accounts (code, name, kind) select '4920', 'Freight claims recovered', 'income' where exists (select 1 from accounts where
    code = '5000') on conflict (code) do nothing;

create table claims (
    id bigint generated always as identity primary key,
    number text not null unique,
    load_id bigint not null references loads,
    -- The carrier's leg the freight was on; null when our own truck moved it.
    leg_id bigint references legs,
    report_id bigint references reports,
    kind text not null check (kind in ('shortage', 'damage', 'refused', 'loss', 'delay')),
    description text not null,
    opened_at timestamptz not null,
    opened_by bigint references users,
    filed_on date,
    claimed numeric(12, 2) check (claimed > 0),
    acknowledged_on date,
    outcome text check (outcome in ('paid', 'settled', 'declined', 'withdrawn')),
    decided_on date,
    allowed numeric(12, 2) not null default 0 check (allowed >= 0),
    decided_why text,
    memo_id bigint references payments,
    carrier_filed_on date,
    carrier_claimed numeric(12, 2) check (carrier_claimed > 0),
    recovered numeric(12, 2) not null default 0 check (recovered >= 0),
    released_at timestamptz,
    released_why text,
    check ((filed_on is null) = (claimed is null)),
    check (acknowledged_on is null or filed_on is not null),
    check ((outcome is null) = (decided_on is null)),
    check ((outcome is null) = (decided_why is null)),
    check (allowed = 0 or (outcome in ('paid', 'settled') and allowed <= claimed)),
    check (outcome is null or outcome = 'withdrawn' or filed_on is not null),
    check ((carrier_filed_on is null) = (carrier_claimed is null)),
    check (carrier_filed_on is null or leg_id is not null),
    check ((released_at is null) = (released_why is null))
);
create index claims_load on claims (load_id);
create index claims_leg on claims (leg_id) where leg_id is not null;
create unique index claim_of_report on claims (report_id) where report_id is not null and outcome is null;
create index claims_open on claims (id) where outcome is null;

-- What a carrier paid for a claim, in money or by a debit memo on its bill.
create table claim_recoveries (
    id bigint generated always as identity primary key,
    claim_id bigint not null references claims,
    amount numeric(12, 2) not null check (amount > 0),
    received_on date not null,
    posted_on date not null,
    method text not null check (method in ('check', 'ach', 'wire', 'card', 'cash', 'debit_memo')),
    reference text,
    payment_id bigint references vendor_payments,
    standing boolean not null default true,
    check ((method = 'debit_memo') = (payment_id is not null))
);
create index claim_recoveries_claim on claim_recoveries (claim_id);
create unique index claim_recovery_of_memo on claim_recoveries (payment_id) where payment_id is not null;

create function keep_recovered() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' or (tg_op = 'UPDATE' and (new.claim_id, new.amount) is distinct from (old.claim_id, old.amount)) then
        raise exception 'A recovery is reversed by marking it, not by changing it' using errcode = 'LK001';
    end if;
    update claims set recovered = recovered + case when new.standing then new.amount else 0 end
        - case when tg_op = 'UPDATE' and old.standing then old.amount else 0 end where id = new.claim_id;
    return null;
end $$;
create trigger keep_recovered after insert or update or delete on claim_recoveries for each row execute function keep_recovered();

alter table payment_batches drop constraint payment_batches_method_check,
    add constraint payment_batches_method_check check (method in ('check', 'ach', 'wire', 'card', 'cash', 'debit_memo'));
alter table vendor_payments drop constraint vendor_payments_method_check,
    add constraint vendor_payments_method_check check (method in ('check', 'ach', 'wire', 'card', 'cash', 'debit_memo')),
    add memo_why text,
    add constraint vendor_payments_memo check ((method = 'debit_memo') = (memo_why is not null));
create unique index debit_memo_number_once on vendor_payments (reference) where method = 'debit_memo';

-- Only a customer whose terms say so has its invoices wait for a claim.
alter table billing_settings add hold_for_claims boolean not null default false;

do $$
declare
    child text;
begin
    foreach child in array array['claims', 'claim_recoveries'] loop
        execute format('alter table %I enable row level security', child);
        execute format('create policy unlimited on %I to lark_app using (true) with check (true)', child);
        execute format('grant select, insert, update on %I to lark_app', child);
        execute format('grant select on %I to lark_limited', child);
    end loop;
end $$;
create policy limited on claims for select to lark_limited using (exists (select 1 from loads l where l.id = load_id));
create policy limited on claim_recoveries for select to lark_limited using (exists (select 1 from claims c where c.id = claim_id));

alter table emails drop constraint emails_purpose_check, add constraint emails_purpose_check
    check (purpose in ('other', 'rate_confirmation', 'invoice', 'statement', 'document_request', 'account', 'claim'));

create view claim_list with (security_invoker = true) as
select m.id, m.number, l.number as load, c.name as customer, k.name as carrier, m.kind,
    case when m.outcome is not null then m.outcome when m.acknowledged_on is not null then 'acknowledged' when m.filed_on is not null
        then 'filed' else 'reported' end as state,
    m.description, (m.opened_at at time zone (select zone from business))::date as opened, m.filed_on as filed, m.claimed,
    nullif(m.allowed, 0) as allowed, nullif(m.recovered, 0) as recovered, m.decided_on as decided
from claims m
join loads l on l.id = m.load_id
left join companies c on c.id = l.customer_id
left join legs g on g.id = m.leg_id
left join companies k on k.id = g.carrier_id;
grant select on claim_list to lark_app, lark_limited;
