using NodaTime;
using NodaTime.Text;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Hours.Planning;

namespace SteadyLark.Core.Hours;

/// <summary>A part of a log: <c>off</c>, <c>sleeper</c>, <c>driving</c>, <c>on_duty</c>, <c>personal</c> or <c>yard</c> between two instants.</summary>
public sealed record HoursEntry(string? From, string? Until, string? Duty);

/// <summary>A visit to plan.</summary>
/// <param name="Miles">From the previous one.</param>
/// <param name="Minutes">Driving from the previous one.</param>
/// <param name="From">Instant at which its window opens; any time when omitted.</param>
/// <param name="Until">Instant by which service should begin; any time when omitted.</param>
/// <param name="Service">Minutes on duty there.</param>
/// <param name="Country">US or CA, of the drive there; that of the rules when omitted.</param>
public sealed record HoursVisit(
    decimal Miles,
    int Minutes,
    string? From = null,
    string? Until = null,
    int Service = 0,
    string? Country = null,
    string? Name = null
);

/// <summary>A question about hours of service. Instants are in ISO 8601 with Z or an offset.</summary>
/// <param name="Rules"><c>us-70-8</c>, <c>us-60-7</c>, <c>ca-70-7</c> or <c>ca-120-14</c>. Across the border the other country's are us-70-8 and ca-70-7.</param>
/// <param name="Zone">Of the home terminal.</param>
/// <param name="Team">Whether two drivers share the truck.</param>
/// <param name="Codriver">The log of the second one; rested when omitted.</param>
/// <param name="Start">Instant at which the plan begins; now when omitted.</param>
/// <param name="Split">Whether the plan may split a rest.</param>
/// <param name="Inspection">Minutes of inspection before the driving of each shift, and after it.</param>
public sealed record HoursRequest(
    string? Rules,
    string? Zone,
    IReadOnlyList<HoursEntry?>? Log,
    string? Now,
    bool Team = false,
    IReadOnlyList<HoursVisit?>? Visits = null,
    IReadOnlyList<HoursEntry?>? Codriver = null,
    string? Start = null,
    bool Split = false,
    int Inspection = 0
)
{
    private const int MostMinutes = 6_000;

    private static readonly Dictionary<string, Duty> Duties = new(StringComparer.Ordinal)
    {
        ["off"] = Duty.Off,
        ["sleeper"] = Duty.Sleeper,
        ["driving"] = Duty.Driving,
        ["on_duty"] = Duty.OnDuty,
        ["personal"] = Duty.Personal,
        ["yard"] = Duty.Yard,
    };

    /// <summary>The answer, or what is wrong with the question.</summary>
    public Outcome<HoursAnswer> Answer()
    {
        var validation = new Validation();
        var now = At(validation, Now, "now", "Now", true) ?? Instant.MinValue;
        var start = At(validation, Start, "start", "The start") ?? now;
        var zone = Zone is { } id ? DateTimeZoneProviders.Tzdb.GetZoneOrNull(id) : null;
        if (zone is null)
        {
            validation.Add("zone", "Give the zone of the home terminal, such as America/Denver.", "zone");
        }

        if (Rules is not ("us-70-8" or "us-60-7" or "ca-70-7" or "ca-120-14"))
        {
            validation.Add("rules", "Choose the rules: us-70-8, us-60-7, ca-70-7 or ca-120-14.", "rules");
        }

        validation.Between(Inspection, 0, 240, "inspection", "Inspection");
        if (start < now || start - now > Duration.FromDays(60))
        {
            validation.Add("start", "The start is before now or more than 60 days ahead.", "start");
        }

        if (Codriver is not null && !Team)
        {
            validation.Add("codriver", "A second driver's log belongs to a team: set team.", "codriver");
        }

        var logs = new[] { (Log, "log"), (Codriver, "codriver") }.Select(l => Entries(validation, l.Item1, l.Item2)).ToList();
        var visits = ToMake(validation, zone ?? DateTimeZone.Utc, now);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var drivers = new List<DutyLog>();
        foreach (var (entries, field) in logs.Zip(["log", "codriver"]).Take(Team ? 2 : 1))
        {
            var log = DutyLog.Of(entries, now, zone!);
            if (!log.Ok)
            {
                return new Problems(
                    log.Problems.Select(p => p with { Field = p.Field?.Replace("log", field, StringComparison.Ordinal) }).ToList()
                );
            }

            drivers.Add(log.Value);
        }

        var rules = new HoursRules(
            Rules == UsRules.SixtyInSeven.Name ? UsRules.SixtyInSeven : UsRules.SeventyInEight,
            (Rules == CaRules.CycleTwo.Name ? CaRules.CycleTwo : CaRules.CycleOne).For(Team)
        );
        var inspection = Duration.FromMinutes(Inspection);
        return Answered(new HoursAsk(now, drivers, rules, zone!, visits, start, Split, inspection, inspection));
    }

    private bool Canadian => Rules!.StartsWith("ca", StringComparison.Ordinal);

    private Outcome<HoursAnswer> Answered(HoursAsk ask)
    {
        var (log, now) = (ask.Drivers[0], ask.Now);
        var left = Canadian ? CaHours.Remaining(log, ask.Rules.Ca, ask.Home, now) : UsHours.Remaining(log, ask.Rules.Us, ask.Home, now);
        var back = Canadian ? CaHours.Returns(log, ask.Rules.Ca, ask.Home, now) : UsHours.Returns(log, ask.Rules.Us, ask.Home, now);
        var violations = Canadian ? CaHours.Check(log, ask.Rules.Ca, ask.Home) : UsHours.Check(log, ask.Rules.Us, ask.Home);
        var answer = new HoursAnswer(
            new HoursMinutes(
                Minutes(left.Drive),
                Minutes(left.Window),
                left.UntilBreak is { } most ? Minutes(most) : null,
                Minutes(left.Cycle)
            ),
            new HoursReturns(Text(back.Drive), Text(back.Break), Text(back.Cycle)),
            violations.Select(v => new HoursBroken(v.Rule, v.Section, Text(v.From)!, Text(v.Until)!)).ToList()
        );
        if (ask.Visits.Count == 0)
        {
            return answer;
        }

        if (HoursPlanner.Plan(ask) is not { } plan)
        {
            return new Problem(
                "plan",
                "These visits cannot be made within the days that are looked at: check the cycle and the windows.",
                "visits"
            );
        }

        return answer with
        {
            Plan = plan
                .Spans.Select(s => new HoursPart(Name(s.Kind), Text(s.From)!, Text(s.Until)!, s.Why, s.Visit + 1, s.Driver + 1))
                .ToList(),
            Visits = plan
                .Visits.Select(v => new HoursVisited(
                    Text(v.Arrives)!,
                    Text(v.Begins)!,
                    Text(v.Leaves)!,
                    v.Slack is { } slack ? (long)Math.Floor(slack.TotalMinutes) : null
                ))
                .ToList(),
            LatestStart = Text(HoursPlanner.LatestStart(ask, plan)),
            Fixes = HoursFixes.Of(ask, plan).Select(f => new HoursFixed(f.Kind, f.What, Minutes(f.Gain), Minutes(f.Late))).ToList(),
        };
    }

    private static List<DutySpan> Entries(Validation validation, IReadOnlyList<HoursEntry?>? log, string field)
    {
        var spans = new List<DutySpan>();
        if (log is { Count: > DutyLog.Most })
        {
            validation.Add("log.long", $"The log has {log.Count:#,##0} entries: give at most {DutyLog.Most:#,##0}.", field);
            return spans;
        }

        for (var i = 0; i < (log?.Count ?? 0); i++)
        {
            var entry = log![i];
            var from = At(validation, entry?.From, $"{field}[{i}].from", $"The start of entry {i + 1}", true);
            var until = At(validation, entry?.Until, $"{field}[{i}].until", $"The end of entry {i + 1}", true);
            if (entry?.Duty is not { } name || !Duties.TryGetValue(name, out var duty))
            {
                validation.Add("duty", $"The duty of entry {i + 1} is one of {string.Join(", ", Duties.Keys)}.", $"{field}[{i}].duty");
            }
            else if (from is { } f && until is { } u)
            {
                spans.Add(new DutySpan(f, u, duty));
            }
        }

        return spans;
    }

    private List<VisitToMake> ToMake(Validation validation, DateTimeZone zone, Instant now)
    {
        var visits = new List<VisitToMake>();
        if (Visits is { Count: > HoursAsk.MostVisits })
        {
            validation.Add("visits", $"Give at most {HoursAsk.MostVisits} visits.", "visits");
            return visits;
        }

        for (var i = 0; i < (Visits?.Count ?? 0); i++)
        {
            if (Visits![i] is not { } visit)
            {
                validation.Add("missing", $"Visit {i + 1} is empty.", $"visits[{i}]");
                continue;
            }

            validation.Between(visit.Minutes, 0, MostMinutes, $"visits[{i}].minutes", $"The minutes to visit {i + 1}");
            validation.Between(visit.Service, 0, MostMinutes, $"visits[{i}].service", $"The service at visit {i + 1}");
            if (visit.Miles is < 0 or > 10_000)
            {
                validation.Add("miles", $"The miles to visit {i + 1} are between 0 and 10,000.", $"visits[{i}].miles");
            }

            if (visit.Country is not (null or "US" or "CA"))
            {
                validation.Add("country", $"The country of the drive to visit {i + 1} is US or CA.", $"visits[{i}].country");
            }

            var name = validation.Text(visit.Name, $"visits[{i}].name", $"The name of visit {i + 1}", 100) ?? $"visit {i + 1}";
            var from = At(validation, visit.From, $"visits[{i}].from", $"The opening of visit {i + 1}");
            var until = At(validation, visit.Until, $"visits[{i}].until", $"The end of the window of visit {i + 1}");
            if (until < from)
            {
                validation.Add("order", $"The window of visit {i + 1} ends before it opens.", $"visits[{i}].until");
            }

            if (from - now > Duration.FromDays(60) || now - until > Duration.FromDays(60))
            {
                validation.Add(
                    "range",
                    $"The window of visit {i + 1} is more than 60 days away.",
                    $"visits[{i}].{(from - now > Duration.FromDays(60) ? "from" : "until")}"
                );
            }

            var country = visit.Country ?? (Rules?.StartsWith("ca", StringComparison.Ordinal) == true ? "CA" : "US");
            visits.Add(
                new VisitToMake(
                    name,
                    [new Road(Duration.FromMinutes(visit.Minutes), visit.Miles, country)],
                    from,
                    until,
                    Duration.FromMinutes(visit.Service),
                    zone
                )
            );
        }

        if (validation.Ok && visits.Aggregate(Duration.Zero, (sum, v) => sum + v.Service + v.Roads[0].Drive) > HoursAsk.MostWork)
        {
            validation.Add(
                "work",
                $"Driving and service add up to more than {HoursAsk.MostWork.TotalHours:0} hours: plan fewer visits.",
                "visits"
            );
        }

        return visits;
    }

    private static Instant? At(Validation validation, string? text, string field, string name, bool required = false)
    {
        if (text is null)
        {
            if (required)
            {
                validation.Add("missing", $"{name} is missing.", field);
            }

            return null;
        }

        var parsed = OffsetDateTimePattern.ExtendedIso.Parse(text);
        if (parsed.Success && parsed.Value.Year is >= 2000 and <= 2100)
        {
            return parsed.Value.ToInstant();
        }

        validation.Add("time", $"{name} is an instant between 2000 and 2100, such as 2026-11-24T15:30:00Z.", field);
        return null;
    }

    private static long Minutes(Duration length) => (long)Math.Floor(length.TotalMinutes);

    private static string? Text(Instant? at) => at is { } instant ? InstantPattern.General.Format(instant) : null;

    private static string Name(PlannedKind kind) => kind.ToString().ToLowerInvariant();
}

