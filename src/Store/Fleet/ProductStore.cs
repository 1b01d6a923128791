using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Fleet;

/// <summary>The company's lists of products and body styles.</summary>
public static class ProductStore
{
    /// <summary>The products of the list, in its order, with how many loads of each are not delivered.</summary>
    public static Task<List<Product>> All(NpgsqlConnection db) =>
        db.Rows(
            """
            select p.*, array(select o.name from product_rules r join products o on o.id = r.other_id where r.product_id = p.id and r.rule = 'apart'
                    order by o.seq) as apart,
                array(select o.name from product_rules r join products o on o.id = r.other_id where r.product_id = p.id and r.rule = 'wash'
                    order by o.seq) as not_after,
                (select count(distinct l.id)::int from freight_lines f join loads l on l.id = f.load_id where f.product_id = p.id
                    and l.state in ('draft', 'booked', 'tendered', 'covered', 'rolling')) as loads
            from products p where p.active order by p.seq, p.id
            """,
            r => new Product(
                r.Long("id"),
                r.Text("name"),
                r.Decimal("lb_per_gallon"),
                r.IntOrNull("temperature_f"),
                r.Bool("own_compartments"),
                r.Texts("apart"),
                r.Texts("not_after"),
                r.Int("loads")
            )
        );

    /// <summary>Replaces the list: products keep their id, and those that are left out are inactive from now on.</summary>
    public static async Task Set(NpgsqlConnection db, IReadOnlyList<Product> list)
    {
        // Names may be swapped.
        await db.Run("update products set active = false where active; delete from product_rules");
        var ids = new Dictionary<string, long>();
        for (var i = 0; i < list.Count; i++)
        {
            var p = list[i];
            ids[p.Name] = await db.One<long>(
                p.Id == 0
                    ? """
                    insert into products (name, lb_per_gallon, temperature_f, own_compartments, seq)
                    values (@name, @density, @temperature, @own, @seq) returning id
                    """
                    : """
                    update products set name = @name, lb_per_gallon = @density, temperature_f = @temperature, own_compartments = @own, seq = @seq,
                        active = true where id = @id returning id
                    """,
                ("id", p.Id),
                ("name", p.Name),
                ("density", p.LbPerGallon),
                ("temperature", p.TemperatureF),
                ("own", p.OwnCompartments),
                ("seq", i + 1)
            );
        }

        var rules = list.SelectMany(p =>
                p.Apart.Select(o => (Of: p.Name, Other: o, Rule: "apart"))
                    .Concat(p.NotAfter.Select(o => (Of: p.Name, Other: o, Rule: "wash")))
            )
            .ToList();
        await db.Run(
            "insert into product_rules (product_id, other_id, rule) select * from unnest(@of::bigint[], @others::bigint[], @rules::text[])",
            ("of", rules.Select(r => ids[r.Of]).ToArray()),
            ("others", rules.Select(r => ids[r.Other]).ToArray()),
            ("rules", rules.Select(r => r.Rule).ToArray())
        );
    }

    /// <summary>The table of body styles, in its order.</summary>
    public static Task<List<BodyStyle>> BodyStyles(NpgsqlConnection db) =>
        db.Rows("select * from body_styles order by seq, name", r => new BodyStyle(
            r.Text("name"),
            r.Int("length_in"),
            r.Int("width_in"),
            r.Int("height_in"),
            r.Int("weight_lb")
        ));

    /// <summary>Replaces the table of body styles.</summary>
    public static async Task SetBodyStyles(NpgsqlConnection db, IReadOnlyList<BodyStyle> styles)
    {
        await db.Run("delete from body_styles");
        await db.Run(
            """
            insert into body_styles (name, length_in, width_in, height_in, weight_lb, seq)
            select n, l, w, h, lb, at from unnest(@names, @lengths, @widths, @heights, @weights) with ordinality as s (n, l, w, h, lb, at)
            """,
            ("names", styles.Select(s => s.Name).ToArray()),
            ("lengths", styles.Select(s => s.LengthIn).ToArray()),
            ("widths", styles.Select(s => s.WidthIn).ToArray()),
            ("heights", styles.Select(s => s.HeightIn).ToArray()),
            ("weights", styles.Select(s => s.WeightLb).ToArray())
        );
    }
}
