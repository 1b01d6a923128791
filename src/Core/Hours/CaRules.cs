using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>The hours of service in Canada south of latitude 60° N: Commercial Vehicle Drivers Hours of Service Regulations, SOR/2005-313.</summary>
/// <param name="Name">As scripts name it: ca-70-7.</param>
/// <param name="Team">Whether two drivers share the truck, who split their rest otherwise: section 19 instead of 18.</param>
public sealed record CaRules(string Name, bool Team = false)
{
    /// <summary>70 hours in 7 days: section 26.</summary>
    public static readonly CaRules CycleOne = new("ca-70-7");

    /// <summary>120 hours in 14 days, and 70 without 24 hours off: section 27.</summary>
    public static readonly CaRules CycleTwo = new("ca-120-14");

    /// <summary>For one driver, or for two who share the truck.</summary>
    public CaRules For(bool team) => team == Team ? this : this with { Team = team, Split = SplitOf(team) };

    /// <summary>Driving, in a day and between two rests: 12(1) and 13(1).</summary>
    public Duration Drive { get; init; } = Duration.FromHours(13);

    /// <summary>On duty, the same: 12(2) and 13(2).</summary>
    public Duration OnDuty { get; init; } = Duration.FromHours(14);

    /// <summary>From the end of a rest to the end of driving: 13(3).</summary>
    public Duration Elapsed { get; init; } = Duration.FromHours(16);

    /// <summary>A rest between shifts, without a break: section 13.</summary>
    public Duration Rest { get; init; } = Duration.FromHours(8);

    /// <summary>Off duty in a day: 14(1).</summary>
    public Duration DailyOff { get; init; } = Duration.FromHours(10);

    /// <summary>Off duty in two days of which the first has less: section 16.</summary>
    public Duration DeferredOff { get; init; } = Duration.FromHours(20);

    /// <summary>Off duty without a break, in so many days: section 25.</summary>
    public Duration DayOff { get; init; } = Duration.FromHours(24);

    /// <inheritdoc cref="DayOff"/>
    public Duration DayOffWithin { get; init; } = Duration.FromDays(14);

    /// <summary>Two rests in the sleeper berth: each so long at least, and both together. Single drivers 18(1)(a) and (b), teams 19(1)(a) and (b).</summary>
    public (Duration Each, Duration Both) Split { get; init; } = SplitOf(Team);

    /// <summary>The limits of a shift. A rest in the sleeper berth counts only once the other one is taken: 18(2)(a), "when added to a subsequent
    /// period".</summary>
    internal ShiftRules Shift =>
        new(
            Rest,
            log => log.Spans.Where(s => s.Duty == Duty.Sleeper && s.Length >= Split.Each).Select(s => new Rest(s.From, s.Until, s.Length)),
            (a, b) => a.Length + b.Length >= Split.Both,
            _ => false,
            [
                new ShiftLimit("drive", "13(1)", Counted.Driving, Drive),
                new ShiftLimit("on_duty", "13(2)", Counted.OnDuty, OnDuty),
                new ShiftLimit("elapsed", "13(3)", Counted.Elapsed, Elapsed),
            ]
        );

    /// <summary>The limits of a day: section 12.</summary>
    internal IReadOnlyList<ShiftLimit> Daily =>
        [new ShiftLimit("drive", "12(1)", Counted.Driving, Drive), new ShiftLimit("on_duty", "12(2)", Counted.OnDuty, OnDuty)];

    /// <summary>The limits of the cycle; its restart is 36 hours for 70 in 7 days, 28(1)(a), and 72 for 120 in 14, 28(1)(b).</summary>
    internal IReadOnlyList<CycleLimit> Cycles =>
        Name == CycleTwo.Name
            ?
            [
                new CycleLimit("27(a)", Duration.FromHours(120), 14, Duration.FromHours(72)),
                // 70 hours without 24 off, however many days that takes.
                new CycleLimit("27(b)", Duration.FromHours(70), 14, DayOff),
            ]
            : [new CycleLimit("26", Duration.FromHours(70), 7, Duration.FromHours(36))];

    private static (Duration Each, Duration Both) SplitOf(bool team) =>
        team ? (Duration.FromHours(4), Duration.FromHours(8)) : (Duration.FromHours(2), Duration.FromHours(10));
}
