using System.Net;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Companies;

/// <summary>Customers, carriers and vendors: added, found, edited by two people, and what their file decides.</summary>
public class AddressBook(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static object Company(
        string name,
        int? version = null,
        bool customer = true,
        bool carrier = false,
        object? file = null,
        int? terms = null,
        string? email = "pay@juniper.example"
    ) =>
        new
        {
            name,
            phone = "406-555-0142",
            email,
            town = "Dillon",
            region = "mt",
            isCustomer = customer,
            isCarrier = carrier,
            termsDays = terms,
            carrier = file,
            version,
        };

    [Fact]
    public async Task A_company_is_added_found_and_its_history_recorded()
    {
        var owner = await business.As(Role.Owner);
        var made = (await owner.Post("companies", Company("  Juniper Ridge Mill ", terms: 45))).Ok;
        Assert.Equal(
            ("Juniper Ridge Mill", "MT", 45, 30),
            (
                made["name"]!.GetValue<string>(),
                made["region"]!.GetValue<string>(),
                made["termsDays"]!.GetValue<int>(),
                made["payDays"]!.GetValue<int>()
            )
        );
        var found = (await owner.Get("companies?q=juniper&customers=true")).Ok["rows"]!.AsArray();
        Assert.Equal("Juniper Ridge Mill", found[0]!["name"]!.GetValue<string>());
        Assert.DoesNotContain((await owner.Get("companies?q=juniper&carriers=true")).Ok["rows"]!.AsArray(), c =>
            c!["name"]!.GetValue<string>() == "Juniper Ridge Mill"
        );
        var id = made["id"]!.GetValue<long>();
        var view = (await owner.Get($"companies/{id}")).Ok;
        Assert.Equal("0.00", view["balances"]!["owesUs"]?["amount"]?.GetValue<string>() ?? "0.00");
        _ = (
            await owner.Put(
                $"companies/{id}",
                Company("Juniper Ridge Mill", version: made["version"]!.GetValue<int>(), email: "ap@juniper.example")
            )
        ).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var changes = await SteadyLark.Store.Basics.Sql.Rows(
            db,
            "select kind, before->>'email' as before, after->>'email' as after from events where subject = 'company' and subject_id = @id order by id",
            r => (r.GetString(0), r.IsDBNull(1) ? null : r.GetString(1), r.GetString(2)),
            ("id", id)
        );
        Assert.Equal(
            [("company.added", null, "pay@juniper.example"), ("company.changed", "pay@juniper.example", "ap@juniper.example")],
            changes
        );
    }

    [Fact]
    public async Task Of_two_who_edit_the_same_company_the_second_is_told()
    {
        var (owner, broker) = (await business.As(Role.Owner), await business.As(Role.Broker));
        var made = (await owner.Post("companies", Company("Willow Bench Grain"))).Ok;
        var (id, version) = (made["id"]!.GetValue<long>(), made["version"]!.GetValue<int>());
        _ = (await owner.Put($"companies/{id}", Company("Willow Bench Grain", version, terms: 15))).Ok;
        var late = await broker.Put($"companies/{id}", Company("Willow Bench Grain", version, terms: 60));
        Assert.Equal("stale", late.Code);
        Assert.Equal(15, (await owner.Get($"companies/{id}")).Ok["company"]!["termsDays"]!.GetValue<int>());
    }

    [Fact]
    public async Task A_name_counts_once_and_every_mistake_names_its_field()
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Post("companies", Company("Cottonwood Coulee"))).Ok;
        Assert.Equal(["name"], (await owner.Post("companies", Company("cottonwood coulee"))).Fields);
        Assert.Equal(
            ["name", "email", "termsDays", "isCustomer"],
            (
                await owner.Post(
                    "companies",
                    new
                    {
                        name = " ",
                        email = "not an address",
                        termsDays = -1,
                        isCustomer = false,
                        isCarrier = false,
                    }
                )
            ).Fields
        );
        Assert.Equal(
            ["carrier.usdot"],
            (
                await owner.Post(
                    "companies",
                    Company("Sage Flat Haulers", customer: false, carrier: true, file: new { usdot = "90-01", authorityActive = true })
                )
            ).Fields
        );
        Assert.Equal(HttpStatusCode.NotFound, (await owner.Put("companies/999999", Company("Nobody"))).Status);
    }

    [Fact]
    public async Task A_carriers_file_decides_who_may_have_a_load()
    {
        var owner = await business.As(Role.Owner);
        object File(bool active = true, string? liability = "2027-06-30", string? cargo = "2027-06-30", string? doNotUse = null) =>
            new
            {
                usdot = "9000177",
                authorityActive = active,
                liabilityUntil = liability,
                cargoUntil = cargo,
                doNotUse,
            };
        var made = (
            await owner.Post(
                "companies",
                Company("Larkspur Line Haul", customer: false, carrier: true, file: File(), email: "ops@larkspur.example")
            )
        ).Ok;
        var id = made["id"]!.GetValue<long>();
        var load = (await owner.Post("loads", business.Order(6, "PO fitness"))).Id;
        async Task<List<string>> Blocked() =>
            (await owner.Get($"loads/{load}/choices")).Ok["carriers"]!.AsArray().Single(c => c!["id"]!.GetValue<long>() == id)!["blocked"]!
                .AsArray()
                .Select(b => b!.GetValue<string>())
                .ToList();
        Assert.Empty(await Blocked());
        foreach (
            var (file, code, words) in new[]
            {
                (File(active: false), "carrier.authority", "authority"),
                (File(liability: "2026-11-25"), "carrier.liability", "liability insurance expires Wed Nov 25"),
                (File(cargo: null), "carrier.cargo", "cargo"),
                (File(doNotUse: "left a load standing"), "carrier.do.not.use", "left a load standing"),
            }
        )
        {
            var version = (await owner.Get($"companies/{id}")).Ok["company"]!["version"]!.GetValue<int>();
            _ = (
                await owner.Put($"companies/{id}", Company("Larkspur Line Haul", version, false, true, file, email: "ops@larkspur.example"))
            ).Ok;
            Assert.Contains(words, Assert.Single(await Blocked()), StringComparison.Ordinal);
            Assert.Equal(code, (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(id, TestBusiness.Usd(700m)))).Code);
        }

        Assert.Equal("booked", (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["state"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_role_with_history_is_kept()
    {
        var owner = await business.As(Role.Owner);
        var made = (await owner.Post("companies", Company("Twin Buttes Trading"))).Ok;
        var id = made["id"]!.GetValue<long>();
        Assert.Equal(
            "company.kind",
            (
                await owner.Put(
                    $"companies/{id}",
                    Company(
                        "Twin Buttes Trading",
                        made["version"]!.GetValue<int>(),
                        customer: false,
                        carrier: true,
                        file: new { authorityActive = true }
                    )
                )
            ).Code
        );
        // Another role may be added.
        var both = (
            await owner.Put(
                $"companies/{id}",
                Company(
                    "Twin Buttes Trading",
                    made["version"]!.GetValue<int>(),
                    customer: true,
                    carrier: true,
                    file: new { authorityActive = true }
                )
            )
        ).Ok;
        Assert.True(both["isCarrier"]!.GetValue<bool>() && both["isCustomer"]!.GetValue<bool>());
    }
}
