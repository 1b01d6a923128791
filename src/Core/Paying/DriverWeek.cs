using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>What a driver and the business agreed on.</summary>
/// <param name="PerMile">For each paid mile, to a tenth of a cent.</param>
/// <param name="PerDiem">For each day on a trip.</param>
public sealed record DriverAgreement(decimal PerMile, decimal PerDiem);

/// <summary>A leg he finished.</summary>
/// <param name="Miles">Estimated road miles of the leg.</param>
/// <param name="FinishedOn">The day of the last delivery, in the business's zone.</param>
public sealed record WorkedLeg(long LegId, long LoadId, string LoadNumber, long? TruckId, string Lane, int Miles, LocalDate FinishedOn);

/// <summary>Days on which he was out: from the day a trip's first arrival to the day it ended, both counted.</summary>
public sealed record DaysOut(LocalDate From, LocalDate Until);

/// <summary>Something he drew ahead, with what earlier weeks did not take of it yet.</summary>
public sealed record OpenDraw(long DrawId, LocalDate On, string? Note, Money Open);

public sealed record PaidLeg(long LegId, long LoadId, string LoadNumber, long? TruckId, string Lane, int Miles, decimal Rate, LocalDate On, Money Amount);

public sealed record Deduction(long DrawId, LocalDate On, string? Note, Money Amount);

/// <summary>A driver's week, line by line.</summary>
public sealed record WeekStatement(
    LocalDate Monday,
    LocalDate PayDay,
    IReadOnlyList<PaidLeg> Legs,
    int PerDiemDays,
    decimal PerDiemRate,
    Money PerDiem,
    IReadOnlyList<Deduction> Deductions)
{
    public Money Earned => Money.Sum(Legs.Select(l => l.Amount)) + PerDiem;

    public Money Deducted => Money.Sum(Deductions.Select(d => d.Amount));

    /// <summary>Never below zero: a draw that is larger than the week stays open for the next.</summary>
    public Money Net => Earned - Deducted;

    public int Miles => Legs.Sum(l => l.Miles);
}

public static class DriverWeek
{
    /// <summary>The Monday of the week a day belongs to (ISO 8601: weeks begin on Monday).</summary>
    public static LocalDate MondayOf(LocalDate day) => day.PlusDays(1 - (int)day.DayOfWeek);

    /// <summary>Weeks are paid on the Friday after they end.</summary>
    public static LocalDate PayDay(LocalDate monday) => monday.PlusDays(11);

    /// <summary>
    /// What the week comes to: miles × rate for each leg finished in it, per diem for each day out in it, less open draws,
    /// oldest first, up to what was earned. Each leg's pay is rounded to cents, halves up.
    /// </summary>
    public static WeekStatement Settle(
        LocalDate monday, DriverAgreement agreement, IEnumerable<WorkedLeg> legs, IEnumerable<DaysOut> daysOut, IEnumerable<OpenDraw> draws)
    {
        if (monday.DayOfWeek != IsoDayOfWeek.Monday)
        {
            throw new ArgumentException("A week begins on Monday.", nameof(monday));
        }

        var sunday = monday.PlusDays(6);
        var paid = legs
            .Where(l => l.FinishedOn >= monday && l.FinishedOn <= sunday)
            .OrderBy(l => l.FinishedOn).ThenBy(l => l.LegId)
            .Select(l => new PaidLeg(
                l.LegId, l.LoadId, l.LoadNumber, l.TruckId, l.Lane, l.Miles, agreement.PerMile, l.FinishedOn, Money.Usd(l.Miles * agreement.PerMile).ToCents()))
            .ToList();
        var days = daysOut.SelectMany(o => Days(LocalDate.Max(o.From, monday), LocalDate.Min(o.Until, sunday))).Distinct().Count();
        var perDiem = Money.Usd(days * agreement.PerDiem).ToCents();

        var left = Money.Sum(paid.Select(l => l.Amount)) + perDiem;
        var deductions = new List<Deduction>();
        foreach (var draw in draws.Where(d => d.On <= sunday).OrderBy(d => d.On).ThenBy(d => d.DrawId))
        {
            var part = Money.Min(draw.Open, left);
            if (part.Amount > 0)
            {
                deductions.Add(new Deduction(draw.DrawId, draw.On, draw.Note, part));
                left -= part;
            }
        }

        return new WeekStatement(monday, PayDay(monday), paid, days, agreement.PerDiem, perDiem, deductions);
    }

    private static IEnumerable<LocalDate> Days(LocalDate from, LocalDate until)
    {
        for (var day = from; day <= until; day = day.PlusDays(1))
        {
            yield return day;
        }
    }
}
