-- Stops of a trip's own, which are of no load: the trailer is hooked or dropped, fuel, scale, wash, yard, border, or a waypoint. Where trucks and trailers are.

create table trip_stops (
    -- From the same numbers as stops, so that one id names a visit of a trip.
    id bigint primary key default nextval('stops_id_seq'),
    trip_id bigint not null references trips (id) on delete cascade,
    kind text not null check (kind in ('hook', 'drop', 'fuel', 'scale', 'wash', 'yard', 'border', 'waypoint')),
    place_id bigint not null references places (id),
    trailer_id bigint references trailers (id),
    minutes integer check (minutes between 0 and 1440),
    note text check (length(note) <= 200),
    arrived_at timestamptz,
    left_at timestamptz check (left_at >= arrived_at),
    -- Passed by: the truck was at a later visit.
    skipped boolean not null default false,
    added_by text not null,
    added_at timestamptz not null,
    unique (id, trip_id),
    constraint trip_stops_trailer check ((trailer_id is not null) = (kind in ('hook', 'drop'))),
    check (left_at is null or arrived_at is not null),
    check (not (skipped and arrived_at is not null))
);
create index trip_stops_trip on trip_stops (trip_id);
create index trip_stops_trailer on trip_stops (trailer_id) where trailer_id is not null;
create unique index trip_stops_hook_once on trip_stops (trip_id, kind) where kind in ('hook', 'drop') and not skipped;
grant usage on sequence stops_id_seq to lark_app;
grant select, insert, update, delete on trip_stops to lark_app;
grant select on trip_stops to lark_limited;
alter table trip_stops enable row level security;
create policy unlimited on trip_stops to lark_app using (true) with check (true);
create policy limited on trip_stops for select to lark_limited using (exists (select 1 from trips t where t.id = trip_id));

alter table trip_visits
    add column trip_stop_id bigint,
    add constraint trip_visits_own_stop foreign key (trip_stop_id, trip_id) references trip_stops (id, trip_id) on delete cascade,
    drop constraint trip_visits_check,
    add constraint trip_visits_one_thing check (num_nonnulls(stop_id, transfer_id, trip_stop_id) = 1);
create unique index trip_visits_trip_stop on trip_visits (trip_stop_id) where trip_stop_id is not null;

create or replace function visits_of_their_trip(the_trip bigint) returns void language plpgsql as $$
begin
    if exists (
        select 1 from trip_visits v left join stops s on s.id = v.stop_id left join transfers x on x.id = v.transfer_id
        where v.trip_id = the_trip and v.trip_stop_id is null and not exists (
            select 1 from legs g join leg_ends le on le.leg_id = g.id
            where g.trip_id = the_trip and (
                (g.load_id = s.load_id and (select count(*) from stops o where o.load_id = s.load_id and o.seq <= s.seq) between le.first_after + 1 and le.last_after)
                or v.transfer_id in (le.begins_id, le.ends_id)))) then
        raise exception 'Trip % visits a stop of a load that is not on it', the_trip using errcode = 'LK008';
    end if;
    if exists (
        select 1 from (
            select v.seq, s.seq as own, lag(s.seq) over (partition by s.load_id order by v.seq) as before
            from trip_visits v join stops s on s.id = v.stop_id where v.trip_id = the_trip) x
        where own < before) then
        raise exception 'Trip % visits the stops of a load out of order', the_trip using errcode = 'LK008';
    end if;
    if exists (
        select 1 from trip_visits v join trip_stops o on o.id = v.trip_stop_id join trip_visits f on f.trip_id = v.trip_id and f.trip_stop_id is null
        where v.trip_id = the_trip and ((o.kind = 'hook' and f.seq < v.seq) or (o.kind = 'drop' and f.seq > v.seq))) then
        raise exception 'Trip % has freight while its trailer is not hooked', the_trip using errcode = 'LK008';
    end if;
end $$;

-- Where a user saw a truck or trailer.
create table unit_locations (
    id bigint generated always as identity primary key,
    truck_id bigint references trucks (id),
    trailer_id bigint references trailers (id),
    place_id bigint not null references places (id),
    at timestamptz not null,
    note text check (length(note) <= 200),
    entered_by text not null,
    entered_at timestamptz not null,
    check (num_nonnulls(truck_id, trailer_id) = 1)
);
create index unit_locations_truck on unit_locations (truck_id, at desc) where truck_id is not null;
create index unit_locations_trailer on unit_locations (trailer_id, at desc) where trailer_id is not null;
grant select, insert on unit_locations to lark_app;
grant select on unit_locations to lark_limited;
alter table unit_locations enable row level security;
create policy unlimited on unit_locations to lark_app using (true) with check (true);
create policy limited on unit_locations for select to lark_limited using (
    (select view_ids('driverGroups'::text)) is null
    or exists (select 1 from trips t where t.truck_id = unit_locations.truck_id or t.trailer_id = unit_locations.trailer_id));

create index trips_truck_ended on trips (truck_id, ended_at desc) where ended_at is not null;
create index trips_trailer_begin on trips (trailer_id, lower(scheduled) desc) where canceled_at is null and trailer_id is not null;

-- The last visit of each trip, or the end of its only leg.
create view trip_last_visits with (security_invoker = true) as
select t.id as trip_id, coalesce(
    (select coalesce(s.place_id, x.place_id, o.place_id) from trip_visits v left join stops s on s.id = v.stop_id left join transfers x on x.id = v.transfer_id
        left join trip_stops o on o.id = v.trip_stop_id
        where v.trip_id = t.id order by v.seq desc limit 1),
    (select coalesce(le.ended_place_id, (select s.place_id from stops s where s.load_id = g.load_id order by s.seq desc limit 1))
        from legs g join leg_ends le on le.leg_id = g.id where g.trip_id = t.id order by g.id limit 1)) as place_id
