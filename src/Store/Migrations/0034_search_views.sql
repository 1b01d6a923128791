-- What is found of loads and invoices, as views: one row is refreshed by find_load and find_invoice, all of them are written by find_all.
create view load_search with (security_invoker = true) as
select l.id as ref_id, l.number as title,
    concat_ws(' · ', nullif(concat_ws(' to ', f.town, t.town), ''), c.name, l.state) as subtitle,
    concat_ws(' ', l.number, l.reference, c.name, replace(l.equipment, '_', ' '),
        (select string_agg(concat_ws(' ', p.name, p.town, p.region, s.note, s.received_by), ' ')
           from stops s left join places p on p.id = s.place_id where s.load_id = l.id),
        (select string_agg(concat_ws(' ', g.description, g.weight_lb, g.un_number), ' ') from freight_lines g where g.load_id = l.id),
        (select string_agg(concat_ws(' ', d.name, 'truck', tk.unit, tr.unit, tp.number, cc.name), ' ')
           from legs g left join trips tp on tp.id = g.trip_id left join drivers d on d.id = tp.driver_id left join trucks tk on tk.id = tp.truck_id
           left join trailers tr on tr.id = tp.trailer_id left join companies cc on cc.id = g.carrier_id where g.load_id = l.id),
        (select string_agg(r.value, ' ') from load_references r where r.load_id = l.id),
        (select string_agg(v.value, ' ') from custom_values v where v.load_id = l.id),
        l.driver_instructions, nullif(l.carrier_instructions, l.driver_instructions)) as words,
    case l.state when 'rolling' then 5 when 'covered' then 4 when 'booked' then 3 when 'draft' then 2 when 'delivered' then 2 else 0 end as weight
from loads l
left join companies c on c.id = l.customer_id
left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) f on true
left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) t on true;

create view invoice_search with (security_invoker = true) as
select i.id as ref_id, i.number as title,
    concat_ws(' · ', c.name, to_char(i.total, 'FM999,999,990.00'),
        case when i.voided_at is not null then 'void' when i.paid = i.total then 'paid' else 'due ' || to_char(i.due_on, 'Mon FMDD') end) as subtitle,
    concat_ws(' ', i.number, c.name, i.total,
        (select string_agg(concat_ws(' ', l.number, l.reference), ' ')
           from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id)) as words,
    case when i.paid < i.total then 1 else 0 end as weight
from invoices i join companies c on c.id = i.customer_id;

create or replace function find_load(a_load bigint) returns void language sql as $$
    select find_put('load', ref_id, title, subtitle, words, weight) from load_search where ref_id = a_load
$$;

create or replace function find_invoice(a_invoice bigint) returns void language sql as $$
    select find_put('invoice', ref_id, title, subtitle, words, weight) from invoice_search where ref_id = a_invoice
$$;

-- All loads and invoices that are not found yet, and their words.
create function find_all() returns void language sql as $$
    insert into search_entries (kind, ref_id, title, subtitle, words, weight)
    select 'load', ref_id, title, subtitle, lower(words), weight from load_search
    union all
    select 'invoice', ref_id, title, subtitle, lower(words), weight from invoice_search
    on conflict (kind, ref_id) do nothing;
    insert into search_vocabulary (word)
    select distinct w from search_entries, regexp_split_to_table(words, '[^[:alpha:]]+') as w
    where kind in ('load', 'invoice') and length(w) between 3 and 40
    on conflict do nothing;
$$;
