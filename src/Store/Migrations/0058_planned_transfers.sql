-- A transfer is planned before it happens: the freight is left there, and taken by the next truck, at once or later.
alter table transfers
    add after_stops integer,
    add planned_at timestamptz,
    add left_at timestamptz,
    add taken_at timestamptz,
    add method text not null default 'transload' check (method in ('drop', 'swap', 'transload'));
-- Until now a stop belonged to the leg under way when it was reached.
update transfers t set left_at = happened_at, taken_at = happened_at, after_stops = (select count(*) from stops s
    where s.load_id = t.load_id and coalesce(s.delivered_at, s.left_at, s.refused_at) <= t.happened_at);
drop view leg_ends;
alter table transfers
    drop column happened_at,
    alter column after_stops set not null,
    alter column method drop default,
    add constraint transfers_after_stops check (after_stops >= 0),
    add constraint transfers_left_or_planned check (left_at is not null or planned_at is not null),
    add constraint transfers_taken_after_left check (taken_at is null or (left_at is not null and taken_at >= left_at));
grant update on transfers to lark_app;

-- Both ends of each leg; null at the ends of the load. A leg has the stops after first_after up to last_after.
create view leg_ends with (security_invoker = true) as
select g.id as leg_id, g.load_id, g.seq, b.id as begins_id, b.taken_at as began_at, b.place_id as began_place_id,
    coalesce(b.after_stops, 0) as first_after, e.id as ends_id, e.left_at as ended_at, e.place_id as ended_place_id,
    coalesce(e.after_stops, 2147483647) as last_after
from legs g
left join transfers b on b.id = g.begins_at
left join legs n on n.load_id = g.load_id and n.seq = g.seq + 1
left join transfers e on e.id = n.begins_at;
grant select on leg_ends to lark_app, lark_limited;

-- Transfers are in the order of the legs and of the stops, and happen in that order.
create function transfers_in_order() returns trigger language plpgsql as $$
declare
    the_load bigint := coalesce(new.load_id, old.load_id);
begin
    if exists (
        select 1 from (
            select t.*, lag(t.after_stops) over w as after_before, lag(t.id) over w as before, lag(t.taken_at) over w as taken_before,
                (select count(*) from stops s where s.load_id = t.load_id) as stops
            from transfers t join legs g on g.begins_at = t.id where t.load_id = the_load window w as (order by g.seq)) x
        where after_stops < after_before or (stops > 0 and after_stops >= stops)
            or (before is not null and left_at is not null and (taken_before is null or left_at < taken_before))) then
        raise exception 'The transfers of load % are not in order', the_load using errcode = 'LK007';
    end if;
    return null;
end $$;
create constraint trigger transfers_in_order after insert or update on transfers deferrable initially deferred for each row
    execute function transfers_in_order();

-- A stop is reached only with the freight: not before the transfers ahead of it.
create function stop_after_transfers() returns trigger language plpgsql as $$
begin
    if exists (select 1 from transfers t where t.load_id = new.load_id and t.after_stops < new.seq and t.taken_at is null) then
        raise exception 'Stop % of load % is reached before its freight was taken', new.seq, new.load_id using errcode = 'LK007';
    end if;
    return null;
end $$;
create constraint trigger stop_after_transfers after update of arrived_at, left_at, delivered_at, refused_at on stops deferrable initially deferred
    for each row when (coalesce(new.arrived_at, new.left_at, new.delivered_at, new.refused_at) is not null) execute function stop_after_transfers();

-- Legs are renumbered when one is inserted or removed before them.
alter table legs drop constraint legs_load_id_seq_key, add constraint legs_load_id_seq_key unique (load_id, seq) deferrable initially immediate;

-- The first leg, from the one in progress on, that has no truck for certain: nobody has it, or a carrier has not answered.
alter table loads add to_cover integer check (to_cover > 0);
update loads l set to_cover = (select max(g.seq) from legs g where g.load_id = l.id) where state in ('booked', 'tendered');
alter table loads
    add constraint loads_open_to_cover check (to_cover is not null or state not in ('booked', 'tendered')),
    add constraint loads_to_cover_ahead check (to_cover is null or state in ('booked', 'tendered', 'covered', 'rolling'));
create index loads_to_cover on loads (first_at, id) where to_cover is not null;

-- The leg of a rate confirmation, and the tender that an email is about.
alter table documents add leg_id bigint references legs on delete set null;
update documents d set leg_id = g.id from legs g where d.kind = 'rate_confirmation' and g.load_id = d.load_id and g.carrier_id is not null
    and not exists (select 1 from legs o where o.load_id = g.load_id and o.id <> g.id);
create index documents_leg on documents (leg_id) where leg_id is not null;
alter table emails add tender_id bigint references tenders;
update emails set tender_id = awaits_tender_id where awaits_tender_id is not null;
create index emails_tender on emails (tender_id) where tender_id is not null;

create or replace function agreed_equals_charges() returns trigger language plpgsql as $$
declare
    the_leg bigint := case tg_table_name when 'legs' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'leg_id')::bigint end;
begin
    if (select coalesce(agreed, 0) from legs where id = the_leg) <> (select coalesce(sum(amount), 0) from carrier_charges where leg_id = the_leg and until_transfer is null) then
        raise exception 'The charges of leg % do not add up to its agreed amount', the_leg using errcode = 'LK002';
    end if;
    -- Only a carrier that gave up the load on the way may be paid nothing.
    if exists (select 1 from legs g join leg_ends le on le.leg_id = g.id where g.id = the_leg and g.agreed = 0 and le.ended_at is null) then
        raise exception 'The carrier of leg % has the load and is paid nothing', the_leg using errcode = 'LK002';
    end if;
    return null;
end $$;
