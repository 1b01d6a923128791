-- A user's view may be limited to customers, offices, driver groups and so many days ahead. Whoever is limited reads through the role
-- lark_limited, for which row security hides the rest; the limits are in the setting lark.view, as JSON. Without it nothing can be read.
create table offices (
    id bigint generated always as identity primary key,
    name text not null check (length(name) between 1 and 60),
    active boolean not null default true
);
create unique index offices_name on offices (lower(name));

create table driver_groups (
    id bigint generated always as identity primary key,
    name text not null check (length(name) between 1 and 60),
    active boolean not null default true
);
create unique index driver_groups_name on driver_groups (lower(name));

alter table loads add column office_id bigint references offices;
create index loads_office on loads (office_id) where office_id is not null;
alter table drivers add column group_id bigint references driver_groups;
alter table users
    add column office_id bigint references offices,
    add column view_customers bigint[] check (cardinality(view_customers) between 1 and 500),
    add column view_offices bigint[] check (cardinality(view_offices) between 1 and 500),
    add column view_driver_groups bigint[] check (cardinality(view_driver_groups) between 1 and 500),
    add column view_days_ahead int check (view_days_ahead between 0 and 365);

create or replace view load_list as
select l.id, l.number, l.state,
    (select c.name from companies c where c.id = l.customer_id) as customer,
    l.reference,
    (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) as origin,
    (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) as destination,
    l.first_at as pickup, l.last_at as delivery, l.delivered_at as delivered, l.equipment,
    (select string_agg(f.description, ', ' order by f.seq) from freight_lines f where f.load_id = l.id) as freight,
    (select sum(f.weight_lb) from freight_lines f where f.load_id = l.id) as weight,
    (select coalesce(bool_or(f.hazmat), false) from freight_lines f where f.load_id = l.id) as hazmat,
    l.miles, l.revenue,
    case when l.miles > 0 then round(l.revenue / l.miles, 2) end as per_mile,
    (select sum(g.agreed) from legs g where g.load_id = l.id) as agreed,
    -- Only where each leg's cost is known.
    (select l.revenue - sum(coalesce(b.amount, g.agreed, g.expected_pay)) from legs g left join lateral (select coalesce(approved, amount) as amount from bills where leg_id = g.id and voided_at is null) b on true
     where g.load_id = l.id having count(*) = count(coalesce(b.amount, g.agreed, g.expected_pay))) as margin,
    (select coalesce(d.name, k.name) from legs g left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id left join companies k on k.id = g.carrier_id
     where g.load_id = l.id order by g.seq desc limit 1) as who,
    (select string_agg(h.reason, ' ') from holds h where h.load_id = l.id and h.lifted_at is null) as held,
    (select i.number from invoice_loads il join invoices i on i.id = il.invoice_id where il.load_id = l.id and il.standing) as invoice,
    (select u.name from users u where u.id = l.booked_by) as booked_by,
    l.booked_at as booked,
    (select o.name from offices o where o.id = l.office_id) as office
from loads l;

-- Views show what their reader may see, not what their owner may.
alter view load_list set (security_invoker = true);
alter view invoice_list set (security_invoker = true);
alter view bill_list set (security_invoker = true);
alter view payment_list set (security_invoker = true);
alter view company_list set (security_invoker = true);
alter view place_list set (security_invoker = true);
alter view entry_list set (security_invoker = true);
alter view profit_lines set (security_invoker = true);

do $$
begin
    create role lark_limited nologin;
exception when duplicate_object or unique_violation then
    null;
end $$;
-- The application may become lark_limited, but does not have its policies otherwise. Roles belong to the cluster: another database may be doing the same.
-- Bulk loading (COPY) wants a role that row security does not bind; where the owner may not say so, the policies named unlimited do for the rest.
do $$
begin
    if not exists (select 1 from pg_roles where rolname = 'lark_app' and not rolinherit) then
        alter role lark_app noinherit;
    end if;
    if not exists (select 1 from pg_auth_members m join pg_roles r on r.oid = m.roleid join pg_roles a on a.oid = m.member where r.rolname = 'lark_limited' and a.rolname = 'lark_app') then
        grant lark_limited to lark_app;
    end if;
exception when internal_error or unique_violation then
    null;
end $$;
do $$
begin
    if not exists (select 1 from pg_roles where rolname = 'lark_app' and rolbypassrls) then
        alter role lark_app bypassrls;
    end if;
