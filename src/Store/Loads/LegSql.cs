namespace SteadyLark.Store.Loads;

/// <summary>What a leg's pay is calculated from, as SQL; the leg is <c>g</c>.</summary>
internal static class LegSql
{
    /// <summary>
    /// The points of a leg: its own stops, and each end at which the load is handed over. A stop belongs to the leg under way when it was
    /// reached; a stop ahead belongs to the last.
    /// </summary>
    public const string Points = """
        (select count(*)::int from stops s left join legs b on b.load_id = g.load_id and b.seq = g.seq - 1
            cross join lateral (select coalesce(s.delivered_at, s.left_at, s.arrived_at) as reached) x
         where s.load_id = g.load_id and (g.handed_over_at is null or x.reached <= g.handed_over_at)
           and (b.handed_over_at is null or x.reached is null or x.reached > b.handed_over_at))
        + case when g.handed_over_at is not null then 1 else 0 end + case when g.seq > 1 then 1 else 0 end
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
