using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.People;

/// <summary>Facts that decide whether a load is in a limited view.</summary>
/// <param name="Assigned">Whether any of its legs is assigned.</param>
/// <param name="DriverGroups">The groups of its drivers; a driver without a group and a carrier count as none.</param>
/// <param name="FirstAt">When its first appointment begins; null while it has none.</param>
public sealed record ViewedLoad(long? CustomerId, long? OfficeId, bool Assigned, IReadOnlyCollection<long> DriverGroups, Instant? FirstAt);

/// <summary>
/// How much of the business a user sees. Null means all. Limits add up: a load must be within each of them. The database enforces the same
/// rule
/// (policies of the role lark_limited); a test holds both against each other.
/// </summary>
/// <param name="Customers">Only these customers, with their loads, invoices and payments.</param>
/// <param name="Offices">Only loads of these offices.</param>
/// <param name="DriverGroups">Only drivers of these groups, their loads and pay, and uncovered loads.</param>
/// <param name="DaysAhead">Only loads that begin today or within this many days, 0 to 365.</param>
public sealed record ViewLimits(
    IReadOnlyList<long>? Customers = null,
    IReadOnlyList<long>? Offices = null,
    IReadOnlyList<long>? DriverGroups = null,
    int? DaysAhead = null
)
{
    public const int MaxDaysAhead = 365;

    /// <summary>How many customers, offices or groups a view may be limited to.</summary>
    public const int MaxNamed = 500;

    public static readonly ViewLimits None = new();

    /// <summary>Company-wide rights: a user who sees only a part does not have them, whatever their role.</summary>
    public static readonly IReadOnlySet<Right> WholeCompany = new HashSet<Right>
    {
        Right.LedgerSee,
        Right.LedgerPost,
        Right.LedgerClose,
        Right.AuditSee,
        Right.UsersEdit,
        Right.SetupEdit,
    };

    /// <summary>Whether anything is hidden.</summary>
    public bool IsLimited => IsPartial || DaysAhead is not null;

    /// <summary>Whether part of the company is hidden permanently, not only what is far ahead.</summary>
    public bool IsPartial => Customers is not null || Offices is not null || DriverGroups is not null;

    /// <summary>The limits in words: <c>2 customers, loads up to 7 days ahead</c>. Null without limits.</summary>
    public string? Summary =>
        IsLimited
            ? string.Join(
                ", ",
                new[]
                {
                    Count(Customers, "customer"),
                    Count(Offices, "office"),
                    Count(DriverGroups, "driver group"),
                    DaysAhead switch
                    {
                        null => null,
                        0 => "loads up to today",
                        1 => "loads up to tomorrow",
                        var days => $"loads up to {days} days ahead",
                    },
                }.OfType<string>()
            )
            : null;

    /// <summary>Part of <see cref="Access.Key"/>: equal for equal limits.</summary>
    public string Key => $"{Join(Customers)};{Join(Offices)};{Join(DriverGroups)};{DaysAhead}";

    /// <summary>The first instant beyond the days ahead; null without such a limit.</summary>
    public Instant? Until(Instant now, DateTimeZone zone) =>
        DaysAhead is { } days ? zone.AtStartOfDay(now.InZone(zone).Date.PlusDays(days + 1)).ToInstant() : null;

    public bool Sees(ViewedLoad load, Instant now, DateTimeZone zone) =>
        (Customers is null || (load.CustomerId is { } customer && Customers.Contains(customer)))
        && (Offices is null || (load.OfficeId is { } office && Offices.Contains(office)))
        && (DriverGroups is null || !load.Assigned || load.DriverGroups.Any(DriverGroups.Contains))
        && (Until(now, zone) is not { } until || load.FirstAt is null || load.FirstAt < until);

    /// <summary>What remains of a role's rights.</summary>
    public IReadOnlySet<Right> Within(IReadOnlySet<Right> rights) =>
        IsLimited ? rights.Where(r => !WholeCompany.Contains(r)).ToHashSet() : rights;

    /// <summary>The office of a new load: the one chosen, else the user's own, else the only one they see.</summary>
    /// <returns>Null when the load has none; a problem when its booker would not see the load.</returns>
    public Outcome<long?> OfficeFor(long? chosen, long? own)
    {
        var office = chosen ?? own ?? (Offices is [var only] ? only : null);
        return Offices is null || (office is { } named && Offices.Contains(named))
            ? office
            : new Problem("view.office", "Choose one of the offices that you see.", "officeId");
    }

    /// <summary>Why a driver may not be put in a group; null when they may. Outside the groups one sees, the driver would
    /// disappear.</summary>
    public Problem? RefusesGroup(long? groupId) =>
        DriverGroups is null || (groupId is { } id && DriverGroups.Contains(id))
            ? null
            : new Problem("view.group", "Choose one of the driver groups that you see.", "groupId");

    /// <summary>Why a load of a customer may not be booked; null when it may. A draft without a customer would be hidden from its
    /// author.</summary>
    public Problem? RefusesCustomer(long? customerId) =>
        Customers is null || (customerId is { } id && Customers.Contains(id))
            ? null
            : new Problem("view.customer", "Choose one of the customers that you see.", "customerId");

    /// <summary>Why limits do not fit a role; null when they do.</summary>
    public Problem? RefusesRole(Role? standard) =>
        standard switch
        {
            Role.Owner when IsLimited => new Problem(
                "view.owner",
                "An owner sees everything: remove the limits, or choose another role.",
                "limits"
            ),
            Role.Driver when IsPartial => new Problem(
                "view.driver",
                "A driver sees only their own loads: limit nothing but the days ahead.",
                "limits"
            ),
            _ => null,
        };

    /// <summary>Limits as entered, validated. An empty list is refused: it would hide everything.</summary>
    public static ViewLimits Named(Validation validation, ViewLimits? given)
    {
        if (given is null)
        {
            return None;
        }

        List(validation, given.Customers, "customers", "customer");
        List(validation, given.Offices, "offices", "office");
        List(validation, given.DriverGroups, "driverGroups", "driver group");
        if (given.DaysAhead is < 0 or > MaxDaysAhead)
        {
            validation.Add("out.of.range", $"Days ahead are 0 to {MaxDaysAhead}, or empty for no limit.", "limits.daysAhead");
        }

        return new ViewLimits(Sorted(given.Customers), Sorted(given.Offices), Sorted(given.DriverGroups), given.DaysAhead);
    }

    private static void List(Validation validation, IReadOnlyList<long>? ids, string field, string what)
    {
        if (ids is { Count: 0 or > MaxNamed })
        {
            validation.Add(
                "out.of.range",
                ids.Count == 0 ? $"Choose at least one {what}, or remove this limit." : $"Choose at most {MaxNamed}.",
                $"limits.{field}"
            );
        }
    }

    private static string? Count(IReadOnlyList<long>? ids, string what) =>
        ids is null ? null
        : ids.Count == 1 ? $"1 {what}"
        : $"{ids.Count} {what}s";

    private static List<long>? Sorted(IReadOnlyList<long>? ids) => ids?.Distinct().Order().ToList();

    private static string Join(IReadOnlyList<long>? ids) => ids is null ? "*" : string.Join(',', ids.Order());
}
