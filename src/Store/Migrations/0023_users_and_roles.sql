-- A role is a set of rights. The standard ones have those that Core gives them until somebody edits them: rights is then null.
create table roles (
    id bigint generated always as identity primary key,
    name text not null check (length(name) between 1 and 60),
    standard text unique check (standard in ('owner', 'broker', 'dispatcher', 'bookkeeper', 'driver', 'read_only')),
    rights text[],
    for_drivers boolean not null default false,
    check (rights is not null or standard is not null),
    check (standard is null or standard not in ('owner', 'driver') or rights is null),
    check (for_drivers = (standard is not null and standard = 'driver')),
    unique (id, for_drivers)
);
create unique index roles_name on roles (lower(name));
insert into roles (name, standard, for_drivers) values
    ('Owner', 'owner', false), ('Broker', 'broker', false), ('Dispatcher', 'dispatcher', false),
    ('Bookkeeper', 'bookkeeper', false), ('Driver', 'driver', true), ('Read only', 'read_only', false);

alter table users add column role_id bigint, add column for_drivers boolean, add column email text check (length(email) <= 200), add column made_at timestamptz, add column made_by bigint references users,
    add column deactivated_at timestamptz;
update users u set role_id = r.id, for_drivers = r.for_drivers from roles r where r.standard = u.role;
-- Takes its checks along.
alter table users drop column role;
alter table users alter column role_id set not null, alter column for_drivers set not null, alter column password_hash drop not null,
    add constraint users_role foreign key (role_id, for_drivers) references roles (id, for_drivers),
    add constraint users_driver check (for_drivers = (driver_id is not null));
create unique index users_email on users (lower(email));
create unique index users_of_driver on users (driver_id) where active;

-- Whatever anyone does, somebody can still let others in.
create function keep_an_owner() returns trigger language plpgsql as $$
begin
    if exists (select 1 from business) and not exists (select 1 from users u join roles r on r.id = u.role_id where r.standard = 'owner' and u.active) then
        raise exception 'the company needs at least one active owner' using errcode = 'LK006';
    end if;
    return null;
end $$;
create constraint trigger users_owner after insert or update or delete on users deferrable initially deferred for each row execute function keep_an_owner();

alter table sessions add column confirmed_at timestamptz, add column last_seen_at timestamptz, add column device text, add column must_enroll boolean not null default false;
update sessions set confirmed_at = began_at, last_seen_at = began_at;
alter table sessions alter column confirmed_at set not null, alter column last_seen_at set not null;
create index sessions_user on sessions (user_id, ends_at);

-- Links of one use: the first run's, invitations, password resets. Only the token's SHA-256 is kept.
create table account_links (
    token_hash text primary key check (length(token_hash) = 64),
    kind text not null check (kind in ('first_run', 'invitation', 'reset')),
    user_id bigint references users,
    made_at timestamptz not null,
    ends_at timestamptz not null,
    used_at timestamptz,
    check ((kind = 'first_run') = (user_id is null)),
    check (ends_at > made_at)
);
create index account_links_user on account_links (user_id);

create table second_factors (
    user_id bigint primary key references users,
    secret bytea not null check (length(secret) >= 16),
    confirmed_at timestamptz,
    -- The last time step whose code was used: no code counts twice (RFC 6238 § 5.2).
    last_step bigint not null default 0
);
create table recovery_codes (
    user_id bigint not null references users,
    code_hash text not null check (length(code_hash) = 64),
    used_at timestamptz,
    primary key (user_id, code_hash)
);

create table api_tokens (
    id bigint generated always as identity primary key,
    user_id bigint not null references users,
    name text not null check (length(name) between 1 and 60),
    token_hash text not null unique check (length(token_hash) = 64),
    rights text[] not null,
    made_at timestamptz not null,
    ends_at timestamptz not null check (ends_at > made_at),
    revoked_at timestamptz,
    last_used_at timestamptz
);
create index api_tokens_user on api_tokens (user_id);

alter table business add column mc_number text, add column logo bytea check (length(logo) <= 500000), add column second_factor boolean not null default false,
    add column sole_limit numeric(12, 2) check (sole_limit >= 0);
