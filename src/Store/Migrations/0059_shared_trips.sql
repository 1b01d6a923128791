-- A truck can carry several loads at a time: a trip has one leg or several, and its visits say in which order it reaches their stops.

-- The order of a trip with several legs. A trip with one leg goes in the order of its load.
create table trip_visits (
    trip_id bigint not null references trips (id) on delete cascade,
    seq integer not null check (seq > 0),
    stop_id bigint unique references stops (id) on delete cascade,
    transfer_id bigint references transfers (id) on delete cascade,
    primary key (trip_id, seq),
    unique (trip_id, transfer_id),
    check ((stop_id is null) <> (transfer_id is null))
);
create index trip_visits_transfer on trip_visits (transfer_id) where transfer_id is not null;
grant select, insert, delete on trip_visits to lark_app;
grant select on trip_visits to lark_limited;
alter table trip_visits enable row level security;
create policy unlimited on trip_visits to lark_app using (true) with check (true);
create policy limited on trip_visits for select to lark_limited using (exists (select 1 from trips t where t.id = trip_id));

-- Every visit is of a leg on the trip, and each load's stops are visited in the load's order.
create function visits_of_their_trip(the_trip bigint) returns void language plpgsql as $$
begin
    if exists (
        select 1 from trip_visits v left join stops s on s.id = v.stop_id left join transfers x on x.id = v.transfer_id
        where v.trip_id = the_trip and not exists (
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
end $$;
create function trip_visits_in_order() returns trigger language plpgsql as $$
begin
    perform visits_of_their_trip(new.trip_id);
    return null;
end $$;
create constraint trigger trip_visits_in_order after insert or update on trip_visits deferrable initially deferred for each row
    execute function trip_visits_in_order();
create function leg_leaves_its_visits() returns trigger language plpgsql as $$
begin
    perform visits_of_their_trip(old.trip_id);
    return null;
end $$;
create constraint trigger leg_leaves_its_visits after update of trip_id on legs deferrable initially deferred for each row
    when (old.trip_id is not null and old.trip_id is distinct from new.trip_id) execute function leg_leaves_its_visits();

-- Where each trip ends: its last visit, or the end of its only leg.
create view trip_ends with (security_invoker = true) as
select t.id as trip_id, coalesce(
    (select coalesce(s.place_id, x.place_id) from trip_visits v left join stops s on s.id = v.stop_id left join transfers x on x.id = v.transfer_id
        where v.trip_id = t.id order by v.seq desc limit 1),
    (select coalesce(le.ended_place_id, (select s.place_id from stops s where s.load_id = g.load_id order by s.seq desc limit 1))
        from legs g join leg_ends le on le.leg_id = g.id where g.trip_id = t.id order by g.id limit 1)) as place_id
from trips t;
grant select on trip_ends to lark_app, lark_limited;

-- What a trailer holds and a truck weighs; by the kind of equipment when it is not entered.
alter table trailers
    add column length_in integer check (length_in between 60 and 900),
    add column width_in integer check (width_in between 40 and 140),
    add column height_in integer check (height_in between 40 and 180),
    add column payload_lb integer check (payload_lb between 1 and 200000),
    add column tare_lb integer check (tare_lb between 1 and 100000);
alter table trucks add column tare_lb integer check (tare_lb between 1 and 100000);
-- Freight class: as entered; by density where it is null.
alter table freight_lines
    add column stackable boolean not null default false,
    add column freight_class numeric(4, 1) check (freight_class in (50, 55, 60, 65, 70, 77.5, 85, 92.5, 100, 110, 125, 150, 175, 200, 250, 300, 400, 500));

-- A leg's part of its truck's loaded miles: all of them when the truck carries nothing else, so that the legs of a trip add up to it.
alter table legs add column truck_miles integer check (truck_miles >= 0);
update legs set truck_miles = miles where expected_pay is not null;
alter table legs
    add constraint legs_truck_miles_of_a_trip check (trip_id is not null or truck_miles is null),
    drop constraint legs_cost_complete,
    add constraint legs_cost_complete check (expected_pay is null or (truck_miles is not null and empty_miles is not null and truck_days is not null));
create or replace function forget_expected_pay() returns trigger language plpgsql as $$
begin
    new.expected_pay := null;
    new.truck_miles := null;
    new.empty_miles := null;
    new.truck_days := null;
    return new;
end $$;
