-- The business's own accounts, in parts; closed months; bills of anybody; driver's weeks with several rates, reimbursements and deductions.
alter table accounts
    add parent text references accounts,
    add retired_at timestamptz,
    add check (parent <> code);
insert into accounts (code, name, kind) select * from (values
    ('2200', 'Withheld from pay', 'liability'), ('4900', 'Short pays let go', 'income'), ('5120', 'Driver reimbursements', 'expense')) as a (code, name, kind)
    where exists (select 1 from accounts) on conflict do nothing;

-- A month whose books are closed; opened again it stays written here with why.
create table closed_months (
    id bigint generated always as identity primary key,
    month date not null check (extract(day from month) = 1),
    closed_at timestamptz not null,
    closed_by bigint references users,
    reopened_at timestamptz,
    reopened_by bigint references users,
    reopened_why text,
    check ((reopened_at is null) = (reopened_why is null))
);
create unique index closed_months_standing on closed_months (month) where reopened_at is null;

-- Who posts holds a lock that who closes waits for, so that nothing slips into a month while it is being closed.
create function month_is_open() returns trigger language plpgsql as $$
begin
    perform pg_advisory_xact_lock_shared(731012);
    if exists (select 1 from closed_months where month = date_trunc('month', new.posted_on)::date and reopened_at is null) then
        raise exception 'The books of % are closed', to_char(new.posted_on, 'FMMonth YYYY') using errcode = 'LK004';
    end if;
    return new;
end $$;
create trigger month_is_open before insert on entries for each row execute function month_is_open();

alter table entry_lines add vendor_id bigint references companies;

-- Companies that sell us something else than freight; terms of payment for all whom we pay.
alter table companies add is_vendor boolean not null default false, add pay_days int not null default 30 check (pay_days between 0 and 120);
update companies c set pay_days = k.pay_days from carriers k where k.company_id = c.id;
alter table carriers drop column pay_days;
alter table companies drop constraint companies_check, add check (is_customer or is_carrier or is_vendor);

-- What one approved another pays, unless the house allows one person to do both.
alter table business add two_people boolean not null default true;
create function paid_by_another() returns trigger language plpgsql as $$
begin
    if new.paid_by is not null and new.paid_by = new.approved_by and (select two_people from business) then
        raise exception 'Who approved does not pay' using errcode = 'LK005';
    end if;
    return new;
end $$;

drop view bill_list;
alter table bills rename column carrier_id to vendor_id;
alter table bills drop constraint bills_carrier_id_fkey, add foreign key (vendor_id) references companies;
alter table bills
    alter column leg_id drop not null,
    alter column agreed drop not null,
    add spent boolean not null default false,
    add note text,
    add paid_by bigint references users,
    add check ((leg_id is null) = (agreed is null)),
    drop constraint bills_check5,
    add check (not spent or (approved = amount and paid_on is not null)),
    add check (voided_at is null or spent or (approved is null and paid_on is null));
create trigger paid_by_another before update of paid_on, paid_by on bills for each row when (not new.spent) execute function paid_by_another();

create table bill_lines (
    bill_id bigint not null references bills,
    seq int not null,
    account text not null references accounts,
    description text,
    amount numeric(12, 2) not null check (amount > 0),
    load_id bigint references loads,
    truck_id bigint references trucks,
    driver_id bigint references drivers,
    primary key (bill_id, seq)
);
insert into bill_lines (bill_id, seq, account, amount, load_id) select b.id, 1, '5000', b.amount, g.load_id from bills b join legs g on g.id = b.leg_id;
create function bill_lines_sum() returns trigger language plpgsql as $$
declare
    the_bill bigint := coalesce(to_jsonb(new) ->> 'bill_id', to_jsonb(new) ->> 'id')::bigint;
begin
    if (select amount from bills where id = the_bill) <> (select coalesce(sum(amount), 0) from bill_lines where bill_id = the_bill) then
        raise exception 'The lines of bill % do not come to its amount', the_bill using errcode = 'LK002';
    end if;
    return null;
end $$;
create constraint trigger bill_lines_sum after insert on bills deferrable initially deferred for each row execute function bill_lines_sum();
create constraint trigger bill_lines_sum after insert on bill_lines deferrable initially deferred for each row execute function bill_lines_sum();
create trigger bill_lines_kept before update or delete on bill_lines for each row execute function refuse_change();

alter table papers add bill_id bigint references bills;
create index papers_bill on papers (bill_id) where bill_id is not null;

create view bill_list as
select b.id, b.number,
    case when b.voided_at is not null then 'void' when b.spent then 'spent' when b.paid_on is not null then 'paid' when b.approved is not null then 'approved' when b.amount > b.agreed then 'over agreed' else 'to approve' end as state,
    (select c.name from companies c where c.id = b.vendor_id) as vendor,
    (select l.number from legs g join loads l on l.id = g.load_id where g.id = b.leg_id) as load,
    (select string_agg(distinct a.name, ', ') from bill_lines x join accounts a on a.code = x.account where x.bill_id = b.id) as accounts,
    b.billed_on as billed, b.due_on as due, b.agreed, b.amount, b.approved, b.paid_on as paid
from bills b;

