-- Appointments are shown in the zone of their stop, in lists too.
do $$
begin
    execute 'create or replace view load_list with (security_invoker = true) as ' || rtrim(regexp_replace(pg_get_viewdef('load_list'), 'FROM loads l;\s*$', ''))
        || ', (select s.zone from stops s where s.load_id = l.id order by s.seq limit 1) as pickup_zone'
        || ', (select s.zone from stops s where s.load_id = l.id order by s.seq desc limit 1) as delivery_zone from loads l';
end $$;
