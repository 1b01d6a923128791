-- Where trucks were, by what was told: a device's own words, with the moment they are of.
create table device_tokens (
    truck_id bigint primary key references trucks,
    token text not null unique
);
create table positions (
    id bigint generated always as identity primary key,
    truck_id bigint not null references trucks,
    at timestamptz not null,
    latitude double precision not null check (latitude between -90 and 90),
    longitude double precision not null check (longitude between -180 and 180),
    miles_per_hour double precision check (miles_per_hour between 0 and 150),
    came_at timestamptz not null,
    unique (truck_id, at)
);

-- The simulated world, steered from the Outside page.
create table stand_ins (
    name text primary key check (name in ('carriers', 'receivers', 'trucks')),
    works boolean not null default false,
    speed int not null default 1 check (speed between 1 and 600)
);
insert into stand_ins (name) values ('carriers'), ('receivers'), ('trucks');
