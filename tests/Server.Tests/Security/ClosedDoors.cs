using System.IO.Compression;
using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using System.Text.Json.Nodes;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Security;

/// <summary>What somebody outside may try, and what comes of it.</summary>
public sealed class ClosedDoors(TestBusiness business) : IClassFixture<TestBusiness>
{
    private Mailbox Mailbox => (Mailbox)business.Servers[0].Services.GetService(typeof(Mailbox))!;

    private static async Task<T> Until<T>(Func<Task<T?>> ask)
        where T : class
    {
        for (var i = 0; i < 150; i++)
        {
            if (await ask() is { } found)
            {
                return found;
            }

            await Task.Delay(100);
        }

        throw new Xunit.Sdk.XunitException("It did not come within fifteen seconds.");
    }

    private async Task<(Caller Owner, long Load, string Token)> Offered(int day, string reference, bool accepted = true)
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(day, reference))).Id;
        var (carrier, pay) = (business.Ids["carrier"], TestBusiness.Usd(900m));
        _ = (
            await owner.Post(
                $"loads/{load}/cover/carrier",
                accepted ? TestBusiness.Accepted(carrier, pay) : new { carrierId = carrier, pay }
            )
        ).Ok;
        business.Clock.Now += Duration.FromSeconds(30);
        var number = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["number"]!.GetValue<string>();
        var link = await Until(async () =>
            (await owner.Get("outside/emails"))
                .Ok.AsArray()
                .FirstOrDefault(m => m!["subject"]!.GetValue<string>() == $"Rate confirmation for load {number}")
                ?["text"]!.GetValue<string>()
        );
        return (owner, load, System.Text.RegularExpressions.Regex.Match(link, "/accept/([0-9a-f]{48})").Groups[1].Value);
    }

    [Fact]
    public async Task The_secret_of_a_link_is_in_no_view_and_in_no_table()
    {
        var (owner, load, token) = await Offered(5, "PO secret");
        Assert.Equal(48, token.Length);
        var mail = (await owner.Get($"loads/{load}")).Ok["emails"]!.AsArray().First(m => m!["direction"]!.GetValue<string>() == "out")![
            "id"
        ]!.GetValue<long>();
        foreach (var role in new[] { Role.Owner, Role.ReadOnly, Role.Dispatcher })
        {
            var answer = await (await business.As(role)).Get($"emails/{mail}");
            Assert.DoesNotContain(token, answer.Body?.ToJsonString() ?? "", StringComparison.Ordinal);
        }

        await using var db = await business.Db.Source.OpenConnectionAsync();
        foreach (var table in new[] { "tenders", "document_requests", "track_links", "device_tokens" })
        {
            Assert.Equal(0L, await db.One<long>($"select count(*) from {table} where token = @token", ("token", token)));
        }
    }

    [Fact]
    public async Task A_tender_link_ends_when_used_withdrawn_or_expired()
    {
        var (owner, load, token) = await Offered(6, "PO used");
        var nobody = business.Nobody();
        _ = (await nobody.Post($"accept/{token}", new { name = "Jo Ferro" })).Ok;
        Assert.Equal("tender.accepted", (await nobody.Post($"accept/{token}", new { name = "Mallory" })).Code);

        (owner, load, token) = await Offered(7, "PO withdrawn");
        _ = (await owner.Post($"loads/{load}/unassign")).Ok;
        Assert.Equal("tender.withdrawn", (await nobody.Post($"accept/{token}", new { name = "Mallory" })).Code);

        (owner, load, token) = await Offered(30, "PO old", accepted: false);
        var now = business.Clock.Now;
        business.Clock.Now += Duration.FromDays(15);
        Assert.Equal("tender.expired", (await nobody.Post($"accept/{token}", new { name = "Mallory" })).Code);
        business.Clock.Now = now;
    }

    [Fact]
    public async Task A_tracking_link_ends_when_it_is_revoked()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(8, "PO tracked"))).Id;
        Assert.Equal("link.none", (await owner.Post($"loads/{load}/track/revoke")).Code);
        var (one, two) = (await Track(), await Track());
        Assert.NotEqual(one, two);
        foreach (var link in new[] { one, two })
        {
            _ = (await business.Nobody().Get($"track/{link}")).Ok;
        }

        Assert.Equal(2, (await owner.Post($"loads/{load}/track/revoke")).Ok["count"]!.GetValue<int>());
        Assert.Equal(HttpStatusCode.NotFound, (await business.Nobody().Get($"track/{one}")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await business.Nobody().Get($"track/{two}")).Status);

        async Task<string> Track() => (await owner.Post($"loads/{load}/track")).Ok["url"]!.GetValue<string>().Split('/')[^1];
    }

    private byte[] Email(string from, string subject, params MailFile[] files) =>
        Eml.Write(
            new MailMessage(
                $"{Guid.NewGuid():N}@x.example",
                from,
                "freight@tamarackbend.example",
                subject,
                "see attached",
                business.Clock.Now,
                files
            )
        );

    private static byte[] Pdf(string line)
    {
        using var page = new PdfPage("x", "x");
        page.Line(line);
        return page.Save();
    }

    [Fact]
    public async Task A_strangers_pod_waits_in_the_tray_with_a_suggestion_and_releases_no_invoice()
    {
        var owner = await business.As(Role.Owner);
        var load = await business.Delivered(owner, -30, "carrier", pod: false);
        var number = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["number"]!.GetValue<string>();
        var file = new MailFile("pod.pdf", "application/pdf", Pdf("anything"));
        await Mailbox.WriteToUs("stranger", Email("mallory@elsewhere.example", $"POD load {number}", file));
        var waiting = await Until(async () =>
            (await owner.Get("documents/tray"))
                .Ok.AsArray()
                .FirstOrDefault(d => d!["from"]?.GetValue<string>() == "mallory@elsewhere.example")
        );
        Assert.Equal(load, waiting["suggestedLoadId"]!.GetValue<long>());
        Assert.Equal("load.pod.missing", (await owner.Pay("invoices", new { loadIds = new[] { load } })).Code);

        // The carrier's own address files it.
        await Mailbox.WriteToUs("carrier", Email("mail@twoforkstrucking.example", $"POD load {number}", file));
        await Until(async () =>
            (await owner.Get($"loads/{load}")).Ok["documents"]!.AsArray().FirstOrDefault(d => d!["kind"]!.GetValue<string>() == "pod")
        );
        _ = (await owner.Pay("invoices", new { loadIds = new[] { load } })).Ok;

        // Once it is billed nothing more is filed by itself.
        await Mailbox.WriteToUs(
            "late",
            Email("mail@twoforkstrucking.example", $"Lumper receipt load {number}", file with { Name = "late.pdf" })
        );
        await Until(async () =>
            (await owner.Get("documents/tray"))
                .Ok.AsArray()
                .FirstOrDefault(d => d!["document"]!["fileName"]!.GetValue<string>() == "late.pdf")
        );
    }

    [Fact]
    public async Task An_email_that_cannot_be_read_is_quarantined_and_the_next_one_comes_in()
    {
        var owner = await business.As(Role.Owner);
        var deep = new StringBuilder("From: a@b.example\r\nTo: c@d.example\r\nSubject: deep\r\nMIME-Version: 1.0\r\n");
        for (var i = 0; i < 60; i++)
        {
            deep.Append($"Content-Type: multipart/mixed; boundary=b{i}\r\n\r\n--b{i}\r\n");
        }

        await Mailbox.WriteToUs("0001", Encoding.ASCII.GetBytes(deep.ToString()));
        var same = Email("first@elsewhere.example", "the first");
        await Mailbox.WriteToUs("0002", same);
        // Another with the same Message-ID is another email; the very same bytes are not.
        await Mailbox.WriteToUs(
            "0003",
            Encoding.UTF8.GetBytes(Encoding.UTF8.GetString(same).Replace("the first", "the second", StringComparison.Ordinal))
        );
        await Mailbox.WriteToUs("0004", same);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await Until(async () =>
            await db.One<long>("select count(*) from emails where direction = 'in' and subject in ('the first', 'the second')") == 2
                ? ""
                : null
        );
        Assert.Contains(
            "nested",
            await db.One<string>("select quarantined_why from emails where quarantined_why is not null limit 1"),
            StringComparison.Ordinal
        );
        Assert.Contains((await owner.Get("today")).Ok["items"]!.AsArray(), i =>
            i!["title"]!.GetValue<string>().Contains("could not be read", StringComparison.Ordinal)
        );
    }

    /// <summary>A PNG with a true head that claims a size, and nothing to speak of in it.</summary>
    private static byte[] Claims(int width, int height)
    {
        var png = Convert.FromBase64String(TestBusiness.OnePoint);
        System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(png.AsSpan(16), width);
        System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(png.AsSpan(20), height);
        return png;
    }

    [Fact]
    public async Task Decompression_bombs_are_refused_with_a_sentence_and_little_memory()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(9, "PO bombs"))).Id;
        var before = GC.GetTotalAllocatedBytes();
        var image = await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.png", Claims(20_000, 20_000));
        Assert.Equal(
            ("file.unreadable", "400 million pixels"),
            (image.Code, image.Body!["title"]!.GetValue<string>().Split(" has ")[1].Split(';')[0])
        );

        // 400 MB of nothing in a PDF's stream.
        using var packed = new MemoryStream();
        packed.Write("%PDF-1.4\n1 0 obj\n<< /Filter /FlateDecode >>\nstream\n"u8);
        using (var deflate = new ZLibStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        {
            var nothing = new byte[1024 * 1024];
            for (var i = 0; i < 400; i++)
            {
                deflate.Write(nothing);
            }
        }

        packed.Write("\nendstream\nendobj\n"u8);
        var pdf = await owner.Upload($"loads/{load}/documents?kind=pod&name=pod.pdf", packed.ToArray());
        Assert.Contains("unpacks to more than 300 MB", pdf.Body!["title"]!.GetValue<string>(), StringComparison.Ordinal);
        var twice = await owner.Upload(
            $"loads/{load}/documents?kind=pod&name=pod.pdf",
            "%PDF-1.4\n1 0 obj\n<< /Filter [/FlateDecode /FlateDecode] >>\nstream\nx\nendstream\n"u8.ToArray()
        );
        Assert.Contains("packs its contents more than once", twice.Body!["title"]!.GetValue<string>(), StringComparison.Ordinal);

        // A workbook whose one cell lies at the end of the sheet, and one that unpacks to 150 MB.
        var far = await owner.Upload("addresses", Workbook("<row r=\"1\"><c r=\"XFD1\" t=\"inlineStr\"><is><t>x</t></is></c></row>"));
        Assert.Contains("columns", far.Body!["title"]!.GetValue<string>(), StringComparison.Ordinal);
        var deep = await owner.Upload(
            "addresses",
            Workbook("<row r=\"1048576\"><c r=\"A1048576\" t=\"inlineStr\"><is><t>x</t></is></c></row>")
        );
        Assert.Contains("beyond row", deep.Body!["title"]!.GetValue<string>(), StringComparison.Ordinal);
        var wide = await owner.Upload(
            "addresses",
            Workbook($"<row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>{new string('x', 150 * 1024 * 1024)}</t></is></c></row>")
        );
        Assert.Contains("unpacks to more than 100 MB", wide.Body!["title"]!.GetValue<string>(), StringComparison.Ordinal);
        Assert.InRange(GC.GetTotalAllocatedBytes() - before, 0, 2_000_000_000);
    }

    private static byte[] Workbook(string rows)
    {
        using var file = new MemoryStream();
        using (var zip = new ZipArchive(file, ZipArchiveMode.Create, leaveOpen: true))
        {
            using var sheet = new StreamWriter(zip.CreateEntry("xl/worksheets/sheet1.xml", CompressionLevel.Fastest).Open());
            sheet.Write(
                $"<worksheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><sheetData>{rows}</sheetData></worksheet>"
            );
        }

        return file.ToArray();
    }

    [Fact]
    public async Task A_command_of_more_than_a_megabyte_is_refused()
    {
        var owner = await business.As(Role.Owner);
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/companies")
        {
            Content = JsonContent.Create(new { name = new string('x', 1_200_000), isCustomer = true }),
        };
        request.Headers.Add("X-Lark-Token", owner.Token);
        // RFC 9110, section 10.1.1: the answer comes before the body is sent, which the server would not read.
        request.Headers.ExpectContinue = true;
        await request.Content.LoadIntoBufferAsync();
        using var answer = await owner.Http.SendAsync(request);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, answer.StatusCode);
    }

    [Fact]
    public async Task Slow_uploads_and_slow_readers_hold_no_connection()
    {
        var owner = await business.As(Role.Owner);
        var load = (await owner.Post("loads", business.Order(10, "PO slow"))).Id;
        var address = new Uri(business.Servers[0].Urls.First());
        var cookies = string.Join("; ", owner.Cookies());
        var slow = new List<TcpClient>();
        try
        {
            for (var i = 0; i < 60; i++)
            {
                var client = new TcpClient();
                await client.ConnectAsync(address.Host, address.Port);
                var head =
                    i % 2 == 0
                        ? $"POST /api/loads/{load}/documents?kind=pod&name=a.pdf HTTP/1.1\r\nHost: x\r\nCookie: {cookies}\r\nX-Lark-Token: {owner.Token}\r\nContent-Length: 1000000\r\n\r\n%PDF-"
                        : $"GET /api/events/stream?after=0-0 HTTP/1.1\r\nHost: x\r\nCookie: {cookies}\r\n\r\n";
                await client.GetStream().WriteAsync(Encoding.ASCII.GetBytes(head));
                slow.Add(client);
            }

            await Task.Delay(1500);
            for (var i = 0; i < 20; i++)
            {
                Assert.Equal(HttpStatusCode.OK, (await business.Nobody().Http.GetAsync("/readyz")).StatusCode);
            }
        }
        finally
        {
            slow.ForEach(c => c.Dispose());
        }
    }

    [Fact]
    public async Task A_dispatchers_stream_and_replay_have_no_pay_events()
    {
        var owner = await business.As(Role.Owner);
        _ = (
            await owner.Pay(
                "advances",
                new
                {
                    driverId = business.Ids["moses"],
                    amount = TestBusiness.Usd(77m),
                    note = "secret advance",
                }
            )
        ).Ok;
        var heard = await Hear(await business.As(Role.Dispatcher));
        Assert.DoesNotContain("advance", heard, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain("77.00", heard, StringComparison.Ordinal);
        Assert.Contains("77.00", await Hear(await business.As(Role.Bookkeeper)), StringComparison.Ordinal);

        static async Task<string> Hear(Caller caller)
        {
            using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(4));
            var text = new StringBuilder();
            try
            {
                await using var stream = await caller.Http.GetStreamAsync("api/events/stream?after=0-0", stop.Token);
                using var reader = new StreamReader(stream);
                while (await reader.ReadLineAsync(stop.Token) is { } line)
                {
                    text.AppendLine(line);
                }
            }
            catch (OperationCanceledException)
            {
                // Heard long enough.
            }

            return text.ToString();
        }
    }

    [Fact]
    public async Task Parallel_password_guessing_is_limited_and_the_owner_still_signs_in()
    {
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await business.Nobody().Post("session", new { login = "broker", password = "a guess" })).Status
        );
        var guesses = await Task.WhenAll(
            Enumerable
                .Range(0, 20)
                .Select(async i => (await business.Nobody().Post("session", new { login = "broker", password = $"guess {i}" })).Status)
        );
        Assert.InRange(guesses.Count(s => s == HttpStatusCode.Unauthorized), 0, SignInLimits.MaxBoth - 1);
        Assert.Equal(
            HttpStatusCode.TooManyRequests,
            (await business.Nobody().Post("session", new { login = "broker", password = "steady-lark" })).Status
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (await business.Nobody().Post("session", new { login = "owner", password = "steady-lark" })).Status
        );
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("delete from sign_in_failures");
    }

    [Fact]
    public async Task The_simulator_is_off_in_a_real_company()
    {
        var simulation = new SteadyLark.Server.Outside.Simulation(
            business.Db.Source,
            new SteadyLark.Server.Basics.LarkSettings("", "", "", null, null, 0, null, null, 10)
        );
        Assert.True(await simulation.Allowed());
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update business set demo_for = null");
        Assert.False(
            await new SteadyLark.Server.Outside.Simulation(
                business.Db.Source,
                new SteadyLark.Server.Basics.LarkSettings("", "", "", null, null, 0, null, null, 10)
            ).Allowed()
        );
        await db.Run("update business set demo_for = current_date");
    }

    [Fact]
    public async Task Health_and_readiness_are_separate()
    {
        Assert.Equal(HttpStatusCode.OK, (await business.Nobody().Http.GetAsync("/healthz")).StatusCode);
        var ready = JsonNode.Parse(await (await business.Nobody().Http.GetAsync("/readyz")).Content.ReadAsStringAsync())!;
        Assert.Equal(
            ("ok", "ok", "ok"),
            (ready["database"]!.GetValue<string>(), ready["disk"]!.GetValue<string>(), ready["jobs"]!.GetValue<string>())
        );
    }
}
