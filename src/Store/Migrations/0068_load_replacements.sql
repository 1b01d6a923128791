-- A load that was divided or combined is canceled, and the loads that replaced it are named here.
create table load_replacements (
    old_id bigint not null references loads (id),
    new_id bigint not null references loads (id),
    primary key (old_id, new_id),
    constraint load_replacements_others check (old_id <> new_id)
);
create index load_replacements_new on load_replacements (new_id);
grant select, insert, update, delete on load_replacements to lark_app;
grant select on load_replacements to lark_limited;
alter table load_replacements enable row level security;
create policy unlimited on load_replacements to lark_app using (true) with check (true);
create policy limited on load_replacements for select to lark_limited
    using (exists (select 1 from loads l where l.id = old_id) and exists (select 1 from loads l where l.id = new_id));
