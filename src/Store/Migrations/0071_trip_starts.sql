-- Where a trip starts and ends, and when it is to start.

alter table trip_stops
    drop constraint trip_stops_kind_check,
    add constraint trip_stops_kind_check check (kind in ('hook', 'drop', 'fuel', 'scale', 'wash', 'yard', 'border', 'waypoint', 'start', 'end')),
    add column planned_at timestamptz,
    add constraint trip_stops_planned check (planned_at is null or kind = 'start');
drop index trip_stops_hook_once;
create unique index trip_stops_once on trip_stops (trip_id, kind) where kind in ('hook', 'drop', 'start', 'end') and not skipped;

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
    if exists (
        select 1 from trip_visits v join trip_stops o on o.id = v.trip_stop_id join trip_visits f on f.trip_id = v.trip_id
        where v.trip_id = the_trip and ((o.kind = 'start' and f.seq < v.seq) or (o.kind = 'end' and f.seq > v.seq))) then
        raise exception 'Trip % makes a visit before it starts or after it ends', the_trip using errcode = 'LK008';
    end if;
end $$;
