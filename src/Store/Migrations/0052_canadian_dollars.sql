-- Canadian dollars beside US dollars. A company trades in one currency, and so do its documents; the books are in US dollars.
alter table loads drop constraint loads_in_usd;
alter table charges drop constraint charges_in_usd, drop column currency;
alter table invoices drop constraint invoices_in_usd;
alter table bills drop constraint bills_in_usd;
alter table payments drop constraint payments_in_usd;

alter table companies
    add currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    add constraint companies_currency unique (id, currency);
alter table vendor_payments add currency text not null default 'USD' check (currency in ('USD', 'CAD'));
alter table legs add currency text not null default 'USD' check (currency in ('USD', 'CAD'));

-- No document in another currency than its company's, and no other currency for a company with documents.
alter table loads add constraint loads_currency foreign key (payer_id, currency) references companies (id, currency);
alter table invoices add constraint invoices_currency foreign key (customer_id, currency) references companies (id, currency);
alter table payments add constraint payments_currency foreign key (customer_id, currency) references companies (id, currency);
alter table bills add constraint bills_currency foreign key (vendor_id, currency) references companies (id, currency);
alter table vendor_payments add constraint vendor_payments_currency foreign key (vendor_id, currency) references companies (id, currency);
alter table legs add constraint legs_currency foreign key (carrier_id, currency) references companies (id, currency),
    add constraint legs_of_ours_in_usd check (carrier_id is not null or currency = 'USD');

-- Our GST/HST registration, for invoices in Canadian dollars.
alter table business add gst_number text check (gst_number ~ '^[0-9]{9}RT[0-9]{4}$');

-- What a currency is worth from a day on, in US dollars for one unit.
create table exchange_rates (
    currency text not null check (currency = 'CAD'),
    posted_on date not null,
    usd numeric(8, 6) not null check (usd between 0.4 and 1.5),
    source text not null,
    entered_at timestamptz not null,
    primary key (currency, posted_on)
);
alter table exchange_rates enable row level security;
create policy unlimited on exchange_rates to lark_app using (true) with check (true);
create policy limited on exchange_rates for select to lark_limited using (true);
grant select, insert, update on exchange_rates to lark_app;
grant select on exchange_rates to lark_limited;

-- The rate of a day is the last one through it; before the first, that one.
create function rate_on(the_currency text, day date) returns numeric language sql stable as $$
    select case when the_currency = 'USD' then 1 else coalesce(
        (select usd from exchange_rates where currency = the_currency and posted_on <= day order by posted_on desc limit 1),
        (select usd from exchange_rates where currency = the_currency order by posted_on limit 1)) end
$$;
-- Of a moment, or of today for none.
create function rate_of(the_currency text, moment timestamptz) returns numeric language sql stable as $$
    select case when the_currency = 'USD' then 1 else rate_on(the_currency, coalesce(moment, now())::date) end
$$;

-- A line of a document in another currency keeps the amount in it, debits above zero; debit and credit are US dollars. Measuring an item
-- or a bank account again changes its dollars alone.
alter table entry_lines drop constraint entry_lines_in_usd;
alter table entry_lines add in_currency numeric(12, 2);
alter table entry_lines add constraint entry_lines_in_currency check ((currency = 'USD') = (in_currency is null));
do $$
declare
    it record;
begin
    -- The nameless check that a line has one side.
    for it in select conname from pg_constraint where conrelid = 'entry_lines'::regclass and contype = 'c'
        and pg_get_constraintdef(oid) like '%<>%' and pg_get_constraintdef(oid) like '%credit = %' loop
        execute format('alter table entry_lines drop constraint %I', it.conname);
    end loop;
end $$;
alter table entry_lines add constraint entry_lines_one_side
    check ((debit = 0) <> (credit = 0) or (debit = 0 and credit = 0 and coalesce(in_currency, 0) <> 0));

create or replace function entry_balances() returns trigger language plpgsql as $$
declare
    the_entry bigint := coalesce(to_jsonb(new) ->> 'entry_id', to_jsonb(new) ->> 'id')::bigint;
