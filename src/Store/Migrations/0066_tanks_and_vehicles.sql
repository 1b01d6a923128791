-- Liquids in compartments and vehicles on decks: what trailers have, what loads carry, and where it was loaded.

create table products (
    id bigint generated always as identity primary key,
    name text not null check (length(trim(name)) between 1 and 60),
    -- Pounds per US gallon.
    lb_per_gallon numeric(6, 3) not null check (lb_per_gallon between 4 and 25),
    temperature_f integer check (temperature_f between -60 and 400),
    own_compartments boolean not null default false,
    -- Removed from the list; loads of the past still name it.
    active boolean not null default true,
    seq integer not null
);
create unique index products_name on products (lower(name)) where active;

create table product_rules (
    product_id bigint not null references products (id),
    other_id bigint not null references products (id),
    -- apart: not on one trailer together; wash: the product does not follow the other one without a wash.
    rule text not null check (rule in ('apart', 'wash')),
    primary key (product_id, other_id, rule),
    constraint product_rules_others check (product_id <> other_id)
);

create table body_styles (
    name text primary key check (length(trim(name)) between 1 and 30),
    length_in integer not null check (length_in between 40 and 600),
    width_in integer not null check (width_in between 20 and 140),
    height_in integer not null check (height_in between 20 and 170),
    weight_lb integer not null check (weight_lb between 50 and 40000),
    seq integer not null
);
-- Usual sizes, which the company may edit. Assumptions, not measures of any model.
insert into body_styles (name, length_in, width_in, height_in, weight_lb, seq) values
    ('sedan', 192, 73, 57, 3400, 1),
    ('compact', 176, 71, 58, 2950, 2),
    ('hatchback', 170, 71, 59, 2900, 3),
    ('wagon', 191, 73, 60, 3700, 4),
    ('coupe', 188, 74, 54, 3500, 5),
    ('convertible', 186, 74, 53, 3550, 6),
    ('small SUV', 181, 73, 66, 3550, 7),
    ('large SUV', 206, 80, 76, 5600, 8),
    ('minivan', 203, 79, 70, 4500, 9),
    ('pickup', 214, 79, 73, 4700, 10),
    ('crew cab pickup', 232, 80, 77, 5500, 11),
    ('cargo van', 236, 81, 108, 5300, 12),
    ('motorcycle', 90, 36, 50, 600, 13);

do $$
declare t text;
begin
    foreach t in array array['products', 'product_rules', 'body_styles'] loop
        execute format('grant select, insert, update, delete on %I to lark_app', t);
        execute format('grant select on %I to lark_limited', t);
        execute format('alter table %I enable row level security', t);
        execute format('create policy unlimited on %I to lark_app using (true) with check (true)', t);
        execute format('create policy limited on %I for select to lark_limited using (true)', t);
    end loop;
end $$;

-- Compartments from the front, in US gallons; decks with their names, inches and pounds.
alter table trailers
    add column compartments numeric(8, 1)[] not null default '{}',
    add column deck_names text[] not null default '{}',
    add column deck_lengths_in integer[] not null default '{}',
    add column deck_heights_in integer[] not null default '{}',
    add column deck_payloads_lb integer[] not null default '{}',
    add constraint trailers_compartments check (compartments = '{}' or (equipment = 'tanker' and cardinality(compartments) <= 12 and 0 < all (compartments))),
    add constraint trailers_decks check (
        (deck_names = '{}' or (equipment = 'car_hauler' and cardinality(deck_names) <= 6))
        and cardinality(deck_lengths_in) = cardinality(deck_names) and cardinality(deck_heights_in) = cardinality(deck_names)
        and cardinality(deck_payloads_lb) = cardinality(deck_names));

-- Freight that is so many gallons of a product, or a vehicle.
alter table freight_lines
    add column product_id bigint references products (id),
    add column gallons numeric(8, 1) check (gallons > 0),
    add column own_compartments boolean not null default false,
    add column vehicle_year integer check (vehicle_year between 1886 and 2200),
    add column vehicle_make text check (length(vehicle_make) <= 40),
    add column vehicle_model text check (length(vehicle_model) <= 40),
    add column vin text check (vin ~ '^[A-Z0-9]{1,17}$'),
    add column body_style text,
    -- Set for every vehicle, and for nothing else.
    add column runs boolean,
    add column has_keys boolean,
    add constraint freight_lines_bulk check ((product_id is null) = (gallons is null) and (product_id is not null or not own_compartments)),
    add constraint freight_lines_vehicle check (
        (runs is null) = (has_keys is null)
        and (runs is not null or num_nonnulls(vehicle_year, vehicle_make, vehicle_model, vin, body_style) = 0)
        and (runs is null or (product_id is null and pieces = 1)));
create index freight_lines_product on freight_lines (product_id) where product_id is not null;

-- Cash on delivery: what the driver collects, and what they did collect.
alter table loads
    add column cod numeric(12, 2) check (cod > 0),
    add column cod_collected numeric(12, 2) check (cod_collected >= 0),
    add column cod_method text check (cod_method in ('cash', 'check', 'money_order', 'electronic')),
    add column cod_collected_at timestamptz,
    add column cod_collected_by text,
    add constraint loads_cod_collected check (
        num_nonnulls(cod_collected, cod_collected_at, cod_collected_by, cod_method) in (0, 4) and (cod_collected is null or cod is not null));

-- Where the freight of a leg was loaded: compartment or deck from 0, with gallons, or 1 for a vehicle.
create table leg_places (
    leg_id bigint not null references legs (id) on delete cascade,
    line integer not null check (line > 0),
    place integer not null check (place >= 0),
    amount numeric(8, 1) not null check (amount > 0),
    primary key (leg_id, line, place)
);
grant select, insert, update, delete on leg_places to lark_app;
grant select on leg_places to lark_limited;
alter table leg_places enable row level security;
create policy unlimited on leg_places to lark_app using (true) with check (true);
create policy limited on leg_places for select to lark_limited using (exists (select 1 from legs g where g.id = leg_id));

-- A vehicle that does not run requires a winch; what takes vehicles under a roof is enclosed.
insert into trailer_features (name, seq)
select n, (select coalesce(max(seq), 0) from trailer_features) + at from unnest(array['winch', 'enclosed']) with ordinality as f (n, at)
where not exists (select 1 from trailer_features where name = n);

-- A vehicle is found by its VIN.
create or replace view load_search with (security_invoker = true) as
select l.id as ref_id, l.number as title,
    concat_ws(' · ', nullif(concat_ws(' to ', f.town, t.town), ''), c.name, l.state) as subtitle,
    concat_ws(' ', l.number, l.reference, c.name, replace(l.equipment, '_', ' '),
        (select string_agg(concat_ws(' ', p.name, p.town, p.region, s.note, s.received_by), ' ')
           from stops s left join places p on p.id = s.place_id where s.load_id = l.id),
        (select string_agg(concat_ws(' ', g.description, g.weight_lb, g.un_number, g.vin), ' ') from freight_lines g where g.load_id = l.id),
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
