-- What a leg on our own truck costs, part by part: Core computes it whenever the load, the schedule, the pay rates or the cost assumptions
-- change (LegCosts). A leg whose expected pay is null waits for that.
alter table legs
    add column empty_miles int check (empty_miles >= 0),
    add column truck_days numeric(6, 2) check (truck_days > 0),
    add column cost_payroll_tax numeric(12, 2) not null default 0 check (cost_payroll_tax >= 0),
    add column cost_fuel numeric(12, 2) not null default 0 check (cost_fuel >= 0),
    add column cost_tolls numeric(12, 2) not null default 0 check (cost_tolls >= 0),
    add column cost_truck numeric(12, 2) not null default 0 check (cost_truck >= 0),
    add column cost_other numeric(12, 2) not null default 0 check (cost_other >= 0);
update legs set expected_pay = null where expected_pay is not null;
alter table legs
    add column expected_cost numeric(12, 2)
        generated always as (expected_pay + cost_payroll_tax + cost_fuel + cost_tolls + cost_truck + cost_other) stored,
    add constraint legs_cost_complete check (expected_pay is null or (empty_miles is not null and truck_days is not null)),
    add constraint legs_empty_of_a_trip check (trip_id is not null or empty_miles is null);

-- Another truck, other empty miles.
create or replace function forget_expected_pay() returns trigger language plpgsql as $$
begin
    new.expected_pay := null;
    new.empty_miles := null;
    new.truck_days := null;
    return new;
end $$;

-- A trip that is added, moved, canceled or given to another driver changes where the driver's next trip comes from.
create function forget_next_cost() returns trigger language plpgsql as $$
begin
    update legs set expected_pay = null where expected_pay is not null and trip_id in (
        select n.id
        from (values (new.driver_id, lower(new.scheduled)),
                     (case when tg_op = 'UPDATE' then old.driver_id end, case when tg_op = 'UPDATE' then lower(old.scheduled) end)) v (driver, begins)
        cross join lateral (select t.id from trips t where t.driver_id = v.driver and t.canceled_at is null and t.id <> new.id
            and lower(t.scheduled) > v.begins order by lower(t.scheduled) limit 1) n);
    return null;
end $$;
create trigger next_cost_forgotten after insert or update of driver_id, scheduled, canceled_at on trips
    for each row execute function forget_next_cost();

alter table driver_rates drop constraint driver_rates_kind_check;
alter table driver_rates add constraint driver_rates_kind_check check (kind in
    ('per_mile', 'per_empty_mile', 'percent_of_line_haul', 'per_load', 'per_extra_stop', 'per_hour', 'per_day', 'per_week'));
alter table settlement_lines drop constraint settlement_lines_kind_check;
alter table settlement_lines add constraint settlement_lines_kind_check check (kind in
    ('per_mile', 'per_empty_mile', 'percent_of_line_haul', 'per_load', 'per_extra_stop', 'per_hour', 'per_day', 'per_week'));

-- What a leg costs: its bill, else what was agreed with its carrier, else what our own truck costs.
create view leg_costs with (security_invoker = true) as
select g.id as leg_id, g.load_id, coalesce(b.amount, g.agreed, g.expected_cost) as cost
from legs g
left join lateral (select coalesce(approved, bills.amount) as amount from bills where leg_id = g.id and voided_at is null) b on true;
grant select on leg_costs to lark_app, lark_limited;

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
    (select s.zone from stops s where s.load_id = l.id order by s.seq desc limit 1) as delivery_zone,
    (select sum(g.empty_miles) from legs g where g.load_id = l.id) as empty_miles
from loads l
left join companies c on c.id = l.customer_id
left join users u on u.id = l.booked_by
left join offices o on o.id = l.office_id
left join lateral (select case when count(*) = count(k.cost) then sum(k.cost) end as cost from leg_costs k where k.load_id = l.id) m on true;
