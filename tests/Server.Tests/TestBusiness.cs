using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Builder;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Paying;
using SteadyLark.Store.People;
using SteadyLark.Store.Places;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Server.Tests;

/// <summary>A clock that a test sets.</summary>
public sealed class SetClock : IClock
{
    public Instant Now { get; set; } = Instant.FromUtc(2026, 11, 23, 16, 42);

    public Instant GetCurrentInstant() => Now;
}

/// <summary>One or two real servers on a database of their own, with a small business in it and a clock that stands still.</summary>
public sealed class TestBusiness : IAsyncLifetime
{
    private readonly string _data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");

    public TestDatabase Db { get; private set; } = null!;

    public SetClock Clock { get; } = new();

    /// <summary>Two servers on one database.</summary>
    public WebApplication[] Servers { get; private set; } = [];

    public Dictionary<string, long> Ids { get; } = [];

    public async Task InitializeAsync()
    {
        Db = await TestDatabase.Make();
        var zone = DateTimeZoneProviders.Tzdb["America/Denver"];
        await using (var w = await CommandContext.Begin(Db.Source, new Actor(null, "Test", Via.System), Clock.Now, zone, Routing.Roads))
        {
            await LedgerStore.AddAccounts(w.Db);
            await LedgerStore.Post(w, Postings.Opening(w.Today, Money.Usd(50_000)));
            await Business.Write(
                w.Db,
                new Business(
                    "Tamarack Bend Freight",
                    zone.Id,
                    "410 Tamarack Bend Road",
                    "406-555-0100",
                    "freight@tamarackbend.example",
                    null,
                    w.Today,
                    TwoPeople: false
                )
            );
            Ids["customer"] = await CompanyStore.Add(w.Db, Company("Snowberry Creamery", customer: true, null));
            Ids["carrier"] = await CompanyStore.Add(
                w.Db,
                Company(
                    "Two Forks Trucking",
                    false,
                    new CarrierFile("9000100", true, w.Today.PlusDays(90), w.Today.PlusDays(90), null, Money.Usd(1_000_000m))
                )
            );
            Ids["lapsing"] = await CompanyStore.Add(
                w.Db,
                Company("Long Bench Transport", false, new CarrierFile("9000101", true, w.Today.PlusDays(90), w.Today, null))
            );
            Ids["unauthorised"] = await CompanyStore.Add(
                w.Db,
                Company("Medicine Bow Motor", false, new CarrierFile("9000102", false, w.Today.PlusDays(90), w.Today.PlusDays(90), null))
            );
            Ids["from"] = await PlaceStore.Add(
                w.Db,
                new PlaceRow(0, "Snowberry Dock", null, "Great Falls", "MT", "US", 47.5002, -111.3008, "America/Denver", null)
            );
            Ids["to"] = await PlaceStore.Add(
                w.Db,
                new PlaceRow(0, "Northgate Cold Storage", null, "Spokane", "WA", "US", 47.6597, -117.4291, "America/Los_Angeles", null)
            );
            Ids["handover"] = await PlaceStore.Add(
                w.Db,
                new PlaceRow(0, "Clark Fork Warehouse", null, "Missoula", "MT", "US", 46.8721, -113.994, "America/Denver", null)
            );
            foreach (var (key, name) in new[] { ("moses", "Moses Okafor"), ("lena", "Lena Haugen") })
            {
                Ids[key] = await FleetStore.AddDriver(
                    w.Db,
                    new DriverRow(0, name, $"{name[0]}. {name.Split(' ')[1]}", null, null, "Missoula MT", true)
                );
                await Agree(w, Ids[key]);
                Ids[$"{key} truck"] = await FleetStore.AddTruck(w.Db, key == "moses" ? "118" : "119", null);
                Ids[$"{key} trailer"] = await FleetStore.AddTrailer(w.Db, key == "moses" ? "5306" : "5307", Equipment.Reefer);
            }

            Ids["van"] = await FleetStore.AddTrailer(w.Db, "3301", Equipment.Van);
            var hash = Passwords.Hash("steady-lark");
            foreach (var role in Enum.GetValues<Role>())
            {
                await UserStore.Add(
                    w.Db,
                    EnumCodec.Of(role),
                    $"The {EnumCodec.Of(role)}",
                    role,
                    hash,
                    role == Role.Driver ? Ids["moses"] : null
                );
            }

            await w.Commit();
        }

        var settings = new LarkSettings(Db.AppConnectionString, _data, "http://127.0.0.1", null, null, 0, null, null, 10);
        Servers = [LarkApp.Build(settings, "http://127.0.0.1:0", Clock), LarkApp.Build(settings, "http://127.0.0.1:0", Clock)];
        foreach (var server in Servers)
        {
            await server.StartAsync();
        }
    }

