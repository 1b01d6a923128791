create table accounts (
    code text primary key check (code ~ '^[0-9]{4}$'),
    name text not null,
    kind text not null check (kind in ('asset', 'liability', 'equity', 'income', 'expense'))
);

create table entries (
    id bigint generated always as identity primary key,
    posted_on date not null,
    at timestamptz not null,
    memo text not null,
    source text not null,
    source_id bigint not null,
    reverses_id bigint unique references entries,
    xid xid8 not null default pg_current_xact_id()
);
create index entries_source on entries (source, source_id);
create index entries_posted on entries (posted_on, id);

create table entry_lines (
    entry_id bigint not null references entries,
    seq int not null,
    account text not null references accounts,
    debit numeric(12, 2) not null check (debit >= 0),
    credit numeric(12, 2) not null check (credit >= 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    load_id bigint references loads,
    customer_id bigint references companies,
    carrier_id bigint references carriers,
    driver_id bigint references drivers,
    truck_id bigint references trucks,
    primary key (entry_id, seq),
    check ((debit = 0) <> (credit = 0))
);
create index entry_lines_account on entry_lines (account, entry_id);
create index entry_lines_load on entry_lines (load_id) where load_id is not null;

-- Checked at commit: an entry balances in each currency and has lines.
create function entry_balances() returns trigger language plpgsql as $$
declare
    the_entry bigint := coalesce(to_jsonb(new) ->> 'entry_id', to_jsonb(new) ->> 'id')::bigint;
begin
    if not exists (select 1 from entry_lines where entry_id = the_entry)
        or exists (select 1 from entry_lines where entry_id = the_entry group by currency having sum(debit) <> sum(credit)) then
        raise exception 'Entry % does not balance', the_entry using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger entry_balances after insert on entries deferrable initially deferred for each row execute function entry_balances();
create constraint trigger entry_balances after insert on entry_lines deferrable initially deferred for each row execute function entry_balances();

-- What is posted stays: no change, no deletion, and no line added by a later transaction.
create trigger entries_kept before update or delete on entries for each row execute function refuse_change();
create trigger entry_lines_kept before update or delete on entry_lines for each row execute function refuse_change();
create trigger entries_not_emptied before truncate on entries for each statement execute function refuse_change();
create trigger entry_lines_not_emptied before truncate on entry_lines for each statement execute function refuse_change();
create function line_with_its_entry() returns trigger language plpgsql as $$
begin
    if (select xid from entries where id = new.entry_id) is distinct from pg_current_xact_id() then
        raise exception 'Entry % is posted: reverse it instead', new.entry_id using errcode = 'LK001';
    end if;
    return new;
end $$;
create trigger line_with_its_entry before insert on entry_lines for each row execute function line_with_its_entry();
