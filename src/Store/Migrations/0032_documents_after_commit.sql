-- A rate confirmation is drawn after the load is covered: its email waits for the document.
alter table emails add column awaits_tender_id bigint references tenders (id);
create index emails_awaiting on emails (id) where awaits_tender_id is not null;
