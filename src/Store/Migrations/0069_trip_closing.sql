-- A trip that is over is closed once everything on it is decided, and archived when nobody needs to see it any more.
alter table trips
    add column closed_at timestamptz,
    add column closed_by text,
    add column archived_at timestamptz,
    add constraint trips_closed_by check ((closed_at is null) = (closed_by is null)),
    add constraint trips_closed_over check (closed_at is null or ended_at is not null),
    add constraint trips_archived_over check (archived_at is null or closed_at is not null or canceled_at is not null);

-- What a closed trip cost stays as it is.
create function trip_closed() returns trigger language plpgsql as $$
begin
    if exists (select 1 from trips where id = new.trip_id and closed_at is not null) then
        raise exception 'trip % is closed', new.trip_id using errcode = 'LK011', constraint = 'trip_closed';
    end if;
    return new;
end $$;
create trigger trip_closed before insert or update of state, amount, booked on trip_expenses for each row execute function trip_closed();

create or replace view trip_list with (security_invoker = true) as
select t.id, t.number, t.name,
    case when t.archived_at is not null then 'archived' when t.canceled_at is not null then 'canceled' when t.closed_at is not null then 'closed'
        when t.ended_at is not null then 'ended' when t.started_at is not null then 'under way'
        else 'planned' end as state,
    d.name as driver, dg.name as driver_group, k.unit as truck, r.unit as trailer, r.equipment,
    g.loads, g.load_count, o.town || ' ' || o.region as origin, p.town || ' ' || p.region as destination,
    lower(t.scheduled) as begins, upper(t.scheduled) as ends, t.accepted_at as accepted, t.started_at as started, t.ended_at as ended,
    t.canceled_at as canceled,
    (select count(*)::int from trip_stops s where s.trip_id = t.id and not s.skipped) as own_stops,
    g.miles, g.empty_miles, g.driver_pay, g.cost, cd.name as codriver,
    (select sum(x.booked) from trip_expenses x where x.trip_id = t.id and x.state in ('reported', 'approved')) as expenses
from trips t
join drivers d on d.id = t.driver_id
left join drivers cd on cd.id = t.codriver_id
left join driver_groups dg on dg.id = d.group_id
join trucks k on k.id = t.truck_id
left join trailers r on r.id = t.trailer_id
left join lateral (
    select string_agg(l.number, ', ' order by g.id) as loads, count(*)::int as load_count, sum(g.truck_miles)::int as miles,
        sum(g.empty_miles)::int as empty_miles, sum(g.expected_pay) as driver_pay, sum(g.expected_cost) as cost
    from legs g join loads l on l.id = g.load_id where g.trip_id = t.id) g on true
left join trip_last_visits e on e.trip_id = t.id
left join places p on p.id = e.place_id
left join lateral (
    select coalesce(
        (select coalesce(s.place_id, x.place_id, q.place_id) from trip_visits v left join stops s on s.id = v.stop_id left join transfers x on x.id = v.transfer_id
            left join trip_stops q on q.id = v.trip_stop_id where v.trip_id = t.id order by v.seq limit 1),
        (select coalesce(le.began_place_id, (select s.place_id from stops s where s.load_id = g.load_id order by s.seq limit 1))
            from legs g join leg_ends le on le.leg_id = g.id where g.trip_id = t.id order by g.id limit 1)) as place_id) b on true
left join places o on o.id = b.place_id;
