using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>Months whose books are closed: nothing is posted into them any more.</summary>
/// <param name="Closed">First days of closed months.</param>
public sealed record BookPeriods(IReadOnlySet<LocalDate> Closed)
{
    public static LocalDate MonthOf(LocalDate day) => day.With(DateAdjusters.StartOfMonth);

    public bool IsOpen(LocalDate day) => !Closed.Contains(MonthOf(day));

    /// <summary>The sentence for a date in a closed month; null when the month is open.</summary>
    public Problem? Refuses(LocalDate day, string? field) =>
        IsOpen(day) ? null : new Problem("period.closed", $"The books of {day:MMMM uuuu} are closed: use a later date, or have the month opened again.", field);

    /// <summary>The months that closing through a month closes: it and all before it that are open and hold entries.</summary>
    /// <param name="first">The month of the oldest entry.</param>
    /// <param name="today">In the business's zone; a month is closed once it is over.</param>
    public Outcome<IReadOnlyList<LocalDate>> Close(LocalDate month, LocalDate first, LocalDate today)
    {
        var through = MonthOf(month);
        if (through >= MonthOf(today))
        {
            return new Problem("period.running", $"{through:MMMM uuuu} is not over yet.", "month");
        }

        if (Closed.Contains(through))
        {
            return new Problem("period.closed", $"The books of {through:MMMM uuuu} are closed already.", "month");
        }

        if (through < MonthOf(first))
        {
            return new Problem("period.empty", $"Nothing was posted up to {through:MMMM uuuu}.", "month");
        }

        var months = new List<LocalDate>();
        for (var m = MonthOf(first); m <= through; m = m.PlusMonths(1))
        {
            if (!Closed.Contains(m))
            {
                months.Add(m);
            }
        }

        return months;
    }

    /// <summary>The months that open again: it and all closed ones after it, for what changes in it changes what they began with.</summary>
    public Outcome<IReadOnlyList<LocalDate>> Reopen(LocalDate month, string? why)
    {
        var from = MonthOf(month);
        var checks = new Checks();
        checks.Text(why, "why", "Why it is opened again", 400, required: true);
        if (!Closed.Contains(from))
        {
            checks.Add("period.open", $"The books of {from:MMMM uuuu} are open.", "month");
        }

        return checks.Ok ? Closed.Where(m => m >= from).Order().ToList() : checks.Problems.ToList();
    }
}
