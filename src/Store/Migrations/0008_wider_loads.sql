-- Freight with its size and its hazard (49 CFR 172.101 identification numbers: UN or NA and four digits).
alter table freight_lines
    add length_in int check (length_in > 0),
    add width_in int check (width_in > 0),
    add height_in int check (height_in > 0),
    add hazmat boolean not null default false,
    add un_number text check (un_number ~ '^(UN|NA)[0-9]{4}$'),
    add check (un_number is null or hazmat);

-- A charge is flat, or a rate times something of the load; the amount is what Core made of it.
alter table charges
    add basis text not null default 'flat' check (basis in ('flat', 'per_mile', 'per_cwt', 'percent')),
    add rate numeric(12, 4) check (rate >= 0),
    add quantity numeric(12, 2) check (quantity >= 0),
    add check ((basis = 'flat') = (rate is null)),
    add check ((rate is null) = (quantity is null));

create table load_references (
    load_id bigint not null references loads,
    seq int not null,
    kind text not null check (kind in ('purchase_order', 'bill_of_lading', 'pickup_number', 'delivery_number', 'order_number', 'seal', 'other')),
    value text not null check (length(value) between 1 and 60),
    primary key (load_id, seq)
);
create index load_references_value on load_references (lower(value));

-- Fields of the business's own, defined in Setup; a value is kept as text in the form its kind asks for.
create table own_fields (
    id bigint generated always as identity primary key,
    name text not null check (length(trim(name)) between 1 and 40),
    kind text not null check (kind in ('text', 'number', 'date', 'choice')),
    choices text[] not null default '{}',
    required boolean not null default false,
    seq int not null default 0,
    retired_at timestamptz,
    version int not null default 1,
    check ((kind = 'choice') = (cardinality(choices) > 0))
);
create unique index own_fields_name on own_fields (lower(name)) where retired_at is null;

create table load_own_values (
    load_id bigint not null references loads,
    field_id bigint not null references own_fields,
    value text not null check (length(value) between 1 and 400),
    primary key (load_id, field_id)
);

-- What the driver reads and what the carrier's paper says are two things.
alter table loads rename column instructions to driver_instructions;
alter table loads add carrier_instructions text;
update loads set carrier_instructions = driver_instructions;

-- A mark beside the state: why a load may not go on, who placed it, who let it pass and why.
create table holds (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    kind text not null check (kind in ('credit', 'paper', 'dispute')),
    reason text not null,
    placed_at timestamptz not null,
    placed_by bigint references users,
    lifted_at timestamptz,
    lifted_by bigint references users,
    lifted_why text,
    check ((lifted_at is null) = (lifted_why is null))
);
create unique index hold_standing_once on holds (load_id, kind) where lifted_at is null;

alter table companies add credit_limit numeric(12, 2) check (credit_limit >= 0);

create or replace function find_load(a_load bigint) returns void language sql as $$
    select find_put('load', l.id, l.number,
        concat_ws(' · ', nullif(concat_ws(' to ', f.town, t.town), ''), c.name, l.state),
        concat_ws(' ', l.number, l.reference, c.name, replace(l.equipment, '_', ' '),
            (select string_agg(concat_ws(' ', p.name, p.town, p.region, s.note, s.received_by), ' ') from stops s left join places p on p.id = s.place_id where s.load_id = l.id),
            (select string_agg(concat_ws(' ', g.description, g.weight_lb, g.un_number), ' ') from freight_lines g where g.load_id = l.id),
            (select string_agg(concat_ws(' ', d.name, 'truck', tk.unit, tr.unit, tp.number, cc.name), ' ')
               from legs g left join trips tp on tp.id = g.trip_id left join drivers d on d.id = tp.driver_id left join trucks tk on tk.id = tp.truck_id
               left join trailers tr on tr.id = tp.trailer_id left join companies cc on cc.id = g.carrier_id where g.load_id = l.id),
            (select string_agg(r.value, ' ') from load_references r where r.load_id = l.id),
            (select string_agg(v.value, ' ') from load_own_values v where v.load_id = l.id),
            l.driver_instructions, nullif(l.carrier_instructions, l.driver_instructions)),
        case l.state when 'rolling' then 5 when 'covered' then 4 when 'booked' then 3 when 'draft' then 2 when 'delivered' then 2 else 0 end)
    from loads l
    left join companies c on c.id = l.customer_id
    left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) f on true
    left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) t on true
    where l.id = a_load
$$;
