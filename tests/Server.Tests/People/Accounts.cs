using System.Net;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using NodaTime;
using OtpNet;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;
using Xunit;

namespace SteadyLark.Server.Tests.People;

/// <summary>Users, their passwords, second factors, roles and API tokens, over HTTP.</summary>
public class Accounts(TestBusiness business) : IClassFixture<TestBusiness>
{
    private const string Good = "nine gravel cottonwood";

    private static int _numbers;

    private static string Fresh(string name) => $"{name}{Interlocked.Increment(ref _numbers)}";

    private static async Task<long> RoleId(Caller owner, string name) =>
        (await owner.Get("roles")).Ok["roles"]!.AsArray().First(r => r!["name"]!.GetValue<string>() == name)!["id"]!.GetValue<long>();

    private static string TokenOf(string url) => url.Split('/')[^1];

    private static async Task<(long Id, string Login, string Link)> Invited(Caller owner, string role = "Dispatcher", long? driverId = null)
    {
        var login = Fresh("pat");
        var made = (
            await owner.Post(
                "users",
                new
                {
                    login,
                    name = "Pat Lund",
                    email = $"{login}@sixmile.example",
                    roleId = await RoleId(owner, role),
                    driverId,
                }
            )
        ).Ok;
        return (made["user"]!["id"]!.GetValue<long>(), login, made["link"]!.GetValue<string>());
    }

    /// <summary>Somebody invited, with a password, signed in.</summary>
    private async Task<(long Id, string Login, Caller Caller)> Joined(Caller owner, string role = "Dispatcher")
    {
        var (id, login, link) = await Invited(owner, role);
        _ = (await business.Nobody().Post($"account-links/{TokenOf(link)}/password", new { password = Good })).Ok;
        return (id, login, await SignedIn(login, Good));
    }

    private async Task<Caller> SignedIn(string login, string password, string? code = null)
    {
        var caller = business.Nobody();
        caller.Token = (
            await caller.Post(
                "session",
                new
                {
                    login,
                    password,
                    code,
                }
            )
        ).Ok["token"]!.GetValue<string>();
        return caller;
    }

