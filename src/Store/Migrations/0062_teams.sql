-- Teams: a second driver on a trip, booked and paid like the first.

alter table trips
    add column codriver_id bigint references drivers (id),
    -- Percent of the trip's work that is the co-driver's.
    add column codriver_share numeric(5, 2) check (codriver_share between 0 and 100),
    add constraint trips_codriver_is_another check (codriver_id <> driver_id),
    add constraint trips_codriver_has_share check ((codriver_id is null) = (codriver_share is null));

-- Who is on each trip: seat 1 drives for it, seat 2 is the co-driver. It follows from trips, and is what the constraints below hold for: nobody is on
-- two trips at a time, whichever seat they have.
create table trip_crew (
    trip_id bigint not null references trips (id) on delete cascade,
    seat integer not null check (seat in (1, 2)),
    driver_id bigint not null references drivers (id),
    share numeric(5, 2) not null check (share between 0 and 100),
    scheduled tstzrange not null,
    started_at timestamptz,
    ended_at timestamptz,
    canceled_at timestamptz,
    primary key (trip_id, seat)
);
insert into trip_crew select id, 1, driver_id, 100, scheduled, started_at, ended_at, canceled_at from trips;

alter table trips drop constraint driver_scheduled_once;
drop index driver_under_way_once;
drop index trips_begin;
drop index trips_ended;
alter table trip_crew add constraint driver_scheduled_once exclude using gist (driver_id with =, scheduled with &&)
    where (canceled_at is null and ended_at is null) deferrable;
create unique index driver_under_way_once on trip_crew (driver_id) where started_at is not null and ended_at is null and canceled_at is null;
create index trip_crew_driver on trip_crew (driver_id, trip_id desc);
create index trip_crew_open on trip_crew (lower(scheduled)) where ended_at is null and canceled_at is null;
create index trip_crew_begin on trip_crew (driver_id, lower(scheduled) desc) where canceled_at is null;
create index trip_crew_ended on trip_crew (driver_id, ended_at desc) where ended_at is not null;
create index trips_codriver on trips (codriver_id, id desc) where codriver_id is not null;
grant select, insert, update, delete on trip_crew to lark_app;
grant select on trip_crew to lark_limited;
alter table trip_crew enable row level security;
create policy unlimited on trip_crew to lark_app using (true) with check (true);
create policy limited on trip_crew for select to lark_limited using (exists (select 1 from drivers d where d.id = driver_id));

create function crew_of_new_trips() returns trigger language plpgsql as $$
begin
    insert into trip_crew select id, 1, driver_id, 100 - coalesce(codriver_share, 0), scheduled, started_at, ended_at, canceled_at from added;
    insert into trip_crew select id, 2, codriver_id, codriver_share, scheduled, started_at, ended_at, canceled_at from added where codriver_id is not null;
    return null;
end $$;
create trigger crew_of_new_trips after insert on trips referencing new table as added for each statement execute function crew_of_new_trips();

create function crew_follows_trip() returns trigger language plpgsql as $$
begin
    if new.codriver_id is null then
        delete from trip_crew where trip_id = new.id and seat = 2;
    end if;
    update trip_crew set driver_id = case seat when 1 then new.driver_id else new.codriver_id end,
        share = case seat when 1 then 100 - coalesce(new.codriver_share, 0) else new.codriver_share end,
        scheduled = new.scheduled, started_at = new.started_at, ended_at = new.ended_at, canceled_at = new.canceled_at
    where trip_id = new.id;
    if old.codriver_id is null and new.codriver_id is not null then
        insert into trip_crew values (new.id, 2, new.codriver_id, new.codriver_share, new.scheduled, new.started_at, new.ended_at, new.canceled_at);
    end if;
    return null;
end $$;
create trigger crew_follows_trip after update on trips for each row
    when ((old.driver_id, old.codriver_id, old.codriver_share, old.scheduled, old.started_at, old.ended_at, old.canceled_at)
        is distinct from (new.driver_id, new.codriver_id, new.codriver_share, new.scheduled, new.started_at, new.ended_at, new.canceled_at))
    execute function crew_follows_trip();

-- The next trip of each driver begins where this one ends, whichever seat they had.
create or replace function forget_next_cost() returns trigger language plpgsql as $$
begin
    update legs set expected_pay = null where expected_pay is not null and trip_id in (
        select n.trip_id
        from (values (new.driver_id, lower(new.scheduled)), (new.codriver_id, lower(new.scheduled)),
                     (case when tg_op = 'UPDATE' then old.driver_id end, case when tg_op = 'UPDATE' then lower(old.scheduled) end),
                     (case when tg_op = 'UPDATE' then old.codriver_id end, case when tg_op = 'UPDATE' then lower(old.scheduled) end)) v (driver, begins)
        cross join lateral (select c.trip_id from trip_crew c where c.driver_id = v.driver and c.canceled_at is null and c.trip_id <> new.id
            and lower(c.scheduled) > v.begins order by lower(c.scheduled) limit 1) n);
    return null;
end $$;
drop trigger next_cost_forgotten on trips;
create trigger next_cost_forgotten after insert or update of driver_id, codriver_id, scheduled, canceled_at on trips for each row
    execute function forget_next_cost();

-- What the co-driver earns of a leg's expected pay.
alter table legs add column codriver_pay numeric(12, 2) constraint legs_codriver_pay_of_pay check (codriver_pay between 0 and expected_pay);
create or replace function forget_expected_pay() returns trigger language plpgsql as $$
begin
    new.expected_pay := null;
    new.codriver_pay := null;
    new.empty_miles := null;
    new.truck_miles := null;
    new.truck_days := null;
    return new;
end $$;

-- A leg is paid once to each of its drivers.
alter table settlements add constraint settlements_of_a_driver unique (id, driver_id);
alter table settlement_legs disable trigger user;
alter table settlement_legs add column driver_id bigint;
update settlement_legs x set driver_id = s.driver_id from settlements s where s.id = x.settlement_id;
alter table settlement_legs enable trigger user;
alter table settlement_legs alter column driver_id set not null,
    add constraint settlement_legs_of_the_driver foreign key (settlement_id, driver_id) references settlements (id, driver_id);
drop index settlement_leg_once;
create unique index settlement_leg_once on settlement_legs (leg_id, driver_id) where standing;

-- The co-driver hears what is said to the driver about a load of theirs.
alter table events add column codriver_id bigint;

-- Trips as a list, with their co-drivers.
create or replace view trip_list with (security_invoker = true) as
select t.id, t.number, t.name,
    case when t.canceled_at is not null then 'canceled' when t.ended_at is not null then 'ended' when t.started_at is not null then 'under way'
        else 'planned' end as state,
    d.name as driver, dg.name as driver_group, k.unit as truck, r.unit as trailer, r.equipment,
    g.loads, g.load_count, o.town || ' ' || o.region as origin, p.town || ' ' || p.region as destination,
    lower(t.scheduled) as begins, upper(t.scheduled) as ends, t.accepted_at as accepted, t.started_at as started, t.ended_at as ended,
    t.canceled_at as canceled,
    (select count(*)::int from trip_stops s where s.trip_id = t.id and not s.skipped) as own_stops,
    g.miles, g.empty_miles, g.driver_pay, g.cost, cd.name as codriver
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
