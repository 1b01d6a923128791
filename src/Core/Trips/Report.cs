using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips;

/// <summary>What can be said of a load beside that a stop was reached, left or delivered.</summary>
public enum ReportKind
{
    /// <summary>It will be later than promised, with the new time when it is known.</summary>
    Delay,

    /// <summary>The truck stands.</summary>
    Breakdown,

    /// <summary>The receiver did not take the freight.</summary>
    Refused,

    /// <summary>Less came than was loaded.</summary>
    Short,

    /// <summary>Some of it came damaged.</summary>
    Damaged,

    Note,
}

/// <param name="StopId">The stop it is about; the next one when left out.</param>
/// <param name="Words">The reason, or what was said.</param>
/// <param name="ExpectedAt">For a delay or a breakdown: when the truck is expected there now.</param>
/// <param name="Pieces">For short or damaged freight: how many.</param>
public sealed record ReportOrder(ReportKind? Kind, long? StopId, string? Words, Instant? ExpectedAt, int? Pieces);

/// <summary>A report that can be kept, with what follows from it.</summary>
/// <param name="Hold">Why the load is held from being billed, or null.</param>
public sealed record Report(ReportKind Kind, long? StopId, string Words, Instant? ExpectedAt, int? Pieces, string? Hold);

public static class Reports
{
    public static string Said(this ReportKind kind) => kind switch
    {
        ReportKind.Delay => "new time",
        ReportKind.Breakdown => "broken down",
        ReportKind.Refused => "refused",
        ReportKind.Short => "short",
        ReportKind.Damaged => "damaged",
        _ => "note",
    };

    /// <summary>Whether it tells of the freight itself, and so puts the bill into dispute.</summary>
    public static bool OfFreight(this ReportKind kind) => kind is ReportKind.Refused or ReportKind.Short or ReportKind.Damaged;

    /// <summary>
    /// Whether a report can be so. Refused freight needs a truck at a delivery that is not done; short and damaged freight a truck that reached the stop; a delay a stop still ahead.
    /// Refused, short and damaged freight puts the bill into dispute until somebody has settled it.
    /// </summary>
    /// <param name="stops">All stops of the load in order.</param>
    /// <param name="towns">The stops' towns, for the words.</param>
    public static Outcome<Report> Decide(IReadOnlyList<PlannedStop> stops, IReadOnlyList<string> towns, ReportOrder order, bool covered, Instant now)
    {
        var checks = new Checks();
        var words = checks.Text(order.Words, "words", order.Kind == ReportKind.Note ? "The note" : "The reason", 1000, required: true);
        if (order.Kind is not { } kind)
        {
            checks.Add("missing", "Say what happened: delay, breakdown, refused, short, damaged or a note.", "kind");
            return checks.Problems.ToList();
        }

        var index = order.StopId is { } id ? stops.ToList().FindIndex(s => s.Id == id) : Assumed(kind, stops);
        if (order.StopId is not null && index < 0)
        {
            checks.Add("stop.unknown", "This stop is not on the load.", "stopId");
        }

        if (kind != ReportKind.Note && !covered)
        {
            checks.Add("load.uncovered", "Nobody carries this load yet: write a note instead.", "kind");
        }

        if (order.Pieces is { } pieces && (kind is not (ReportKind.Short or ReportKind.Damaged) || pieces is < 1 or > 1_000_000))
        {
            checks.Add("out.of.range", kind is ReportKind.Short or ReportKind.Damaged ? "Pieces must be between 1 and 1,000,000." : "Pieces belong to short or damaged freight.", "pieces");
        }

        if (order.ExpectedAt is { } expected && (kind is not (ReportKind.Delay or ReportKind.Breakdown) || expected <= now || expected > now + Duration.FromDays(60)))
        {
            checks.Add("time", kind is ReportKind.Delay or ReportKind.Breakdown ? "The new time must lie ahead, within sixty days." : "A new time belongs to a delay or a breakdown.", "expectedAt");
        }

        if (index < 0 && kind != ReportKind.Note && order.StopId is null)
        {
            checks.Add("stop.none", kind is ReportKind.Delay or ReportKind.Breakdown ? "Every stop is done: there is nothing left to be late for." : "No stop was reached yet at which this could be.", "stopId");
        }

        if (checks.Ok && index >= 0)
        {
            var stop = stops[index];
            if (kind is ReportKind.Delay or ReportKind.Breakdown && (stop.Done || stop.Arrived is not null))
            {
                checks.Add("stop.reached", $"{towns[index]} was reached already: a delay is for a stop ahead.", "stopId");
            }

            if (kind == ReportKind.Refused && (stop.Kind != StopKind.Delivery || stop.Arrived is null || stop.Done))
            {
                checks.Add("stop.refused", stop.Kind != StopKind.Delivery ? "Freight is refused at a delivery." : stop.Arrived is null ? $"Record first that the truck is in {towns[index]}." : $"{towns[index]} is done already: record it as short or damaged.", "stopId");
            }

            if (kind is ReportKind.Short or ReportKind.Damaged && stop.Arrived is null && !stop.Done)
            {
                checks.Add("stop.ahead", $"The truck has not reached {towns[index]} yet.", "stopId");
            }
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var count = order.Pieces is { } n ? $"{n:#,##0} " : "";
        var said = kind.OfFreight() ? $"{count}{kind.Said()} in {towns[index]}: {words}" : null;
        var hold = said?[..Math.Min(400, said.Length)];
        return new Report(kind, index < 0 ? null : stops[index].Id, words!, order.ExpectedAt, order.Pieces, hold is null ? null : char.ToUpperInvariant(hold[0]) + hold[1..]);
    }

    /// <summary>The stop that is meant when none was named: the next ahead for a delay, the delivery to come for a refusal, the last that was reached for what came of the freight.</summary>
    private static int Assumed(ReportKind kind, IReadOnlyList<PlannedStop> stops) => kind switch
    {
        ReportKind.Delay or ReportKind.Breakdown => stops.ToList().FindIndex(s => !s.Done && s.Arrived is null),
        ReportKind.Refused => stops.ToList().FindIndex(s => !s.Done && s.Kind == StopKind.Delivery),
        ReportKind.Short or ReportKind.Damaged => stops.ToList().FindLastIndex(s => s.Arrived is not null || s.Done),
        _ => -1,
    };
}
