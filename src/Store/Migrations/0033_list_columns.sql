-- Every stored value of a load is a column of its list. What one row of another table holds is joined (the planner drops joins that
-- nothing asks for); what takes a look-up in several rows is a subquery, evaluated only where the column is shown, filtered or sorted.
drop view load_list;
create view load_list with (security_invoker = true) as
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
    (select i.number from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoice,
    (select i.issued_on from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoiced,
    (select i.due_on from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoice_due,
    (select i.total <= i.paid from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoice_paid,
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

drop view invoice_list;
create view invoice_list with (security_invoker = true) as
select i.id, i.number,
    case when i.voided_at is not null then 'void' when i.paid = i.total then 'paid' when i.paid > 0 then 'part paid' else 'open' end as state,
    c.name as customer,
    nullif(concat_ws(' ', c.town, c.region), '') as customer_city,
    (select string_agg(l.number, ', ' order by l.number) from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id) as loads,
    (select string_agg(distinct l.reference, ', ') from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id) as customer_reference,
    (select max(l.delivered_at) from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id) as delivered,
    i.issued_on as issued, i.due_on as due, i.total, i.paid,
    case when i.voided_at is null then i.total - i.paid else 0 end as open,
    i.mailed_to,
    (select max(p.received_on) from payment_applications a join payments p on p.id = a.payment_id where a.invoice_id = i.id and a.standing) as last_paid,
    i.voided_at as voided
from invoices i
join companies c on c.id = i.customer_id;

drop view bill_list;
create view bill_list with (security_invoker = true) as
select b.id, b.number,
    case when b.voided_at is not null then 'void' when b.is_expense then 'paid expense' when b.paid_on is not null then 'paid'
        when b.approved is not null then 'approved' when b.amount > b.agreed then 'over agreed' else 'to approve' end as state,
    c.name as vendor,
    (select l.number from legs g join loads l on l.id = g.load_id where g.id = b.leg_id) as load,
    (select string_agg(distinct a.name, ', ') from bill_lines x join accounts a on a.code = x.account where x.bill_id = b.id) as accounts,
    b.billed_on as billed, b.due_on as due, b.agreed, b.amount, b.approved,
    b.amount - b.agreed as difference,
    b.approved_at, u.name as approved_by, b.approved_why as approved_reason,
    b.paid_on as paid, b.paid_method, b.paid_reference, b.note, b.entered_at as entered
from bills b
join companies c on c.id = b.vendor_id
left join users u on u.id = b.approved_by;

drop view payment_list;
create view payment_list with (security_invoker = true) as
select p.id, c.name as customer,
    case when p.reversed_at is not null then 'reversed' when p.applied < p.amount then 'unapplied' else 'applied' end as state,
    p.received_on as received, p.method, p.reference, p.amount, p.applied,
    case when p.reversed_at is null and p.applied < p.amount then p.amount - p.applied end as credit,
    (select string_agg(i.number, ', ' order by i.number) from payment_applications a join invoices i on i.id = a.invoice_id
        where a.payment_id = p.id and a.standing) as invoices,
    p.reversed_at as reversed
from payments p
join companies c on c.id = p.customer_id;

drop view company_list;
create view company_list with (security_invoker = true) as
select c.id, c.name, c.is_customer as customer, c.is_carrier as carrier, c.is_vendor as vendor, c.address, c.town, c.region, c.phone, c.email,
    c.terms_days as terms, c.pay_days, c.credit_limit,
    (select sum(i.total - i.paid) from invoices i where i.customer_id = c.id and i.voided_at is null) as owes,
    k.usdot, k.authority_active as authority, k.liability_until, k.cargo_until, k.do_not_use,
    (select count(*) from loads l where l.customer_id = c.id) as loads,
    (select max(l.booked_at) from loads l where l.customer_id = c.id) as last_booked,
    c.note
from companies c
left join carriers k on k.company_id = c.id;

-- The newest loads first, as their list begins.
create index loads_booked on loads (booked_at desc nulls last, id desc);

-- A view can be shared with everyone who may see the list. A filter holds several values.
alter table list_views add column shared boolean not null default false;
update list_views set definition = jsonb_set(definition, '{filters}', coalesce((
    select jsonb_agg((f - 'value') || jsonb_build_object('values', case
        when coalesce(f->>'value', '') = '' then '[]'::jsonb
        when f->>'op' in ('is', 'not') then to_jsonb(regexp_split_to_array(f->>'value', '\s*,\s*'))
        else jsonb_build_array(f->>'value') end))
    from jsonb_array_elements(definition->'filters') f), '[]'::jsonb))
where jsonb_typeof(definition->'filters') = 'array';
