-- A driver's approved week, and its payment, can be taken back: what it held is free again, and what it was stays written.
alter table settlements add taken_back_at timestamptz, add check (taken_back_at is null or paid_on is null);
alter table settlements drop constraint settlements_driver_id_monday_key;
create unique index settlements_week_once on settlements (driver_id, monday) where taken_back_at is null;

alter table settlement_legs add standing boolean not null default true, drop constraint settlement_legs_leg_id_key;
create unique index settlement_leg_once on settlement_legs (leg_id) where standing;
alter table settlement_lines add standing boolean not null default true, drop constraint settlement_lines_item_id_key;
create unique index settlement_item_once on settlement_lines (item_id) where standing;
alter table settlement_reimbursements add standing boolean not null default true, drop constraint settlement_reimbursements_pkey, add primary key (settlement_id, item_id);
create unique index settlement_reimbursed_once on settlement_reimbursements (item_id) where standing;
alter table settlement_deductions add standing boolean not null default true, drop constraint settlement_deductions_item_id_key;
create unique index settlement_deducted_once on settlement_deductions (item_id) where standing;
alter table draw_deductions add standing boolean not null default true;
alter table draws add standing boolean not null default true, add check (standing or deducted = 0);

-- What stands may be released, once; nothing else of it changes.
create function only_release() returns trigger language plpgsql as $$
begin
    if tg_op = 'UPDATE' and old.standing and not new.standing and to_jsonb(new) - 'standing' = to_jsonb(old) - 'standing' then
        return new;
    end if;
    raise exception '% are never changed or deleted', tg_table_name using errcode = 'LK001';
end $$;
drop trigger settlement_lines_kept on settlement_lines;
drop trigger settlement_reimbursements_kept on settlement_reimbursements;
drop trigger settlement_deductions_kept on settlement_deductions;
drop trigger draw_deductions_kept on draw_deductions;
create trigger settlement_legs_kept before update or delete on settlement_legs for each row execute function only_release();
create trigger settlement_lines_kept before update or delete on settlement_lines for each row execute function only_release();
create trigger settlement_reimbursements_kept before update or delete on settlement_reimbursements for each row execute function only_release();
create trigger settlement_deductions_kept before update or delete on settlement_deductions for each row execute function only_release();
create trigger draw_deductions_kept before update or delete on draw_deductions for each row execute function only_release();

create or replace function keep_deducted() returns trigger language plpgsql as $$
begin
    update draws set deducted = deducted + case when tg_op = 'INSERT' then new.amount else -new.amount end where id = new.draw_id;
    return null;
end $$;
create trigger keep_deducted_back after update on draw_deductions for each row execute function keep_deducted();

create function release_week() returns trigger language plpgsql as $$
begin
    if old.taken_back_at is not null then
        raise exception 'A week that was taken back does not change any more' using errcode = 'LK001';
    end if;
    if new.taken_back_at is not null then
        update settlement_legs set standing = false where settlement_id = new.id;
        update settlement_lines set standing = false where settlement_id = new.id;
        update settlement_reimbursements set standing = false where settlement_id = new.id;
        update settlement_deductions set standing = false where settlement_id = new.id;
        update draw_deductions set standing = false where settlement_id = new.id;
        update draws set standing = false where carried_from = new.id;
    end if;
    return null;
end $$;
create trigger release_week after update on settlements for each row execute function release_week();

-- Where a load goes from and to, as one text to look its lane up by.
alter table loads add lane text;
create function lane_of(the_load bigint) returns text language sql stable as $$
    select (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = the_load order by s.seq limit 1) || ' to '
        || (select p.town || ' ' || p.region from stops s join places p on p.id = s.place_id where s.load_id = the_load order by s.seq desc limit 1)
$$;
update loads set lane = lane_of(id);
create index loads_lane on loads (lane, first_at desc);

-- More lists: money that came in, entries of the books, places.
create view payment_list as
select p.id, (select c.name from companies c where c.id = p.customer_id) as customer,
    case when p.reversed_at is not null then 'taken back' when p.applied < p.amount then 'with credit' else 'applied' end as state,
    p.received_on as received, p.method, p.reference, p.amount, p.applied,
    case when p.reversed_at is null and p.applied < p.amount then p.amount - p.applied end as credit,
    (select string_agg(i.number, ', ' order by i.number) from payment_applications a join invoices i on i.id = a.invoice_id where a.payment_id = p.id and a.standing) as invoices
from payments p;

create view entry_list as
select e.id, e.id as number, e.posted_on as posted, e.at as entered, e.source, e.memo,
    (select sum(l.debit) from entry_lines l where l.entry_id = e.id) as amount,
    (select string_agg(distinct a.name, ', ') from entry_lines l join accounts a on a.code = l.account where l.entry_id = e.id) as accounts,
    (select string_agg(distinct o.number, ', ') from entry_lines l join loads o on o.id = l.load_id where l.entry_id = e.id) as loads,
    e.reverses_id as reverses, exists (select 1 from entries r where r.reverses_id = e.id) as reversed
from entries e;

create view place_list as
select p.id, p.name, p.address, p.town, p.region, p.country, p.zone, p.note,
    (select count(*) from stops s where s.place_id = p.id) as stops,
    (select max(s.arrived_at) from stops s where s.place_id = p.id) as last
from places p;

-- What Today asks: arrivals and pickups of the last weeks.
create index stops_delivery_reached on stops (arrived_at) include (until_at) where kind = 'delivery';
create index loads_first on loads (first_at);
create index loads_delivered on loads (delivered_at) where delivered_at is not null;
create index payments_received on payments (received_on);