begin
    if not exists (select 1 from entry_lines where entry_id = the_entry)
        or (select sum(debit) <> sum(credit) from entry_lines where entry_id = the_entry) then
        raise exception 'Entry % does not balance', the_entry using errcode = 'LK002';
    end if;
    return null;
end $$;

insert into accounts (code, name, kind) select x.* from (values ('1010', 'Bank, Canadian dollars', 'asset'),
    ('6900', 'Exchange gain or loss', 'expense')) as x where exists (select 1 from accounts where code = '5000')
    on conflict (code) do nothing;

create or replace view leg_costs with (security_invoker = true) as
select g.id as leg_id, g.load_id,
    case when g.currency = 'USD' then coalesce(b.amount, g.agreed, g.expected_cost)
        else round(coalesce(b.amount, g.agreed) * rate_of(g.currency, (select l.first_at from loads l where l.id = g.load_id)), 2) end
        ::numeric(12, 2) as cost
from legs g
left join lateral (select coalesce(approved, bills.amount) as amount from bills where leg_id = g.id and voided_at is null) b on true;

-- Lists are in US dollars, so that their columns add up.
create or replace view load_list with (security_invoker = true) as
select l.id, l.number, l.state,
    c.name as customer,
    nullif(concat_ws(' ', c.town, c.region), '') as customer_city,
    l.reference,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'purchase_order') as purchase_order,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'bill_of_lading') as bill_of_lading,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'pickup_number') as pickup_number,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'delivery_number') as delivery_number,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'order_number') as order_number,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'seal') as seal,
    (select string_agg(r.value, ', ' order by r.seq) from load_references r where r.load_id = l.id and r.kind = 'other') as other_reference,
    (select p.name from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) as shipper,
    (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) as origin,
    (select p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) as origin_region,
    (select p.name from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) as receiver,
    (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) as destination,
    (select p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) as destination_region,
    (select count(*) from stops s where s.load_id = l.id) as stops,
    l.first_at as pickup,
    (select s.left_at from stops s where s.load_id = l.id order by s.seq limit 1) as picked_up,
    l.last_at as delivery, l.delivered_at as delivered,
    (select s.received_by from stops s where s.load_id = l.id order by s.seq desc limit 1) as received_by,
    l.equipment,
    (select string_agg(f.description, ', ' order by f.seq) from freight_lines f where f.load_id = l.id) as freight,
    (select sum(f.pieces) from freight_lines f where f.load_id = l.id) as pieces,
    (select sum(f.pallets) from freight_lines f where f.load_id = l.id) as pallets,
    (select sum(f.weight_lb) from freight_lines f where f.load_id = l.id) as weight,
    (select min(f.temperature_f) from freight_lines f where f.load_id = l.id) as temperature,
    (select coalesce(bool_or(f.hazmat), false) from freight_lines f where f.load_id = l.id) as hazmat,
    (select string_agg(distinct f.un_number, ', ') from freight_lines f where f.load_id = l.id) as un_number,
    (select coalesce(d.name, k.name) from legs g left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id
        left join companies k on k.id = g.carrier_id where g.load_id = l.id order by g.seq desc limit 1) as who,
    (select string_agg(d.name, ', ' order by g.seq) from legs g join trips t on t.id = g.trip_id join drivers d on d.id = t.driver_id
        where g.load_id = l.id) as driver,
    (select string_agg(distinct u.name, ', ') from legs g join trips t on t.id = g.trip_id join drivers d on d.id = t.driver_id
        join driver_groups u on u.id = d.group_id where g.load_id = l.id) as driver_group,
    (select string_agg(u.unit, ', ' order by g.seq) from legs g join trips t on t.id = g.trip_id join trucks u on u.id = t.truck_id
        where g.load_id = l.id) as truck,
    (select string_agg(u.unit, ', ' order by g.seq) from legs g join trips t on t.id = g.trip_id join trailers u on u.id = t.trailer_id
        where g.load_id = l.id) as trailer,
    (select string_agg(t.number, ', ' order by g.seq) from legs g join trips t on t.id = g.trip_id where g.load_id = l.id) as trip,
    (select string_agg(k.name, ', ' order by g.seq) from legs g join companies k on k.id = g.carrier_id where g.load_id = l.id) as carrier,
    l.miles, (l.revenue * x.rate)::numeric(12, 2) as revenue,
    (select round(sum(y.amount) * x.rate, 2) from charges y where y.load_id = l.id and y.kind = 'line_haul') as line_haul,
    (select round(sum(y.amount) * x.rate, 2) from charges y where y.load_id = l.id and y.kind = 'fuel_surcharge') as fuel_surcharge,
    (select round(sum(y.amount) * x.rate, 2) from charges y where y.load_id = l.id and y.kind not in ('line_haul', 'fuel_surcharge')) as accessorials,
    case when l.miles > 0 then round(l.revenue * x.rate / l.miles, 2) end as per_mile,
    (select sum(round(g.agreed * rate_of(g.currency, l.first_at), 2)) from legs g where g.load_id = l.id) as agreed,
    (select sum(g.expected_pay) from legs g where g.load_id = l.id) as driver_pay,
    m.cost, round(l.revenue * x.rate, 2) - m.cost as margin,
    case when l.revenue > 0 then round((l.revenue * x.rate - m.cost) / (l.revenue * x.rate) * 100, 1) end as margin_percent,
    (select i.number from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing and not il.supplement) as invoice,
    (select i.issued_on from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing and not il.supplement) as invoiced,
    (select i.due_on from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing and not il.supplement) as invoice_due,
    (select i.total <= i.paid from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing and not il.supplement) as invoice_paid,
    (select string_agg(b.number, ', ' order by b.id) from legs g join bills b on b.leg_id = g.id and b.voided_at is null
        where g.load_id = l.id) as bill,
    (select string_agg(h.reason, ' ') from holds h where h.load_id = l.id and h.lifted_at is null) as held,
    l.driver_instructions, l.carrier_instructions,
    u.name as booked_by, o.name as office, l.booked_at as booked,
    l.cancelled_at as canceled, l.cancelled_why as canceled_reason,
    (select s.zone from stops s where s.load_id = l.id order by s.seq limit 1) as pickup_zone,
    (select s.zone from stops s where s.load_id = l.id order by s.seq desc limit 1) as delivery_zone,
    (select sum(g.empty_miles) from legs g where g.load_id = l.id) as empty_miles,
    l.currency
