using System.Net;
using System.Net.Sockets;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>The database is gone for a while: those who ask are told, and what they asked is done once when it is back.</summary>
public sealed class CutOff(TestBusiness business) : IClassFixture<TestBusiness>
{
    [Fact]
    public async Task A_database_outage_is_reported_and_recovered_from()
    {
        var real = new NpgsqlConnectionStringBuilder(business.Db.AppConnectionString);
        await using var wire = new Wire(real.Host!, real.Port);
        var through = new NpgsqlConnectionStringBuilder(business.Db.AppConnectionString)
        {
            Host = "127.0.0.1",
            Port = wire.Port,
            Timeout = 3,
        };
        var data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");
        await using var app = LarkApp.Build(
            new LarkSettings(through.ConnectionString, data, "http://127.0.0.1", null, null, 0, null, null, 0),
            "http://127.0.0.1:0",
            business.Clock
        );
        await app.StartAsync();
        var caller = new Caller(
            new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() })
            {
                BaseAddress = new Uri(app.Urls.First()),
                Timeout = TimeSpan.FromSeconds(30),
            }
        );
        caller.Token = (await caller.Post("session", new { login = EnumCodec.Of(Role.Owner), password = "steady-lark" })).Ok[
            "token"
        ]!.GetValue<string>();
        var order = business.Order(3, "PO cut off");
        var key = Guid.NewGuid().ToString();

        wire.Cut();
        for (var i = 0; i < 3; i++)
        {
            var answer = await caller.Post("loads", order, key);
            Assert.Equal(HttpStatusCode.ServiceUnavailable, answer.Status);
            Assert.Equal("database.away", answer.Code);
        }

        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await caller.Http.GetAsync("/readyz")).StatusCode);
        wire.Mend();
        var patience = DateTime.UtcNow.AddSeconds(20);
        Answer booked;
        while ((booked = await caller.Post("loads", order, key)).Status == HttpStatusCode.ServiceUnavailable && DateTime.UtcNow < patience)
        {
            await Task.Delay(200);
        }

        // Done once, though it was asked many times.
        Assert.Equal(booked.Id, (await caller.Post("loads", order, key)).Id);
        Directory.Delete(data, recursive: true);
    }

    /// <summary>A wire to the database that can be cut.</summary>
    private sealed class Wire : IAsyncDisposable
    {
        private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
        private readonly List<TcpClient> _ends = [];
        private readonly CancellationTokenSource _over = new();
        private volatile bool _cut;

        public Wire(string host, int port)
        {
            _listener.Start();
            Port = ((IPEndPoint)_listener.LocalEndpoint).Port;
            _ = Accept(host, port);
        }

        public int Port { get; }

        public void Cut()
        {
            _cut = true;
            lock (_ends)
            {
                _ends.ForEach(e => e.Dispose());
                _ends.Clear();
            }
        }

        public void Mend() => _cut = false;

        public async ValueTask DisposeAsync()
        {
            await _over.CancelAsync();
            _listener.Stop();
            Cut();
        }

        private async Task Accept(string host, int port)
        {
            try
            {
                while (true)
                {
                    var near = await _listener.AcceptTcpClientAsync(_over.Token);
                    if (_cut)
                    {
                        near.Dispose();
                        continue;
                    }

                    var far = new TcpClient();
                    await far.ConnectAsync(host, port, _over.Token);
                    lock (_ends)
                    {
                        _ends.AddRange([near, far]);
                    }

                    _ = Task.WhenAny(Copy(near, far), Copy(far, near));
                }
            }
            catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
            {
                // The wire is taken away.
            }
        }

        private static async Task Copy(TcpClient from, TcpClient to)
        {
            try
            {
                await from.GetStream().CopyToAsync(to.GetStream());
            }
            catch (Exception e) when (e is IOException or ObjectDisposedException or InvalidOperationException)
            {
                // It was cut.
            }
            finally
            {
                from.Dispose();
                to.Dispose();
            }
        }
    }
}
