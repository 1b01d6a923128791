using NodaTime;

namespace SteadyLark.Core.Hours;

/// <summary>The hours of service of drivers of property-carrying trucks in the United States: 49 CFR 395.1 and 395.3.</summary>
/// <param name="Name">As scripts name it: us-70-8.</param>
/// <param name="Cycle">On duty at most, in so many days: 70 hours in 8 for carriers that operate every day of the week, 395.3(b)(2); 60 in 7 for others,
/// 395.3(b)(1).</param>
/// <param name="CycleDays">The days, today included.</param>
public sealed record UsRules(string Name, Duration Cycle, int CycleDays)
{
    public static readonly UsRules SeventyInEight = new("us-70-8", Duration.FromHours(70), 8);
    public static readonly UsRules SixtyInSeven = new("us-60-7", Duration.FromHours(60), 7);

    /// <summary>Driving in a shift: 395.3(a)(3)(i).</summary>
    public Duration Drive { get; init; } = Duration.FromHours(11);

    /// <summary>From coming on duty to the end of driving: 395.3(a)(2).</summary>
    public Duration Window { get; init; } = Duration.FromHours(14);

    /// <summary>Driving without an interruption: 395.3(a)(3)(ii). Null for drivers under a short-haul exception, 395.1(e)(1) and (2).</summary>
    public Duration? DriveBeforeBreak { get; init; } = Duration.FromHours(8);

    /// <summary>How long driving is interrupted at least, by anything else: 395.3(a)(3)(ii).</summary>
    public Duration Break { get; init; } = Duration.FromMinutes(30);

    /// <summary>Off duty before a shift: 395.3(a)(1).</summary>
    public Duration Rest { get; init; } = Duration.FromHours(10);

    /// <summary>The longer of two rests that are worth a whole one together, in the sleeper berth: 395.1(g)(1)(ii)(B).</summary>
    public Duration LongSplit { get; init; } = Duration.FromHours(7);

    /// <summary>The shorter one: 395.1(g)(1)(ii)(A).</summary>
    public Duration ShortSplit { get; init; } = Duration.FromHours(2);

    /// <summary>Off duty that begins the cycle anew: 395.3(c).</summary>
    public Duration Restart { get; init; } = Duration.FromHours(34);

    /// <summary>The section of the cycle.</summary>
    public string CycleSection => CycleDays == 8 ? "395.3(b)(2)" : "395.3(b)(1)";

    /// <summary>The limits of a shift. A rest that is not paired yet counts when it is the longer one: the shorter one is still to come.</summary>
    internal ShiftRules Shift =>
        new(
            Rest,
            log => Hours.Rest.Of(log).Where(r => r.Length >= ShortSplit),
            (a, b) => a.Length + b.Length >= Rest && Duration.Max(a.Sleeper, b.Sleeper) >= LongSplit,
            r => r.Sleeper >= LongSplit,
            [
                new ShiftLimit("drive", "395.3(a)(3)(i)", Counted.Driving, Drive),
                new ShiftLimit("window", "395.3(a)(2)", Counted.Elapsed, Window),
            ]
        );

    internal CycleLimit CycleLimit => new(CycleSection, Cycle, CycleDays, Restart);

    /// <summary>With two hours more for weather, roads or traffic that were not known before: 395.1(b)(1).</summary>
    public UsRules InAdverseConditions() => this with { Drive = Drive + Duration.FromHours(2), Window = Window + Duration.FromHours(2) };

    /// <summary>Within 150 air miles of the place where the driver reports for work and returns within 14 hours: no interruption is required, 395.1(e)(1).</summary>
    public UsRules ForShortHaul() => this with { DriveBeforeBreak = null };

    /// <summary>16 hours instead of 14, 395.1(e)(2)(iv)(B) and (o): <see cref="UsExceptions"/> says when.</summary>
    public UsRules ForLongDay() => this with { Window = Duration.FromHours(16) };
}
