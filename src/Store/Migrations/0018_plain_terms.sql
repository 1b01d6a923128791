-- Stored terms follow docs/glossary.md: documents, advances, settlements, expenses, planning.
alter table holds drop constraint holds_kind_check;
update holds set kind = 'document' where kind = 'paper';
alter table holds add constraint holds_kind_check check (kind in ('credit', 'document', 'dispute', 'billing'));

alter table run_plans drop constraint run_plans_state_check;
update run_plans set state = 'planning' where state = 'thinking';
alter table run_plans add constraint run_plans_state_check check (state in ('planning', 'ready', 'failed'));

alter table entries disable trigger user;
update entries set source = case source
    when 'draw' then 'advance' when 'week' then 'settlement' when 'week_payment' then 'settlement_payment'
    when 'spending' then 'expense' when 'spending_void' then 'expense_void' else source end
where source in ('draw', 'week', 'week_payment', 'spending', 'spending_void');
alter table entries enable trigger user;

alter table events disable trigger user;
update events set kind = case kind
    when 'bill.approval_back' then 'bill.approval_reversed' when 'bill.payment_back' then 'bill.payment_reversed' when 'bill.spent' then 'bill.expensed'
    when 'billing_run.began' then 'billing_run.started' when 'draw.given' then 'advance.issued' when 'load.handed_back' then 'load.returned'
    when 'load.handover_back' then 'load.handover_undone' when 'load.passed' then 'load.hold_overridden' when 'load.put_right' then 'load.return_resolved'
    when 'load.taken_back' then 'load.unassigned' when 'load.way_set' then 'load.route_set' when 'mail.came' then 'mail.received'
    when 'paper.added' then 'document.added' when 'paper.asked' then 'document.requested' when 'paper.brought_back' then 'document.restored'
    when 'paper.put_away' then 'document.removed' when 'paper.tray' then 'document.received' when 'pay.item_back' then 'pay.item_removed'
    when 'report.taken_back' then 'report.undone' when 'setup.field_retired' then 'setup.field_deactivated' when 'setup.house_changed' then 'setup.company_changed'
    when 'stop.taken_back' then 'stop.undone' when 'trip.cost_back' then 'trip.cost_removed' when 'week.approval_back' then 'settlement.approval_reversed'
    when 'week.payment_back' then 'settlement.payment_reversed' when 'week.approved' then 'settlement.approved' when 'week.paid' then 'settlement.paid'
    when 'week.seen' then 'settlement.acknowledged' else kind end,
    subject = case subject when 'paper' then 'document' else subject end
where kind ~ '^(draw|paper|week)\.' or subject = 'paper' or kind ~ '(_back|\.spent|\.began|\.passed|put_right|way_set|\.came|_retired|house_changed)$';
alter table events enable trigger user;

-- Stored requests of run plans use the API's names.
update run_plans set ask = replace(replace(ask::text, '"said":', '"label":'), '"aim":', '"objective":')::jsonb;
update run_plans set ask = replace(ask::text, '"round":', '"roundTrip":')::jsonb;
update billing_ways set columns = array(select regexp_replace(c, '^own:', 'custom:') from unnest(columns) with ordinality u(c, n) order by n);
