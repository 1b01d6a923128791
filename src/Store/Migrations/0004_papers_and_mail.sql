create table paper_bytes (
    sha256 bytea primary key check (length(sha256) = 32),
    bytes bytea not null check (length(bytes) between 1 and 26214400)
);

create table papers (
    id bigint generated always as identity primary key,
    load_id bigint references loads,
    kind text not null check (kind in ('pod', 'bol', 'rate_confirmation', 'carrier_bill', 'scale_ticket', 'lumper_receipt', 'photo', 'other')),
    file_name text not null,
    media_type text not null check (media_type in ('application/pdf', 'image/jpeg', 'image/png')),
    size int not null check (size > 0),
    sha256 bytea not null references paper_bytes,
    added_at timestamptz not null,
    added_by bigint references users,
    via text not null,
    put_away_at timestamptz
);
create index papers_load on papers (load_id, id);

-- Mail out waits here until it was handed over; mail in stays here once it came.
create table mails (
    id bigint generated always as identity primary key,
    direction text not null check (direction in ('out', 'in')),
    from_address text not null,
    to_address text not null,
    subject text not null,
    eml bytea not null,
    message_id text not null unique,
    load_id bigint references loads,
    written_at timestamptz not null,
    send_after timestamptz,
    sent_at timestamptz,
    held_back_at timestamptz,
    attempts int not null default 0,
    last_error text,
    done_at timestamptz
);
create index mails_waiting on mails (send_after) where direction = 'out' and sent_at is null and held_back_at is null;
create index mails_in_open on mails (id) where direction = 'in' and done_at is null;
