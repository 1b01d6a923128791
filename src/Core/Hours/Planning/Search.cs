using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>The search of <see cref="HoursPlanner"/>.</summary>
internal sealed class Search
{
    /// <summary>So many schedules at most are followed at once: those that can become the best. The first time few, for a schedule to beat.</summary>
    private static readonly int[] Most = [4, 150];

    /// <inheritdoc cref="Most"/>
    private static readonly int[] MostSplit = [10, 50];

    /// <summary>Comparisons of two schedules after which only few are followed: ten visits over four days take some 20,000.</summary>
    private const long Effort = 300_000;

    private readonly HoursAsk ask;
    private readonly bool atPlaces;
    private readonly HomeDays days;
    private readonly string[] countries;
    private readonly long before;
    private readonly long latest;
    private readonly long after;
    private readonly List<RestChoice> choices = [];

    // By visit: driving to it, and what is to be done from it on.
    private readonly long[] legs;
    private readonly long[] service;
    private readonly long[] opens;
    private readonly long[] closes;
    private readonly long[] ahead;

    private int most;
    private bool full;
    private long effort;
    private (long Late, long Done) beat;

    public Search(HoursAsk ask, bool atPlaces, HoursPlan? beat = null)
    {
        this.ask = ask;
        this.atPlaces = atPlaces;
        countries = ask.Visits.SelectMany(v => v.Roads).Select(r => r.Country).Distinct().ToArray();
        countries = countries.Length == 0 ? ["US"] : countries;
        (before, after) = (Seconds(ask.Before), Seconds(ask.After));
        var last = ask.Visits.Select(v => v.From ?? ask.Now).Append(ask.Start ?? ask.Now).Max();
        latest = (long)(last - ask.Now).TotalSeconds;
        this.beat = beat is null ? (long.MaxValue, long.MaxValue) : (Seconds(beat.Late), (long)(beat.Done - ask.Now).TotalSeconds);
        legs = ask.Visits.Select(v => v.Roads.Sum(r => Seconds(r.Drive))).ToArray();
        service = ask.Visits.Select(v => Seconds(v.Service)).ToArray();
        opens = ask.Visits.Select(v => v.From is { } from ? Seconds(from - ask.Now) : long.MinValue).ToArray();
        closes = ask.Visits.Select(v => v.Until is { } until ? Seconds(until - ask.Now) : long.MaxValue).ToArray();
        ahead = new long[ask.Visits.Count + 1];
        for (var v = ask.Visits.Count - 1; v >= 0; v--)
        {
            ahead[v] = ahead[v + 1] + legs[v] + service[v];
        }

        days = new HomeDays(ask.Now, ask.Home, 30 + (int)(last - ask.Now).TotalDays + (int)(Work / 20_000));
    }

    /// <summary>On duty in the plan, at most.</summary>
    private long Work
    {
        get
        {
            var planned = ahead[0];
            return planned + (((planned / 3600) + 2) * (before + after) / 4);
        }
    }

    public HoursPlan? Best()
    {
        Label? best = null;
        foreach (var limit in ask.Split || ask.Drivers.Count > 1 ? MostSplit : Most)
        {
            (most, full, effort) = (limit, false, 0);
            best = Once() ?? best;
            if (!full)
            {
                break;
            }

            beat = best is null ? beat : (best.Late, best.Leaves);
        }

        return best is null ? null : Told(best);
    }

    private Label? Once()
    {
        var labels = Origin();
        for (var visit = 0; visit < ask.Visits.Count; visit++)
        {
            var position = 0L;
            foreach (var road in ask.Visits[visit].Roads)
            {
                labels = Along(labels, road, visit, position);
                position += Seconds(road.Drive);
            }

            labels = At(labels, visit);
        }

        return labels
            .Where(l => l.Clocks.All(c => c.Settled))
            .OrderBy(l => l.Late)
            .ThenBy(l => l.Leaves)
            .ThenBy(l => l.Sum)
            .FirstOrDefault();
    }

