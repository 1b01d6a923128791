using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;

namespace SteadyLark.Core.Paying;

/// <summary>A leg they completed.</summary>
/// <param name="Miles">Loaded road miles of the leg.</param>
/// <param name="EmptyMiles">Before it, from where the truck was free.</param>
/// <param name="Stops">Stops of the leg.</param>
/// <param name="LineHaul">The leg's share of the load's line haul.</param>
/// <param name="FinishedOn">The day of the last delivery or of the handover, in the company's time zone.</param>
/// <param name="Part">A team driver's part of it; all of it when null.</param>
public sealed record WorkedLeg(
    long LegId,
    long LoadId,
    string LoadNumber,
    long? TruckId,
    string Lane,
    int Miles,
    LocalDate FinishedOn,
    int Stops = 2,
    Money LineHaul = default,
    int EmptyMiles = 0,
    CrewPart? Part = null
)
{
    /// <summary>The driver's part of the loaded miles.</summary>
    public decimal OwnMiles => (Part ?? CrewPart.All).Of(Miles);
}

/// <summary>Days out: from the day of a trip's first arrival to the day it ended, inclusive.</summary>
public sealed record DaysOut(LocalDate From, LocalDate Until)
{
    /// <summary>Whether the trip had a night away; a part of it keeps this.</summary>
    public bool IsOvernight { get; init; } = Until > From;
}

/// <summary>An advance or a carryover, with what has not been deducted yet.</summary>
public sealed record OpenAdvance(long AdvanceId, LocalDate On, string? Note, Money Open);

/// <summary>A pay item entered by hand.</summary>
public enum PayItemKind
{
    /// <summary>Hours of a time sheet.</summary>
    Hours,

    /// <summary>Pay for something without a pay rate.</summary>
    Extra,

    /// <summary>A reimbursement.</summary>
    Reimbursement,

    /// <summary>A one-time deduction.</summary>
    Deduction,
}

/// <param name="Hours">For hours only.</param>
/// <param name="Amount">For everything but hours.</param>
/// <param name="Account">The expense account of a reimbursement, or the account of a deduction.</param>
public sealed record PayItem(
    long ItemId,
    PayItemKind Kind,
    LocalDate On,
    string What,
    decimal? Hours,
    Money? Amount,
    string? Account,
    long? LoadId = null
)
{
    /// <summary>Why hours cannot be paid: the driver has no hourly rate that day; null when they can.</summary>
    public Problem? RateRefusal(string driver, DriverAgreement agreement) =>
        Kind == PayItemKind.Hours && agreement.At(PayKind.PerHour, On) == 0
            ? new Problem("rate.none", $"{driver} has no hourly rate on {On:MMM d}: add one to the pay rates first.", "hours")
            : null;
}

/// <summary>A recurring deduction.</summary>
/// <param name="UpTo">For escrow, the agreed amount; null for any other deduction.</param>
/// <param name="Held">For escrow, what is held now.</param>
public sealed record RecurringDeduction(
    long Id,
    string Name,
    Money Amount,
    string Account,
    LocalDate From,
    LocalDate? Until,
    Money? UpTo = null,
    Money? Held = null
)
{
    /// <summary>What is missing to the agreed amount of escrow; null for any other deduction.</summary>
    public Money? Room => UpTo is { } most ? most - (Held ?? Money.Zero()) : null;
}

/// <summary>A line of earnings.</summary>
/// <param name="Kind">Null for extra pay.</param>
/// <param name="Quantity">Miles, dollars of line haul, loads, stops, hours, days or weeks.</param>
/// <param name="Rate">Per unit; percent for a share of the line haul.</param>
public sealed record PayLine(
    PayKind? Kind,
    string What,
    decimal Quantity,
    decimal Rate,
    LocalDate On,
    Money Amount,
    long? LegId = null,
    long? LoadId = null,
    string? LoadNumber = null,
    long? TruckId = null,
    long? ItemId = null
);

public sealed record Reimbursement(long ItemId, LocalDate On, string What, Money Amount, string Account, long? LoadId);

