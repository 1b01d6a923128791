-- Who is billed for a load, where that is not its customer, and the freight terms of its bill of lading.
alter table loads
    add column bill_to_id bigint references companies,
    add column freight_terms text check (freight_terms in ('prepaid', 'collect', 'third_party')),
    add column payer_id bigint generated always as (coalesce(bill_to_id, customer_id)) stored,
    add constraint bill_to_of_a_customer check (bill_to_id is null or customer_id is not null),
    add constraint third_party_billed check (freight_terms is distinct from 'third_party' or bill_to_id is not null);
create index loads_payer on loads (payer_id, id desc) where bill_to_id is not null;

-- A reference of one stop, by its place in the load; of the whole load when null.
alter table load_references add column stop_seq int check (stop_seq > 0);
alter table load_references drop constraint load_references_kind_check;
alter table load_references add constraint load_references_kind_check check (kind in ('purchase_order', 'bill_of_lading', 'pickup_number',
    'delivery_number', 'order_number', 'appointment', 'seal', 'customs_broker', 'customs_entry', 'other'));

-- Which other loads a trailer hauls besides its own kind: a reefer with its unit off hauls dry freight.
create table equipment_matches (
    trailer text not null check (trailer in ('van', 'reefer', 'flatbed', 'tanker', 'car_hauler')),
    load text not null check (load in ('van', 'reefer', 'flatbed', 'tanker', 'car_hauler')),
    primary key (trailer, load),
    check (trailer <> load)
);
alter table equipment_matches enable row level security;
create policy unlimited on equipment_matches to lark_app using (true) with check (true);
create policy limited on equipment_matches for select to lark_limited using (true);
grant select, insert, delete on equipment_matches to lark_app;
grant select on equipment_matches to lark_limited;
insert into equipment_matches (trailer, load) values ('reefer', 'van');