    public async Task DisposeAsync()
    {
        foreach (var server in Servers)
        {
            await server.StopAsync();
            await server.DisposeAsync();
        }

        await Db.DisposeAsync();
        Directory.Delete(_data, recursive: true);
    }

    /// <summary>Someone signed in, with their own cookies, at one of the servers.</summary>
    public async Task<Caller> As(Role role, int server = 0)
    {
        var caller = Nobody(server);
        var session = await caller.Post("session", new { login = EnumCodec.Of(role), password = "steady-lark" });
        caller.Token = session.Ok["token"]!.GetValue<string>();
        return caller;
    }

    /// <summary>The newest rate confirmation, of a load or of any, once none is waiting to be drawn.</summary>
    public async Task<long> RateConfirmation(long? load = null)
    {
        await using var db = await Db.Source.OpenConnectionAsync();
        for (
            var i = 0;
            i < 200
                && await db.One<bool>("select exists (select 1 from emails where awaits_tender_id is not null and held_back_at is null)");
            i++
        )
        {
            await Task.Delay(50);
        }

        return await db.One<long>(
            "select max(id) from documents where kind = 'rate_confirmation' and (@load::bigint is null or load_id = @load)",
            ("load", load)
        );
    }

    public Caller Nobody(int server = 0) => Caller(new CookieContainer(), server);

    private Caller Caller(CookieContainer cookies, int server) =>
        new(
            new HttpClient(new SocketsHttpHandler { CookieContainer = cookies, AllowAutoRedirect = false })
            {
                BaseAddress = new Uri(Servers[server].Urls.First()),
            },
            cookies
        );

    /// <summary>A load that can be booked as it stands.</summary>
    public object Order(int dayAhead = 1, string reference = "PO 77120", decimal haul = 1100.50m) =>
        new
        {
            customerId = Ids["customer"],
            reference,
            equipment = "reefer",
            stops = new object[]
            {
                new
                {
                    kind = "pickup",
                    placeId = Ids["from"],
                    from = $"{new LocalDate(2026, 11, 23).PlusDays(dayAhead):uuuu-MM-dd}T06:00:00",
                },
                new
                {
                    kind = "delivery",
                    placeId = Ids["to"],
                    from = $"{new LocalDate(2026, 11, 23).PlusDays(dayAhead):uuuu-MM-dd}T17:00:00",
                },
            },
            freight = new[]
            {
                new
                {
                    description = "butter",
                    pallets = 18,
                    weightLb = 38_400,
                    temperatureF = 34,
                },
            },
            charges = new object[]
            {
                new { kind = "line_haul", amount = Dollars(haul) },
                new { kind = "fuel_surcharge", amount = Dollars(198.09m) },
            },
            draft = false,
        };

