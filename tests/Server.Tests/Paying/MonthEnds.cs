using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>What happens around the end of a month: each amount counts once, in the month it belongs to.</summary>
public sealed class MonthEnds(TestBusiness business) : IClassFixture<TestBusiness>
{
    private async Task<Dictionary<string, decimal>> Books(Caller owner, string day)
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));
        return await Balances(owner, day);
    }

    private static decimal Change(Dictionary<string, decimal> from, Dictionary<string, decimal> until, string account) =>
        until[account] - from[account];

    private void Now(int month, int day) => business.Clock.Now = Instant.FromUtc(2026, month, day, 17, 0);

    private async Task<long> Approve(Caller owner, string who, string monday) =>
        (await owner.Pay("settlements/approve", new { driverId = business.Ids[who], monday })).Id;

    /// <summary>A driver's settlement; null when there is nothing in it.</summary>
    private async Task<JsonNode?> Week(Caller owner, string who, string monday) =>
        (await owner.Get($"settlements?monday={monday}"))
            .Ok.AsArray()
            .FirstOrDefault(s => s!["driverId"]!.GetValue<long>() == business.Ids[who]);

    [Fact]
    public async Task A_settlement_approved_again_in_the_next_month_counts_once_in_its_own()
    {
        Now(11, 23);
        var owner = await business.As(Role.Owner);
        await business.AddCrew("jo", "Jo Begaye");
        var before = await Books(owner, "2026-12-31");
        _ = await business.Delivered(owner, -8, "jo"); // November 10, in the week of November 9
        Now(11, 30);
        owner = await business.As(Role.Owner);
        var settlement = await Approve(owner, "jo", "2026-11-09");
        var (november, all) = (await Books(owner, "2026-11-30"), await Books(owner, "2026-12-31"));
        var wages = Change(before, november, "5100");
        Assert.True(wages > 0);
        Now(12, 1);
        owner = await business.As(Role.Owner);
        _ = (await owner.Pay($"settlements/{settlement}/unapprove")).Ok;
        Assert.Equal(0, Change(before, await Books(owner, "2026-11-30"), "5100"));
        _ = await Approve(owner, "jo", "2026-11-09");
        Assert.Equal(wages, Change(before, await Books(owner, "2026-11-30"), "5100"));
        Assert.Equal(Change(before, all, "5100"), Change(before, await Books(owner, "2026-12-31"), "5100"));
    }

    [Fact]
    public async Task A_delivery_reported_after_its_week_was_approved_is_paid_with_the_next()
    {
        Now(11, 23);
        var owner = await business.As(Role.Owner);
        await business.AddCrew("ana", "Ana Reyes");
        _ = await business.Delivered(owner, -15, "ana"); // November 3
        var first = await Approve(owner, "ana", "2026-11-02");
        // Delivered on November 6, reported on November 23.
        var late = await business.Delivered(owner, -12, "ana");
        var next = (await Week(owner, "ana", "2026-11-09"));
        Assert.Equal([late], next!["lines"]!.AsArray().Where(l => l!["legId"] is not null).Select(l => l!["loadId"]!.GetValue<long>()));
        Assert.Null(await Week(owner, "ana", "2026-11-16"));
        _ = await Approve(owner, "ana", "2026-11-09");
        Assert.Null(await Week(owner, "ana", "2026-11-16"));
        Assert.True(first > 0);
        await Books(owner, "2026-12-31");
    }

    [Fact]
    public async Task A_payment_dated_before_its_invoice_is_credit_until_then_and_a_void_after_closing_leaves_the_closed_month()
    {
        Now(11, 23);
        var owner = await business.As(Role.Owner);
        // Delivered at 18:00 on October 31 in Spokane, which is November 1 in UTC.
        var load = await business.Delivered(owner, -18, "carrier");
        var earned = await Books(owner, "2026-10-31");
        Assert.Equal(1298.59m, Change(await Books(owner, "2026-10-30"), earned, "1210"));
        Assert.Equal(-700m, Change(await Books(owner, "2026-10-30"), earned, "2050"));
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Id;
        var payment = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["customer"],
                    receivedOn = "2026-11-19",
                    method = "check",
                    reference = "early",
                    amount = TestBusiness.Usd(1298.59m),
                    applications = new[] { new { invoiceId = invoice, amount = TestBusiness.Usd(1298.59m) } },
                }
            )
        ).Id;
        var (between, after) = (await Books(owner, "2026-11-20"), await Books(owner, "2026-11-23"));
        Assert.Equal((0m, -1298.59m), (between["1200"], between["2300"]));
        Assert.Equal((0m, 0m), (after["1200"], after["2300"]));
        _ = (await owner.Pay($"payments/{payment}/reverse")).Ok;

        // November is closed; the void belongs to December, and November's statement still shows the invoice.
        Now(12, 4);
        owner = await business.As(Role.Owner);
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-11-01" })).Ok;
        var closed = await Books(owner, "2026-11-30");
        _ = (await owner.Pay($"invoices/{invoice}/void")).Ok;
        Assert.Equal(closed, await Books(owner, "2026-11-30"));
        var statement = (await owner.Get($"companies/{business.Ids["customer"]}/statement?from=2026-11-01&until=2026-11-30")).Ok;
        Assert.Equal((closed["1200"], 1298.59m), (Amount(statement["owed"]), Amount(statement["open"]!.AsArray().Single()!["open"])));
        var december = await Books(owner, "2026-12-04");
        Assert.Equal((-1298.59m, 1298.59m), (Change(closed, december, "1200"), Change(closed, december, "1210")));
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-10-01", why = "for the other tests" })).Ok;
    }

    [Fact]
    public async Task A_bill_above_the_agreed_amount_is_owed_as_agreed_until_it_is_approved_for_more()
    {
        Now(11, 23);
        var owner = await business.As(Role.Owner);
        var before = await Books(owner, "2026-12-31");
        var load = await business.Delivered(owner, -3, "carrier");
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]!.AsArray()[0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "over",
                    billedOn = "2026-11-20",
                    amount = TestBusiness.Usd(840m),
                }
            )
        ).Id;
        async Task Owed(decimal owed)
        {
            var now = await Books(owner, "2026-12-31");
            Assert.Equal((owed, -owed, 0m), (Change(before, now, "5000"), Change(before, now, "2000"), Change(before, now, "2050")));
        }

        await Owed(700);
        _ = (await owner.Pay($"bills/{bill}/approve", new { amount = TestBusiness.Usd(790m), reason = "two hours of detention" })).Ok;
        await Owed(790);
        _ = (await owner.Pay($"bills/{bill}/unapprove")).Ok;
        await Owed(700);
        _ = (await owner.Pay($"bills/{bill}/approve", new { amount = TestBusiness.Usd(650m) })).Ok;
        await Owed(650);
        _ = (
            await owner.Pay(
                "vendor-payments",
                new
                {
                    bills = new[] { new { billId = bill } },
                    method = "ach",
                    paidOn = "2026-11-12",
                }
            )
        ).Ok;
        var paid = await Books(owner, "2026-12-31");
        Assert.Equal((650m, 0m, -650m), (Change(before, paid, "5000"), Change(before, paid, "2000"), Change(before, paid, "1000")));
    }

    [Fact]
    public async Task An_advance_entered_by_mistake_is_voided_and_leaves_the_settlement()
    {
        Now(11, 23);
        var owner = await business.As(Role.Owner);
        await business.AddCrew("ida", "Ida Lund");
        _ = await business.Delivered(owner, -8, "ida");
        var before = await Books(owner, "2026-12-31");
        var advance = (
            await owner.Pay(
                "advances",
                new
                {
                    driverId = business.Ids["ida"],
                    issuedOn = "2026-11-12",
                    amount = TestBusiness.Usd(100m),
                }
            )
        ).Id;
        Assert.Equal(100m, Amount((await Week(owner, "ida", "2026-11-09"))!["deducted"]));
        _ = (await owner.Pay($"advances/{advance}/void")).Ok;
        Assert.Equal("advance.void", (await owner.Pay($"advances/{advance}/void")).Code);
        Assert.Equal(0m, Amount((await Week(owner, "ida", "2026-11-09"))!["deducted"]));
        Assert.Equal(before, await Books(owner, "2026-12-31"));
    }

    [Fact]
    public async Task Closing_a_month_accrues_wages_of_the_week_that_goes_on_and_reopening_takes_them_back()
    {
        Now(11, 23);
        var owner = await business.As(Role.Owner);
        await business.AddCrew("sam", "Sam Ortiz");
        var before = (await Books(owner, "2026-10-31"), await Books(owner, "2026-11-01"));
        // Delivered on October 30; its week ends on November 1 and is not approved yet.
        _ = await business.Delivered(owner, -19, "sam");
        _ = (await owner.Post("ledger/periods/close", new { month = "2026-10-01" })).Ok;
        var (october, next) = (await Books(owner, "2026-10-31"), await Books(owner, "2026-11-01"));
        var accrued = Change(before.Item1, october, "5100");
        Assert.True(accrued > 0);
        Assert.Equal(-accrued, Change(before.Item1, october, "2110"));
        Assert.Equal((0m, 0m), (next["2110"], Change(before.Item2, next, "5100")));
        var week = await Approve(owner, "sam", "2026-10-26");
        var settled = (await Week(owner, "sam", "2026-10-26"));
        Assert.Equal(accrued, Amount(settled!["earned"]));
        _ = (await owner.Pay($"settlements/{week}/unapprove")).Ok;
        _ = (await owner.Post("ledger/periods/reopen", new { month = "2026-10-01", why = "a late bill" })).Ok;
        Assert.Equal(before.Item1["5100"], (await Books(owner, "2026-10-31"))["5100"]);
    }

    [Fact]
    public async Task A_four_stop_load_handed_over_pays_each_driver_for_the_own_stops_and_no_cent_of_its_line_haul_is_lost()
    {
        business.Clock.Now = Instant.FromUtc(2026, 11, 18, 12, 0);
        var owner = await business.As(Role.Owner);
        foreach (var (key, name) in new[] { ("kai", "Kai Dahl"), ("eli", "Eli Moen") })
        {
            await business.AddCrew(key, name);
            foreach (
                var (kind, rate) in new[] { ("percent_of_line_haul", 50m), ("per_extra_stop", 20m), ("per_mile", 0m), ("per_day", 0m) }
            )
            {
                _ = (
                    await owner.Post(
                        $"drivers/{business.Ids[key]}/rates",
                        new
                        {
                            kind,
                            rate,
                            from = "2026-11-02",
                        }
                    )
                ).Ok;
            }
        }

        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(0, "PO four stops", haul: 1000.01m)))!;
        var stops = order["stops"]!.AsArray();
        foreach (var (i, at) in new[] { (0, "2026-11-19T06:00:00"), (1, "2026-11-24T17:00:00") })
        {
            stops[i]!["from"] = at;
        }

        stops.Insert(1, Stop("pickup", "2026-11-19T10:00:00"));
        stops.Insert(2, Stop("delivery", "2026-11-24T09:00:00"));
        var load = (await owner.Post("loads", order)).Id;
        _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("kai"))).Ok;
        var ids = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        async Task Say(int stop, string word, string at) =>
            _ = (
                await owner.Post(
                    $"loads/{load}/stops/{ids[stop]}",
                    new
                    {
                        @event = word,
                        at,
                        receivedBy = word == "delivered" ? "R. Dahl" : null,
                    }
                )
            ).Ok;
        business.Clock.Now = Instant.FromUtc(2026, 11, 24, 23, 0);
        owner = await business.As(Role.Owner);
        await Say(0, "left", "2026-11-19T14:00:00Z");
        await Say(1, "left", "2026-11-19T18:00:00Z");
        _ = (
            await owner.Post(
                $"loads/{load}/handover",
                new
                {
                    placeId = business.Ids["handover"],
                    driverId = business.Ids["eli"],
                    truckId = business.Ids["eli truck"],
                    trailerId = business.Ids["eli trailer"],
                    at = "2026-11-20T02:00:00Z",
                }
            )
        ).Ok;
        await Say(2, "delivered", "2026-11-24T17:00:00Z");
        await Say(3, "delivered", "2026-11-24T22:00:00Z");
        Now(12, 2);
        owner = await business.As(Role.Owner);
        var (first, second) = ((await Week(owner, "kai", "2026-11-16"))!, (await Week(owner, "eli", "2026-11-23"))!);
        decimal Of(JsonNode week, string kind, string field) =>
            week["lines"]!.AsArray().Where(l => l!["kind"]?.GetValue<string>() == kind).Sum(l => l![field]!.GetValue<decimal>());
        Assert.Equal(1000.01m, Of(first, "percent_of_line_haul", "quantity") + Of(second, "percent_of_line_haul", "quantity"));
        Assert.Equal((1m, 1m), (Of(first, "per_extra_stop", "quantity"), Of(second, "per_extra_stop", "quantity")));

        JsonNode Stop(string kind, string from) =>
            JsonNode.Parse($$"""{"kind":"{{kind}}","placeId":{{business.Ids[kind == "pickup" ? "from" : "to"]}},"from":"{{from}}"}""")!;
    }
}