    /// <summary>The least lateness and the earliest end a schedule can come to: driving and service without a stop, with the windows that open on the way, and
    /// without them but with the rests that so much driving takes.</summary>
    /// <param name="visit">The one it is on the way to.</param>
    /// <param name="driven">Of the way there.</param>
    private (long Late, long Done) Bound(Label label, int visit, long driven)
    {
        var (late, open, closed, toDrive, done) = (label.Late, label.At, label.At, -driven, label.Leaves);
        var (left, shift, rest, rested) = (long.MaxValue, 1L, 0L, 0L);
        if (ask.Drivers.Count == 1 && !ask.Split && !Array.Exists(label.Clocks, c => c.Splitting))
        {
            (left, rest) = (0, long.MaxValue);
            foreach (var clock in label.Clocks)
            {
                var driving = clock.Driving;
                (left, shift) = (Math.Max(left, driving.Left), Math.Max(shift, driving.Most));
                (rest, rested) = (Math.Min(rest, clock.Whole), Math.Max(rested, Math.Min(clock.Run, clock.Whole)));
            }
        }

        open -= driven;
        closed -= driven;
        for (var v = visit; v < ask.Visits.Count; v++)
        {
            toDrive += legs[v];
            open += legs[v];
            closed += legs[v];
            open = Math.Max(open, opens[v]);
            var rests = toDrive > left ? ((toDrive - left + shift - 1) / shift * rest) - rested : 0;
            late += Math.Max(0, Math.Max(open, closed + rests) - closes[v]);
            open += service[v];
            closed += service[v];
            done = Math.Max(open, closed + rests);
        }

        return (late, done);
    }

    private Pareto Schedules(int visit, long behind) => new(this, visit, behind);

    private List<Label> Origin()
    {
        var start = Math.Max(0, days.Seconds(ask.Start ?? ask.Now));
        var found = Schedules(0, 0);
        var clocks = ask
            .Drivers.Select(log => countries.Select(c => (IReadOnlyList<HoursClock>)Clock(c, log)).ToList())
            .SelectMany(c => c)
            .Aggregate(
                (IEnumerable<HoursClock[]>)
                    [
                        [],
                    ],
                (all, variants) => all.SelectMany(a => variants.Select(v => (HoursClock[])[.. a, v]))
            );
        foreach (var variant in clocks)
        {
            for (var seat = 0; seat < ask.Drivers.Count; seat++)
            {
                foreach (
                    var label in Waited(new Label { Clocks = variant, Seat = seat }, start, -1, () =>
                        $"starts at {days.At(start).Format(ask.Home)}"
                    )
                )
                {
                    found.Add(label);
                    foreach (var rested in Rests(label, 0, null, ask.Split || label.Clocks.Any(c => c.Run > 0)))
                    {
                        found.Add(rested);
                    }
                }
            }
        }

        return found.All;
    }

    private IEnumerable<HoursClock> Clock(string country, DutyLog log) =>
        country == "CA"
            ? CaClock.Of(log, ask.Rules.Ca, days, ask.Now, Work, ask.Split, after)
            : UsClock.Of(log, ask.Rules.Us, days, ask.Now, Work, ask.Split);

