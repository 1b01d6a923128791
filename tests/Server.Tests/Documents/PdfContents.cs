using System.Text.Json.Nodes;
using SteadyLark.Core.People;
using UglyToad.PdfPig;
using Xunit;

namespace SteadyLark.Server.Tests.Documents;

/// <summary>The text of each document we issue, as its recipient reads it.</summary>
public class PdfContents(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static string Read(byte[] pdf)
    {
        using var document = PdfDocument.Open(pdf);
        return string.Join(' ', document.GetPages().SelectMany(p => p.GetWords()).Select(w => w.Text)).Replace('•', '·');
    }

    private static async Task<string> Read(Caller caller, string path) => Read(await caller.Http.GetByteArrayAsync("/api/" + path));

    private static void Has(string text, params string[] parts) =>
        Assert.True(
            parts.All(p => text.Contains(p, StringComparison.Ordinal)),
            $"missing: {string.Join(" | ", parts.Where(p => !text.Contains(p, StringComparison.Ordinal)))}\nin: {text}"
        );

    private static void HasNot(string text, params string[] parts) =>
        Assert.All(parts, p => Assert.DoesNotContain(p, text, StringComparison.Ordinal));

    private async Task<long> Booked(Caller owner, Action<JsonNode>? change = null)
    {
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(2, "PO 90071")))!;
        change?.Invoke(order);
        return (await owner.Post("loads", order)).Id;
    }

    private static async Task<string> Number(Caller owner, long load) =>
        (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["number"]!.GetValue<string>();

    [Fact]
    public async Task A_rate_confirmation_says_what_is_hauled_when_and_for_how_much_and_nothing_of_the_customer()
    {
        var owner = await business.As(Role.Owner);
        var load = await Booked(owner, o =>
        {
            o["stops"]![0]!["until"] = "2026-11-25T09:30:00";
            o["stops"]![1]!["note"] = "Dock 4, call the guard";
            o["freight"]![0]!["hazmat"] = true;
            o["freight"]![0]!["unNumber"] = "1993";
            o["freight"]![0]!["hazmatName"] = "Flammable liquids, n.o.s.";
            o["freight"]![0]!["hazardClass"] = "3";
            o["freight"]![0]!["packingGroup"] = "pg iii";
            o["freight"]![0]!["emergencyPhone"] = "406-555-0199";
            o["carrierInstructions"] = "Tarp the load.";
            o["driverInstructions"] = "Ask for Jo.";
        });
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(1234.5m)))).Ok;
        var document = await business.RateConfirmation(load);
        var text = await Read(owner, $"documents/{document}/file");
        Has(
            text,
            $"Rate confirmation, load {await Number(owner, load)}",
            "Tamarack Bend Freight",
            "406-555-0100",
            "Two Forks Trucking",
            "USDOT 9000100"
        );
        Has(
            text,
            "1. Pickup Snowberry Dock",
            "Wed Nov 25, 06:00 to 09:30",
            "Mountain time",
            "2. Delivery Northgate Cold Storage",
            "Wed Nov 25, 17:00",
            "Pacific time",
            "Dock 4, call the guard"
        );
        Has(
            text,
            "butter · 18 pallets · 38,400 lb · 34 °F · HAZMAT UN1993, Flammable liquids, n.o.s., 3, PG III",
            "Equipment: reefer",
            "Tarp the load.",
            "USD 1,234.50",
            "must not re-broker"
        );
        Has(text, "Reference PO 90071", "Detention is paid only if approved", "We pay: Two Forks Trucking");
        var bol = await Read(owner, $"loads/{load}/bol");
        Has(
            bol,
            "UN1993, Flammable liquids, n.o.s., 3, PG III",
            "Emergency response: 406-555-0199",
            "properly classified, described, packaged",
            "Two Forks Trucking, Ray Ostrander, truck 118",
            "Consignee",
            "Northgate Cold Storage"
        );
        HasNot(bol, "1,234.50", "1,100.50");
        HasNot(text, "Snowberry Creamery", "1,100.50", "1,298.59", "Ask for Jo.");
    }

    [Fact]
    public async Task A_trip_sheet_has_stops_directions_and_miles_and_no_money()
    {
        var owner = await business.As(Role.Owner);
        var load = await Booked(owner, o => o["driverInstructions"] = "Ask for Jo.");
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("lena"))).Ok;
        var text = await Read(owner, $"loads/{load}/route?format=pdf");
        Has(
            text,
            $"Trip sheet, load {await Number(owner, load)}",
            "Lena Haugen, truck 119, trailer 5307",
            "butter, 38,400 lb, hold 34 °F",
            "1 Pickup Snowberry Dock",
            "2 Delivery Northgate Cold Storage",
            "Ask for Jo."
        );
        Has(text, "loaded miles", "h", "driving", "MT", "ID", "WA", "I-90");
        HasNot(text, "1,100.50", "1,298.59", "$", "USD", "Snowberry Creamery");
        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
    }

    [Fact]
    public async Task An_invoice_has_its_dates_charges_total_and_whom_to_pay()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -50, "lena");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok["id"]!.GetValue<long>();
        var text = await Read(owner, $"invoices/{invoice}/pdf");
        Has(
            text,
            "Invoice",
            "Bill to",
            "Snowberry Creamery",
            "Date Mon Nov 23, 2026",
            "Due Wed Dec 23, 2026",
            $"Load {await Number(owner, load)} · your reference PO done -50",
            "Great Falls MT to Spokane WA"
        );
        Has(
            text,
            "Line haul 1,100.50",
            "Fuel surcharge 198.09",
            "Total due USD 1,298.59",
            "signed R. Dahl",
            "Please pay by Wed Dec 23, 2026"
        );
        HasNot(text, "Lena", "0.60", "Two Forks");
    }

    [Fact]
    public async Task A_statement_of_account_runs_from_opening_to_closing_balance_with_aging()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -53, "lena");
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok["number"]!.GetValue<string>();
        var customer = business.Ids["customer"];
        var text = await Read(owner, $"companies/{customer}/statement?from=2026-11-01&until=2026-11-30&format=pdf");
        var statement = (await owner.Get($"companies/{customer}/statement?from=2026-11-01&until=2026-11-30")).Ok;
        Has(
            text,
            "Statement of account",
            "Tamarack Bend Freight",
            "Snowberry Creamery",
            "Opening balance",
            "Description",
            "Balance",
            "Aging Current",
            "1 to 30 days",
            "over 90",
            invoice,
            "due Dec 23, 2026"
        );
        Has(
            text,
            $"Balance on Nov 30, 2026 USD {decimal.Parse(statement["owed"]!["amount"]!.GetValue<string>(), System.Globalization.CultureInfo.InvariantCulture).ToString("#,##0.00", System.Globalization.CultureInfo.InvariantCulture)}"
        );
    }

    [Fact]
    public async Task A_settlement_statement_shows_each_line_and_the_net_pay()
    {
        var owner = await business.As(Role.Owner);
        _ = await business.Delivered(owner, -8, "moses");
        var moses = business.Ids["moses"];
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = moses,
                    kind = "reimbursement",
                    on = "2026-11-11",
                    what = "scale ticket",
                    amount = TestBusiness.Usd(13.5m),
                    account = "5300",
                }
            )
        ).Ok;
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = moses,
                    kind = "deduction",
                    on = "2026-11-12",
                    what = "cash fuel",
                    amount = TestBusiness.Usd(40m),
                }
            )
        ).Ok;
        var week = (await owner.Get("settlements?monday=2026-11-09")).Ok.AsArray().Single(s => s!["driverId"]!.GetValue<long>() == moses)!;
        var text = await Read(owner, $"settlements/{moses}/2026-11-09/pdf");
        Has(
            text,
            "Settlement statement: Moses Okafor, Nov 9 to Nov 15, 2026",
            "Not approved yet",
            "Earnings",
            "mi at 0.",
            "Reimbursements scale ticket",
            "13.50",
            "Deductions cash fuel",
            "-40.00",
            "miles paid",
            "days out"
        );
        Has(
            text,
            $"Net pay USD {decimal.Parse(week["net"]!["amount"]!.GetValue<string>(), System.Globalization.CultureInfo.InvariantCulture).ToString("#,##0.00", System.Globalization.CultureInfo.InvariantCulture)}"
        );
        _ = (await owner.Pay("settlements/approve", new { driverId = moses, monday = "2026-11-09" })).Ok;
        Has(await Read(owner, $"settlements/{moses}/2026-11-09/pdf"), "Approved by", "pay date Fri Nov 20, 2026");
    }

    [Fact]
    public async Task A_signed_bill_of_lading_names_the_receiver_the_time_there_and_what_was_short()
    {
        var owner = await business.As(Role.Owner);
        var load = await Booked(owner, o =>
        {
            o["stops"]![0]!["from"] = "2026-11-21T06:00:00";
            o["stops"]![1]!["from"] = "2026-11-22T17:00:00";
            o["references"] = JsonNode.Parse("""[{"kind":"bill_of_lading","value":"BL-5561"}]""");
        });
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;
        var stops = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", at = "2026-11-21T14:00:00Z" })).Ok;
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "arrived", at = "2026-11-23T01:00:00Z" })).Ok;
        _ = (
            await owner.Post(
                $"loads/{load}/reports",
                new
                {
                    kind = "short",
                    note = "two cases left on the dock",
                    pieces = 2,
                }
            )
        ).Ok;
        var driver = await business.As(Role.Driver);
        var signed = (await driver.Post($"mine/loads/{load}/sign", new { name = "R. Dahl", picture = TestBusiness.OnePoint })).Ok[
            "id"
        ]!.GetValue<long>();
        var text = await Read(owner, $"documents/{signed}/file");
        Has(
            text,
            $"Bill of lading, load {await Number(owner, load)}",
            "From Snowberry Dock",
            "To Northgate Cold Storage",
            "butter · 18 pallets · 38,400 lb",
            "BL-5561",
            "Short, 2: two cases left on the dock"
        );
        Has(text, "Received at Northgate Cold Storage, Spokane WA, Mon Nov 23, 08:42, Pacific time", "R. Dahl");
        HasNot(text, "1,100.50", "$", "USD ");
        _ = (await owner.Post($"loads/{load}/stops/{stops[1]}", new { @event = "delivered", at = "2026-11-23T02:00:00Z" })).Ok;
    }
}
