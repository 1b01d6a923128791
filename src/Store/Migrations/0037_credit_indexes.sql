-- What a customer owes and has under way is summed at each booking: only its open invoices and loads are read, however many there were.
create index invoices_owed on invoices (customer_id) include (total, paid) where voided_at is null and paid < total;
create index loads_under_way on loads (customer_id) include (revenue) where state in ('booked', 'covered', 'rolling', 'delivered');
