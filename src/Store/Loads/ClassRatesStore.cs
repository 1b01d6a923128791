using System.Text.Json;
using Npgsql;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Loads;

/// <summary>The company's rate tables by freight class.</summary>
public static class ClassRatesStore
{
    /// <summary>The tables of the list by name, with their rates.</summary>
    public static Task<List<ClassRates>> All(NpgsqlConnection db) => Read(db, "t.active", []);

    /// <summary>Tables, whether or not they are still on the list.</summary>
    public static Task<List<ClassRates>> ByIds(NpgsqlConnection db, IEnumerable<long> ids) =>
        Read(db, "t.id = any(@ids)", ids.Distinct().ToArray());

    private static async Task<List<ClassRates>> Read(NpgsqlConnection db, string which, long[] ids)
    {
        var rows = (
            await db.Rows(
                $"select r.* from class_rate_rows r join class_rates t on t.id = r.class_rates_id where {which} order by r.up_to_miles, r.class",
                r =>
                    (
                        Of: r.Long("class_rates_id"),
                        Row: new ClassRateRow(r.Int("up_to_miles"), r.Decimal("class"), r.Decimals("per_cwt").ToList())
                    ),
                ("ids", ids)
            )
        ).ToLookup(r => r.Of, r => r.Row);
        return await db.Rows(
            $"select t.* from class_rates t where {which} order by lower(t.name), t.id",
            r => new ClassRates(
                r.Long("id"),
                r.Text("name"),
                r.Currency(),
                r.Decimal("discount_percent"),
                r.DecimalOrNull("minimum"),
                r.Decimal("surcharge_percent"),
                r.Ints("breaks").ToList(),
                rows[r.Long("id")].ToList(),
                r.Bool("active")
            ),
            ("ids", ids)
        );
    }

    /// <summary>Adds a table, or replaces the one with its id.</summary>
    public static async Task<long> Save(NpgsqlConnection db, ClassRates table)
    {
        var id = await db.One<long>(
            table.Id == 0
                ? """
                insert into class_rates (name, currency, discount_percent, minimum, surcharge_percent, breaks, active)
                values (@name, @currency, @discount, @minimum, @surcharge, @breaks, @active) returning id
                """
                : """
                update class_rates set name = @name, currency = @currency, discount_percent = @discount, minimum = @minimum,
                    surcharge_percent = @surcharge, breaks = @breaks, active = @active where id = @id returning id
                """,
            ("id", table.Id),
            ("name", table.Name),
            ("currency", table.Currency.ToString()),
            ("discount", table.DiscountPercent),
            ("minimum", table.Minimum),
            ("surcharge", table.SurchargePercent),
            ("breaks", table.Breaks.ToArray()),
            ("active", table.IsActive)
        );
        await db.Run("delete from class_rate_rows where class_rates_id = @id", ("id", id));
        await db.Run(
            """
            insert into class_rate_rows (class_rates_id, up_to_miles, class, per_cwt)
            select @id, r."upToMiles", r.class, r."perCwt" from jsonb_to_recordset(@rows::jsonb) as r ("upToMiles" int, class numeric, "perCwt" numeric[])
            """,
            ("id", id),
            ("rows", JsonSerializer.Serialize(table.Rows, StoredJson.Options))
        );
        return id;
    }

    /// <summary>A rating as a charge stores it; null for a charge that is not by class.</summary>
    internal static string? Stored(ClassRating? rating) => rating is null ? null : JsonSerializer.Serialize(rating, StoredJson.Options);

    internal static ClassRating? Rating(string? stored) =>
        stored is null ? null : JsonSerializer.Deserialize<ClassRating>(stored, StoredJson.Options);
}
