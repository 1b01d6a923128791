-- A driver's trips, the newest first, and where his last one ended, without walking through everybody's promises.
create index if not exists trips_driver on trips (driver_id, id desc);
create index if not exists trips_truck on trips (truck_id, id desc);
create index if not exists trips_ended on trips (driver_id, ended_at desc) where ended_at is not null;
create index if not exists trips_begin on trips (driver_id, lower(promised) desc) where called_off_at is null;
