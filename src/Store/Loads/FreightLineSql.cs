using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Loads;

/// <summary>Freight lines as they are read: for a load's page, and as cargo of a trip.</summary>
internal static class FreightLineSql
{
    /// <summary>Lines <c>f</c> with their product and its rules; goes on with a condition.</summary>
    internal const string Select = """
        select f.*, p.name as product,
            case when p.id is not null then array(select x.other_id from product_rules x where x.product_id = p.id and x.rule = 'apart') end as apart,
            case when p.id is not null then array(select x.other_id from product_rules x where x.product_id = p.id and x.rule = 'wash') end as not_after
        from freight_lines f left join products p on p.id = f.product_id
        """;

    internal static FreightRow Row(NpgsqlDataReader r) =>
        new(
            r.Text("description"),
            r.IntOrNull("pieces"),
            r.IntOrNull("pallets"),
            r.IntOrNull("weight_lb"),
            r.IntOrNull("temperature_f"),
            r.IntOrNull("length_in"),
            r.IntOrNull("width_in"),
            r.IntOrNull("height_in"),
            r.Bool("hazmat"),
            r.TextOrNull("un_number"),
            r.TextOrNull("hazmat_name"),
            r.TextOrNull("hazard_class"),
            r.TextOrNull("packing_group"),
            r.TextOrNull("emergency_phone"),
            r.Bool("stackable"),
            r.DecimalOrNull("freight_class")
        )
        {
            Bulk = Bulk(r),
            Vehicle = Vehicle(r),
        };

    internal static CargoLine Cargo(NpgsqlDataReader r) =>
        new(
            r.IntOrNull("pieces"),
            r.IntOrNull("pallets"),
            r.IntOrNull("weight_lb"),
            r.IntOrNull("temperature_f"),
            r.IntOrNull("length_in"),
            r.IntOrNull("width_in"),
            r.IntOrNull("height_in"),
            r.Bool("stackable"),
            r.Bool("hazmat") ? new HazardousLine(r.TextOrNull("hazard_class"), r.TextOrNull("packing_group")) : null
        )
        {
            Bulk = Bulk(r),
            Vehicle = Vehicle(r),
        };

    private static BulkFreight? Bulk(NpgsqlDataReader r) =>
        r.LongOrNull("product_id") is { } id
            ? new BulkFreight(
                id,
                r.Text("product"),
                r.Decimal("gallons"),
                r.Bool("own_compartments"),
                r.Longs("apart"),
                r.Longs("not_after")
            )
            : null;

    private static Vehicle? Vehicle(NpgsqlDataReader r) =>
        r.Null("runs")
            ? null
            : new Vehicle(
                r.IntOrNull("vehicle_year"),
                r.TextOrNull("vehicle_make"),
                r.TextOrNull("vehicle_model"),
                r.TextOrNull("vin"),
                r.TextOrNull("body_style"),
                r.Bool("runs"),
                r.Bool("has_keys")
            );
}
