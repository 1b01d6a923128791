using System.Net;
using Xunit;

namespace SteadyLark.Server.Tests.Trips;

/// <summary>A page that is read while somebody changes what is on it.</summary>
public sealed class TornReads(TestBusiness business) : SplitTest(business)
{
    private const int Rounds = 25;

    [Fact]
    public async Task A_load_is_read_whole_while_it_is_split_and_joined()
    {
        var (owner, load, _) = await Booked(24, "TORN");
        var reader = await Business.As(Core.People.Role.Owner);
        var stop = false;
        var read = Task.WhenAll(Enumerable.Range(0, 4).Select(_ => Task.Run(Read)));
        for (var i = 0; i < Rounds; i++)
        {
            _ = (await owner.Post($"loads/{load}/split", In("handover", "2026-11-25T12:00:00"))).Ok;
            _ = (await owner.Post($"loads/{load}/transfers/{Id((await Transfers(owner, load))[0])}/join")).Ok;
        }

        Volatile.Write(ref stop, true);
        var answers = await read;
        Assert.All(answers, times => Assert.True(times > 0));

        // Each answer has one leg more than transfers.
        async Task<int> Read()
        {
            for (var times = 0; ; times++)
            {
                var answer = await reader.Get($"loads/{load}");
                Assert.Equal(HttpStatusCode.OK, answer.Status);
                var sheet = answer.Ok["sheet"]!;
                Assert.Equal(sheet["legs"]!.AsArray().Count, sheet["load"]!["transfers"]!.AsArray().Count + 1);
                if (Volatile.Read(ref stop))
                {
                    return times;
                }
            }
        }
    }
}
