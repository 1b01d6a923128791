-- The planning page: when drivers are off and when they are to be home, and crews of several trips that change at once.

-- Time off of a driver. It may lie over a trip that is booked already: the plan shows that.
create table time_off (
    id bigint generated always as identity primary key,
    driver_id bigint not null references drivers,
    off tstzrange not null check (not isempty(off) and not lower_inf(off) and not upper_inf(off)),
    note text check (length(note) <= 100),
    constraint driver_off_once exclude using gist (driver_id with =, off with &&)
);
grant select, insert, update, delete on time_off to lark_app;
grant select on time_off to lark_limited;
alter table time_off enable row level security;
create policy unlimited on time_off to lark_app using (true) with check (true);
create policy limited on time_off for select to lark_limited using (exists (select 1 from drivers d where d.id = driver_id));

-- By when a driver is to be home next; null when nothing was agreed.
alter table drivers add column home_by timestamptz;

-- What people call a trip, beside its number.
alter table trips add column name text check (length(name) between 1 and 60);

-- Two trips swap their crews in one transaction, so these hold at its end.
alter table trips drop constraint driver_scheduled_once, drop constraint truck_scheduled_once, drop constraint trailer_scheduled_once;
alter table trips
    add constraint driver_scheduled_once exclude using gist (driver_id with =, scheduled with &&)
        where (canceled_at is null and ended_at is null) deferrable initially immediate,
    add constraint truck_scheduled_once exclude using gist (truck_id with =, scheduled with &&)
        where (canceled_at is null and ended_at is null) deferrable initially immediate,
    add constraint trailer_scheduled_once exclude using gist (trailer_id with =, scheduled with &&)
        where (canceled_at is null and ended_at is null and trailer_id is not null) deferrable initially immediate;

-- Trips that are not over, for the plan and for what fits a trip.
create index trips_open on trips (lower(scheduled)) where ended_at is null and canceled_at is null;
create index trips_over on trips (ended_at) where ended_at is not null;
