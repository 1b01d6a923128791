using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <param name="Collected">What the receiver paid the driver, zero for nothing; null when it is not known any more.</param>
/// <param name="Method">How; not needed when nothing was paid.</param>
public sealed record CodRequest(Money? Collected, CodMethod? Method);

public sealed record CodAnswer(long LoadId, string Number, CodRow? Cod, string Summary);

/// <summary>Cash on delivery.</summary>
public static class CodCommands
{
    /// <summary>Records what the driver collected for a locked load.</summary>
    public static async Task<Outcome<CodAnswer>> Collect(CommandContext w, long loadId, CodRequest request)
    {
        var load = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (Cod.Refuses(load.State, load.Number, load.Cod?.Amount, request.Collected, request.Method) is { } refused)
        {
            return refused;
        }

        var method = request.Collected is null ? (CodMethod?)null : request.Method ?? CodMethod.Cash;
        await LoadWrites.SetCod(w, loadId, request.Collected?.Amount, method);
        var summary = request.Collected switch
        {
            null => $"{load.Number}: what was collected on delivery is open again",
            { Amount: 0 } => $"{load.Number}: nothing collected of {load.Cod!.Amount.Formatted}",
            { } paid => $"{load.Number}: {paid.Formatted} of {load.Cod!.Amount.Formatted} collected, {method!.Value.Format()}",
        };
        w.Record(
            EventKinds.CodCollected,
            loadId,
            summary,
            loadId: loadId,
            driverId: load.DriverId,
            before: new { Collected = load.Cod!.Collected?.Amount, Method = load.Cod.Method?.ToString() }
        );
        var after = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        return new CodAnswer(loadId, load.Number, after.Cod, summary);
    }
}
