-- A load changes trucks at a transfer: one leg ends there and the next begins. Either leg may be ours or a carrier's.
create table transfers (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    place_id bigint not null references places,
    happened_at timestamptz not null,
    after_seq integer,
    unique (id, load_id)
);
create index transfers_load on transfers (load_id);
alter table transfers enable row level security;
grant select, insert, delete on transfers to lark_app;
grant select on transfers to lark_limited;
create policy unlimited on transfers to lark_app using (true) with check (true);
create policy limited on transfers for select to lark_limited using (exists (select 1 from loads l where l.id = load_id));

insert into transfers (load_id, place_id, happened_at, after_seq)
select load_id, handover_place_id, handed_over_at, seq from legs where handed_over_at is not null order by id;

alter table legs
    add begins_at bigint unique,
    add constraint legs_begin_in_their_load foreign key (begins_at, load_id) references transfers (id, load_id);
update legs g set begins_at = t.id from transfers t where t.load_id = g.load_id and t.after_seq = g.seq - 1;
alter table transfers drop column after_seq;
alter table legs
    add constraint legs_first_or_transferred check ((seq = 1) = (begins_at is null)),
    drop column handed_over_at,
    drop column handover_place_id,
    drop constraint legs_agreed_check,
    add constraint legs_agreed_check check (agreed >= 0);

-- When and where a leg took the freight from the one before, and gave it to the next one; null at the ends of the load.
create view leg_ends with (security_invoker = true) as
select g.id as leg_id, g.load_id, g.seq, b.happened_at as began_at, b.place_id as began_place_id, e.happened_at as ended_at,
    e.place_id as ended_place_id
from legs g
left join transfers b on b.id = g.begins_at
left join legs n on n.load_id = g.load_id and n.seq = g.seq + 1
left join transfers e on e.id = n.begins_at;
grant select on leg_ends to lark_app, lark_limited;

-- What a carrier was paid until it was replaced on the way stays on record, and stands again if the transfer is undone.
alter table carrier_charges
    add until_transfer bigint references transfers,
    drop constraint carrier_charges_leg_id_seq_key;
create unique index carrier_charges_in_order on carrier_charges (leg_id, seq) where until_transfer is null;
grant update (until_transfer) on carrier_charges to lark_app;

create or replace function agreed_equals_charges() returns trigger language plpgsql as $$
declare
    the_leg bigint := case tg_table_name when 'legs' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'leg_id')::bigint end;
begin
    if (select coalesce(agreed, 0) from legs where id = the_leg) <> (select coalesce(sum(amount), 0) from carrier_charges where leg_id = the_leg and until_transfer is null) then
        raise exception 'The charges of leg % do not add up to its agreed amount', the_leg using errcode = 'LK002';
    end if;
    -- Only a carrier that was replaced on the way may be paid nothing.
    if exists (select 1 from legs g where g.id = the_leg and g.agreed = 0 and not exists (select 1 from legs n where n.load_id = g.load_id and n.seq = g.seq + 1)) then
        raise exception 'The carrier of leg % has the load and is paid nothing', the_leg using errcode = 'LK002';
    end if;
    return null;
end $$;
