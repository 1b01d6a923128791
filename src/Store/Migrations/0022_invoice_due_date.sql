-- The due date of an invoice in search results, month first.
create or replace function find_invoice(a_invoice bigint) returns void language sql as $$
    select find_put('invoice', i.id, i.number,
        concat_ws(' · ', c.name, to_char(i.total, 'FM999,999,990.00'), case when i.voided_at is not null then 'void' when i.paid = i.total then 'paid' else 'due ' || to_char(i.due_on, 'Mon FMDD') end),
        concat_ws(' ', i.number, c.name, i.total, (select string_agg(concat_ws(' ', l.number, l.reference), ' ') from invoice_loads il join loads l on l.id = il.load_id where il.invoice_id = i.id)),
        case when i.paid < i.total then 1 else 0 end)
    from invoices i join companies c on c.id = i.customer_id where i.id = a_invoice
$$;

select find_invoice(id) from invoices where paid < total and voided_at is null;
