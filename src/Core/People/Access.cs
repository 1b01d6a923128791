namespace SteadyLark.Core.People;

/// <summary>The rights of the current caller.</summary>
/// <param name="Rights">Their role's rights; fewer while they must still set up a second factor, or through an API token.</param>
/// <param name="DriverId">The driver they are; null for office users.</param>
public sealed record Access(IReadOnlySet<Right> Rights, long? DriverId = null)
{
    /// <summary>How much of the business they see.</summary>
    public ViewLimits Limits { get; init; } = ViewLimits.None;

    /// <summary>Their own office; null for none.</summary>
    public long? OfficeId { get; init; }

    public static readonly Access Nobody = new(new HashSet<Right>());

    public bool Has(Right right) => Rights.Contains(right);

    /// <summary>Equal for users who may see the same, so that an answer computed for one serves the other.</summary>
    public string Key => $"{string.Join(' ', Rights.Order())}/{DriverId}/{Limits.Key}";

    /// <summary>With an API token: what both the user and the token may.</summary>
    public Access Through(IReadOnlySet<Right> token) => this with { Rights = Rights.Where(token.Contains).ToHashSet() };
}