from trips t;
grant select on trip_last_visits to lark_app, lark_limited;

-- Where each trip ends: its last visit; where its truck was seen after that, while it has had no other trip.
create or replace view trip_ends with (security_invoker = true) as
select t.id as trip_id, coalesce(
    (select u.place_id from unit_locations u where u.truck_id = t.truck_id and t.ended_at is not null and u.at > t.ended_at
        and not exists (select 1 from trips o where o.truck_id = t.truck_id and o.ended_at > t.ended_at and o.ended_at < u.at)
        order by u.at desc limit 1),
    l.place_id) as place_id
from trips t join trip_last_visits l on l.trip_id = t.id;

-- Where each trip leaves its trailer: where it is dropped, or where the trip itself ends.
create view trailer_ends with (security_invoker = true) as
select t.id as trip_id, t.trailer_id, coalesce(
    (select o.place_id from trip_stops o where o.trip_id = t.id and o.kind = 'drop' and not o.skipped), l.place_id) as place_id
from trips t join trip_last_visits l on l.trip_id = t.id where t.trailer_id is not null and t.canceled_at is null;
grant select on trailer_ends to lark_app, lark_limited;

-- What trips have reached, and when the truck left again.
create view trip_reached with (security_invoker = true) as
select g.trip_id, s.place_id, coalesce(s.left_at, s.delivered_at, s.refused_at, s.arrived_at) as at
from legs g join leg_ends le on le.leg_id = g.id
    join lateral (select x.*, row_number() over (order by x.seq) as n from stops x where x.load_id = g.load_id) s on s.n between le.first_after + 1 and le.last_after
where g.trip_id is not null and coalesce(s.left_at, s.delivered_at, s.refused_at, s.arrived_at) is not null
union all select g.trip_id, le.began_place_id, le.began_at from legs g join leg_ends le on le.leg_id = g.id where le.began_at is not null
union all select g.trip_id, le.ended_place_id, le.ended_at from legs g join leg_ends le on le.leg_id = g.id where le.ended_at is not null
union all select trip_id, place_id, coalesce(left_at, arrived_at) from trip_stops where arrived_at is not null;
grant select on trip_reached to lark_app, lark_limited;

-- A trailer is hooked where it is. Core says so in words; this is the last line, within a tenth of a degree.
create function trailer_hooked_where_it_is() returns trigger language plpgsql as $$
declare
    there record;
begin
    if new.kind <> 'hook' or new.skipped then
        return new;
    end if;
    select p.latitude, p.longitude into there from (
        select e.place_id, coalesce(b.ended_at, upper(b.scheduled)) as at
        from trips t join trips b on b.trailer_id = new.trailer_id and b.id <> t.id and b.canceled_at is null and lower(b.scheduled) < lower(t.scheduled)
            join trailer_ends e on e.trip_id = b.id
        where t.id = new.trip_id
        union all select place_id, at from unit_locations where trailer_id = new.trailer_id) x
        join places p on p.id = x.place_id order by x.at desc limit 1;
    if found and exists (
        select 1 from places h where h.id = new.place_id and (abs(h.latitude - there.latitude) > 0.1 or abs(h.longitude - there.longitude) > 0.15)) then
        raise exception 'Trailer % is not where trip % hooks it', new.trailer_id, new.trip_id using errcode = 'LK009';
    end if;
    return new;
end $$;
create trigger trailer_hooked_where_it_is before insert or update of kind, place_id, trailer_id on trip_stops for each row
    execute function trailer_hooked_where_it_is();

-- A leg's share of its load's revenue, in percent, as a user set it; by miles where it is null. All legs of a load have one, or none has.
alter table legs add column share numeric(5, 2) check (share between 0 and 100);
create function shares_are_whole() returns trigger language plpgsql as $$
begin
    if exists (
        select 1 from (select count(share) as shares, count(*) as legs, sum(share) as whole from legs where load_id = coalesce(new.load_id, old.load_id)) x
        where shares > 0 and (shares < legs or whole <> 100)) then
        raise exception 'The shares of the legs of load % do not make a whole', coalesce(new.load_id, old.load_id) using errcode = 'LK010';
    end if;
    return null;
end $$;
create constraint trigger shares_are_whole_after_change after insert or update of share, load_id on legs deferrable initially deferred for each row
    when (new.share is not null) execute function shares_are_whole();
create constraint trigger shares_are_whole_with_another after insert on legs deferrable initially deferred for each row
    when (new.seq > 1) execute function shares_are_whole();
create constraint trigger shares_are_whole_without after delete on legs deferrable initially deferred for each row
    when (old.share is not null) execute function shares_are_whole();

-- Trips as a list.
create view trip_list with (security_invoker = true) as
select t.id, t.number, t.name,
    case when t.canceled_at is not null then 'canceled' when t.ended_at is not null then 'ended' when t.started_at is not null then 'under way'
        else 'planned' end as state,
    d.name as driver, dg.name as driver_group, k.unit as truck, r.unit as trailer, r.equipment,
    g.loads, g.load_count, o.town || ' ' || o.region as origin, p.town || ' ' || p.region as destination,
    lower(t.scheduled) as begins, upper(t.scheduled) as ends, t.accepted_at as accepted, t.started_at as started, t.ended_at as ended,
    t.canceled_at as canceled,
    (select count(*)::int from trip_stops s where s.trip_id = t.id and not s.skipped) as own_stops,
    g.miles, g.empty_miles, g.driver_pay, g.cost
from trips t
join drivers d on d.id = t.driver_id
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
grant select on trip_list to lark_app, lark_limited;
