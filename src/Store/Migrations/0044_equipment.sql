-- Equipment that the company owns, its depreciation, and the loans that paid for it.
insert into accounts (code, name, kind, parent) select a.* from (values
    ('1500', 'Trucks and trailers', 'asset', null), ('1590', 'Accumulated depreciation', 'asset', '1500'),
    ('2500', 'Equipment loans', 'liability', null), ('4800', 'Gain on equipment sold', 'income', null),
    ('5550', 'Depreciation', 'expense', null), ('6800', 'Interest', 'expense', null)) as a (code, name, kind, parent)
where exists (select 1 from accounts where code = '5000') on conflict (code) do nothing;

create table assets (
    id bigint generated always as identity primary key,
    name text not null,
    truck_id bigint references trucks,
    in_service date not null,
    cost numeric(12, 2) not null check (cost > 0),
    salvage numeric(12, 2) not null default 0 check (salvage >= 0),
    months int not null check (months between 1 and 240),
    sold_on date,
    proceeds numeric(12, 2) check (proceeds >= 0),
    check (salvage < cost),
    check ((sold_on is null) = (proceeds is null)),
    check (sold_on >= in_service)
);

-- What was depreciated when a month was closed, or when the asset was sold.
create table asset_depreciation (
    id bigint generated always as identity primary key,
    asset_id bigint not null references assets,
    month date not null check (extract(day from month) = 1),
    amount numeric(12, 2) not null,
    standing boolean not null default true
);
create index asset_depreciation_asset on asset_depreciation (asset_id);
create index asset_depreciation_month on asset_depreciation (month) where standing;

create table loans (
    id bigint generated always as identity primary key,
    asset_id bigint not null references assets,
    lender text not null,
    principal numeric(12, 2) not null check (principal > 0),
    percent numeric(6, 3) not null check (percent between 0 and 40),
    months int not null check (months between 1 and 240),
    first_on date not null,
    paid numeric(12, 2) not null default 0 check (paid >= 0 and paid <= principal)
);
create unique index loan_of_asset on loans (asset_id);

create table loan_payments (
    id bigint generated always as identity primary key,
    loan_id bigint not null references loans,
    number int not null,
    paid_on date not null,
    posted_on date not null,
    method text not null check (method in ('check', 'ach', 'wire', 'card', 'cash')),
    reference text,
    interest numeric(12, 2) not null check (interest >= 0),
    principal numeric(12, 2) not null check (principal >= 0),
    paid_by bigint references users,
    standing boolean not null default true
);
create unique index loan_payment_once on loan_payments (loan_id, number) where standing;

create function keep_loan_paid() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' or (tg_op = 'UPDATE' and (new.loan_id, new.principal, new.interest)
        is distinct from (old.loan_id, old.principal, old.interest)) then
        raise exception 'A loan payment is reversed by marking it, not by changing it' using errcode = 'LK001';
    end if;
    update loans set paid = paid + case when new.standing then new.principal else 0 end
        - case when tg_op = 'UPDATE' and old.standing then old.principal else 0 end where id = new.loan_id;
    return null;
end $$;
create trigger keep_loan_paid after insert or update or delete on loan_payments for each row execute function keep_loan_paid();

-- Depreciation never exceeds what an asset loses over its life.
create function keep_depreciated() returns trigger language plpgsql as $$
begin
    if (select coalesce(sum(amount), 0) from asset_depreciation where asset_id = new.asset_id and standing)
        not between 0 and (select cost - salvage from assets where id = new.asset_id) then
        raise exception 'Asset % would be depreciated beyond its cost less salvage', new.asset_id using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger keep_depreciated after insert or update on asset_depreciation deferrable initially deferred
    for each row execute function keep_depreciated();

do $$
declare
    child text;
begin
    foreach child in array array['assets', 'asset_depreciation', 'loans', 'loan_payments'] loop
        execute format('alter table %I enable row level security', child);
        execute format('create policy unlimited on %I to lark_app using (true) with check (true)', child);
        execute format('grant select, insert, update on %I to lark_app', child);
    end loop;
end $$;
