using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>A change that makes a plan less late.</summary>
/// <param name="Kind"><c>leave_earlier</c>, <c>order</c>, <c>split_rest</c>, <c>team</c>, <c>relay</c> or <c>later_appointment</c>.</param>
/// <param name="What">In a sentence.</param>
/// <param name="Gain">Less lateness in all.</param>
/// <param name="Late">The lateness that remains.</param>
public sealed record HoursFix(string Kind, string What, Duration Gain, Duration Late);

/// <summary>What would make a plan that is late work, or less late.</summary>
public static class HoursFixes
{
    /// <summary>Fixes that gain something, by what they leave and, of those that leave the same, in the order in which one would try them.</summary>
    /// <param name="orders">The same visits in other orders, where there are any.</param>
    public static IReadOnlyList<HoursFix> Of(HoursAsk ask, HoursPlan plan, IEnumerable<IReadOnlyList<VisitToMake>>? orders = null)
    {
        if (plan.Late == Duration.Zero)
        {
            return [];
        }

        var fixes = new List<HoursFix>();
        if (ask.Start > ask.Now && HoursPlanner.Plan(ask with { Start = null }) is { } earlier)
        {
            var from = HoursPlanner.LatestStart(ask with { Start = null }, earlier) ?? ask.Now;
            Add("leave_earlier", $"Leave by {from.Format(ask.Home)}.", earlier.Late);
        }

        foreach (var order in orders ?? [])
        {
            if (HoursPlanner.Plan(ask with { Visits = order }) is { } ordered)
            {
                Add("order", $"Visit {string.Join(", ", order.Select(v => v.Name))}.", ordered.Late);
            }
        }

        if (!ask.Split && HoursPlanner.Plan(ask with { Split = true }) is { } split)
        {
            Add("split_rest", $"Split the rest in the sleeper berth: {string.Join(", ", Halves(split, ask.Home))}.", split.Late);
        }

        if (ask.Drivers.Count == 1 && HoursPlanner.Plan(ask with { Drivers = [ask.Drivers[0], DutyLog.Empty] }) is { } team)
        {
            Add("team", "Send a second driver who is rested.", team.Late);
        }

        if (Relay(ask, plan) is { } relay)
        {
            Add("relay", relay.What, relay.Late);
        }

        var late = ask.Visits.Zip(plan.Visits).Where(v => v.Second.Late > Duration.Zero).ToList();
        Add(
            "later_appointment",
            $"Ask for {string.Join(", and for ", late.Select(v => $"{v.Second.Begins.Format(v.First.Zone)} at {v.First.Name}"))}.",
            Duration.Zero
        );
        // Of several orders the best.
        return fixes
            .Where(f => f.Gain > Duration.Zero)
            .GroupBy(f => f.Kind)
            .Select(g => g.OrderBy(f => f.Late).First())
            .OrderBy(f => f.Late)
            .ToList();

        void Add(string kind, string what, Duration left) => fixes.Add(new HoursFix(kind, what, plan.Late - left, left));
    }

    private static IEnumerable<string> Halves(HoursPlan plan, DateTimeZone home) =>
        plan
            .Spans.Where(s => s.Kind == PlannedKind.Rest && s.Why.Contains("split", StringComparison.Ordinal))
            .Select(s => $"{s.Length.Format()} from {s.From.Format(home)}");

    /// <summary>A rested driver takes over where this one would have to rest: the place where that gains most.</summary>
    private static (string What, Duration Late)? Relay(HoursAsk ask, HoursPlan plan)
    {
        (string What, Duration Late)? best = null;
        foreach (var rest in plan.Spans.Where(s => s.Kind is PlannedKind.Rest or PlannedKind.Restart && s.From >= ask.Now))
        {
            var visits = ask.Visits.Skip(rest.Visit).ToList();
            var served = plan.Visits[rest.Visit].Leaves <= rest.From;
            visits = served ? visits.Skip(1).ToList() : [visits[0] with { Roads = After(visits[0].Roads, rest.Driven) }, .. visits.Skip(1)];
            if (
                visits.Count == 0
                || HoursPlanner.Plan(ask with { Now = rest.From, Start = null, Split = false, Drivers = [DutyLog.Empty], Visits = visits })
                    is not { } rested
            )
            {
                continue;
            }

            var late = plan.Visits.Take(ask.Visits.Count - visits.Count).Aggregate(rested.Late, (sum, v) => sum + v.Late);
            if (best is null || late < best.Value.Late)
            {
                var where = rest.Place is { } place
                    ? $"at {place}"
                    : $"{(ask.Visits[rest.Visit].Roads.Aggregate(Duration.Zero, (sum, r) => sum + r.Drive) - rest.Driven).Format()} before {ask.Visits[rest.Visit].Name}";
                var what =
                    rest.From == ask.Now
                        ? "Send another driver who is rested."
                        : $"Have another driver take over {where} at {rest.From.Format(ask.Home)}.";
                best = (what, late);
            }
        }

        return best;
    }

    /// <summary>The rest of the roads after so much driving.</summary>
    private static List<Road> After(IReadOnlyList<Road> roads, Duration driven)
    {
        var left = new List<Road>();
        foreach (var road in roads)
        {
            var here = Duration.Min(driven, road.Drive);
            driven -= here;
            if (here < road.Drive || left.Count > 0)
            {
                var miles = road.Drive > Duration.Zero ? road.Miles * (decimal)((road.Drive - here) / road.Drive) : road.Miles;
                var places = (road.Places ?? []).Where(p => p.At > here).Select(p => p with { At = p.At - here }).ToList();
                left.Add(new Road(road.Drive - here, miles, road.Country, places));
            }
        }

        return left;
    }
}
