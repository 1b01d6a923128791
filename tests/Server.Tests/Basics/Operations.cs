using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>What whoever runs a server relies on: its logs, traces and metrics, scheduled jobs on one server at a time, and that it stops
/// when told to.</summary>
public class Operations(TestBusiness business) : IClassFixture<TestBusiness>
{
    private const string Secret = "0123456789abcdef0123456789abcdef0123456789abcdef";

    [Fact]
    public async Task A_server_logs_traces_and_stops_on_request()
    {
        await using var collector = new Collector();
        using var server = await ServerProcess.Start(
            business,
            null,
            ("LARK_LOG", "json"),
            ("LARK_LOG_LEVEL", "information"),
            ("OTEL_EXPORTER_OTLP_ENDPOINT", collector.Address),
            ("OTEL_EXPORTER_OTLP_PROTOCOL", "http/protobuf")
        );
        var owner = await server.SignIn();
        var booked = await owner.Post("loads", business.Order(6, "traced"), "operations-1");
        Assert.Equal(HttpStatusCode.OK, booked.Status);
        await owner.Get($"accept/{Secret}");
        using var stream = await owner.Http.GetStreamAsync(new Uri("/api/events/stream", UriKind.Relative));
        var read = new StreamReader(stream).ReadToEndAsync();

        // SIGTERM, as systemd sends it: open pages do not keep the server from stopping.
        var asked = Stopwatch.StartNew();
        using (var kill = Process.Start("kill", ["-TERM", $"{server.Id}"]))
        {
            await kill.WaitForExitAsync();
        }

        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        await server.Exited(patience.Token);
        Assert.Equal(0, server.ExitCode);
        Assert.True(asked.Elapsed < TimeSpan.FromSeconds(15), $"it took {asked.Elapsed.TotalSeconds:0} s to stop");
        await read;

        var entries = server.Lines.Where(l => l.StartsWith('{')).Select(l => JsonNode.Parse(l)!).ToList();
        var request = entries.Single(e => (string?)e["Route"] == "/api/loads" && (string?)e["Method"] == "POST");
        Assert.Equal(200, (int)request["Status"]!);
        Assert.Contains(entries, e => (string?)e["Route"] == "/api/accept/{token}");
        Assert.DoesNotContain(server.Lines, l => l.Contains(Secret, StringComparison.Ordinal));

        // What is left is sent before the process ends.
        Assert.True(collector.Received("/v1/traces", "bookLoad"));
        Assert.True(collector.Received("/v1/traces", "insert into events"));
        Assert.True(collector.Received("/v1/metrics", "lark.command.duration"));
        Assert.False(collector.Received("/v1/traces", Secret));
    }

    [Fact]
    public async Task Two_servers_share_the_schedule()
    {
        using var first = await ServerProcess.Start(business);
        using var second = await ServerProcess.Start(business);
        await using var db = await business.Db.Source.OpenConnectionAsync();
        var servers = 0L;
        for (var i = 0; i < 100 && servers < 2; i++)
        {
            servers = await db.One<long>("select count(distinct instance_name) from jobs.qrtz_scheduler_state");
            await Task.Delay(100);
        }

        Assert.True(servers >= 2);
        Assert.Equal(
            ["document requests", "purge"],
            await db.Rows("select trigger_name from jobs.qrtz_triggers order by 1", r => r.Text("trigger_name"))
        );
        Assert.Empty(await ScheduleStore.Stuck(db, NodaTime.SystemClock.Instance.GetCurrentInstant(), NodaTime.Duration.FromMinutes(5)));

        // A job that nobody has started for long, or that was given up, is reported.
        await db.Run("update jobs.qrtz_triggers set trigger_state = 'ERROR' where trigger_name = 'purge'");
        Assert.Equal(
            ["purge"],
            await ScheduleStore.Stuck(db, NodaTime.SystemClock.Instance.GetCurrentInstant(), NodaTime.Duration.FromMinutes(5))
        );
    }

    [Fact]
    public async Task The_api_reference_exists_in_a_demo_only_and_loads_nothing_from_elsewhere()
    {
        await using var db = await business.Db.Source.OpenConnectionAsync();
        await db.Run("update business set demo_for = null");
        using (var real = await ServerProcess.Start(business))
        using (var outside = new HttpClient())
        {
            Assert.Equal(
                HttpStatusCode.NotFound,
                (await outside.GetAsync(new Uri($"http://127.0.0.1:{real.Port}/api-reference/"))).StatusCode
            );
        }

        await db.Run("update business set demo_for = @day", ("day", business.Clock.GetCurrentInstant().InUtc().Date));
        using var demo = await ServerProcess.Start(business);
        using var http = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{demo.Port}") };
        var page = await http.GetStringAsync(new Uri("/api-reference/", UriKind.Relative));
        Assert.Contains("Steady Lark API", page, StringComparison.Ordinal);
        Assert.DoesNotContain("https://", page, StringComparison.Ordinal);
    }

    /// <summary>An OpenTelemetry collector that keeps what it is sent (OTLP over HTTP).</summary>
    private sealed class Collector : IAsyncDisposable
    {
        private readonly HttpListener _listener = new();
        private readonly ConcurrentQueue<(string Path, string Body)> _sent = new();
        private readonly Task _work;

        public Collector()
        {
            Address = $"http://127.0.0.1:{ServerProcess.FreePort()}";
            _listener.Prefixes.Add(Address + "/");
            _listener.Start();
            _work = Collect();
        }

        public string Address { get; }

        public bool Received(string path, string text) => _sent.Any(s => s.Path == path && s.Body.Contains(text, StringComparison.Ordinal));

        public async ValueTask DisposeAsync()
        {
            _listener.Stop();
            await _work;
            _listener.Close();
        }

        private async Task Collect()
        {
            while (_listener.IsListening)
            {
                try
                {
                    var http = await _listener.GetContextAsync();
                    using var body = new MemoryStream();
                    await http.Request.InputStream.CopyToAsync(body);
                    // Protobuf writes text as it is.
                    _sent.Enqueue((http.Request.Url!.AbsolutePath, Encoding.Latin1.GetString(body.ToArray())));
                    http.Response.Close();
                }
                catch (Exception e) when (e is HttpListenerException or ObjectDisposedException)
                {
                    return;
                }
            }
        }
    }
}
