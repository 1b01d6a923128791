using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Trips;

/// <summary>A trip's cost other than driver pay.</summary>
public enum CostKind
{
    Fuel,
    Toll,
    Lodging,
    Scale,
    Wash,
    Other,
}

/// <param name="Expected">At least one of the two is set.</param>
public sealed record TripCostRow(
    long Id,
    CostKind Kind,
    [property: SeenWith(Right.MarginsSee)] Money? Expected,
    [property: SeenWith(Right.MarginsSee)] Money? Actual,
    string? Note,
    string EnteredBy,
    Instant At
);

public static class TripStore
{
    /// <summary>Where a trip's truck comes from: the end of its driver's previous trip; null for their first.</summary>
    public static async Task<(GeoPoint Point, string Town)?> ComesFrom(NpgsqlConnection db, long tripId) =>
        await db.Row(
            """
            select p.latitude, p.longitude, p.town || ' ' || p.region as town from trips me join trips t on t.driver_id = me.driver_id and
                t.id <> me.id and t.canceled_at is null and lower(t.scheduled) < lower(me.scheduled)
            join legs g on g.trip_id = t.id join lateral (select place_id from stops where load_id = g.load_id order by seq desc limit 1) s
                on true join places p on p.id = coalesce(g.handover_place_id, s.place_id)
            where me.id = @trip order by lower(t.scheduled) desc limit 1
            """,
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
                r.UsdOrNull("expected"),
                r.UsdOrNull("actual"),
                r.TextOrNull("note"),
                r.Text("entered_by"),
                r.Instant("at")
            ),
            ("id", loadId)
        );

    public static Task<long> AddCost(CommandContext w, long loadId, CostKind kind, Money? expected, Money? actual, string? note) =>
        w.Db.One<long>(
            """
            insert into trip_costs (load_id, kind, expected, actual, note, entered_by, at) values (@load, @kind, @expected, @actual, @note,
            @by, @now) returning id
            """,
            ("load", loadId),
            ("kind", kind),
            ("expected", expected),
            ("actual", actual),
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
