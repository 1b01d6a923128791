-- Messages between dispatch and the drivers of a trip.
create table trip_messages (
    id bigint generated always as identity primary key,
    trip_id bigint not null references trips (id),
    -- The driver who wrote it; null when dispatch did.
    driver_id bigint references drivers (id),
    author text not null,
    text text not null check (length(trim(text)) between 1 and 1000),
    at timestamptz not null,
    -- When somebody on the other side had it on the screen.
    read_at timestamptz check (read_at >= at)
);
create index trip_messages_trip on trip_messages (trip_id, id);
create index trip_messages_unread on trip_messages (trip_id) where read_at is null;
grant select, insert, update on trip_messages to lark_app;
grant select on trip_messages to lark_limited;
alter table trip_messages enable row level security;
create policy unlimited on trip_messages to lark_app using (true) with check (true);
create policy limited on trip_messages for select to lark_limited using (exists (select 1 from trips t where t.id = trip_id));
