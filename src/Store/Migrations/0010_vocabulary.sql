-- A typing error is looked up among the words that there are, some thousands, and not among all the things that they stand on.
create extension if not exists fuzzystrmatch;

create table find_vocabulary (
    word text primary key check (length(word) between 3 and 40)
);

create or replace function find_put(a_kind text, a_ref bigint, a_title text, a_subtitle text, a_words text, a_weight int) returns void language sql as $$
    with put as (
        insert into findables (kind, ref_id, title, subtitle, words, weight)
        values (a_kind, a_ref, coalesce(a_title, ''), coalesce(a_subtitle, ''), lower(coalesce(a_words, '')), a_weight)
        on conflict (kind, ref_id) do update set title = excluded.title, subtitle = excluded.subtitle, words = excluded.words, weight = excluded.weight
        where (findables.title, findables.subtitle, findables.words, findables.weight) is distinct from (excluded.title, excluded.subtitle, excluded.words, excluded.weight)
        returning words)
    insert into find_vocabulary (word)
    select distinct w from put, regexp_split_to_table(put.words, '[^[:alpha:]]+') as w where length(w) between 3 and 40
    on conflict do nothing
$$;

insert into find_vocabulary (word)
select distinct w from findables, regexp_split_to_table(words, '[^[:alpha:]]+') as w where length(w) between 3 and 40;
