using System.Net;
using System.Net.Sockets;
using System.Text;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Server.Tests.Outside;

/// <summary>Real mail over a real socket (RFC 5321), also when the other side refuses first.</summary>
public class MailOverSmtp
{
    [Fact]
    public async Task A_rejected_email_is_retried_until_accepted()
    {
        await using var server = new SmallSmtp { Refusals = 1 };
        await using var db = await TestDatabase.Make();
        var clock = new SetClock();
        var zone = DateTimeZoneProviders.Tzdb["America/Denver"];
        var data = Path.Combine(Path.GetTempPath(), $"lark-{Guid.NewGuid():N}");
        var settings = new LarkSettings(db.AppConnectionString, data, "http://127.0.0.1", null, "127.0.0.1", server.Port, null, null, 10)
        {
            SmtpTls = SmtpTls.None,
        };
        await using var app = LarkApp.Build(settings, "http://127.0.0.1:0", clock);
        long mail;
        await using (var w = await CommandContext.Begin(db.Source, new Actor(null, "Test", Via.System), clock.Now, zone, Routing.Roads))
        {
            await Business.Write(
                w.Db,
                new Business(
                    "Tamarack Bend Freight",
                    zone.Id,
                    "410 Tamarack Bend Road",
                    "406-555-0100",
                    "freight@tamarackbend.example",
                    null,
                    w.Today
                )
            );
            mail = await app
                .Services.GetRequiredService<SteadyLark.Server.Documents.Mailer>()
                .Send(
                    w,
                    SteadyLark.Core.Documents.MailPurpose.Other,
                    "pay@snowberry.example",
                    "Invoice 5001, Ekalaka",
                    "Grüezi\n.\nthe end",
                    [new("x.pdf", "application/pdf", "%PDF-1.7"u8.ToArray())],
                    null
                );
            await w.Commit();
        }

        await app.StartAsync();
        clock.Now += Duration.FromSeconds(11);
        var refused = await Look(m => m.Attempts == 1);
        Assert.Null(refused.SentAt);
        Assert.Contains("too busy", refused.LastError, StringComparison.Ordinal);
        Assert.Empty(server.Taken);

        clock.Now += Duration.FromSeconds(16);
        var sent = await Look(m => m.SentAt is not null);
        Assert.Equal(2, sent.Attempts);
        var (to, text) = Assert.Single(server.Taken);
        Assert.Equal("pay@snowberry.example", to);
        var read = Formats.Mail.Eml.Read(Encoding.UTF8.GetBytes(text));
        Assert.Equal(("Invoice 5001, Ekalaka", "Grüezi\n.\nthe end"), (read.Subject, read.Text.ReplaceLineEndings("\n").TrimEnd()));
        Assert.Equal("x.pdf", Assert.Single(read.Files).Name);
        await app.StopAsync();
        Directory.Delete(data, recursive: true);

        async Task<MailRow> Look(Func<MailRow, bool> come)
        {
            for (var i = 0; i < 150; i++)
            {
                await using var open = await db.Source.OpenConnectionAsync();
                if (await MailStore.Get(open, mail) is { } row && come(row))
                {
                    return row;
                }

                await Task.Delay(100);
            }

            throw new Xunit.Sdk.XunitException("It did not come within fifteen seconds.");
        }
    }

    /// <summary>A mail server with as few words as the protocol allows. The first so many emails are refused for now (451).</summary>
    private sealed class SmallSmtp : IAsyncDisposable
    {
        private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
        private readonly Task _serving;

        public SmallSmtp()
        {
            _listener.Start();
            _serving = Serve();
        }

        public int Port => ((IPEndPoint)_listener.LocalEndpoint).Port;

        public int Refusals { get; set; }

        public List<(string To, string Text)> Taken { get; } = [];

        public async ValueTask DisposeAsync()
        {
            _listener.Stop();
            await _serving;
        }

        private async Task Serve()
        {
            try
            {
                while (true)
                {
                    using var client = await _listener.AcceptTcpClientAsync();
                    await using var stream = client.GetStream();
                    using var reader = new StreamReader(stream, Encoding.UTF8);
                    await Say("220 small.example");
                    var to = "";
                    while (await reader.ReadLineAsync() is { } line)
                    {
                        var word = line.Split(' ', ':')[0].ToUpperInvariant();
                        if (word == "RCPT")
                        {
                            to = line.Split('<', '>')[1];
                        }

                        if (word == "DATA")
                        {
                            await Say("354 go on");
                            var text = new StringBuilder();
                            while (await reader.ReadLineAsync() is { } part && part != ".")
                            {
                                text.Append(part.StartsWith('.') ? part[1..] : part).Append("\r\n");
                            }

                            if (Refusals-- > 0)
                            {
                                await Say("451 too busy");
                                continue;
                            }

                            Taken.Add((to, text.ToString()));
                        }

                        await Say(
                            word == "EHLO" ? "250 8BITMIME"
                            : word == "QUIT" ? "221 bye"
                            : "250 ok"
                        );
                    }

                    async Task Say(string words) => await stream.WriteAsync(Encoding.ASCII.GetBytes(words + "\r\n"));
                }
            }
            catch (Exception e) when (e is SocketException or ObjectDisposedException)
            {
                // The test is over.
            }
        }
    }
}
