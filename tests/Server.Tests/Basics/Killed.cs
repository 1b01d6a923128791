using System.Net.Sockets;
using SteadyLark.Store.Basics;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>
/// A server process killed with -9 in the midst of bookings and payments. What it acknowledged is there; what it did not, is asked again
/// with its key and
/// is then there once; the books agree with their documents. LARK_KILLS and LARK_KILL_COMMANDS make it long.
/// </summary>
public class Killed(TestBusiness business, ITestOutputHelper summary) : IClassFixture<TestBusiness>
{
    private static int Setting(string name, int otherwise) =>
        int.TryParse(Environment.GetEnvironmentVariable(name), out var n) ? n : otherwise;

    [Fact]
    public async Task After_a_kill_nothing_acknowledged_is_lost_or_done_twice()
    {
        var (kills, commands) = (Setting("LARK_KILLS", 3), Setting("LARK_KILL_COMMANDS", 60));
        var lot = new Random(7);
        var port = ServerProcess.FreePort();
        var acknowledged = new Dictionary<string, string>();
        var (unanswered, again) = (0, 0);
        for (var round = 0; round < kills; round++)
        {
            var orders = Enumerable
                .Range(0, commands)
                .Select(i =>
                    (
                        Key: $"kill-{round}-{i:0000}",
                        Path: i % 3 == 2 ? "payments" : "loads",
                        Body: i % 3 == 2
                            ? (object)
                                new
                                {
                                    customerId = business.Ids["customer"],
                                    method = "check",
                                    reference = $"kill-{round}-{i:0000}",
                                    amount = TestBusiness.Usd(10 + i),
                                }
                            : business.Order(2 + (i % 20), $"kill-{round}-{i:0000}")
                    )
                )
                .ToList();
            using (var server = await ServerProcess.Start(business, port))
            {
                var owner = await server.SignIn();
                var all = orders
                    .Select(async o =>
                    {
                        try
                        {
                            var answer = await owner.Post(o.Path, o.Body, o.Key);
                            lock (acknowledged)
                            {
                                acknowledged[o.Key] = answer.Ok.ToJsonString();
                            }
                        }
                        catch (Exception e) when (e is HttpRequestException or IOException or SocketException)
                        {
                            Interlocked.Increment(ref unanswered);
                        }
                    })
                    .ToList();

                // Killed when a part of them is answered, wherever the others are.
                var part = lot.Next(1, commands);
                while (all.Count(t => t.IsCompleted) < part)
                {
                    await Task.Delay(1);
                }

                server.Kill();
                await Task.WhenAll(all);
                await server.Exited();
            }

            using var next = await ServerProcess.Start(business, port);
            var caller = await next.SignIn();
            foreach (var o in orders)
            {
                var answer = (await caller.Post(o.Path, o.Body, o.Key)).Ok.ToJsonString();
                if (acknowledged.TryGetValue(o.Key, out var before))
                {
                    Assert.Equal(before, answer);
                }
                else
                {
                    acknowledged[o.Key] = answer;
                    again++;
                }
            }

            next.Kill();
            await next.Exited();
        }

        await using var db = await business.Db.Source.OpenConnectionAsync();
        var done = await db.Rows(
            "select reference from loads where reference like 'kill-%' union all select reference from payments where reference like 'kill-%' order by 1",
            r => r.Text("reference")
        );
        Assert.Equal(acknowledged.Keys.Order(StringComparer.Ordinal), done.Order(StringComparer.Ordinal));
        Assert.Empty(await TestBusiness.Disagreements(db));
        Assert.Equal(done.Count, await db.One<long>("select count(*) from events where kind in ('load.booked', 'payment.received')"));
        summary.WriteLine(
            $"{kills} kills, {kills * commands} commands: {unanswered} had no answer, {again} were asked again, {done.Count} are there, each once"
        );
        Assert.True(unanswered > 0, "no command was cut off: the kill came too late to tell anything");
    }
}