-- What a driver is paid for, from a day on; zero ends it.
create table driver_rates (
    driver_id bigint not null references drivers,
    kind text not null check (kind in ('per_mile', 'percent_of_line_haul', 'per_load', 'per_extra_stop', 'per_hour', 'per_day', 'per_week')),
    rate numeric(10, 4) not null check (rate >= 0),
    from_on date not null,
    agreed_by bigint references users,
    agreed_at timestamptz not null default now(),
    primary key (driver_id, kind, from_on)
);
insert into driver_rates (driver_id, kind, rate, from_on) select id, 'per_mile', per_mile, date '2000-01-01' from drivers where per_mile > 0
    union all select id, 'per_day', per_diem, date '2000-01-01' from drivers where per_diem > 0;
alter table drivers drop column per_mile, drop column per_diem;

create table standing_deductions (
    id bigint generated always as identity primary key,
    driver_id bigint not null references drivers,
    name text not null check (length(trim(name)) between 1 and 60),
    amount numeric(12, 2) not null check (amount > 0),
    account text not null references accounts,
    from_on date not null,
    until_on date,
    check (until_on >= from_on)
);
create index standing_deductions_driver on standing_deductions (driver_id);

create table pay_items (
    id bigint generated always as identity primary key,
    driver_id bigint not null references drivers,
    kind text not null check (kind in ('hours', 'extra', 'reimbursement', 'deduction')),
    happened_on date not null,
    what text not null check (length(trim(what)) between 1 and 120),
    hours numeric(5, 2) check (hours > 0 and hours <= 24),
    amount numeric(12, 2) check (amount > 0),
    account text references accounts,
    load_id bigint references loads,
    entered_by bigint references users,
    entered_at timestamptz not null,
    taken_back_at timestamptz,
    check ((kind = 'hours') = (hours is not null)),
    check ((kind = 'hours') = (amount is null)),
    check ((kind in ('reimbursement', 'deduction')) = (account is not null))
);
create index pay_items_driver on pay_items (driver_id, happened_on);

alter table settlements
    add reimbursed numeric(12, 2) not null default 0 check (reimbursed >= 0),
    add carried_over numeric(12, 2) not null default 0 check (carried_over >= 0),
    add days_out int not null default 0,
    add miles int not null default 0,
    add seen_at timestamptz,
    add paid_by bigint references users;
update settlements s set days_out = per_diem_days, miles = (select coalesce(sum(x.miles), 0) from settlement_legs x where x.settlement_id = s.id);
alter table settlements
    drop constraint settlements_check,
    add check (net = earned + reimbursed - deducted + carried_over),
    add check (net = 0 or carried_over = 0);
create trigger paid_by_another before update of paid_on, paid_by on settlements for each row execute function paid_by_another();

create table settlement_lines (
    settlement_id bigint not null references settlements,
    seq int not null,
    kind text check (kind in ('per_mile', 'percent_of_line_haul', 'per_load', 'per_extra_stop', 'per_hour', 'per_day', 'per_week')),
    what text not null,
    quantity numeric(12, 2) not null,
    rate numeric(12, 4) not null,
    on_day date not null,
    amount numeric(12, 2) not null check (amount >= 0),
    leg_id bigint references legs,
    item_id bigint unique references pay_items,
    primary key (settlement_id, seq)
);
insert into settlement_lines (settlement_id, seq, kind, what, quantity, rate, on_day, amount, leg_id)
    select x.settlement_id, row_number() over (partition by x.settlement_id order by x.leg_id), 'per_mile', '', x.miles, x.rate, s.monday + 6, x.amount, x.leg_id from settlement_legs x join settlements s on s.id = x.settlement_id
    union all select id, 1000, 'per_day', 'per diem', per_diem_days, per_diem_rate, monday + 6, round(per_diem_days * per_diem_rate, 2), null from settlements where per_diem_days > 0;
alter table settlement_legs drop column rate, drop column miles;
alter table settlements drop column per_diem_days, drop column per_diem_rate;

create table settlement_reimbursements (
    settlement_id bigint not null references settlements,
    item_id bigint primary key references pay_items,
    amount numeric(12, 2) not null check (amount > 0)
);
create table settlement_deductions (
    settlement_id bigint not null references settlements,
    seq int not null,
    item_id bigint unique references pay_items,
    standing_id bigint references standing_deductions,
    amount numeric(12, 2) not null check (amount > 0),
    primary key (settlement_id, seq),
    unique (settlement_id, standing_id),
    check ((item_id is null) <> (standing_id is null))
);
create trigger settlement_lines_kept before update or delete on settlement_lines for each row execute function refuse_change();
create trigger settlement_reimbursements_kept before update or delete on settlement_reimbursements for each row execute function refuse_change();
create trigger settlement_deductions_kept before update or delete on settlement_deductions for each row execute function refuse_change();

-- A week's shortfall is owed to us like a draw.
alter table draws add carried_from bigint unique references settlements;

-- Income and expense by all that they belong to: what the line does not say itself its load tells.
create view profit_lines as
select e.posted_on, l.account, a.name as account_name, a.kind, case a.kind when 'income' then l.credit - l.debit else l.debit - l.credit end as amount, l.load_id,
    coalesce(l.customer_id, lo.customer_id) as customer_id,
    coalesce(l.carrier_id, g.carrier_id) as carrier_id,
    coalesce(l.driver_id, t.driver_id) as driver_id,
    coalesce(l.truck_id, t.truck_id) as truck_id
from entry_lines l join entries e on e.id = l.entry_id join accounts a on a.code = l.account
left join loads lo on lo.id = l.load_id
left join legs g on g.load_id = l.load_id and g.seq = 1
left join trips t on t.id = g.trip_id
where a.kind in ('income', 'expense');
