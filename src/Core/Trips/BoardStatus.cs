using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips;

/// <summary>How urgent something is. The only meaning of color.</summary>
public enum Urgency
{
    None,
    Soon,
    Now,
}

/// <summary>A load's status on a list in a word or two, and whether it needs attention.</summary>
public sealed record BoardStatus(string Text, Urgency Urgency)
{
    /// <summary>An unconfirmed carrier needs a call when the pickup is within a day.</summary>
    public static readonly Duration ConfirmWithin = Duration.FromHours(24);

    /// <summary>An uncovered pickup within 8 hours needs attention now; within 36 hours, soon.</summary>
    public static readonly Duration CoverNow = Duration.FromHours(8);

    public static readonly Duration CoverSoon = Duration.FromHours(36);

    /// <summary>For a covered load.</summary>
    public static BoardStatus Carried(IReadOnlyList<ExpectedVisit> visits, bool confirmed, Instant firstPickup, Instant now)
    {
        var open = visits.Where(v => !v.Done).ToList();
        var worst = open.OrderByDescending(v => v.Outlook).ThenByDescending(v => v.Late).FirstOrDefault();
        if (worst is null)
        {
            return new BoardStatus("delivered", Urgency.None);
        }

        return worst.Outlook switch
        {
            Outlook.Late => new BoardStatus($"{worst.Late.Format()} late", Urgency.Now),
            Outlook.NoUpdate => new BoardStatus($"no update {worst.Silent.Format()}", Urgency.Now),
            _ when !confirmed && firstPickup - now < ConfirmWithin => new BoardStatus("unconfirmed", Urgency.Soon),
            Outlook.Tight => new BoardStatus($"{worst.Slack!.Value.Format()} slack", Urgency.Soon),
            _ => new BoardStatus(open[0].Arrives <= now ? "at stop" : $"next in {(open[0].Arrives - now).Format()}", Urgency.None),
        };
    }

    /// <summary>For a load that was tendered: until when the carrier may answer, as urgent as the pickup.</summary>
    public static BoardStatus Tendered(Instant? expires, Span pickup, DateTimeZone place, DateTimeZone reader, Instant now) =>
        new(
            expires is { } end && end > now ? $"{(end - now).Format()} to answer" : "no answer yet",
            Uncovered(pickup, place, reader, now).Urgency
        );

    /// <summary>For an uncovered load.</summary>
    /// <param name="pickup">When the first stop's window begins and ends.</param>
    /// <param name="place">The zone of that stop, in which its time is shown.</param>
    /// <param name="reader">The reader's zone, which determines what today is.</param>
    /// <param name="now">The present.</param>
    public static BoardStatus Uncovered(Span pickup, DateTimeZone place, DateTimeZone reader, Instant now) =>
        now > pickup.Until ? new BoardStatus($"missed by {(now - pickup.Until).Format()}", Urgency.Now)
        : pickup.From - now < CoverNow
            ? new BoardStatus(pickup.From <= now ? "picks up now" : $"picks up in {(pickup.From - now).Format()}", Urgency.Now)
        : new BoardStatus(SaidNear(pickup.From, place, reader, now), pickup.From - now < CoverSoon ? Urgency.Soon : Urgency.None);

    /// <summary>For freight that was left at a transfer and waits for its next truck, as urgent as the time by which it has to be
    /// taken.</summary>
    /// <param name="since">When it was left there.</param>
    /// <param name="deadline">When it must be taken to be on time.</param>
    public static BoardStatus Waiting(Instant since, Instant deadline, Instant now) =>
        new($"waiting {Duration.Max(Duration.Zero, now - since).Format()}", deadline - now < CoverNow ? Urgency.Now : Urgency.Soon);

    /// <summary>For freight that waits at a transfer for a truck that is assigned: as planned, then as urgent as the time by which it has to be
    /// taken.</summary>
    /// <param name="planned">When it is to be taken.</param>
    public static BoardStatus Waiting(Instant since, Instant planned, Instant deadline, Instant now) =>
        now <= planned ? Waiting(since, deadline, now) with { Urgency = Urgency.None } : Waiting(since, deadline, now);

    /// <summary>A time ahead: <c>today 14:30</c>, <c>tomorrow 07:00</c>, <c>Thu 10:00</c>, and beyond a week with its date.</summary>
    private static string SaidNear(Instant at, DateTimeZone place, DateTimeZone reader, Instant now)
    {
        var local = at.InZone(place).LocalDateTime;
        return Period.DaysBetween(now.InZone(reader).Date, local.Date) switch
        {
            0 => $"today {local:HH:mm}",
            1 => $"tomorrow {local:HH:mm}",
            < 7 => $"{local:ddd HH:mm}",
            _ => $"{local:ddd MMM d}",
        };
    }
}
