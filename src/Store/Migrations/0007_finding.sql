-- One row for each thing that can be found, with every word that was ever written on it.
create table findables (
    kind text not null check (kind in ('load', 'company', 'driver', 'invoice', 'place')),
    ref_id bigint not null,
    title text not null,
    subtitle text not null,
    words text not null,
    weight int not null default 0,
    primary key (kind, ref_id)
);
create index findables_words on findables using gin (words gin_trgm_ops);

create function find_put(a_kind text, a_ref bigint, a_title text, a_subtitle text, a_words text, a_weight int) returns void language sql as $$
    insert into findables (kind, ref_id, title, subtitle, words, weight)
    values (a_kind, a_ref, coalesce(a_title, ''), coalesce(a_subtitle, ''), lower(coalesce(a_words, '')), a_weight)
    on conflict (kind, ref_id) do update set title = excluded.title, subtitle = excluded.subtitle, words = excluded.words, weight = excluded.weight
$$;

create function find_load(a_load bigint) returns void language sql as $$
    select find_put('load', l.id, l.number,
        concat_ws(' · ', nullif(concat_ws(' to ', f.town, t.town), ''), c.name, l.state),
        concat_ws(' ', l.number, l.reference, c.name, replace(l.equipment, '_', ' '),
            (select string_agg(concat_ws(' ', p.name, p.town, p.region, s.note, s.received_by), ' ') from stops s left join places p on p.id = s.place_id where s.load_id = l.id),
            (select string_agg(concat_ws(' ', g.description, g.weight_lb), ' ') from freight_lines g where g.load_id = l.id),
            (select string_agg(concat_ws(' ', d.name, 'truck', tk.unit, tr.unit, tp.number, cc.name), ' ')
               from legs g left join trips tp on tp.id = g.trip_id left join drivers d on d.id = tp.driver_id left join trucks tk on tk.id = tp.truck_id
               left join trailers tr on tr.id = tp.trailer_id left join companies cc on cc.id = g.carrier_id where g.load_id = l.id),
            l.instructions),
        case l.state when 'rolling' then 5 when 'covered' then 4 when 'booked' then 3 when 'draft' then 2 when 'delivered' then 2 else 0 end)
    from loads l
    left join companies c on c.id = l.customer_id
    left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq limit 1) f on true
    left join lateral (select p.town from stops s join places p on p.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1) t on true
    where l.id = a_load
$$;

create function find_company(a_company bigint) returns void language sql as $$
    select find_put('company', c.id, c.name,
        concat_ws(' · ', case when c.is_customer and c.is_carrier then 'customer and carrier' when c.is_carrier then 'carrier' else 'customer' end, concat_ws(' ', c.town, c.region), c.phone),
        concat_ws(' ', c.name, c.town, c.region, c.phone, c.email, c.note, k.usdot), 1)
    from companies c left join carriers k on k.company_id = c.id where c.id = a_company
$$;

create function find_driver(a_driver bigint) returns void language sql as $$
    select find_put('driver', d.id, d.name, concat_ws(' · ', 'driver', d.home_town, d.phone), concat_ws(' ', d.name, d.short_name, d.phone, d.email, d.home_town, 'driver'), 1)
    from drivers d where d.id = a_driver
$$;

create function find_invoice(a_invoice bigint) returns void language sql as $$
    select find_put('invoice', i.id, i.number,
        concat_ws(' · ', c.name, to_char(i.total, 'FM999,999,990.00'), case when i.voided_at is not null then 'void' when i.paid = i.total then 'paid' else 'due ' || to_char(i.due_on, 'DD Mon') end),
        concat_ws(' ', i.number, c.name, i.total, (select string_agg(concat_ws(' ', l.number, l.reference), ' ') from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id)),
        case when i.paid < i.total then 1 else 0 end)
    from invoices i join companies c on c.id = i.customer_id where i.id = a_invoice
$$;

create function find_place(a_place bigint) returns void language sql as $$
    select find_put('place', p.id, p.name, concat_ws(' ', p.address, p.town, p.region), concat_ws(' ', p.name, p.address, p.town, p.region), 0)
    from places p where p.id = a_place
$$;
