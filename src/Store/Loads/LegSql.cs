namespace SteadyLark.Store.Loads;

/// <summary>What a leg's pay is calculated from, as SQL; the leg is <c>g</c>.</summary>
internal static class LegSql
{
    /// <summary>
    /// The points of a leg: its own stops, and each end at which the load is handed over. A stop belongs to the leg under way when it was
    /// reached; a stop ahead belongs to the last.
    /// </summary>
    public const string Points = """
        (select count(*)::int from stops s join leg_ends le on le.leg_id = g.id
            cross join lateral (select coalesce(s.delivered_at, s.left_at, s.arrived_at) as reached) x
         where s.load_id = g.load_id and (le.ended_at is null or x.reached <= le.ended_at)
           and (le.began_at is null or x.reached is null or x.reached > le.began_at))
        + (select count(le.ended_at) + count(le.began_at) from leg_ends le where le.leg_id = g.id)::int
        """;

    /// <summary>The line haul of the leg's load in US dollars.</summary>
    public const string LineHaul = """
        (select coalesce(round(sum(c.amount) * max(rate_of(o.currency, o.first_at)), 2), 0) from loads o join charges c on c.load_id = o.id
            where o.id = g.load_id and c.kind = 'line_haul')
        """;

    /// <summary>The miles of all legs of its load, in order.</summary>
    public const string AllMiles = "(select array_agg(o.miles order by o.seq) from legs o where o.load_id = g.load_id)";

    /// <summary>The leg's place among them, from zero.</summary>
    public const string Place = "(select count(*)::int from legs o where o.load_id = g.load_id and o.seq < g.seq)";
}
