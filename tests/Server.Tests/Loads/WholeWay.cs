using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using UglyToad.PdfPig;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Loads;

/// <summary>From a call to cash, through the API, with the books looked at on the way.</summary>
public class WholeWay(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static async Task<Dictionary<string, decimal>> Books(Caller c)
    {
        var balance = (await c.Get("ledger/trial-balance?upTo=2027-01-01")).Ok;
        Assert.Equal(0m, Amount(balance["zero"]));
        return balance["accounts"]!.AsArray().ToDictionary(a => a!["code"]!.GetValue<string>(), a => Amount(a!["balance"]));
    }

    private static byte[] Pod()
    {
        using var page = new PdfPage("POD", "test");
        page.Line("Received in good order");
        return page.Save();
    }

    private static async Task<JsonNode> Sheet(Caller c, long load) => (await c.Get($"loads/{load}")).Ok["sheet"]!;

    private static string State(JsonNode sheet) => sheet["load"]!["state"]!.GetValue<string>();

    private static async Task<long[]> Stops(Caller c, long load) =>
        (await Sheet(c, load))["load"]!["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray();

    [Fact]
    public async Task With_our_driver()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
        var owner = await business.As(Role.Owner);
        var before = await Books(owner);
        var load = (await owner.Post("loads", business.Order())).Id;
        Assert.Equal("booked", State(await Sheet(owner, load)));

        var trailer = await owner.Post(
            $"loads/{load}/cover/driver",
            new
            {
                driverId = business.Ids["moses"],
                truckId = business.Ids["moses truck"],
                trailerId = business.Ids["van"],
            }
        );
        Assert.Equal("trailer.equipment", trailer.Code);
        var given = await owner.Post(
            $"loads/{load}/cover/driver",
            new
            {
                driverId = business.Ids["moses"],
                truckId = business.Ids["moses truck"],
                trailerId = business.Ids["moses trailer"],
            }
        );
        Assert.Equal("covered", given.Ok["state"]!.GetValue<string>());

        // A second load at the same time finds them, their truck and their trailer busy, and says with what.
        var other = (await owner.Post("loads", business.Order(reference: "PO 2"))).Id;
        var busy = await owner.Post(
            $"loads/{other}/cover/driver",
            new
            {
                driverId = business.Ids["moses"],
                truckId = business.Ids["moses truck"],
                trailerId = business.Ids["moses trailer"],
            }
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, busy.Status);
        Assert.Equal(["driverId", "truckId", "trailerId"], busy.Fields);

        // Their phone: the trip is there, in order, without the customer's money.
        var driver = await business.As(Role.Driver);
        var mine = (await driver.Get("mine/loads")).Ok.AsArray().Single()!;
        Assert.DoesNotContain("revenue", mine.ToJsonString(), StringComparison.OrdinalIgnoreCase);
        var stops = await Stops(owner, load);
        business.Clock.Now = Instant.FromUtc(2026, 11, 24, 13, 10);
        (owner, driver) = (await business.As(Role.Owner), await business.As(Role.Driver));
        Assert.Equal("stop.order", (await driver.Post($"mine/loads/{load}/stops/{stops[1]}", new { @event = "arrived" })).Code);
        foreach (
            var (stop, word, hours) in new[]
            {
                (stops[0], "arrived", 0),
                (stops[0], "left", 1),
                (stops[1], "arrived", 9),
                (stops[1], "delivered", 10),
            }
        )
        {
            business.Clock.Now = Instant.FromUtc(2026, 11, 24, 13, 10) + Duration.FromHours(hours);
            _ = (
                await driver.Post(
                    $"mine/loads/{load}/stops/{stop}",
                    new { @event = word, receivedBy = word == "delivered" ? "R. Dahl" : null }
                )
            ).Ok;
        }

        Assert.Equal("delivered", State(await Sheet(owner, load)));
        Assert.Equal("load.pod.missing", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);
        _ = (await driver.Upload($"mine/loads/{load}/documents?kind=pod&name=pod.pdf", Pod())).Ok;

        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        var invoiceId = invoice["id"]!.GetValue<long>();
        Assert.Equal((1298.59m, "2026-12-24"), (Amount(invoice["total"]), invoice["dueOn"]!.GetValue<string>()));
        Assert.Equal("load.billed", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);
        using (var pdf = PdfDocument.Open(await owner.Http.GetByteArrayAsync($"/api/invoices/{invoiceId}/pdf")))
        {
            var text = string.Concat(pdf.GetPages().Select(p => string.Concat(p.Letters.Select(l => l.Value))));
            Assert.Equal(2, pdf.NumberOfPages);
            Assert.Contains("1,298.59", text, StringComparison.Ordinal);
            Assert.Contains("Receivedingoodorder", text.Replace(" ", "", StringComparison.Ordinal), StringComparison.Ordinal);
        }

        var afterBilling = await Books(owner);
        Assert.Equal(1298.59m, afterBilling["1200"] - before["1200"]);
        Assert.Equal(-1100.50m, afterBilling["4000"] - before["4000"]);

        // Half comes in, then the rest.
        Assert.Equal("over.open", (await owner.Pay("payments", Payment(2000m, (invoiceId, 2000m)))).Code);
        _ = (await owner.Pay("payments", Payment(650m, (invoiceId, 650m)))).Ok;
        Assert.Equal("billed", State(await Sheet(owner, load)));
        _ = (await owner.Pay("payments", Payment(648.59m))).Ok;

        // Days later the password is asked for again.
        _ = await owner.Post("session/confirm", new { password = "steady-lark" });

        // The driver advances ahead; their week is settled after it ended, approved and paid.
        _ = (
            await owner.Pay(
                "advances",
                new
                {
                    driverId = business.Ids["moses"],
                    amount = TestBusiness.Usd(100m),
                    issuedOn = "2026-11-24",
                    note = "on the fuel card",
                }
            )
        ).Ok;
        Assert.Equal(
            "settlement.running",
            (await owner.Pay("settlements/approve", new { driverId = business.Ids["moses"], monday = "2026-11-23" })).Code
        );
        business.Clock.Now = Instant.FromUtc(2026, 12, 1, 16, 0);
        (owner, driver) = (await business.As(Role.Owner), await business.As(Role.Driver));
        var week = (await driver.Get("mine/settlement?monday=2026-11-23")).Ok;
        var miles = week["miles"]!.GetValue<int>();
        // There and back on one day: no per diem.
        Assert.Equal((miles * 0.60m) - 100m, Amount(week["net"]));
        var settlement = (await owner.Pay("settlements/approve", new { driverId = business.Ids["moses"], monday = "2026-11-23" })).Id;
        Assert.Equal(
            "settlement.approved",
            (await owner.Pay("settlements/approve", new { driverId = business.Ids["moses"], monday = "2026-11-23" })).Code
        );
        _ = (await owner.Pay($"settlements/{settlement}/pay", new { method = "ach" })).Ok;
        Assert.Equal("settlement.paid", (await owner.Pay($"settlements/{settlement}/pay", new { method = "ach" })).Code);

        Assert.Equal("closed", State(await Sheet(owner, load)));
        var end = await Books(owner);
        Assert.Equal(before["1200"], end["1200"]);
        Assert.Equal(before["2100"], end["2100"]);
        Assert.Equal(before["1300"], end["1300"]);
        Assert.Equal(1298.59m - (miles * 0.60m), end["1000"] - before["1000"]);
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);

        object Payment(decimal amount, params (long Id, decimal Part)[] parts) =>
            new
            {
                customerId = business.Ids["customer"],
                method = "check",
                reference = "8841",
                amount = TestBusiness.Usd(amount),
                applications = parts.Length == 0 ? null : parts.Select(p => new { invoiceId = p.Id, amount = TestBusiness.Usd(p.Part) }),
            };
    }

    [Fact]
    public async Task With_a_carrier()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
        var owner = await business.As(Role.Owner);
        var before = await Books(owner);
        var load = (await owner.Post("loads", business.Order(4, "PO 9"))).Id;
        Assert.Equal(
            "carrier.cargo",
            (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["lapsing"], TestBusiness.Usd(900m)))).Code
        );
        Assert.Equal(
            "carrier.authority",
            (
                await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["unauthorised"], TestBusiness.Usd(900m)))
            ).Code
        );
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(900m)))).Ok;

        // The mail waits ten seconds; then it lies in the carrier's mailbox, with the confirmation and the link.
        Assert.DoesNotContain("Rate confirmation", (await owner.Get("outside/emails")).Ok.ToJsonString(), StringComparison.Ordinal);
        business.Clock.Now += Duration.FromSeconds(11);
        var mail = await Until(async () =>
            (await owner.Get("outside/emails"))
                .Ok.AsArray()
                .FirstOrDefault(m => m!["subject"]!.GetValue<string>().StartsWith("Rate confirmation", StringComparison.Ordinal))
        );
        Assert.Equal("mail@twoforkstrucking.example", mail["to"]!.GetValue<string>());
        Assert.Equal("application/pdf", mail["files"]![0]!["mediaType"]!.GetValue<string>());
        var link = mail["text"]!.GetValue<string>().Split("/accept/")[1].Split('\n')[0].Trim();
        var nobody = business.Nobody();
        Assert.Equal("Two Forks Trucking", (await nobody.Get($"accept/{link}")).Ok["carrier"]!.GetValue<string>());
        Assert.Equal("name", (await nobody.Post($"accept/{link}", new { name = " " })).Fields.Single());
        _ = (await nobody.Post($"accept/{link}", new { name = "Jo Ferro" })).Ok;
        Assert.Equal("tender.accepted", (await nobody.Post($"accept/{link}", new { name = "Jo Ferro" })).Code);
        Assert.Equal(HttpStatusCode.NotFound, (await nobody.Get($"accept/{new string('0', 48)}")).Status);

        var stops = await Stops(owner, load);
        business.Clock.Now = Instant.FromUtc(2026, 11, 28, 5, 0);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", at = "2026-11-27T14:00:00Z" })).Ok;
        _ = (
            await owner.Post(
                $"loads/{load}/stops/{stops[1]}",
                new
                {
                    @event = "delivered",
                    at = "2026-11-28T00:30:00Z",
                    receivedBy = "T. Lamb",
                }
            )
        ).Ok;
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}/undo")).Ok;
        Assert.Equal("rolling", State(await Sheet(owner, load)));
        _ = (
            await owner.Post(
                $"loads/{load}/stops/{stops[1]}",
                new
                {
                    @event = "delivered",
                    at = "2026-11-28T00:40:00Z",
                    receivedBy = "T. Lamb",
                }
            )
        ).Ok;

        // Its bill is 140 over: held against what was agreed, approved for less, paid once.
        var leg = (await Sheet(owner, load))["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "9921",
                    amount = TestBusiness.Usd(1040m),
                }
            )
        ).Ok;
        Assert.Equal(140m, Amount(bill["difference"]));
        var id = bill["id"]!.GetValue<long>();
        Assert.Equal(
            "leg.billed",
            (
                await owner.Pay(
                    "bills",
                    new
                    {
                        legId = leg,
                        number = "9922",
                        amount = TestBusiness.Usd(1040m),
                    }
                )
            ).Code
        );
        Assert.Equal("bill.pod", (await owner.Pay($"bills/{id}/approve", new { amount = TestBusiness.Usd(900m) })).Code);
        using (var pod = new SteadyLark.Server.Documents.PdfPage("POD", "test"))
        {
            pod.Line("Received");
            _ = (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", pod.Save())).Ok;
        }

        Assert.Equal("over.agreed", (await owner.Pay($"bills/{id}/approve", new { })).Code);
        Assert.Equal("bill.state", (await owner.PayBills("ach", id)).Code);
        _ = (await owner.Pay($"bills/{id}/approve", new { amount = TestBusiness.Usd(900m) })).Ok;
        _ = (await owner.PayBills("ach", id)).Ok;
        Assert.Equal("bill.state", (await owner.PayBills("ach", id)).Code);
        var end = await Books(owner);
        Assert.Equal((900m, 0m, -900m), (end["5000"] - before["5000"], end["2000"] - before["2000"], end["1000"] - before["1000"]));

        // From the figure to its entries, to the load.
        var lines = (await owner.Get($"ledger/lines?account=5000&loadId={load}")).Ok["rows"]!.AsArray();
        Assert.All(lines, l => Assert.Equal(load, l!["loadId"]!.GetValue<long>()));
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
    }

    [Fact]
    public async Task Unassigning_a_load_holds_back_its_email_and_frees_the_carrier()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(6, "PO held"))).Id;
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(700m)))).Ok;
        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
        var view = (await owner.Get($"loads/{load}")).Ok;
        Assert.Equal("booked", State(view["sheet"]!));
        Assert.NotNull(view["emails"]![0]!["heldBackAt"]);
        Assert.Empty(view["documents"]!.AsArray());
    }

    [Fact]
    public async Task An_incoming_email_is_fetched_and_its_document_finds_the_load()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
        var owner = await business.As(Role.Owner);
        var booked = (await owner.Post("loads", business.Order(5, "PO mail"))).Ok;
        _ = await owner.Post(
            "outside/emails",
            new
            {
                from = "mail@snowberrycreamery.example",
                subject = $"POD for load {booked["number"]}",
                text = "here it is",
                file = new { name = "pod.pdf", base64 = Convert.ToBase64String(Pod()) },
            }
        );
        var documents = await Until(async () =>
            (await owner.Get($"loads/{booked["id"]}")).Ok["documents"]!.AsArray() is { Count: 1 } list ? list : null
        );
        Assert.Equal(("pod", "outside"), (documents[0]!["kind"]!.GetValue<string>(), documents[0]!["via"]!.GetValue<string>()));
        Assert.Contains((await owner.Get("today")).Ok["items"]!.AsArray(), i => i!["kind"]!.GetValue<string>() == "mail");
    }

    [Fact]
    public async Task A_file_of_the_wrong_type_is_refused_and_nothing_is_stored()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(5, "PO file"))).Id;
        foreach (
            var (bytes, code) in new[]
            {
                ("MZ"u8.ToArray(), "file.kind"),
                ("%PDF-1.7 nothing behind it"u8.ToArray(), "file.unreadable"),
                ([0xFF, 0xD8, 0xFF, 0xE0, 1, 2], "file.unreadable"),
                (Array.Empty<byte>(), "file.empty"),
                (Encoding.ASCII.GetBytes("%PDF-").Concat(new byte[26 * 1024 * 1024]).ToArray(), "file.large"),
            }
        )
        {
            Assert.Equal(code, (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", bytes)).Code);
        }

        Assert.Empty((await owner.Get($"loads/{load}")).Ok["documents"]!.AsArray());
    }

    private static async Task<T> Until<T>(Func<Task<T?>> look)
        where T : class
    {
        for (var i = 0; i < 100; i++)
        {
            if (await look() is { } found)
            {
                return found;
            }

            await Task.Delay(100);
        }

        throw new Xunit.Sdk.XunitException("It did not come within ten seconds.");
    }
}
