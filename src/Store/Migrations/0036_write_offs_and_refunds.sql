-- What is written off without a payment is an application of its own; what a customer paid too much can be paid back.
alter table payment_applications alter payment_id drop not null,
    drop constraint payment_applications_amount_check,
    add constraint payment_applications_amount check (case when payment_id is null then amount = 0 and write_off > 0 else amount > 0 end);

alter table payments add refunded numeric(12, 2) not null default 0 check (refunded >= 0),
    drop constraint payments_check,
    add constraint payments_used check (applied >= 0 and applied + refunded <= amount),
    drop constraint payments_check1,
    add constraint payments_reversed check (reversed_at is null or (applied = 0 and refunded = 0));

create table refunds (
    id bigint generated always as identity primary key,
    payment_id bigint not null references payments,
    paid_on date not null,
    posted_on date not null,
    method text not null check (method in ('check', 'ach', 'wire', 'card', 'cash')),
    reference text,
    amount numeric(12, 2) not null check (amount > 0),
    reason text not null,
    paid_by bigint references users,
    standing boolean not null default true
);
create index refunds_payment on refunds (payment_id);
alter table refunds enable row level security;
create policy unlimited on refunds to lark_app using (true) with check (true);
create policy limited on refunds for select to lark_limited using (exists (select 1 from payments p where p.id = payment_id));
grant select, insert, update on refunds to lark_app;
grant select on refunds to lark_limited;

create function keep_refunded() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' or (tg_op = 'UPDATE' and (new.amount, new.payment_id) is distinct from (old.amount, old.payment_id)) then
        raise exception 'A refund is reversed by marking it, not by changing it' using errcode = 'LK001';
    end if;
    update payments set refunded = refunded + case when new.standing then new.amount else 0 end
        - case when tg_op = 'UPDATE' and old.standing then old.amount else 0 end where id = new.payment_id;
    return null;
end $$;
create trigger keep_refunded after insert or update or delete on refunds for each row execute function keep_refunded();

create or replace view payment_list with (security_invoker = true) as
select p.id, c.name as customer,
    case when p.reversed_at is not null then 'reversed' when p.applied + p.refunded < p.amount then 'unapplied'
        when p.applied = 0 then 'refunded' else 'applied' end as state,
    p.received_on as received, p.method, p.reference, p.amount, p.applied,
    case when p.reversed_at is null and p.applied + p.refunded < p.amount then p.amount - p.applied - p.refunded end as credit,
    (select string_agg(i.number, ', ' order by i.number) from payment_applications a join invoices i on i.id = a.invoice_id
        where a.payment_id = p.id and a.standing) as invoices,
    p.reversed_at as reversed, nullif(p.refunded, 0) as refunded, p.posted_on as posted
from payments p
join companies c on c.id = p.customer_id;
