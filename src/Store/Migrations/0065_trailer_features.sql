-- What a trailer has besides its kind, and what a load requires. The company edits the list; a feature is named everywhere it is used.

create table trailer_features (
    name text primary key check (length(trim(name)) between 1 and 30 and name = lower(name)),
    seq integer not null
);
insert into trailer_features (name, seq)
select name, seq from unnest(array['liftgate', 'pallet jack', 'straps', 'load bars', 'e-track', 'vents', 'tarps', 'chains', 'air ride', 'third axle', 'winch'])
    with ordinality as f (name, seq);
grant select, insert, update, delete on trailer_features to lark_app;
grant select on trailer_features to lark_limited;
alter table trailer_features enable row level security;
create policy unlimited on trailer_features to lark_app using (true) with check (true);
create policy limited on trailer_features for select to lark_limited using (true);

alter table trailers add column features text[] not null default '{}';
alter table loads add column required_features text[] not null default '{}';
create index loads_requiring on loads using gin (required_features) where required_features <> '{}';
