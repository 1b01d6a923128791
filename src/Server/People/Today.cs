using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Claims;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Claims;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.People;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.People;

/// <summary>Something that needs attention today.</summary>
/// <param name="When">How soon, in a word or two.</param>
/// <param name="Room">The room where it is handled: roll, cover, bill, pay, today.</param>
/// <param name="Open">What it opens: load, invoice, bill, week, mail or list, with its key.</param>
public sealed record TodayItem(
    string Kind,
    Urgency Urgency,
    string When,
    string Title,
    string Detail,
    string Button,
    string Room,
    string Open,
    long? OpenId
);

/// <summary>Counts for each room, shown in the spine.</summary>
public sealed record Counts(int Today, int Book, int Cover, int Roll, int Bill, int Pay, bool TodayIsUrgent);

/// <summary>The week in figures: loads by pickup day, revenue, and what they cost us.</summary>
public sealed record WeekDay(
    LocalDate On,
    int Loads,
    [property: SeenWith(Right.RatesSee)] Money Revenue,
    [property: SeenWith(Right.MarginsSee)] Money Cost
);

public sealed record TodayView(
    IReadOnlyList<TodayItem> Items,
    Counts Counts,
    IReadOnlyList<WeekDay> Week,
    [property: SeenWith(Right.MarginsSee)] Money WeekMargin,
    [property: SeenWith(Right.MarginsSee)] decimal? WeekMarginPercent,
    int DeliveredOnTime,
    int Delivered,
    [property: SeenWith(Right.BillingSee)] decimal? DaysToPay
);

/// <summary>What waits for billing, as read.</summary>
public sealed record BillingFacts(
    IReadOnlyList<UnbilledRow> Unbilled,
    int Tray,
    IReadOnlyList<OverdueCustomer> Overdue,
    IReadOnlyList<ClaimRow> Claims
);

/// <summary>What waits to be approved and paid, as read.</summary>
/// <param name="Weeks">Drivers whose last week is not approved.</param>
/// <param name="ToConfirm">Payments that one person made alone.</param>
/// <param name="Expenses">Expenses on trips to approve.</param>
public sealed record PayingFacts(IReadOnlyList<UnpaidBill> Bills, int Weeks, int UnpaidSettlements, int ToConfirm = 0, int Expenses = 0);

/// <summary>How many deliveries there were lately, and how many by their appointment, as read.</summary>
public sealed record DeliveryFacts(int Delivered, int OnTime);

/// <summary>Days from invoice to payment lately, as read; null without payments.</summary>
public sealed record PaymentFacts(decimal? DaysToPay);

/// <summary>Loads returned to dispatch, email and messages of drivers to read, and drafts, as read.</summary>
public sealed record DeskFacts(
    IReadOnlyList<(long LoadId, string Number, string Reason, Instant At)> Returned,
    IReadOnlyList<MailRow> Mail,
    int Drafts,
    IReadOnlyList<TripMessageRow> Messages
);

/// <summary>Everything Today is made of, except for the loads.</summary>
public sealed record TodayFacts(
    BillingFacts Billing,
    PayingFacts Paying,
    IReadOnlyList<WeekDay> Week,
    DeliveryFacts Deliveries,
    PaymentFacts Payments,
    DeskFacts Desk
)
{
    /// <summary>All of it.</summary>
    public static async Task<TodayFacts> Read(NpgsqlConnection db, LocalDate today, DateTimeZone zone) =>
        new(
            await Today.ReadBilling(db, today),
            await Today.ReadPaying(db, today, zone),
            await Today.ReadWeek(db, today, zone),
            await Today.ReadDeliveries(db, today, zone),
            await Today.ReadPayments(db, today),
            await Today.ReadDesk(db)
        );
}

/// <summary>What needs attention in all rooms: read from the database, and presented to a user with their rights.</summary>
public static class Today
{
    public static async Task<BillingFacts> ReadBilling(NpgsqlConnection db, LocalDate today) =>
        new(
            await BillingStore.Unbilled(db, 5000),
            await DocumentStore.TrayCount(db),
            await TodayStore.Overdue(db, today),
            await ClaimStore.Open(db)
        );

