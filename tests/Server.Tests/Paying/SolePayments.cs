using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using static SteadyLark.Server.Tests.TestBusiness;

namespace SteadyLark.Server.Tests.Paying;

/// <summary>Expenses entered as already paid and advances are confirmed by a second person.</summary>
public sealed class SolePayments(TestBusiness business) : IClassFixture<TestBusiness>
{
    [Fact]
    public async Task What_one_person_paid_out_waits_for_another()
    {
        var (owner, books) = (await business.As(Role.Owner), await business.As(Role.Bookkeeper));
        var vendor = (await owner.Post("companies", new { name = "Ridge Road Tire", isVendor = true })).Id;
        var expense = (
            await books.Pay(
                "bills",
                new
                {
                    vendorId = vendor,
                    number = "T-12",
                    amount = Usd(340m),
                    lines = new[] { new { account = "5400", amount = Usd(340m) } },
                    spent = new { method = "card" },
                }
            )
        ).Id;
        var advance = (await books.Pay("advances", new { driverId = business.Ids["moses"], amount = Usd(60m) })).Id;

        // One person does both here: nothing waits, until the company asks for two.
        Assert.Empty((await owner.Get("sole-payments")).Ok.AsArray());
        _ = (await owner.Put("company-settings", new { twoPeople = true })).Ok;
        var waiting = (await books.Get("sole-payments")).Ok.AsArray();
        Assert.Equal(["advance", "expense"], waiting.Select(p => p!["kind"]!.GetValue<string>()).Order());
        Assert.All(waiting, p => Assert.True(p!["mine"]!.GetValue<bool>()));
        Assert.Contains(
            "2 payments to confirm",
            (await owner.Get("today")).Ok["items"]!.AsArray().Select(i => i!["title"]!.GetValue<string>())
        );
        Assert.Equal("pay.same.person", (await books.Post($"bills/{expense}/confirm", new { })).Code);
        Assert.Single((await owner.Post($"bills/{expense}/confirm", new { })).Ok.AsArray());
        Assert.Equal("payment.confirmed", (await owner.Post($"bills/{expense}/confirm", new { })).Code);
        Assert.Empty((await owner.Post($"advances/{advance}/confirm", new { })).Ok.AsArray());
        Assert.Equal(404, (int)(await owner.Post("advances/987654/confirm", new { })).Status);

        // The database says so, too.
        await using var direct = await business.Db.Source.OpenConnectionAsync();
        var refused = await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
            direct.Run("update bills set confirmed_by = paid_by where id = @id", ("id", expense))
        );
        Assert.Equal("bills_confirmed_by_another", refused.ConstraintName);
    }
}
