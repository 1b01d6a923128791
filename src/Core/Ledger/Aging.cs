using NodaTime;

namespace SteadyLark.Core.Ledger;

/// <summary>How long something has been owed past its due date.</summary>
public enum AgingBucket
{
    NotDue,
    Days1To30,
    Days31To60,
    Days61To90,
    Over90,
}

public static class Aging
{
    /// <summary>Nothing is past due on the due date itself; the next day is day 1.</summary>
    public static AgingBucket Bucket(LocalDate due, LocalDate today) =>
        Period.DaysBetween(due, today) switch
        {
            <= 0 => AgingBucket.NotDue,
            <= 30 => AgingBucket.Days1To30,
            <= 60 => AgingBucket.Days31To60,
            <= 90 => AgingBucket.Days61To90,
            _ => AgingBucket.Over90,
        };
}
