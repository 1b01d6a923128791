using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>Months whose books are closed to posting.</summary>
/// <param name="Closed">First days of closed months.</param>
public sealed record BookPeriods(IReadOnlySet<LocalDate> Closed)
{
    public static LocalDate MonthOf(LocalDate day) => day.With(DateAdjusters.StartOfMonth);

    public bool IsOpen(LocalDate day) => !Closed.Contains(MonthOf(day));

    /// <summary>The day on which a document posts: its own date, or the first day of the next open month when its month is closed. Never
    /// after today, for a month can be closed only once it is over.</summary>
    public LocalDate PostingDay(LocalDate document)
    {
        var day = document;
        while (!IsOpen(day))
        {
            day = MonthOf(day).PlusMonths(1);
        }

        return day;
    }

    /// <summary>The day on which a reversal posts: that of what it reverses while its month is open, else today. So nothing counts twice in
    /// one month and negatively in the next.</summary>
    /// <param name="posted">When what is reversed was posted.</param>
    public LocalDate ReversalDay(LocalDate posted, LocalDate today) => IsOpen(posted) ? posted : today;

    /// <summary>The refusal for a date in a closed month; null when the month is open.</summary>
    public Problem? Refuses(LocalDate day, string? field) =>
        IsOpen(day)
            ? null
            : new Problem("period.closed", $"The books are closed for {day:MMMM uuuu}: use a later date or reopen the month.", field);

    /// <summary>The months that closing through a month closes: it and all earlier open ones that have entries.</summary>
    /// <param name="first">The month of the oldest entry.</param>
    /// <param name="today">In the company's time zone; a month can be closed once it is over.</param>
    public Outcome<IReadOnlyList<LocalDate>> Close(LocalDate month, LocalDate first, LocalDate today)
    {
        var through = MonthOf(month);
        if (through >= MonthOf(today))
        {
            return new Problem("period.running", $"{through:MMMM uuuu} is not over yet.", "month");
        }

        if (Closed.Contains(through))
        {
            return new Problem("period.closed", $"The books are already closed for {through:MMMM uuuu}.", "month");
        }

        if (through < MonthOf(first))
        {
            return new Problem("period.empty", $"Nothing was posted through {through:MMMM uuuu}.", "month");
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

    /// <summary>The months that reopen: it and all closed ones after it, because their opening balances depend on it.</summary>
    public Outcome<IReadOnlyList<LocalDate>> Reopen(LocalDate month, string? why)
    {
        var from = MonthOf(month);
        var validation = new Validation();
        validation.Text(why, "why", "The reason for reopening", 400, required: true);
        if (!Closed.Contains(from))
        {
            validation.Add("period.open", $"The books for {from:MMMM uuuu} are already open.", "month");
        }

        return validation.Ok ? Closed.Where(m => m >= from).Order().ToList() : validation.Problems;
    }
}
