-- Expenses on trips, as they happen: fuel, tolls, lodging and the rest, posted with load, trip, truck and driver.

create table trip_expenses (
    id bigint generated always as identity primary key,
    trip_id bigint not null references trips (id),
    -- The load it is for; null when all loads of the trip share it.
    load_id bigint references loads (id),
    kind text not null check (kind in ('fuel', 'reefer_fuel', 'toll', 'scale', 'lumper', 'lodging', 'parking', 'wash', 'repair', 'other')),
    spent_on date not null,
    place text check (length(place) <= 120),
    region text check (region ~ '^[A-Z]{2}$'),
    quantity numeric(9, 3) check (quantity > 0),
    unit text check (unit in ('gallons', 'liters')),
    price numeric(8, 4) check (price > 0),
    amount numeric(12, 2) not null check (amount > 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    -- In US dollars, at the rate of the day.
    booked numeric(12, 2) not null check (booked > 0),
    paid_by text not null check (paid_by in ('company_card', 'driver', 'on_account', 'separately')),
    driver_id bigint not null references drivers (id),
    truck_id bigint not null references trucks (id),
    vendor_id bigint references companies (id),
    reference text check (length(reference) <= 60),
    account text not null references accounts (code),
    note text check (length(note) <= 200),
    -- An owner-operator bears it: their settlement deducts it.
    charge_back boolean not null default false,
    state text not null check (state in ('reported', 'approved', 'declined', 'removed')),
    reported_by text not null,
    reported_by_id bigint references users (id),
    reported_at timestamptz not null,
    decided_by text,
    decided_at timestamptz,
    reason text check (length(reason) <= 200),
    pay_item_id bigint unique references pay_items (id),
    bill_id bigint unique references bills (id),
    constraint trip_expenses_fuel check (num_nonnulls(quantity, unit, price) in (0, 3) and (quantity is null or kind in ('fuel', 'reefer_fuel'))),
    constraint trip_expenses_in_books check (currency <> 'USD' or booked = amount),
    constraint trip_expenses_vendor check ((paid_by = 'on_account') = (vendor_id is not null)),
    constraint trip_expenses_charge_back check (not charge_back or paid_by in ('company_card', 'on_account')),
    constraint trip_expenses_decided check ((state = 'reported') = (decided_at is null) and (state <> 'declined' or reason is not null)),
    -- What was approved is posted where it belongs, and nothing else is.
    constraint trip_expenses_posted check (
        (bill_id is not null) = (state = 'approved' and paid_by = 'on_account')
        and (pay_item_id is not null) = (state = 'approved' and (paid_by = 'driver' or charge_back)))
);
create index trip_expenses_trip on trip_expenses (trip_id);
create index trip_expenses_reported on trip_expenses (id) where state = 'reported';
create index trip_expenses_driver on trip_expenses (driver_id, spent_on desc);
create index trip_expenses_receipt on trip_expenses (lower(reference), amount) where reference is not null;
grant select, insert, update on trip_expenses to lark_app;
grant select on trip_expenses to lark_limited;
alter table trip_expenses enable row level security;
create policy unlimited on trip_expenses to lark_app using (true) with check (true);
create policy limited on trip_expenses for select to lark_limited using (exists (select 1 from trips t where t.id = trip_id));

-- Receipts.
alter table documents
    add column expense_id bigint references trip_expenses (id),
    drop constraint documents_kind_check,
    add constraint documents_kind_check check (kind in ('pod', 'bol', 'rate_confirmation', 'carrier_bill', 'scale_ticket', 'lumper_receipt', 'receipt', 'photo', 'other'));
create index documents_expense on documents (expense_id) where expense_id is not null;
drop index documents_tray;
create index documents_tray on documents (id) where load_id is null and bill_id is null and expense_id is null and removed_at is null;
drop policy limited on documents;
create policy limited on documents for select to lark_limited using (
    case when load_id is not null then exists (select 1 from loads l where l.id = load_id)
        when bill_id is not null then exists (select 1 from bills b where b.id = bill_id)
        when expense_id is not null then exists (select 1 from trip_expenses x where x.id = expense_id)
        else (select view_is_whole()) end);

-- The trip of a ledger line.
alter table entry_lines add column trip_id bigint references trips (id);
create index entry_lines_trip on entry_lines (trip_id) where trip_id is not null;
alter table bill_lines add column trip_id bigint references trips (id);

-- Owed to the cards' issuers, and to drivers who paid on the road.
insert into accounts (code, name, kind)
select * from (values ('2060', 'Company cards', 'liability'), ('2130', 'Driver reimbursements payable', 'liability'),
    ('5370', 'Lodging and parking', 'expense'), ('5390', 'Washes and other trip expenses', 'expense')) as a (code, name, kind)
where exists (select 1 from accounts)
on conflict (code) do nothing;
insert into accounts (code, name, kind, parent) select '5290', 'Reefer fuel', 'expense', code from accounts where code = '5200'
on conflict (code) do nothing;
alter table entry_lines drop constraint entry_lines_item,
    add constraint entry_lines_item
        check ((account in ('1200', '1210', '1300', '2000', '2050', '2100', '2130', '2300')) = (item_id is not null)) not valid;

-- What was planned, where an expense counts instead.
alter table legs
    add column planned_fuel numeric(12, 2) check (planned_fuel >= 0),
    add column planned_tolls numeric(12, 2) check (planned_tolls >= 0);
update legs set planned_fuel = cost_fuel, planned_tolls = cost_tolls where expected_pay is not null;

-- Costs of a load are plans now. What had been entered as actual is an expense of its trip, which was never posted; where there is no trip of ours, it
-- stays as it is planned.
insert into trip_expenses (trip_id, load_id, kind, spent_on, amount, booked, paid_by, driver_id, truck_id, account, note, state, reported_by, reported_at,
    decided_by, decided_at)
select g.trip_id, c.load_id, c.kind, (c.at at time zone coalesce((select zone from business), 'UTC'))::date, c.actual, c.actual, 'separately', t.driver_id, t.truck_id,
    coalesce((select a.code from accounts a where a.code = case c.kind when 'fuel' then '5200' when 'toll' then '5300' when 'scale' then '5300'
        when 'lodging' then '5370' else '5390' end), '5390'), left(c.note, 200), 'approved', c.entered_by, c.at, c.entered_by, c.at
from trip_costs c
join lateral (select g.trip_id from legs g where g.load_id = c.load_id and g.trip_id is not null order by g.seq limit 1) g on true
join trips t on t.id = g.trip_id
where c.actual > 0 and c.removed_at is null;
update trip_costs c set removed_at = now(), removed_by = 'migration'
where removed_at is null and expected is null and actual > 0 and exists (select 1 from legs g where g.load_id = c.load_id and g.trip_id is not null);
update trip_costs c set expected = actual
where expected is null or actual = 0 or (actual > 0 and not exists (select 1 from legs g where g.load_id = c.load_id and g.trip_id is not null));
alter table trip_costs drop constraint trip_costs_check, drop column actual, alter column expected set not null,
    drop constraint trip_costs_kind_check,
    add constraint trip_costs_kind_check check (kind in ('fuel', 'reefer_fuel', 'toll', 'scale', 'lumper', 'lodging', 'parking', 'wash', 'repair', 'other'));

-- Expenses as a list.
create view expense_list with (security_invoker = true) as
select x.id, x.spent_on as date, x.state, t.number as trip, t.id as trip_id, case x.kind when 'toll' then 'tolls' else replace(x.kind, '_', ' ') end as kind,
    x.place, x.region,
    case x.unit when 'liters' then round(x.quantity / 3.785411784, 3) else x.quantity end as gallons,
    case when x.quantity is not null then
        round(x.booked / case x.unit when 'liters' then x.quantity / 3.785411784 else x.quantity end, 4) end as per_gallon,
    x.booked as amount, x.currency,
    case x.paid_by when 'separately' then 'separate bill' else replace(x.paid_by, '_', ' ') end as paid_by, x.charge_back, d.name as driver, k.unit as truck,
    coalesce(l.number, (select string_agg(o.number, ', ' order by g.id) from legs g join loads o on o.id = g.load_id where g.trip_id = t.id)) as loads,
    v.name as vendor, x.reference, a.name as account, x.note,
    exists (select 1 from documents p where p.expense_id = x.id and p.removed_at is null) as receipt,
    x.reported_by, x.reported_at as reported, x.decided_by, x.decided_at as decided, x.reason
from trip_expenses x
join trips t on t.id = x.trip_id
join drivers d on d.id = x.driver_id
join trucks k on k.id = x.truck_id
join accounts a on a.code = x.account
left join loads l on l.id = x.load_id
left join companies v on v.id = x.vendor_id;
grant select on expense_list to lark_app, lark_limited;

-- Trips as a list, with what was spent on them.
create or replace view trip_list with (security_invoker = true) as
select t.id, t.number, t.name,
    case when t.canceled_at is not null then 'canceled' when t.ended_at is not null then 'ended' when t.started_at is not null then 'under way'
        else 'planned' end as state,
    d.name as driver, dg.name as driver_group, k.unit as truck, r.unit as trailer, r.equipment,
    g.loads, g.load_count, o.town || ' ' || o.region as origin, p.town || ' ' || p.region as destination,
    lower(t.scheduled) as begins, upper(t.scheduled) as ends, t.accepted_at as accepted, t.started_at as started, t.ended_at as ended,
    t.canceled_at as canceled,
    (select count(*)::int from trip_stops s where s.trip_id = t.id and not s.skipped) as own_stops,
    g.miles, g.empty_miles, g.driver_pay, g.cost, cd.name as codriver,
    (select sum(x.booked) from trip_expenses x where x.trip_id = t.id and x.state in ('reported', 'approved')) as expenses
from trips t
join drivers d on d.id = t.driver_id
left join drivers cd on cd.id = t.codriver_id
left join driver_groups dg on dg.id = d.group_id
join trucks k on k.id = t.truck_id
left join trailers r on r.id = t.trailer_id
left join lateral (
    select string_agg(l.number, ', ' order by g.id) as loads, count(*)::int as load_count, sum(g.truck_miles)::int as miles,
        sum(g.empty_miles)::int as empty_miles, sum(g.expected_pay) as driver_pay, sum(g.expected_cost) as cost
    from legs g join loads l on l.id = g.load_id where g.trip_id = t.id) g on true
left join trip_last_visits e on e.trip_id = t.id
left join places p on p.id = e.place_id
left join lateral (
    select coalesce(
        (select coalesce(s.place_id, x.place_id, q.place_id) from trip_visits v left join stops s on s.id = v.stop_id left join transfers x on x.id = v.transfer_id
            left join trip_stops q on q.id = v.trip_stop_id where v.trip_id = t.id order by v.seq limit 1),
        (select coalesce(le.began_place_id, (select s.place_id from stops s where s.load_id = g.load_id order by s.seq limit 1))
            from legs g join leg_ends le on le.leg_id = g.id where g.trip_id = t.id order by g.id limit 1)) as place_id) b on true
left join places o on o.id = b.place_id;
