using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

public class LiveTests(TestBusiness business) : IClassFixture<TestBusiness>
{
    /// <summary>Listens until so many events came, and tells them with the last place in the order.</summary>
    internal static async Task<(List<string> Summary, string Last)> Listen(
        Caller caller,
        int max,
        string? lastId = null,
        Func<Task>? meanwhile = null
    )
    {
        using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        using var request = new HttpRequestMessage(HttpMethod.Get, "/api/events/stream");
        if (lastId is not null)
        {
            request.Headers.Add("Last-Event-ID", lastId);
        }

        using var response = await caller.Http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop.Token);
        using var reader = new StreamReader(await response.Content.ReadAsStreamAsync(stop.Token));
        var (summary, last, kind) = (new List<string>(), "", "");
        while (summary.Count < max && await reader.ReadLineAsync(stop.Token) is { } line)
        {
            if (line.StartsWith("id: ", StringComparison.Ordinal))
            {
                last = line[4..];
            }
            else if (line.StartsWith("event: ", StringComparison.Ordinal))
            {
                kind = line[7..];
            }
            else if (line.StartsWith("data: ", StringComparison.Ordinal))
            {
                if (kind == "done")
                {
                    summary.Add(System.Text.Json.Nodes.JsonNode.Parse(line[6..])!["summary"]!.GetValue<string>());
                }
                else if (meanwhile is not null)
                {
                    await meanwhile();
                }
            }
        }

        return (summary, last);
    }

    [Fact]
    public async Task Events_at_one_server_reach_pages_at_another_without_gaps()
    {
        var (worker, listener) = (await business.As(Role.Broker), await business.As(Role.ReadOnly, 1));
        var (first, last) = await Listen(listener, 1, meanwhile: async () =>
            _ = (await worker.Post("loads", business.Order(1, "PO live 1"))).Ok
        );
        Assert.EndsWith("booked, Great Falls to Spokane", first[0]);

        // The page is away; two things happen; it comes back where it was, and hears both in order, once.
        var a = (await worker.Post("loads", business.Order(1, "PO live 2"))).Ok["number"]!.GetValue<string>();
        var b = (await worker.Post("loads", business.Order(1, "PO live 3"))).Ok["number"]!.GetValue<string>();
        var (missed, _) = await Listen(listener, 3, last, meanwhile: async () =>
            _ = await worker.Post("loads", business.Order(1, "PO live 4"))
        );
        Assert.StartsWith(a, missed[0]);
        Assert.StartsWith(b, missed[1]);
        Assert.Equal(3, missed.Distinct().Count());
    }

    [Fact]
    public async Task A_driver_hears_only_their_own_events()
    {
        var (owner, driver) = (await business.As(Role.Owner), await business.As(Role.Driver));
        var (heard, _) = await Listen(driver, 1, meanwhile: async () =>
        {
            var load = (await owner.Post("loads", business.Order(3, "PO his"))).Id;
            _ = (
                await owner.Post(
                    $"loads/{load}/cover/driver",
                    new
                    {
                        driverId = business.Ids["moses"],
                        truckId = business.Ids["moses truck"],
                        trailerId = business.Ids["moses trailer"],
                    }
                )
            ).Ok;
        });
        Assert.Contains("assigned to Moses Okafor", Assert.Single(heard), StringComparison.Ordinal);
    }
}
