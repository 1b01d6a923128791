using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>When drivers are off.</summary>
public static class TimeOff
{
    /// <summary>The longest time off entered at once.</summary>
    public static readonly Duration Longest = Duration.FromDays(366);

    /// <summary>Checks time off that is entered, under <c>from</c> and <c>until</c>.</summary>
    /// <param name="others">What is entered for this driver already.</param>
    public static Span? Check(
        Validation validation,
        Instant? from,
        Instant? until,
        IEnumerable<Span> others,
        Instant now,
        DateTimeZone zone
    )
    {
        if (from is not { } begins)
        {
            validation.Add("missing", "Enter when the time off begins.", "from");
            return null;
        }

        if (until is not { } ends)
        {
            validation.Add("missing", "Enter when the driver is back.", "until");
            return null;
        }

        if (ends <= begins)
        {
            validation.Add("order", "The time off has to end after it begins.", "until");
            return null;
        }

        validation.Time(begins, now, "from", "The begin of the time off");
        if (!validation.Ok)
        {
            return null;
        }

        if (ends - begins > Longest)
        {
            validation.Add("too.long", "Enter at most a year of time off at once.", "until");
            return null;
        }

        var span = new Span(begins, ends);
        foreach (var other in others.Where(o => o.Overlaps(span)).Take(1))
        {
            validation.Add(
                "off.already",
                $"The driver is off from {other.From.Format(zone)} to {other.Until.Format(zone)} already: remove that first.",
                "from"
            );
        }

        return span;
    }
}