from loads l
cross join lateral (select rate_of(l.currency, l.first_at) as rate) x
left join companies c on c.id = l.customer_id
left join users u on u.id = l.booked_by
left join offices o on o.id = l.office_id
left join lateral (select case when count(*) = count(k.cost) then sum(k.cost) end as cost from leg_costs k where k.load_id = l.id) m on true;

create or replace view invoice_list with (security_invoker = true) as
select i.id, i.number,
    case when i.voided_at is not null then 'void' when i.paid = i.total then 'paid' when i.paid > 0 then 'part paid' else 'open' end as state,
    c.name as customer,
    nullif(concat_ws(' ', c.town, c.region), '') as customer_city,
    (select string_agg(l.number, ', ' order by l.number) from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id)
        as loads,
    (select string_agg(distinct l.reference, ', ') from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id)
        as customer_reference,
    (select max(l.delivered_at) from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id) as delivered,
    i.issued_on as issued, i.due_on as due, (i.total * x.rate)::numeric(12, 2) as total, (i.paid * x.rate)::numeric(12, 2) as paid,
    case when i.voided_at is null then round((i.total - i.paid) * x.rate, 2) else 0 end as open,
    i.mailed_to,
    (select max(p.received_on) from payment_applications a join payments p on p.id = a.payment_id where a.invoice_id = i.id and a.standing)
        as last_paid,
    i.voided_at as voided, i.currency