    private async Task<List<(string To, string Text)>> Emails()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        return await db.Rows("select to_address, eml from emails where direction = 'out' order by id", r =>
            (r.GetString(0), Eml.Read(r.GetFieldValue<byte[]>(1)).Text)
        );
    }

    private string CodeOf(string secret) =>
        new Totp(Base32Encoding.ToBytes(secret.Replace(" ", "", StringComparison.Ordinal))).ComputeTotp(business.Clock.Now.ToDateTimeUtc());

    [Fact]
    public async Task An_invitation_works_once_and_only_with_a_good_password()
    {
        var owner = await business.As(Role.Owner);
        var (id, login, link) = await Invited(owner);
        Assert.Contains(await Emails(), m =>
            m.To == $"{login}@sixmile.example"
            && m.Text.Contains(link, StringComparison.Ordinal)
            && m.Text.Contains(login, StringComparison.Ordinal)
        );
        var nobody = business.Nobody();
        var path = $"account-links/{TokenOf(link)}";
        Assert.Equal(login, (await nobody.Get(path)).Ok["login"]!.GetValue<string>());
        Assert.Equal("sign.in.wrong", (await nobody.Post("session", new { login, password = "" })).Code);
        foreach (
            var (password, code) in new[]
            {
                ("short", "password.length"),
                ("Password12345", "password.common"),
                ("patlund patlund", "password.own"),
                (null, "missing"),
            }
        )
        {
            Assert.Equal(code, (await nobody.Post($"{path}/password", new { password })).Code);
        }

        _ = (await nobody.Post($"{path}/password", new { password = Good })).Ok;
        Assert.Equal("link.gone", (await nobody.Post($"{path}/password", new { password = Good })).Code);
        Assert.Equal("link.gone", (await nobody.Get(path)).Code);
        var pat = await SignedIn($"{login.ToUpperInvariant()}@SIXMILE.example", Good);
        Assert.Equal("Dispatcher", (await pat.Get("session")).Ok["role"]!.GetValue<string>());
        Assert.Equal(HttpStatusCode.Forbidden, (await pat.Get("users")).Status);

        // Deactivated: signed out at once, and not let in again.
        _ = (await owner.Post($"users/{id}/deactivate")).Ok;
        Assert.Equal(HttpStatusCode.Unauthorized, (await pat.Get("session")).Status);
        Assert.Equal("sign.in.wrong", (await business.Nobody().Post("session", new { login, password = Good })).Code);
        _ = (await owner.Post($"users/{id}/reactivate")).Ok;
        await SignedIn(login, Good);
    }

    [Fact]
    public async Task An_invitation_expires_and_is_replaced_by_the_next()
    {
        var owner = await business.As(Role.Owner);
        var (id, _, first) = await Invited(owner);
        var second = (await owner.Post($"users/{id}/link")).Ok["link"]!.GetValue<string>();
        Assert.Equal("link.gone", (await business.Nobody().Get($"account-links/{TokenOf(first)}")).Code);
        var was = business.Clock.Now;
        try
        {
            business.Clock.Now = was + SessionRules.InvitationFor + Duration.FromMinutes(1);
            Assert.Equal("link.gone", (await business.Nobody().Get($"account-links/{TokenOf(second)}")).Code);
        }
        finally
        {
            business.Clock.Now = was;
        }

        // What is stored of a link does not open it.
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var stored = await db.One<string>("select token_hash from account_links where user_id = @id and used_at is null", ("id", id));
        Assert.Equal("link.gone", (await business.Nobody().Get($"account-links/{stored}")).Code);
    }

    [Fact]
    public async Task Bad_invitations_name_their_fields()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, _) = await Invited(owner);
        var role = await RoleId(owner, "Broker");
        Assert.Equal(["login", "name", "email", "roleId"], (await owner.Post("users", new { })).Fields);
        Assert.Equal(
            ["login"],
            (
                await owner.Post(
                    "users",
                    new
                    {
                        login,
                        name = "X",
                        email = $"{Fresh("a")}@b.example",
                        roleId = role,
                    }
                )
            ).Fields
        );
        Assert.Equal(
            ["email"],
            (
                await owner.Post(
                    "users",
                    new
                    {
                        login = Fresh("x"),
                        name = "X",
                        email = $"{login}@SIXMILE.example",
                        roleId = role,
                    }
                )
            ).Fields
        );
        Assert.Equal(
            ["driverId"],
            (
                await owner.Post(
                    "users",
                    new
                    {
                        login = Fresh("x"),
                        name = "X",
                        email = $"{Fresh("a")}@b.example",
                        roleId = await RoleId(owner, "Driver"),
                    }
                )
            ).Fields
        );
        Assert.Equal(
            ["driverId"],
            (
                await owner.Post(
                    "users",
                    new
                    {
                        login = Fresh("x"),
                        name = "X",
                        email = $"{Fresh("a")}@b.example",
                        roleId = role,
                        driverId = business.Ids["lena"],
                    }
                )
            ).Fields
        );
        // One username a driver.
        Assert.Equal(
            ["driverId"],
            (
                await owner.Post(
                    "users",
                    new
                    {
                        login = Fresh("x"),
                        name = "X",
                        email = $"{Fresh("a")}@b.example",
                        roleId = await RoleId(owner, "Driver"),
                        driverId = business.Ids["moses"],
                    }
                )
            ).Fields
        );
    }

    [Fact]
    public async Task A_forgotten_password_is_reset_by_a_link_and_a_stranger_learns_nothing()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, caller) = await Joined(owner);
        var nobody = business.Nobody();
        var unknown = await nobody.Post("password-reset", new { name = "no-such-user" });
        var known = await nobody.Post("password-reset", new { name = $"{login}@sixmile.example" });
        Assert.Equal((unknown.Status, unknown.Body!.ToJsonString()), (known.Status, known.Body!.ToJsonString()));
        var link = Regex
            .Match((await Emails()).Last(m => m.To.StartsWith(login, StringComparison.Ordinal)).Text, "/welcome/([0-9a-f]{48})")
            .Groups[1]
            .Value;
        _ = (await nobody.Post($"account-links/{link}/password", new { password = "seven quiet grain bins" })).Ok;
        Assert.Equal(HttpStatusCode.Unauthorized, (await caller.Get("session")).Status);
        Assert.Equal("sign.in.wrong", (await business.Nobody().Post("session", new { login, password = Good })).Code);
        await SignedIn(login, "seven quiet grain bins");

        // Nobody's mailbox is flooded.
        var before = (await Emails()).Count;
        for (var i = 0; i < 5; i++)
        {
            _ = (await nobody.Post("password-reset", new { name = login })).Ok;
        }

        Assert.InRange((await Emails()).Count - before, 0, 2);
    }

    [Fact]
    public async Task Changing_the_password_needs_the_old_one_and_ends_the_other_sessions()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, here) = await Joined(owner);
        var there = await SignedIn(login, Good);
        Assert.Equal(
            ["current"],
            (await here.Post("account/password", new { current = "wrong", password = "seven quiet grain bins" })).Fields
        );
        Assert.Equal(["password"], (await here.Post("account/password", new { current = Good, password = "1234567890123" })).Fields);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await here.Post("account/password", new { current = Good, password = "seven quiet grain bins" })).Status
        );
        Assert.Equal(HttpStatusCode.OK, (await here.Get("session")).Status);
        Assert.Equal(HttpStatusCode.Unauthorized, (await there.Get("session")).Status);
        Assert.Contains(await Emails(), m =>
            m.To.StartsWith(login, StringComparison.Ordinal)
            && m.Text.Contains("password of your account was changed", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task Sessions_are_listed_and_ended_one_by_one_and_all_others_at_once()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, here) = await Joined(owner);
        var there = await SignedIn(login, Good);
        var third = await SignedIn(login, Good);
        var account = (await here.Get("account")).Ok;
        Assert.Equal(3, account["sessions"]!.AsArray().Count);
        var other = (await there.Get("account")).Ok["current"]!.GetValue<string>();
        Assert.Equal(HttpStatusCode.NotFound, (await owner.Post($"account/sessions/{other}/end")).Status);
        _ = (await here.Post($"account/sessions/{other}/end")).Ok;
        Assert.Equal(HttpStatusCode.Unauthorized, (await there.Get("session")).Status);
        _ = (await here.Post("account/sessions/end-others")).Ok;
        Assert.Equal(HttpStatusCode.Unauthorized, (await third.Get("session")).Status);
        Assert.Equal(HttpStatusCode.OK, (await here.Get("session")).Status);
    }

    [Fact]
    public async Task A_second_factor_is_asked_for_each_code_counts_once_and_recovery_codes_too()
    {
        var owner = await business.As(Role.Owner);
        var (id, login, caller) = await Joined(owner);
        var secret = (await caller.Post("account/second-factor")).Ok["secret"]!.GetValue<string>();
        Assert.Equal(["code"], (await caller.Post("account/second-factor/confirm", new { code = "000000" })).Fields);
        var codes = (await caller.Post("account/second-factor/confirm", new { code = CodeOf(secret) })).Ok["codes"]!
            .AsArray()
            .Select(c => c!.GetValue<string>())
            .ToList();
        Assert.Equal(10, codes.Distinct().Count());
        Assert.Equal("second.factor", (await business.Nobody().Post("session", new { login, password = Good })).Code);
        // The code that turned it on does not count again.
        Assert.Equal(
            "second.factor.wrong",
            (
                await business
                    .Nobody()
                    .Post(
                        "session",
                        new
                        {
                            login,
                            password = Good,
                            code = CodeOf(secret),
                        }
                    )
            ).Code
        );
        business.Clock.Now += Duration.FromSeconds(30);
        Assert.Equal(
            "sign.in.wrong",
            (
                await business
                    .Nobody()
                    .Post(
                        "session",
                        new
                        {
                            login,
                            password = "wrong",
                            code = CodeOf(secret),
                        }
                    )
            ).Code
        );
        await SignedIn(login, Good, CodeOf(secret));
        await SignedIn(login, Good, codes[0].ToUpperInvariant());
        Assert.Equal(
            "second.factor.wrong",
            (
                await business
                    .Nobody()
                    .Post(
                        "session",
                        new
                        {
                            login,
                            password = Good,
                            code = codes[0],
                        }
                    )
            ).Code
        );
        Assert.Equal(9, (await caller.Get("account")).Ok["recoveryCodesLeft"]!.GetValue<int>());

        // A lost phone: an administrator removes it.
        _ = (await owner.Post($"users/{id}/remove-second-factor")).Ok;
        await SignedIn(login, Good);
    }

    [Fact]
    public async Task Guessing_codes_is_limited_like_guessing_passwords()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, caller) = await Joined(owner);
        var secret = (await caller.Post("account/second-factor")).Ok["secret"]!.GetValue<string>();
        _ = (await caller.Post("account/second-factor/confirm", new { code = CodeOf(secret) })).Ok;
        var codes = new List<string?>();
        for (var i = 0; i < 7; i++)
        {
            codes.Add(
                (
                    await business
                        .Nobody()
                        .Post(
                            "session",
                            new
                            {
                                login,
                                password = Good,
                                code = $"{i:000000}",
                            }
                        )
                ).Code
            );
        }

        Assert.Equal("sign.in.wait", codes[^1]);
        business.Clock.Now += SignInLimits.Window + Duration.FromSeconds(1);
        await SignedIn(login, Good, CodeOf(secret));
    }

    [Fact]
    public async Task Payments_and_rights_need_the_password_again_after_fifteen_minutes()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, caller) = await Joined(owner, "Owner");
        business.Clock.Now += SessionRules.ConfirmedFor + Duration.FromSeconds(1);
        var advance = new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(20m) };
        Assert.Equal("confirm.password", (await caller.Pay("advances", advance)).Code);
        Assert.Equal("confirm.password", (await caller.Post("roles", new { name = Fresh("Desk"), rights = new[] { "loads.see" } })).Code);
        Assert.Equal(HttpStatusCode.OK, (await caller.Get("loads")).Status);
        Assert.Equal("sign.in.wrong", (await caller.Post("session/confirm", new { password = "wrong" })).Code);
        Assert.Equal("confirm.password", (await caller.Pay("advances", advance)).Code);
        Assert.Equal(HttpStatusCode.NoContent, (await caller.Post("session/confirm", new { password = Good })).Status);
        _ = (await caller.Pay("advances", advance)).Ok;
        _ = login;
    }

    [Fact]
    public async Task A_required_second_factor_comes_before_everything_else()
    {
        var owner = await business.As(Role.Owner);
        var (_, login, _) = await Joined(owner);
        try
        {
            _ = (await owner.Put("company-settings", new { secondFactor = true })).Ok;
            var caller = await SignedIn(login, Good);
            Assert.True((await caller.Get("session")).Ok["mustEnroll"]!.GetValue<bool>());
            Assert.Equal("second.factor.needed", (await caller.Get("loads")).Code);
            Assert.Equal("second.factor.needed", (await caller.Post("loads", business.Order())).Code);
            var secret = (await caller.Post("account/second-factor")).Ok["secret"]!.GetValue<string>();
            _ = (await caller.Post("account/second-factor/confirm", new { code = CodeOf(secret) })).Ok;
            _ = (await caller.Get("loads")).Ok;
            Assert.Equal("second.factor.required", (await caller.Post("account/second-factor/remove")).Code);
            // Drivers work on.
            Assert.False((await (await business.As(Role.Driver)).Get("session")).Ok["mustEnroll"]!.GetValue<bool>());
        }
        finally
        {
            _ = (await owner.Put("company-settings", new { secondFactor = false })).Ok;
        }
    }

    [Fact]
    public async Task An_edited_role_takes_effect_at_once_and_nobody_grants_or_revokes_beyond_their_own()
    {
        var owner = await business.As(Role.Owner);
        var name = Fresh("Night desk ");
        var role = (await owner.Post("roles", new { name, rights = new[] { "loads.see", "users.edit" } })).Id;
        Assert.Equal(
            "name.taken",
            (await owner.Post("roles", new { name = name.ToUpperInvariant(), rights = new[] { "loads.see" } })).Code
        );
        var (id, _, caller) = await Joined(owner, name);
        Assert.Equal(HttpStatusCode.Forbidden, (await caller.Post("loads", business.Order())).Status);
        _ = (await owner.Put($"roles/{role}", new { name, rights = new[] { "loads.see", "loads.book", "users.edit" } })).Ok;
        _ = (await caller.Post("loads", business.Order(5, Fresh("PO ")))).Ok;

        // With users.edit alone: no rights beyond one's own, for nobody, by no way.
        Assert.Equal("rights.beyond", (await caller.Post("roles", new { name = Fresh("Up "), rights = new[] { "paying.pay" } })).Code);
        Assert.Equal(
            "rights.beyond",
            (await caller.Put($"roles/{role}", new { name, rights = new[] { "loads.see", "users.edit", "ledger.post" } })).Code
        );
        Assert.Equal(
            "rights.beyond",
            (
                await caller.Put(
                    $"users/{id}",
                    new
                    {
                        name = "Pat",
                        email = $"{Fresh("p")}@b.example",
                        roleId = await RoleId(owner, "Owner"),
                    }
                )
            ).Code
        );
        var ownerId = (await owner.Get("session")).Ok["userId"]!.GetValue<long>();
        foreach (var act in new[] { "link", "deactivate", "sign-out", "remove-second-factor" })
        {
            Assert.Equal("user.beyond", (await caller.Post($"users/{ownerId}/{act}")).Code);
        }

        Assert.Equal(
            "role.fixed",
            (await owner.Put($"roles/{await RoleId(owner, "Owner")}", new { name = "Owner", rights = new[] { "loads.see" } })).Code
        );
        Assert.Equal("role.used", (await owner.Post($"roles/{role}/remove")).Code);
        Assert.Equal(
            "user.last.owner",
            (
                await owner.Put(
                    $"users/{ownerId}",
                    new
                    {
                        name = "The owner",
                        email = "owner@b.example",
                        roleId = await RoleId(owner, "Broker"),
                    }
                )
            ).Code
        );
    }

    [Fact]
    public async Task The_database_always_keeps_an_owner()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var refused = await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
            db.Run("update users set active = false where role_id = (select id from roles where standard = 'owner')")
        );
        Assert.Equal("LK006", refused.SqlState);
        Assert.Equal(
            "23514",
            (
                await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
                    db.Run("update roles set rights = '{loads.see}' where standard = 'owner'")
                )
            ).SqlState
        );
        Assert.Equal(
            "23514",
            (
                await Assert.ThrowsAsync<Npgsql.PostgresException>(() =>
                    db.Run("update users set driver_id = (select min(id) from drivers) where login = 'broker'")
                )
            ).SqlState
        );
    }

    [Fact]
    public async Task A_token_has_its_rights_until_it_or_its_user_ends()
    {
        var owner = await business.As(Role.Owner);
        var (id, _, caller) = await Joined(owner, "Dispatcher");
        Assert.Equal(
            "rights.beyond",
            (
                await caller.Post(
                    "tokens",
                    new
                    {
                        name = "x",
                        rights = new[] { "paying.pay" },
                        days = 5,
                    }
                )
            ).Code
        );
        Assert.Equal(["name", "rights", "days"], (await caller.Post("tokens", new { })).Fields);
        var made = (
            await caller.Post(
                "tokens",
                new
                {
                    name = "Board",
                    rights = new[] { "loads.see" },
                    days = 5,
                }
            )
        ).Ok;
        var program = business.Nobody();
        program.Http.DefaultRequestHeaders.Authorization = new("Bearer", made["token"]!.GetValue<string>());
        _ = (await program.Get("loads")).Ok;
        Assert.Equal("no.right", (await program.Post("loads", business.Order())).Code);
        Assert.Equal(
            "no.right",
            (await program.Post("account/password", new { current = Good, password = "seven quiet grain bins" })).Code
        );
        Assert.Equal("no.right", (await program.Get("account")).Code);

        // A token that may book books, without the page's token; the event says whose it was.
        var books = (
            await caller.Post(
                "tokens",
                new
                {
                    name = "Orders",
                    rights = new[] { "loads.see", "loads.book" },
                    days = 5,
                }
            )
        ).Ok;
        var orders = business.Nobody();
        orders.Http.DefaultRequestHeaders.Authorization = new("Bearer", books["token"]!.GetValue<string>());
        var load = (await orders.Post("loads", business.Order(6, Fresh("PO ")))).Id;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Equal(id, await db.One<long>("select user_id from events where load_id = @load and kind = 'load.booked'", ("load", load)));

        _ = (await caller.Post($"tokens/{made["row"]!["id"]}/revoke")).Ok;
        Assert.Equal(HttpStatusCode.Unauthorized, (await program.Get("loads")).Status);
        var was = business.Clock.Now;
        business.Clock.Now = was + Duration.FromDays(6);
        Assert.Equal(HttpStatusCode.Unauthorized, (await orders.Get("loads")).Status);
        business.Clock.Now = was;
        _ = (await owner.Post($"users/{id}/deactivate")).Ok;
        Assert.Equal(HttpStatusCode.Unauthorized, (await orders.Get("loads")).Status);
        program.Http.DefaultRequestHeaders.Authorization = new("Bearer", "lark_" + new string('0', 48));
        Assert.Equal(HttpStatusCode.Unauthorized, (await program.Get("loads")).Status);
    }

    [Fact]
    public async Task One_person_alone_pays_nothing_above_the_limit()
    {
        var owner = await business.As(Role.Owner);
        try
        {
            _ = (await owner.Put("company-settings", new { soleLimit = 100 })).Ok;
            var clerk = await business.As(Role.Bookkeeper);
            Assert.Equal(
                "limit.exceeded",
                (await clerk.Pay("advances", new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(100.01m) })).Code
            );
            _ = (await clerk.Pay("advances", new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(100m) })).Ok;
            _ = (await owner.Pay("advances", new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(100.01m) })).Ok;
            var vendor = (
                await clerk.Post(
                    "companies",
                    new
                    {
                        name = Fresh("Tire shop "),
                        isCustomer = false,
                        isCarrier = false,
                        isVendor = true,
                    }
                )
            ).Id;
            object Bill(decimal amount, bool spent) =>
                new
                {
                    vendorId = vendor,
                    number = Fresh("T-"),
                    amount = TestBusiness.Usd(amount),
                    lines = new[]
                    {
                        new
                        {
                            account = "5400",
                            description = "tires",
                            amount = TestBusiness.Usd(amount),
                        },
                    },
                    spent = spent ? new { method = "card" } : null,
                };
            Assert.Equal("limit.exceeded", (await clerk.Pay("bills", Bill(250m, true))).Code);
            var bill = (await clerk.Pay("bills", Bill(250m, false))).Id;
            _ = (await owner.Pay($"bills/{bill}/approve", new { })).Ok;
            Assert.Equal("limit.exceeded", (await clerk.PayBills("check", bill)).Code);
            _ = (await owner.PayBills("check", bill)).Ok;
        }
        finally
        {
            _ = (await owner.Put("company-settings", new { soleLimit = 0 })).Ok;
        }
    }

    [Fact]
    public async Task Credit_limits_and_insurance_are_changed_only_with_the_right()
    {
        var owner = await business.As(Role.Owner);
        var dispatcher = await business.As(Role.Dispatcher);
        var name = Fresh("Sixmile Carriers ");
        JsonNode Company(string limit, string until, bool authority = true) =>
            JsonSerializer.SerializeToNode(
                new
                {
                    name,
                    isCustomer = true,
                    isCarrier = true,
                    creditLimit = new { amount = limit, currency = "USD" },
                    carrier = new
                    {
                        usdot = "9000555",
                        authorityActive = authority,
                        liabilityUntil = until,
                    },
                }
            )!;
        Assert.Equal(["creditLimit", "carrier.usdot"], (await dispatcher.Post("companies", Company("5000.00", "2027-05-01"))).Fields);
        var made = (await owner.Post("companies", Company("5000.00", "2027-05-01"))).Ok;
        var same = Company("5000.00", "2027-05-01");
        same["version"] = made["version"]!.DeepClone();
        same["phone"] = "406-555-0199";
        var after = (await dispatcher.Put($"companies/{made["id"]}", same)).Ok;
        foreach (
            var (changed, field) in new[]
            {
                (Company("9000.00", "2027-05-01"), "creditLimit"),
                (Company("5000.00", "2028-05-01"), "carrier.usdot"),
                (Company("5000.00", "2027-05-01", authority: false), "carrier.usdot"),
            }
        )
        {
            changed["version"] = after["version"]!.DeepClone();
            Assert.Equal([field], (await dispatcher.Put($"companies/{made["id"]}", changed)).Fields);
        }
    }

    [Fact]
    public async Task The_companys_logo_and_numbers_are_on_its_documents()
    {
        var owner = await business.As(Role.Owner);
        object Company(string? logo, string mc = "MC-123456") =>
            new
            {
                name = "Tamarack Bend Freight",
                address = "410 Tamarack Bend Road",
                phone = "406-555-0100",
                email = "freight@tamarackbend.example",
                usdot = "0000100",
                mcNumber = mc,
                zone = "America/Denver",
                logo,
            };
        Assert.Equal(["logo"], (await owner.Put("company", Company("bm90IGEgcGljdHVyZQ=="))).Fields);
        // A head that promises 60,000 by 60,000 points, and one with nothing behind it.
        var head = Convert.FromBase64String(TestBusiness.OnePoint)[..33];
        Assert.Equal(["logo"], (await owner.Put("company", Company(Convert.ToBase64String(head)))).Fields);
        (head[18], head[22]) = (0xEA, 0xEA);
        Assert.Equal(["logo"], (await owner.Put("company", Company(Convert.ToBase64String(head)))).Fields);
        Assert.Equal(["mcNumber"], (await owner.Put("company", Company(null, "ninety"))).Fields);
        _ = (await owner.Put("company", Company(TestBusiness.OnePoint))).Ok;
        Assert.Equal("123456", (await owner.Get("company")).Ok["mcNumber"]!.GetValue<string>());

        var load = (await owner.Post("loads", business.Order(8, Fresh("PO ")))).Id;
        _ = (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(700m)))).Ok;
        var document = await business.RateConfirmation(load);
        using var pdf = UglyToad.PdfPig.PdfDocument.Open(await owner.Http.GetByteArrayAsync($"/api/documents/{document}/file"));
        var page = pdf.GetPage(1);
        Assert.Single(page.GetImages());
        Assert.Contains("USDOT 0000100, MC 123456", page.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_first_run_link_creates_no_second_company()
    {
        string token;
        await using (var db = await business.Db.Source.OpenConnectionAsync())
        {
            token = await AccountLinkStore.Make(db, AccountLinkKind.FirstRun, null, business.Clock.Now, SessionRules.FirstRunFor);
        }

        var body = new
        {
            company = "Other",
            address = "x",
            phone = "1",
            email = "a@b.example",
            zone = "America/Denver",
            name = "Eve",
            login = "eve",
            ownerEmail = "eve@b.example",
            password = Good,
        };
        Assert.Equal("link.gone", (await business.Nobody().Post($"account-links/{token}/company", body)).Code);
        Assert.Equal("link.gone", (await business.Nobody().Post($"account-links/{token}/password", new { password = Good })).Code);
        var (_, _, invitation) = await Invited(await business.As(Role.Owner));
        Assert.Equal("link.gone", (await business.Nobody().Post($"account-links/{TokenOf(invitation)}/company", body)).Code);
    }
}
