create table invoices (
    id bigint generated always as identity primary key,
    number text not null unique,
    customer_id bigint not null references companies,
    issued_on date not null,
    due_on date not null check (due_on >= issued_on),
    total numeric(12, 2) not null check (total > 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    paid numeric(12, 2) not null default 0 check (paid >= 0 and paid <= total),
    mailed_to text,
    mail_id bigint references mails,
    voided_at timestamptz,
    check (voided_at is null or paid = 0)
);
create index invoices_open on invoices (due_on, id) where voided_at is null and paid < total;
create index invoices_customer on invoices (customer_id, id desc);

create table invoice_lines (
    invoice_id bigint not null references invoices,
    seq int not null,
    load_id bigint not null references loads,
    charge_id bigint references charges on delete set null,
    description text not null,
    amount numeric(12, 2) not null,
    primary key (invoice_id, seq)
);

create table invoice_loads (
    invoice_id bigint not null references invoices,
    load_id bigint not null references loads,
    standing boolean not null default true,
    primary key (invoice_id, load_id)
);
create unique index load_on_one_invoice on invoice_loads (load_id) where standing;

create table payments (
    id bigint generated always as identity primary key,
    customer_id bigint not null references companies,
    received_on date not null,
    method text not null check (method in ('check', 'ach', 'wire', 'card', 'cash')),
    reference text,
    amount numeric(12, 2) not null check (amount > 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    applied numeric(12, 2) not null default 0 check (applied >= 0 and applied <= amount),
    reversed_at timestamptz,
    check (reversed_at is null or applied = 0)
);
create index payments_customer on payments (customer_id, id desc);

create table payment_applications (
    payment_id bigint not null references payments,
    invoice_id bigint not null references invoices,
    amount numeric(12, 2) not null check (amount > 0),
    standing boolean not null default true,
    primary key (payment_id, invoice_id)
);
create index payment_applications_invoice on payment_applications (invoice_id);

-- Keeps what is applied on both sides; their checks (applied <= amount, paid <= total) then hold whoever writes, for the
-- two updates lock the rows.
create function keep_applied() returns trigger language plpgsql as $$
declare
    change numeric(12, 2);
begin
    if tg_op = 'DELETE' or (tg_op = 'UPDATE' and (new.amount, new.payment_id, new.invoice_id) is distinct from (old.amount, old.payment_id, old.invoice_id)) then
        raise exception 'An applied payment is taken back by marking it, not by changing it' using errcode = 'LK001';
    end if;
    change := case when new.standing then new.amount else 0 end - case when tg_op = 'UPDATE' and old.standing then old.amount else 0 end;
    if (select p.customer_id from payments p where p.id = new.payment_id) <> (select i.customer_id from invoices i where i.id = new.invoice_id) then
        raise exception 'A payment goes to invoices of its own customer' using errcode = 'LK003';
    end if;
    if new.standing and exists (select 1 from invoices where id = new.invoice_id and voided_at is not null) then
        raise exception 'A voided invoice takes no payment' using errcode = 'LK003';
    end if;
    update payments set applied = applied + change where id = new.payment_id;
    update invoices set paid = paid + change where id = new.invoice_id;
    return null;
end $$;
create trigger keep_applied after insert or update or delete on payment_applications for each row execute function keep_applied();

create table bills (
    id bigint generated always as identity primary key,
    carrier_id bigint not null references carriers,
    number text not null check (length(trim(number)) between 1 and 60),
    leg_id bigint not null references legs,
    billed_on date not null,
    due_on date not null check (due_on >= billed_on),
    amount numeric(12, 2) not null check (amount > 0),
    currency text not null default 'USD' check (currency in ('USD', 'CAD')),
    agreed numeric(12, 2) not null,
    approved numeric(12, 2) check (approved > 0 and approved <= amount),
    approved_why text,
    approved_by bigint references users,
    approved_at timestamptz,
    paid_on date,
    paid_method text,
    paid_reference text,
    entered_at timestamptz not null,
    voided_at timestamptz,
    check ((approved is null) = (approved_at is null)),
    check (approved is null or approved <= agreed or approved_why is not null),
    check (paid_on is null or approved is not null),
    check (voided_at is null or (approved is null and paid_on is null))
);
create unique index bill_number_once on bills (carrier_id, lower(number)) where voided_at is null;
create unique index leg_billed_once on bills (leg_id) where voided_at is null;
create index bills_open on bills (due_on, id) where paid_on is null and voided_at is null;

create table settlements (
    id bigint generated always as identity primary key,
    driver_id bigint not null references drivers,
    monday date not null check (extract(isodow from monday) = 1),
    pay_day date not null,
    earned numeric(12, 2) not null check (earned >= 0),
    deducted numeric(12, 2) not null check (deducted >= 0),
    net numeric(12, 2) not null check (net >= 0 and net = earned - deducted),
    per_diem_days int not null,
    per_diem_rate numeric(8, 2) not null,
    approved_by bigint references users,
    approved_at timestamptz not null,
    paid_on date,
    paid_method text,
    paid_reference text,
    unique (driver_id, monday)
);

create table settlement_legs (
    settlement_id bigint not null references settlements,
    leg_id bigint not null unique references legs,
    miles int not null,
    rate numeric(6, 4) not null,
    amount numeric(12, 2) not null check (amount >= 0),
    primary key (settlement_id, leg_id)
);

create table draws (
    id bigint generated always as identity primary key,
    driver_id bigint not null references drivers,
    drawn_on date not null,
    amount numeric(12, 2) not null check (amount > 0),
    deducted numeric(12, 2) not null default 0 check (deducted >= 0 and deducted <= amount),
    note text
);
create index draws_open on draws (driver_id) where deducted < amount;

create table draw_deductions (
    settlement_id bigint not null references settlements,
    draw_id bigint not null references draws,
    amount numeric(12, 2) not null check (amount > 0),
    primary key (settlement_id, draw_id)
);
create function keep_deducted() returns trigger language plpgsql as $$
begin
    update draws set deducted = deducted + new.amount where id = new.draw_id;
    return null;
end $$;
create trigger keep_deducted after insert on draw_deductions for each row execute function keep_deducted();
create trigger draw_deductions_kept before update or delete on draw_deductions for each row execute function refuse_change();
