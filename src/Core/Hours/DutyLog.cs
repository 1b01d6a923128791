using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Hours;

/// <summary>A driver's duty status: 49 CFR 395.8(b), and the special driving categories of 49 CFR 395.28.</summary>
public enum Duty
{
    Off,
    Sleeper,
    Driving,

    /// <summary>On duty, not driving.</summary>
    OnDuty,

    /// <summary>Personal use of the truck, which is off duty.</summary>
    Personal,

    /// <summary>A yard move, which is on duty and not driving.</summary>
    Yard,
}

/// <summary>One duty status from an instant until another.</summary>
public sealed record DutySpan(Instant From, Instant Until, Duty Duty)
{
    public Duration Length => Until - From;

    /// <summary>Whether it counts as time on duty: driving, other work, yard moves.</summary>
    public bool Works => Duty is Duty.Driving or Duty.OnDuty or Duty.Yard;

    /// <summary>How much of it is between two instants.</summary>
    internal Duration Within(Instant from, Instant until) =>
        Duration.Max(Duration.Zero, Instant.Min(Until, until) - Instant.Max(From, from));
}

/// <summary>What a driver did, without gaps: time that nothing is recorded for counts as off duty.</summary>
public sealed class DutyLog
{
    /// <summary>At most so many entries are read at once.</summary>
    public const int Most = 20_000;

    private DutyLog(IReadOnlyList<DutySpan> spans) => Spans = spans;

    /// <summary>A driver who is rested: nothing is recorded.</summary>
    public static DutyLog Empty { get; } = new([]);

    /// <summary>In order; neighbors differ in their duty.</summary>
    public IReadOnlyList<DutySpan> Spans { get; }

    /// <summary>Reads entries in any order.</summary>
    /// <param name="now">Nothing is recorded ahead of it; the time since the last entry is off duty.</param>
    /// <param name="zone">Zone in which times are shown.</param>
    /// <returns>The log, or each entry that ends before it begins, overlaps another one or is in the future.</returns>
    public static Outcome<DutyLog> Of(IReadOnlyList<DutySpan> entries, Instant now, DateTimeZone zone)
    {
        var problems = new List<Problem>();
        if (entries.Count > Most)
        {
            return new Problem("log.long", $"The log has {entries.Count:#,##0} entries: give at most {Most:#,##0}.", "log");
        }

        for (var i = 0; i < entries.Count; i++)
        {
            var entry = entries[i];
            if (entry.Until <= entry.From)
            {
                problems.Add(
                    new Problem(
                        "log.order",
                        $"Entry {i + 1} of the log ends {entry.Until.Format(zone)}, before it begins.",
                        $"log[{i}].until"
                    )
                );
            }
            else if (entry.Until > now)
            {
                problems.Add(
                    new Problem(
                        "log.ahead",
                        $"Entry {i + 1} of the log ends {entry.Until.Format(zone)}, which is in the future.",
                        $"log[{i}].until"
                    )
                );
            }
        }

        var ordered = entries.Select((e, i) => (Entry: e, Number: i + 1)).OrderBy(e => e.Entry.From).ThenBy(e => e.Number).ToList();
        foreach (var (before, after) in ordered.Zip(ordered.Skip(1)))
        {
            if (before.Entry.Until > after.Entry.From)
            {
                problems.Add(
                    new Problem(
                        "log.overlap",
                        $"Entries {before.Number} and {after.Number} of the log overlap: the first ends {before.Entry.Until.Format(zone)}, the other begins {after.Entry.From.Format(zone)}.",
                        $"log[{after.Number - 1}].from"
                    )
                );
            }
        }

        return problems.Count > 0 ? new Problems(problems) : new DutyLog(Joined(ordered.ConvertAll(e => e.Entry), now));
    }

    /// <summary>The log with more after it.</summary>
    /// <param name="more">In order, none before the log ends.</param>
    public DutyLog With(IEnumerable<DutySpan> more)
    {
        var all = Spans.Concat(more).ToList();
        return new DutyLog(all.Count == 0 ? [] : Joined(all, all[^1].Until));
    }

    /// <summary>Since when the driver is off duty; <paramref name="now"/> when they are not.</summary>
    internal Instant RestingSince(Instant now) => Spans.Reverse().TakeWhile(s => !s.Works).LastOrDefault()?.From ?? now;

    /// <summary>Since when the driver has not driven; <paramref name="now"/> when they drive.</summary>
    internal Instant IdleSince(Instant now) => Spans.Reverse().TakeWhile(s => s.Duty != Duty.Driving).LastOrDefault()?.From ?? now;

    /// <summary>What was done before an instant.</summary>
    public DutyLog Before(Instant at) => new(Spans.Where(s => s.From < at).Select(s => s.Until <= at ? s : s with { Until = at }).ToList());

    private static List<DutySpan> Joined(IReadOnlyList<DutySpan> ordered, Instant until)
    {
        var spans = new List<DutySpan>();
        foreach (var entry in ordered)
        {
            if (spans.Count > 0 && spans[^1].Until < entry.From)
            {
                Add(new DutySpan(spans[^1].Until, entry.From, Duty.Off));
            }

            Add(entry);
        }

        if (spans.Count > 0 && spans[^1].Until < until)
        {
            Add(new DutySpan(spans[^1].Until, until, Duty.Off));
        }

        return spans;

        void Add(DutySpan span)
        {
            if (spans.Count > 0 && spans[^1].Duty == span.Duty)
            {
                spans[^1] = spans[^1] with { Until = span.Until };
            }
            else
            {
                spans.Add(span);
            }
        }
    }
}
