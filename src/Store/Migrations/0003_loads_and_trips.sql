create table loads (
    id bigint generated always as identity primary key,
    number text not null unique,
    -- Derived by Core from what happened; stored only to be indexed.
    state text not null check (state in ('draft', 'quoted', 'booked', 'covered', 'rolling', 'delivered', 'billed', 'closed', 'cancelled')),
    is_draft boolean not null,
    cancelled_at timestamptz,
    cancelled_why text,
    customer_id bigint references companies,
    reference text,
    equipment text check (equipment in ('van', 'reefer', 'flatbed', 'tanker', 'car_hauler')),
    instructions text,
    miles int check (miles >= 0),
    revenue numeric(12, 2) not null default 0 check (revenue >= 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    booked_by bigint references users,
    booked_at timestamptz not null,
    first_at timestamptz,
    last_at timestamptz,
    delivered_at timestamptz,
    version int not null default 1,
    check (is_draft or (customer_id is not null and equipment is not null and first_at is not null and last_at is not null)),
    check ((state = 'draft') = (is_draft and cancelled_at is null)),
    check ((state = 'cancelled') = (cancelled_at is not null))
);
create index loads_state on loads (state, first_at, id);
create index loads_customer on loads (customer_id, id desc);
create index loads_reference on loads (lower(reference));

create table stops (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    seq int not null,
    kind text not null check (kind in ('pickup', 'delivery')),
    place_id bigint references places,
    from_local timestamp,
    until_local timestamp,
    zone text,
    from_at timestamptz,
    until_at timestamptz,
    note text,
    arrived_at timestamptz,
    arrived_via text,
    left_at timestamptz,
    left_via text,
    delivered_at timestamptz,
    delivered_via text,
    received_by text,
    unique (load_id, seq) deferrable initially deferred,
    check (until_local >= from_local),
    check (left_at >= arrived_at),
    check (delivered_at >= arrived_at),
    check (left_at >= delivered_at),
    check (delivered_at is null or kind = 'delivery'),
    check ((arrived_at is null) = (arrived_via is null) and (left_at is null) = (left_via is null) and (delivered_at is null) = (delivered_via is null)),
    check ((left_at is null and delivered_at is null) or arrived_at is not null)
);
create index stops_place on stops (place_id);

create table freight_lines (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    seq int not null,
    description text not null,
    pieces int check (pieces > 0),
    pallets int check (pallets > 0),
    weight_lb int check (weight_lb > 0),
    temperature_f int
);
create index freight_lines_load on freight_lines (load_id, seq);

create table charges (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    seq int not null,
    kind text not null check (kind in ('line_haul', 'fuel_surcharge', 'extra_stop', 'detention', 'lumper', 'layover', 'tarp', 'other')),
    description text,
    amount numeric(12, 2) not null check (amount >= 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD'))
);
create index charges_load on charges (load_id, seq);

create table trips (
    id bigint generated always as identity primary key,
    number text not null unique,
    driver_id bigint not null references drivers,
    truck_id bigint not null references trucks,
    trailer_id bigint references trailers,
    promised tstzrange not null check (not isempty(promised) and not lower_inf(promised) and not upper_inf(promised)),
    began_at timestamptz,
    ended_at timestamptz,
    called_off_at timestamptz,
    check (ended_at >= began_at),
    check (ended_at is null or began_at is not null),
    check (called_off_at is null or ended_at is null),
    -- A promise of a driver, a truck or a trailer may not overlap another of the same. A trip that was ended early or
    -- called off no longer promises; one that runs late is an expectation and is told, not refused.
    constraint driver_promised_once exclude using gist (driver_id with =, promised with &&) where (called_off_at is null and ended_at is null),
    constraint truck_promised_once exclude using gist (truck_id with =, promised with &&) where (called_off_at is null and ended_at is null),
    constraint trailer_promised_once exclude using gist (trailer_id with =, promised with &&) where (called_off_at is null and ended_at is null and trailer_id is not null)
);
create unique index driver_under_way_once on trips (driver_id) where began_at is not null and ended_at is null and called_off_at is null;
create unique index truck_under_way_once on trips (truck_id) where began_at is not null and ended_at is null and called_off_at is null;
create unique index trailer_under_way_once on trips (trailer_id) where began_at is not null and ended_at is null and called_off_at is null;

create table legs (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    seq int not null,
    miles int not null check (miles >= 0),
    trip_id bigint references trips,
    carrier_id bigint references carriers,
    agreed numeric(12, 2) check (agreed > 0),
    unique (load_id, seq),
    check (trip_id is null or carrier_id is null),
    check ((carrier_id is null) = (agreed is null))
);
create index legs_trip on legs (trip_id) where trip_id is not null;
create index legs_carrier on legs (carrier_id, id desc) where carrier_id is not null;

create table tenders (
    id bigint generated always as identity primary key,
    leg_id bigint not null references legs,
    carrier_id bigint not null references carriers,
    amount numeric(12, 2) not null check (amount > 0),
    token text not null unique,
    sent_at timestamptz not null,
    accepted_at timestamptz,
    accepted_by text,
    withdrawn_at timestamptz,
    check ((accepted_at is null) = (accepted_by is null))
);
create unique index tender_standing_once on tenders (leg_id) where withdrawn_at is null;
