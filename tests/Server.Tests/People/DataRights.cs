using System.Net;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.People;

/// <summary>What each role may see is all that it is sent, whichever endpoint it asks.</summary>
public class DataRights(TestBusiness business) : IClassFixture<TestBusiness>
{
    /// <summary>Rights whose endpoints are about money as such: whoever has them sees its amounts.</summary>
    private static readonly Right[] MoneyRights =
    [
        Right.BillingSee,
        Right.BillingInvoice,
        Right.BillingReceive,
        Right.PayingSee,
        Right.PayingEnter,
        Right.PayingApprove,
        Right.PayingPay,
        Right.PayingAgree,
        Right.WagesSee,
        Right.LedgerSee,
        Right.LedgerPost,
        Right.LedgerClose,
        Right.TripsOwn,
        Right.SetupEdit,
        Right.LoadsBook,
        Right.HoldsOverride,
    ];

    [Fact]
    public void Every_amount_in_a_response_has_a_right()
    {
        var open = new List<string>();
        foreach (var endpoint in business.Servers[0].Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            if (endpoint.Metadata.GetMetadata<NeedsRight>()?.Right is not { } right || MoneyRights.Contains(right))
            {
                continue;
            }

            foreach (
                var type in endpoint
                    .Metadata.GetOrderedMetadata<IProducesResponseTypeMetadata>()
                    .Where(p => p.StatusCode < 300)
                    .Select(p => p.Type)
                    .OfType<Type>()
            )
            {
                Look(type, $"{endpoint.RoutePattern.RawText}", [], open);
            }
        }

        // A credit limit, what the company calculates with, and a carrier's insurance are for everyone who sees the address book; the terms
        // of detention are offered to every carrier and customer; cash on delivery is collected by whoever moves the load.
        Assert.DoesNotContain(open.Distinct(), o =>
            !Regex.IsMatch(
                o,
                @"CompanyRow\.CreditLimit|CompanySettings\.|CostFigures\.|AcceptView\.|AcceptCharge\.|CarrierRequirements\.|CarrierFile\.|DetentionTerms\.|CodRow\."
            )
        );
    }

    private static void Look(Type type, string at, HashSet<Type> seen, List<string> open)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        foreach (
            var inner in type.IsGenericType ? type.GetGenericArguments()
            : type.IsArray ? [type.GetElementType()!]
            : []
        )
        {
            Look(inner, at, seen, open);
        }

        if (type.Namespace?.StartsWith("SteadyLark", StringComparison.Ordinal) != true || type.IsEnum || !seen.Add(type))
        {
            return;
        }

