using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Claims;
using SteadyLark.Core.Loads;
using SteadyLark.Server.Claims;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's open claims: one being investigated, one that waits to be acknowledged, and one that a driver reported.</summary>
internal static class DemoClaims
{
    public static async Task Write(IServiceProvider services, CommandContext w, Past past, DemoCast cast)
    {
        var (ines, marta) = (cast.Staff["ines"], cast.Staff["marta"]);
        var claims = services.GetRequiredService<ClaimCommands>();
        // Delivered so many days ago, not paid to the carrier yet, and billed but for the newest.
        PastLoad? Load(int days, bool billed) =>
            past.Loads.LastOrDefault(l =>
                l.Carrier is not null
                && l.Bill?.PaidOn is null
                && l.Invoice is not null == billed
                && l.State is LoadState.Delivered or LoadState.Billed
                && l.DeliveredAt is { } at
                && at < w.Now - Duration.FromDays(days)
            );
        if (
            Load(9, billed: true) is not { } investigated
            || Load(30, billed: true) is not { } waiting
            || Load(1, billed: false) is not { } reported
        )
        {
            return;
        }

        var first = await Open(w, ines, investigated, 8, ClaimKind.Damage, "2 pallets crushed in the nose of the trailer");
        await File(w, marta, first, 6, 640m);
        Must(await claims.Acknowledge(w.At(w.Now - Duration.FromDays(5), marta), first));
        Must(await claims.FileWithCarrier(w.At(w.Now - Duration.FromDays(5), marta), first, new CarrierClaimRequest(null, null)));
        var second = await Open(w, ines, waiting, 28, ClaimKind.Shortage, "14 cartons short by the receiver's count, seal intact");
        await File(w, marta, second, 26, 308m);
        await Open(w, ines, reported, 1, ClaimKind.Damage, "one carton wet, noted on the POD");
    }

    private static async Task<long> Open(CommandContext w, Actor by, PastLoad load, int days, ClaimKind kind, string what) =>
        Must(await ClaimCommands.Open(w.At(w.Now - Duration.FromDays(days), by), load.Id, new OpenClaimRequest(kind, what))).Id;

    private static async Task File(CommandContext w, Actor by, long claim, int days, decimal amount)
    {
        var at = w.At(w.Now - Duration.FromDays(days), by);
        Must(await ClaimCommands.File(at, claim, new FileClaimRequest(at.Today, Money.Usd(amount))));
    }

    private static T Must<T>(Outcome<T> outcome) =>
        outcome.Ok ? outcome.Value : throw new InvalidOperationException($"The demo's claims: {outcome.Problems[0].Message}");
}
