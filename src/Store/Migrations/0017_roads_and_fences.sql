-- What a person decided on the way to a stop: miles by hand, with who and why, and the points it is led over. Beside it what the roads say.
alter table stops
    add road_miles numeric(7,1) check (road_miles >= 0),
    add miles_set int check (miles_set between 0 and 6000),
    add miles_why text,
    add miles_by text,
    add miles_at timestamptz,
    add via_names text[] not null default '{}',
    add via_latitudes double precision[] not null default '{}',
    add via_longitudes double precision[] not null default '{}',
    add check ((miles_set is null) = (miles_why is null) and (miles_set is null) = (miles_by is null) and (miles_set is null) = (miles_at is null)),
    add check (cardinality(via_names) = cardinality(via_latitudes) and cardinality(via_names) = cardinality(via_longitudes) and cardinality(via_names) <= 20);

-- What a place needs known: its fence on the map (a circle about it, or a polygon), docks, hours, usual time at them, how one gets an appointment.
alter table places
    add fence_miles numeric(6,3) check (fence_miles between 0.02 and 50),
    add fence_latitudes double precision[],
    add fence_longitudes double precision[],
    add docks text,
    add hours text,
    add service_minutes int check (service_minutes between 5 and 1440),
    add appointments text,
    add booking_note text,
    add check ((fence_latitudes is null) = (fence_longitudes is null)),
    add check (fence_latitudes is null or (cardinality(fence_latitudes) between 3 and 200 and cardinality(fence_latitudes) = cardinality(fence_longitudes))),
    add check (fence_miles is null or fence_latitudes is null);

-- What the house reckons with.
alter table business
    add fence_miles numeric(6,3) not null default 0.5 check (fence_miles between 0.02 and 50),
    add least_per_mile numeric(6,2) not null default 1.90 check (least_per_mile between 0 and 100),
    add rate_step numeric(8,2) not null default 25 check (rate_step between 0.01 and 1000),
    add miles_per_gallon numeric(4,1) not null default 6.5 check (miles_per_gallon between 1 and 50),
    add fuel_price numeric(6,3) not null default 3.850 check (fuel_price between 0 and 50),
    add driver_per_mile numeric(6,3) not null default 0.600 check (driver_per_mile between 0 and 50),
    add fixed_per_mile numeric(6,3) not null default 0.280 check (fixed_per_mile between 0 and 50),
    add fixed_per_day numeric(8,2) not null default 210 check (fixed_per_day between 0 and 100000),
    add toll_per_mile numeric(6,3) not null default 0.450 check (toll_per_mile between 0 and 50);

-- What a trip costs beside its driver: as expected, and as it came out.
create table trip_costs (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    kind text not null check (kind in ('fuel', 'toll', 'lodging', 'scale', 'wash', 'other')),
    expected numeric(14,2) check (expected >= 0),
    actual numeric(14,2) check (actual >= 0),
    note text,
    entered_by text not null,
    at timestamptz not null,
    taken_back_at timestamptz,
    taken_back_by text,
    check (expected is not null or actual is not null),
    check ((taken_back_at is null) = (taken_back_by is null))
);
create index trip_costs_load on trip_costs (load_id) where taken_back_at is null;

drop view place_list;
create view place_list as
select p.id, p.name, p.address, p.town, p.region, p.country, p.zone, p.docks, p.hours, p.service_minutes as service, p.appointments, p.booking_note, p.note,
    (select count(*) from stops s where s.place_id = p.id) as stops,
    (select max(s.arrived_at) from stops s where s.place_id = p.id) as last
from places p;

-- Many small stops laid into runs. What was asked and what came of it are read as wholes; a server that thinks one over says how far it is.
create table run_plans (
    id bigint generated always as identity primary key,
    name text not null check (length(trim(name)) between 1 and 120),
    ask jsonb not null,
    plan jsonb,
    state text not null check (state in ('thinking', 'ready', 'failed')),
    progress real not null default 0 check (progress between 0 and 1),
    cost double precision,
    cancel_asked boolean not null default false,
    said text,
    made_by text not null,
    made_at timestamptz not null,
    changed_at timestamptz not null,
    version int not null default 1
);
create index run_plans_newest on run_plans (changed_at desc);