    public static async Task<PayingFacts> ReadPaying(NpgsqlConnection db, LocalDate today, DateTimeZone zone) =>
        new(
            await TodayStore.UnpaidBills(db),
            await TodayStore.DriversToSettle(db, LastWeek(today), zone),
            await TodayStore.UnpaidSettlements(db),
            (await Business.Read(db))!.TwoPeople ? await SolePaymentStore.Count(db) : 0,
            await TripExpenseStore.CountReported(db)
        );

    public static async Task<DeskFacts> ReadDesk(NpgsqlConnection db) =>
        new(
            await HoldStore.ReturnedToDispatch(db),
            await MailStore.InOpen(db),
            await TodayStore.Drafts(db),
            await TripMessageStore.Unread(db)
        );

    public static async Task<DeliveryFacts> ReadDeliveries(NpgsqlConnection db, LocalDate today, DateTimeZone zone)
    {
        var (delivered, onTime) = await TodayStore.Deliveries(db, DriverSettlement.MondayOf(today).PlusDays(-28), today, zone);
        return new DeliveryFacts(delivered, onTime);
    }

    public static async Task<PaymentFacts> ReadPayments(NpgsqlConnection db, LocalDate today) =>
        new(await TodayStore.DaysToPay(db, today.PlusDays(-90)));

    public static async Task<IReadOnlyList<WeekDay>> ReadWeek(NpgsqlConnection db, LocalDate today, DateTimeZone zone)
    {
        var monday = DriverSettlement.MondayOf(today);
        var legs = await TodayStore.Legs(db, monday, monday.PlusDays(7), zone);
        var days = legs.GroupBy(l => l.On)
            .Select(g => new WeekDay(
                g.Key,
                g.Select(l => l.LoadId).Distinct().Count(),
                Money.Sum(g.DistinctBy(l => l.LoadId).Select(l => l.Revenue)),
                Money.Sum(g.Select(l => l.Cost ?? Money.Zero()))
            ))
            .ToList();
        return Enumerable
            .Range(0, 7)
            .Select(i =>
                days.FirstOrDefault(d => d.On == monday.PlusDays(i)) ?? new WeekDay(monday.PlusDays(i), 0, Money.Zero(), Money.Zero())
            )
            .ToList();
    }

    /// <summary>Today as one user sees it.</summary>
    /// <param name="open">All loads that are booked, covered or rolling.</param>
    public static TodayView View(TodayFacts facts, IReadOnlyList<LoadLine> open, Access access, Instant now, DateTimeZone zone)
    {
        var today = now.InZone(zone).Date;
        var uncovered = open.Where(l => l.Open is not null).ToList();
        var carried = open.Where(l => !l.Load.State.IsOpen()).ToList();
        List<TodayItem> items =
        [
            .. carried.Where(l => l.NeedsYou && l.Load.Who is not null).OrderByDescending(l => l.Urgency).Select(Rolling),
            .. uncovered.Where(l => l.Open!.Urgency != Urgency.None).Select(l => Uncovered(l, l.Open!)),
        ];
        items.AddRange(Desk(facts.Desk, access, zone));
        var bill = access.Has(Right.BillingSee) ? Billing(facts.Billing, items, today, now) : 0;
        var pay = access.Has(Right.PayingSee) ? Paying(facts.Paying, items, today) : 0;
        var sorted = items.OrderByDescending(i => i.Urgency).ToList();
        var counts = new Counts(
            sorted.Count,
            facts.Desk.Drafts,
            uncovered.Count,
            carried.Count,
            bill,
            pay,
            sorted.Any(i => i.Urgency == Urgency.Now)
        );
        var margin = Core.Pricing.Margin.Of(Money.Sum(facts.Week.Select(d => d.Revenue)), Money.Sum(facts.Week.Select(d => d.Cost)));
        return new TodayView(
            sorted,
            counts,
            facts.Week,
            margin.Amount,
            margin.Percent,
            facts.Deliveries.OnTime,
            facts.Deliveries.Delivered,
            facts.Payments.DaysToPay
        );
    }

