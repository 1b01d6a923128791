using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Ledger;

/// <summary>Revenue and carrier costs of delivered loads before invoice and bill.</summary>
public static class AccrualStore
{
    /// <summary>Posts what Core decides for a load after it, its charges, its legs or their bills changed.</summary>
    public static async Task Change(CommandContext w, long loadId)
    {
        var (number, load) = await Load(w.Db, loadId);
        var (revenue, carrierPay) = await Posted(w.Db, loadId);
        if (load is null && revenue.Count == 0 && carrierPay.Count == 0)
        {
            return;
        }

        var periods = await LedgerStore.Periods(w.Db);
        foreach (var entry in Accruals.Change(loadId, number, load, revenue, carrierPay, periods, w.Today))
        {
            await LedgerStore.Post(w, entry);
        }
    }

    /// <summary>Delivered loads that were never accrued: those of an older version. A closed load's carriers are paid, so it has none.</summary>
    public static async Task<int> Missing(CommandContext w)
    {
        var loads = await w.Db.Rows(
            """
            select l.id from loads l where l.state = 'delivered' and not exists (select 1 from entries e where e.source = 'accrual' and
                e.source_id = l.id)
            union
            select g.load_id from legs g join loads l on l.id = g.load_id where g.carrier_id is not null and l.state = 'billed'
                and not exists (select 1 from bills b where b.leg_id = g.id and b.voided_at is null)
                and not exists (select 1 from entries e where e.source = 'accrual' and e.source_id = l.id)
            """,
            r => r.Long("id")
        );
        foreach (var load in loads)
        {
            await Change(w, load);
        }

        return loads.Count;
    }

    private static async Task<(string Number, AccruableLoad? Load)> Load(NpgsqlConnection db, long loadId)
    {
        var charges = new List<(ChargeKind, Money)>();
        var legs = new List<AccruableLeg>();
        var load = (Number: "", State: LoadState.Draft, Customer: (long?)null, On: (LocalDate?)null, Invoiced: false);
        await db.Together(
            [("id", loadId)],
            (
                """
                select l.number, l.state, l.payer_id, (coalesce(l.delivered_at, l.cancelled_at) at time zone coalesce((select s.zone
                    from stops s where s.load_id = l.id order by s.seq desc limit 1), (select zone from business)))::date as earned_on,
                    exists (select 1 from invoice_loads il where il.load_id = l.id and il.standing) as invoiced from loads l where l.id = @id
                """,
                r =>
                    load = (
                        r.Text("number"),
                        r.Enum<LoadState>("state"),
                        r.LongOrNull("payer_id"),
                        r.DateOrNull("earned_on"),
                        r.Bool("invoiced")
                    )
            ),
            ("select c.kind, c.amount, l.currency from charges c join loads l on l.id = c.load_id where l.id = @id order by c.seq", r =>
                charges.Add((r.Enum<ChargeKind>("kind"), r.Money("amount")))
            ),
            (
                """
                select g.id, g.carrier_id, g.agreed, g.currency, (select b.posted_on from bills b where b.leg_id = g.id and b.voided_at is null) as
                    bill_on from legs g where g.load_id = @id and g.carrier_id is not null order by g.seq
                """,
                r => legs.Add(new AccruableLeg(r.Long("id"), r.Long("carrier_id"), r.Money("agreed"), r.DateOrNull("bill_on")))
            )
        );
        return (
            load.Number,
            load.On is { } on && load.State is LoadState.Delivered or LoadState.Billed or LoadState.Closed or LoadState.Cancelled
                ? new AccruableLoad(
                    loadId,
                    load.Number,
                    load.Customer,
                    on,
                    load.Invoiced,
                    load.State == LoadState.Cancelled ? charges.Where(c => Cancellation.Keeps(c.Item1)).ToList() : charges,
                    legs
                )
                : null
        );
    }

    /// <summary>What the ledger has: revenue of accruals and, for older loads, of invoices; accrued carrier pay.</summary>
    private static async Task<(List<PostedRevenue> Revenue, List<PostedCarrierPay> CarrierPay)> Posted(NpgsqlConnection db, long loadId)
    {
        var revenue = await db.Rows(
            $"""
            select l.account, l.customer_id, l.currency, -sum({ExchangeStore.Own}) as amount, max(e.posted_on) as posted_on
            from entry_lines l join entries e on e.id = l.entry_id
            where l.load_id = @id and l.account = any(@accounts) and e.source in ('accrual', 'invoice', 'invoice_void')
            group by l.account, l.customer_id, l.currency having sum({ExchangeStore.Own}) <> 0
            """,
            r => new PostedRevenue(r.Text("account"), r.Long("customer_id"), r.Money("amount"), r.Date("posted_on")),
            ("id", loadId),
            ("accounts", Accruals.RevenueCodes.ToArray())
        );
        var carrierPay = await db.Rows(
            $"""
            select l.item_id, l.carrier_id, l.currency, -{ExchangeStore.Own} as amount, e.posted_on from entry_lines l join entries e on e.id =
                l.entry_id where l.load_id = @id and l.account = @account order by e.posted_on, e.id
            """,
            r => new PostedCarrierPay(r.Long("item_id"), r.Long("carrier_id"), r.Money("amount"), r.Date("posted_on")),
            ("id", loadId),
            ("account", Accounts.AccruedCarrierPay.Code)
        );
        return (revenue, carrierPay);
    }
}