from invoices i
cross join lateral (select case when i.currency = 'USD' then 1 else rate_on(i.currency, i.issued_on) end as rate) x
join companies c on c.id = i.customer_id;

create or replace view bill_list with (security_invoker = true) as
select b.id, b.number,
    case when b.voided_at is not null then 'void' when b.is_expense then 'paid expense' when b.paid_on is not null then 'paid'
        when b.paid > 0 then 'part paid' when b.approved is not null then 'approved' when b.amount > b.agreed then 'over agreed'
        else 'to approve' end as state,
    c.name as vendor,
    (select l.number from legs g join loads l on l.id = g.load_id where g.id = b.leg_id) as load,
    (select string_agg(distinct a.name, ', ') from bill_lines x join accounts a on a.code = x.account where x.bill_id = b.id) as accounts,
    b.billed_on as billed, coalesce(b.quick_pay_on, b.due_on) as due, (b.agreed * y.rate)::numeric(12, 2) as agreed,
    (b.amount * y.rate)::numeric(12, 2) as amount, (b.approved * y.rate)::numeric(12, 2) as approved,
    round((b.amount - b.agreed) * y.rate, 2) as difference,
    b.approved_at, u.name as approved_by, b.approved_why as approved_reason,
    b.paid_on as paid, b.paid_method, b.paid_reference, b.note, b.entered_at as entered,
    case when b.voided_at is not null or b.is_expense then 0 else round((coalesce(b.approved, b.amount) - b.paid) * y.rate, 2) end as open,
    (nullif(b.quick_pay_discount, 0) * y.rate)::numeric(12, 2) as quick_pay_discount, b.currency
from bills b
cross join lateral (select case when b.currency = 'USD' then 1 else rate_on(b.currency, b.billed_on) end as rate) y
join companies c on c.id = b.vendor_id
left join users u on u.id = b.approved_by;

create or replace view payment_list with (security_invoker = true) as
select p.id, c.name as customer,
    case when p.reversed_at is not null then 'reversed' when p.applied + p.refunded < p.amount then 'unapplied'
        when p.applied = 0 then 'refunded' else 'applied' end as state,
    p.received_on as received, p.method, p.reference, (p.amount * x.rate)::numeric(12, 2) as amount, (p.applied * x.rate)::numeric(12, 2) as applied,
    case when p.reversed_at is null and p.applied + p.refunded < p.amount then round((p.amount - p.applied - p.refunded) * x.rate, 2) end
        as credit,
    (select string_agg(i.number, ', ' order by i.number) from payment_applications a join invoices i on i.id = a.invoice_id
        where a.payment_id = p.id and a.standing) as invoices,
    p.reversed_at as reversed, (nullif(p.refunded, 0) * x.rate)::numeric(12, 2) as refunded, p.posted_on as posted, p.currency
from payments p
cross join lateral (select case when p.currency = 'USD' then 1 else rate_on(p.currency, p.received_on) end as rate) x
join companies c on c.id = p.customer_id;

create or replace view claim_list with (security_invoker = true) as
select m.id, m.number, l.number as load, c.name as customer, k.name as carrier, m.kind,
    case when m.outcome is not null then m.outcome when m.acknowledged_on is not null then 'acknowledged' when m.filed_on is not null
        then 'filed' else 'reported' end as state,
    m.description, (m.opened_at at time zone (select zone from business))::date as opened, m.filed_on as filed,
    (m.claimed * x.rate)::numeric(12, 2) as claimed, (nullif(m.allowed, 0) * x.rate)::numeric(12, 2) as allowed,
    (nullif(m.recovered, 0) * rate_of(coalesce(g.currency, 'USD'), l.first_at))::numeric(12, 2) as recovered, m.decided_on as decided,
    l.currency
from claims m
join loads l on l.id = m.load_id
cross join lateral (select rate_of(l.currency, l.first_at) as rate) x
left join companies c on c.id = l.customer_id
left join legs g on g.id = m.leg_id
left join companies k on k.id = g.carrier_id;
