using System.IO.Compression;
using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using SteadyLark.Core.Basics;
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

    private static async Task<string[]> Ask(Caller c, object query)
    {
        var keys = (await c.Post("lists/loads/keys", query)).Ok["keys"]!.AsArray().Select(k => k!.GetValue<long>()).ToList();
        return (await c.Post("lists/loads/rows", new { keys, columns = new[] { "number" } }))
            .Ok.AsArray()
            .Select(r => r!["number"]!.GetValue<string>())
            .Where(n => n.StartsWith("L-", StringComparison.Ordinal))
            .ToArray();
    }

    private static async Task<byte[]> Export(Caller c, object query)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/lists/loads/export") { Content = JsonContent.Create(query) };
        request.Headers.Add("X-Lark-Token", c.Token);
        using var answer = await c.Http.SendAsync(request);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        return await answer.Content.ReadAsByteArrayAsync();
    }

    private static object Filter(string column, string op, string? value = null) =>
        new
        {
            filters = new[]
            {
                new
                {
                    column,
                    op,
                    value,
                },
            },
            sorts = new[] { new { column = "number", descending = false } },
        };

    [Fact]
    public async Task Rows_are_filtered_and_sorted()
    {
        var owner = await Stocked();
        Assert.Equal(Numbers, await Ask(owner, Filter("state", "is", "booked, draft")));
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
        async Task<JsonArray> Rows(object query)
        {
            var keys = (await owner.Post("lists/loads/keys", query)).Ok["keys"]!.AsArray().Select(k => k!.GetValue<long>());
            return (await owner.Post("lists/loads/rows", new { keys, columns = new[] { "pickup", "delivery", "booked" } })).Ok.AsArray();
        }

        var row = Assert.Single(await Rows(new { text = "Z-1" }))!;
        Assert.Equal("2026-11-28T23:30:00", row["delivery"]!.GetValue<string>());
        Assert.Equal("2026-11-28T06:00:00", row["pickup"]!.GetValue<string>());
        Assert.EndsWith("+00:00", row["booked"]!.GetValue<string>(), StringComparison.Ordinal);
        object On(string op, string day) =>
            new
            {
                text = "Z-1",
                filters = new[]
                {
                    new
                    {
                        column = "delivery",
                        op,
                        value = day,
                    },
                },
            };
        Assert.Single(await Rows(On("is", "2026-11-28")));
        Assert.Empty(await Rows(On("is", "2026-11-29")));
        Assert.Single(await Rows(On("until", "2026-11-28")));
        Assert.Empty(await Rows(On("from", "2026-11-29")));
        Assert.Single(await Rows(On("not", "2026-11-29")));
        Assert.Empty(await Rows(On("not", "2026-11-28")));
        var csv = Encoding.UTF8.GetString(
            await Export(
                owner,
                new
                {
                    text = "Z-1",
                    columns = new[] { "number", "delivery" },
                    format = "csv",
                }
            )
        );
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
                ("pickup", "from", "soon", "value"),
                ("revenue", "has", "1", "value"),
                ("number; drop table loads", "is", "1", "column"),
                ("hazmat", "is", "perhaps", "value"),
            }
        )
        {
            Assert.Equal([$"filters[0].{field}"], (await owner.Post("lists/loads/keys", Filter(column, op, value))).Fields);
        }

        Assert.Equal(
            ["sorts[0].column"],
            (await owner.Post("lists/loads/keys", new { sorts = new[] { new { column = "1; --", descending = true } } })).Fields
        );
    }

    [Fact]
    public async Task A_list_is_exported_as_csv_and_as_a_workbook_and_no_text_becomes_a_formula()
    {
        var owner = await Stocked();
        Task<byte[]> Export(string format) =>
            ListTests.Export(
                owner,
                new
                {
                    text = "list",
                    sorts = new[] { new { column = "number", descending = false } },
                    columns = new[] { "number", "freight", "revenue", "pickup" },
                    format,
                }
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
    public async Task Saved_views_belong_to_their_user()
    {
        var (owner, broker) = (await business.As(Role.Owner), await business.As(Role.Broker));
        var id = (await owner.Post("lists/loads/views", new { name = "Spokane", definition = new { text = "spokane" } })).Id;
        Assert.Equal(id, (await owner.Post("lists/loads/views", new { name = "spokane", definition = new { text = "spokane wa" } })).Id);
        var views = (await owner.Get("lists/loads")).Ok["views"]!.AsArray();
        Assert.Equal("spokane wa", views.Single()!["definition"]!["text"]!.GetValue<string>());
        Assert.Empty((await broker.Get("lists/loads")).Ok["views"]!.AsArray());
        Assert.Equal(HttpStatusCode.NotFound, (await broker.Post($"lists/loads/views/{id}/delete")).Status);
        _ = (await owner.Post($"lists/loads/views/{id}/delete")).Ok;
        Assert.Equal(HttpStatusCode.Forbidden, (await broker.Post("lists/bills/keys", new { })).Status);
    }

    [Fact]
    public async Task Every_column_of_every_list_can_be_read_filtered_and_sorted_by()
    {
        var owner = await Stocked();
        foreach (var list in ListStore.All)
        {
            foreach (var column in list.Columns)
            {
                var value = column.Kind switch
                {
                    ColumnKind.Number or ColumnKind.Money => "1",
                    ColumnKind.Date or ColumnKind.Time => "2026-11-23",
                    ColumnKind.YesNo => "yes",
                    _ => "a",
                };
                foreach (var op in new[] { "is", "not", "empty", "filled" })
                {
                    _ = (
                        await owner.Post(
                            $"lists/{list.Name}/keys",
                            new
                            {
                                filters = new[]
                                {
                                    new
                                    {
                                        column = column.Id,
                                        op,
                                        value,
                                    },
                                },
                                sorts = new[] { new { column = column.Id, descending = true } },
                            }
                        )
                    ).Ok;
                }
            }

            var keys = (await owner.Post($"lists/{list.Name}/keys", new { })).Ok["keys"];
            _ = (await owner.Post($"lists/{list.Name}/rows", new { keys, columns = list.Columns.Select(c => c.Id) })).Ok;
        }
    }
}