/// <summary>A deduction; exactly one of the keys says what it is.</summary>
public sealed record Deduction(
    LocalDate On,
    string What,
    Money Amount,
    string Account,
    long? AdvanceId = null,
    long? ItemId = null,
    long? RecurringId = null
);

/// <summary>A driver settlement, line by line.</summary>
/// <param name="DaysOut">Days on a trip in that week.</param>
public sealed record SettlementStatement(
    LocalDate Monday,
    LocalDate PayDay,
    IReadOnlyList<PayLine> Lines,
    int DaysOut,
    int Miles,
    IReadOnlyList<Reimbursement> Reimbursements,
    IReadOnlyList<Deduction> Deductions
)
{
    /// <summary>How the driver works for us.</summary>
    public WorkerKind Worker { get; init; } = WorkerKind.Employee;

    /// <summary>Employer payroll tax on the wages; not part of the driver's pay.</summary>
    public Money EmployerTax { get; init; } = Money.Zero();

    /// <summary>What deductions leave of the pay: the minimum wage and the reimbursements of an employee; zero for anyone else.</summary>
    public Money Protected { get; init; } = Money.Zero();

    public Money Earned => Money.Sum(Lines.Select(l => l.Amount));

    public Money Reimbursed => Money.Sum(Reimbursements.Select(r => r.Amount));

    public Money Deducted => Money.Sum(Deductions.Select(d => d.Amount));

    /// <summary>Never below what is protected.</summary>
    public Money Net => Earned + Reimbursed - Deducted is var left && left > Protected ? left : Protected;

    /// <summary>Deductions beyond the pay that may be taken, carried over to later settlements.</summary>
    public Money CarriedOver => Net - (Earned + Reimbursed - Deducted);

    /// <summary>Legs paid in it.</summary>
    public IEnumerable<(long LegId, Money Amount)> Legs =>
        Lines.Where(l => l.LegId is not null).GroupBy(l => l.LegId!.Value).Select(g => (g.Key, Money.Sum(g.Select(l => l.Amount))));

    /// <summary>Whether any amount reaches the ledger: legs that earn nothing do not.</summary>
    public bool Posts => Earned.Amount + Reimbursed.Amount + Deducted.Amount > 0;

    public bool IsEmpty => Lines.Count == 0 && Reimbursements.Count == 0 && Deductions.Count == 0;
}

public static class DriverSettlement
{
    /// <summary>The Monday of a day's week (ISO 8601: weeks begin on Monday).</summary>
    public static LocalDate MondayOf(LocalDate day) => day.PlusDays(1 - (int)day.DayOfWeek);

    /// <summary>The Monday of the settlement that pays work: of its own week, or of the first week after it that is not approved
    /// yet.</summary>
    /// <param name="finishedOn">The day the work was finished.</param>
    /// <param name="approved">Mondays of the driver's approved settlements.</param>
    public static LocalDate PaidIn(LocalDate finishedOn, IReadOnlySet<LocalDate>? approved)
    {
        var monday = MondayOf(finishedOn);
        while (approved?.Contains(monday) == true)
        {
            monday = monday.PlusWeeks(1);
        }

        return monday;
    }

    /// <summary>Weeks are paid on the Friday after they end.</summary>
    public static LocalDate PayDay(LocalDate monday) => monday.PlusDays(11);

