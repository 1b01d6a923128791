using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Formats.Places;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Demo;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips.Runs;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Line;
using SteadyLark.Store.Loads;
using SteadyLark.Store.People;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Bench;

/// <summary>
/// Benchmarks through the server's own HTTP on loopback, on a company with some 200,000 loads in a separate database. Next to each figure
/// is the bare SQL for the same question, run in the same session, so that a slow machine does not look like slow code.
/// </summary>
public static class Bench
{
    private sealed record Line(string What, double P50, double P95, double? Bare, double? Limit, string Unit = "ms");

    /// <param name="size">The demo's history; another size than the data there needs <paramref name="fresh"/>.</param>
    /// <param name="name">A database of its own next to the company's.</param>
    /// <param name="fresh">Whether its data is made again.</param>
    public static async Task<int> Measured(LarkSettings settings, DemoSize size, string name, bool fresh)
    {
        var database = await BenchStore.Prepare(settings.Database, name, fresh);
        settings = settings with { Database = database, Data = Path.Combine(settings.Data, "bench"), SmtpHost = null };
        foreach (var _ in await Database.Migrate(database)) { }

        await using var app = LarkApp.Build(settings, "http://127.0.0.1:0");
        await DemoBusiness.MakeIfNew(app.Services, Console.WriteLine, size);
        var source = app.Services.GetRequiredService<NpgsqlDataSource>();
        await using var db = await source.OpenConnectionAsync();
        var sealing = Stopwatch.StartNew();
        while (await AuditStore.Seal(db, 100_000) > 0) { }
        Console.WriteLine($"  audit log chained in {sealing.Elapsed.TotalSeconds:0} s");
        await app.StartAsync();
        await BenchStore.Analyze(db);
        var rows = await BenchStore.Size(db);
        Console.WriteLine(
            $"{rows.Loads:#,##0} loads, {rows.Events:#,##0} events, {rows.EntryLines:#,##0} ledger lines; {Environment.ProcessorCount} processors"
        );
        var caller = await SignIn(app.Urls.First());
        var lines = new List<Line>();
        var lot = new Random(11);

        async Task Measure(string what, double limit, int times, Func<int, Task> act, Func<int, Task>? bare = null)
        {
            for (var i = 0; i < Math.Min(5, times); i++)
            {
                await act(-1 - i);
            }

            var took = await Times(times, act);
            double? sql = null;
            if (bare is not null)
            {
                await bare(-1);
                sql = At(await Times(times, bare), 0.95);
            }

            lines.Add(new Line(what, At(took, 0.5), At(took, 0.95), sql, limit));
            Say(lines[^1]);
        }

        // What is asked right after a command; the command itself does not count.
        async Task After(string what, double limit, int times, Func<int, Task> before, Func<Task> act)
        {
            var took = new List<double>();
            for (var i = 0; i < times; i++)
            {
                await before(i);
                took.AddRange(await Times(1, _ => act()));
            }

            lines.Add(new Line(what, At(took, 0.5), At(took, 0.95), null, limit));
            Say(lines[^1]);
        }

        Console.WriteLine($"{"", -44} {"p50", 9} {"p95", 9} {"bare p95", 9} {"ratio", 6} {"limit", 8}");
        await Measure(
            "board, first page (moving, 200)",
            50,
            60,
            _ => Get(caller, "/api/loads?view=moving&limit=200"),
            _ => LoadReads.InStates(db, [LoadState.Covered, LoadState.Rolling], null, 200)
        );
        var words = new[]
        {
            "snowberry spokane",
            "honey fargo",
            "okafor",
            "potatos idaho",
            "two forks",
            "PO 77",
            "begaye billings",
            "creamery",
        };
        await Measure(
            "search",
            100,
            60,
            i => Get(caller, $"/api/line?q={Uri.EscapeDataString(words[Math.Abs(i) % words.Length])}"),
            i => FindStore.Find(db, words[Math.Abs(i) % words.Length].Split(' '), null, 12)
        );
        var columns = new[] { "number", "state", "customer", "origin", "destination", "pickup", "who", "revenue" };
        await Measure(
            "list of all loads: rows and count",
            250,
            40,
            _ =>
                Post(
                    caller,
                    "/api/lists/loads/rows",
                    new
                    {
                        columns,
                        count = 100,
                        counted = true,
                    }
                ),
            _ => BenchStore.NewestLoads(db, 100)
        );
        await Measure(
            "list of all loads: revenue by customer and month",
            3000,
            5,
            _ => Post(caller, "/api/lists/loads/totals", new { query = new { groups = ByCustomerAndMonth }, columns }),
            _ => BenchStore.RevenueByCustomerAndMonth(db)
        );
        foreach (var format in new[] { "csv", "xlsx" })
        {
            var each = rows.Loads / 100_000.0;
            var took = await Times(2, _ => Download(caller, "/api/lists/loads/export", new { columns, format }));
            lines.Add(new Line($"export as {format}, per 100,000 loads", took.Min() / each, took.Max() / each, null, 10_000));
            Say(lines[^1]);
        }

        var ids = await BenchStore.SomeLoads(db, 500);
        await Measure(
            "open a load",
            30,
            100,
            i => Get(caller, $"/api/loads/{ids[Math.Abs(i) % ids.Count]}"),
            i => LoadReads.Sheet(db, ids[Math.Abs(i) % ids.Count])
        );
        var template = await BenchStore.Closed(db);
        var booked = new List<long>();
        await Measure(
            "book",
            40,
            60,
            async i =>
                booked.Add(
                    (
                        await Post(
                            caller,
                            "/api/loads",
                            Order(template, i, app.Services.GetRequiredService<IClock>().GetCurrentInstant().InUtc().Date.PlusDays(8))
                        )
                    )["id"]!.GetValue<long>()
                ),
            _ => BenchStore.NextNumber(db)
        );
        await After(
            "Today, after a booking",
            120,
            20,
            i =>
                Post(
                    caller,
                    "/api/loads",
                    Order(template, 900 + i, app.Services.GetRequiredService<IClock>().GetCurrentInstant().InUtc().Date.PlusDays(9))
                ),
            () => Get(caller, "/api/today")
        );
        await After(
            "Today, after a note",
            120,
            20,
            i => Post(caller, $"/api/loads/{booked[i]}/reports", new { kind = "note", note = "bench" }),
            () => Get(caller, "/api/today")
        );
        var carriers = await BenchStore.Carriers(
            db,
            app.Services.GetRequiredService<IClock>().GetCurrentInstant().InUtc().Date.PlusDays(60)
        );
        var covered = new List<long>();
        await Measure("cover (with its rate confirmation as PDF)", 40, 50, async i =>
        {
            var id = booked[covered.Count];
            covered.Add(id);
            _ = await Post(
                caller,
                $"/api/loads/{id}/cover/carrier",
                new
                {
                    carrierId = carriers[Math.Abs(i) % carriers.Count],
                    pay = new { amount = "800.00", currency = "USD" },
                    acceptedBy = "bench",
                    dispatch = new
                    {
                        driver = "bench",
                        phone = "406-555-0100",
                        truck = "1",
                    },
                }
            );
        });
        var stopped = 0;
        await Measure("stop event", 40, 50, async __ =>
        {
            var id = covered[stopped++];
            var stop = await BenchStore.FirstStop(db, id);
            _ = await Post(caller, $"/api/loads/{id}/stops/{stop}", new { @event = "arrived" });
        });
        var trips = await BenchStore.OpenTrips(db);
        if (trips.Count > 0)
        {
            await Measure("what fits a trip", 150, 40, i => Get(caller, $"/api/trips/{trips[Math.Abs(i) % trips.Count]}/loads"));
            await Measure(
                "open a trip",
                60,
                40,
                i => Get(caller, $"/api/trips/{trips[Math.Abs(i) % trips.Count]}"),
                i => ItineraryStore.Legs(db, [trips[Math.Abs(i) % trips.Count]])
            );
        }

        var today = app.Services.GetRequiredService<IClock>().GetCurrentInstant().InUtc().Date;
        var n = 2_000;
        await PlanBench.Run(
            caller,
            today,
            EnumCodec.Of(template.Load.Equipment!.Value),
            async day => (await Post(caller, "/api/loads", Order(template, n++, day)))["id"]!.GetValue<long>(),
            (what, limit, times, act) => Measure(what, limit, times, act)
        );
        await Invoices(caller, db, Measure);
        await Pages(app, caller, db, lines, ids);
        var memory = Process.GetCurrentProcess().WorkingSet64 / 1024.0 / 1024.0;
        lines.Add(new Line("memory of the server and the bench in it", memory, memory, null, 400, "MB"));
        Say(lines[^1]);
        await HoursBench.Run(NodaTime.SystemClock.Instance.GetCurrentInstant(), (what, limit, times, act) =>
            Measure(what, limit, times, act)
        );
        await Roads(Measure, (what, p50, p95, limit, unit) =>
        {
            lines.Add(new Line(what, p50, p95, null, limit, unit));
            Say(lines[^1]);
        });
        var over = lines.Where(l => l.P95 > l.Limit).ToList();
        Console.WriteLine(over.Count == 0 ? "All within limits." : $"Over the limit: {string.Join(", ", over.Select(l => l.What))}.");
        await app.StopAsync();
        return over.Count == 0 ? 0 : 1;

        void Say(Line l) =>
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{l.What, -44} {l.P50, 6:0.0} {l.Unit} {l.P95, 6:0.0} {l.Unit} {(l.Bare is { } b ? $"{b, 6:0.0} ms" : ""), 9} {(l.Bare is { } r and > 0 ? $"{l.P95 / r:0.0}" : ""), 6} {l.Limit, 5:0} {l.Unit}{(l.P95 > l.Limit ? "  OVER" : "")}"
                )
            );
    }

    private static async Task Invoices(
        HttpClient caller,
        NpgsqlConnection db,
        Func<string, double, int, Func<int, Task>, Func<int, Task>?, Task> measure
    )
    {
        var waiting = await BenchStore.ToBill(db, 40);
        if (waiting.Count < 12)
        {
            return;
        }

        using var document = new PdfPage("Scale ticket", "bench");
        document.Line("A scale ticket, for the bench");
        var bytes = document.Save();
        foreach (var id in waiting)
        {
            foreach (var kind in new[] { "scale_ticket", "lumper_receipt" })
            {
                using var content = new ByteArrayContent(bytes) { Headers = { { "Content-Type", "application/octet-stream" } } };
                (
                    await caller.PostAsync(new Uri($"/api/loads/{id}/documents?kind={kind}&name=x.pdf", UriKind.Relative), content)
                ).EnsureSuccessStatusCode();
            }
        }

        var next = 0;
        await measure(
            "invoice with three documents as PDF, emailed",
            250,
            waiting.Count - 6,
            _ => Post(caller, "/api/invoices", new { loadIds = new[] { waiting[next++] } }),
            null
        );
    }

    /// <summary>Towns and roads, without the database.</summary>
    private static async Task Roads(
        Func<string, double, int, Func<int, Task>, Func<int, Task>?, Task> measure,
        Action<string, double, double, double, string> say
    )
    {
        var random = new Random(20261123);
        var towns = Routing.Towns.Where(t => t.Population > 3000 && Routing.Router.Reaches(t.Point)).OrderBy(_ => random.Next()).ToList();
        var typed = towns
            .Take(2000)
            .Select(
                (t, i) =>
                    (i % 5) switch
                    {
                        0 => $"{t.Name} {t.Region}",
                        1 => $"{t.Name.ToLowerInvariant()}, {t.Region}",
                        2 => Spoilt(t.Name, i) + $" {t.Region}",
                        3 => $"{t.Point.Latitude:0.00},{t.Point.Longitude:0.00}",
                        _ => t.Name,
                    }
            )
            .ToList();
        await measure("resolve a place", 10, 1500, i => Done(() => Routing.Gazetteer.Resolve(typed[Math.Abs(i) % typed.Count])), null);
        await measure(
            "a route, town to town",
            3,
            1500,
            i =>
                Done(() =>
                    Routing.Router.Route(towns[Math.Abs(i * 7) % towns.Count].Point, towns[Math.Abs((i * 13) + 5) % towns.Count].Point)
                ),
            null
        );
        var places = towns.Take(300).Select(t => t.Point).ToList();
        await measure("a matrix of 300 by 300", 1000, 4, _ => Done(() => Routing.Router.Matrix(places)), null);
        var lots = Enumerable
            .Range(0, 20_000)
            .Select(i => towns[i % towns.Count].Point)
            .Select(p => new GeoPoint(p.Latitude + ((random.NextDouble() - 0.5) / 20), p.Longitude + ((random.NextDouble() - 0.5) / 20)))
            .ToList();
        var index = new NearIndex(Routing.Router, lots);
        await measure(
            "within 250 road miles, of 20,000",
            50,
            30,
            i => Done(() => index.Within(towns[Math.Abs(i) % towns.Count].Point, 250)),
            null
        );
        await measure(
            "within 50 miles of a route, of 20,000",
            50,
            30,
            i => Done(() => index.Along(towns[Math.Abs(i) % towns.Count].Point, towns[Math.Abs(i * 3) % towns.Count].Point, 50)),
            null
        );
        var loading = new List<double>();
        for (var i = 0; i < 3; i++)
        {
            var watch = Stopwatch.StartNew();
            var router = new RoadRouter(Atlas.Roads(), Atlas.Shore);
            _ = router.Route(towns[0].Point, towns[1].Point);
            loading.Add(watch.Elapsed.TotalMilliseconds);
        }

        say("roads loaded, prepared and used once", At(loading, 0.5), At(loading, 0.95), 1000, "ms");
        var stops = towns
            .Where(t => t.Region is "MT" or "ID" or "WA" or "OR" or "WY" or "ND")
            .Take(200)
            .Select(t => new RunStopRequest(t.Name, new RunPlace(t.Name, t.Point.Latitude, t.Point.Longitude), 10, 480, 1200))
            .ToList();
        var ask = new RunPlanRequest(
            "bench",
            new RunPlace("Missoula MT", 46.8721, -113.994),
            true,
            300,
            null,
            RunShare.Any,
            10,
            RunObjective.Miles,
            null,
            stops
        );
        var thinking = Stopwatch.StartNew();
        RunBook.Solve(ask, null, null, CancellationToken.None);
        say("200 stops with 10 drivers", thinking.Elapsed.TotalSeconds, thinking.Elapsed.TotalSeconds, 20, "s");

        static Task Done(Action act)
        {
            act();
            return Task.CompletedTask;
        }

        static string Spoilt(string name, int i) => name.Length < 5 ? name : name.Remove(1 + (i % (name.Length - 2)), 1);
    }

    /// <summary>How long until an event appears on another page, with 200 pages open.</summary>
    private static async Task Pages(WebApplication app, HttpClient caller, NpgsqlConnection db, List<Line> lines, List<long> ids)
    {
        using var stop = new CancellationTokenSource();
        var heard = new List<double>();
        Stopwatch? since = null;
        var round = 0;
        var pages = new List<Task>();
        var ready = 0;
        // A user may have eight streams, so 25 users have eight pages each.
        var hash = Passwords.Hash(DemoBusiness.Password);
        HttpClient? user = null;
        for (var i = 0; i < 200; i++)
        {
            if (i % 8 == 0)
            {
                var login = $"page-{i / 8}";
                _ = await UserStore.Named(db, login) is null ? await UserStore.Add(db, login, $"Page {i / 8}", Role.Broker, hash, null) : 0;
                user = await SignIn(app.Urls.First(), login: login);
            }

            var page = await SignIn(app.Urls.First(), user);
            pages.Add(
                Task.Run(async () =>
                {
                    try
                    {
                        await using var stream = await page.GetStreamAsync(new Uri("/api/events/stream", UriKind.Relative), stop.Token);
                        using var reader = new StreamReader(stream);
                        Interlocked.Increment(ref ready);
                        while (await reader.ReadLineAsync(stop.Token) is { } line)
                        {
                            if (since is { } watch && line.Contains($"bench note {round}", StringComparison.Ordinal))
                            {
                                lock (heard)
                                {
                                    heard.Add(watch.Elapsed.TotalMilliseconds);
                                }
                            }
                        }
                    }
                    catch (OperationCanceledException)
                    {
                        // The benchmark is over.
                    }
                })
            );
        }

        for (var i = 0; i < 600 && ready < 200; i++)
        {
            await Task.Delay(50);
        }

        for (round = 1; round <= 10; round++)
        {
            since = Stopwatch.StartNew();
            _ = await Post(caller, $"/api/loads/{ids[round]}/reports", new { kind = "note", note = $"bench note {round}." });
            for (var i = 0; i < 100 && Heard() < round * 200; i++)
            {
                await Task.Delay(50);
            }
        }

        int Heard()
        {
            lock (heard)
            {
                return heard.Count;
            }
        }

        await stop.CancelAsync();
        await Task.WhenAll(pages);
        var line =
            heard.Count == 2000
                ? new Line("an event reaching another of 200 open pages", At(heard, 0.5), At(heard, 0.95), null, 250)
                : new Line($"only {heard.Count} of 2,000 events heard", 9999, 9999, null, 250);
        lines.Add(line);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{line.What, -44} {line.P50, 6:0.0} ms {line.P95, 6:0.0} ms {"", 9} {"", 6} {line.Limit, 5:0} ms"
            )
        );
    }

    private static async Task<List<double>> Times(int times, Func<int, Task> act)
    {
        var took = new List<double>(times);
        for (var i = 0; i < times; i++)
        {
            var began = Stopwatch.GetTimestamp();
            await act(i);
            took.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);
        }

        return took;
    }

    /// <summary>Groups of the list of loads.</summary>
    private static readonly object[] ByCustomerAndMonth = [new { column = "customer" }, new { column = "delivered", period = "month" }];

    private static double At(List<double> took, double part)
    {
        var sorted = took.Order().ToList();
        return sorted[Math.Min(sorted.Count - 1, (int)Math.Ceiling(sorted.Count * part) - 1)];
    }

    private static object Order(LoadSheet like, int i, LocalDate day)
    {
        return new
        {
            customerId = like.Load.CustomerId,
            reference = $"bench {i}",
            equipment = EnumCodec.Of(like.Load.Equipment!.Value),
            stops = like.Load.Stops.Select(
                (s, n) =>
                    new
                    {
                        kind = EnumCodec.Of(s.Kind),
                        placeId = s.PlaceId,
                        from = $"{day.PlusDays(n * 2):uuuu-MM-dd}T10:00:00",
                    }
            ),
            freight = like.Freight.Select(f => new
            {
                description = f.Description,
                pallets = f.Pallets,
                weightLb = f.WeightLb,
                hazmat = false,
            }),
            charges = new[] { new { kind = "line_haul", amount = new { amount = "1000.00", currency = "USD" } } },
            draft = false,
        };
    }

    private static async Task<HttpClient> SignIn(string address, HttpClient? like = null, string login = "dana")
    {
        var http = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer(), UseCookies = like is null })
        {
            BaseAddress = new Uri(address),
            Timeout = TimeSpan.FromMinutes(2),
        };
        if (like is not null)
        {
            // The same session in another window.
            http.DefaultRequestHeaders.Add("Cookie", string.Join("; ", like.DefaultRequestHeaders.GetValues("Lark-Bench-Cookie")));
            return http;
        }

        using var answer = await http.PostAsJsonAsync("/api/session", new { login, password = DemoBusiness.Password });
        answer.EnsureSuccessStatusCode();
        http.DefaultRequestHeaders.Add(
            "X-Lark-Token",
            JsonNode.Parse(await answer.Content.ReadAsStringAsync())!["token"]!.GetValue<string>()
        );
        http.DefaultRequestHeaders.Add(
            "Lark-Bench-Cookie",
            string.Join("; ", answer.Headers.GetValues("Set-Cookie").Select(c => c.Split(';')[0]))
        );
        return http;
    }

    private static async Task Get(HttpClient http, string path)
    {
        using var answer = await http.GetAsync(new Uri(path, UriKind.Relative));
        answer.EnsureSuccessStatusCode();
        await answer.Content.ReadAsByteArrayAsync();
    }

    /// <summary>Reads a file to its end without keeping it.</summary>
    private static async Task Download(HttpClient http, string path, object body)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body) };
        using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        answer.EnsureSuccessStatusCode();
        await using var stream = await answer.Content.ReadAsStreamAsync();
        await stream.CopyToAsync(Stream.Null);
    }

    internal static async Task<JsonNode> Post(HttpClient http, string path, object body)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body) };
        request.Headers.Add("Idempotency-Key", Guid.NewGuid().ToString());
        using var answer = await http.SendAsync(request);
        var text = await answer.Content.ReadAsStringAsync();
        return answer.IsSuccessStatusCode
            ? JsonNode.Parse(text)!
            : throw new InvalidOperationException($"The bench request to {path} failed: {text}");
    }
}
