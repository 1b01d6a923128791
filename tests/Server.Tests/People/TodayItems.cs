using NodaTime;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.People;

/// <summary>What needs attention comes and goes with its cause, and each user sees only their own rooms.</summary>
public class TodayItems(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static async Task<List<(string Kind, string Title)>> Of(Caller caller) =>
        (await caller.Get("today")).Ok["items"]!
            .AsArray()
            .Select(i => (i!["kind"]!.GetValue<string>(), i["title"]!.GetValue<string>()))
            .ToList();

    private static async Task<string> Number(Caller owner, long load) =>
        (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["number"]!.GetValue<string>();

    [Fact]
    public async Task A_load_is_an_item_from_uncovered_to_billed_and_no_longer()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(1, "PO today"))).Id;
        var number = await Number(owner, load);
        Assert.Contains(await Of(owner), i => i.Kind == "cover" && i.Title == $"{number} Great Falls to Spokane is not covered");
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(700m)))).Ok;
        var unconfirmed = Assert.Single(await Of(owner), i => i.Title.StartsWith(number, StringComparison.Ordinal));
        Assert.Equal("roll", unconfirmed.Kind);
        Assert.Contains("unconfirmed", unconfirmed.Title, StringComparison.Ordinal);
        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
        _ = (await owner.Post($"loads/{load}/cancel", new { why = "customer called it off" })).Ok;
        Assert.DoesNotContain(await Of(owner), i => i.Title.StartsWith(number, StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_delivered_load_waits_for_its_documents_then_for_billing_then_for_its_money()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -12, "lena", pod: false);
        var number = await Number(owner, load);
        Assert.Contains(await Of(owner), i =>
            i.Kind == "document"
            && i.Title.StartsWith(number, StringComparison.Ordinal)
            && i.Title.EndsWith("is missing its POD", StringComparison.Ordinal)
        );
        _ = (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.png", Convert.FromBase64String(TestBusiness.OnePoint))).Ok;
        var items = await Of(owner);
        Assert.DoesNotContain(items, i => i.Kind == "document" && i.Title.StartsWith(number, StringComparison.Ordinal));
        Assert.Contains(items, i => i.Kind == "bill");
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load }, termsDays = 0 })).Ok;
        Assert.DoesNotContain(await Of(owner), i => i.Kind == "overdue");
        var was = business.Clock.Now;
        try
        {
            // Due on receipt: from the next day on it is past due, after thirty days it is urgent.
            business.Clock.Now = was + Duration.FromDays(1);
            owner = await business.As(Role.Owner);
            Assert.Contains(await Of(owner), i => i is { Kind: "overdue", Title: "Snowberry Creamery owes $1,298.59" });
            business.Clock.Now = was + Duration.FromDays(31);
            owner = await business.As(Role.Owner);
            var overdue = (await owner.Get("today")).Ok["items"]!.AsArray().Single(i => i!["kind"]!.GetValue<string>() == "overdue")!;
            Assert.Equal(("now", "31 days past due"), (overdue["urgency"]!.GetValue<string>(), overdue["when"]!.GetValue<string>()));
        }
        finally
        {
            business.Clock.Now = was;
        }
    }

    [Fact]
    public async Task A_bill_over_the_agreed_amount_is_compared_approved_and_paid()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -20, "carrier");
        var leg = (await owner.Get($"loads/{load}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = leg,
                    number = "TF-1",
                    billedOn = "2026-11-20",
                    dueOn = "2026-11-23",
                    amount = TestBusiness.Usd(740m),
                }
            )
        ).Ok["id"]!.GetValue<long>();
        Assert.Contains(await Of(owner), i =>
            i is { Kind: "bill_over", Title: "Two Forks Trucking bill TF-1 is $40.00 over the agreed amount" }
        );
        _ = (await owner.Pay($"bills/{bill}/approve", new { reason = "two hours of detention" })).Ok;
        var items = await Of(owner);
        Assert.DoesNotContain(items, i => i.Kind is "bill_over" or "approve");
        Assert.Contains(items, i => i is { Kind: "pay_due", Title: "1 approved bill due" });
        _ = (await owner.PayBills("ach", bill)).Ok;
        Assert.DoesNotContain(await Of(owner), i => i.Kind == "pay_due");
    }

    [Fact]
    public async Task Each_user_sees_the_items_of_their_own_rooms()
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Post("loads", business.Order(1, "PO rooms"))).Ok;
        _ = await business.Delivered(owner, -28, "moses");
        var kinds = (await Of(owner)).Select(i => i.Kind).ToHashSet();
        Assert.Contains("cover", kinds);
        Assert.Contains("bill", kinds);
        var dispatcher = (await Of(await business.As(Role.Dispatcher))).Select(i => i.Kind).ToHashSet();
        Assert.Contains("cover", dispatcher);
        Assert.Empty(dispatcher.Intersect(["bill", "overdue", "approve", "bill_over", "pay_due", "weeks"]));
        var bookkeeper = await business.As(Role.Bookkeeper);
        Assert.Contains("bill", (await Of(bookkeeper)).Select(i => i.Kind));
        Assert.Equal(System.Net.HttpStatusCode.Forbidden, (await (await business.As(Role.Driver)).Get("today")).Status);
    }
}