        foreach (
            var property in type.GetProperties()
                .Where(p => p.GetIndexParameters().Length == 0 && p.GetCustomAttributes(typeof(SeenWithAttribute), true).Length == 0)
        )
        {
            var held = Nullable.GetUnderlyingType(property.PropertyType) ?? property.PropertyType;
            if (held == typeof(Money) || held == typeof(Margin))
            {
                open.Add($"{at}: {type.Name}.{property.Name}");
            }
            else if (property.DeclaringType == type)
            {
                Look(property.PropertyType, at, seen, open);
            }
        }
    }

    /// <summary>A customer's rate, what a carrier is paid, and what a driver is paid: figures that appear nowhere else.</summary>
    private const string Rate = "7123.17",
        RateSaid = "7,123.17",
        CarrierPay = "5432.19",
        CarrierPaySaid = "5,432.19",
        Advance = "317.77";

    /// <summary>Loads, documents, emails, bills and pay with those figures in them.</summary>
    private async Task<(long Hauled, long Driven, long Invoice, List<long> Documents, List<long> Emails)> World()
    {
        var owner = await business.As(Role.Owner);
        var booked = (await owner.Post("loads", business.Order(6, "PO trimmed", 7123.17m - 198.09m))).Id;
        _ = (
            await owner.Post($"loads/{booked}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(5432.19m)))
        ).Ok;
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(1, "PO delivered", 7123.17m - 198.09m)))!;
        order["stops"]![0]!["from"] = "2026-11-19T06:00:00";
        order["stops"]![1]!["from"] = "2026-11-19T17:00:00";
        var driven = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{driven}/cover/driver", business.Crew("lena"))).Ok;
        var stops = (await owner.Get($"loads/{driven}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        _ = (await owner.Post($"loads/{driven}/stops/{stops[0]}", new { @event = "left", at = "2026-11-19T14:00:00Z" })).Ok;
        _ = (
            await owner.Post(
                $"loads/{driven}/stops/{stops[1]}",
                new
                {
                    @event = "delivered",
                    at = "2026-11-20T01:00:00Z",
                    receivedBy = "R. Dahl",
                }
            )
        ).Ok;
        using var page = new SteadyLark.Server.Documents.PdfPage("POD", "test");
        page.Line("Received");
        var pdf = page.Save();
        _ = (await owner.Upload($"loads/{driven}/documents?kind=pod&name=pod.pdf", pdf)).Ok;
        _ = (await owner.Upload($"loads/{booked}/documents?kind=carrier_bill&name=carrier-bill.pdf", pdf)).Ok;
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { driven }, mailTo = "pay@snowberry.example" })).Id;
        _ = (await owner.Pay("advances", new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(317.77m) })).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        return (
            booked,
            driven,
            invoice,
            await db.Rows("select id from documents", r => r.GetInt64(0)),
            await db.Rows("select id from emails", r => r.GetInt64(0))
        );
    }

    private Task<Dictionary<string, string>> Everything(
        Caller caller,
        (long Hauled, long Driven, long Invoice, List<long> Documents, List<long> Emails) world
    ) =>
        Reading.Everything(
            business,
            caller,
            [
                world.Hauled,
                world.Driven,
                world.Invoice,
                business.Ids["customer"],
                business.Ids["carrier"],
                business.Ids["lena"],
                business.Ids["lena truck"],
            ],
            world.Documents,
            world.Emails
        );

    private static IEnumerable<string> Holding(Dictionary<string, string> answers, params string[] figures) =>
        Reading.Holding(answers, figures);

    [Fact]
    public async Task Nobody_receives_figures_names_or_files_beyond_their_rights()
    {
        var world = await World();
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var rateConfirmation = await business.RateConfirmation();
        var carrierBill = await db.One<long>("select id from documents where kind = 'carrier_bill' limit 1");
        var invoiceMail = await db.One<long>("select id from emails where purpose = 'invoice' limit 1");
        var confirmationMail = await db.One<long>("select id from emails where purpose = 'rate_confirmation' limit 1");

        // The owner finds all of it: the figures are there to be found.
        var owner = await Everything(await business.As(Role.Owner), world);
        Assert.True(Holding(owner, Rate, RateSaid).Count() > 6, string.Join(", ", Holding(owner, Rate, RateSaid)));
        Assert.True(Holding(owner, CarrierPay, CarrierPaySaid).Count() > 4);
        Assert.NotEmpty(Holding(owner, Advance));
        Assert.Contains($"emails/{invoiceMail}", owner.Keys);

        // A dispatcher sees rates and margins, but neither pay nor invoices.
        var dispatcher = await Everything(await business.As(Role.Dispatcher), world);
        Assert.Empty(Holding(dispatcher, Advance));
        Assert.DoesNotContain($"emails/{invoiceMail}", dispatcher.Keys);
        Assert.DoesNotContain(dispatcher.Keys, k =>
            k.StartsWith("invoices", StringComparison.Ordinal)
            || k.StartsWith("settlements", StringComparison.Ordinal)
            || k.StartsWith("bills", StringComparison.Ordinal)
        );
        Assert.Contains($"documents/{rateConfirmation}/file", dispatcher.Keys);

        // Someone who only moves freight sees no figure at all.
        var boss = await business.As(Role.Owner);
        _ = (
            await boss.Post(
                "roles",
                new
                {
                    name = "Yard",
                    rights = new[]
                    {
                        "loads.see",
                        "loads.roll",
                        "loads.cover",
                        "companies.see",
                        "fleet.see",
                        "documents.see",
                        "outside.use",
                    },
                }
            )
        ).Ok;
        await db.Run("update users set role_id = (select id from roles where name = 'Yard') where login = 'read_only'");
        var yard = await business.As(Role.ReadOnly);
        var seen = await Everything(yard, world);
        Assert.True(seen.Count > 25, $"only {seen.Count} answers");
        Assert.Empty(Holding(seen, Rate, RateSaid, CarrierPay, CarrierPaySaid, Advance));
        Assert.DoesNotContain($"documents/{rateConfirmation}/file", seen.Keys);
        Assert.DoesNotContain($"documents/{carrierBill}/file", seen.Keys);
        Assert.DoesNotContain($"emails/{invoiceMail}", seen.Keys);
        Assert.DoesNotContain($"emails/{confirmationMail}", seen.Keys);
        Assert.Empty(Holding(seen, "rate-confirmation-", "carrier-bill.pdf"));
        // The load is there, and its history, without the amounts.
        var sheet = (await yard.Get($"loads/{world.Hauled}")).Ok;
        Assert.Contains(sheet["events"]!.AsArray(), e =>
            e!["summary"]!.GetValue<string>().Contains("assigned to Two Forks Trucking for $–", StringComparison.Ordinal)
        );
        Assert.Null(sheet["sheet"]!["load"]!["revenue"]);

        // A driver gets their own and nobody else's.
        var driver = await Everything(await business.As(Role.Driver), world);
        Assert.Empty(Holding(driver, Rate, RateSaid, CarrierPay, CarrierPaySaid, Advance, "PO trimmed", "PO delivered"));
    }

    [Fact]
    public async Task Hidden_columns_cannot_be_filtered_sorted_or_exported()
    {
        var boss = await business.As(Role.Owner);
        _ = (await boss.Post("roles", new { name = "Board", rights = new[] { "loads.see" } })).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update users set role_id = (select id from roles where name = 'Board') where login = 'bookkeeper'");
        var board = await business.As(Role.Bookkeeper);
        var columns = (await board.Get("lists/loads")).Ok["columns"]!.AsArray().Select(c => c!["id"]!.GetValue<string>()).ToList();
        _ = (await (await business.As(Role.Owner)).Post("loads", business.Order(7, "PO hidden"))).Ok;
        var hidden = ListCatalog.Loads.Needs.Keys.ToList();
        Assert.Contains("driver_pay", hidden);
        Assert.Empty(columns.Intersect(hidden));
        foreach (var column in hidden)
        {
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await board.Keys("loads", ListCalls.Where(column, "filled"))).Status);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await board.Keys("loads", new { sorts = new[] { new { column } } })).Status);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await board.Keys("loads", new { groups = new[] { new { column } } })).Status);
        }

        Assert.Equal(["id"], (await board.RowsOf("loads", null, [.. hidden]))[0].AsObject().Select(p => p.Key));
        Assert.Empty((await board.TotalsOf("loads", null, [.. hidden]))["all"]!["totals"]!.AsObject());
        Assert.Equal(
            "\uFEFFLoad,State,Customer",
            System.Text.Encoding.UTF8.GetString(await board.ExportOf("loads", null, "csv", [.. hidden]))[..20]
        );
    }

    [Fact]
    public async Task Editing_a_load_without_seeing_its_charges_keeps_them()
    {
        var boss = await business.As(Role.Owner);
        JsonNode Order(string reference) => JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(7, reference)))!;
        var first = Order("PO kept");
        foreach (
            var charge in JsonNode
                .Parse(
                    """
                    [{"kind":"discount","amount":{"amount":"12.50","currency":"USD"}},
                     {"kind":"other","description":"residential delivery","basis":"per_cwt","rate":0.01,"minimum":65,"authorization":{"by":"A. Dahl"}}]
                    """
                )!
                .AsArray()
        )
        {
            first["charges"]!.AsArray().Add(charge!.DeepClone());
        }

        var load = (await boss.Post("loads", first)).Id;
        var before = (await boss.Get($"loads/{load}")).Ok["sheet"]!["charges"]!.AsArray();
        _ = (await boss.Post("roles", new { name = "Planner", rights = new[] { "loads.see", "loads.book", "companies.see" } })).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update users set role_id = (select id from roles where name = 'Planner') where login = 'broker'");
        var planner = await business.As(Role.Broker);
        var order = Order("PO kept, changed");
        order["charges"] = new JsonArray();
        _ = (await planner.Put($"loads/{load}", order)).Ok;
        var after = (await boss.Get($"loads/{load}")).Ok["sheet"]!;
        Assert.Equal("PO kept, changed", after["load"]!["reference"]!.GetValue<string>());
        Assert.Equal("1351.09", after["load"]!["revenue"]!["amount"]!.GetValue<string>());
        // All of each charge: a discount, a minimum and who authorized it too.
        static string Kept(JsonNode? charge)
        {
            var kept = charge!.DeepClone().AsObject();
            kept.Remove("id");
            return kept.ToJsonString();
        }

        Assert.Equal(4, before.Count);
        Assert.Equal(before.Select(Kept), after["charges"]!.AsArray().Select(Kept));
    }
}
