-- Whom we pay for a vendor's bills: itself or its factor, by check or to a bank account. A change counts once it is confirmed.
create table remit_tos (
    id bigint generated always as identity primary key,
    company_id bigint not null references companies,
    factor text,
    address text,
    routing char(9) check (routing ~ '^[0-9]{9}$'),
    account text check (length(account) between 4 and 17),
    account_type text not null default 'checking' check (account_type in ('checking', 'savings')),
    notice text,
    state text not null default 'proposed' check (state in ('proposed', 'confirmed', 'declined')),
    proposed_by bigint references users,
    proposed_at timestamptz not null,
    decided_by bigint references users,
    decided_at timestamptz,
    call_back text,
    check ((routing is null) = (account is null)),
    check (factor is null or notice is not null),
    check ((state = 'proposed') = (decided_at is null)),
    check (state <> 'confirmed' or call_back is not null)
);
create unique index remit_tos_proposed_once on remit_tos (company_id) where state = 'proposed';
create index remit_tos_company on remit_tos (company_id, decided_at);
alter table remit_tos enable row level security;
create policy unlimited on remit_tos to lark_app using (true) with check (true);
grant select, insert, update on remit_tos to lark_app;

-- Who entered a change does not confirm it.
create function remit_to_by_another() returns trigger language plpgsql as $$
begin
    if new.state = 'confirmed' and new.decided_by = new.proposed_by and (select two_person_approval from business) then
        raise exception 'Who entered a remit-to does not confirm it' using errcode = 'LK005';
    end if;
    return new;
end $$;
create trigger remit_to_by_another before insert or update on remit_tos for each row execute function remit_to_by_another();

-- Where our customers pay us, and the account our ACH files are drawn on.
alter table business
    add remit_address text,
    add tax_id char(9) check (tax_id ~ '^[0-9]{9}$'),
    add bank_name text,
    add bank_routing char(9) check (bank_routing ~ '^[0-9]{9}$'),
    add bank_account text check (length(bank_account) between 4 and 17),
    add check ((bank_routing is null) = (bank_account is null) and (bank_routing is null) = (bank_name is null));