    /// <summary>
    /// Calculates the settlement: each leg completed in the week by each pay rate, hours, days out, salary and extra pay; plus
    /// reimbursements;
    /// less deductions, in full; less open advances, oldest first, up to the remaining pay. Deductions beyond the pay, or below an employee's
    /// minimum wage, are carried over. Per diem is for days of trips with a night away (26 CFR 1.162-2, Pub. 463: away overnight).
    /// Items of earlier weeks that no approved settlement took are included, and legs reported after their own week was approved.
    /// </summary>
    /// <param name="approved">Mondays of the driver's approved settlements.</param>
    public static SettlementStatement Settle(
        LocalDate monday,
        DriverAgreement agreement,
        IEnumerable<WorkedLeg> legs,
        IEnumerable<DaysOut> daysOut,
        IEnumerable<OpenAdvance> advances,
        IEnumerable<PayItem>? items = null,
        IEnumerable<RecurringDeduction>? recurring = null,
        IReadOnlySet<LocalDate>? approved = null,
        PayrollTerms? payroll = null
    )
    {
        if (monday.DayOfWeek != IsoDayOfWeek.Monday)
        {
            throw new ArgumentException("A settlement week starts on Monday.", nameof(monday));
        }

        var sunday = monday.PlusDays(6);
        var worked = legs.Where(l => PaidIn(l.FinishedOn, approved) == monday).OrderBy(l => l.FinishedOn).ThenBy(l => l.LegId).ToList();
        var dated = (items ?? []).Where(i => i.On <= sunday).OrderBy(i => i.On).ThenBy(i => i.ItemId).ToList();
        var terms = payroll ?? PayrollTerms.None;
        var trips = daysOut.ToList();
        List<LocalDate> Of(IEnumerable<DaysOut> spans) =>
            spans.SelectMany(o => Days(LocalDate.Max(o.From, monday), LocalDate.Min(o.Until, sunday))).Distinct().Order().ToList();
        var days = Of(trips);
        List<PayLine> lines =
        [
            .. worked.SelectMany(l => LegLines(l, agreement)),
            .. dated.Where(i => i.Kind is PayItemKind.Hours or PayItemKind.Extra).Select(i => ItemLine(i, agreement)),
            .. PerDiem(Of(trips.Where(o => o.IsOvernight)), agreement),
            .. Salary(sunday, agreement),
        ];
        var spent = dated
            .Where(i => i.Kind == PayItemKind.Reimbursement)
            .Select(i => new Reimbursement(
                i.ItemId,
                i.On,
                i.What,
                i.Amount!.Value,
                i.Account ?? Accounts.DriverReimbursements.Code,
                i.LoadId
            ))
            .ToList();
        var kept = Deductions(monday, dated, recurring ?? []);
        var (earned, back) = (Money.Sum(lines.Select(l => l.Amount)), Money.Sum(spent.Select(s => s.Amount)));
        var minimum = terms.Protected(earned, lines.Where(l => l.Kind == PayKind.PerHour).Sum(l => l.Quantity), days.Count);
        var untouched = terms.Worker == WorkerKind.Employee ? minimum + back : Money.Zero();
        kept.AddRange(Escrowed(monday, recurring ?? [], earned + back - Money.Sum(kept.Select(k => k.Amount)) - untouched));
        kept.AddRange(Repaid(advances.Where(a => a.On <= sunday), earned + back - Money.Sum(kept.Select(k => k.Amount)) - untouched));
        return new SettlementStatement(monday, PayDay(monday), lines, days.Count, Whole(worked.Sum(l => l.OwnMiles)), spent, kept)
        {
            Worker = terms.Worker,
            EmployerTax = terms.Tax(lines),
            Protected = untouched,
        };
    }

    private static int Whole(decimal miles) => (int)Math.Round(miles, MidpointRounding.AwayFromZero);

    /// <summary>What a leg earns; a line of nothing when it earns nothing, for it is settled in its week all the same.</summary>
    private static IEnumerable<PayLine> LegLines(WorkedLeg l, DriverAgreement agreement) =>
        agreement
            .ForLeg(l.Miles, l.LineHaul, l.Stops, l.FinishedOn, l.EmptyMiles, l.Part)
            .Select(p => new PayLine(
                p.Kind,
                l.Lane,
                p.Quantity,
                p.Rate,
                l.FinishedOn,
                p.Amount,
                l.LegId,
                l.LoadId,
                l.LoadNumber,
                l.TruckId
            ))
            .DefaultIfEmpty(new PayLine(null, l.Lane, 0, 0, l.FinishedOn, Money.Zero(), l.LegId, l.LoadId, l.LoadNumber, l.TruckId));