    /// <summary>Where an account of the ledger differs from the documents behind it; empty when the books are right.</summary>
    public static async Task<List<string>> Disagreements(Npgsql.NpgsqlConnection db) =>
        await db.Rows(
            """
            with ledger as (select account, item_id, sum(coalesce(in_currency, debit - credit)) balance from entry_lines
                where item_id is not null group by account, item_id),
            documents (account, item_id, balance) as (
                select '1200', id, total - paid from invoices where voided_at is null
                union all select '1210', id, revenue from loads where state = 'delivered'
                union all select '1210', id, late_charges from loads where late_charges > 0
                union all select '1210', l.id, c.amount from loads l join charges c on c.load_id = l.id and c.kind = 'truck_ordered_not_used'
                    where l.state = 'cancelled' and not exists (select 1 from invoice_loads il where il.load_id = l.id and il.standing)
                union all select '1300', id, amount - deducted from advances where standing
                union all select '2000', id, paid - coalesce(approved, least(amount, agreed)) from bills where voided_at is null and paid_on is null
                union all select '2050', g.id, -g.agreed from legs g join loads l on l.id = g.load_id where g.carrier_id is not null
                    and (l.delivered_at is not null or l.state = 'cancelled')
                    and not exists (select 1 from bills b where b.leg_id = g.id and b.voided_at is null)
                union all select '2100', id, -net from settlements where paid_on is null and reversed_at is null
                union all select '2130', i.id, -i.amount from trip_expenses x join pay_items i on i.id = x.pay_item_id where x.paid_by = 'driver'
                    and not exists (select 1 from settlement_reimbursements r where r.item_id = i.id and r.standing)
                union all select '2300', id, applied + refunded - amount from payments where reversed_at is null),
            days as (
                select l.account, l.item_id, e.posted_on,
                    sum(sum(coalesce(l.in_currency, l.debit - l.credit))) over (partition by l.account, l.item_id order by e.posted_on) as balance
                from entry_lines l join entries e on e.id = l.entry_id where l.item_id is not null group by l.account, l.item_id, e.posted_on)
            select account || ' ' || item_id || ': ledger ' || coalesce(l.balance, 0) || ', documents ' || coalesce(d.balance, 0) as said
            from documents d full join ledger l using (account, item_id) where coalesce(l.balance, 0) <> coalesce(d.balance, 0)
            union all select account || ' ' || item_id || ' is ' || balance || ' on ' || posted_on from days
            where case when account like '1%' then balance < 0 else balance > 0 end
            -- What is settled in another currency is worth nothing in the books.
            union all select account || ' ' || item_id || ' is settled, but booked at ' || sum(debit - credit) from entry_lines
                where item_id is not null and currency <> 'USD' group by account, item_id
                having sum(in_currency) = 0 and sum(debit - credit) <> 0
            union all select 'the whole: ' || sum(debit - credit) from entry_lines having sum(debit - credit) <> 0
            """,
            r => r.Text("said")
        );

