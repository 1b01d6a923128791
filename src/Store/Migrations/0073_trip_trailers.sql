-- Trailers that change on the way, and two at a time: each trailer of a trip is booked for its own part of it.

create table trip_trailers (
    trip_id bigint not null references trips (id) on delete cascade,
    trailer_id bigint not null references trailers (id),
    -- 1 for the trailer the trip is assigned; the others in the order in which they are hooked.
    seq integer not null check (seq between 1 and 20),
    -- When it is planned to be hooked and dropped on the way; null for from the trip's beginning and to its end.
    from_at timestamptz,
    until_at timestamptz,
    -- When it was.
    hooked_at timestamptz,
    dropped_at timestamptz,
    -- These follow from the columns above and the trip.
    scheduled tstzrange not null,
    started_at timestamptz,
    ended_at timestamptz,
    canceled_at timestamptz,
    primary key (trip_id, trailer_id)
);
insert into trip_trailers
select t.id, t.trailer_id, 1,
    case when exists (select 1 from trip_stops o where o.trip_id = t.id and o.kind = 'hook' and not o.skipped) then lower(t.scheduled) end,
    case when exists (select 1 from trip_stops o where o.trip_id = t.id and o.kind = 'drop' and not o.skipped) then upper(t.scheduled) end,
    (select coalesce(o.left_at, o.arrived_at) from trip_stops o where o.trip_id = t.id and o.kind = 'hook' and not o.skipped),
    (select o.left_at from trip_stops o where o.trip_id = t.id and o.kind = 'drop' and not o.skipped),
    t.scheduled, t.started_at, t.ended_at, t.canceled_at
from trips t where t.trailer_id is not null;

alter table trips drop constraint trailer_scheduled_once;
drop index trailer_under_way_once;
drop index trips_trailer_begin;
alter table trip_trailers add constraint trailer_scheduled_once exclude using gist (trailer_id with =, scheduled with &&)
    where (canceled_at is null and ended_at is null) deferrable initially immediate;
create unique index trailer_under_way_once on trip_trailers (trailer_id) where started_at is not null and ended_at is null and canceled_at is null;
create index trip_trailers_begin on trip_trailers (trailer_id, lower(scheduled) desc) where canceled_at is null;
create index trips_trailer on trips (trailer_id, id desc) where trailer_id is not null;
grant select, insert, update, delete on trip_trailers to lark_app;
grant select on trip_trailers to lark_limited;
alter table trip_trailers enable row level security;
create policy unlimited on trip_trailers to lark_app using (true) with check (true);
create policy limited on trip_trailers for select to lark_limited using (exists (select 1 from trips t where t.id = trip_id));

create function trailer_follows_trip() returns trigger language plpgsql as $$
begin
    select tstzrange(least(greatest(new.from_at, lower(t.scheduled)), upper(t.scheduled)),
            greatest(least(new.until_at, upper(t.scheduled)), least(greatest(new.from_at, lower(t.scheduled)), upper(t.scheduled)))),
        case when new.from_at is null then t.started_at else new.hooked_at end,
        coalesce(new.dropped_at, t.ended_at), t.canceled_at
    into new.scheduled, new.started_at, new.ended_at, new.canceled_at
    from trips t where t.id = new.trip_id;
    return new;
end $$;
create trigger trailer_follows_trip before update on trip_trailers for each row execute function trailer_follows_trip();
create trigger trailer_follows_trip_from_the_first before insert on trip_trailers for each row
    when (new.scheduled is null) execute function trailer_follows_trip();

update trip_trailers set seq = seq where from_at is not null or until_at is not null;

create function trailers_of_new_trips() returns trigger language plpgsql as $$
begin
    insert into trip_trailers (trip_id, trailer_id, seq, scheduled, started_at, ended_at, canceled_at)
    select id, trailer_id, 1, scheduled, started_at, ended_at, canceled_at from added where trailer_id is not null;
    return null;
end $$;
create trigger trailers_of_new_trips after insert on trips referencing new table as added for each statement execute function trailers_of_new_trips();

create function trailers_follow_trip() returns trigger language plpgsql as $$
begin
    if new.trailer_id is distinct from old.trailer_id then
        delete from trip_trailers where trip_id = new.id and trailer_id = old.trailer_id;
        insert into trip_trailers (trip_id, trailer_id, seq) select new.id, new.trailer_id, 1 where new.trailer_id is not null
        on conflict (trip_id, trailer_id) do update set seq = 1;
    end if;
    update trip_trailers set seq = seq where trip_id = new.id;
    return null;
end $$;
create trigger trailers_follow_trip after update on trips for each row
    when ((old.trailer_id, old.scheduled, old.started_at, old.ended_at, old.canceled_at)
        is distinct from (new.trailer_id, new.scheduled, new.started_at, new.ended_at, new.canceled_at))
    execute function trailers_follow_trip();

-- The trailer a leg's freight is in when that is not the one its trip is assigned.
alter table legs
    add column trailer_id bigint,
    add constraint legs_trailer_of_trip foreign key (trip_id, trailer_id) references trip_trailers (trip_id, trailer_id) deferrable initially deferred;
create index legs_trailer on legs (trailer_id) where trailer_id is not null;
create function forget_trailer() returns trigger language plpgsql as $$
begin
    new.trailer_id := null;
    return new;
end $$;
create trigger trailer_forgotten before update of trip_id on legs for each row
    when (old.trailer_id is not null and new.trip_id is distinct from old.trip_id) execute function forget_trailer();

