-- Moves: loads that bill nobody, such as an empty trailer that is needed elsewhere.

alter table loads
    add column is_move boolean not null default false,
    -- The trailer that is moved; its location is where the move begins.
    add column moves_trailer_id bigint references trailers (id),
    drop constraint loads_check,
    add constraint loads_complete check (
        is_draft or ((is_move or customer_id is not null) and equipment is not null and first_at is not null and last_at is not null)),
    add constraint moves_bill_nobody check (not is_move or (customer_id is null and bill_to_id is null and revenue = 0)),
    add constraint trailer_of_a_move check (is_move or moves_trailer_id is null);
create index loads_moved_trailer on loads (moves_trailer_id) where moves_trailer_id is not null;
