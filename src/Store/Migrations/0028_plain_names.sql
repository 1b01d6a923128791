-- Tables and columns take the names of docs/glossary.md. Views, policies and triggers follow by themselves; functions, indexes, constraints and sequences are renamed below.
do $$
declare
    renamed text[][] := array[
        ['papers', 'documents'], ['paper_bytes', 'document_files'], ['paper_asks', 'document_requests'], ['draws', 'advances'], ['draw_deductions', 'advance_deductions'],
        ['billing_ways', 'billing_settings'], ['mails', 'emails'], ['own_fields', 'custom_fields'], ['load_own_values', 'custom_values'], ['findables', 'search_entries'], ['find_vocabulary', 'search_vocabulary']];
    columns text[][] := array[
        ['documents', 'put_away_at', 'removed_at'], ['documents', 'mail_id', 'email_id'], ['documents', 'guess_load_id', 'suggested_load_id'], ['documents', 'guess_why', 'suggested_why'],
        ['document_requests', 'mail_id', 'email_id'], ['invoices', 'mail_id', 'email_id'], ['invoices', 'papers', 'attachments'],
        ['advances', 'drawn_on', 'issued_on'], ['advance_deductions', 'draw_id', 'advance_id'],
        ['billing_settings', 'papers', 'attachments'], ['billing_settings', 'words', 'message'], ['billing_settings', 'demands', 'required_documents'],
        ['payment_applications', 'let_go', 'write_off'], ['bills', 'spent', 'is_expense'],
        ['pay_items', 'taken_back_at', 'removed_at'], ['trip_costs', 'taken_back_at', 'removed_at'], ['trip_costs', 'taken_back_by', 'removed_by'],
        ['reports', 'taken_back_at', 'undone_at'], ['reports', 'words', 'note'], ['settlements', 'taken_back_at', 'reversed_at'], ['settlements', 'seen_at', 'acknowledged_at'],
        ['trips', 'promised', 'scheduled'], ['trips', 'called_off_at', 'canceled_at'], ['trips', 'began_at', 'started_at'], ['sessions', 'began_at', 'started_at'],
        ['account_links', 'made_at', 'created_at'], ['api_tokens', 'made_at', 'created_at'], ['users', 'made_at', 'created_at'], ['users', 'made_by', 'created_by'],
        ['run_plans', 'made_at', 'created_at'], ['run_plans', 'made_by', 'created_by'], ['run_plans', 'said', 'summary'], ['events', 'said', 'summary'],
        ['business', 'two_people', 'two_person_approval'], ['business', 'ask_after_hours', 'document_request_hours'], ['business', 'least_per_mile', 'min_rate_per_mile'], ['business', 'sole_limit', 'one_person_limit']];
    -- In the bodies of functions.
    names text[][] := renamed || array[
        ['promised', 'scheduled'], ['let_go', 'write_off'], ['draw_id', 'advance_id'], ['two_people', 'two_person_approval'], ['taken_back_at', 'reversed_at'], ['e\.said', 'e.summary']];
    pair text[];
    thing record;
    body text;
begin
    foreach pair slice 1 in array renamed loop
        execute format('alter table %I rename to %I', pair[1], pair[2]);
        for thing in
            select c.conname as name from pg_constraint c where c.conrelid = pair[2]::regclass and c.conname like pair[1] || '\_%'
        loop
            execute format('alter table %I rename constraint %I to %I', pair[2], thing.name, pair[2] || substr(thing.name, length(pair[1]) + 1));
        end loop;
        for thing in
            select i.relname as name from pg_index x join pg_class i on i.oid = x.indexrelid where x.indrelid = pair[2]::regclass and i.relname like pair[1] || '\_%'
        loop
            execute format('alter index %I rename to %I', thing.name, pair[2] || substr(thing.name, length(pair[1]) + 1));
        end loop;
        for thing in
            select s.relname as name from pg_depend d join pg_class s on s.oid = d.objid and s.relkind = 'S' where d.refobjid = pair[2]::regclass and s.relname like pair[1] || '\_%'
        loop
            execute format('alter sequence %I rename to %I', thing.name, pair[2] || substr(thing.name, length(pair[1]) + 1));
        end loop;
    end loop;
    for thing in select c.conname as name from pg_constraint c where c.conrelid = 'trips'::regclass and c.conname like '%\_promised\_once' loop
        execute format('alter table trips rename constraint %I to %I', thing.name, replace(thing.name, '_promised_', '_scheduled_'));
    end loop;
    foreach pair slice 1 in array columns loop
        execute format('alter table %I rename column %I to %I', pair[1], pair[2], pair[3]);
    end loop;
    for thing in
        select p.oid from pg_proc p join pg_language l on l.oid = p.prolang where p.pronamespace = 'public'::regnamespace and l.lanname in ('sql', 'plpgsql')
    loop
        body := pg_get_functiondef(thing.oid);
        foreach pair slice 1 in array names loop
            body := regexp_replace(body, '\m' || pair[1] || '\M', pair[2], 'g');
        end loop;
        if body <> pg_get_functiondef(thing.oid) then
            execute body;
        end if;
    end loop;
end $$;
