-- The audit log is the table of events: what was done, by whom, from where, with before and after. It is chained: each entry's hash
-- covers the hash before it, so that an entry that was changed, removed or slipped in later is found (./lark verify).
alter table events add column address text check (length(address) <= 100);
create trigger events_not_emptied before truncate on events for each statement execute function refuse_change();
create index events_at on events (at desc, id desc);
create index events_user on events (user_id, id desc) where user_id is not null;

create table event_chain (
    n bigint primary key check (n > 0),
    event_id bigint not null unique references events,
    hash bytea not null check (length(hash) = 32)
);
create trigger event_chain_kept before update or delete on event_chain for each row execute function refuse_change();
create trigger event_chain_not_emptied before truncate on event_chain for each statement execute function refuse_change();

create function event_digest(previous bytea, e events) returns bytea language sql stable set search_path = public, pg_temp as $$
    select sha256(previous || convert_to(jsonb_build_array(e.id, to_char(e.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'), e.user_id, e.via, e.kind, e.subject, e.subject_id,
        e.load_id, e.driver_id, e.said, e.address, e.before, e.after)::text, 'UTF8'))
$$;

-- Chains what was committed since, the oldest first, at most so many; says how many. Numbers are given before a transaction
-- commits, so one may appear behind the newest: it is looked for a hundred thousand back.
create function seal_events(most int) returns int language plpgsql security definer set search_path = public, pg_temp as $$
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
        where v.id > coalesce((select max(c.event_id) from event_chain c), 0) - 100000 and not exists (select 1 from event_chain c where c.event_id = v.id)
        order by v.id limit most
    loop
        last := last + 1;
        head := event_digest(head, e);
        insert into event_chain (n, event_id, hash) values (last, e.id, head);
        sealed := sealed + 1;
    end loop;
    return sealed;
end $$;

-- Statistics for the planner, after much was written at once.
create function refresh_statistics() returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
    analyze;
end $$;

-- The application's own role: it owns nothing, so it can neither change the tables nor switch their triggers off.
do $$
begin
    create role lark_app nologin;
exception when duplicate_object or unique_violation then
    null;
end $$;
grant usage on schema public to lark_app;
grant select, insert, update, delete on all tables in schema public to lark_app;
grant usage, select, update on all sequences in schema public to lark_app;
alter default privileges in schema public grant select, insert, update, delete on tables to lark_app;
alter default privileges in schema public grant usage, select, update on sequences to lark_app;
revoke update, delete on events, entries, entry_lines from lark_app;
-- An entry is locked while it is reversed, which needs this right; that it changes is refused by its trigger.
grant update (id) on entries to lark_app;
revoke insert, update, delete on event_chain from lark_app;
revoke execute on function seal_events(int), refresh_statistics() from public;
grant execute on function seal_events(int), refresh_statistics() to lark_app;
