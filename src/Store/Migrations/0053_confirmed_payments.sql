-- Money that one person paid out alone is confirmed by another: expenses entered as already paid, and advances. Older ones count as confirmed.
alter table bills
    add confirmed_by bigint references users,
    add confirmed_at timestamptz,
    add constraint bills_confirmed_by_another check (confirmed_by is null or (is_expense and confirmed_by is distinct from paid_by));
update bills set confirmed_at = entered_at where is_expense;

alter table advances
    add entered_by bigint references users,
    add confirmed_by bigint references users,
    add confirmed_at timestamptz,
    add constraint advances_confirmed_by_another check (confirmed_by is null or confirmed_by is distinct from entered_by);

create index bills_to_confirm on bills (id) where is_expense and confirmed_at is null and voided_at is null;
create index advances_to_confirm on advances (id) where entered_by is not null and confirmed_at is null and standing;
