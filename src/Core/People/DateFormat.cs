namespace SteadyLark.Core.People;

/// <summary>How times of day are shown: 14:30 or 2:30 PM.</summary>
public enum ClockStyle
{
    TwentyFourHour,
    TwelveHour,
}

/// <summary>How dates are shown: Nov 24 or 24 Nov.</summary>
public enum DateOrder
{
    MonthFirst,
    DayFirst,
}

/// <summary>How one person reads dates and times. What is null follows the company default.</summary>
public sealed record Preferences(ClockStyle? Clock = null, DateOrder? DateOrder = null)
{
    /// <summary>The formats in force: the person's own choice first, then the company's.</summary>
    public (ClockStyle Clock, DateOrder DateOrder) Or(ClockStyle clock, DateOrder dateOrder) => (Clock ?? clock, DateOrder ?? dateOrder);
}
