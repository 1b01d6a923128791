-- What was said of a load beside its stops' own words: a delay and the new time, freight refused, short or damaged, a truck broken down, a note.
create table reports (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    stop_id bigint references stops on delete set null,
    kind text not null check (kind in ('delay', 'breakdown', 'refused', 'short', 'damaged', 'note')),
    words text not null check (length(trim(words)) between 1 and 1000),
    expected_at timestamptz,
    pieces int check (pieces > 0),
    at timestamptz not null,
    by_user bigint references users,
    via text not null,
    taken_back_at timestamptz
);
create index reports_load on reports (load_id, id);

-- A delivery that was refused is passed, and not delivered.
alter table stops add refused_at timestamptz, add check (refused_at is null or (kind = 'delivery' and arrived_at is not null and delivered_at is null));

-- A leg may end where the freight goes over to another truck.
alter table legs
    add handed_over_at timestamptz,
    add handover_place_id bigint references places,
    add check ((handed_over_at is null) = (handover_place_id is null)),
    add check (handed_over_at is null or trip_id is not null);

alter table trips add accepted_at timestamptz;

-- The link on which a customer sees where its load is.
alter table loads add track_token text unique;
