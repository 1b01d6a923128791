create table companies (
    id bigint generated always as identity primary key,
    name text not null check (length(trim(name)) between 1 and 120),
    phone text,
    email text,
    address text,
    town text,
    region text,
    is_customer boolean not null default false,
    is_carrier boolean not null default false,
    terms_days int not null default 30 check (terms_days between 0 and 120),
    note text,
    version int not null default 1,
    check (is_customer or is_carrier)
);
create unique index companies_name on companies (lower(name));

create table carriers (
    company_id bigint primary key references companies,
    usdot text,
    authority_active boolean not null default false,
    liability_until date,
    cargo_until date,
    pay_days int not null default 30 check (pay_days between 0 and 120),
    do_not_use text
);

create table places (
    id bigint generated always as identity primary key,
    name text not null check (length(trim(name)) between 1 and 120),
    address text,
    town text not null,
    region text not null check (length(region) = 2),
    country text not null check (country in ('US', 'CA')),
    latitude double precision not null check (latitude between -90 and 90),
    longitude double precision not null check (longitude between -180 and 180),
    zone text not null,
    note text,
    version int not null default 1
);
create unique index places_name on places (lower(name), lower(town), region);

-- Towns with their coordinates and zones, so that a place made on the phone needs no map.
create table towns (
    id bigint generated always as identity primary key,
    name text not null,
    region text not null,
    country text not null,
    latitude double precision not null,
    longitude double precision not null,
    zone text not null,
    population int not null
);
create index towns_name on towns using gin ((name || ' ' || region) gin_trgm_ops);

create table drivers (
    id bigint generated always as identity primary key,
    name text not null,
    short_name text not null,
    phone text,
    email text,
    home_town text,
    per_mile numeric(6, 4) not null check (per_mile between 0 and 10),
    per_diem numeric(8, 2) not null check (per_diem between 0 and 1000),
    active boolean not null default true
);
alter table users add foreign key (driver_id) references drivers;

create table trucks (
    id bigint generated always as identity primary key,
    unit text not null unique,
    make text,
    active boolean not null default true
);

create table trailers (
    id bigint generated always as identity primary key,
    unit text not null unique,
    equipment text not null check (equipment in ('van', 'reefer', 'flatbed', 'tanker', 'car_hauler')),
    active boolean not null default true
);
