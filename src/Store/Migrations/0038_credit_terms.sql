-- Credit for customers without a limit of their own, and days past due after which new loads are held.
alter table business add default_credit_limit numeric(12, 2) check (default_credit_limit >= 0),
    add past_due_hold_days int check (past_due_hold_days between 1 and 365);
