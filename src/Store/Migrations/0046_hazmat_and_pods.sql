-- Hazardous materials as a shipping paper describes them (49 CFR 172.202).
alter table freight_lines
    add column hazmat_name text,
    add column hazard_class text check (hazard_class ~ '^[1-9]'),
    add column packing_group text check (packing_group in ('I', 'II', 'III')),
    add column emergency_phone text,
    add constraint hazmat_of_hazmat check (hazmat or (hazmat_name is null and hazard_class is null and packing_group is null and
        emergency_phone is null));

-- A POD is of one delivery, or of all of its load.
alter table documents
    add column stop_id bigint references stops on delete set null,
    add constraint stop_of_pod check (stop_id is null or (kind = 'pod' and load_id is not null));
create index documents_stop on documents (stop_id) where stop_id is not null;
