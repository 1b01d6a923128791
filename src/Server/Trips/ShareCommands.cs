using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="Shares">Of the load's revenue in percent, one for each leg in order; null to share by miles again.</param>
public sealed record SharesRequest(IReadOnlyList<decimal>? Shares);

public sealed record SharesAnswer(long LoadId, string Number, IReadOnlyList<decimal> Shares, string Summary);

/// <summary>How the legs of a split load share its revenue.</summary>
public static class ShareCommands
{
    /// <summary>Sets the shares of a locked load's legs.</summary>
    public static async Task<Outcome<SharesAnswer>> Set(CommandContext w, long loadId, SharesRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, loadId))!;
        var legs = await LoadViews.Sharing(w.Db, sheet, w.Today);
        var problems = LegShares.Check(sheet.Load.State, sheet.Load.Number, legs, request.Shares);
        if (problems.Any)
        {
            return problems;
        }

        await CoverStore.SetShares(w.Db, loadId, request.Shares);
        await LegCosts.OfLoad(w, loadId);
        var percents = LegShares.Percents(legs.Select((l, i) => l with { Share = request.Shares?[i] }).ToList());
        var summary =
            $"Legs of {sheet.Load.Number} share its revenue {(request.Shares is null ? "by miles" : string.Join(", ", percents.Select(p => $"{p:0.##} %")))}";
        w.Record(EventKinds.SharesSet, loadId, summary, loadId: loadId, before: new { Shares = legs.Select(l => l.Share).ToList() });
        return new SharesAnswer(loadId, sheet.Load.Number, percents, summary);
    }
}