    private static IEnumerable<TodayItem> Desk(DeskFacts desk, Access access, DateTimeZone zone)
    {
        var returned = access.Has(Right.LoadsRoll) ? desk.Returned : [];
        return
        [
            .. returned.Select(b => new TodayItem(
                "handed_back",
                Urgency.Soon,
                b.At.Format(zone),
                $"{b.Number} was returned to dispatch",
                b.Reason,
                "Resolve",
                "book",
                "load",
                b.LoadId
            )),
            // One item for each trip, with its newest message.
            .. (access.Has(Right.LoadsRoll) ? desk.Messages : [])
                .GroupBy(m => m.TripId)
                .Select(g => g.Last())
                .Select(m => new TodayItem(
                    "message",
                    Urgency.Soon,
                    m.At.Format(zone),
                    $"Message from {m.Author}",
                    $"trip {m.Trip}: {m.Text}",
                    "Read",
                    "roll",
                    "trip",
                    m.TripId
                )),
            .. desk.Mail.Select(m => new TodayItem(
                "mail",
                Urgency.Soon,
                m.WrittenAt.Format(zone),
                m.QuarantinedWhy is null ? $"Email from {m.From}" : "An email could not be read",
                m.QuarantinedWhy ?? m.Subject,
                "Read",
                "today",
                "mail",
                m.Id
            )),
        ];
    }

    private static TodayItem Rolling(LoadLine l) =>
        new(
            "roll",
            l.Urgency,
            l.Status,
            $"{l.Load.Number} {Lane(l.Load)}: {l.Status}",
            $"{l.Load.Customer} · {l.Load.Who}",
            "Open",
            "roll",
            "load",
            l.Load.Id
        );

    private static TodayItem Uncovered(LoadLine l, OpenLegView open) =>
        new(
            "cover",
            open.Urgency,
            open.Status,
            l.Load.Transfers.Count == 0
                ? $"{l.Load.Number} {Lane(l.Load)} is not covered"
                : $"{l.Load.Number}, leg {open.Lane}, is not covered",
            $"{l.Load.Customer} · {l.Load.Equipment?.Format()} · {open.Status}",
            "Cover",
            "cover",
            "load",
            l.Load.Id
        );

    private static int Billing(BillingFacts facts, List<TodayItem> items, LocalDate today, Instant now)
    {
        var ready = facts.Unbilled.Where(u => u.Missing.Count == 0 && u.Held is null).ToList();
        var waiting = facts.Unbilled.Where(u => u.Missing.Count > 0).ToList();
        if (facts.Tray is > 0 and var loose)
        {
            items.Add(
                new TodayItem(
                    "tray",
                    Urgency.None,
                    "today",
                    Count(loose, "document to file", "documents to file"),
                    "received without a load number",
                    "File",
                    "bill",
                    "tray",
                    null
                )
            );
        }

        if (ready.Count > 0)
        {
            items.Add(
                new TodayItem(
                    "bill",
                    Urgency.None,
                    "today",
                    Count(ready.Count, "load is ready to bill", "loads are ready to bill"),
                    $"{Money.FormatSum(ready.Select(r => r.Revenue))}, documents complete",
                    "Bill",
                    "bill",
                    "list",
                    null
                )
            );
        }

        foreach (var w in waiting.Where(w => now - w.DeliveredAt > Duration.FromDays(1)))
        {
            items.Add(
                new TodayItem(
                    "document",
                    Urgency.Soon,
                    $"{(now - w.DeliveredAt).Format()}",
                    $"{w.Number} {w.From} to {w.To} is missing its {string.Join(" and ", w.Missing.Select(m => m.Format()))}",
                    $"{w.Customer} · {w.Revenue.Formatted} cannot be billed{(w.RequestedAt is null ? "" : ", requested")}",
                    "Open",
                    "bill",
                    "load",
                    w.LoadId
                )
            );
        }

        foreach (var o in facts.Overdue)
        {
            var days = Period.DaysBetween(o.Due, today);
            items.Add(
                new TodayItem(
                    "overdue",
                    days > 30 ? Urgency.Now : Urgency.Soon,
                    Count(days, "day past due", "days past due"),
                    $"{o.Name} owes {o.Open.Formatted}",
                    $"{Count(o.Invoices, "invoice", "invoices")} past due, oldest due {o.Due:ddd MMM d}",
                    "Open",
                    "bill",
                    "invoice",
                    o.InvoiceId
                )
            );
        }

        foreach (var (claim, next) in facts.Claims.Select(c => (c, c.Facts().Next(today))))
        {
            if (next is not null && next.On <= today.PlusDays(Claim.WarnDays))
            {
                items.Add(
                    new TodayItem(
                        "claim",
                        next.On < today ? Urgency.Now : Urgency.Soon,
                        $"by {next.On:MMM d}",
                        $"Claim {claim.Number} on {claim.LoadNumber}: {next.What}",
                        $"{claim.Customer} · {claim.Description}",
                        "Open",
                        "bill",
                        "claim",
                        claim.Id
                    )
                );
            }
        }

        return ready.Count + waiting.Count + facts.Overdue.Sum(o => o.Invoices);
    }

