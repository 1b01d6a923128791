using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.People;
using SteadyLark.Store.Documents;

namespace SteadyLark.Server.People;

/// <summary>Something that needs attention today.</summary>
/// <param name="When">How soon, in a word or two.</param>
/// <param name="Room">The room where it is handled: roll, cover, bill, pay, today.</param>
/// <param name="Open">What it opens: load, invoice, bill, week, mail or list, with its key.</param>
public sealed record TodayItem(string Kind, Urgency Urgency, string When, string Title, string Detail, string Button, string Room, string Open, long? OpenId);

/// <summary>Counts for each room, shown in the spine.</summary>
public sealed record Counts(int Today, int Book, int Cover, int Roll, int Bill, int Pay, bool TodayIsUrgent);

/// <summary>The week in figures: loads by pickup day, revenue, and carrier or driver cost (agreed, or estimated driver pay).</summary>
public sealed record WeekDay(LocalDate On, int Loads, [property: SeenWith(Right.RatesSee)] Money Revenue, [property: SeenWith(Right.MarginsSee)] Money Cost);

public sealed record TodayView(IReadOnlyList<TodayItem> Items, Counts Counts, IReadOnlyList<WeekDay> Week, [property: SeenWith(Right.MarginsSee)] Money WeekMargin, [property: SeenWith(Right.MarginsSee)] decimal? WeekMarginPercent, int DeliveredOnTime, int Delivered, [property: SeenWith(Right.BillingSee)] decimal? DaysToPay);

/// <summary>What needs attention in all rooms, for a user with these rights.</summary>
public static class Today
{
    public static async Task<TodayView> Of(CallerReads reads, Access access, Instant now, DateTimeZone zone)
    {
        var today = now.InZone(zone).Date;
        var items = new List<TodayItem>();
        List<TodayItem> toBill = [], toPay = [];

        // Each part on its own connection, in parallel.
        var billing = access.Has(Right.BillingSee) ? Aside(reads, access, other => Billing(other, toBill, today, now)) : Task.FromResult(0);
        var paying = access.Has(Right.PayingSee) ? Aside(reads, access, other => Paying(other, toPay, today, zone)) : Task.FromResult(0);
        var figures = Aside(reads, access, other => Week(other, today, zone));
        await using var db = await reads.Open(access);
        var carried = await LoadViews.Carried(db, now, zone);
        var uncovered = await LoadViews.Lines(db, await LoadReads.InStates(db, [LoadState.Booked], null, 1000), now, zone);
        items.AddRange(carried.Where(l => l.NeedsYou).OrderByDescending(l => l.Urgency).Select(Rolling));
        items.AddRange(uncovered.Where(l => l.NeedsYou).Select(Uncovered));
        if (access.Has(Right.LoadsRoll))
        {
            foreach (var back in await HoldStore.ReturnedToDispatch(db))
            {
                items.Add(new TodayItem("handed_back", Urgency.Soon, back.At.Format(zone), $"{back.Number} was returned to dispatch", back.Reason, "Resolve", "book", "load", back.LoadId));
            }
        }

        foreach (var mail in await MailStore.InOpen(db))
        {
            items.Add(new TodayItem("mail", Urgency.Soon, mail.WrittenAt.Format(zone), mail.QuarantinedWhy is null ? $"Email from {mail.From}" : "An email could not be read", mail.QuarantinedWhy ?? mail.Subject, "Read", "today", "mail", mail.Id));
        }

        var (bill, pay) = (await billing, await paying);
        items.AddRange(toBill);
        items.AddRange(toPay);
        var sorted = items.OrderByDescending(i => i.Urgency).ToList();
        var drafts = await TodayStore.Drafts(db);
        var counts = new Counts(sorted.Count, drafts, uncovered.Count, carried.Count, bill, pay, sorted.Any(i => i.Urgency == Urgency.Now));
        var (week, onTime, delivered, days) = await figures;
        var revenue = Money.Sum(week.Select(d => d.Revenue));
        var margin = Core.Pricing.Margin.Of(revenue, Money.Sum(week.Select(d => d.Cost)));
        return new TodayView(sorted, counts, week, margin.Amount, margin.Percent, onTime, delivered, days);
    }

    private static async Task<T> Aside<T>(CallerReads reads, Access access, Func<NpgsqlConnection, Task<T>> ask)
    {
        await using var db = await reads.Open(access);
        return await ask(db);
    }

    private static TodayItem Rolling(LoadLine l) => new(
        "roll", l.Urgency, l.Status, $"{l.Load.Number} {Lane(l.Load)}: {l.Status}", $"{l.Load.Customer} · {l.Load.Who}", "Open", "roll", "load", l.Load.Id);

    private static TodayItem Uncovered(LoadLine l) => new(
        "cover", l.Urgency, l.Status, $"{l.Load.Number} {Lane(l.Load)} is not covered", $"{l.Load.Customer} · {l.Load.Equipment?.Format()} · {l.Status}", "Cover", "cover", "load", l.Load.Id);

