using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips;

/// <summary>How urgent something is. The only thing colour stands for.</summary>
public enum Urgency
{
    None,
    Soon,
    Now,
}

/// <summary>What a slate says of a load in a word or two, and whether a person should look.</summary>
public sealed record BoardWord(string Said, Urgency Urgency)
{
    /// <summary>An unconfirmed carrier needs a call when the pickup is within a day.</summary>
    public static readonly Duration ConfirmWithin = Duration.FromHours(24);

    /// <summary>An uncovered pickup within eight hours is now; within 36, soon.</summary>
    public static readonly Duration CoverNow = Duration.FromHours(8);

    public static readonly Duration CoverSoon = Duration.FromHours(36);

    /// <summary>Of a load that someone carries.</summary>
    public static BoardWord Carried(IReadOnlyList<ExpectedVisit> visits, bool confirmed, Instant firstPickup, Instant now)
    {
        var open = visits.Where(v => !v.Done).ToList();
        var worst = open.OrderByDescending(v => v.Standing).ThenByDescending(v => v.Late).FirstOrDefault();
        if (worst is null)
        {
            return new BoardWord("delivered", Urgency.None);
        }

        return worst.Standing switch
        {
            Standing.Late => new BoardWord($"late {worst.Late.Said()}", Urgency.Now),
            Standing.NoWord => new BoardWord($"no word {worst.Silent.Said()}", Urgency.Now),
            _ when !confirmed && firstPickup - now < ConfirmWithin => new BoardWord("not confirmed", Urgency.Soon),
            Standing.Thin => new BoardWord($"{worst.Slack!.Value.Said()} spare", Urgency.Soon),
            _ => new BoardWord(open[0].Arrives <= now ? "at stop" : $"next in {(open[0].Arrives - now).Said()}", Urgency.None),
        };
    }

    /// <summary>Of a load that nobody carries yet.</summary>
    /// <param name="pickup">When the first stop opens and closes.</param>
    /// <param name="place">The zone of that stop, in which its time is said.</param>
    /// <param name="reader">The reader's zone, which tells what today is.</param>
    /// <param name="now">The present.</param>
    public static BoardWord Uncovered(Span pickup, DateTimeZone place, DateTimeZone reader, Instant now) =>
        now > pickup.Until ? new BoardWord($"missed by {(now - pickup.Until).Said()}", Urgency.Now)
        : pickup.From - now < CoverNow ? new BoardWord(pickup.From <= now ? "picks up now" : $"picks up in {(pickup.From - now).Said()}", Urgency.Now)
        : new BoardWord(SaidNear(pickup.From, place, reader, now), pickup.From - now < CoverSoon ? Urgency.Soon : Urgency.None);

    /// <summary>A coming time as one says it: <c>today 14:30</c>, <c>tomorrow 07:00</c>, <c>Thu 10:00</c>, and beyond a week with its date.</summary>
    private static string SaidNear(Instant at, DateTimeZone place, DateTimeZone reader, Instant now)
    {
        var local = at.InZone(place).LocalDateTime;
        return Period.DaysBetween(now.InZone(reader).Date, local.Date) switch
        {
            0 => $"today {local:HH:mm}",
            1 => $"tomorrow {local:HH:mm}",
            < 7 => $"{local:ddd HH:mm}",
            _ => $"{local:ddd d MMM}",
        };
    }
}
