namespace SteadyLark.Store.Loads;

/// <summary>What a leg's pay is calculated from, as SQL; the leg is <c>g</c>.</summary>
internal static class LegSql
{
    /// <summary>The points of a leg: its own stops, and the transfers at which it begins and ends.</summary>
    public const string Points = """
        (select (select count(*) from stops s where s.load_id = le.load_id and s.seq > le.first_after and s.seq <= le.last_after)::int
            + (le.begins_id is not null)::int + (le.ends_id is not null)::int from leg_ends le where le.leg_id = g.id)
        """;

    /// <summary>The line haul of the leg's load in US dollars.</summary>
    public const string LineHaul = """
        (select coalesce(round(sum(c.amount) * max(rate_of(o.currency, o.first_at)), 2), 0) from loads o join charges c on c.load_id = o.id
            where o.id = g.load_id and c.kind = 'line_haul')
        """;

    /// <summary>The miles of all legs of its load, in order.</summary>
    public const string AllMiles = "(select array_agg(o.miles order by o.seq) from legs o where o.load_id = g.load_id)";

    /// <summary>What all legs of its load weigh when they share its revenue, in order: as <c>LegShares.Weight</c>.</summary>
    public const string Weights =
        "(select array_agg(coalesce((o.share * 100)::int, o.miles) order by o.seq) from legs o where o.load_id = g.load_id)";

    /// <summary>The leg's place among them, from zero.</summary>
    public const string Place = "(select count(*)::int from legs o where o.load_id = g.load_id and o.seq < g.seq)";
}