    /// <summary>Along a road: to its end, with the rests on it.</summary>
    private List<Label> Along(List<Label> labels, Road road, int visit, long behind)
    {
        var end = Seconds(road.Drive);
        var places = atPlaces ? road.Places ?? [] : [];
        var arrived = Schedules(visit, behind);
        var seen = Schedules(visit, behind);
        var queue = new PriorityQueue<Label, long>();
        foreach (var label in labels)
        {
            Push(label with { Position = 0, Replaced = false, Followed = false });
        }

        while (queue.TryDequeue(out var label, out _))
        {
            if (label.Replaced)
            {
                continue;
            }

            label.Followed = true;
            if (label.Position >= end)
            {
                arrived.Add(label);
                continue;
            }

            var driven = Drive(label, road, visit, behind, end, places);
            if (ask.Split && driven is not null && driven.Position < end)
            {
                Push(driven);
            }
            else if (driven is not null && driven.Position >= end)
            {
                arrived.Add(driven);
            }

            var stopped = driven is null || driven.Position < end ? driven ?? label : null;
            if (stopped is null)
            {
                continue;
            }

            foreach (
                var rested in Rests(stopped, visit, PlaceAt(places, stopped.Position) ?? (stopped.Position == 0 ? NameOf(visit - 1) : null))
            )
            {
                Push(rested);
            }

            for (var seat = 0; seat < ask.Drivers.Count; seat++)
            {
                if (seat != stopped.Seat && Of(stopped, seat, road.Country).Drivable(stopped.At, 60) >= 60)
                {
                    Push(stopped with { Seat = seat, Replaced = false, Followed = false });
                }
            }
        }

        return arrived.All;

        void Push(Label label)
        {
            if (seen.Add(label))
            {
                queue.Enqueue(label, label.At);
            }
        }
    }

    // Drives until the road ends or driving has to; null when it cannot begin. Where rests may be split, at most to the next full hour.
    private Label? Drive(Label label, Road road, int visit, long behind, long end, IReadOnlyList<RestPlace> places)
    {
        var ready = label;
        var clock = Of(label, label.Seat, road.Country);
        if (before > 0 && !clock.Inspected)
        {
            if (Mine(label).Any(c => !c.CanWork(label.At, before)))
            {
                return null;
            }

            ready = Act(
                label,
                PlannedKind.Inspection,
                before,
                () => "inspection before driving",
                visit,
                DrivenTo(label, visit),
                c => c.Inspect(label.At, before)
            );
            clock = Of(ready, ready.Seat, road.Country);
        }

        var can = clock.Drivable(ready.At, end - ready.Position);
        if (ask.Split)
        {
            can = Math.Min(can, (((ready.Position / 3600) + 1) * 3600) - ready.Position);
        }
        else if (ready.Position + can < end)
        {
            var place = places.LastOrDefault(p => Seconds(p.At) > ready.Position && Seconds(p.At) <= ready.Position + can);
            can =
                place is not null && ready.Position + can - Seconds(place.At) <= Seconds(HoursPlanner.NearPlace)
                    ? Seconds(place.At) - ready.Position
                    : can;
        }

        if (can <= 0)
        {
            return null;
        }

        var position = ready.Position + can;
        return Act(ready, PlannedKind.Drive, can, () => $"to {NameOf(visit)}", visit, behind + position, c => c.Drive(ready.At, can)) with
        {
            Position = position,
        };
    }

    /// <summary>Arrives at a visit, waits for its window, is served, and may rest before or after.</summary>
    private List<Label> At(List<Label> labels, int visit)
    {
        var from = opens[visit];
        var last = visit == ask.Visits.Count - 1;
        var done = Schedules(visit + 1, 0);
        foreach (var ready in labels.SelectMany(arrived => Ready(arrived, visit, from)))
        {
            for (var seat = 0; seat < ask.Drivers.Count; seat++)
            {
                if (Served(ready.Label with { Seat = seat }, visit, ready.Arrived) is not { } served)
                {
                    continue;
                }

                done.Add(served);
                foreach (var rested in last ? [] : Rests(served, visit, ask.Visits[visit].Name, ask.Split && ask.Visits[visit].MayRest))
                {
                    done.Add(rested);
                }
            }
        }

        return done.All;
    }

