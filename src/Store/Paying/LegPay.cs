using Npgsql;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Paying;

/// <summary>
/// A leg's expected driver pay, by the pay rates of the day it ends or will end: stored with the leg, so that lists can sort and filter by
/// margin.
/// It is computed by Core (<see cref="DriverAgreement.LegPay"/>) whenever the load or the rates change; a settlement computes anew what it
/// pays.
/// </summary>
public static class LegPay
{
    /// <summary>After a load changed.</summary>
    public static Task<int> OfLoad(NpgsqlConnection db, long loadId) => Refresh(db, "g.load_id = @id", loadId);

    /// <summary>After a driver's pay rates changed: legs that no settlement has paid yet.</summary>
    public static Task<int> OfDriver(NpgsqlConnection db, long driverId) =>
        Refresh(db, "t.driver_id = @id and not exists (select 1 from settlement_legs s where s.leg_id = g.id and s.standing)", driverId);

    /// <summary>Legs without it: those of an older version, or of the demo's history.</summary>
    public static Task<int> Missing(NpgsqlConnection db) => Refresh(db, "g.expected_pay is null and @id = 0", 0);

    private static async Task<int> Refresh(NpgsqlConnection db, string which, long id)
    {
        var legs = await db.Rows(
            $"""
            select g.id, g.miles, t.driver_id, {LegSql.AllMiles} as leg_miles, {LegSql.Place} as leg_place, {LegSql.LineHaul} as line_haul,
                   {LegSql.Points} as stops,
                   (coalesce(l.delivered_at, l.last_at, l.booked_at) at time zone (select zone from business))::date as on_day
            from legs g join trips t on t.id = g.trip_id join loads l on l.id = g.load_id
            where {which}
            """,
            r =>
                (
                    Id: r.Long("id"),
                    Miles: r.Int("miles"),
                    Driver: r.Long("driver_id"),
                    Share: DriverAgreement.Share(r.Usd("line_haul"), r.Ints("leg_miles"), r.Int("leg_place")),
                    Stops: r.Int("stops"),
                    On: r.Date("on_day")
                ),
            ("id", id)
        );
        if (legs.Count == 0)
        {
            return 0;
        }

        var agreements = await SettlementStore.Agreements(db, legs.Select(l => l.Driver));
        return await db.Run(
            """
            update legs g set expected_pay = v.pay from unnest(@ids, @pays) as v(id, pay) where g.id = v.id and g.expected_pay is distinct
            from v.pay
            """,
            ("ids", legs.Select(l => l.Id).ToArray()),
            ("pays", legs.Select(l => Math.Max(0, agreements[l.Driver].LegPay(l.Miles, l.Share, l.Stops, l.On).Amount)).ToArray())
        );
    }
}
