-- Less-than-truckload rates by freight class, weight and miles, and charges that are priced by them.

create table class_rates (
    id bigint generated always as identity primary key,
    name text not null check (length(trim(name)) between 1 and 60),
    currency text not null check (currency in ('USD', 'CAD')),
    discount_percent numeric(4, 2) not null check (discount_percent >= 0),
    minimum numeric(12, 2) check (minimum > 0),
    surcharge_percent numeric(5, 2) not null check (surcharge_percent between 0 and 100),
    -- Pounds, rising from 0.
    breaks integer[] not null check (breaks[1] = 0 and cardinality(breaks) <= 12),
    active boolean not null default true
);
create unique index class_rates_name on class_rates (lower(name)) where active;

create table class_rate_rows (
    class_rates_id bigint not null references class_rates (id),
    up_to_miles integer not null check (up_to_miles between 1 and 6000),
    class numeric(4, 1) not null check (class in (50, 55, 60, 65, 70, 77.5, 85, 92.5, 100, 110, 125, 150, 175, 200, 250, 300, 400, 500)),
    -- Dollars per hundredweight, one for each weight break.
    per_cwt numeric(9, 4)[] not null check (0 < all (per_cwt)),
    primary key (class_rates_id, up_to_miles, class)
);

do $$
declare t text;
begin
    foreach t in array array['class_rates', 'class_rate_rows'] loop
        execute format('grant select, insert, update, delete on %I to lark_app', t);
        execute format('grant select on %I to lark_limited', t);
        execute format('alter table %I enable row level security', t);
        execute format('create policy unlimited on %I to lark_app using (true) with check (true)', t);
        execute format('create policy limited on %I for select to lark_limited using (true)', t);
    end loop;
end $$;

-- By class, a charge has hundredweights but no single rate; how it came about is kept with it.
alter table charges
    add column rating jsonb,
    drop constraint charges_basis_check,
    drop constraint charges_check,
    drop constraint charges_check1,
    drop constraint charges_check2,
    add constraint charges_basis_check check (basis in ('flat', 'per_mile', 'per_cwt', 'percent', 'by_class')),
    add constraint charges_rate_basis check ((basis in ('flat', 'by_class')) = (rate is null)),
    add constraint charges_quantity_basis check ((basis = 'flat') = (quantity is null)),
    add constraint charges_minimum_basis check (minimum is null or (minimum > 0 and basis <> 'flat')),
    add constraint charges_rated check ((basis = 'by_class') = (rating is not null)),
    add constraint charges_net check (rating is null or (rating ->> 'net')::numeric = amount);