    private IEnumerable<(Label Label, long Arrived)> Ready(Label arrived, int visit, long from) =>
        // A wait that is long enough for a rest is one only after the shift's last inspection.
        new[] { from - arrived.At >= arrived.Clocks.Min(c => c.Whole) ? Inspected(arrived, visit) : null, arrived }
            .OfType<Label>()
            .SelectMany(label => ReadyAt(label, visit, from).Select(ready => (ready, arrived.At)))
            .Concat(LeftLater(arrived, visit, from).SelectMany(later => ReadyAt(later, visit, from).Select(ready => (ready, later.At))));

    /// <summary>The same with the last shift begun later, so that there is no wait at a visit, or only a break: the time is spent resting instead. As much later
    /// as that takes, and as much as makes no visit late.</summary>
    private IEnumerable<Label> LeftLater(Label arrived, int visit, long from)
    {
        var wait = from - arrived.At;
        if (from <= arrived.At || arrived.Began is null)
        {
            yield break;
        }

        foreach (
            var delay in Choices(arrived, visit)
                .Select(c => wait - c.Seconds)
                .Append(wait)
                .SelectMany(d => new[] { d, Math.Min(d, arrived.Float) })
                .Where(d => d > 0)
                .Distinct()
                .ToList()
        )
        {
            if (Replayed(arrived, delay) is { } later)
            {
                yield return later;
            }
        }
    }

    // What was done since a shift began, later by so many seconds; null when that is not allowed. An earlier visit may be late then.
    private Label? Replayed(Label arrived, long delay)
    {
        var steps = new Stack<Step>();
        for (var step = arrived.Step; step != arrived.Began!.Step; step = step!.Before)
        {
            steps.Push(step!);
        }

        var first = steps.Peek();
        var label = Rested(arrived.Began!, delay, PlannedKind.Wait, () => "leave later: there is time", first.Visit, first.Place);
        foreach (var step in steps)
        {
            label = label is null ? null : Again(label, step, step == first ? Arrival(arrived.Visits, step.Visit) : null);
        }

        return label is null ? null : label with { Position = arrived.Position };
    }

    private static long? Arrival(Visited? visits, int visit) =>
        visits is null || visits.Visit == visit ? visits?.Arrives : Arrival(visits.Before, visit);

    private Label? Again(Label label, Step step, long? arrived)
    {
        var (at, length) = (label.At, step.Until - step.From);
        return step.Kind switch
        {
            PlannedKind.Wait => label,
            PlannedKind.Service => Served(WaitedFor(label, step.Visit), step.Visit, arrived ?? at),
            PlannedKind.Drive => Mine(label).Any(c => c.Drivable(at, length) < length) ? null : Act(label, step, c => c.Drive(at, length)),
            PlannedKind.Inspection => Mine(label).All(c => c.CanWork(at, length)) ? Act(label, step, c => c.Inspect(at, length)) : null,
            _ => Rested(label, length, step.Kind, step.Why, step.Visit, step.Place),
        };
    }

    private Label WaitedFor(Label label, int visit)
    {
        return opens[visit] > label.At
            ? Rested(label, opens[visit] - label.At, PlannedKind.Wait, () => OpensAt(visit), visit, NameOf(visit)) ?? label
            : label;
    }

    private string OpensAt(int visit) => $"{NameOf(visit)} opens at {ask.Visits[visit].From!.Value.Format(ask.Visits[visit].Zone)}";

    /// <summary>Service at a visit by the driver in the seat, now; null when it would leave the day too little time off.</summary>
    private Label? Served(Label ready, int visit, long arrived)
    {
        var stop = ask.Visits[visit];
        var (begins, length, until) = (ready.At, service[visit], closes[visit]);
        if (Mine(ready).Any(c => !c.CanWork(begins, length)))
        {
            return null;
        }

        var step = new Step(
            PlannedKind.Service,
            begins,
            begins + length,
            () => stop.Name,
            visit,
            ready.Seat,
            DrivenTo(ready, visit),
            stop.Name
        );
        var served = length == 0 ? ready.Then(ready.Clocks, step) : Act(ready, step, c => c.Work(begins, length));
        return served with
        {
            Late = ready.Late + Math.Max(0, begins - until),
            Leaves = begins + length,
            // Beginning later would make this visit late, or wait all the same.
            Float = begins > arrived && served.Began != ready ? 0 : Math.Max(0, Math.Min(served.Float, until - begins)),
            Position = 0,
            Sum = ready.Sum + arrived,
            Visits = new Visited(visit, arrived, begins, begins + length, ready.Visits),
        };
    }

