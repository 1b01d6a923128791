-- Statements that run with every change of a load are planned once for a connection instead of each time, and find their rows by index.

create index carrier_charges_leg on carrier_charges (leg_id);

create or replace function find_put(a_kind text, a_ref bigint, a_title text, a_subtitle text, a_words text, a_weight integer) returns void language plpgsql as $$
begin
    with put as (
        insert into search_entries (kind, ref_id, title, subtitle, words, weight)
        values (a_kind, a_ref, coalesce(a_title, ''), coalesce(a_subtitle, ''), lower(coalesce(a_words, '')), a_weight)
        on conflict (kind, ref_id) do update set title = excluded.title, subtitle = excluded.subtitle, words = excluded.words, weight = excluded.weight
        where (search_entries.title, search_entries.subtitle, search_entries.words, search_entries.weight) is distinct from (excluded.title, excluded.subtitle, excluded.words, excluded.weight)
        returning words)
    insert into search_vocabulary (word)
    select distinct w from put, regexp_split_to_table(put.words, '[^[:alpha:]]+') as w where length(w) between 3 and 40
    on conflict do nothing;
end $$;

create or replace function find_load(a_load bigint) returns void language plpgsql as $$
begin
    perform find_put('load', ref_id, title, subtitle, words, weight) from load_search where ref_id = a_load;
end $$;

create or replace function find_invoice(a_invoice bigint) returns void language plpgsql as $$
begin
    perform find_put('invoice', ref_id, title, subtitle, words, weight) from invoice_search where ref_id = a_invoice;
end $$;

-- Both sides begin at the number looked back to: without that, the chain was read from its beginning every five seconds.
create or replace function seal_events(most int, back bigint) returns int language plpgsql security definer set search_path = public, pg_temp as $$
declare
    e events;
    last bigint;
    head bytea;
    since bigint;
    sealed int := 0;
begin
    perform pg_advisory_xact_lock(731003);
    select c.n, c.hash into last, head from event_chain c order by c.n desc limit 1;
    last := coalesce(last, 0);
    head := coalesce(head, sha256(''));
    since := coalesce((select max(c.event_id) from event_chain c), 0) - back;
    for e in
        select v.* from events v
        where v.id > since and not exists (select 1 from event_chain c where c.event_id = v.id and c.event_id > since)
        order by v.id limit most
    loop
        last := last + 1;
        head := event_digest(head, e);
        insert into event_chain (n, event_id, hash) values (last, e.id, head);
        sealed := sealed + 1;
    end loop;
    return sealed;
end $$;
