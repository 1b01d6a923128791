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

/// <summary>One user's date and time formats. Null follows the company default.</summary>
public sealed record Preferences(ClockStyle? Clock = null, DateOrder? DateOrder = null)
{
    /// <summary>The formats in force: the user's own first, then the company's.</summary>
    public (ClockStyle Clock, DateOrder DateOrder) Or(ClockStyle clock, DateOrder dateOrder) => (Clock ?? clock, DateOrder ?? dateOrder);
}
