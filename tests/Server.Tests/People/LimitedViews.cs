using System.Net;
using System.Reflection;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.People;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Server.Tests.People;

/// <summary>A user whose view is limited to customers, offices, driver groups or days ahead finds nothing beyond, and can do nothing to
/// it.</summary>
public class LimitedViews(TestBusiness business) : IClassFixture<TestBusiness>
{
    private static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["America/Denver"];

    /// <summary>Texts that stand only on hidden loads, in hidden pay, and on the hidden customer and driver.</summary>
    private const string Load = "PO behind",
        Document = "behind-pod",
        Pay = "317.77",
        Customer = "Ferncliff Log Homes",
        Driver = "Okafor";

    private sealed record World(
        long Seen,
        long Ahead,
        long Billed,
        long Invoice,
        long Payment,
        long North,
        long South,
        long Ours,
        long Theirs,
        List<long> Documents,
        List<long> Emails
    );

    /// <summary>
    /// One load within every limit, and two beyond each of them (another customer's, of another office, with a driver of another group):
    /// one far ahead, one
    /// delivered, invoiced and paid.
    /// </summary>
    private async Task<World> Make()
    {
        var owner = await business.As(Role.Owner);
        var north = (await owner.Post("offices", new { name = "Great Falls" })).Id;
        var south = (await owner.Post("offices", new { name = "Fargo" })).Id;
        var ours = (await owner.Post("driver-groups", new { name = "Regional" })).Id;
        var theirs = (await owner.Post("driver-groups", new { name = "Long haul" })).Id;
        foreach (var (driver, name, group) in new[] { ("lena", "Lena Haugen", ours), ("moses", "Moses Okafor", theirs) })
        {
            _ = (await owner.Put($"drivers/{business.Ids[driver]}", new { name, groupId = group })).Ok;
        }

        business.Ids["other customer"] = (
            await owner.Post(
                "companies",
                new
                {
                    name = Customer,
                    isCustomer = true,
                    termsDays = 30,
                    email = "ap@ferncliff.example",
                }
            )
        ).Id;
        var seen = (await owner.Post("loads", Order("customer", north, 1, "PO seen"))).Id;
        _ = (await owner.Post($"loads/{seen}/cover/driver", business.Crew("lena"))).Ok;
        var ahead = (await owner.Post("loads", Order("other customer", south, 25, Load))).Id;
        _ = (await owner.Post($"loads/{ahead}/cover/driver", business.Crew("moses"))).Ok;
        var billed = (await owner.Post("loads", Order("other customer", south, -4, Load))).Id;
        _ = (await owner.Post($"loads/{billed}/cover/driver", business.Crew("moses"))).Ok;
        var stops = (await owner.Get($"loads/{billed}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        _ = (await owner.Post($"loads/{billed}/stops/{stops[0]}", new { @event = "left", at = "2026-11-19T14:00:00Z" })).Ok;
        _ = (
            await owner.Post(
                $"loads/{billed}/stops/{stops[1]}",
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
        _ = (await owner.Upload($"loads/{billed}/documents?kind=pod&name={Document}.pdf", pdf)).Ok;
        _ = (await owner.Upload($"documents/tray?name={Document}-tray.pdf", pdf)).Ok;
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { billed }, mailTo = "ap@ferncliff.example" })).Id;
        var total = (await owner.Get($"invoices/{invoice}")).Ok["invoice"]!["total"]!;
        var payment = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["other customer"],
                    receivedOn = "2026-11-22",
                    method = "check",
                    reference = Load,
                    amount = total.DeepClone(),
                    applications = new[] { new { invoiceId = invoice, amount = total.DeepClone() } },
                }
            )
        ).Id;
        _ = (await owner.Pay("advances", new { driverId = business.Ids["moses"], amount = TestBusiness.Usd(317.77m) })).Ok;
        await using var db = await business.Db.Source.OpenConnectionAsync();
        return new World(
            seen,
            ahead,
            billed,
            invoice,
            payment,
            north,
            south,
            ours,
            theirs,
            await db.Rows("select id from documents", r => r.GetInt64(0)),
            await db.Rows("select id from emails", r => r.GetInt64(0))
        );
    }

    private JsonNode Order(string customer, long office, int day, string reference)
    {
        var order = JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(business.Order(day, reference)))!;
        order["customerId"] = business.Ids[customer];
        order["officeId"] = office;
        return order;
    }

    /// <summary>The bookkeeper with every right, and these limits.</summary>
    private async Task<Caller> Limited(ViewLimits limits)
    {
        var owner = await business.As(Role.Owner);
        var user = (await owner.Get("users")).Ok.AsArray().Single(u => u!["login"]!.GetValue<string>() == "bookkeeper")!;
        var roles = (await owner.Get("roles")).Ok["roles"]!.AsArray();
        var role = roles.FirstOrDefault(r => r!["name"]!.GetValue<string>() == "All rights")?["id"]!.GetValue<long>()
            ?? (await owner.Post("roles", new { name = "All rights", rights = Rights.Offered.Select(o => o.Name) })).Id;
        _ = (
            await owner.Put(
                $"users/{user["id"]}",
                new
                {
                    name = "Bo",
                    email = "bo@tamarackbend.example",
                    roleId = role,
                    limits = new
                    {
                        limits.Customers,
                        limits.Offices,
                        limits.DriverGroups,
                        limits.DaysAhead,
                    },
                }
            )
        ).Ok;
        return await business.As(Role.Bookkeeper);
    }

    [Fact]
    public async Task Nothing_beyond_a_limit_is_sent_found_exported_or_heard_and_nothing_can_be_done_to_it()
    {
        var world = await Make();
        var ids = business.Ids;
        long[] asked =
        [
            world.Seen,
            world.Ahead,
            world.Billed,
            world.Invoice,
            world.Payment,
            ids["customer"],
            ids["other customer"],
            ids["moses"],
            ids["lena"],
            ids["carrier"],
        ];
        Task<Dictionary<string, string>> Everything(Caller caller) =>
            Reading.Everything(business, caller, asked, world.Documents, world.Emails, "moses", "behind");

        // Without limits all of it is there to be found.
        var whole = await Everything(await Limited(ViewLimits.None));
        foreach (var (mark, least) in new[] { (Load, 8), (Document, 3), (Pay, 1), (Customer, 8), (Driver, 8) })
        {
            Assert.True(
                Reading.Holding(whole, mark).Count() >= least,
                $"{mark} is only in {string.Join(", ", Reading.Holding(whole, mark))}"
            );
        }

        foreach (
            var (limits, hidden) in new (ViewLimits, string[])[]
            {
                (new ViewLimits(Customers: [ids["customer"]]), [Load, Document, Pay, Customer]),
                (new ViewLimits(Offices: [world.North]), [Load, Document, Pay]),
                (new ViewLimits(DriverGroups: [world.Ours]), [Load, Document, Pay, Driver]),
                (new ViewLimits(DaysAhead: 7), []),
            }
        )
        {
            var caller = await Limited(limits);
            var seen = await Everything(caller);
            Assert.True(seen.Count > 40, $"only {seen.Count} answers");
            Assert.Empty(Reading.Holding(seen, hidden));
            Assert.NotEmpty(Reading.Holding(seen, "PO seen"));
            Assert.DoesNotContain(
                $"\"id\":{world.Ahead},\"number\"",
                seen.First(a => a.Key.StartsWith("loads?", StringComparison.Ordinal)).Value
            );
            Assert.DoesNotContain(seen.Keys, k =>
                k.StartsWith($"loads/{world.Ahead}", StringComparison.Ordinal)
                || k.StartsWith("ledger", StringComparison.Ordinal)
                || k.StartsWith("users", StringComparison.Ordinal)
                || k.StartsWith("audit", StringComparison.Ordinal)
            );

            // What is heard, anew and of the past.
            var heard = LiveTests.Listen(caller, 1, "0-0");
            var summary = (await heard).Summary;
            Assert.DoesNotContain(summary, s => hidden.Any(h => s.Contains(h, StringComparison.Ordinal)));

            // What is hidden answers as if it did not exist, whether it stands in the address or in the body.
            var hiddenLoad = limits.DaysAhead is null ? world.Billed : world.Ahead;
            foreach (
                var refused in new[]
                {
                    await caller.Get($"loads/{hiddenLoad}"),
                    await caller.Post($"loads/{hiddenLoad}/cancel", new { why = "test" }),
                    await caller.Post($"loads/{hiddenLoad}/request-documents"),
                    await caller.Pay("invoices", new { loadIds = new[] { hiddenLoad } }),
                    await caller.Post("invoices/prepare", new { loadIds = new[] { world.Seen, hiddenLoad } }),
                    await caller.Post("billing-runs", new { loadIds = new[] { hiddenLoad } }),
                    await caller.Get($"loads/{hiddenLoad}/route?format=gpx"),
                    await caller.Pay(
                        "pay-items",
                        new
                        {
                            driverId = ids["lena"],
                            kind = "reimbursement",
                            what = "toll",
                            amount = TestBusiness.Usd(5),
                            loadId = hiddenLoad,
                        }
                    ),
                }
            )
            {
                Assert.Equal(HttpStatusCode.NotFound, refused.Status);
                Assert.DoesNotContain("610", refused.Body!.ToJsonString(), StringComparison.Ordinal);
            }
        }

        // A second page of the wrong things, one limit each.
        var ofCustomer = await Limited(new ViewLimits(Customers: [ids["customer"]]));
        Assert.Equal(HttpStatusCode.NotFound, (await ofCustomer.Post("loads", Order("other customer", world.North, 2, "PO new"))).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await ofCustomer.Get($"companies/{ids["other customer"]}")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await ofCustomer.Pay($"payments/{world.Payment}/reverse")).Status);
        var draft = Order("customer", world.North, 2, "PO draft");
        (draft["customerId"], draft["draft"]) = (null, true);
        Assert.Contains("customerId", (await ofCustomer.Post("loads", draft)).Fields);
        var ofOffice = await Limited(new ViewLimits(Offices: [world.North]));
        Assert.Contains("officeId", (await ofOffice.Post("loads", Order("customer", world.South, 2, "PO south"))).Fields);
        var unnamed = Order("customer", world.North, 2, "PO of the only office");
        unnamed["officeId"] = null;
        var booked = (await ofOffice.Post("loads", unnamed)).Id;
        Assert.Equal("Great Falls", (await ofOffice.Get($"loads/{booked}")).Ok["sheet"]!["office"]!.GetValue<string>());
        var ofGroup = await Limited(new ViewLimits(DriverGroups: [world.Ours]));
        Assert.Equal(HttpStatusCode.NotFound, (await ofGroup.Post($"loads/{booked}/cover/driver", business.Crew("moses"))).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await ofGroup.Get($"settlements/{ids["moses"]}/2026-11-16/pdf")).Status);
        Assert.Contains(
            "groupId",
            (await ofGroup.Put($"drivers/{ids["lena"]}", new { name = "Lena Haugen", groupId = world.Theirs })).Fields
        );
        _ = (await ofGroup.Post($"loads/{booked}/cover/driver", business.Crew("lena"))).Ok;
    }

    [Fact]
    public async Task A_driver_sees_only_so_many_days_ahead()
    {
        var owner = await business.As(Role.Owner);
        var (soon, late) = (
            (await owner.Post("loads", business.Order(2, "PO soon"))).Id,
            (await owner.Post("loads", business.Order(9, "PO much later"))).Id
        );
        foreach (var load in new[] { soon, late })
        {
            _ = (await owner.Post($"loads/{load}/cover/driver", business.Crew("moses"))).Ok;
        }

        var user = (await owner.Get("users")).Ok.AsArray().Single(u => u!["login"]!.GetValue<string>() == "driver")!;
        object Change(int? days, long[]? customers = null) =>
            new
            {
                name = "Moses",
                email = "moses@tamarackbend.example",
                roleId = user["roleId"]!.GetValue<long>(),
                limits = new { daysAhead = days, customers },
            };
        async Task<long[]> Seen() =>
            (await (await business.As(Role.Driver)).Get("mine/loads")).Ok.AsArray().Select(l => l!["id"]!.GetValue<long>()).ToArray();
        Assert.Contains(late, await Seen());
        _ = (await owner.Put($"users/{user["id"]}", Change(3))).Ok;
        Assert.DoesNotContain(late, await Seen());
        Assert.Contains(soon, await Seen());
        Assert.Equal(HttpStatusCode.NotFound, (await (await business.As(Role.Driver)).Post($"mine/loads/{late}/accept")).Status);
        Assert.Contains("limits", (await owner.Put($"users/{user["id"]}", Change(3, [business.Ids["customer"]]))).Fields);
        Assert.Contains("limits.daysAhead", (await owner.Put($"users/{user["id"]}", Change(-1))).Fields);
        Assert.Contains("limits.customers", (await owner.Put($"users/{user["id"]}", Change(null, []))).Fields);
    }

    [Fact]
    public async Task The_database_and_Core_agree_on_every_load_and_limit()
    {
        await using var test = await TestDatabase.Make();
        await using var db = await test.Source.OpenConnectionAsync();
        var random = new Random(20261128);
        var now = Instant.FromUtc(2026, 11, 24, 16, 42);
        await db.Run(
            """
            insert into companies (name, is_customer, is_carrier, terms_days) select 'Customer ' || n, true, false, 30 from generate_series(1, 4) n;
            insert into companies (name, is_customer, is_carrier, terms_days) values ('Carrier', false, true, 30);
            insert into carriers (company_id, usdot, authority_active) values (5, '9000100', true);
            insert into offices (name) select 'Office ' || n from generate_series(1, 3) n;
            insert into driver_groups (name) select 'Group ' || n from generate_series(1, 3) n;
            insert into drivers (name, short_name, group_id) select 'Driver ' || n, 'D' || n, case when n <= 3 then n end from generate_series(1, 4) n;
            insert into trucks (unit) select 'T' || n from generate_series(1, 4) n;
            insert into places (name, town, region, country, latitude, longitude, zone)
                values ('Yard', 'Missoula', 'MT', 'US', 46.87, -113.99, 'America/Denver');
            """
        );
        var loads = new Dictionary<long, ViewedLoad>();
        for (var i = 0; i < 120; i++)
        {
            long? customer = random.Next(5) is > 0 and var c ? c : null,
                office = random.Next(4) is > 0 and var o ? o : null;
            Instant? first = random.Next(6) == 0 ? null : now + Duration.FromHours(random.Next(-72, 240));
            var id = await db.One<long>(
                "insert into loads (number, state, is_draft, customer_id, office_id, first_at, revenue, currency, booked_at) values (@n, 'draft', true, @c, @o, @f, 0, 'USD', @now) returning id",
                ("n", $"{7000 + i}"),
                ("c", customer),
                ("o", office),
                ("f", first),
                ("now", now)
            );
            var (legs, groups, assigned) = (random.Next(3), new List<long>(), false);
            for (var seq = 1; seq <= legs; seq++)
            {
                var driver = random.Next(6);
                assigned |= driver > 0;
                long? trip = null;
                if (driver is >= 1 and <= 4)
                {
                    trip = await db.One<long>(
                        "insert into trips (number, driver_id, truck_id, scheduled) values (@n, @d, @d, tstzrange(@from, @until)) returning id",
                        ("n", $"T{i}-{seq}"),
                        ("d", (long)driver),
                        ("from", now + Duration.FromDays(400 + (i * 3) + seq)),
                        ("until", now + Duration.FromDays(400 + (i * 3) + seq) + Duration.FromHours(5))
                    );
                    groups.AddRange(driver <= 3 ? [driver] : []);
                }

                await db.Run(
                    """
                    with transfer as (insert into transfers (load_id, place_id, after_stops, left_at, taken_at, method) select @l, 1, 0, now(), now(), 'drop' where @s > 1 returning id),
                    leg as (insert into legs (load_id, seq, miles, trip_id, carrier_id, agreed, begins_at)
                        values (@l, @s, 10, @t, @c, @a, (select id from transfer)) returning *)
                    insert into carrier_charges (leg_id, seq, kind, amount) select id, 1, 'line_haul', agreed from leg where agreed > 0
                    """,
                    ("l", id),
                    ("s", seq),
                    ("t", trip),
                    ("c", driver == 5 ? 5L : null),
                    ("a", driver == 5 ? 100m : null)
                );
            }

            loads[id] = new ViewedLoad(customer, office, assigned, groups, first);
        }

        long[]? Some(int of) =>
            random.Next(2) == 0
                ? null
                : Enumerable.Range(1, of).Where(_ => random.Next(2) == 0).Select(i => (long)i).DefaultIfEmpty(1).ToArray();
        var seenInAll = 0;
        for (var i = 0; i < 60; i++)
        {
            var limits = new ViewLimits(Some(4), Some(3), Some(3), random.Next(3) == 0 ? random.Next(0, 9) : null);
            var expected = loads.Where(l => limits.Sees(l.Value, now, Zone)).Select(l => l.Key).Order().ToList();
            await using var reader = await Reads.Open(test.Source, limits, now, Zone);
            var actual = await reader.Rows("select id from loads order by id", r => r.GetInt64(0));
            Assert.True(expected.SequenceEqual(actual), limits.Key);
            Assert.Equal(expected.Count, await reader.One<long>("select count(*) from load_list"));
            Assert.True(
                await reader.One<bool>("select not exists (select 1 from transfers t where t.load_id not in (select id from loads))")
            );
            seenInAll += limits.IsLimited ? actual.Count : 0;
        }

        Assert.InRange(seenInAll, 200, 60 * 110);

        // The limits end with the connection, and without any nothing is read.
        await using var next = await test.Source.OpenConnectionAsync();
        Assert.Equal(120, await next.One<long>("select count(*) from loads"));
        await next.Run("set role lark_limited");
        await Assert.ThrowsAsync<PostgresException>(() => next.One<long>("select count(*) from loads"));
        await Assert.ThrowsAsync<PostgresException>(() => next.One<string>("select password_hash from users limit 1"));
        await Assert.ThrowsAsync<PostgresException>(() => next.Run("update loads set reference = 'x'"));
    }

    [Fact]
    public async Task Each_table_key_and_endpoint_is_decided()
    {
        // A table that limits nothing is named here; any other has a policy.
        string[] free =
        [
            "account_links",
            "accounts",
            "api_tokens",
            "business",
            "carriers",
            "closed_months",
            "custom_fields",
            "device_tokens",
            "driver_groups",
            "event_chain",
            "idempotency_keys",
            "list_views",
            "offices",
            "places",
            "protection_keys",
            "recovery_codes",
            "roles",
            "schemaversions",
            "search_entries",
            "search_vocabulary",
            "second_factors",
            "series",
            "sessions",
            "sign_in_failures",
            "stand_ins",
            "towns",
            "trailers",
            "trucks",
            "users",
        ];
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var open = await db.Rows(
            "select relname from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r' and not relrowsecurity order by 1",
            r => r.GetString(0)
        );
        Assert.Equal(free, open);

        var endpoints = business.Servers[0].Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>().ToList();
        var requests = endpoints
            .SelectMany(e => e.Metadata.GetOrderedMetadata<IAcceptsMetadata>().Select(a => a.RequestType).OfType<Type>())
            .Distinct()
            .ToList();
        Assert.True(requests.Count > 50);
        var keys = new HashSet<string>();
        requests.ForEach(r => Keys(r, keys, []));
        Assert.Contains("LoadIds", keys);
        foreach (var key in keys)
        {
            _ = ViewFilter.TableOf(key);
        }

        // Endpoints read as their caller; those that read as the application are about the caller, users or open links.
        var whole = endpoints
            .Where(e => e.Metadata.GetMetadata<MethodInfo>()?.GetParameters().Any(p => p.ParameterType == typeof(NpgsqlDataSource)) == true)
            .Select(e => e.RoutePattern.RawText!)
            .Distinct()
            .Order(StringComparer.Ordinal)
            .ToList();
        Assert.Equal(["/api/account", "/api/audit", "/api/outside/stand-ins", "/api/roles", "/api/tokens", "/api/users"], whole);
    }

    private static void Keys(Type type, HashSet<string> keys, HashSet<Type> seen)
    {
        if (!seen.Add(type))
        {
            return;
        }

        foreach (var property in type.GetProperties())
        {
            if (ViewFilter.IsKey(property))
            {
                keys.Add(property.Name);
            }
            else if (
                (property.PropertyType.IsGenericType ? property.PropertyType.GetGenericArguments()[^1] : property.PropertyType) is var inner
                && ViewFilter.IsRequest(inner)
            )
            {
                Keys(inner, keys, seen);
            }
        }
    }
}
