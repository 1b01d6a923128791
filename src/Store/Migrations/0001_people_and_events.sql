create extension if not exists pg_trgm;
create extension if not exists btree_gist;

create table business (
    only_one boolean primary key default true check (only_one),
    name text not null,
    zone text not null,
    address text not null,
    phone text not null,
    email text not null,
    usdot text,
    demo_for date
);

create table series (
    name text primary key,
    prefix text not null default '',
    next bigint not null
);
insert into series (name, prefix, next) values
    ('load', '', 2001), ('trip', '', 601), ('invoice', 'I-', 1101);

create function next_in_series(series_name text) returns text language sql as $$
    update series set next = next + 1 where name = series_name returning prefix || (next - 1)
$$;

create table users (
    id bigint generated always as identity primary key,
    login text not null check (login = lower(login) and length(login) between 2 and 60),
    name text not null,
    role text not null check (role in ('owner', 'broker', 'dispatcher', 'bookkeeper', 'driver', 'read_only')),
    password_hash text not null,
    driver_id bigint,
    active boolean not null default true,
    check ((role = 'driver') = (driver_id is not null))
);
create unique index users_login on users (login);

create table sessions (
    id uuid primary key,
    user_id bigint not null references users,
    began_at timestamptz not null,
    ends_at timestamptz not null
);

create table sign_in_failures (
    login text not null,
    address text not null,
    at timestamptz not null
);
create index sign_in_failures_at on sign_in_failures (at);

create table protection_keys (
    name text primary key,
    xml text not null
);

-- Everything that was ever done, in the order it was committed. xid is kept because two writers may commit in another
-- order than their ids: readers follow (xid, id) up to the oldest transaction still running, and so miss nothing.
create table events (
    id bigint generated always as identity primary key,
    xid xid8 not null default pg_current_xact_id(),
    at timestamptz not null,
    user_id bigint references users,
    via text not null check (via in ('page', 'line', 'phone', 'api', 'outside', 'system')),
    kind text not null,
    subject text not null,
    subject_id bigint not null,
    load_id bigint,
    driver_id bigint,
    said text not null,
    before jsonb,
    after jsonb
);
create index events_order on events (xid, id);
create index events_load on events (load_id, id desc) where load_id is not null;
create index events_subject on events (subject, subject_id, id desc);

create function tell_of_event() returns trigger language plpgsql as $$
begin
    perform pg_notify('lark_events', '');
    return null;
end $$;
create trigger events_told after insert on events for each statement execute function tell_of_event();

create function refuse_change() returns trigger language plpgsql as $$
begin
    raise exception '% are never changed or deleted', tg_table_name using errcode = 'LK001';
end $$;
create trigger events_kept before update or delete on events for each row execute function refuse_change();

create table idempotency_keys (
    user_id bigint not null references users,
    key text not null check (length(key) between 8 and 200),
    route text not null,
    request_hash bytea not null,
    answer jsonb,
    at timestamptz not null,
    primary key (user_id, key)
);
