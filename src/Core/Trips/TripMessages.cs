using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>Messages between dispatch and the drivers of a trip.</summary>
public static class TripMessages
{
    /// <summary>The most characters of a message.</summary>
    public const int Longest = 1000;

    /// <summary>How long after its end drivers still see a trip's messages, and can write.</summary>
    public static readonly Duration Shown = Duration.FromDays(2);

    /// <summary>Checks a message.</summary>
    /// <param name="number">The trip's.</param>
    /// <param name="canceled">Whether the trip was dissolved.</param>
    /// <param name="ended">When it ended; null while it is not over.</param>
    /// <returns>The trimmed text, or why it cannot be sent.</returns>
    public static Outcome<string> Check(string? text, string number, bool canceled, Instant? ended, Instant now)
    {
        var validation = new Validation();
        var trimmed = validation.Text(text, "text", "The message", Longest, required: true);
        if (canceled)
        {
            validation.Add("trip.canceled", $"Trip {number} is canceled: nobody reads its messages.");
        }
        else if (ended + Shown < now)
        {
            validation.Add("trip.ended", $"Trip {number} ended more than two days ago: nobody reads its messages.");
        }

        return validation.Ok ? trimmed! : validation.Problems;
    }

    /// <summary>A message as the history says it.</summary>
    /// <param name="from">The driver who wrote it; null when dispatch did.</param>
    /// <param name="to">The drivers of the trip.</param>
    public static string Said(string number, string? from, IReadOnlyList<string> to, string text) =>
        from is null ? $"Trip {number}, message to {string.Join(" and ", to)}: {text}" : $"Trip {number}, message from {from}: {text}";
}