    /// <summary>The dollars of an amount in an answer.</summary>
    public static decimal Amount(JsonNode? money) =>
        decimal.Parse(money!["amount"]!.GetValue<string>(), System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>Each account's balance at the end of a day; now when it is omitted.</summary>
    public static async Task<Dictionary<string, decimal>> Balances(Caller owner, string? day = null) =>
        (await owner.Get($"ledger/trial-balance{(day is null ? "" : $"?upTo={day}")}")).Ok["accounts"]!
            .AsArray()
            .ToDictionary(a => a!["code"]!.GetValue<string>(), a => Amount(a!["balance"]));

    /// <summary>What accounts changed by.</summary>
    public static decimal[] Changes(Dictionary<string, decimal> before, Dictionary<string, decimal> now, params string[] accounts) =>
        accounts.Select(a => now.GetValueOrDefault(a) - before.GetValueOrDefault(a)).ToArray();

    /// <summary>The subjects of all emails we wrote, sent or not.</summary>
    public async Task<List<string>> Subjects()
    {
        await using var db = await Db.Source.OpenConnectionAsync();
        return await db.Rows("select subject from emails order by id", r => r.Text("subject"));
    }

    /// <summary>Reverses the payments of an invoice that stand.</summary>
    public static async Task Reversed(Caller owner, long invoice)
    {
        foreach (var p in (await owner.Get($"invoices/{invoice}")).Ok["payments"]!.AsArray().Where(p => p!["stands"]!.GetValue<bool>()))
        {
            _ = (await owner.Pay($"payments/{p!["paymentId"]}/reverse")).Ok;
        }
    }

    /// <summary>The smallest PNG there is: one white point.</summary>
    public const string OnePoint = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8/5+hHgAHggJ/PchI7wAAAABJRU5ErkJggg==";

    /// <summary>A driver with truck and trailer, as covering asks for them.</summary>
    public object Crew(string who) =>
        new
        {
            driverId = Ids[who],
            truckId = Ids[$"{who} truck"],
            trailerId = Ids[$"{who} trailer"],
        };

    /// <summary>0.60 a mile and 66.00 a day out.</summary>
    private static async Task Agree(CommandContext w, long driver)
    {
        await SettlementStore.SetRate(w.Db, driver, new PayRate(PayKind.PerMile, 0.60m, new LocalDate(2020, 1, 1)), null, w.Now);
        await SettlementStore.SetRate(w.Db, driver, new PayRate(PayKind.PerDay, 66m, new LocalDate(2020, 1, 1)), null, w.Now);
    }

    /// <summary>A command of the system, beside the API.</summary>
    public Task<CommandContext> Begin() =>
        CommandContext.Begin(
            Db.Source,
            new Actor(null, "Test", Via.System),
            Clock.Now,
            DateTimeZoneProviders.Tzdb["America/Denver"],
            Routing.Roads
        );

    /// <summary>One more driver of ours with truck and trailer, known by a key.</summary>
    public async Task AddCrew(string key, string name)
    {
        await using var w = await Begin();
        Ids[key] = await FleetStore.AddDriver(w.Db, new DriverRow(0, name, name, null, null, "Missoula MT", true));
        await Agree(w, Ids[key]);
        Ids[$"{key} truck"] = await FleetStore.AddTruck(w.Db, $"T{key}", null);
        Ids[$"{key} trailer"] = await FleetStore.AddTrailer(w.Db, $"R{key}", Equipment.Reefer);
        await w.Commit();
    }

    /// <summary>One more carrier that may haul for us, known by a key.</summary>
    public async Task AddCarrier(string key, string name, string usdot)
    {
        await using var w = await Begin();
        Ids[key] = await CompanyStore.Add(
            w.Db,
            Company(name, false, new CarrierFile(usdot, true, w.Today.PlusDays(90), w.Today.PlusDays(90), null, Money.Usd(1_000_000m)))
        );
        await w.Commit();
    }

    /// <summary>A carrier that accepted by phone and named its driver.</summary>
    public static object Accepted(long carrier, object pay) =>
        new
        {
            carrierId = carrier,
            pay,
            acceptedBy = "Kim Aldous",
            dispatch = new
            {
                driver = "Ray Ostrander",
                phone = "509-555-0142",
                truck = "118",
                trailer = "5302",
            },
        };

    /// <summary>A load delivered before now, with its POD in, by a carrier or by one of our drivers.</summary>
    /// <param name="day">Days after 18 November 2026 on which it was picked up.</param>
    /// <param name="more">Changes the order before it is booked.</param>
    /// <param name="pay">What the carrier gets; 700.00 when omitted.</param>
    /// <param name="underway">What happens to the load between pickup and delivery.</param>
    public async Task<long> Delivered(
        Caller owner,
        int day,
        string who,
        bool pod = true,
        Action<JsonNode>? more = null,
        object? pay = null,
        Func<long, Task>? underway = null
    )
    {
        var order = JsonNode.Parse(JsonSerializer.Serialize(Order(1, $"PO done {day}")))!;
        var picked = new LocalDate(2026, 11, 18).PlusDays(day);
        order["stops"]![0]!["from"] = $"{picked:uuuu-MM-dd}T06:00:00";
        order["stops"]![1]!["from"] = $"{picked:uuuu-MM-dd}T17:00:00";
        more?.Invoke(order);
        var load = (await owner.Post("loads", order)).Id;
        _ =
            who == "carrier"
                ? (await owner.Post($"loads/{load}/cover/carrier", TestBusiness.Accepted(Ids["carrier"], pay ?? Dollars(700m)))).Ok
                : (await owner.Post($"loads/{load}/cover/driver", Crew(who))).Ok;
        var stops = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]!
            .AsArray()
            .Select(s => s!["id"]!.GetValue<long>())
            .ToArray();
        _ = (await owner.Post($"loads/{load}/stops/{stops[0]}", new { @event = "left", at = $"{picked:uuuu-MM-dd}T14:00:00Z" })).Ok;
        await (underway?.Invoke(load) ?? Task.CompletedTask);
        _ = (
            await owner.Post(
                $"loads/{load}/stops/{stops[1]}",
                new
                {
                    @event = "delivered",
                    at = $"{picked.PlusDays(1):uuuu-MM-dd}T01:00:00Z",
                    receivedBy = "R. Dahl",
                }
            )
        ).Ok;
        if (pod)
        {
            using var page = new PdfPage("POD", "test");
            page.Line("Received");
            _ = (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", page.Save())).Ok;
        }

        return load;
    }

    /// <summary>A plan of three stops around Butte, thought over and ready.</summary>
    public static async Task<long> Run(Caller owner, string share = "any", object? more = null)
    {
        var ask = JsonNode.Parse(
            """
            {"name":"Around Butte","start":{"label":"Butte MT","latitude":46.0038,"longitude":-112.5347},"roundTrip":true,"from":420,"shift":600,"drivers":2,"objective":"miles","stops":[
              {"name":"Helena dock","at":{"label":"Helena MT","latitude":46.5927,"longitude":-112.0361},"service":10,"opens":480,"closes":720},
              {"name":"Dillon shop","at":{"label":"Dillon MT","latitude":45.2163,"longitude":-112.6375},"service":20},
              {"name":"Bozeman store","at":{"label":"Bozeman MT","latitude":45.6797,"longitude":-111.0386},"service":15,"closes":840}]}
            """
        )!;
        ask["share"] = share;
        foreach (var (key, value) in JsonNode.Parse(JsonSerializer.Serialize(more ?? new { }))!.AsObject())
        {
            ask[key] = value?.DeepClone();
        }

        var id = (await owner.Post("runs", ask)).Id;
        await Thought(owner, id);
        return id;
    }

    public static async Task<JsonNode> Thought(Caller owner, long id)
    {
        for (var i = 0; i < 200; i++)
        {
            var plan = (await owner.Get($"runs/{id}")).Ok;
            if (plan["state"]!.GetValue<string>() != "planning")
            {
                return plan;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException("The plan was not thought over within 20 seconds.");
    }

    /// <summary>What the customer and the carrier trade in.</summary>
    public Currency Currency { get; private set; }

    /// <summary>An amount in the currency of the customer and the carrier.</summary>
    public object Dollars(decimal amount) => new { amount = amount.ToString("0.00"), currency = Currency.ToString() };

    /// <summary>The customer and the carrier are Canadian from now on, and a Canadian dollar is worth something else every day.</summary>
    public async Task TradeInCanadian(int seed = 1)
    {
        Before ??= (Ids["customer"], Ids["carrier"]);
        await using var w = await Begin();
        var lot = new Random(seed);
        for (var day = new LocalDate(2026, 9, 1); day <= w.Today; day = day.PlusDays(1 + lot.Next(3)))
        {
            await ExchangeStore.Set(
                w,
                new ExchangeRate(Currency.CAD, day, Math.Round(0.68m + ((decimal)lot.NextDouble() * 0.08m), 4)),
                "test"
            );
        }

        Currency = Currency.CAD;
        await Business.WritePayment(w.Db, (await Business.Read(w.Db))!.Payment with { GstNumber = "990000410RT0001" });
        Ids["calgary"] = await PlaceStore.Add(
            w.Db,
            new PlaceRow(0, $"Bow Terrace Pasta {seed}", null, "Calgary", "AB", "CA", 51.0447, -114.0719, "America/Edmonton", null)
        );
        Ids["regina"] = await PlaceStore.Add(
            w.Db,
            new PlaceRow(0, $"Wascana Wholesale {seed}", null, "Regina", "SK", "CA", 50.4452, -104.6189, "America/Regina", null)
        );
        Ids["customer"] = await CompanyStore.Add(w.Db, Company($"Wild Rose Dairy {seed}", true, null) with { Currency = Currency });
        Ids["carrier"] = await CompanyStore.Add(
            w.Db,
            Company(
                $"Bow River Haulage {seed}",
                false,
                new CarrierFile("9000190", true, w.Today.PlusDays(90), w.Today.PlusDays(90), null, Money.Usd(1_000_000m))
            ) with
            {
                Currency = Currency,
            }
        );
        await w.Commit();
    }

    /// <summary>Has a load go from Calgary to Regina, where we charge GST.</summary>
    public void WithinCanada(JsonNode order)
    {
        order["stops"]![0]!["placeId"] = Ids["calgary"];
        order["stops"]![1]!["placeId"] = Ids["regina"];
    }

    /// <summary>The customer and the carrier are the first ones again.</summary>
    public void TradeInUsd()
    {
        (Ids["customer"], Ids["carrier"]) = Before ?? (Ids["customer"], Ids["carrier"]);
        Currency = Currency.USD;
    }

    private (long Customer, long Carrier)? Before { get; set; }

    public static object Usd(decimal amount) => new { amount = amount.ToString("0.00"), currency = "USD" };

    private static CompanyRow Company(string name, bool customer, CarrierFile? carrier) =>
        new(
            0,
            name,
            null,
            $"mail@{name.Replace(" ", "", StringComparison.Ordinal).ToLowerInvariant()}.example",
            null,
            null,
            null,
            customer,
            carrier is not null,
            30,
            null,
            1,
            carrier
        );
}

/// <summary>What came back.</summary>
public sealed record Answer(HttpStatusCode Status, JsonNode? Body)
{
    /// <summary>The body of what went well; fails the test with what was refused otherwise.</summary>
    public JsonNode Ok => (int)Status < 300 ? Body! : throw new Xunit.Sdk.XunitException($"{(int)Status}: {Body?["detail"] ?? Body}");

    public string? Code => (Body as JsonObject)?["errors"]?[0]?["code"]?.GetValue<string>();

    public string? Detail => (Body as JsonObject)?["errors"]?[0]?["message"]?.GetValue<string>();

    public IEnumerable<string?> Fields => (Body as JsonObject)?["errors"]?.AsArray().Select(e => e?["field"]?.GetValue<string>()) ?? [];

    public long Id => Ok["id"]!.GetValue<long>();
}

/// <summary>Someone who calls the API as a page does.</summary>
public sealed class Caller(HttpClient http, CookieContainer? cookies = null)
{
    public string? Token { get; set; }

    public HttpClient Http => http;

    /// <summary>The cookies it holds, as a browser sends them.</summary>
    public IEnumerable<string> Cookies() => cookies?.GetAllCookies().Select(c => $"{c.Name}={c.Value}") ?? [];

    public Task<Answer> Get(string path) => Send(HttpMethod.Get, path, null);

    public Task<Answer> Post(string path, object? body = null, string? key = null, int? version = null) =>
        Send(HttpMethod.Post, path, body is null ? null : JsonContent.Create(body), key, version);

    /// <summary>A command that moves money, with a key of its own.</summary>
    public Task<Answer> Pay(string path, object? body = null) => Post(path, body, Guid.NewGuid().ToString());

    /// <summary>Pays bills, whole, as one batch.</summary>
    public Task<Answer> PayBills(string method, params long[] bills) =>
        Pay("vendor-payments", new { bills = bills.Select(b => new { billId = b }), method });

    /// <summary>Reverses a bill's last payment.</summary>
    public async Task<Answer> ReversePayment(long bill)
    {
        var payments = (await Get($"bills/{bill}")).Ok["payments"]!.AsArray();
        return await Pay($"vendor-payments/{(payments.Count > 0 ? payments[^1]!["id"]!.GetValue<long>() : 0)}/reverse");
    }

    public Task<Answer> Put(string path, object body, int? version = null) =>
        Send(HttpMethod.Put, path, JsonContent.Create(body), null, version);

    public Task<Answer> Upload(string path, byte[] bytes, string type = "application/octet-stream") =>
        Send(HttpMethod.Post, path, new ByteArrayContent(bytes) { Headers = { { "Content-Type", type } } });

    public async Task<Answer> Send(HttpMethod method, string path, HttpContent? content, string? key = null, int? version = null)
    {
        using var request = new HttpRequestMessage(method, path.StartsWith('/') ? path : $"/api/{path}") { Content = content };
        if (Token is not null)
        {
            request.Headers.Add("X-Lark-Token", Token);
        }

        if (key is not null)
        {
            request.Headers.Add("Idempotency-Key", key);
        }

        if (version is not null)
        {
            request.Headers.TryAddWithoutValidation("If-Match", $"\"{version}\"");
        }

        using var response = await http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        JsonNode? body = null;
        try
        {
            body = text.Length == 0 ? null : JsonNode.Parse(text);
        }
        catch (JsonException)
        {
            // Not every answer is JSON: a PDF is none.
        }

        return new Answer(response.StatusCode, body);
    }
}
