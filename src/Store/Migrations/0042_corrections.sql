-- Credit memos, late charges on supplemental invoices, who authorized a charge, minimums and discounts.

-- A credit memo is a payment without money: what it credits is applied, refunded and reversed like one.
alter table payments
    drop constraint payments_method_check,
    add constraint payments_method_check check (method in ('check', 'ach', 'wire', 'card', 'cash', 'credit_memo')),
    add memo_invoice_id bigint references invoices,
    add memo_reason text check (memo_reason in ('concession', 'claim', 'billing_error')),
    add memo_why text,
    add constraint payments_memo check (case when method = 'credit_memo'
        then memo_invoice_id is not null and memo_reason is not null and memo_why is not null and reference is not null
        else memo_invoice_id is null and memo_reason is null and memo_why is null end);
create index payments_memo_invoice on payments (memo_invoice_id) where memo_invoice_id is not null;
create unique index credit_memo_number_once on payments (reference) where method = 'credit_memo';
insert into series (name, prefix, next) values ('credit_memo', 'CM-', 1001);

-- Credit memos of an invoice other than for claims never exceed it, also when two are entered at once.
create function keep_credited() returns trigger language plpgsql as $$
declare
    credited invoices;
begin
    select * into credited from invoices where id = new.memo_invoice_id for update;
    if new.customer_id <> credited.customer_id then
        raise exception 'A credit memo goes to the customer of its invoice' using errcode = 'LK003';
    end if;
    if (select sum(amount) from payments where memo_invoice_id = new.memo_invoice_id and memo_reason <> 'claim'
            and reversed_at is null) > credited.total then
        raise exception 'The credit memos of invoice % exceed it', credited.number using errcode = 'LK003';
    end if;
    return null;
end $$;
create trigger keep_credited after insert or update of amount, reversed_at on payments for each row
    when (new.memo_invoice_id is not null) execute function keep_credited();

-- A charge is billed once; a load has one invoice, and others for its late charges.
alter table invoice_lines add standing boolean not null default true;
update invoice_lines l set standing = false from invoices i where i.id = l.invoice_id and i.voided_at is not null;
create unique index charge_billed_once on invoice_lines (charge_id) where standing and charge_id is not null;
drop index invoice_lines_charge;
alter table invoice_loads add supplement boolean not null default false;
drop index load_on_one_invoice;
create unique index load_on_one_invoice on invoice_loads (load_id) where standing and not supplement;
create index invoice_loads_supplement on invoice_loads (load_id) where standing and supplement;
alter table loads add late_charges numeric(12, 2) not null default 0 check (late_charges >= 0);
create index loads_late_charges on loads (id) where late_charges > 0;

alter table charges
    drop constraint charges_kind_check,
    add constraint charges_kind_check check (kind in ('line_haul', 'fuel_surcharge', 'extra_stop', 'detention', 'lumper', 'layover', 'tarp',
        'other', 'discount')),
    drop constraint charges_amount_check,
    add constraint charges_amount_check check (case when kind = 'discount' then amount <= 0 else amount >= 0 end),
    add minimum numeric(12, 2) check (minimum is null or (minimum > 0 and rate is not null)),
    add authorized_by text,
    add authorized_on date,
    add authorization_reference text,
    add constraint charges_authorized check (authorized_by is not null or (authorized_on is null and authorization_reference is null));

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
    l.miles, l.revenue,
    (select sum(x.amount) from charges x where x.load_id = l.id and x.kind = 'line_haul') as line_haul,
    (select sum(x.amount) from charges x where x.load_id = l.id and x.kind = 'fuel_surcharge') as fuel_surcharge,
    (select sum(x.amount) from charges x where x.load_id = l.id and x.kind not in ('line_haul', 'fuel_surcharge')) as accessorials,
    case when l.miles > 0 then round(l.revenue / l.miles, 2) end as per_mile,
    (select sum(g.agreed) from legs g where g.load_id = l.id) as agreed,
    (select sum(g.expected_pay) from legs g where g.load_id = l.id) as driver_pay,
    m.cost, l.revenue - m.cost as margin,
    case when l.revenue > 0 then round((l.revenue - m.cost) / l.revenue * 100, 1) end as margin_percent,
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
    (select s.zone from stops s where s.load_id = l.id order by s.seq desc limit 1) as delivery_zone
from loads l
left join companies c on c.id = l.customer_id
left join users u on u.id = l.booked_by
left join offices o on o.id = l.office_id
-- What it costs: each leg's bill, else what was agreed with its carrier, else its driver's expected pay; unknown while one leg's is.
left join lateral (
    select case when count(*) = count(coalesce(b.amount, g.agreed, g.expected_pay)) then sum(coalesce(b.amount, g.agreed, g.expected_pay)) end as cost
    from legs g
    left join lateral (select coalesce(approved, bills.amount) as amount from bills where leg_id = g.id and voided_at is null) b on true
    where g.load_id = l.id
) m on true;
