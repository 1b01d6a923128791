-- Tokens of links and devices are stored as SHA-256 (hex) only; the token itself is known to whoever holds the link.
update tenders set token = encode(sha256(convert_to(token, 'UTF8')), 'hex');
update paper_asks set token = encode(sha256(convert_to(token, 'UTF8')), 'hex');

create table track_links (
    token text primary key check (length(token) = 64),
    load_id bigint not null references loads,
    created_at timestamptz not null,
    created_by bigint references users,
    revoked_at timestamptz
);
create index track_links_load on track_links (load_id);
insert into track_links (token, load_id, created_at)
select encode(sha256(convert_to(track_token, 'UTF8')), 'hex'), id, coalesce(booked_at, first_at, 'epoch') from loads where track_token is not null;
alter table loads drop column track_token;

alter table device_tokens drop constraint device_tokens_pkey;
alter table device_tokens
    add id bigint generated always as identity primary key,
    add label text not null default 'device',
    add issued_at timestamptz not null default 'epoch',
    add issued_by bigint references users,
    add last_used_at timestamptz,
    add revoked_at timestamptz;
update device_tokens set token = encode(sha256(convert_to(token, 'UTF8')), 'hex');
create index device_tokens_truck on device_tokens (truck_id);
