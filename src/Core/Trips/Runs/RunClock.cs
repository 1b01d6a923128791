namespace SteadyLark.Core.Trips.Runs;

/// <summary>Times along a run with a given order of stops.</summary>
public static class RunClock
{
    /// <summary>Goes through stops in order, leaving as late as possible without ending later.</summary>
    /// <returns>The run, or null with the first stop at which a window, the capacity or the shift is violated (-1 for the shift).</returns>
    public static (Run? Run, int? Broken) Go(RunProblem p, int driver, IReadOnlyList<int> stops)
    {
        var d = p.Drivers[driver];
        if (stops.Count == 0)
        {
            return (new Run(driver, [], d.From, d.From, 0, 0), null);
        }

        var begins = Earliest(p, d, stops);
        var load = 0L;
        for (var i = 0; i < stops.Count; i++)
        {
            var s = p.Stops[stops[i]];
            load += s.Demand;
            if (begins[i] > s.Closes + RunProblem.Tolerance || load > d.Capacity || (s.Driver is { } bound && bound != driver))
            {
                return (null, stops[i]);
            }
        }

        // Backward: as late as possible with the same end.
        for (var i = stops.Count - 2; i >= 0; i--)
        {
            var s = p.Stops[stops[i]];
            begins[i] = Math.Max(begins[i], Math.Min(s.Closes, begins[i + 1] - p.Minutes[stops[i], stops[i + 1]] - s.Service));
        }

        var first = d.Start is { } start ? p.Minutes[start, stops[0]] : 0;
        var sets = Math.Max(d.From, begins[0] - first);
        var visits = new List<RunVisit>(stops.Count);
        var (now, where, miles, driving) = (sets, d.Start, 0d, 0d);
        for (var i = 0; i < stops.Count; i++)
        {
            var (m, t) = where is { } w ? (p.Miles[w, stops[i]], p.Minutes[w, stops[i]]) : (0, 0);
            var arrives = now + t;
            var begin = Math.Max(begins[i], arrives);
            now = begin + p.Stops[stops[i]].Service;
            visits.Add(new RunVisit(stops[i], arrives, begin, now, m, t));
            (where, miles, driving) = (stops[i], miles + m, driving + t);
        }

        if (d.End is { } end)
        {
            (now, miles, driving) = (now + p.Minutes[stops[^1], end], miles + p.Miles[stops[^1], end], driving + p.Minutes[stops[^1], end]);
            if (now > p.Stops[end].Closes + RunProblem.Tolerance)
            {
                return (null, end);
            }
        }

        return now - sets > p.Shift + RunProblem.Tolerance ? (null, -1) : (new Run(driver, visits, sets, now, miles, driving), null);
    }

    /// <summary>The run as it would be driven even though it violates limits: late stops are late, the rest as in
    /// <see cref="Go"/>.</summary>
    public static Run Anyhow(RunProblem p, int driver, IReadOnlyList<int> stops)
    {
        var begins = Earliest(p, p.Drivers[driver], stops);
        var kept = p.Stops.ToList();
        for (var i = 0; i < stops.Count; i++)
        {
            kept[stops[i]] = kept[stops[i]] with { Closes = Math.Max(kept[stops[i]].Closes, begins[i]), Demand = 0, Driver = null };
        }

        if (p.Drivers[driver].End is { } end)
        {
            kept[end] = kept[end] with { Closes = double.MaxValue };
        }

        return Go(p with { Stops = kept, Shift = null }, driver, stops).Run!;
    }

    /// <summary>When each stop begins if the driver leaves as early as possible and waits for opening times.</summary>
    private static double[] Earliest(RunProblem p, RunDriver d, IReadOnlyList<int> stops)
    {
        var begins = new double[stops.Count];
        var (at, free) = (d.Start, d.From);
        for (var i = 0; i < stops.Count; i++)
        {
            begins[i] = Math.Max(free + (at is { } a ? p.Minutes[a, stops[i]] : 0), p.Stops[stops[i]].Opens);
            (at, free) = (stops[i], begins[i] + p.Stops[stops[i]].Service);
        }

        return begins;
    }

    /// <summary>The cost of an order under the problem's objective.</summary>
    public static double Cost(RunProblem p, int driver, IReadOnlyList<int> stops)
    {
        var sum = 0d;
        var at = p.Drivers[driver].Start;
        foreach (var s in stops)
        {
            sum += at is { } a ? p.Cost(a, s) : 0;
            at = s;
        }

        return stops.Count > 0 && p.Drivers[driver].End is { } end ? sum + p.Cost(stops[^1], end) : sum;
    }

    /// <summary>Why nobody can visit a stop, even alone; null when somebody can.</summary>
    public static string? Impossible(RunProblem p, int stop)
    {
        var s = p.Stops[stop];
        var drivers = Enumerable.Range(0, p.Drivers.Count).Where(d => s.Driver is null || s.Driver == d).ToList();
        if (drivers.Any(d => Go(p, d, [stop]).Run is not null))
        {
            return null;
        }

        if (drivers.All(d => s.Demand > p.Drivers[d].Capacity))
        {
            return $"its demand of {s.Demand} is more than any truck holds";
        }

        var earliest = drivers.Min(d => p.Drivers[d].From + (p.Drivers[d].Start is { } a ? p.Minutes[a, stop] : 0));
        return earliest > s.Closes + RunProblem.Tolerance
            ? $"no driver can arrive before {Clock(earliest)}, and its window closes at {Clock(s.Closes)}"
            : $"the round trip alone exceeds the {p.Shift:0}-minute shift, or ends after the terminal closes";
    }

    /// <summary>Minutes of a day as a clock time.</summary>
    public static string Clock(double minutes)
    {
        var m = (int)Math.Round(minutes);
        return $"{m / 60 % 24:00}:{m % 60:00}{(m >= 1440 ? $" on day {(m / 1440) + 1}" : "")}";
    }
}
