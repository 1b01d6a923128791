-- What a leg is expected to earn its driver, so that lists, filters and exports know a margin for our own trucks too. Core computes it whenever the load or the pay rates change (LegPay).
alter table legs add column expected_pay numeric(12, 2) check (expected_pay >= 0);
alter table legs add constraint legs_pay_of_a_trip check (expected_pay is null or trip_id is not null);
-- Another truck, another pay: it is computed anew.
create function forget_expected_pay() returns trigger language plpgsql as $$
begin
    new.expected_pay := null;
    return new;
end $$;
create trigger legs_pay_forgotten before update of trip_id on legs for each row when (new.trip_id is distinct from old.trip_id) execute function forget_expected_pay();
create index legs_unpriced on legs (id) where trip_id is not null and expected_pay is null;

create or replace view load_list as
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
    -- Only where each leg's cost is known.
    (select l.revenue - sum(coalesce(b.amount, g.agreed, g.expected_pay)) from legs g left join lateral (select coalesce(approved, amount) as amount from bills where leg_id = g.id and voided_at is null) b on true
     where g.load_id = l.id having count(*) = count(coalesce(b.amount, g.agreed, g.expected_pay))) as margin,
    (select coalesce(d.name, k.name) from legs g left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id left join companies k on k.id = g.carrier_id
     where g.load_id = l.id order by g.seq desc limit 1) as who,
    (select string_agg(h.reason, ' ') from holds h where h.load_id = l.id and h.lifted_at is null) as held,
    (select i.number from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoice,
    (select u.name from users u where u.id = l.booked_by) as booked_by,
    l.booked_at as booked
from loads l;
