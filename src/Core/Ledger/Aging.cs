using NodaTime;

namespace SteadyLark.Core.Ledger;

/// <summary>How long something has been owed past its due date.</summary>
public enum AgeBucket
{
    NotDue,
    Days1To30,
    Days31To60,
    Days61To90,
    Over90,
}

public static class Aging
{
    /// <summary>On the due date itself nothing is overdue; the next day is day 1.</summary>
    public static AgeBucket Bucket(LocalDate due, LocalDate today) => Period.DaysBetween(due, today) switch
    {
        <= 0 => AgeBucket.NotDue,
        <= 30 => AgeBucket.Days1To30,
        <= 60 => AgeBucket.Days31To60,
        <= 90 => AgeBucket.Days61To90,
        _ => AgeBucket.Over90,
    };
}
