-- Since invoices can be supplements, no index served the standing invoices of a load: each command on a load read the whole table.
create index invoice_loads_load on invoice_loads (load_id) where standing;
-- Credit is asked of the payer.
create index loads_owed on loads (payer_id) include (revenue) where state in ('booked', 'tendered', 'covered', 'rolling', 'delivered');

-- Most events are chained in the order of their keys, those of long transactions a little later: mostly it is enough to look a short way back.
drop function seal_events(int);
create function seal_events(most int, back bigint) returns int language plpgsql security definer set search_path = public, pg_temp as $$
declare
    e events;
    last bigint;
    head bytea;
    sealed int := 0;
begin
    perform pg_advisory_xact_lock(731003);
    select c.n, c.hash into last, head from event_chain c order by c.n desc limit 1;
    last := coalesce(last, 0);
    head := coalesce(head, sha256(''));
    for e in
        select v.* from events v
        where v.id > coalesce((select max(c.event_id) from event_chain c), 0) - back and not exists (select 1 from event_chain c where c.event_id = v.id)
        order by v.id limit most
    loop
        last := last + 1;
        head := event_digest(head, e);
        insert into event_chain (n, event_id, hash) values (last, e.id, head);
        sealed := sealed + 1;
    end loop;
    return sealed;
end $$;
revoke execute on function seal_events(int, bigint) from public;
grant execute on function seal_events(int, bigint) to lark_app;