exception when internal_error or insufficient_privilege then
    null;
end $$;
grant usage on schema public to lark_limited;
grant select on all tables in schema public to lark_limited;
alter default privileges in schema public grant select on tables to lark_limited;
revoke select on users, sessions, account_links, second_factors, recovery_codes, api_tokens, sign_in_failures, protection_keys, idempotency_keys, device_tokens, event_chain from lark_limited;
grant select (id, login, name, active, driver_id, role_id) on users to lark_limited;
grant select (id, truck_id, label, issued_at, issued_by, last_used_at, revoked_at) on device_tokens to lark_limited;

-- The limits of the current reader: ids, or null where there is no limit. An error, and so nothing to read, where none are set.
create function view_ids(what text) returns bigint[] language sql stable as $$
    select case when jsonb_typeof(v -> what) = 'array' then array(select jsonb_array_elements_text(v -> what)::bigint) end from (select current_setting('lark.view')::jsonb as v) x
$$;
create function view_until() returns timestamptz language sql stable as $$ select (current_setting('lark.view')::jsonb ->> 'until')::timestamptz $$;
-- Whether no part of the company is hidden for good.
create function view_is_whole() returns boolean language sql stable as $$ select view_ids('customers') is null and view_ids('offices') is null and view_ids('driverGroups') is null $$;
-- Whether only drivers are limited, if anything.
create function view_is_of_drivers() returns boolean language sql stable as $$ select view_ids('customers') is null and view_ids('offices') is null $$;
-- Whether only customers are limited, if anything.
create function view_is_of_customers() returns boolean language sql stable as $$ select view_ids('offices') is null and view_ids('driverGroups') is null $$;

-- Whether nobody has a load yet, or a driver of these groups has it or a part of it. It looks past the policies, which ask it.
create function load_has_group(a_load bigint, groups bigint[]) returns boolean language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return (select coalesce(bool_or(coalesce(d.group_id = any(groups), false)), true)
        from legs g left join trips t on t.id = g.trip_id left join drivers d on d.id = t.driver_id where g.load_id = a_load and (g.trip_id is not null or g.carrier_id is not null));
end $$;
-- Whether all loads of an invoice are within the limits.
create function invoice_has_limits(an_invoice bigint, offices bigint[], groups bigint[]) returns boolean language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
    return (select coalesce(bool_and((offices is null or coalesce(l.office_id = any(offices), false)) and (groups is null or load_has_group(l.id, groups))), false)
        from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = an_invoice);
end $$;

create policy limited on loads for select to lark_limited using (
    ((select view_ids('customers')) is null or customer_id = any ((select view_ids('customers'))::bigint[]))
    and ((select view_ids('offices')) is null or office_id = any ((select view_ids('offices'))::bigint[]))
    and ((select view_until()) is null or first_at is null or first_at < (select view_until()))
    and ((select view_ids('driverGroups')) is null or load_has_group(id, (select view_ids('driverGroups')))));
create policy limited on drivers for select to lark_limited using ((select view_ids('driverGroups')) is null or group_id = any ((select view_ids('driverGroups'))::bigint[]));
create policy limited on companies for select to lark_limited using (
    (select view_ids('customers')) is null or is_carrier or is_vendor or not is_customer or id = any ((select view_ids('customers'))::bigint[]));
create policy limited on billing_ways for select to lark_limited using ((select view_ids('customers')) is null or customer_id = any ((select view_ids('customers'))::bigint[]));
create policy limited on trips for select to lark_limited using (exists (select 1 from drivers d where d.id = driver_id));
create policy limited on positions for select to lark_limited using ((select view_ids('driverGroups')) is null or exists (select 1 from trips t where t.truck_id = positions.truck_id));

-- What belongs to a load is seen with it.
do $$
declare
    child text;
begin
    foreach child in array array['stops', 'freight_lines', 'charges', 'legs', 'load_references', 'load_own_values', 'holds', 'reports', 'track_links', 'trip_costs', 'paper_asks', 'invoice_loads'] loop
        execute format('create policy limited on %I for select to lark_limited using (exists (select 1 from loads l where l.id = load_id))', child);
    end loop;
end $$;
create policy limited on tenders for select to lark_limited using (exists (select 1 from legs g where g.id = leg_id));
-- Documents and email without a load may be about anything.
create policy limited on papers for select to lark_limited using (
    case when load_id is not null then exists (select 1 from loads l where l.id = load_id) when bill_id is not null then exists (select 1 from bills b where b.id = bill_id) else (select view_is_whole()) end);
