insert into accounts (code, name, kind) select '2120', 'Accrued interest', 'liability'
    where exists (select 1 from accounts where code = '5000') on conflict (code) do nothing;
