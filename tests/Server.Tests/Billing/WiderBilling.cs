using System.Text;
using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using UglyToad.PdfPig;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Billing;

/// <summary>Several loads on an invoice in a customer's own way, runs, short pays, credit, loads handed back.</summary>
public sealed class WiderBilling(TestBusiness business) : IClassFixture<TestBusiness>
{
    private async Task Agrees()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));
    }

    [Fact]
    public async Task Two_loads_on_one_invoice_use_the_customers_columns_and_the_sent_pdf_never_changes()
    {
        var owner = await business.As(Role.Owner);
        var customer = business.Ids["customer"];
        long[] loads = [await business.Delivered(owner, -8, "carrier"), await business.Delivered(owner, -7, "carrier")];
        Assert.Equal(
            ["columns", "recipients", "message"],
            (
                await owner.Put(
                    $"companies/{customer}/billing-settings",
                    new
                    {
                        byLoad = true,
                        columns = new[] { "color" },
                        documents = new[] { "pod" },
                        oneFile = true,
                        together = true,
                        recipients = "nobody",
                        message = "{totl}",
                        requiredDocuments = new[] { "pod" },
                        version = 0,
                    }
                )
            ).Fields
        );
        var settings = new
        {
            byLoad = true,
            columns = new[] { "reference", "origin" },
            documents = new[] { "pod" },
            oneFile = false,
            together = true,
            recipients = "a@snowberry.example, b@snowberry.example",
            subject = "Bill {invoice}",
            message = "Due {due}: {total} for {loads}",
            requiredDocuments = new[] { "pod" },
            version = await Version(owner),
        };
        _ = (await owner.Put($"companies/{customer}/billing-settings", settings)).Ok;
        Assert.Equal("stale", (await owner.Put($"companies/{customer}/billing-settings", settings)).Code);
        var invoice = (await owner.Pay("invoices", new { loadIds = loads })).Ok;
        Assert.Equal(2 * 1298.59m, Amount(invoice["total"]));
        Assert.Equal("a@snowberry.example, b@snowberry.example", invoice["mailedTo"]!.GetValue<string>());

        var id = invoice["id"]!.GetValue<long>();
        var text = await Text(owner, id);
        Assert.Contains("Your reference", text);
        Assert.Contains("PO done -8", text);
        // The load's words change afterwards; the invoice's do not.
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            await db.Run("update loads set reference = 'PO changed' where id = @id", ("id", loads[0]));
            var eml = (
                await db.One<byte[]>("select m.eml from invoices i join emails m on m.id = i.email_id where i.id = @id", ("id", id))
            )!;
            var mail = Formats.Mail.Eml.Read(eml);
            Assert.StartsWith($"Bill {invoice["number"]}", mail.Subject);
            Assert.Contains("$2,597.18 for ", mail.Text);
            Assert.Equal(3, mail.Files.Count);
        }

        Assert.Equal(text, await Text(owner, id));

        // Void, and billed again with what is true now.
        _ = (await owner.Pay($"invoices/{id}/void")).Ok;
        var again = (await owner.Pay("invoices", new { loadIds = loads })).Id;
        Assert.Contains("PO changed", await Text(owner, again));
        Assert.Equal(
            ["invoice.issued", "invoice.void"],
            (await owner.Get($"invoices/{id}")).Ok["events"]!.AsArray().Select(e => e!["kind"]!.GetValue<string>()).Distinct().Order()
        );
        await Agrees();
    }

    [Fact]
    public async Task A_check_for_three_invoices_with_a_short_pay_posts_correctly_and_leaves_credit()
    {
        var owner = await business.As(Role.Owner);
        await RequiredDocuments(owner, "pod");
        var invoices = new List<long>();
        for (var i = 0; i < 3; i++)
        {
            invoices.Add((await owner.Pay("invoices", new { loadIds = new[] { await business.Delivered(owner, -20 + i, "carrier") } })).Id);
        }

        object Part(int i, decimal amount, decimal go, string? reason, string? kind = "concession") =>
            new
            {
                invoiceId = invoices[i],
                amount = TestBusiness.Usd(amount),
                writeOff = TestBusiness.Usd(go),
                reason,
                kind,
            };
        object Check(decimal amount, params object[] parts) =>
            new
            {
                customerId = business.Ids["customer"],
                method = "check",
                reference = "8812",
                amount = TestBusiness.Usd(amount),
                applications = parts,
            };
        Assert.Equal(["applications[0].reason"], (await owner.Pay("payments", Check(4000, Part(0, 1200, 98.59m, null)))).Fields);
        Assert.Equal(["applications[0].kind"], (await owner.Pay("payments", Check(4000, Part(0, 1200, 98.59m, "lumper", null)))).Fields);
        Assert.Equal(["applications[0].writeOff"], (await owner.Pay("payments", Check(4000, Part(0, 1200, 98.60m, "lumper")))).Fields);
        var payment = (
            await owner.Pay(
                "payments",
                Check(
                    4000,
                    Part(0, 1200, 98.59m, "lumper"),
                    Part(1, 1298.59m, 0, null),
                    Part(2, 1000, 0, "pays the rest when the claim is settled")
                )
            )
        ).Ok;
        Assert.Equal(501.41m, Amount(payment["unapplied"]));
        Assert.Equal([0m, 0m, 298.59m], await Open(owner, invoices));
        await Agrees();

        // What is left over goes to what is still open, and what remains stays the customer's.
        var used = (await owner.Pay($"payments/{payment["id"]}/use-credit", new { applications = new[] { Part(2, 298.59m, 0, null) } })).Ok;
        Assert.Equal(202.82m, Amount(used["unapplied"]));
        Assert.Equal([0m, 0m, 0m], await Open(owner, invoices));
        await Agrees();
        var statement = (await owner.Get($"companies/{business.Ids["customer"]}/statement?from=2026-11-01")).Ok;
        Assert.Equal(Amount(statement["lines"]!.AsArray()[^1]!["balance"]), Amount(statement["owed"]));
        Assert.Contains(statement["lines"]!.AsArray(), l => l!["what"]!.GetValue<string>().EndsWith(": lumper", StringComparison.Ordinal));

        _ = (await owner.Pay($"payments/{payment["id"]}/reverse")).Ok;
        Assert.Equal([1298.59m, 1298.59m, 1298.59m], await Open(owner, invoices));
        await Agrees();
    }

    [Fact]
    public async Task What_is_not_paid_is_written_off_and_what_was_paid_too_much_is_refunded_and_both_can_be_reversed()
    {
        var owner = await business.As(Role.Owner);
        await RequiredDocuments(owner, "pod");
        var load = await business.Delivered(owner, -24, "carrier");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        object Off(decimal? amount, string? kind, string? reason) =>
            new
            {
                amount = amount is { } a ? TestBusiness.Usd(a) : null,
                kind,
                reason,
            };
        Assert.Equal(["reason", "kind"], (await owner.Pay($"invoices/{invoice}/write-off", Off(1, null, null))).Fields);
        Assert.Equal(["amount"], (await owner.Pay($"invoices/{invoice}/write-off", Off(1298.60m, "claim", "two cases short"))).Fields);
        var before = await Balances(owner);
        _ = (await owner.Pay($"invoices/{invoice}/write-off", Off(98.59m, "claim", "two cases short"))).Ok;
        _ = (await owner.Pay($"invoices/{invoice}/write-off", Off(null, "uncollectible", "out of business"))).Ok;
        Assert.Equal([0m], await Open(owner, [invoice]));
        var after = await Balances(owner);
        Assert.Equal((98.59m, 1200m), (after["4910"] - before["4910"], after["6500"] - before["6500"]));
        await Agrees();
        Assert.Equal("invoice.paid", (await owner.Pay($"invoices/{invoice}/void")).Code);
        foreach (var off in (await owner.Get($"invoices/{invoice}")).Ok["payments"]!.AsArray())
        {
            _ = (await owner.Pay($"write-offs/{off!["id"]}/reverse")).Ok;
            Assert.Equal("not.found", (await owner.Pay($"write-offs/{off["id"]}/reverse")).Code);
        }

        Assert.Equal(before, await Balances(owner));

        // Paid $100 too much, and the customer wants it back.
        var payment = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["customer"],
                    method = "check",
                    amount = TestBusiness.Usd(1398.59m),
                    applications = new[] { new { invoiceId = invoice, amount = TestBusiness.Usd(1298.59m) } },
                }
            )
        ).Id;
        object Back(decimal amount, string? reason) =>
            new
            {
                amount = TestBusiness.Usd(amount),
                method = "ach",
                reason,
            };
        Assert.Equal(["amount"], (await owner.Pay($"payments/{payment}/refund", Back(100.01m, "paid twice"))).Fields);
        Assert.Equal(["reason"], (await owner.Pay($"payments/{payment}/refund", Back(100, null))).Fields);
        var refunded = (await owner.Pay($"payments/{payment}/refund", Back(100, "paid twice"))).Ok;
        Assert.Equal((0m, 100m), (Amount(refunded["unapplied"]), Amount(refunded["refunded"])));
        await Agrees();
        Assert.Equal("payment.refunded", (await owner.Pay($"payments/{payment}/reverse")).Code);
        var refund = (await owner.Get($"payments/{payment}")).Ok["refunds"]!.AsArray().Single()!["id"];
        Assert.Equal(100m, Amount((await owner.Pay($"refunds/{refund}/reverse")).Ok["unapplied"]));
        _ = (await owner.Pay($"payments/{payment}/reverse")).Ok;
        Assert.Equal(before, await Balances(owner));
        await Agrees();
    }

    [Fact]
    public async Task Whoever_received_an_invoice_is_told_when_it_is_void()
    {
        var owner = await business.As(Role.Owner);
        await RequiredDocuments(owner, "pod");
        await using var db = await business.Db.Source.OpenConnectionAsync();
        async Task<long> Notices(long load) =>
            await db.One<long>(
                "select count(*) from emails where load_id = @load and subject like '% is void' and to_address = 'pay@snowberry.example'",
                ("load", load)
            );
        foreach (var sent in new[] { true, false })
        {
            var load = await business.Delivered(owner, sent ? -26 : -25, "carrier");
            var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load }, mailTo = "pay@snowberry.example" })).Id;
            if (sent)
            {
                await db.Run(
                    "update emails set sent_at = now() where id = (select email_id from invoices where id = @id)",
                    ("id", invoice)
                );
            }

            _ = (await owner.Pay($"invoices/{invoice}/void")).Ok;
            Assert.Equal(sent ? 1 : 0, await Notices(load));
        }
    }

    [Fact]
    public async Task A_billing_run_bills_what_it_can_and_reports_the_rest()
    {
        var owner = await business.As(Role.Owner);
        await RequiredDocuments(owner, "pod");
        long good = await business.Delivered(owner, -30, "carrier"),
            alsoGood = await business.Delivered(owner, -29, "carrier"),
            bad = await business.Delivered(owner, -28, "carrier");
        _ = (await owner.Post($"loads/{bad}/return-to-dispatch", new { why = "the rate is wrong" })).Ok;
        var ask = new { loadIds = new[] { good, alsoGood, bad }, together = false };
        var key = Guid.NewGuid().ToString();
        var run = (await owner.Post("billing-runs", ask, key)).Id;
        Assert.Equal(run, (await owner.Post("billing-runs", ask, key)).Id);
        JsonNode view;
        var patience = DateTime.UtcNow.AddSeconds(30);
        do
        {
            await Task.Delay(200);
            view = (await owner.Get($"billing-runs/{run}")).Ok;
        } while (view["done"]!.GetValue<int>() < 3 && DateTime.UtcNow < patience);
        Assert.Equal((3, 1), (view["done"]!.GetValue<int>(), view["failed"]!.GetValue<int>()));
        Assert.Contains("the rate is wrong", view["all"]!.AsArray().Single(p => p!["failed"] is not null)!["failed"]!.GetValue<string>());

        // Operations put it right; then it can be billed.
        var dispatcher = await business.As(Role.Dispatcher);
        _ = (await dispatcher.Post($"loads/{bad}/resolve-return", new { why = "new rate agreed" })).Ok;
        _ = (await owner.Pay("invoices", new { loadIds = new[] { bad } })).Ok;
        await Agrees();
    }

    [Fact]
    public async Task Documents_are_filed_from_the_tray_requested_and_uploaded_by_link()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -40, "carrier");
        await RequiredDocuments(owner, "pod", "scale_ticket", "bol");
        Assert.Equal("load.scaleticket.missing", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);

        // What came in unsorted is guessed by what stands on it.
        using var page = new PdfPage("BOL", "test");
        page.Line("Straight bill of lading");
        page.Line("Reference PO done -40");
        page.Line($"Load {(await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["number"]}");
        var loose = (await owner.Upload("documents/tray?name=scan.pdf", page.Save())).Id;
        var guessed = (await owner.Get("documents/tray")).Ok.AsArray().Single(p => p!["document"]!["id"]!.GetValue<long>() == loose)!;
        Assert.Equal((load, "bol"), (guessed["suggestedLoadId"]!.GetValue<long>(), guessed["document"]!["kind"]!.GetValue<string>()));
        _ = (await owner.Post($"documents/{loose}/assign", new { loadId = load, kind = "bol" })).Ok;
        Assert.Equal("document.filed", (await owner.Post($"documents/{loose}/assign", new { loadId = load, kind = "bol" })).Code);

        // The carrier is asked for the rest and hands it in by the link, and by nothing else.
        _ = (await owner.Post($"loads/{load}/request-documents")).Ok;
        string token;
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            var text = Formats
                .Mail.Eml.Read(
                    (
                        await db.One<byte[]>(
                            "select m.eml from document_requests a join emails m on m.id = a.email_id where a.load_id = @id",
                            ("id", load)
                        )
                    )!
                )
                .Text;
            token = System.Text.RegularExpressions.Regex.Match(text, "/upload/([0-9a-f]{48})").Groups[1].Value;
            Assert.False(await db.One<bool>("select exists (select 1 from document_requests where token = @token)", ("token", token)));
        }

        var nobody = business.Nobody();
        Assert.Equal(["scale_ticket"], (await nobody.Get($"upload/{token}")).Ok["wanted"]!.AsArray().Select(k => k!.GetValue<string>()));
        Assert.Equal("not.found", (await nobody.Get($"upload/{token[..^1]}x")).Code);
        Assert.Equal(
            "file.kind",
            (await nobody.Upload($"upload/{token}?kind=scale_ticket&name=x.pdf", Encoding.ASCII.GetBytes("no pdf"))).Code
        );
        _ = (await nobody.Upload($"upload/{token}?kind=scale_ticket&name=ticket.png", Convert.FromBase64String(TestBusiness.OnePoint))).Ok;
        Assert.Equal("documents.present", (await owner.Post($"loads/{load}/request-documents")).Code);
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;
        Assert.Equal(
            "ask.closed",
            (await nobody.Upload($"upload/{token}?kind=pod&name=x.png", Convert.FromBase64String(TestBusiness.OnePoint))).Code
        );
    }

    [Fact]
    public async Task A_load_is_offered_for_billing_only_with_its_customers_required_documents()
    {
        var owner = await business.As(Role.Owner);
        await RequiredDocuments(owner, "pod", "bol");
        try
        {
            var load = await business.Delivered(owner, -33, "lena");
            var missing = (await owner.Get($"loads/{load}")).Ok["missing"]!.AsArray().Select(m => m!.GetValue<string>()).ToList();
            Assert.Contains("BOL", Assert.Single(missing), StringComparison.Ordinal);
            Assert.Equal("load.bol.missing", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);
            Assert.Equal(
                ["bol"],
                (await owner.Get("unbilled")).Ok.AsArray().Single(u => u!["loadId"]!.GetValue<long>() == load)!["missing"]!
                    .AsArray()
                    .Select(m => m!.GetValue<string>())
            );
        }
        finally
        {
            await RequiredDocuments(owner, "pod");
        }
    }

    [Fact]
    public async Task Days_of_delivery_are_those_of_the_place()
    {
        // Delivered at 18:00 in Spokane, which is the next day in UTC.
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -36, "carrier");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok["id"]!.GetValue<long>();
        Assert.Equal("2026-10-13", (await owner.Get($"invoices/{invoice}")).Ok["invoice"]!["deliveredOn"]!.GetValue<string>());
        // Picked up at 23:00 there: the lane's history shows that day.
        var order = System.Text.Json.Nodes.JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(3, "PO late")))!;
        order["stops"]![0]!["from"] = "2026-11-26T23:00:00";
        order["stops"]![1]!["from"] = "2026-11-27T17:00:00";
        var late = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{late}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(700m)))).Ok;
        var next = (await owner.Post("loads", business.Order(4, "PO next"))).Id;
        var lane = (await owner.Get($"loads/{next}/choices")).Ok["lane"]!.AsArray();
        Assert.Equal("2026-11-26", lane[0]!["on"]!.GetValue<string>());
    }

    private async Task<int> Version(Caller owner) =>
        (await owner.Get($"companies/{business.Ids["customer"]}/billing-settings")).Ok["version"]!.GetValue<int>();

    /// <summary>The usual way of billing, with the documents that must be there.</summary>
    private async Task RequiredDocuments(Caller owner, params string[] demands) =>
        _ = (
            await owner.Put(
                $"companies/{business.Ids["customer"]}/billing-settings",
                new
                {
                    byLoad = false,
                    columns = Array.Empty<string>(),
                    documents = new[] { "pod" },
                    oneFile = true,
                    together = false,
                    requiredDocuments = demands,
                    version = await Version(owner),
                }
            )
        ).Ok;

    private static async Task<List<decimal>> Open(Caller owner, IEnumerable<long> invoices)
    {
        var open = new List<decimal>();
        foreach (var id in invoices)
        {
            open.Add(Amount((await owner.Get($"invoices/{id}")).Ok["invoice"]!["open"]));
        }

        return open;
    }

    private static async Task<string> Text(Caller owner, long invoice)
    {
        using var document = PdfDocument.Open(await owner.Http.GetByteArrayAsync($"/api/invoices/{invoice}/pdf"));
        return string.Join(' ', document.GetPage(1).GetWords().Select(w => w.Text));
    }
}