    // A rest before service helps when one has to wait, or the day has no time for it; otherwise it can be taken later.
    private IEnumerable<Label> ReadyAt(Label arrived, int visit, long from)
    {
        var stop = ask.Visits[visit];
        var works = Mine(arrived).All(c => c.CanWork(Math.Max(arrived.At, from), service[visit]));
        foreach (var waited in Waited(arrived, from, visit, () => OpensAt(visit)))
        {
            yield return waited;
            if (!works || ((from > arrived.At || ask.Split) && stop.MayRest))
            {
                foreach (var rested in Rests(waited, visit, stop.Name))
                {
                    yield return rested;
                }
            }
        }
    }

    /// <summary>Off duty until a time, when it is ahead: as it is, and as half of a split rest.</summary>
    private IEnumerable<Label> Waited(Label label, long until, int visit, Func<string> why)
    {
        if (until <= label.At)
        {
            return Halves(label);
        }

        var wait = until - label.At;
        var whole = Mine(label).Any(c => c.Open && c.Run < c.Whole && c.Run + wait >= c.Whole);
        return Halves(Rested(label, wait, whole ? PlannedKind.Rest : PlannedKind.Wait, why, visit, visit < 0 ? null : NameOf(visit)));
    }

    /// <summary>Every rest that gives hours back, at a place.</summary>
    /// <param name="all">Only a break that service has begun, when not: where driving can go on, any other rest can as well be taken later.</param>
    private IEnumerable<Label> Rests(Label label, int visit, string? place, bool all = true)
    {
        return Choices(label, visit)
            .Where(c => all || (c.Kind == PlannedKind.Break && c.Seconds < Seconds(ask.Rules.Us.Break)))
            .Distinct()
            .ToList()
            .SelectMany(choice => Rests(label, visit, place, choice));
    }

    private List<RestChoice> Choices(Label label, int visit)
    {
        choices.Clear();
        foreach (var clock in label.Clocks)
        {
            clock.Choices(label.At, ask.Split, ahead[visit] + before + after, End(label, visit), choices);
        }

        return choices;
    }

    private IEnumerable<Label> Rests(Label label, int visit, string? place, RestChoice choice)
    {
        if (label.At + choice.Seconds + after >= days.End)
        {
            return [];
        }

        if (!choice.Half && Mine(label).Any(c => c.Run + choice.Seconds >= c.Whole) && Inspected(label, visit) is { } inspected)
        {
            return new[]
            {
                Rested(inspected, choice.Seconds + Mine(label).Max(c => c.Run), choice.Kind, () => Why(label, choice), visit, place),
            }.OfType<Label>();
        }

        var rested = Rested(label, choice.Seconds, choice.Kind, () => Why(label, choice), visit, place);
        return choice.Half ? Halved(rested).Skip(1) : new[] { rested, LaterInstead(label, visit, place, choice) }.OfType<Label>();
    }

    /// <summary>Instead of a rest until midnight, as much as possible of it before the shift.</summary>
    private Label? LaterInstead(Label label, int visit, string? place, RestChoice choice)
    {
        if (
            choice.Kind != PlannedKind.Rest
            || label.Began is null
            || label.Float <= 0
            || label.Clocks.Any(c => c.Run + choice.Seconds >= c.Whole)
        )
        {
            return null;
        }

        var delay = Math.Min(label.Float, choice.Seconds);
        var later = Replayed(label, delay);
        return later is null || delay == choice.Seconds
            ? later
            : Rested(later, choice.Seconds - delay, choice.Kind, () => Why(label, choice), visit, place);
    }

