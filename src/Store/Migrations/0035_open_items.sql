-- Each line of a control account belongs to an open item: an invoice, bill, payment, advance, settlement, load or leg. What is open on a day is
-- what was posted to it through that day, so each sub-ledger equals its account on every day.
alter table entry_lines add item_id bigint;
alter table invoices add posted_on date;
alter table bills add posted_on date;
alter table payments add posted_on date;
alter table payment_applications add posted_on date, add kind text check (kind in ('concession', 'claim', 'uncollectible'));

insert into accounts (code, name, kind) select * from (values
    ('1210', 'Unbilled revenue', 'asset'), ('2050', 'Accrued carrier pay', 'liability'), ('2110', 'Accrued wages', 'liability'),
    ('4910', 'Freight claims allowed', 'income'), ('6500', 'Credit loss', 'expense')) as a (code, name, kind)
where exists (select 1 from accounts)
on conflict (code) do nothing;
update accounts set name = 'Concessions to customers' where code = '4900' and name in ('Short pays let go', 'Short pays written off');

alter table entry_lines disable trigger user;

update entry_lines l set item_id = e.source_id from entries e
where e.id = l.entry_id and (
    (l.account = '1200' and e.source in ('invoice', 'invoice_void'))
    or (l.account = '2000' and e.source in ('bill', 'bill_reduction', 'bill_void', 'bill_payment'))
    or (l.account = '2100' and e.source in ('settlement', 'settlement_payment'))
    or (l.account = '1300' and e.source = 'advance')
    or (l.account = '2300' and e.source in ('payment', 'payment_reversal', 'credit_use')));

-- A shortfall became an advance; the other lines on advances are deductions, in the order in which they were taken.
update entry_lines l set item_id = a.id from entries e join advances a on a.carried_from = e.source_id
where e.id = l.entry_id and l.account = '1300' and e.source = 'settlement' and e.reverses_id is null and l.debit > 0;
with lines as (
    select l.entry_id, l.seq, e.source_id, row_number() over (partition by l.entry_id order by l.seq) as turn
    from entry_lines l join entries e on e.id = l.entry_id
    where l.account = '1300' and e.source = 'settlement' and e.reverses_id is null and l.credit > 0 and l.item_id is null),
deductions as (
    select x.settlement_id, x.advance_id, row_number() over (partition by x.settlement_id order by d.issued_on, d.id) as turn
    from advance_deductions x join advances d on d.id = x.advance_id)
update entry_lines l set item_id = d.advance_id from lines n join deductions d on d.settlement_id = n.source_id and d.turn = n.turn
where l.entry_id = n.entry_id and l.seq = n.seq;

-- Payments had one line for all their invoices: it is split by their applications, in the order in which they were made.
create temp table parts on commit drop as
with posted as (
    select e.id as entry_id, e.source_id as payment_id, l.customer_id, sum(l.credit) as amount,
        sum(sum(l.credit)) over (partition by e.source_id order by e.id) as upto
    from entry_lines l join entries e on e.id = l.entry_id
    where l.account = '1200' and e.source in ('payment', 'credit_use') and e.reverses_id is null group by e.id, l.customer_id),
applied as (
    select payment_id, invoice_id, amount + write_off as amount, sum(amount + write_off) over (partition by payment_id order by id) as upto
    from payment_applications)
select p.entry_id, p.customer_id, a.invoice_id, sum(least(p.upto, a.upto) - greatest(p.upto - p.amount, a.upto - a.amount)) as amount
from posted p join applied a on a.payment_id = p.payment_id
where least(p.upto, a.upto) > greatest(p.upto - p.amount, a.upto - a.amount)
group by p.entry_id, p.customer_id, a.invoice_id;

delete from entry_lines l using entries e where l.account = '1200' and e.id = l.entry_id
    and (l.entry_id in (select entry_id from parts) or e.reverses_id in (select entry_id from parts));
insert into entry_lines (entry_id, seq, account, debit, credit, customer_id, item_id)
select entry_id, 1000 + row_number() over (partition by entry_id order by invoice_id), '1200', 0, amount, customer_id, invoice_id from parts;
insert into entry_lines (entry_id, seq, account, debit, credit, customer_id, item_id)
select r.id, 1000 + row_number() over (partition by r.id order by p.invoice_id), '1200', p.amount, 0, p.customer_id, p.invoice_id
from parts p join entries r on r.reverses_id = p.entry_id;

-- Reversals belong to what their originals belong to.
update entry_lines l set item_id = o.item_id from entries r join entry_lines o on o.entry_id = r.reverses_id
where r.id = l.entry_id and o.seq = l.seq and o.account = l.account and l.item_id is null and o.item_id is not null;

alter table entry_lines enable trigger user;

update invoices set posted_on = issued_on;
update bills set posted_on = case when is_expense then coalesce(paid_on, billed_on) else billed_on end;
update payments set posted_on = received_on;
update payment_applications a set posted_on = p.received_on, kind = case when a.write_off > 0 then 'concession' end
from payments p where p.id = a.payment_id;
alter table invoices alter posted_on set not null;
alter table bills alter posted_on set not null;
alter table payments alter posted_on set not null;
alter table payment_applications alter posted_on set not null,
    add constraint payment_applications_why check (write_off = 0 or (kind is not null and reason is not null));

alter table entry_lines add constraint entry_lines_item
    check ((account in ('1200', '1210', '1300', '2000', '2050', '2100', '2300')) = (item_id is not null)) not valid;
create index entry_lines_customer on entry_lines (customer_id, entry_id) where account in ('1200', '2300');
create index entry_lines_item on entry_lines (account, item_id) where item_id is not null;
