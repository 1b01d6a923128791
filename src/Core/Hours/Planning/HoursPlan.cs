using NodaTime;

namespace SteadyLark.Core.Hours.Planning;

/// <summary>What a driver does in a part of a plan.</summary>
public enum PlannedKind
{
    Drive,

    /// <summary>Off duty, because driving has to be interrupted.</summary>
    Break,

    /// <summary>Off duty, because a shift, a day or the hours of it are used.</summary>
    Rest,

    /// <summary>Off duty until the cycle begins anew.</summary>
    Restart,

    /// <summary>Off duty until a visit's window opens or the plan starts.</summary>
    Wait,

    /// <summary>On duty at a visit.</summary>
    Service,

    /// <summary>On duty before the first driving of a shift, and after the last.</summary>
    Inspection,
}

/// <summary>A place on the way where a truck may rest.</summary>
/// <param name="At">Driving from the start of the part of the road it is on.</param>
public sealed record RestPlace(Duration At, string Name);

/// <summary>A stretch of road in one country.</summary>
/// <param name="Country">US or CA.</param>
/// <param name="Places">In order.</param>
public sealed record Road(Duration Drive, decimal Miles, string Country = "US", IReadOnlyList<RestPlace>? Places = null);

/// <summary>A visit to make.</summary>
/// <param name="Roads">How one gets there from the visit before it; more than one across a border.</param>
/// <param name="From">Service does not begin before; null when it may at any time.</param>
/// <param name="Until">Service should begin by then; null when any time will do.</param>
/// <param name="Service">On duty there.</param>
/// <param name="MayRest">Whether the truck may rest there.</param>
public sealed record VisitToMake(
    string Name,
    IReadOnlyList<Road> Roads,
    Instant? From,
    Instant? Until,
    Duration Service,
    DateTimeZone Zone,
    bool MayRest = true
);

/// <summary>The rules of both countries, for one driver or a team.</summary>
public sealed record HoursRules(UsRules Us, CaRules Ca);

/// <summary>What is to be planned.</summary>
/// <param name="Drivers">The log of each: one, or two who share the truck. The first one drives first when they can.</param>
/// <param name="Home">Zone of the home terminal.</param>
/// <param name="Start">Nothing is done before it.</param>
/// <param name="Split">Whether a rest may be split.</param>
/// <param name="Before">Inspection before the first driving of a shift.</param>
/// <param name="After">And after the last.</param>
public sealed record HoursAsk(
    Instant Now,
    IReadOnlyList<DutyLog> Drivers,
    HoursRules Rules,
    DateTimeZone Home,
    IReadOnlyList<VisitToMake> Visits,
    Instant? Start = null,
    bool Split = false,
    Duration Before = default,
    Duration After = default
)
{
    public const int MostVisits = 60;

    /// <summary>Of driving and service together.</summary>
    public static readonly Duration MostWork = Duration.FromHours(400);
}

/// <summary>A part of a plan.</summary>
/// <param name="Visit">The visit it leads to or is made at, from 0.</param>
/// <param name="Driver">Who drives or works, from 0.</param>
/// <param name="Driven">From the visit before to where it ends.</param>
/// <param name="Place">Where, when it is known: a place to rest, a visit.</param>
public sealed record PlannedSpan(
    PlannedKind Kind,
    Instant From,
    Instant Until,
    string Why,
    int Visit,
    int Driver,
    Duration Driven,
    string? Place
)
{
    public Duration Length => Until - From;

    /// <summary>What it is in the log of one of the drivers: one who does not drive or work is in the sleeper berth.</summary>
    public Duty DutyOf(int driver) =>
        Kind switch
        {
            PlannedKind.Drive when driver == Driver => Duty.Driving,
            PlannedKind.Service or PlannedKind.Inspection when driver == Driver => Duty.OnDuty,
            _ => Duty.Sleeper,
        };
}

/// <summary>A visit as planned.</summary>
/// <param name="Begins">Service.</param>
/// <param name="Slack">How much later the driver may arrive; negative when service begins late. Null without an end of the window.</param>
public sealed record PlannedVisit(Instant Arrives, Instant Begins, Instant Leaves, Duration? Slack)
{
    public Duration Late => Slack is { } slack && slack < Duration.Zero ? -slack : Duration.Zero;
}

/// <summary>The earliest legal schedule.</summary>
public sealed record HoursPlan(IReadOnlyList<PlannedSpan> Spans, IReadOnlyList<PlannedVisit> Visits)
{
    /// <summary>Of all visits.</summary>
    public Duration Late => Visits.Aggregate(Duration.Zero, (sum, v) => sum + v.Late);

    public Instant Done => Visits[^1].Leaves;

    /// <summary>A driver's log with the plan after it.</summary>
    public DutyLog After(DutyLog log, int driver = 0) => log.With(Spans.Select(s => new DutySpan(s.From, s.Until, s.DutyOf(driver))));

    /// <summary>Less lateness, or the same and done earlier.</summary>
    public bool Beats(HoursPlan other) => Late != other.Late ? Late < other.Late : Done < other.Done;
}
