using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Trips;

/// <summary>A cost planned for a load on our own truck.</summary>
public sealed record TripCostRow(
    long Id,
    CostKind Kind,
    [property: SeenWith(Right.MarginsSee)] Money Expected,
    string? Note,
    string EnteredBy,
    Instant At
)
{
    [System.Text.Json.Serialization.JsonIgnore]
    public EnteredCost Entered => new(Kind, Expected);
}

public static class TripStore
{
    /// <summary>The end of the driver's trip before trip <c>t</c>, whichever seat they had on it, as SQL.</summary>
    internal const string PreviousEnd = """
        (select o.latitude, o.longitude, o.town || ' ' || o.region as town from trip_crew b join trip_ends e on e.trip_id = b.trip_id
            join places o on o.id = e.place_id
         where b.driver_id = t.driver_id and b.trip_id <> t.id and b.canceled_at is null and lower(b.scheduled) < lower(t.scheduled)
         order by lower(b.scheduled) desc limit 1)
        """;

    /// <summary>Where a trip's truck comes from: the end of its driver's previous trip; null for their first.</summary>
    public static async Task<(GeoPoint Point, string Town)?> ComesFrom(NpgsqlConnection db, long tripId) =>
        await db.Row(
            $"select f.* from trips t join lateral {PreviousEnd} f on true where t.id = @trip",
            r => Tuple.Create(new GeoPoint(r.Double("latitude"), r.Double("longitude")), r.Text("town")),
            ("trip", tripId)
        )
            is { } found
            ? (found.Item1, found.Item2)
            : null;

    /// <summary>Stores or removes the route override to a stop.</summary>
    public static Task SetRouteOverride(CommandContext w, long stopId, RouteOverride route, double roadMiles) =>
        w.Db.Run(
            """
            update stops set road_miles = @road, miles_set = @miles, miles_why = @why, miles_by = case when @miles::int is null then null
                when miles_set = @miles and miles_why = @why then miles_by else @by end,
                miles_at = case when @miles::int is null then null when miles_set = @miles and miles_why = @why then miles_at else @now end,
                via_names = @names, via_latitudes = @latitudes, via_longitudes = @longitudes where id = @id
            """,
            ("id", stopId),
            ("road", roadMiles),
            ("miles", route.Miles),
            ("why", route.Why),
            ("by", w.Actor.Name),
            ("now", w.Now),
            ("names", route.Via.Select(v => v.Name).ToArray()),
            ("latitudes", route.Via.Select(v => v.Point.Latitude).ToArray()),
            ("longitudes", route.Via.Select(v => v.Point.Longitude).ToArray())
        );

    /// <summary>Updates a load's miles, its leg's, and its charges by the mile.</summary>
    /// <param name="charges">Every charge's amount and quantity at the new miles.</param>
    public static async Task SetMiles(
        NpgsqlConnection db,
        long loadId,
        long? legId,
        int miles,
        int more,
        IReadOnlyList<(long Id, decimal? Quantity, Money Amount)> charges
    )
    {
        await db.Run("update loads set miles = @miles where id = @id", ("id", loadId), ("miles", miles));
        if (legId is { } leg)
        {
            await db.Run("update legs set miles = greatest(0, miles + @more) where id = @id", ("id", leg), ("more", more));
        }

        foreach (var (id, quantity, amount) in charges)
        {
            await db.Run(
                "update charges set quantity = @quantity, amount = @amount where id = @id",
                ("id", id),
                ("quantity", quantity),
                ("amount", amount)
            );
        }

        await db.Run(
            "update loads set revenue = (select coalesce(sum(amount), 0) from charges where load_id = @id) where id = @id",
            ("id", loadId)
        );
    }

    public static Task<List<TripCostRow>> Costs(NpgsqlConnection db, long loadId) =>
        db.Rows(
            "select * from trip_costs where load_id = @id and removed_at is null order by id",
            r => new TripCostRow(
                r.Long("id"),
                r.Enum<CostKind>("kind"),
                r.Usd("expected"),
                r.TextOrNull("note"),
                r.Text("entered_by"),
                r.Instant("at")
            ),
            ("id", loadId)
        );

    /// <summary>What was planned for loads, by load.</summary>
    public static async Task<ILookup<long, EnteredCost>> Entered(NpgsqlConnection db, long[] loads) =>
        (
            await db.Rows(
                "select load_id, kind, expected as amount from trip_costs where load_id = any(@loads) and removed_at is null",
                r => (Load: r.Long("load_id"), Cost: new EnteredCost(r.Enum<CostKind>("kind"), r.Usd("amount"))),
                ("loads", loads)
            )
        ).ToLookup(c => c.Load, c => c.Cost);

    public static Task<long> AddCost(CommandContext w, long loadId, CostKind kind, Money expected, string? note) =>
        w.Db.One<long>(
            """
            insert into trip_costs (load_id, kind, expected, note, entered_by, at) values (@load, @kind, @expected, @note, @by, @now) returning id
            """,
            ("load", loadId),
            ("kind", kind),
            ("expected", expected),
            ("note", note),
            ("by", w.Actor.Name),
            ("now", w.Now)
        );

    /// <summary>Removes a cost; false when there is none or it was removed.</summary>
    public static async Task<bool> RemoveCost(CommandContext w, long loadId, long costId) =>
        await w.Db.Run(
            "update trip_costs set removed_at = @now, removed_by = @by where id = @id and load_id = @load and removed_at is null",
            ("id", costId),
            ("load", loadId),
            ("now", w.Now),
            ("by", w.Actor.Name)
        ) == 1;
}
