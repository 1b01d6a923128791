using System.Net;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>A load between us and a carrier: tendered, answered, dispatched, paid line by line.</summary>
public sealed class Tenders(TestBusiness business) : IClassFixture<TestBusiness>, IAsyncLifetime
{
    /// <summary>Every test begins on the same morning.</summary>
    public Task InitializeAsync()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
        return Task.CompletedTask;
    }

    public Task DisposeAsync() => Task.CompletedTask;

    private static readonly object Ray = new
    {
        driver = "Ray Ostrander",
        phone = "509-555-0142",
        truck = "118",
    };

    private static async Task<JsonNode> Load(Caller owner, long load) => (await owner.Get($"loads/{load}")).Ok["sheet"]!;

    private static async Task<string> State(Caller owner, long load) => (await Load(owner, load))["load"]!["state"]!.GetValue<string>();

    private static async Task<string[]> Said(Caller owner, long load) =>
        [.. (await owner.Get($"loads/{load}")).Ok["events"]!.AsArray().Select(e => e!["summary"]!.GetValue<string>())];

    private static JsonNode Leg(JsonNode sheet) => sheet["legs"]!.AsArray()[^1]!;

    private async Task<(Caller Owner, long Load, string Token)> Tendered(int day, string reference, object? more = null)
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(day, reference))).Id;
        var offer = (JsonObject)JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(more ?? new { }))!;
        offer["carrierId"] = business.Ids["carrier"];
        offer["pay"] ??= JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Usd(900m)));
        _ = (await owner.Post($"loads/{load}/cover/carrier", offer)).Ok;
        return (owner, load, await Link(owner, load, "Rate confirmation"));
    }

    /// <summary>The secret in the newest email about a load whose subject begins so.</summary>
    private async Task<string> Link(Caller owner, long load, string subject)
    {
        business.Clock.Now += Duration.FromSeconds(30);
        var number = (await Load(owner, load))["load"]!["number"]!.GetValue<string>();
        for (var tries = 0; tries < 150; tries++)
        {
            var text = (await owner.Get("outside/emails"))
                .Ok.AsArray()
                .FirstOrDefault(m => m!["subject"]!.GetValue<string>() == $"{subject} for load {number}")
                ?["text"]!.GetValue<string>();
            if (text is not null)
            {
                return Regex.Match(text, "/accept/([0-9a-f]{48})").Groups[1].Value;
            }

            await Task.Delay(100);
        }

        throw new Xunit.Sdk.XunitException($"No email about {number} came within fifteen seconds.");
    }

    [Fact]
    public async Task A_load_is_open_until_the_carrier_accepts_and_leaves_the_dock_once_its_truck_is_known()
    {
        var (owner, load, token) = await Tendered(2, "PO accepts");
        Assert.Equal("tendered", await State(owner, load));
        var open = (await owner.Get("loads?view=open")).Ok["rows"]!.AsArray().Single(l => l!["load"]!["id"]!.GetValue<long>() == load)!;
        Assert.EndsWith("to answer", open["status"]!.GetValue<string>(), StringComparison.Ordinal);
        var stop = (await Load(owner, load))["load"]!["stops"]![0]!["id"];
        Assert.Equal("load.state", (await owner.Post($"loads/{load}/stops/{stop}", new { @event = "arrived" })).Code);
        Assert.Equal("load.state", (await owner.Put($"loads/{load}/dispatch", Ray)).Code);

        var nobody = business.Nobody();
        Assert.Equal("tender.open", (await nobody.Post($"accept/{token}/dispatch", Ray)).Code);
        var accepted = (await nobody.Post($"accept/{token}", new { name = "Jo Ferro" })).Ok;
        Assert.Equal("Jo Ferro", accepted["signedBy"]!.GetValue<string>());
        Assert.Equal("covered", await State(owner, load));

        // The truck may be at the dock, but it does not leave before we know whose it is.
        business.Clock.Now = Instant.FromUtc(2026, 11, 25, 13, 0);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post($"loads/{load}/stops/{stop}", new { @event = "arrived" })).Ok;
        Assert.Equal("carrier.dispatch", (await owner.Post($"loads/{load}/stops/{stop}", new { @event = "left" })).Code);
        Assert.Equal(["driver", "phone", "truck"], (await nobody.Post($"accept/{token}/dispatch", new { trailer = "5302" })).Fields);
        _ = (await nobody.Post($"accept/{token}/dispatch", Ray)).Ok;
        Assert.Equal("118", Leg(await Load(owner, load))["dispatch"]!["truck"]!.GetValue<string>());
        _ = (await owner.Post($"loads/{load}/stops/{stop}", new { @event = "left" })).Ok;
        Assert.Equal("rolling", await State(owner, load));
        var said = await Said(owner, load);
        Assert.Contains(said, s => s.Contains("tendered to Two Forks Trucking for $900.00, answer by", StringComparison.Ordinal));
        Assert.Contains(said, s => s.Contains("at $900.00, signed Jo Ferro", StringComparison.Ordinal));
        Assert.Contains(said, s => s.Contains("sends Ray Ostrander, 509-555-0142, truck 118", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_declined_tender_frees_the_load_and_ends_its_link()
    {
        var (owner, load, token) = await Tendered(3, "PO declines");
        var nobody = business.Nobody();
        Assert.Equal("name", (await nobody.Post($"accept/{token}/decline", new { reason = "no truck" })).Fields.Single());
        var gone = (await nobody.Post($"accept/{token}/decline", new { name = "Jo Ferro", reason = "truck broke down" })).Ok;
        Assert.Contains("declined", gone["closed"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.Equal("tender.declined", (await nobody.Post($"accept/{token}", new { name = "Jo Ferro" })).Code);
        var sheet = await Load(owner, load);
        Assert.Equal("booked", sheet["load"]!["state"]!.GetValue<string>());
        Assert.Empty(Leg(sheet)["charges"]!.AsArray());
        Assert.Null(Leg(sheet)["agreed"]);
        Assert.Contains(await Said(owner, load), s => s.EndsWith("Jo Ferro: truck broke down", StringComparison.Ordinal));

        // Told by phone, the same.
        _ = (await owner.Post($"loads/{load}/cover/carrier", new { carrierId = business.Ids["carrier"], pay = Usd(950m) })).Ok;
        _ = (await owner.Post($"loads/{load}/tender/decline", new { name = "Jo Ferro" })).Ok;
        Assert.Equal("booked", await State(owner, load));
        Assert.Equal("load.state", (await owner.Post($"loads/{load}/tender/decline", new { name = "Jo Ferro" })).Code);
    }

    [Fact]
    public async Task An_unanswered_tender_expires_and_a_late_answer_is_told_so()
    {
        var (owner, load, token) = await Tendered(4, "PO silent");
        var expiry = business.Servers[0].Services.GetServices<IHostedService>().OfType<TenderExpiry>().Single();
        await expiry.ExpireDue();
        Assert.Equal("tendered", await State(owner, load));
        business.Clock.Now += Duration.FromHours(4);
        Assert.Equal("tender.expired", (await business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" })).Code);
        await Task.WhenAll(expiry.ExpireDue(), expiry.ExpireDue());
        Assert.Equal("booked", await State(owner, load));
        Assert.Single(await Said(owner, load), s => s.Contains("did not answer the tender", StringComparison.Ordinal));
        Assert.Equal("tender.expired", (await business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" })).Code);
        _ = (await owner.Post($"loads/{load}/cancel", new { why = "not hauled" })).Ok;
    }

    [Fact]
    public async Task Accepted_by_phone_a_load_is_covered_and_its_confirmation_still_signed()
    {
        var (owner, load, token) = await Tendered(5, "PO by phone");
        _ = (await owner.Post($"loads/{load}/tender/accept", new { name = "Jo Ferro" })).Ok;
        var tender = Leg(await Load(owner, load))["tender"]!;
        Assert.Equal(("phone", null), (tender["acceptedVia"]!.GetValue<string>(), (string?)tender["signedAt"]));
        Assert.Equal("covered", await State(owner, load));
        var nobody = business.Nobody();
        Assert.Equal("tender.accepted", (await nobody.Post($"accept/{token}/decline", new { name = "Jo Ferro" })).Code);
        Assert.Equal("A. Ferro", (await nobody.Post($"accept/{token}", new { name = "A. Ferro" })).Ok["signedBy"]!.GetValue<string>());
        tender = Leg(await Load(owner, load))["tender"]!;
        Assert.Equal(("Jo Ferro", "A. Ferro"), (tender["acceptedBy"]!.GetValue<string>(), tender["signedBy"]!.GetValue<string>()));
        Assert.Equal("tender.accepted", (await nobody.Post($"accept/{token}", new { name = "A. Ferro" })).Code);
    }

    [Fact]
    public async Task One_answer_counts_when_two_come_at_once()
    {
        var (owner, load, token) = await Tendered(6, "PO at once");
        var answers = await Task.WhenAll(
            business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" }),
            business.Nobody().Post($"accept/{token}/decline", new { name = "A. Ferro" }),
            business.Nobody(1).Post($"accept/{token}", new { name = "C. Ferro" })
        );
        Assert.Single(answers, a => (int)a.Status < 300);
        Assert.Equal(answers[1].Status == HttpStatusCode.OK ? "booked" : "covered", await State(owner, load));
    }

    [Fact]
    public async Task A_carrier_that_became_unfit_cannot_accept_and_does_not_read_why()
    {
        var (owner, load, token) = await Tendered(7, "PO unfit");
        var id = business.Ids["carrier"];
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Task Mark(string? why) => db.Run("update carriers set do_not_use = @why where company_id = @id", ("why", why), ("id", id));
        await Mark("stole a load");
        try
        {
            var refused = await business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" });
            Assert.Equal("carrier.unfit", refused.Code);
            Assert.DoesNotContain("stole", refused.Body!.ToJsonString(), StringComparison.Ordinal);
            Assert.Equal("carrier.do.not.use", (await owner.Post($"loads/{load}/tender/accept", new { name = "Jo" })).Code);
        }
        finally
        {
            await Mark(null);
        }

        _ = (await business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" })).Ok;
    }

    [Fact]
    public async Task The_company_sets_what_a_carrier_must_have_and_how_long_it_may_think()
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Put("company-settings", new { minCargo = 100_000, tenderHours = 1 })).Ok;
        try
        {
            var load = (await owner.Post("loads", business.Order(8, "PO insured"))).Id;
            var offer = new { carrierId = business.Ids["carrier"], pay = Usd(900m) };
            Assert.Equal("carrier.cargo.limit", (await owner.Post($"loads/{load}/cover/carrier", offer)).Code);
            _ = (await owner.Put("company-settings", new { minCargo = 0 })).Ok;
            _ = (await owner.Post($"loads/{load}/cover/carrier", offer)).Ok;
            var tender = Leg(await Load(owner, load))["tender"]!;
            Assert.Equal(
                Duration.FromHours(1),
                NodaTime.Text.InstantPattern.ExtendedIso.Parse(tender["expiresAt"]!.GetValue<string>()).Value
                    - NodaTime.Text.InstantPattern.ExtendedIso.Parse(tender["sentAt"]!.GetValue<string>()).Value
            );
            Assert.Equal("tenderHours", (await owner.Put("company-settings", new { tenderHours = 0 })).Fields.Single());
        }
        finally
        {
            _ = (await owner.Put("company-settings", new { minCargo = 0, tenderHours = 4 })).Ok;
        }
    }

    [Fact]
    public async Task Carrier_pay_has_lines_and_a_change_sends_a_revised_confirmation_and_posts_the_difference()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, 1, "carrier");
        var first = await Link(owner, load, "Rate confirmation");
        var before = await Balances(owner);
        object Lines(decimal lumper) =>
            new
            {
                charges = new object[]
                {
                    new { kind = "line_haul", amount = Usd(700m) },
                    new
                    {
                        kind = "lumper",
                        amount = Usd(lumper),
                        authorization = new { by = "R. Dahl", reference = "receipt 88" },
                    },
                },
            };
        Assert.Equal("charges[1].amount", (await owner.Put($"loads/{load}/carrier-pay", Lines(0))).Fields.Single());
        _ = (await owner.Put($"loads/{load}/carrier-pay", Lines(85.50m))).Ok;
        Assert.Equal([85.50m, 85.50m], Changes(before, await Balances(owner), "5000", "2050").Select(Math.Abs));
        var sheet = await Load(owner, load);
        Assert.Equal(785.50m, Amount(Leg(sheet)["agreed"]));
        Assert.Equal(2, Leg(sheet)["tender"]!["revision"]!.GetValue<int>());

        // The earlier link is replaced; the new one shows the lines and is signed.
        var nobody = business.Nobody();
        Assert.Equal("tender.replaced", (await nobody.Post($"accept/{first}", new { name = "Jo" })).Code);
        var second = await Link(owner, load, "Revised rate confirmation");
        var view = (await nobody.Get($"accept/{second}")).Ok;
        Assert.Equal((785.50m, 2, 2), (Amount(view["amount"]), view["charges"]!.AsArray().Count, view["revision"]!.GetValue<int>()));
        _ = (await nobody.Post($"accept/{second}", new { name = "Jo Ferro" })).Ok;
        var confirmations = (await owner.Get($"loads/{load}")).Ok["documents"]!
            .AsArray()
            .Where(d => d!["kind"]!.GetValue<string>() == "rate_confirmation")
            .Select(d => d!["id"]!.GetValue<long>())
            .ToList();
        Assert.Equal(2, confirmations.Count);
        var text = PdfText.Of(await owner.Http.GetByteArrayAsync($"/api/documents/{confirmations.Max()}/file"), "application/pdf");
        foreach (var said in new[] { "revision 2", "Lumper", "85.50", "785.50", "We pay: Two Forks Trucking", "38,400 lb" })
        {
            Assert.Contains(said, text, StringComparison.Ordinal);
        }

        // Once the bill is in, the pay stays: the bill is approved for what is owed. It matches the new amount.
        var leg = Leg(sheet)["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "TF-1",
                    amount = Usd(785.50m),
                }
            )
        ).Ok;
        Assert.Equal(0m, Amount(bill["difference"]));
        Assert.Equal("bill.entered", (await owner.Put($"loads/{load}/carrier-pay", Lines(90m))).Code);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
    }

    [Fact]
    public async Task Waiting_beyond_free_time_is_proposed_with_its_times_until_it_is_charged()
    {
        var owner = await business.As(Role.Owner);
        var customer = business.Ids["customer"];
        var settings = (JsonObject)(await owner.Get($"companies/{customer}/billing-settings")).Ok;
        var body = (JsonObject)settings["settings"]!.DeepClone();
        body["version"] = settings["version"]!.DeepClone();
        body["detention"] = JsonNode.Parse("""{"freeMinutes":120,"perHour":{"amount":"60.00","currency":"USD"}}""");
        _ = (await owner.Put($"companies/{customer}/billing-settings", body)).Ok;
        _ = (await owner.Put("company-settings", new { carrierDetention = 40, carrierFreeMinutes = 180 })).Ok;
        var (_, load, token) = await Tendered(9, "PO waits");
        _ = (await business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" })).Ok;
        _ = (await owner.Put($"loads/{load}/dispatch", Ray)).Ok;
        var stop = (await Load(owner, load))["load"]!["stops"]![0]!;
        var opens = NodaTime.Text.InstantPattern.ExtendedIso.Parse(stop["fromAt"]!.GetValue<string>()).Value;
        business.Clock.Now = opens + Duration.FromHours(5);
        owner = await business.As(Role.Owner);
        foreach (var (what, at) in new[] { ("arrived", opens - Duration.FromMinutes(40)), ("left", opens + Duration.FromHours(4.5)) })
        {
            _ = (await owner.Post($"loads/{load}/stops/{stop["id"]}", new { @event = what, at = at.ToString() })).Ok;
        }

        // Two and a half hours beyond the customer's two, one and a half beyond the carrier's three.
        var view = (await owner.Get($"loads/{load}")).Ok;
        var theirs = view["customerDetention"]!.AsArray().Single()!;
        Assert.Equal((150m, 60m), (Amount(theirs["amount"]), Amount(view["carrierDetention"]!.AsArray().Single()!["amount"])));
        var charge = new
        {
            kind = "detention",
            amount = Usd(150m),
            description = theirs["description"]!.GetValue<string>(),
        };
        Assert.Equal("load.state", (await owner.Pay($"loads/{load}/late-charges", new { charges = new[] { charge } })).Code);
        _ = (await owner.Pay($"loads/{load}/charges", new { charges = new[] { charge } })).Ok;
        view = (await owner.Get($"loads/{load}")).Ok;
        Assert.Empty(view["customerDetention"]!.AsArray());
        Assert.Single(view["carrierDetention"]!.AsArray());
        Assert.Equal(1448.59m, Amount(view["sheet"]!["load"]!["revenue"]));
        Assert.Empty((await (await business.As(Role.ReadOnly)).Get($"loads/{load}")).Ok["customerDetention"]!.AsArray());
    }

    [Fact]
    public async Task A_truck_ordered_and_not_used_is_billed_and_paid_and_the_books_agree()
    {
        var (owner, load, token) = await Tendered(10, "PO not used");
        Assert.Equal("carrierCharge", (await owner.Post($"loads/{load}/cancel", Tonu(250, 200))).Fields.Single());
        _ = (await business.Nobody().Post($"accept/{token}", new { name = "Jo Ferro" })).Ok;
        var before = await Balances(owner);
        _ = (await owner.Post($"loads/{load}/cancel", Tonu(250, 200))).Ok;
        Assert.Equal("tender.withdrawn", (await business.Nobody().Post($"accept/{token}", new { name = "Jo" })).Code);
        Assert.Equal([250m, 200m, 200m], Changes(before, await Balances(owner), "1210", "5000", "2050").Select(Math.Abs));
        var sheet = await Load(owner, load);
        Assert.Equal(("cancelled", 250m), (sheet["load"]!["state"]!.GetValue<string>(), Amount(sheet["load"]!["revenue"])));
        var waiting = (await owner.Get("unbilled")).Ok.AsArray().Single(u => u!["loadId"]!.GetValue<long>() == load)!;
        Assert.True(waiting["canceled"]!.GetValue<bool>());
        Assert.Empty(waiting["missing"]!.AsArray());

        // Billed and paid like any other, without a POD; void again, it waits again.
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        Assert.Equal(250m, Amount(invoice["total"]));
        Assert.Equal([0m, 250m], Changes(before, await Balances(owner), "1210", "1200"));
        Assert.Equal("cancelled", await State(owner, load));
        _ = (await owner.Pay($"invoices/{invoice["id"]}/void")).Ok;
        Assert.Contains((await owner.Get("unbilled")).Ok.AsArray(), u => u!["loadId"]!.GetValue<long>() == load);
        Assert.Equal([250m, 0m], Changes(before, await Balances(owner), "1210", "1200"));
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = Leg(sheet)["id"],
                    number = "TF-TONU",
                    amount = Usd(200m),
                }
            )
        ).Ok;
        _ = (await owner.Pay($"bills/{bill["id"]}/approve", new { amount = Usd(200m) })).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await Disagreements(db));
        business.Clock.Now += Duration.FromSeconds(30);
        for (var tries = 0; tries < 100 && !await Told(); tries++)
        {
            await Task.Delay(100);
        }

        Assert.True(await Told());

        static object Tonu(decimal customer, decimal carrier) =>
            new
            {
                why = "plant closed",
                customerCharge = Usd(customer),
                carrierCharge = Usd(carrier),
                authorization = new { by = "R. Dahl" },
            };

        async Task<bool> Told() =>
            (await owner.Get("outside/emails"))
                .Ok.AsArray()
                .Any(m => m!["text"]!.GetValue<string>().Contains("$200.00 for the truck ordered and not used", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_load_canceled_without_a_charge_keeps_its_record_and_is_not_billed()
    {
        var (owner, load, _) = await Tendered(11, "PO canceled");
        _ = (await owner.Post($"loads/{load}/cancel", new { why = "customer changed its mind" })).Ok;
        var sheet = await Load(owner, load);
        Assert.Equal(1298.59m, Amount(sheet["load"]!["revenue"]));
        Assert.Null(Leg(sheet)["carrierId"]);
        Assert.DoesNotContain((await owner.Get("unbilled")).Ok.AsArray(), u => u!["loadId"]!.GetValue<long>() == load);
        Assert.Equal("load.canceled", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);
    }

    [Fact]
    public async Task A_carrier_of_the_other_country_hauls_within_ours_only_with_a_reason()
    {
        var owner = await business.As(Role.Owner);
        var carrier = (
            await owner.Post(
                "companies",
                new
                {
                    name = "Chinook Belt Carriers",
                    email = "dispatch@chinookbelt.example",
                    town = "Lethbridge",
                    region = "AB",
                    isCustomer = false,
                    isCarrier = true,
                    carrier = new
                    {
                        usdot = "9000199",
                        authorityActive = true,
                        liabilityUntil = "2027-06-01",
                        cargoUntil = "2027-06-01",
                    },
                }
            )
        ).Id;
        var load = (await owner.Post("loads", business.Order(12, "PO cabotage"))).Id;
        var refused = await owner.Post($"loads/{load}/cover/carrier", Accepted(carrier, Usd(800m)));
        Assert.Equal(("cabotage", "cabotageReason"), (refused.Code, refused.Fields.Single()));
        var reasoned = (JsonObject)JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(Accepted(carrier, Usd(800m))))!;
        reasoned["cabotageReason"] = "repositioning after an international trip";
        _ = (await owner.Post($"loads/{load}/cover/carrier", reasoned)).Ok;
        Assert.Contains(await Said(owner, load), s => s.EndsWith("repositioning after an international trip", StringComparison.Ordinal));
    }
}
