using NodaTime;
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
        var read = Read(fileName, bytes);
        if (!read.Ok)
        {
            return read.Problems.ToList();
        }

        var (name, type) = read.Value;
        var row = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        var id = await PaperStore.Add(w, loadId, kind, name, type, bytes);
        await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "paper.added", "load", loadId, $"{kind.Said()} added to {row.Number}: {name}", loadId: loadId, driverId: row.DriverId);
        return (await PaperStore.Get(w.Db, id))!;
    }

    /// <summary>Keeps a file that belongs to no load yet, with a guess from its name and its text.</summary>
    public static async Task<Outcome<PaperRow>> AddToTray(Work w, PaperKind? kind, string fileName, byte[] bytes, long? mailId = null)
    {
        var read = Read(fileName, bytes);
        if (!read.Ok)
        {
            return read.Problems.ToList();
        }

        var (name, type) = read.Value;
        var guess = Tray.Guess(name, PdfText.Of(bytes, type), await PaperStore.TrayLoads(w.Db, w.Now - Duration.FromDays(120)));
        var id = await PaperStore.AddToTray(w, kind ?? guess.Kind ?? PaperKind.Other, name, type, bytes, mailId, guess);
        await Events.Add(w, "paper.tray", "paper", id, $"{name} waits to be sorted");
        return (await PaperStore.Get(w.Db, id))!;
    }

    /// <summary>Gives a paper of the tray to a locked load.</summary>
    public static async Task<Outcome<PaperRow>> Sort(Work w, long paperId, long loadId, PaperKind kind)
    {
        var row = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (!await PaperStore.Sort(w, paperId, loadId, kind))
        {
            return new Problem("paper.sorted", "This paper is not in the tray any more: somebody sorted it.");
        }

        var paper = (await PaperStore.Get(w.Db, paperId))!;
        await LoadWrites.Settle(w.Db, loadId);
        await Events.Add(w, "paper.added", "load", loadId, $"{kind.Said()} sorted to {row.Number}: {paper.FileName}", loadId: loadId, driverId: row.DriverId);
        return paper;
    }

    /// <summary>Puts a sorted paper of a locked load back into the tray.</summary>
    public static async Task<Outcome<PaperRow>> Unsort(Work w, PaperRow paper)
    {
        var row = (await LoadReads.ByIds(w.Db, [paper.LoadId!.Value]))[0];
        if (row.State is Core.Loads.LoadState.Billed or Core.Loads.LoadState.Closed)
        {
            return new Problem("paper.billed", $"Load {row.Number} was billed with its papers: they stay.");
        }

        await PaperStore.Unsort(w, paper.Id);
        await LoadWrites.Settle(w.Db, row.Id);
        await Events.Add(w, "paper.tray", "load", row.Id, $"{paper.FileName} taken off {row.Number}, to be sorted", loadId: row.Id, driverId: row.DriverId);
        return (await PaperStore.Get(w.Db, paper.Id))!;
    }

    /// <summary>A file's name and what it is, or why it cannot be kept.</summary>
    public static Outcome<(string Name, string Type)> Read(string fileName, byte[] bytes)
    {
        var checks = new Checks();
        var name = checks.Text(Path.GetFileName(fileName), "file", "The file's name", 200) ?? "paper";
        var type = PaperIntake.MediaType(bytes);
        checks.AddRange(type.Problems);
        if (checks.Ok && PdfMerge.Unreadable(bytes, type.Value) is { } why)
        {
            checks.Add("file.unreadable", why, "file");
        }

        return checks.Ok ? (name, type.Value) : checks.Problems.ToList();
    }

    /// <summary>Takes a paper off its locked load; it can be brought back.</summary>
    public static async Task<Outcome<PaperRow>> PutAway(Work w, PaperRow paper)
    {
        if (paper.LoadId is null)
        {
            await PaperStore.PutAway(w, paper.Id);
            await Events.Add(w, "paper.put_away", "paper", paper.Id, $"{paper.FileName} thrown out of the tray");
            return paper;
        }

        var row = (await LoadReads.ByIds(w.Db, [paper.LoadId.Value]))[0];
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

        if (paper.LoadId is not { } load)
        {
            await Events.Add(w, "paper.tray", "paper", paper.Id, $"{paper.FileName} is in the tray again");
            return paper;
        }

        await LoadWrites.Settle(w.Db, load);
        await Events.Add(w, "paper.brought_back", "load", load, $"{paper.Kind.Said()} brought back: {paper.FileName}", loadId: paper.LoadId);
        return paper;
    }
}