    // When the plan is over at the latest: the work at two fifths of the time, after the last window has opened.
    private long End(Label label, int visit) => Math.Max(label.At, latest) + (ahead[visit] * 5 / 2) + 86_400;

    /// <summary>After the inspection that follows a shift's driving; null when none is due.</summary>
    private Label? Inspected(Label label, int visit)
    {
        var at = label.At;
        return after > 0 && Mine(label).Any(c => c.Inspected && !c.InspectedAfter) && Mine(label).All(c => c.CanWork(at, after))
            ? Act(
                label,
                PlannedKind.Inspection,
                after,
                () => "inspection after driving",
                visit,
                DrivenTo(label, visit),
                c => c.Inspect(at, after)
            )
            : null;
    }

    private string Why(Label label, RestChoice choice)
    {
        var bound = Mine(label).SelectMany(c => c.Bound(label.At)).Distinct().ToList();
        var split = choice.Half ? ", part of a split rest" : "";
        return $"{Duration.FromSeconds(choice.Seconds + (choice.Kind == PlannedKind.Break ? 0 : Mine(label).Max(c => c.Run))).Format()} off{split}: {(bound.Count > 0 ? string.Join("; ", bound) : "resting now gets there sooner than resting later")}";
    }

    private static Label? Rested(Label label, long seconds, PlannedKind kind, Func<string> why, int visit, string? place)
    {
        var clocks = new HoursClock[label.Clocks.Length];
        for (var i = 0; i < clocks.Length; i++)
        {
            if (label.Clocks[i].Rest(label.At, seconds, true) is not { } next)
            {
                return null;
            }

            clocks[i] = next;
        }

        return label.Then(clocks, new Step(kind, label.At, label.At + seconds, why, visit, label.Seat, DrivenTo(label, visit), place));
    }

    // Waiting is half of a split rest only where rests may be split, or one is split already.
    private IEnumerable<Label> Halves(Label? label) =>
        label is null || (!ask.Split && !label.Clocks.Any(c => c.Splitting)) ? new[] { label }.OfType<Label>() : Halved(label);

    /// <summary>A rest that has just ended, as it is, and as half of a split one where it may be.</summary>
    private static IEnumerable<Label> Halved(Label? label)
    {
        if (label is null)
        {
            yield break;
        }

        yield return label;
        var halves = Array.ConvertAll(label.Clocks, c => c.Half(label.At));
        if (halves.Any(h => h is not null))
        {
            yield return label with
            {
                Clocks = halves.Select((h, i) => h ?? label.Clocks[i]).ToArray(),
                Replaced = false,
                Followed = false,
            };
        }
    }

    private Label Act(
        Label label,
        PlannedKind kind,
        long seconds,
        Func<string> why,
        int visit,
        long driven,
        Func<HoursClock, HoursClock> act
    ) => Act(label, new Step(kind, label.At, label.At + seconds, why, visit, label.Seat, driven, null), act);

    /// <summary>Something the driver in the seat does, now; the others are in the sleeper berth.</summary>
    private Label Act(Label label, Step step, Func<HoursClock, HoursClock> act)
    {
        var seconds = step.Until - step.From;
        var clocks = new HoursClock[label.Clocks.Length];
        for (var i = 0; i < clocks.Length; i++)
        {
            clocks[i] =
                i / countries.Length == label.Seat
                    ? act(label.Clocks[i])
                    : label.Clocks[i].Rest(label.At, seconds, true) ?? label.Clocks[i];
        }

        var next = label.Then(clocks, step with { From = label.At, Until = label.At + seconds });
        // A shift that begins here may begin later.
        return ask.Drivers.Count == 1 && label.Clocks.All(c => !c.Open) ? next with { Began = label, Float = long.MaxValue / 2 } : next;
    }

