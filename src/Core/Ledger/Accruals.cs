using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Pricing;
using static SteadyLark.Core.Ledger.Entry;

namespace SteadyLark.Core.Ledger;

/// <summary>A carrier's leg of a delivered load.</summary>
/// <param name="BillPostedOn">When its bill posted; null without a bill.</param>
public sealed record AccruableLeg(long LegId, long CarrierId, Money Agreed, LocalDate? BillPostedOn);

/// <summary>A delivered load with what it earns and costs; or a canceled one with what is charged for the truck not used.</summary>
/// <param name="DeliveredOn">The day of its last delivery, or of its cancellation, in the time zone of its last stop.</param>
/// <param name="IsBilled">Whether it is on an invoice.</param>
public sealed record AccruableLoad(
    long LoadId,
    string Number,
    long? CustomerId,
    LocalDate DeliveredOn,
    bool IsBilled,
    IReadOnlyList<(ChargeKind Kind, Money Amount)> Charges,
    IReadOnlyList<AccruableLeg> Legs
);

/// <summary>Revenue of a load that the ledger already has.</summary>
/// <param name="Amount">In the load's currency, credits less debits.</param>
/// <param name="On">When the last of it posted.</param>
public sealed record PostedRevenue(string Account, long CustomerId, Money Amount, LocalDate On);

/// <summary>A change of a leg's accrued carrier pay.</summary>
/// <param name="Amount">In the carrier's currency, credits less debits.</param>
public sealed record PostedCarrierPay(long LegId, long CarrierId, Money Amount, LocalDate On);

/// <summary>
/// Accrual at delivery: the day a load is delivered, its revenue is earned and its carrier's pay is owed, whether invoice and bill exist or
/// not (FASB ASC 606-10-25-23: revenue when the service is rendered). Each change posts what should be recognized less what the ledger has.
/// </summary>
public static class Accruals
{
    private static readonly IReadOnlyList<Account> Revenue = [Accounts.LineHaul, Accounts.FuelSurcharge, Accounts.Accessorials];

    /// <summary>The codes of the accounts that accrue revenue.</summary>
    public static readonly IReadOnlyList<string> RevenueCodes = Revenue.Select(a => a.Code).ToList();

    /// <summary>The entries that bring the ledger to what should be recognized; none when it is there.</summary>
    /// <param name="loadId">The load.</param>
    /// <param name="number">Its number, for the entries' text.</param>
    /// <param name="load">Null while it is not delivered: what was recognized is reversed.</param>
    /// <param name="revenue">What the ledger has, by account and customer.</param>
    /// <param name="carrierPay">Each change of its legs' accrued carrier pay.</param>
    /// <param name="today">In the company's time zone.</param>
    public static IReadOnlyList<Entry> Change(
        long loadId,
        string number,
        AccruableLoad? load,
        IReadOnlyList<PostedRevenue> revenue,
        IReadOnlyList<PostedCarrierPay> carrierPay,
        BookPeriods periods,
        LocalDate today
    )
    {
        var lines = new List<(LocalDate On, EntryLine Line)>();
        var wanted = Earned(load);
        var (back, on) = PostingDays(load, revenue, periods, today);
        if (back is { } old)
        {
            // Delivered on another day than recorded at first: both days are open, so each gets its own entry.
            lines.AddRange(
                RevenueLines(loadId, revenue.ToDictionary(r => (r.Account, r.CustomerId, r.Amount.Currency), r => -r.Amount.Amount))
                    .Select(l => (old, l))
            );
            lines.AddRange(RevenueLines(loadId, wanted).Select(l => (on, l)));
        }
        else
        {
            foreach (var r in revenue)
            {
                var key = (r.Account, r.CustomerId, r.Amount.Currency);
                wanted[key] = wanted.GetValueOrDefault(key) - r.Amount.Amount;
            }

            lines.AddRange(RevenueLines(loadId, wanted).Select(l => (on, l)));
        }

        lines.AddRange(CarrierLines(loadId, load, carrierPay, periods, today, on));
        return lines
            .Where(l => l.Line.Debit + l.Line.Credit > 0)
            .GroupBy(l => (l.On, l.Line.Currency))
            .OrderBy(day => day.Key)
            .Select(day => Postings.Accrued(day.Key.On, number, loadId, day.Select(l => l.Line).ToList()))
            .ToList();
    }