/// <summary>Remaining time, in whole minutes.</summary>
/// <param name="WindowMinutes">In Canada what remains of the elapsed hours.</param>
/// <param name="UntilBreakMinutes">Driving; null where no break is required.</param>
public sealed record HoursMinutes(long DriveMinutes, long WindowMinutes, long? UntilBreakMinutes, long CycleMinutes);

/// <summary>When hours come back for a driver who rests from now on; null where none are used.</summary>
public sealed record HoursReturns(string? Drive, string? Break, string? Cycle);

/// <summary>A violation.</summary>
public sealed record HoursBroken(string Rule, string Section, string From, string Until);

/// <summary>A part of the plan.</summary>
/// <param name="Kind"><c>drive</c>, <c>break</c>, <c>rest</c>, <c>restart</c>, <c>wait</c>, <c>service</c> or <c>inspection</c>.</param>
/// <param name="Visit">The visit it leads to or is made at, from 1.</param>
/// <param name="Driver">Who drives or works: 1, or 2 in a team.</param>
public sealed record HoursPart(string Kind, string From, string Until, string Why, int Visit, int Driver);

/// <summary>A visit as planned.</summary>
/// <param name="SlackMinutes">How much later the driver may arrive; negative when service begins late. Null without an end of the window.</param>
public sealed record HoursVisited(string Arrives, string Begins, string Leaves, long? SlackMinutes);

/// <summary>What would make a late plan less late.</summary>
public sealed record HoursFixed(string Kind, string What, long GainMinutes, long LateMinutes);

/// <summary>The answer.</summary>
/// <param name="Plan">The earliest legal schedule, when visits were asked for; as are the others.</param>
/// <param name="LatestStart">With which no visit is later than in the plan; null when no visit has an end of its window.</param>
public sealed record HoursAnswer(
    HoursMinutes Remaining,
    HoursReturns Returns,
    IReadOnlyList<HoursBroken> Violations,
    IReadOnlyList<HoursPart>? Plan = null,
    IReadOnlyList<HoursVisited>? Visits = null,
    string? LatestStart = null,
    IReadOnlyList<HoursFixed>? Fixes = null
);
