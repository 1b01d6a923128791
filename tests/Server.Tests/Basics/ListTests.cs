using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>Lists: all rows in their order, filtered, sorted, read, exported and kept as views.</summary>
public class ListTests(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static readonly string[] Numbers = ["L-1", "L-2", "L-3", "L-4"];

    private async Task<Caller> Stocked()
    {
        var owner = await business.As(Role.Owner);
        for (var i = 0; i < Numbers.Length; i++)
        {
            var order = JsonNode.Parse(
                System.Text.Json.JsonSerializer.Serialize(business.Order(1 + i, $"PO list {i}", 500m + (i * 250m)))
            )!;
            order["number"] = Numbers[i];
            order["freight"]![0]!["description"] = i == 2 ? "=1+1" : "butter";
            _ = await owner.Post("loads", order);
        }

        return owner;
    }

    private static async Task<string[]> Ask(Caller c, object query) =>
        (await c.RowsOf("loads", query, ["number"]))
            .Select(r => r["number"]!.GetValue<string>())
            .Where(n => n.StartsWith("L-", StringComparison.Ordinal))
            .ToArray();

    private static object Filter(string column, string op, params string[] values) =>
        new { filters = new[] { ListCalls.Filter(column, op, values) }, sorts = new[] { new { column = "number", descending = false } } };

    [Fact]
    public async Task Rows_are_filtered_and_sorted()
    {
        var owner = await Stocked();
        Assert.Equal(Numbers, await Ask(owner, Filter("state", "is", "booked", "draft")));
        Assert.Empty(await Ask(owner, Filter("state", "not", "booked")));
        Assert.Equal(["L-3", "L-4"], await Ask(owner, Filter("revenue", "from", "1,198.09")));
        Assert.Equal(["L-2"], await Ask(owner, Filter("pickup", "is", "2026-11-25")));
        Assert.Equal(["L-1", "L-2"], await Ask(owner, Filter("pickup", "until", "2026-11-25")));
        Assert.Equal(["L-1"], await Ask(owner, Filter("pickup", "is", "tomorrow")));
        Assert.Equal(["L-1", "L-2"], await Ask(owner, Filter("pickup", "is", "next 3 days")));
        Assert.Equal(["L-2"], await Ask(owner, Filter("pickup", "is", "2026-11-25 to 2026-11-25")));
        Assert.Equal(Numbers, await Ask(owner, Filter("pickup", "is", "this week")));
        Assert.Equal(["L-2", "L-3", "L-4"], await Ask(owner, Filter("pickup", "not", "tomorrow")));
        Assert.Equal(["L-1"], await Ask(owner, Filter("pickup", "until", "tomorrow")));
        Assert.Empty(await Ask(owner, Filter("booked", "is", "older than 30 days")));
        Assert.Equal(Numbers, await Ask(owner, Filter("booked", "is", "today")));
        Assert.Equal(Numbers, await Ask(owner, Filter("invoice", "empty")));
        Assert.Equal(["L-1", "L-3"], await Ask(owner, Filter("number", "is", "l-3", "L-1")));
        Assert.Equal(["L-1", "L-2"], await Ask(owner, Filter("pickup", "is", "tomorrow", "2026-11-25")));
        Assert.Equal(["L-2", "L-4"], await Ask(owner, Filter("number", "not", "L-3", "L-1")));
        Assert.Equal(Numbers, await Ask(owner, Filter("hazmat", "is", "no")));
        Assert.Equal(["L-3"], await Ask(owner, Filter("freight", "has", "=1")));
        Assert.Equal(
            Numbers.Reverse(),
            await Ask(owner, new { text = "snowberry list", sorts = new[] { new { column = "revenue", descending = true } } })
        );
        Assert.Equal(["L-4"], await Ask(owner, new { text = "L-4" }));
    }

    [Fact]
    public async Task An_appointment_is_shown_filtered_and_exported_in_the_time_of_its_stop()
    {
        var owner = await business.As(Role.Owner);
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(5, "PO zones")))!;
        order["number"] = "Z-1";
        // 23:30 in Spokane (Pacific) is the next day in the company's Mountain time.
        order["stops"]![1]!["from"] = "2026-11-28T23:30:00";
        _ = (await owner.Post("loads", order)).Ok;
        Task<List<JsonNode>> Rows(object query)
        {
            return owner.RowsOf("loads", query, ["pickup", "delivery", "booked"]);
        }

        var row = Assert.Single(await Rows(new { text = "Z-1" }))!;
        Assert.Equal("2026-11-28T23:30:00", row["delivery"]!.GetValue<string>());
        Assert.Equal("2026-11-28T06:00:00", row["pickup"]!.GetValue<string>());
        Assert.EndsWith("+00:00", row["booked"]!.GetValue<string>(), StringComparison.Ordinal);
        object On(string op, string day) => new { text = "Z-1", filters = new[] { ListCalls.Filter("delivery", op, day) } };
        Assert.Single(await Rows(On("is", "2026-11-28")));
        Assert.Empty(await Rows(On("is", "2026-11-29")));
        Assert.Single(await Rows(On("until", "2026-11-28")));
        Assert.Empty(await Rows(On("from", "2026-11-29")));
        Assert.Single(await Rows(On("not", "2026-11-29")));
        Assert.Empty(await Rows(On("not", "2026-11-28")));
        var csv = Encoding.UTF8.GetString(await owner.ExportOf("loads", new { text = "Z-1" }, "csv", "number", "delivery"));
        Assert.Contains("Z-1,2026-11-28 23:30", csv, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_migration_beside_a_running_server_costs_a_request_at_most()
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Get("custom-fields")).Ok;
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            // What was prepared as "select *" has another result now.
            await db.Run("alter table custom_fields add column spare text");
        }

        var statuses = new List<HttpStatusCode>();
        for (var i = 0; i < 8; i++)
        {
            statuses.Add((await owner.Get("custom-fields")).Status);
        }

        Assert.All(statuses, s => Assert.True(s is HttpStatusCode.OK or HttpStatusCode.ServiceUnavailable, $"{s}"));
        Assert.Equal(HttpStatusCode.OK, statuses[^1]);
        Assert.InRange(statuses.Count(s => s == HttpStatusCode.ServiceUnavailable), 0, 2);
    }

    [Fact]
    public async Task Invalid_filters_name_their_field()
    {
        var owner = await business.As(Role.Owner);
        foreach (
            var (column, op, value, field) in new[]
            {
                ("pickup", "from", "soon", "values[0]"),
                ("revenue", "has", "1", "values[0]"),
                ("number; drop table loads", "is", "1", "column"),
                ("hazmat", "is", "perhaps", "values[0]"),
            }
        )
        {
            Assert.Equal([$"query.filters[0].{field}"], (await owner.Keys("loads", ListCalls.Where(column, op, value))).Fields);
        }

        Assert.Equal(["query.sorts[0].column"], (await owner.Keys("loads", new { sorts = new[] { new { column = "1; --" } } })).Fields);
        Assert.Equal(["count"], (await owner.Post("lists/loads/rows", new { count = 501, columns = new[] { "number" } })).Fields);
        Assert.Equal(["from"], (await owner.Post("lists/loads/rows", new { from = -1, columns = new[] { "number" } })).Fields);
        Assert.Equal(["columns"], (await owner.Post("lists/loads/totals", new { })).Fields);
        Assert.Equal(["format"], (await owner.Post("lists/loads/export", new { format = "pdf" })).Fields);
        var many = Enumerable.Range(1, 20_001);
        Assert.Equal(["query.only"], (await owner.Keys("loads", new { only = many })).Fields);
    }

    [Fact]
    public async Task A_list_is_exported_as_csv_and_as_a_workbook_and_no_text_becomes_a_formula()
    {
        var owner = await Stocked();
        Task<byte[]> Export(string format) =>
            owner.ExportOf(
                "loads",
                new { text = "list", sorts = new[] { new { column = "number" } } },
                format,
                ["number", "freight", "revenue", "pickup"]
            );

        var lines = Encoding.UTF8.GetString(await Export("csv")).TrimStart('\uFEFF').Split("\r\n");
        Assert.Equal("Load,Freight,Revenue,Pickup", lines[0]);
        Assert.Equal("L-1,butter,698.09,2026-11-24 06:00", lines[1]);
        Assert.StartsWith("L-3,\"'=1+1\",1198.09", lines[3], StringComparison.Ordinal);
        using var workbook = new ZipArchive(new MemoryStream(await Export("xlsx")));
        using var sheet = new StreamReader(workbook.GetEntry("xl/worksheets/sheet1.xml")!.Open());
        var xml = await sheet.ReadToEndAsync();
        Assert.Contains("698.09", xml, StringComparison.Ordinal);
        Assert.DoesNotContain("<x:f>", xml, StringComparison.Ordinal);
        Assert.DoesNotContain("<f>", xml, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Saved_views_belong_to_their_user_until_they_are_shared()
    {
        var (owner, broker) = (await business.As(Role.Owner), await business.As(Role.Broker));
        Task<Answer> Save(string name, string text, bool shared) =>
            owner.Post(
                "lists/loads/views",
                new
                {
                    name,
                    shared,
                    definition = new { text },
                }
            );
        async Task<List<JsonNode>> Views(Caller c) => (await c.Get("lists/loads")).Ok["views"]!.AsArray().Select(v => v!).ToList();
        var id = (await Save("Spokane", "spokane", false)).Id;
        Assert.Equal(id, (await Save("spokane", "spokane wa", false)).Id);
        Assert.Equal("spokane wa", (await Views(owner)).Single()["definition"]!["text"]!.GetValue<string>());
        Assert.Empty(await Views(broker));

        _ = (await Save("spokane", "spokane wa", true)).Ok;
        var seen = Assert.Single(await Views(broker));
        Assert.False(seen["own"]!.GetValue<bool>());
        Assert.Equal((await owner.Get("session")).Ok["name"]!.GetValue<string>(), seen["by"]!.GetValue<string>());
        // The same name is another view for another user, and only its own user deletes one.
        _ = (await broker.Post("lists/loads/views", new { name = "Spokane", definition = new { text = "mine" } })).Ok;
        Assert.Equal(2, (await Views(broker)).Count);
        Assert.Equal(HttpStatusCode.NotFound, (await broker.Post($"lists/loads/views/{id}/delete")).Status);
        _ = (await owner.Post($"lists/loads/views/{id}/delete")).Ok;
        Assert.Equal("mine", Assert.Single(await Views(broker))["definition"]!["text"]!.GetValue<string>());
        Assert.Equal(HttpStatusCode.Forbidden, (await broker.Keys("bills")).Status);
    }

    [Fact]
    public async Task Every_column_of_every_list_can_be_read_filtered_sorted_and_grouped_by()
    {
        var owner = await Stocked();
        _ = (await owner.Post("custom-fields", new { name = "Cost center", kind = "number" })).Ok;
        _ = (await owner.Post("custom-fields", new { name = "Dock date", kind = "date" })).Ok;
        foreach (var list in ListCatalog.All)
        {
            var columns = (await owner.Get($"lists/{list.Name}")).Ok["columns"]!.AsArray().Select(c => c!).ToList();
            var ids = columns.Select(c => c["id"]!.GetValue<string>()).ToArray();
            Assert.True(ids.Length >= list.Columns.Count);
            foreach (var column in columns)
            {
                var value = column["kind"]!.GetValue<string>() switch
                {
                    "number" or "money" => "1",
                    "date" or "time" => "2026-11-23",
                    "yes_no" => "yes",
                    _ => "a",
                };
                var id = column["id"]!.GetValue<string>();
                foreach (var op in new[] { "is", "not", "empty", "filled" })
                {
                    var values = op is "empty" or "filled" ? [] : new[] { value, value };
                    var query = new
                    {
                        filters = new[] { ListCalls.Filter(id, op, values) },
                        sorts = new[] { new { column = id, descending = true } },
                    };
                    _ = await owner.KeysOf(list.Name, query);
                }

                var groups = new[] { new { column = id } };
                var totals = await owner.TotalsOf(list.Name, new { groups }, ids);
                var counted = totals["groups"]!.AsArray().Sum(g => g!["sums"]!["count"]!.GetValue<long>());
                Assert.Equal(totals["all"]!["count"]!.GetValue<long>(), counted);
            }

            _ = await owner.RowsOf(list.Name, null, ids);
        }
    }

    [Fact]
    public async Task Rows_by_position_are_the_list_in_its_order_and_groups_stand_together()
    {
        var owner = await Stocked();
        var query = new
        {
            groups = new object[] { new { column = "pickup", period = "day" }, new { column = "equipment" } },
            sorts = new[] { new { column = "revenue", descending = true } },
        };
        var keys = await owner.KeysOf("loads", query);
        var pages = new List<long>();
        for (var from = 0; from <= keys.Count; from += 2)
        {
            pages.AddRange((await owner.RowsOf("loads", query, ["pickup"], from, 2)).Select(r => r["id"]!.GetValue<long>()));
        }

        Assert.Equal(keys, pages);
        var rows = await owner.RowsOf("loads", query, ["pickup", "equipment", "revenue"]);
        var totals = await owner.TotalsOf("loads", query, "revenue", "per_mile", "number");
        var inner = totals["groups"]!.AsArray().Where(g => g!["values"]!.AsArray().Count == 2).ToList();
        var at = 0;
        foreach (var group in inner)
        {
            var count = group!["sums"]!["count"]!.GetValue<int>();
            var part = rows.Skip(at).Take(count).ToList();
            Assert.All(part, r =>
                Assert.StartsWith(group["values"]![0]!.GetValue<string>(), r["pickup"]!.GetValue<string>(), StringComparison.Ordinal)
            );
            Assert.All(part, r => Assert.Equal(group["values"]![1]!.GetValue<string>(), r["equipment"]!.GetValue<string>()));
            Assert.Equal(part.Sum(r => r["revenue"]!.GetValue<decimal>()), group["sums"]!["totals"]!["revenue"]!.GetValue<decimal>());
            at += count;
        }

        Assert.Equal(keys.Count, at);
        Assert.Equal(rows.Sum(r => r["revenue"]!.GetValue<decimal>()), totals["all"]!["totals"]!["revenue"]!.GetValue<decimal>());
        // The newest day comes first; the number does not add up.
        var days = totals["groups"]!
            .AsArray()
            .Where(g => g!["values"]!.AsArray().Count == 1)
            .Select(g => g!["values"]![0]!.GetValue<string>())
            .ToList();
        Assert.Equal(days.OrderDescending(StringComparer.Ordinal), days);
        Assert.Null(totals["all"]!["totals"]!["number"]);
    }

    [Fact]
    public async Task A_load_is_found_by_whatever_was_written_on_it()
    {
        var owner = await business.As(Role.Owner);
        var field = (
            await owner.Post(
                "custom-fields",
                new
                {
                    name = "Lane group",
                    kind = "choice",
                    choices = new[] { "North", "South" },
                }
            )
        ).Id;
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(6, "PO columns")))!;
        order["number"] = "C-1";
        order["references"] = new JsonArray(
            new JsonObject { ["kind"] = "seal", ["value"] = "SEAL-77" },
            new JsonObject { ["kind"] = "bill_of_lading", ["value"] = "BOL 1" },
            new JsonObject { ["kind"] = "bill_of_lading", ["value"] = "BOL 2" }
        );
        order["customFields"] = new JsonArray(new JsonObject { ["fieldId"] = field, ["value"] = "South" });
        order["driverInstructions"] = "Use the north gate";
        var id = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{id}/cover/driver", business.Crew("lena"))).Ok;
        var row = Assert.Single(
            await owner.RowsOf(
                "loads",
                new { only = new[] { id } },
                [
                    "customer",
                    "customer_city",
                    "seal",
                    "bill_of_lading",
                    "driver",
                    "truck",
                    "trip",
                    "carrier",
                    "line_haul",
                    "revenue",
                    "margin",
                    "cost",
                    $"custom_{field}",
                ]
            )
        );
        Assert.Equal(("SEAL-77", "BOL 1, BOL 2"), (row["seal"]!.GetValue<string>(), row["bill_of_lading"]!.GetValue<string>()));
        Assert.Equal("South", row[$"custom_{field}"]!.GetValue<string>());
        Assert.Null(row["carrier"]);
        Assert.Equal(row["revenue"]!.GetValue<decimal>() - row["cost"]!.GetValue<decimal>(), row["margin"]!.GetValue<decimal>());
        foreach (
            var filter in new[]
            {
                ListCalls.Filter("seal", "has", "seal-7"),
                ListCalls.Filter("bill_of_lading", "has", "no such", "bol 2"),
                ListCalls.Filter("driver", "is", row["driver"]!.GetValue<string>(), "Somebody"),
                ListCalls.Filter("truck", "is", row["truck"]!.GetValue<string>()),
                ListCalls.Filter($"custom_{field}", "is", "south"),
                ListCalls.Filter("driver_instructions", "has", "north gate"),
            }
        )
        {
            Assert.Equal([id], await owner.KeysOf("loads", new { text = "C-1", filters = new[] { filter } }));
        }

        Assert.Empty(
            await owner.KeysOf("loads", new { text = "C-1", filters = new[] { ListCalls.Filter($"custom_{field}", "not", "South") } })
        );
        var described = (await owner.Get("lists/loads")).Ok;
        Assert.Equal(["North", "South"], described["options"]![$"custom_{field}"]!.AsArray().Select(o => o!.GetValue<string>()));
    }
}
