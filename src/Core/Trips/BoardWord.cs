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
    public static BoardWord Uncovered(Span pickup, DateTimeZone zone, Instant now) =>
        now > pickup.Until ? new BoardWord($"missed by {(now - pickup.Until).Said()}", Urgency.Now)
        : pickup.From - now < CoverNow ? new BoardWord(pickup.From <= now ? "picks up now" : $"picks up in {(pickup.From - now).Said()}", Urgency.Now)
        : pickup.From - now < CoverSoon ? new BoardWord(pickup.From.Said(zone), Urgency.Soon)
        : new BoardWord(pickup.From.Said(zone), Urgency.None);
}