    private static int Paying(PayingFacts facts, List<TodayItem> items, LocalDate today)
    {
        var bills = facts.Bills;
        foreach (var b in bills.Where(b => !b.IsApproved && b.Difference.Amount > 0))
        {
            items.Add(
                new TodayItem(
                    "bill_over",
                    Urgency.Soon,
                    $"due {b.DueOn:MMM d}",
                    $"{b.Vendor} bill {b.Number} is {b.Difference.Formatted} over the agreed amount",
                    $"{b.Amount.Formatted} billed",
                    "Compare",
                    "pay",
                    "bill",
                    b.Id
                )
            );
        }

        var toApprove = bills.Count(b => !b.IsApproved);
        if (toApprove > 0)
        {
            items.Add(
                new TodayItem(
                    "approve",
                    Urgency.None,
                    "today",
                    Count(toApprove, "bill to approve", "bills to approve"),
                    Money.FormatSum(bills.Where(b => !b.IsApproved).Select(b => b.Amount)),
                    "Approve",
                    "pay",
                    "list",
                    null
                )
            );
        }

        if (facts.ToConfirm > 0)
        {
            items.Add(
                new TodayItem(
                    "confirm",
                    Urgency.Soon,
                    "today",
                    Count(facts.ToConfirm, "payment to confirm", "payments to confirm"),
                    "paid out by one person, confirmed by another",
                    "Confirm",
                    "pay",
                    "list",
                    null
                )
            );
        }

        if (facts.Expenses > 0)
        {
            items.Add(
                new TodayItem(
                    "expenses",
                    Urgency.Soon,
                    "today",
                    Count(facts.Expenses, "trip expense to approve", "trip expenses to approve"),
                    "reported by drivers and dispatch",
                    "Approve",
                    "pay",
                    "expenses",
                    null
                )
            );
        }

        var due = bills.Where(b => b.IsApproved && b.DueOn <= today).ToList();
        if (due.Count > 0)
        {
            items.Add(
                new TodayItem(
                    "pay_due",
                    Urgency.Soon,
                    "due",
                    Count(due.Count, "approved bill due", "approved bills due"),
                    Money.FormatSum(due.Select(b => b.Amount)),
                    "Pay",
                    "pay",
                    "bill",
                    due[0].Id
                )
            );
        }

        var (monday, weeks) = (LastWeek(today), facts.Weeks);
        if (weeks > 0)
        {
            items.Add(
                new TodayItem(
                    "weeks",
                    Urgency.None,
                    $"pay date {DriverSettlement.PayDay(monday):ddd MMM d}",
                    Count(weeks, "driver settlement to approve", "driver settlements to approve"),
                    $"week of {monday:MMM d}",
                    "Approve",
                    "pay",
                    "weeks",
                    null
                )
            );
        }

        return toApprove + due.Count + weeks + facts.UnpaidSettlements;
    }

    /// <summary>The Monday of the week that is settled now.</summary>
    private static LocalDate LastWeek(LocalDate today) => DriverSettlement.MondayOf(today).PlusDays(-7);

    private static string Lane(LoadRow l) => $"{l.Stops[0].Town} to {l.Stops[^1].Town}";

    private static string Count(int n, string one, string many) => $"{n} {(n == 1 ? one : many)}";
}
