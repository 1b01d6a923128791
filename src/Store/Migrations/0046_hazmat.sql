-- Hazardous materials as a shipping paper describes them (49 CFR 172.202).
alter table freight_lines
    add column hazmat_name text,
    add column hazard_class text check (hazard_class ~ '^[1-9]'),
    add column packing_group text check (packing_group in ('I', 'II', 'III')),
    add column emergency_phone text,
    add constraint hazmat_of_hazmat check (hazmat or (hazmat_name is null and hazard_class is null and packing_group is null and
        emergency_phone is null));