-- A trip may hook and drop several trailers, and one of them again.
drop index trip_stops_once;
create unique index trip_stops_once on trip_stops (trip_id, kind) where kind in ('start', 'end') and not skipped;

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
    -- At a load's stop its trailer was hooked last, not dropped; and where it is only hooked or dropped later, it is dropped first.
    if exists (
        select 1 from trip_visits f join stops s on s.id = f.stop_id
            join legs g on g.trip_id = f.trip_id and g.load_id = s.load_id join trips t on t.id = f.trip_id
            cross join lateral (
                select (select o.kind from trip_visits v join trip_stops o on o.id = v.trip_stop_id
                        where v.trip_id = f.trip_id and v.seq < f.seq and o.trailer_id = coalesce(g.trailer_id, t.trailer_id) order by v.seq desc limit 1) as before,
                    (select o.kind from trip_visits v join trip_stops o on o.id = v.trip_stop_id
                        where v.trip_id = f.trip_id and v.seq > f.seq and o.trailer_id = coalesce(g.trailer_id, t.trailer_id) order by v.seq limit 1) as after) x
        where f.trip_id = the_trip and (x.before = 'drop' or (x.before is null and x.after = 'hook'))) then
        raise exception 'Trip % has freight while its trailer is not hooked', the_trip using errcode = 'LK008';
    end if;
    if exists (
        select 1 from trip_visits v join trip_stops o on o.id = v.trip_stop_id join trip_visits f on f.trip_id = v.trip_id
        where v.trip_id = the_trip and ((o.kind = 'start' and f.seq < v.seq) or (o.kind = 'end' and f.seq > v.seq))) then
        raise exception 'Trip % makes a visit before it starts or after it ends', the_trip using errcode = 'LK008';
    end if;
end $$;

-- Where each trip leaves each of its trailers: where it is dropped, by itself or with its freight, or where the trip itself ends.
create or replace view trailer_ends with (security_invoker = true) as
select t.trip_id, t.trailer_id, coalesce(
    case when t.until_at is not null then coalesce(
        (select o.place_id from trip_stops o left join trip_visits v on v.trip_stop_id = o.id
            where o.trip_id = t.trip_id and o.trailer_id = t.trailer_id and o.kind = 'drop' and not o.skipped order by v.seq desc nulls last limit 1),
        (select x.place_id from legs g join leg_ends le on le.leg_id = g.id join transfers x on x.id = le.ends_id
            where g.trip_id = t.trip_id and g.trailer_id = t.trailer_id and x.method <> 'transload' order by g.id desc limit 1)) end,
    l.place_id) as place_id
from trip_trailers t join trip_last_visits l on l.trip_id = t.trip_id where t.canceled_at is null;

create or replace function trailer_hooked_where_it_is() returns trigger language plpgsql as $$
declare
    there record;
begin
    if new.kind <> 'hook' or new.skipped
        -- Where the trip itself leaves it before.
        or exists (select 1 from trip_stops o where o.trip_id = new.trip_id and o.trailer_id = new.trailer_id and o.kind = 'drop' and not o.skipped) then
        return new;
    end if;
    select p.latitude, p.longitude into there from (
        select e.place_id, coalesce(b.ended_at, upper(b.scheduled)) as at
        from trips t join trip_trailers b on b.trailer_id = new.trailer_id and b.trip_id <> t.id and b.canceled_at is null
            and lower(b.scheduled) < coalesce((select lower(h.scheduled) from trip_trailers h where h.trip_id = t.id and h.trailer_id = new.trailer_id), upper(t.scheduled))
            join trailer_ends e on e.trip_id = b.trip_id and e.trailer_id = b.trailer_id
        where t.id = new.trip_id
        union all select place_id, at from unit_locations where trailer_id = new.trailer_id) x
        join places p on p.id = x.place_id order by x.at desc limit 1;
    if found and exists (
        select 1 from places h where h.id = new.place_id and (abs(h.latitude - there.latitude) > 0.1 or abs(h.longitude - there.longitude) > 0.15)) then
        raise exception 'Trailer % is not where trip % hooks it', new.trailer_id, new.trip_id using errcode = 'LK009';
    end if;
    return new;
end $$;

drop policy limited on unit_locations;
create policy limited on unit_locations for select to lark_limited using (
    (select view_ids('driverGroups'::text)) is null
    or exists (select 1 from trips t where t.truck_id = unit_locations.truck_id)
    or exists (select 1 from trip_trailers t where t.trailer_id = unit_locations.trailer_id));

-- Lists and search name the trailers that are meant.
do $$
declare
    v record;
    was text;
    becomes text;
begin
    for v in select * from (values
        ('load_list', 'u_1.id = t.trailer_id', 'u_1.id = coalesce(g.trailer_id, t.trailer_id)'),
        ('load_search', 'tr.id = tp.trailer_id', 'tr.id = coalesce(g.trailer_id, tp.trailer_id)'),
        ('trip_list', 'r.unit AS trailer', 'coalesce((select string_agg(u.unit, '', '' order by x.seq) from trip_trailers x join trailers u on u.id = x.trailer_id'
            ' where x.trip_id = t.id), r.unit) AS trailer')) x (name, old, new)
    loop
        was := pg_get_viewdef(v.name::regclass);
        becomes := replace(was, v.old, v.new);
        if becomes = was then
            raise exception 'The view % is not as expected', v.name;
        end if;
        execute format('create or replace view %I with (security_invoker = true) as %s', v.name, becomes);
    end loop;
end $$;