    private static async Task<int> Billing(NpgsqlConnection db, List<TodayItem> items, LocalDate today, Instant now)
    {
        var unbilled = await BillingStore.Unbilled(db, 5000);
        var ready = unbilled.Where(u => u.Missing.Count == 0 && u.Held is null).ToList();
        var waiting = unbilled.Where(u => u.Missing.Count > 0).ToList();
        if (await DocumentStore.TrayCount(db) is > 0 and var loose)
        {
            items.Add(new TodayItem("tray", Urgency.None, "today", Count(loose, "document to file", "documents to file"), "received without a load number", "File", "bill", "tray", null));
        }

        if (ready.Count > 0)
        {
            items.Add(new TodayItem(
                "bill", Urgency.None, "today", Count(ready.Count, "load is ready to bill", "loads are ready to bill"), $"{Money.Sum(ready.Select(r => r.Revenue)).Formatted}, documents complete", "Bill", "bill", "list", null));
        }

        foreach (var w in waiting.Where(w => now - w.DeliveredAt > Duration.FromDays(1)))
        {
            items.Add(new TodayItem("document", Urgency.Soon, $"{(now - w.DeliveredAt).Format()}", $"{w.Number} {w.From} to {w.To} is missing its {string.Join(" and ", w.Missing.Select(m => m.Format()))}", $"{w.Customer} · {w.Revenue.Formatted} cannot be billed{(w.RequestedAt is null ? "" : ", requested")}", "Open", "bill", "load", w.LoadId));
        }

        var overdue = await TodayStore.Overdue(db, today);
        foreach (var o in overdue)
        {
            var days = Period.DaysBetween(o.Due, today);
            items.Add(new TodayItem(
                "overdue", days > 30 ? Urgency.Now : Urgency.Soon, Count(days, "day past due", "days past due"), $"{o.Name} owes {o.Open.Formatted}", $"{Count(o.Invoices, "invoice", "invoices")} past due, oldest due {o.Due:ddd MMM d}", "Open", "bill", "invoice", o.InvoiceId));
        }

        return ready.Count + waiting.Count + overdue.Sum(o => o.Invoices);
    }

    private static async Task<int> Paying(NpgsqlConnection db, List<TodayItem> items, LocalDate today, DateTimeZone zone)
    {
        var bills = await TodayStore.UnpaidBills(db);
        foreach (var b in bills.Where(b => !b.IsApproved && b.Difference.Amount > 0))
        {
            items.Add(new TodayItem("bill_over", Urgency.Soon, $"due {b.DueOn:MMM d}", $"{b.Vendor} bill {b.Number} is {b.Difference.Formatted} over the agreed amount", $"{b.Amount.Formatted} billed", "Compare", "pay", "bill", b.Id));
        }

        var toApprove = bills.Count(b => !b.IsApproved);
        if (toApprove > 0)
        {
            items.Add(new TodayItem("approve", Urgency.None, "today", Count(toApprove, "bill to approve", "bills to approve"), Money.Sum(bills.Where(b => !b.IsApproved).Select(b => b.Amount)).Formatted, "Approve", "pay", "list", null));
        }

        var due = bills.Where(b => b.IsApproved && b.DueOn <= today).ToList();
        if (due.Count > 0)
        {
            items.Add(new TodayItem("pay_due", Urgency.Soon, "due", Count(due.Count, "approved bill due", "approved bills due"), Money.Sum(due.Select(b => b.Amount)).Formatted, "Pay", "pay", "bill", due[0].Id));
        }

        var monday = DriverSettlement.MondayOf(today).PlusDays(-7);
        var weeks = await TodayStore.DriversToSettle(db, monday, zone);
        var unpaid = await TodayStore.UnpaidSettlements(db);
        if (weeks > 0)
        {
            items.Add(new TodayItem("weeks", Urgency.None, $"pay date {DriverSettlement.PayDay(monday):ddd MMM d}", Count(weeks, "driver settlement to approve", "driver settlements to approve"), $"week of {monday:MMM d}", "Approve", "pay", "weeks", null));
        }

        return toApprove + due.Count + weeks + unpaid;
    }

    private static async Task<(List<WeekDay> Week, int OnTime, int Delivered, decimal? Days)> Week(NpgsqlConnection db, LocalDate today, DateTimeZone zone)
    {
        var monday = DriverSettlement.MondayOf(today);
        var legs = await TodayStore.Legs(db, monday, monday.PlusDays(7), zone);
        var agreements = await SettlementStore.Agreements(db, legs.Select(l => l.DriverId).OfType<long>());
        var days = legs.GroupBy(l => l.On).Select(g => new WeekDay(
            g.Key, g.Select(l => l.LoadId).Distinct().Count(), Money.Sum(g.DistinctBy(l => l.LoadId).Select(l => l.Revenue)),
            Money.Sum(g.Select(l => l.Agreed ?? (l.DriverId is { } d ? agreements[d].LegPay(l.Miles, l.Share, l.Stops, g.Key) : Money.Zero()))))).ToList();
        var week = Enumerable.Range(0, 7).Select(i => days.FirstOrDefault(d => d.On == monday.PlusDays(i)) ?? new WeekDay(monday.PlusDays(i), 0, Money.Zero(), Money.Zero())).ToList();
        var (delivered, onTime) = await TodayStore.Deliveries(db, monday.PlusDays(-28), today, zone);
        return (week, onTime, delivered, await TodayStore.DaysToPay(db, today.PlusDays(-90)));
    }

    private static string Lane(LoadRow l) => $"{l.Stops[0].Town} to {l.Stops[^1].Town}";

    private static string Count(int n, string one, string many) => $"{n} {(n == 1 ? one : many)}";
}