    private HoursClock Of(Label label, int seat, string country) =>
        label.Clocks[(seat * countries.Length) + Array.IndexOf(countries, country)];

    private IEnumerable<HoursClock> Mine(Label label) => label.Clocks.Skip(label.Seat * countries.Length).Take(countries.Length);

    private static long DrivenTo(Label label, int visit) => label.Step is { } step && step.Visit == visit ? step.Driven : 0;

    private string NameOf(int visit) => visit < 0 ? "the start" : ask.Visits[visit].Name;

    private static string? PlaceAt(IReadOnlyList<RestPlace> places, long position) =>
        places.FirstOrDefault(p => Seconds(p.At) == position)?.Name;

    private static long Seconds(Duration d) => (long)Math.Round(d.TotalSeconds);

    private HoursPlan Told(Label best)
    {
        var steps = new List<PlannedSpan>();
        for (var step = best.Step; step is not null; step = step.Before)
        {
            if (step.From == step.Until)
            {
                continue;
            }

            // Stretches of driving that only a full hour divides are one, and so is a wait that becomes a rest.
            if (
                steps.Count > 0
                && steps[^1] is { } later
                && (
                    (
                        later.Kind == PlannedKind.Drive
                        && step.Kind == PlannedKind.Drive
                        && later.Visit == step.Visit
                        && later.Driver == step.Seat
                    ) || (IsOff(later.Kind) && IsOff(step.Kind))
                )
            )
            {
                steps[^1] = later with { From = days.At(step.From) };
                continue;
            }

            steps.Add(
                new PlannedSpan(
                    step.Kind,
                    days.At(step.From),
                    days.At(step.Until),
                    step.Why(),
                    Math.Max(0, step.Visit),
                    step.Seat,
                    Duration.FromSeconds(step.Driven),
                    step.Place
                )
            );
        }

        steps.Reverse();
        var visits = new List<PlannedVisit>();
        for (var visited = best.Visits; visited is not null; visited = visited.Before)
        {
            var stop = ask.Visits[visited.Visit];
            var (arrives, begins) = (days.At(visited.Arrives), days.At(visited.Begins));
            var opened = stop.From is { } from && from > arrives ? from : arrives;
            visits.Add(new PlannedVisit(arrives, begins, days.At(visited.Leaves), stop.Until - (begins > opened ? begins : arrives)));
        }

        visits.Reverse();
        return new HoursPlan(steps, visits);
    }

    private static bool IsOff(PlannedKind kind) => kind is PlannedKind.Break or PlannedKind.Rest or PlannedKind.Restart or PlannedKind.Wait;

    /// <summary>Schedules on the way to a visit, of which none is replaced by another.</summary>
    /// <param name="behind">Driven on the way there, before the road they are on.</param>
    private sealed class Pareto(Search search, int visit, long behind)
    {
        public List<Label> All { get; } = [];

        public bool Add(Label label)
        {
            label.Bound = search.Bound(label, visit, behind + label.Position);
            if (label.Bound.CompareTo(search.beat) >= 0)
            {
                return false;
            }

            search.effort += All.Count;
            var limit = search.effort > (search.ask.Split ? Effort / 4 : Effort) ? Math.Min(search.most, Most[0]) : search.most;
            foreach (var known in All)
            {
                if (known.Replaces(label, search.ask.Split))
                {
                    return false;
                }
            }

            for (var i = All.Count - 1; i >= 0; i--)
            {
                if (label.Replaces(All[i], search.ask.Split))
                {
                    All[i].Replaced = true;
                    All.RemoveAt(i);
                }
            }

            All.Add(label);
            if (All.Count > limit && All.Count(l => !l.Followed) > limit)
            {
                search.full = true;
                var worst = All.Where(l => !l.Followed).MaxBy(l => (l.Bound, l.At))!;
                worst.Replaced = true;
                All.Remove(worst);
                return worst != label;
            }

            return true;
        }
    }
}
