using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;

namespace SteadyLark.Core.Trips;

/// <summary>What can be reported about a load besides arrivals, departures and deliveries.</summary>
public enum ReportKind
{
    /// <summary>Late, with the new ETA when known.</summary>
    Delay,

    /// <summary>The truck has broken down.</summary>
    Breakdown,

    /// <summary>The receiver refused the freight.</summary>
    Refused,

    /// <summary>Fewer pieces were delivered than loaded.</summary>
    Short,

    /// <summary>Some of the freight is damaged.</summary>
    Damaged,

    Note,
}

/// <param name="StopId">The stop it is about; the next one when omitted.</param>
/// <param name="Note">The reason, or the note.</param>
/// <param name="ExpectedAt">For a delay or a breakdown: the new ETA.</param>
/// <param name="Pieces">For short or damaged freight: number of pieces.</param>
public sealed record ReportOrder(ReportKind? Kind, long? StopId, string? Note, Instant? ExpectedAt, int? Pieces);

/// <summary>A report that can be recorded, with its consequences.</summary>
/// <param name="Claim">What the claim that it opens says; null when it opens none.</param>
public sealed record Report(ReportKind Kind, long? StopId, string Note, Instant? ExpectedAt, int? Pieces, string? Claim);

public static class Reports
{
    public static string Format(this ReportKind kind) =>
        kind switch
        {
            ReportKind.Delay => "new time",
            ReportKind.Breakdown => "breakdown",
            ReportKind.Refused => "refused",
            ReportKind.Short => "short",
            ReportKind.Damaged => "damaged",
            _ => "note",
        };

    /// <summary>Whether it concerns the freight itself, which opens a claim.</summary>
    public static bool OfFreight(this ReportKind kind) => kind is ReportKind.Refused or ReportKind.Short or ReportKind.Damaged;

    /// <summary>
    /// Whether a report is possible. Refused freight needs a truck at a delivery that is not done; short and damaged freight a truck that
    /// reached the stop; a delay a stop still ahead.
    /// Refused, short and damaged freight opens a claim.
    /// </summary>
    /// <param name="stops">All stops of the load in order.</param>
    /// <param name="towns">The stops' towns, for the text.</param>
    public static Outcome<Report> Decide(
        IReadOnlyList<PlannedStop> stops,
        IReadOnlyList<string> towns,
        ReportOrder order,
        bool covered,
        Instant now
    )
    {
        var validation = new Validation();
        var words = validation.Text(order.Note, "note", order.Kind == ReportKind.Note ? "The note" : "The reason", 1000, required: true);
        if (order.Kind is not { } kind)
        {
            validation.Add("missing", "Choose what happened: delay, breakdown, refused, short, damaged or note.", "kind");
            return validation.Problems;
        }

        var index = order.StopId is { } id ? stops.ToList().FindIndex(s => s.Id == id) : Assumed(kind, stops);
        if (order.StopId is not null && index < 0)
        {
            validation.Add("stop.unknown", "This stop is not on the load.", "stopId");
        }

        if (kind != ReportKind.Note && !covered)
        {
            validation.Add("load.uncovered", "This load is not assigned yet: add a note instead.", "kind");
        }

        if (order.Pieces is { } pieces && (kind is not (ReportKind.Short or ReportKind.Damaged) || pieces is < 1 or > 1_000_000))
        {
            validation.Add(
                "out.of.range",
                kind is ReportKind.Short or ReportKind.Damaged
                    ? "Pieces must be between 1 and 1,000,000."
                    : "A piece count applies to short or damaged freight only.",
                "pieces"
            );
        }

        if (
            order.ExpectedAt is { } expected
            && (kind is not (ReportKind.Delay or ReportKind.Breakdown) || expected <= now || expected > now + Duration.FromDays(60))
        )
        {
            validation.Add(
                "time",
                kind is ReportKind.Delay or ReportKind.Breakdown
                    ? "The new time must be in the future, within sixty days."
                    : "A new time applies to a delay or breakdown only.",
                "expectedAt"
            );
        }

        if (index < 0 && kind != ReportKind.Note && order.StopId is null)
        {
            validation.Add(
                "stop.none",
                kind is ReportKind.Delay or ReportKind.Breakdown
                    ? "Every stop is complete: no stop is left to be late for."
                    : "The truck has not reached a stop where this could happen.",
                "stopId"
            );
        }

        if (validation.Ok && index >= 0)
        {
            var stop = stops[index];
            if (kind is ReportKind.Delay or ReportKind.Breakdown && (stop.Done || stop.Arrived is not null))
            {
                validation.Add("stop.reached", $"{towns[index]} was already reached: report a delay for an upcoming stop.", "stopId");
            }

            if (kind == ReportKind.Refused && (stop.Kind != StopKind.Delivery || stop.Arrived is null || stop.Done))
            {
                validation.Add(
                    "stop.refused",
                    stop.Kind != StopKind.Delivery ? "Only a delivery can be refused."
                        : stop.Arrived is null ? $"Record the arrival in {towns[index]} first."
                        : $"{towns[index]} is already complete: report it as short or damaged.",
                    "stopId"
                );
            }

            if (kind is ReportKind.Short or ReportKind.Damaged && stop.Arrived is null && !stop.Done)
            {
                validation.Add("stop.ahead", $"The truck has not reached {towns[index]} yet.", "stopId");
            }
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var count = order.Pieces is { } n ? $"{n:#,##0} " : "";
        var summary = kind.OfFreight() ? $"{count}{kind.Format()} in {towns[index]}: {words}" : null;
        var hold = summary?[..Math.Min(400, summary.Length)];
        return new Report(
            kind,
            index < 0 ? null : stops[index].Id,
            words!,
            order.ExpectedAt,
            order.Pieces,
            hold is null ? null : hold.Capitalized()
        );
    }

    /// <summary>The stop that is meant when none is named: the next ahead for a delay, the next delivery for a refusal, the last one
    /// reached for the condition of the freight.</summary>
    private static int Assumed(ReportKind kind, IReadOnlyList<PlannedStop> stops) =>
        kind switch
        {
            ReportKind.Delay or ReportKind.Breakdown => stops.ToList().FindIndex(s => !s.Done && s.Arrived is null),
            ReportKind.Refused => stops.ToList().FindIndex(s => !s.Done && s.Kind == StopKind.Delivery),
            ReportKind.Short or ReportKind.Damaged => stops.ToList().FindLastIndex(s => s.Arrived is not null || s.Done),
            _ => -1,
        };
}