    private static PayLine ItemLine(PayItem item, DriverAgreement agreement)
    {
        if (item.Kind == PayItemKind.Extra)
        {
            var amount = item.Amount!.Value;
            return new PayLine(null, item.What, 1, amount.Amount, item.On, amount, LoadId: item.LoadId, ItemId: item.ItemId);
        }

        var (hours, rate) = (item.Hours ?? 0, agreement.At(PayKind.PerHour, item.On));
        return new PayLine(
            PayKind.PerHour,
            item.What,
            hours,
            rate,
            item.On,
            Money.Usd(hours * rate).ToCents(),
            LoadId: item.LoadId,
            ItemId: item.ItemId
        );
    }

    /// <summary>Days out by the rate of each: one line for each rate.</summary>
    private static IEnumerable<PayLine> PerDiem(IReadOnlyList<LocalDate> days, DriverAgreement agreement) =>
        days.GroupBy(d => agreement.At(PayKind.PerDay, d))
            .Where(g => g.Key > 0)
            .Select(g => new PayLine(PayKind.PerDay, "per diem", g.Count(), g.Key, g.Last(), Money.Usd(g.Count() * g.Key).ToCents()));

    private static IEnumerable<PayLine> Salary(LocalDate sunday, DriverAgreement agreement) =>
        agreement.At(PayKind.PerWeek, sunday) is > 0 and var salary
            ? [new PayLine(PayKind.PerWeek, "salary", 1, salary, sunday, Money.Usd(salary).ToCents())]
            : [];

    /// <summary>Recurring deductions in force in the week, then those of pay items.</summary>
    private static List<Deduction> Deductions(LocalDate monday, IEnumerable<PayItem> items, IEnumerable<RecurringDeduction> recurring)
    {
        var sunday = monday.PlusDays(6);
        return
        [
            .. recurring
                .Where(s => s.UpTo is null && s.From <= sunday && (s.Until is null || s.Until >= monday))
                .OrderBy(s => s.Id)
                .Select(s => new Deduction(sunday, s.Name, s.Amount, s.Account, RecurringId: s.Id)),
            .. items
                .Where(i => i.Kind == PayItemKind.Deduction)
                .Select(i => new Deduction(i.On, i.What, i.Amount!.Value, i.Account ?? Accounts.Withheld.Code, ItemId: i.ItemId)),
        ];
    }

    /// <summary>Deposits to escrow, up to the agreed amount and the remaining pay: a deposit is never carried over.</summary>
    private static IEnumerable<Deduction> Escrowed(LocalDate monday, IEnumerable<RecurringDeduction> recurring, Money left)
    {
        var sunday = monday.PlusDays(6);
        foreach (
            var s in recurring
                .Where(s => s.UpTo is not null && s.From <= sunday && (s.Until is null || s.Until >= monday))
                .OrderBy(s => s.Id)
        )
        {
            if (Escrow.Deposit(s.Amount, s.Room!.Value, left) is { Amount: > 0 } deposit)
            {
                yield return new Deduction(sunday, s.Name, deposit, s.Account, RecurringId: s.Id);
                left -= deposit;
            }
        }
    }

    /// <summary>Advances, oldest first, up to the remaining pay.</summary>
    private static IEnumerable<Deduction> Repaid(IEnumerable<OpenAdvance> advances, Money left)
    {
        foreach (var advance in advances.OrderBy(a => a.On).ThenBy(a => a.AdvanceId))
        {
            var part = Money.Min(advance.Open, left);
            if (part.Amount > 0)
            {
                yield return new Deduction(
                    advance.On,
                    advance.Note ?? "advance",
                    part,
                    Accounts.DriverAdvances.Code,
                    AdvanceId: advance.AdvanceId
                );
                left -= part;
            }
        }
    }

    private static IEnumerable<LocalDate> Days(LocalDate from, LocalDate until)
    {
        for (var day = from; day <= until; day = day.PlusDays(1))
        {
            yield return day;
        }
    }
}
