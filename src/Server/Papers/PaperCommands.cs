using SteadyLark.Core.Basics;
using SteadyLark.Core.Papers;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Papers;

namespace SteadyLark.Server.Papers;

/// <summary>Papers coming in and being put away.</summary>
public static class PaperCommands
{
    /// <summary>Keeps a file as a paper of a locked load.</summary>
    public static async Task<Outcome<PaperRow>> Add(Work w, long loadId, PaperKind kind, string fileName, byte[] bytes)
    {
        var checks = new Checks();
        var name = checks.Text(Path.GetFileName(fileName), "file", "The file's name", 200) ?? "paper";
        var type = PaperIntake.MediaType(bytes);
        checks.AddRange(type.Problems);
        if (checks.Ok && PdfMerge.Unreadable(bytes, type.Value) is { } why)
        {
            checks.Add("file.unreadable", why, "file");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var row = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        var id = await PaperStore.Add(w, loadId, kind, name, type.Value, bytes);
        await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "paper.added", "load", loadId, $"{kind.Said()} added to {row.Number}: {name}", loadId: loadId, driverId: row.DriverId);
        return (await PaperStore.Get(w.Db, id))!;
    }

    /// <summary>Takes a paper off its locked load; it can be brought back.</summary>
    public static async Task<Outcome<PaperRow>> PutAway(Work w, PaperRow paper)
    {
        var row = (await LoadReads.ByIds(w.Db, [paper.LoadId!.Value]))[0];
        if (paper.Kind == PaperKind.Pod && row.State is Core.Loads.LoadState.Billed or Core.Loads.LoadState.Closed)
        {
            return new Problem("paper.billed", $"Load {row.Number} was billed with this POD: it stays.");
        }

        await PaperStore.PutAway(w, paper.Id);
        await LoadWrites.Settle(w.Db, row.Id);
        await Events.Add(w, "paper.put_away", "load", row.Id, $"{paper.Kind.Said()} taken off {row.Number}: {paper.FileName}", loadId: row.Id, driverId: row.DriverId);
        return paper;
    }

    public static async Task<Outcome<PaperRow>> BringBack(Work w, PaperRow paper)
    {
        if (await PaperStore.BringBack(w, paper.Id) == 0)
        {
            return new Problem("paper.here", "This paper is on its load already.");
        }

        await LoadWrites.Settle(w.Db, paper.LoadId!.Value);
        await Events.Add(w, "paper.brought_back", "load", paper.LoadId.Value, $"{paper.Kind.Said()} brought back: {paper.FileName}", loadId: paper.LoadId);
        return paper;
    }
}
