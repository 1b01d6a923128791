-- Escrow of owner-operators (49 CFR 376.12(k)): a deduction up to an agreed amount, and interest.
alter table standing_deductions add column up_to numeric(12, 2) check (up_to > 0);
alter table business add column escrow_percent numeric(6, 3) not null default 0 check (escrow_percent between 0 and 20);
insert into accounts (code, name, kind) select '2250', 'Owner-operator escrow', 'liability'
    where exists (select 1 from accounts where code = '5000') on conflict (code) do nothing;
create index entry_lines_escrow on entry_lines (driver_id) where account = '2250';

-- A deduction that charges a bill's line back to an owner-operator (49 CFR 376.12(h)).
alter table pay_items
    add column bill_id bigint references bills,
    add column bill_seq int,
    add constraint charged_back_line foreign key (bill_id, bill_seq) references bill_lines (bill_id, seq),
    add constraint charged_back_whole check ((bill_id is null) = (bill_seq is null)),
    add constraint charged_back_deduction check (bill_id is null or kind = 'deduction');
create index pay_items_bill on pay_items (bill_id) where bill_id is not null;
create function keep_charged_back() returns trigger language plpgsql as $$
begin
    perform 1 from bills where id = new.bill_id for update;
    if (select coalesce(sum(amount), 0) from pay_items where bill_id = new.bill_id and bill_seq = new.bill_seq and removed_at is null)
        > (select amount from bill_lines where bill_id = new.bill_id and seq = new.bill_seq) then
        raise exception 'More would be charged back than line % of bill % has', new.bill_seq, new.bill_id using errcode = 'LK002';
    end if;
    return null;
end $$;
create trigger keep_charged_back after insert or update of amount, removed_at on pay_items
    for each row when (new.bill_id is not null) execute function keep_charged_back();
