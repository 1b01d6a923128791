-- What lists show, a column each. Values that cost a look-up are subqueries, so that only what is asked for is looked up.
create view load_list as
select l.id, l.number, l.state,
    (select c.name from companies c where c.id = l.customer_id) as customer,
    l.reference,
    (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) as origin,
    (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) as destination,
    l.first_at as pickup, l.last_at as delivery, l.delivered_at as delivered, l.equipment,
    (select string_agg(f.description, ', ' order by f.seq) from freight_lines f where f.load_id = l.id) as freight,
    (select sum(f.weight_lb) from freight_lines f where f.load_id = l.id) as weight,
    (select coalesce(bool_or(f.hazmat), false) from freight_lines f where f.load_id = l.id) as hazmat,
    l.miles, l.revenue,
    case when l.miles > 0 then round(l.revenue / l.miles, 2) end as per_mile,
    (select sum(g.agreed) from legs g where g.load_id = l.id) as agreed,
    (select l.revenue - sum(g.agreed) from legs g where g.load_id = l.id having sum(g.agreed) is not null) as margin,
    (select coalesce(d.name, k.name) from legs g left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id left join companies k on k.id = g.carrier_id
     where g.load_id = l.id order by g.seq desc limit 1) as who,
    (select string_agg(h.reason, ' ') from holds h where h.load_id = l.id and h.lifted_at is null) as held,
    (select i.number from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoice,
    (select u.name from users u where u.id = l.booked_by) as booked_by,
    l.booked_at as booked
from loads l;

create view invoice_list as
select i.id, i.number,
    case when i.voided_at is not null then 'void' when i.paid = i.total then 'paid' when i.paid > 0 then 'part paid' else 'open' end as state,
    (select c.name from companies c where c.id = i.customer_id) as customer,
    (select string_agg(l.number, ', ' order by l.number) from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id) as loads,
    i.issued_on as issued, i.due_on as due, i.total, i.paid, i.total - i.paid as open, i.mailed_to,
    (select max(p.received_on) from payment_applications a join payments p on p.id = a.payment_id where a.invoice_id = i.id and a.standing) as last_paid
from invoices i;

create view bill_list as
select b.id, b.number,
    case when b.voided_at is not null then 'void' when b.paid_on is not null then 'paid' when b.approved is not null then 'approved' when b.amount > b.agreed then 'over agreed' else 'to approve' end as state,
    (select c.name from companies c where c.id = b.carrier_id) as carrier,
    (select l.number from legs g join loads l on l.id = g.load_id where g.id = b.leg_id) as load,
    b.billed_on as billed, b.due_on as due, b.agreed, b.amount, b.approved, b.paid_on as paid
from bills b;

create view company_list as
select c.id, c.name, c.is_customer as customer, c.is_carrier as carrier, c.town, c.region, c.phone, c.email, c.terms_days as terms, c.credit_limit,
    (select sum(i.total - i.paid) from invoices i where i.customer_id = c.id and i.voided_at is null) as owes,
    (select k.usdot from carriers k where k.company_id = c.id) as usdot,
    (select k.cargo_until from carriers k where k.company_id = c.id) as cargo_until,
    (select count(*) from loads l where l.customer_id = c.id) as loads
from companies c;

-- How somebody likes to see a list.
create table list_views (
    id bigint generated always as identity primary key,
    user_id bigint not null references users,
    list text not null,
    name text not null check (length(trim(name)) between 1 and 60),
    definition jsonb not null check (length(definition::text) < 20000),
    saved_at timestamptz not null
);
create unique index list_views_name on list_views (user_id, list, lower(name));
