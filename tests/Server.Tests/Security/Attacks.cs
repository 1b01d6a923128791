using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Tests.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Security;

/// <summary>Attacks from outside, by whoever has no account, a stolen address, or an account with few rights. After each the server serves
/// and the books are right.</summary>
public sealed class Attacks(TestBusiness business) : IClassFixture<TestBusiness>, IAsyncLifetime
{
    public Task InitializeAsync() => Task.CompletedTask;

    public async Task DisposeAsync()
    {
        var ready = await business.Nobody().Http.GetAsync("/readyz");
        Assert.True(ready.IsSuccessStatusCode, await ready.Content.ReadAsStringAsync());
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));
    }

    private static byte[] Pdf()
    {
        using var page = new PdfPage("POD", "test");
        page.Line("Received");
        return page.Save();
    }

    public static TheoryData<string> Bombs =>
        new()
        {
            // Arrays in arrays, a page tree that is its own child, and a page that is its own parent: what a reader that calls itself runs
            // out of stack on.
            $"%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R /X {new string('[', 300_000)}{new string(']', 300_000)} >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [] /Count 0 >>\nendobj\ntrailer << /Root 1 0 R >>\n%%EOF",
            $"%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [2 0 R] /Count 1 >>\nendobj\ntrailer << /Root 1 0 R >>\n%%EOF",
            $"%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [3 0 R] /Count 2000000000 >>\nendobj\n3 0 obj\n<< /Type /Page /Parent 3 0 R >>\nendobj\ntrailer << /Root 1 0 R >>\n%%EOF",
            $"%PDF-1.4\n1 0 obj\n{string.Concat(Enumerable.Repeat("<< /A ", 200_000))}\n",
        };

    [Theory]
    [MemberData(nameof(Bombs))]
    public async Task A_file_that_crashes_its_reader_costs_only_that_reader(string bomb)
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(9, "PO reader"))).Id;
        var refused = await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", Encoding.Latin1.GetBytes(bomb));
        Assert.Equal("file.unreadable", refused.Code);
        Assert.Matches("scan the document again|cannot be read", refused.Body!["title"]!.GetValue<string>());
        _ = (await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", Pdf())).Ok;
    }

    [Fact]
    public async Task A_reader_answers_file_after_file_and_knows_no_secret()
    {
        Assert.Null(await Untrusted.Ask(FileQuestion.WhyRefused, Pdf(), "application/pdf", "otherwise"));
        Assert.Contains(
            "Received",
            await Untrusted.Ask(FileQuestion.Text, Pdf(), "application/pdf", "otherwise"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "damaged",
            await Untrusted.Ask(FileQuestion.WhyRefused, "%PDF-1.4 nothing"u8.ToArray(), "application/pdf", "otherwise"),
            StringComparison.Ordinal
        );
        var many = await Task.WhenAll(
            Enumerable.Range(0, 12).Select(_ => Untrusted.Ask(FileQuestion.Text, Pdf(), "application/pdf", "otherwise"))
        );
        Assert.All(many, t => Assert.Contains("Received", t, StringComparison.Ordinal));
        // The readers' environment, as the kernel tells it.
        var readers = Directory
            .GetDirectories("/proc")
            .Where(d =>
                File.Exists($"{d}/cmdline")
                && Quiet(() => File.ReadAllText($"{d}/cmdline")).Contains(Untrusted.Verb, StringComparison.Ordinal)
            )
            .ToList();
        Assert.NotEmpty(readers);
        Assert.All(readers, r => Assert.DoesNotMatch("LARK|Password|Host=", Quiet(() => File.ReadAllText($"{r}/environ"))));

        static string Quiet(Func<string> read)
        {
            try
            {
                return read();
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                return "";
            }
        }
    }

    [Theory]
    [InlineData("page.html", "<html><script>alert(1)</script></html>")]
    [InlineData("drawing.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" onload=\"alert(1)\"/>")]
    [InlineData("pod.pdf", "MZ\u0090 this program cannot be run in DOS mode")]
    public async Task Executable_content_is_not_accepted_as_a_document(string name, string content)
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(9, "PO active"))).Id;
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await owner.Upload($"loads/{load}/documents?kind=pod&name={name}", Encoding.Latin1.GetBytes(content))).Status
        );
    }

    [Fact]
    public async Task A_files_name_writes_no_header_and_leaves_no_folder()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(9, "PO names"))).Id;
        var name = "../../etc/\"; filename=\"x.html\r\nSet-Cookie: lark=1\r\n\r\n<script>.pdf";
        var document = (await owner.Upload($"loads/{load}/documents?kind=pod&name={Uri.EscapeDataString(name)}", Pdf())).Ok;
        using var file = await owner.Http.GetAsync($"/api/documents/{document["id"]}/file");
        Assert.Equal(HttpStatusCode.OK, file.StatusCode);
        Assert.False(file.Headers.Contains("Set-Cookie"));
        Assert.Equal("nosniff", file.Headers.GetValues("X-Content-Type-Options").Single());
        Assert.Equal("application/pdf", file.Content.Headers.ContentType!.MediaType);
        Assert.DoesNotContain("etc", document["fileName"]!.GetValue<string>(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("/api/outside/emails/..%2F..%2F..%2Fetc%2Fpasswd/eml")]
    [InlineData("/api/outside/emails/%2Fetc%2Fpasswd/eml")]
    [InlineData("/api/outside/emails/....//....//etc/passwd/eml")]
    [InlineData("/..%2f..%2fetc%2fpasswd")]
    [InlineData("/_app/..%2f..%2f..%2fetc%2fpasswd")]
    [InlineData("/api/documents/1%20or%201=1/file")]
    public async Task No_url_reaches_the_file_system(string path)
    {
        var owner = await business.As(Role.Owner);
        using var answer = await owner.Http.GetAsync(path);
        Assert.Contains(answer.StatusCode, new[] { HttpStatusCode.NotFound, HttpStatusCode.BadRequest });
        Assert.DoesNotContain("root:", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task SQL_in_a_search_is_only_text()
    {
        var owner = await business.As(Role.Owner);
        _ = (await owner.Post("loads", business.Order(9, "PO'); drop table loads; --"))).Ok;
        foreach (
            var text in new[]
            {
                "'; drop table loads; --",
                "\\'; select pg_sleep(20); --",
                "%' or '1'='1",
                "$$; delete from events; $$",
                "{1,2}\"}'",
            }
        )
        {
            var began = DateTime.UtcNow;
            _ = (await owner.Get($"line?q={Uri.EscapeDataString(text)}")).Ok;
            _ = (await owner.Get($"companies?q={Uri.EscapeDataString(text)}")).Ok;
            _ = (await owner.Get($"places?q={Uri.EscapeDataString(text)}")).Ok;
            _ = await owner.KeysOf("loads", new { text });
            _ = await owner.KeysOf("loads", ListCalls.Where("reference", "has", text));
            _ = await owner.KeysOf("loads", ListCalls.Where("reference", "is", text, text));
            Assert.InRange((DateTime.UtcNow - began).TotalSeconds, 0, 15);
        }

        foreach (
            var query in new object[]
            {
                new { sorts = new[] { new { column = "id; drop table loads", descending = true } } },
                new { groups = new[] { new { column = "number), (select 1" } } },
                ListCalls.Where("number or true", "is", "1"),
            }
        )
        {
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await owner.Keys("loads", query)).Status);
        }

        Assert.NotEmpty(await owner.KeysOf("loads", new { text = "drop table loads" }));
    }

    [Fact]
    public async Task Deep_wide_and_endless_requests_are_refused_as_bad_requests()
    {
        var owner = await business.As(Role.Owner);
        foreach (
            var body in new[]
            {
                $"{{\"stops\":{new string('[', 50_000)}{new string(']', 50_000)}}}",
                $"{{\"name\":\"{new string('\\', 1001)}",
                "{\"customerId\":1e999}",
                "\u0000\u0001",
                "[]",
                "null",
                "{\"customerId\":{\"$type\":\"System.IO.FileInfo\"}}",
            }
        )
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, "/api/loads")
            {
                Content = new StringContent(body, Encoding.UTF8, "application/json"),
            };
            request.Headers.Add("X-Lark-Token", owner.Token);
            using var answer = await owner.Http.SendAsync(request);
            Assert.InRange((int)answer.StatusCode, 400, 422);
        }

        foreach (var path in new[] { $"/api/line?q={new string('a', 20_000)}", $"/api/{new string('a', 9000)}" })
        {
            using var answer = await owner.Http.GetAsync(path);
            Assert.InRange((int)answer.StatusCode, 400, 431);
        }

        // Headers without an end: the server hangs up by itself.
        using var client = new TcpClient();
        var address = new Uri(business.Servers[0].Urls.First());
        await client.ConnectAsync(address.Host, address.Port);
        var stream = client.GetStream();
        await stream.WriteAsync("GET /healthz HTTP/1.1\r\nHost: x\r\n"u8.ToArray());
        var filler = Encoding.ASCII.GetBytes($"X-Fill: {new string('x', 8000)}\r\n");
        var hungUp = false;
        for (var i = 0; i < 100 && !hungUp; i++)
        {
            try
            {
                await stream.WriteAsync(filler);
            }
            catch (IOException)
            {
                hungUp = true;
            }
        }

        Assert.True(hungUp || Encoding.ASCII.GetString(await ReadSome(stream)).Contains(" 431 ", StringComparison.Ordinal));

        static async Task<byte[]> ReadSome(NetworkStream from)
        {
            var some = new byte[200];
            return some[..await from.ReadAsync(some)];
        }
    }

    [Fact]
    public async Task Forged_and_borrowed_credentials_open_nothing()
    {
        foreach (
            var cookie in new[]
            {
                "lark-0=CfDJ8",
                $"lark-{new Uri(business.Servers[0].Urls.First()).Port}={new string('A', 400)}",
                "lark=1; lark-token=1",
            }
        )
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/api/loads");
            request.Headers.Add("Cookie", cookie);
            using var answer = await business.Nobody().Http.SendAsync(request);
            Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
        }

        foreach (var token in new[] { "lark_" + new string('0', 48), "", "lark_' or 1=1 --", "eyJhbGciOiJub25lIn0.eyJzdWIiOiIxIn0." })
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/api/loads");
            request.Headers.TryAddWithoutValidation("Authorization", $"Bearer {token}");
            using var answer = await business.Nobody().Http.SendAsync(request);
            Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
        }

        // One user's page token and idempotency key are of no use to another.
        var (owner, clerk) = (await business.As(Role.Owner), await business.As(Role.Bookkeeper));
        var key = Guid.NewGuid().ToString();
        var advance = new
        {
            driverId = business.Ids["lena"],
            amount = TestBusiness.Usd(55m),
            note = "fuel",
        };
        var first = (await owner.Post("advances", advance, key)).Id;
        var second = (await clerk.Post("advances", advance, key)).Id;
        Assert.NotEqual(first, second);
        var honest = clerk.Token;
        clerk.Token = owner.Token;
        Assert.Equal(HttpStatusCode.BadRequest, (await clerk.Pay("advances", advance)).Status);
        clerk.Token = honest;
    }

    [Fact]
    public async Task Another_site_gets_nothing_and_a_reset_link_names_our_own_address()
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, "/api/session");
        request.Headers.Add("Origin", "https://evil.example");
        using var answer = await (await business.As(Role.Owner)).Http.SendAsync(request);
        Assert.DoesNotContain(answer.Headers, h => h.Key.StartsWith("Access-Control", StringComparison.OrdinalIgnoreCase));
        Assert.Contains("frame-ancestors 'none'", answer.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);

        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update users set email = 'vic@tamarackbend.example' where login = 'read_only'");
        using var reset = new HttpRequestMessage(HttpMethod.Post, "/api/password-reset")
        {
            Content = JsonContent.Create(new { name = "read_only" }),
        };
        reset.Headers.Host = "evil.example";
        reset.Headers.Add("X-Forwarded-Host", "evil.example");
        using var sent = await business.Nobody().Http.SendAsync(reset);
        Assert.True(sent.IsSuccessStatusCode);
        var mail = await db.One<byte[]>("select eml from emails where to_address = 'vic@tamarackbend.example' order by id desc limit 1");
        Assert.DoesNotContain("evil.example", Encoding.UTF8.GetString(mail!), StringComparison.Ordinal);
    }

    [Fact]
    public async Task One_user_has_eight_live_streams_and_plans_one_route_at_a_time()
    {
        var dispatcher = await business.As(Role.Dispatcher);
        var streams = new List<HttpResponseMessage>();
        try
        {
            for (var i = 0; i < 8; i++)
            {
                streams.Add(await dispatcher.Http.GetAsync("/api/events/stream", HttpCompletionOption.ResponseHeadersRead));
            }

            Assert.All(streams, s => Assert.Equal(HttpStatusCode.OK, s.StatusCode));
            using var ninth = await dispatcher.Http.GetAsync("/api/events/stream", HttpCompletionOption.ResponseHeadersRead);
            Assert.Equal(HttpStatusCode.TooManyRequests, ninth.StatusCode);
            // It stands in nobody else's way.
            using var other = await (await business.As(Role.Broker)).Http.GetAsync(
                "/api/events/stream",
                HttpCompletionOption.ResponseHeadersRead
            );
            Assert.Equal(HttpStatusCode.OK, other.StatusCode);
        }
        finally
        {
            streams.ForEach(s => s.Dispose());
        }

        var stops = string.Join(
            '\n',
            Enumerable.Range(0, 60).Select(i => $"Stop {i}; {46.0 + (i % 8 * 0.1)}, {-112.5 + (i / 8 * 0.1)}; 10 min")
        );
        var planning = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(_ => dispatcher.Upload("route-plan?drivers=3&start=Butte%20MT", Encoding.UTF8.GetBytes(stops), "text/plain"))
        );
        Assert.Contains(planning, p => p.Status == HttpStatusCode.TooManyRequests);
        Assert.Contains(planning, p => p.Status != HttpStatusCode.TooManyRequests);
    }

    [Fact]
    public async Task A_stream_ends_with_its_session()
    {
        var reader = await business.As(Role.ReadOnly);
        using var stream = await reader.Http.GetAsync("/api/events/stream", HttpCompletionOption.ResponseHeadersRead);
        await using var body = await stream.Content.ReadAsStreamAsync();
        _ = await reader.Send(HttpMethod.Delete, "session", null);
        using var patience = new CancellationTokenSource(Live.Beat * 2.5);
        var buffer = new byte[1000];
        while (await body.ReadAsync(buffer, patience.Token) > 0) { }
    }

    [Fact]
    public async Task Behind_TLS_cookies_are_secure_and_only_a_named_proxy_is_believed()
    {
        var data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");
        LarkSettings Settings(params IPAddress[] proxies) =>
            new(business.Db.AppConnectionString, data, "https://freight.example", null, null, 0, null, null, 10) { Proxies = proxies };
        try
        {
            foreach (var trusted in new[] { true, false })
            {
                await using var server = LarkApp.Build(
                    Settings(trusted ? [IPAddress.Loopback, IPAddress.IPv6Loopback] : []),
                    "http://127.0.0.1:0",
                    business.Clock
                );
                await server.StartAsync();
                using var http = new HttpClient { BaseAddress = new Uri(server.Urls.First()) };
                using var request = new HttpRequestMessage(HttpMethod.Post, "/api/session")
                {
                    Content = JsonContent.Create(new { login = "owner", password = "steady-lark" }),
                };
                request.Headers.Add("X-Forwarded-For", "203.0.113.9");
                request.Headers.Add("X-Forwarded-Proto", "https");
                request.Headers.Host = "freight.example";
                using var answer = await http.SendAsync(request);
                await using var db = await business.Db.Source.OpenConnectionAsync();
                Assert.Equal(trusted, await db.One<bool>("select exists (select 1 from sessions where address = '203.0.113.9')"));
                Assert.Equal(trusted, answer.Headers.Contains("Strict-Transport-Security"));
                if (trusted)
                {
                    Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
                    var cookies = answer.Headers.GetValues("Set-Cookie").ToList();
                    Assert.True(cookies.Count >= 2);
                    Assert.All(cookies, c => Assert.Matches("(?i)(?=.*; secure)(?=.*; samesite=strict)(?=.*; httponly)", c));
                    await db.Run("delete from sessions where address = '203.0.113.9'");
                }
                else
                {
                    Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
                    Assert.Contains("LARK_PROXIES", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
                }

                await server.StopAsync();
            }
        }
        finally
        {
            Directory.Delete(data, recursive: true);
        }
    }

    [Fact]
    public async Task A_claimed_address_does_not_get_around_the_limit_on_guessing()
    {
        var statuses = new List<HttpStatusCode>();
        for (var i = 0; i < 14; i++)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, "/api/session")
            {
                Content = JsonContent.Create(new { login = "dispatcher", password = $"guess {i}" }),
            };
            request.Headers.Add("X-Forwarded-For", $"198.51.100.{i}");
            request.Headers.Add("Forwarded", $"for=198.51.100.{i}");
            request.Headers.Add("X-Real-IP", $"198.51.100.{i}");
            statuses.Add((await business.Nobody().Http.SendAsync(request)).StatusCode);
        }

        Assert.Equal(HttpStatusCode.TooManyRequests, statuses[^1]);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("delete from sign_in_failures");
    }

    [Fact]
    public async Task A_page_that_missed_too_much_is_told_to_reload()
    {
        var owner = await business.As(Role.Owner);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var before = await Events.Newest(db);
        await db.Run(
            "insert into events (at, via, kind, subject, subject_id, summary) select now(), 'system', 'load.changed', 'load', 1, repeat('x', 500) from generate_series(1, @n)",
            ("n", Live.MaxReplay + 50)
        );
        // Not the newest settled one: while another transaction of the cluster runs, that is an older one.
        var after = EventCursor.Parse(await db.One<string>("select xid::text || '-' || id from events order by id desc limit 1"))!.Value;
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(90));

        // Only what the server has passed on counts as missed; until then it is news. One stream waits for it: a user may open only eight.
        Assert.NotNull(
            await ReadUntil(
                owner,
                "",
                line =>
                    line.StartsWith("id: ", StringComparison.Ordinal) && !after.IsAfter(EventCursor.Parse(line["id: ".Length..])!.Value),
                patience.Token
            )
        );

        Assert.NotNull(await ReadUntil(owner, $"?after={before}", line => line == "event: reload", patience.Token));
    }

    private static async Task<string?> ReadUntil(Caller caller, string query, Func<string, bool> found, CancellationToken cancel)
    {
        using var stream = await caller.Http.GetAsync($"/api/events/stream{query}", HttpCompletionOption.ResponseHeadersRead, cancel);
        stream.EnsureSuccessStatusCode();
        using var reader = new StreamReader(await stream.Content.ReadAsStreamAsync(cancel));
        while (await reader.ReadLineAsync(cancel) is { } line)
        {
            if (found(line))
            {
                return line;
            }
        }

        return null;
    }
}