create index papers_sha256 on papers (sha256);
create index invoices_sheet on invoices (sheet_sha256) where sheet_sha256 is not null;
create policy limited on paper_bytes for select to lark_limited using (
    exists (select 1 from papers p where p.sha256 = paper_bytes.sha256) or exists (select 1 from invoices i where i.sheet_sha256 = paper_bytes.sha256));
create policy limited on mails for select to lark_limited using (case when load_id is not null then exists (select 1 from loads l where l.id = load_id) else (select view_is_whole()) end);

create policy limited on invoices for select to lark_limited using (
    ((select view_ids('customers')) is null or customer_id = any ((select view_ids('customers'))::bigint[]))
    and ((select view_is_of_customers()) or invoice_has_limits(id, (select view_ids('offices')), (select view_ids('driverGroups')))));
create policy limited on invoice_lines for select to lark_limited using (exists (select 1 from invoices i where i.id = invoice_id));
create policy limited on payments for select to lark_limited using (
    (select view_is_of_customers()) and ((select view_ids('customers')) is null or customer_id = any ((select view_ids('customers'))::bigint[])));
create policy limited on payment_applications for select to lark_limited using (exists (select 1 from payments p where p.id = payment_id) or exists (select 1 from invoices i where i.id = invoice_id));
create policy limited on bills for select to lark_limited using (case when leg_id is not null then exists (select 1 from legs g where g.id = leg_id) else (select view_is_whole()) end);
create policy limited on bill_lines for select to lark_limited using (exists (select 1 from bills b where b.id = bill_id));
create policy limited on billing_runs for select to lark_limited using (exists (select 1 from billing_run_parts p where p.run_id = id));
create policy limited on billing_run_parts for select to lark_limited using (
    (select view_is_of_customers()) and ((select view_ids('customers')) is null or customer_id = any ((select view_ids('customers'))::bigint[])));

-- Pay is a driver's, over all customers.
do $$
declare
    child text;
begin
    foreach child in array array['settlements', 'draws', 'pay_items', 'driver_rates', 'standing_deductions'] loop
        execute format('create policy limited on %I for select to lark_limited using ((select view_is_of_drivers()) and exists (select 1 from drivers d where d.id = driver_id))', child);
    end loop;
    foreach child in array array['settlement_legs', 'settlement_lines', 'settlement_reimbursements', 'settlement_deductions', 'draw_deductions'] loop
        execute format('create policy limited on %I for select to lark_limited using (exists (select 1 from settlements s where s.id = settlement_id))', child);
    end loop;
end $$;

create policy limited on entries for select to lark_limited using ((select view_is_whole()));
create policy limited on entry_lines for select to lark_limited using ((select view_is_whole()));
create policy limited on run_plans for select to lark_limited using ((select view_is_whole()));
create policy limited on events for select to lark_limited using (
    case
        when load_id is not null then exists (select 1 from loads l where l.id = load_id)
        when driver_id is not null then (kind like 'driver.%' or (select view_is_of_drivers())) and exists (select 1 from drivers d where d.id = driver_id)
        when subject = 'company' then exists (select 1 from companies c where c.id = subject_id)
        when subject = 'driver' then exists (select 1 from drivers d where d.id = subject_id)
        when subject in ('place', 'truck', 'trailer', 'office', 'driver_group', 'own_field') then true
        else (select view_is_whole())
    end);
-- What is found is looked up first and checked after: the trigram index cannot be used beneath a policy. FindStore asks this for a limited reader.
create function find_in_view(a_kind text, ref bigint) returns boolean language sql stable as $$
    select case a_kind
        when 'load' then exists (select 1 from loads l where l.id = ref)
        when 'company' then exists (select 1 from companies c where c.id = ref)
        when 'driver' then exists (select 1 from drivers d where d.id = ref)
        when 'invoice' then exists (select 1 from invoices i where i.id = ref)
        else a_kind = 'place'
    end
$$;

-- Each table with a policy has one that lets the application's own role through.
do $$
declare
    t record;
begin
    for t in select distinct tablename from pg_policies where schemaname = 'public' and policyname = 'limited' loop
        execute format('create policy unlimited on %I to lark_app using (true) with check (true)', t.tablename);
        execute format('alter table %I enable row level security', t.tablename);
    end loop;
end $$;
