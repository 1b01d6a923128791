using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Tests.Trips;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>Less-than-truckload rates by freight class: tables from files, loads priced by them, and their invoice.</summary>
public sealed class ByClass(TestBusiness business) : SplitTest(business)
{
    private const string File = "up to miles,class,0,500,1000\r\n6000,70,40.00,36.00,30.00\r\n6000,92.5,50,45,41.5\r\n";

    private static async Task<JsonNode> Table(Caller owner, string name, object? more = null)
    {
        var rates = (await owner.Upload("class-rates/read", Encoding.UTF8.GetBytes(File))).Ok;
        var body = Node(
            new
            {
                name,
                discountPercent = 60,
                minimum = 95,
                surchargePercent = 20,
                rates,
            }
        );
        foreach (var (key, value) in Node(more ?? new { }).AsObject().ToList())
        {
            body[key] = value?.DeepClone();
        }

        return (await owner.Post("class-rates", body)).Ok;
    }

    private static JsonNode Node(object of) => JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(of))!;

    /// <summary>Two pallets of 1,200 lb that are class 92.5 by density, charged by class.</summary>
    private JsonNode Order(string reference, long table, int weight = 1_200)
    {
        var order = Node(Business.Order(reference: reference));
        order["freight"] = Node(new object[] { Pumps(weight) });
        order["charges"] = Node(
            new object[]
            {
                new
                {
                    kind = "line_haul",
                    basis = "by_class",
                    classRatesId = table,
                },
                new
                {
                    kind = "fuel_surcharge",
                    basis = "percent",
                    rate = 20,
                },
            }
        );
        return order;
    }

    private static object Pumps(int weight) =>
        new
        {
            description = "pumps",
            pallets = 2,
            weightLb = weight,
            lengthIn = 48,
            widthIn = 40,
            heightIn = 48,
        };

    private static IEnumerable<string> Amounts(JsonNode sheet) =>
        sheet["sheet"]!["charges"]!.AsArray().Select(c => Word(c!["amount"]!["amount"]));

    [Fact]
    public async Task A_load_is_priced_by_class_keeps_its_rating_and_says_it_on_the_invoice()
    {
        var (owner, broker) = (await Business.As(Role.Owner), await Business.As(Role.Broker));
        var table = (await Table(owner, "Prairie"))["id"]!.GetValue<long>();
        var order = Order("PO class", table);

        // While it is typed: 1,200 lb at 41.50 are 498.00, less 60 % are 199.20; 20 % of that are 39.84.
        var preview = (
            await broker.Post(
                "loads/price",
                new
                {
                    charges = order["charges"],
                    miles = 400,
                    freight = order["freight"],
                }
            )
        ).Ok;
        Assert.Equal(["199.20", "39.84"], preview["charges"]!.AsArray().Select(c => Word(c!["amount"]!["amount"])));
        Assert.Equal("class 92.5: 1,200 lb at 41.50; 60 % discount", Word(preview["charges"]![0]!["rating"]));

        var load = (await broker.Post("loads", order)).Id;
        Assert.Equal(["199.20", "39.84"], Amounts((await broker.Get($"loads/{load}")).Ok));

        // Other rates later do not change the load; an edit of its freight uses them, with the discount it has.
        _ = (
            await owner.Put(
                $"class-rates/{table}",
                new
                {
                    name = "Prairie",
                    discountPercent = 10,
                    minimum = 95,
                    surchargePercent = 20,
                }
            )
        ).Ok;
        Assert.Equal(["199.20", "39.84"], Amounts((await broker.Get($"loads/{load}")).Ok));
        order["freight"]![0]!["weightLb"] = 400;
        order["freight"]![0]!["freightClass"] = 70;
        order["charges"]![0]!["discountPercent"] = 60;
        _ = (await broker.Put($"loads/{load}", order)).Ok;
        // 400 lb at 40.00 are 160.00, less 60 % 64.00: the minimum is charged.
        var sheet = (await broker.Get($"loads/{load}")).Ok;
        Assert.Equal(["95.00", "19.00"], Amounts(sheet));
        Assert.Equal("Prairie", Word(sheet["sheet"]!["charges"]![0]!["rating"]!["table"]));

        var delivered = await Business.Delivered(owner, 2, "moses", more: o =>
            (o["freight"], o["charges"]) = (order["freight"]!.DeepClone(), order["charges"]!.DeepClone())
        );
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { delivered } })).Ok;
        Assert.Equal("114.00", Word(invoice["total"]!["amount"]));
        await using var db = await Business.Db.Source.OpenConnectionAsync();
        Assert.Equal(
            "Line haul (class 70: 400 lb at 40.00; 60 % discount; minimum charge 95.00)",
            await db.One<string>(
                "select l.description from invoice_lines l where l.load_id = @load order by l.seq limit 1",
                ("load", delivered)
            )
        );
    }

    [Fact]
    public async Task What_is_missing_for_a_rating_is_said_with_its_field()
    {
        var (owner, broker) = (await Business.As(Role.Owner), await Business.As(Role.Broker));
        var table = (await Table(owner, "Lakes"))["id"]!.GetValue<long>();
        var dollars = (await Table(owner, "Ontario", new { currency = "CAD" }))["id"]!.GetValue<long>();

        async Task Refused(Action<JsonNode> change, string field, string said)
        {
            var order = Order("PO refused", table);
            change(order);
            var answer = await broker.Post("loads", order);
            Assert.Equal(field, answer.Fields.Single());
            Assert.Contains(said, Word(answer.Body!["errors"]![0]!["message"]), StringComparison.Ordinal);
        }

        await Refused(o => o["freight"]![0]!["pallets"] = null, "charges[0].classRatesId", "freight line 1 has no freight class");
        await Refused(o => o["freight"]![0]!["freightClass"] = 500, "charges[0].classRatesId", "no rate for class 500");
        await Refused(o => o["charges"]![0]!["classRatesId"] = null, "charges[0].classRatesId", "choose the rate table");
        await Refused(o => o["charges"]![0]!["classRatesId"] = dollars, "charges[0].classRatesId", "is in Canadian dollars");
        await Refused(o => o["charges"]![0]!["discountPercent"] = 100, "charges[0].discountPercent", "discount must be from 0 to 99.99");
        await Refused(
            o =>
            {
                o["charges"]![1]!["basis"] = "by_class";
                o["charges"]![1]!["rate"] = null;
                o["charges"]![1]!["classRatesId"] = table;
            },
            "charges[1].basis",
            "only the line haul is rated by class"
        );
    }

    [Fact]
    public async Task A_table_is_exported_as_it_was_read_removed_and_brought_back()
    {
        var owner = await Business.As(Role.Owner);
        var table = await Table(owner, "River");
        using var file = await owner.Http.GetAsync($"/api/class-rates/{table["id"]}/file?format=csv");
        Assert.Equal(
            "Up to miles,Class,0,500,1000\r\n6000,70,40.00,36.00,30.00\r\n6000,92.5,50.00,45.00,41.50\r\n",
            (await file.Content.ReadAsStringAsync()).TrimStart('\uFEFF')
        );

        var rates = new { breaks = table["breaks"], rows = table["rows"] };
        Assert.Equal("name.taken", (await owner.Post("class-rates", new { name = "RIVER", rates })).Code);
        Assert.Equal(["rates"], (await owner.Post("class-rates", new { name = "Bay" })).Fields);
        Assert.Equal(
            "Row 2: “x” must be whole miles from 1 to 6,000.",
            Word((await owner.Upload("class-rates/read", "miles,class,0\nx,70,1"u8.ToArray())).Body!["errors"]![0]!["message"])
        );

        object Active(bool active) => new { name = "River", active };
        _ = (await owner.Put($"class-rates/{table["id"]}", Active(false))).Ok;
        Assert.DoesNotContain((await owner.Get("class-rates")).Ok.AsArray(), t => Word(t!["name"]) == "River");
        _ = (await owner.Put($"class-rates/{table["id"]}", Active(true))).Ok;
        Assert.Contains((await owner.Get("class-rates")).Ok.AsArray(), t => Word(t!["name"]) == "River");

        var roll = await Business.As(Role.Driver);
        Assert.Equal(HttpStatusCode.Forbidden, (await roll.Get("class-rates")).Status);
    }
}
