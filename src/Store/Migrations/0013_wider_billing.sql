-- How a customer is billed: what stands on its invoices, which papers go along, to whom, with what words; and which papers it demands before it pays.
create table billing_ways (
    customer_id bigint primary key references companies,
    by_load boolean not null default false,
    columns text[] not null default '{}',
    papers text[] not null default '{pod,bol,scale_ticket,lumper_receipt}',
    one_file boolean not null default true,
    together boolean not null default false,
    recipients text,
    subject text,
    words text,
    demands text[] not null default '{pod}',
    version int not null default 1
);

-- The sheet as it was sent stays as it was.
alter table invoices
    add sheet_sha256 bytea references paper_bytes,
    add papers text[] not null default '{pod,bol,scale_ticket,lumper_receipt}';

-- A part of a payment, and what was let go beside it because the customer paid short.
alter table payment_applications
    drop constraint payment_applications_pkey,
    add id bigint generated always as identity primary key,
    add let_go numeric(12, 2) not null default 0 check (let_go >= 0),
    add reason text,
    add check (let_go = 0 or reason is not null);
create index payment_applications_payment on payment_applications (payment_id);

create or replace function keep_applied() returns trigger language plpgsql as $$
declare
    change numeric(12, 2);
    settled numeric(12, 2);
begin
    if tg_op = 'DELETE' or (tg_op = 'UPDATE' and (new.amount, new.let_go, new.payment_id, new.invoice_id) is distinct from (old.amount, old.let_go, old.payment_id, old.invoice_id)) then
        raise exception 'An applied payment is taken back by marking it, not by changing it' using errcode = 'LK001';
    end if;
    change := case when new.standing then new.amount else 0 end - case when tg_op = 'UPDATE' and old.standing then old.amount else 0 end;
    settled := change + case when new.standing then new.let_go else 0 end - case when tg_op = 'UPDATE' and old.standing then old.let_go else 0 end;
    if (select p.customer_id from payments p where p.id = new.payment_id) <> (select i.customer_id from invoices i where i.id = new.invoice_id) then
        raise exception 'A payment goes to invoices of its own customer' using errcode = 'LK003';
    end if;
    if new.standing and exists (select 1 from invoices where id = new.invoice_id and voided_at is not null) then
        raise exception 'A voided invoice takes no payment' using errcode = 'LK003';
    end if;
    update payments set applied = applied + change where id = new.payment_id;
    update invoices set paid = paid + settled where id = new.invoice_id;
    return null;
end $$;

-- A week's invoices in one go: each part is done in its own transaction, by whichever server takes it.
create table billing_runs (
    id bigint generated always as identity primary key,
    at timestamptz not null,
    by_user bigint not null references users
);
create table billing_run_parts (
    run_id bigint not null references billing_runs,
    seq int not null,
    customer_id bigint not null references companies,
    load_ids bigint[] not null check (cardinality(load_ids) > 0),
    done_at timestamptz,
    invoice_id bigint references invoices,
    failed text,
    primary key (run_id, seq),
    check (done_at is not null or (invoice_id is null and failed is null)),
    check (done_at is null or (invoice_id is null) <> (failed is null))
);
create index billing_run_parts_waiting on billing_run_parts (run_id, seq) where done_at is null;

alter table holds drop constraint holds_kind_check, add check (kind in ('credit', 'paper', 'dispute', 'billing'));

-- Papers that came in and belong to no load yet wait to be sorted; a guess may stand beside.
alter table papers
    add mail_id bigint references mails,
    add guess_load_id bigint references loads,
    add guess_why text;
create index papers_tray on papers (id) where load_id is null and bill_id is null and put_away_at is null;

-- Asked for a paper: whom, when, with which mail; the link's token lets it be handed in.
create table paper_asks (
    id bigint generated always as identity primary key,
    load_id bigint not null references loads,
    leg_id bigint not null references legs,
    kinds text[] not null check (cardinality(kinds) > 0),
    asked_at timestamptz not null,
    asked_by bigint references users,
    to_driver bigint references drivers,
    mail_id bigint references mails,
    token text not null unique
);
create index paper_asks_load on paper_asks (load_id, id);
alter table business add ask_after_hours int not null default 24 check (ask_after_hours between 0 and 720);