    private static Dictionary<(string Account, long Customer, Currency Currency), decimal> Earned(AccruableLoad? load) =>
        load is not { CustomerId: { } customer }
            ? []
            : load
                .Charges.GroupBy(c => (Postings.RevenueAccount(c.Kind).Code, customer, c.Amount.Currency))
                .ToDictionary(g => g.Key, g => g.Sum(c => c.Amount.Amount));

    /// <summary>The day to post on, and the day to reverse on when the delivery moved between two open days.</summary>
    private static (LocalDate? Back, LocalDate On) PostingDays(
        AccruableLoad? load,
        IReadOnlyList<PostedRevenue> revenue,
        BookPeriods periods,
        LocalDate today
    )
    {
        var posted = revenue.Where(r => r.Amount.Amount != 0).Select(r => (LocalDate?)r.On).Max();
        if (load is null)
        {
            return (null, posted is { } day ? periods.ReversalDay(day, today) : today);
        }

        var on = periods.PostingDay(load.DeliveredOn);
        return (!load.IsBilled && posted is { } was && was != on && periods.IsOpen(was) ? was : null, on);
    }

    private static IEnumerable<EntryLine> RevenueLines(
        long loadId,
        IReadOnlyDictionary<(string Account, long Customer, Currency Currency), decimal> amounts
    )
    {
        foreach (var ((account, customer, currency), amount) in amounts.OrderBy(a => a.Key))
        {
            yield return Signed(account, new Money(-amount, currency), new Dimensions(LoadId: loadId, CustomerId: customer));
        }

        foreach (var group in amounts.GroupBy(a => (a.Key.Customer, a.Key.Currency)).OrderBy(g => g.Key))
        {
            var of = new Dimensions(LoadId: loadId, CustomerId: group.Key.Customer);
            yield return Signed(Accounts.Unbilled.Code, new Money(group.Sum(a => a.Value), group.Key.Currency), of, loadId);
        }
    }

    private static IEnumerable<(LocalDate On, EntryLine Line)> CarrierLines(
        long loadId,
        AccruableLoad? load,
        IReadOnlyList<PostedCarrierPay> posted,
        BookPeriods periods,
        LocalDate today,
        LocalDate on
    )
    {
        var legs = (load?.Legs ?? []).ToDictionary(l => (l.LegId, l.CarrierId));
        foreach (var key in legs.Keys.Union(posted.Select(p => (p.LegId, p.CarrierId))).Order().ToList())
        {
            var ofLeg = posted.Where(p => (p.LegId, p.CarrierId) == key).ToList();
            var moves = ofLeg.Select(p => new ItemMove(p.On, p.Amount.Amount)).ToList();
            var leg = legs.GetValueOrDefault(key);
            var currency = leg?.Agreed.Currency ?? ofLeg[0].Amount.Currency;
            var change = (leg is { BillPostedOn: null } ? leg.Agreed.Amount : 0) - moves.Sum(m => m.Amount);
            if (change == 0)
            {
                continue;
            }

            var released = moves.Where(m => m.Amount < 0).Select(m => (LocalDate?)m.On).Max();
            var day =
                change < 0 ? OpenItems.FirstDay(moves, leg?.BillPostedOn ?? on, -change)
                // The bill that had released it is void: on the bill's day.
                : released is { } bill ? periods.ReversalDay(bill, today)
                : on;
            var of = new Dimensions(LoadId: loadId, CarrierId: key.CarrierId);
            yield return (day, Signed(Accounts.PurchasedTransportation.Code, new Money(change, currency), of));
            yield return (day, Signed(Accounts.AccruedCarrierPay.Code, new Money(-change, currency), of, key.LegId));
        }
    }
}
