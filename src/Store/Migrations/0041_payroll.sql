-- Employees, contractors and owner-operators; employer payroll tax; the minimum wage that deductions leave.
alter table drivers add worker_kind text not null default 'employee' check (worker_kind in ('employee', 'contractor', 'owner_operator'));

alter table business
    add payroll_tax_percent numeric(6, 3) not null default 7.65 check (payroll_tax_percent between 0 and 40),
    add minimum_wage numeric(6, 2) not null default 7.25 check (minimum_wage between 0 and 100);

alter table settlements add employer_tax numeric(12, 2) not null default 0 check (employer_tax >= 0);

-- A week's deductions may leave the minimum wage and carry over the rest.
do $$
declare
    old text;
begin
    select conname into strict old from pg_constraint where conrelid = 'settlements'::regclass and contype = 'c'
        and pg_get_constraintdef(oid) like '%net = (0)::numeric%' and pg_get_constraintdef(oid) like '%carried_over = (0)::numeric%';
    execute format('alter table settlements drop constraint %I', old);
end $$;

insert into accounts (code, name, kind, parent)
    select x.* from (values
        ('2210', 'Payroll taxes payable', 'liability', null),
        ('5020', 'Owner-operators', 'expense', '5000'),
        ('5130', 'Driver payroll taxes', 'expense', null),
        ('5140', 'Contract drivers', 'expense', null)) x (code, name, kind, parent)
    where exists (select 1 from accounts where code = '5000') on conflict (code) do nothing;
