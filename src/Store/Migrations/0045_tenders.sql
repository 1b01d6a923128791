-- A tender is open until the carrier answers or it expires; what a carrier is paid has lines; who comes for the freight is known.
alter table tenders rename column withdrawn_at to ended_at;
alter table tenders
    add column expires_at timestamptz,
    add column accepted_via text check (accepted_via in ('link', 'phone')),
    add column signed_at timestamptz,
    add column signed_by text,
    add column revision int not null default 1 check (revision > 0),
    add column ended_as text check (ended_as in ('withdrawn', 'declined', 'expired', 'replaced')),
    add column ended_by text,
    add column ended_why text;
update tenders set accepted_via = 'link', signed_at = accepted_at, signed_by = accepted_by where accepted_at is not null;
update tenders set ended_as = 'withdrawn' where ended_at is not null;
alter table tenders
    add check ((accepted_at is null) = (accepted_via is null)),
    add check ((signed_at is null) = (signed_by is null)),
    add check (signed_at is null or accepted_at is not null),
    add check ((ended_at is null) = (ended_as is null)),
    add constraint tender_ended_unaccepted check (ended_as not in ('expired', 'declined') or accepted_at is null),
    add check (expires_at > sent_at);
create index tenders_waiting on tenders (expires_at) where accepted_at is null and ended_at is null;
create index tenders_leg on tenders (leg_id);

alter table legs
    add column carrier_driver text,
    add column carrier_driver_phone text,
    add column carrier_truck text,
    add column carrier_trailer text,
    add constraint carrier_driver_of_carrier check (carrier_driver is null or carrier_id is not null),
    add constraint carrier_driver_complete check ((carrier_driver is null) = (carrier_driver_phone is null) and (carrier_driver is null) = (carrier_truck is null)),
    add check (carrier_trailer is null or carrier_driver is not null);

create table carrier_charges (
    id bigint generated always as identity primary key,
    leg_id bigint not null references legs,
    seq int not null,
    kind text not null,
    description text,
    amount numeric(12, 2) not null constraint carrier_charge_sign check (case when kind = 'discount' then amount < 0 else amount > 0 end),
    authorized_by text,
    authorized_on date,
    authorization_reference text,
    unique (leg_id, seq),
    check (authorized_by is not null or (authorized_on is null and authorization_reference is null))
);
insert into carrier_charges (leg_id, seq, kind, amount) select id, 1, 'line_haul', agreed from legs where carrier_id is not null;

create function agreed_equals_charges() returns trigger language plpgsql as $$
declare
    the_leg bigint := case tg_table_name when 'legs' then (to_jsonb(coalesce(new, old)) ->> 'id')::bigint else (to_jsonb(coalesce(new, old)) ->> 'leg_id')::bigint end;
begin
    if (select coalesce(agreed, 0) from legs where id = the_leg) <> (select coalesce(sum(amount), 0) from carrier_charges where leg_id = the_leg) then
        raise exception 'The charges of leg % do not add up to its agreed amount', the_leg using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger agreed_equals_charges after insert or update of agreed on legs deferrable initially deferred for each row execute function agreed_equals_charges();
create constraint trigger agreed_equals_charges after insert or update or delete on carrier_charges deferrable initially deferred for each row execute function agreed_equals_charges();

alter table carrier_charges enable row level security;
grant select, insert, delete on carrier_charges to lark_app;
grant select on carrier_charges to lark_limited;
create policy unlimited on carrier_charges to lark_app using (true) with check (true);
create policy limited on carrier_charges for select to lark_limited using (exists (select 1 from legs g where g.id = leg_id));

alter table loads drop constraint loads_state_check;
alter table loads add constraint loads_state_check check (state in ('draft', 'quoted', 'booked', 'tendered', 'covered', 'rolling', 'delivered', 'billed', 'closed', 'cancelled'));
update loads l set state = 'tendered' where l.state = 'covered' and exists (select 1 from legs g join tenders t on t.leg_id = g.id and
    t.ended_at is null and t.accepted_at is null where g.load_id = l.id);
drop index loads_under_way;
create index loads_under_way on loads (customer_id) include (revenue) where state in ('booked', 'tendered', 'covered', 'rolling', 'delivered');

-- A canceled load may keep one charge, for the truck that was ordered and not used.
alter table charges drop constraint charges_kind_check;
alter table charges add constraint charges_kind_check check (kind in ('line_haul', 'fuel_surcharge', 'extra_stop', 'detention', 'lumper',
    'layover', 'tarp', 'other', 'truck_ordered_not_used', 'discount'));
create index charges_not_used on charges (load_id) where kind = 'truck_ordered_not_used';

alter table carriers
    add column liability_limit numeric(12, 2) check (liability_limit > 0),
    add column cargo_limit numeric(12, 2) check (cargo_limit > 0),
    add column safety_rating text not null default 'none' check (safety_rating in ('none', 'satisfactory', 'conditional', 'unsatisfactory')),
    add column agreement_on date;
alter table business
    add column tender_hours int not null default 4 check (tender_hours between 1 and 168),
    add column min_liability numeric(12, 2) check (min_liability > 0),
    add column min_cargo numeric(12, 2) check (min_cargo > 0),
    add column agreement_required boolean not null default false,
    add column refuse_conditional boolean not null default false,
    -- Detention as our rate confirmations offer it to carriers.
    add column carrier_free_minutes int not null default 120 check (carrier_free_minutes between 0 and 2880),
    add column carrier_detention numeric(12, 2) check (carrier_detention > 0),
    add column carrier_detention_cap numeric(12, 2) check (carrier_detention_cap > 0);
-- As agreed with a customer; none without an hourly rate.
alter table billing_settings
    add column free_minutes int not null default 120 check (free_minutes between 0 and 2880),
    add column detention numeric(12, 2) check (detention > 0),
    add column detention_cap numeric(12, 2) check (detention_cap > 0);

create or replace view load_search with (security_invoker = true) as
select l.id as ref_id, l.number as title,
    concat_ws(' · ', nullif(concat_ws(' to ', f.town, t.town), ''), c.name, l.state) as subtitle,
    concat_ws(' ', l.number, l.reference, c.name, replace(l.equipment, '_', ' '),
        (select string_agg(concat_ws(' ', p.name, p.town, p.region, s.note, s.received_by), ' ')
           from stops s left join places p on p.id = s.place_id where s.load_id = l.id),
        (select string_agg(concat_ws(' ', g.description, g.weight_lb, g.un_number), ' ') from freight_lines g where g.load_id = l.id),
        (select string_agg(concat_ws(' ', d.name, 'truck', tk.unit, tr.unit, tp.number, cc.name), ' ')
           from legs g left join trips tp on tp.id = g.trip_id left join drivers d on d.id = tp.driver_id left join trucks tk on tk.id = tp.truck_id
           left join trailers tr on tr.id = tp.trailer_id left join companies cc on cc.id = g.carrier_id where g.load_id = l.id),
        (select string_agg(r.value, ' ') from load_references r where r.load_id = l.id),
        (select string_agg(v.value, ' ') from custom_values v where v.load_id = l.id),
        l.driver_instructions, nullif(l.carrier_instructions, l.driver_instructions)) as words,
    case l.state when 'rolling' then 5 when 'covered' then 4 when 'tendered' then 3 when 'booked' then 3 when 'draft' then 2 when 'delivered' then 2 else 0 end as weight
from loads l
left join companies c on c.id = l.customer_id
left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) f on true
left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) t on true;
