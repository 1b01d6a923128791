using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Documents;

/// <summary>Adding and removing documents.</summary>
public static class DocumentCommands
{
    /// <summary>Adds a file as a document of a locked load.</summary>
    /// <param name="stop">The delivery a POD is of; null for all of them.</param>
    public static async Task<Outcome<DocumentRow>> Add(
        CommandContext w,
        long loadId,
        DocumentKind kind,
        string fileName,
        byte[] bytes,
        long? stop = null
    )
    {
        var read = await Read(fileName, bytes);
        if (!read.Ok)
        {
            return read.Problems;
        }

        var (name, type) = read.Value;
        var row = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        var of = Pods.Of(kind, stop, row.Deliveries());
        if (!of.Ok)
        {
            return of.Problems;
        }

        var id = await DocumentStore.Add(w, loadId, kind, name, type, bytes, stopId: of.Value);
        await LoadWrites.Settle(w, loadId);
        w.Record(
            DocumentRights.Added(kind),
            loadId,
            $"{kind.Format()} added to {row.Number}: {name}",
            loadId: loadId,
            driverId: row.DriverId
        );
        return (await DocumentStore.Get(w.Db, id))!;
    }

    /// <summary>The delivery of which a driver sends a POD: where they are; null on a load with one delivery.</summary>
    public static async Task<long?> Where(CommandContext w, long loadId, DocumentKind kind) =>
        Pods.Where(kind, (await LoadReads.ByIds(w.Db, [loadId]))[0].DeliveriesArrived());

    /// <summary>Adds a file to the tray, with a suggestion from its name and text.</summary>
    public static async Task<Outcome<DocumentRow>> AddToTray(
        CommandContext w,
        DocumentKind? kind,
        string fileName,
        byte[] bytes,
        long? mailId = null,
        string? hint = null
    )
    {
        var read = await Read(fileName, bytes);
        if (!read.Ok)
        {
            return read.Problems;
        }

        var (name, type) = read.Value;
        var suggestion = Tray.Suggest(
            name,
            hint + "\n" + await Untrusted.Ask(FileQuestion.Text, bytes, type, ""),
            await DocumentStore.TrayLoads(w.Db, w.Now - Duration.FromDays(120))
        );
        var id = await DocumentStore.AddToTray(w, kind ?? suggestion.Kind ?? DocumentKind.Other, name, type, bytes, mailId, suggestion);
        w.Record(EventKinds.DocumentReceived, id, $"{name} received, not filed yet", subject: "document");
        return (await DocumentStore.Get(w.Db, id))!;
    }

    /// <summary>Files a document from the tray to a locked load.</summary>
    public static async Task<Outcome<DocumentRow>> Sort(CommandContext w, long documentId, long loadId, DocumentKind kind)
    {
        var row = (await LoadReads.ByIds(w.Db, [loadId]))[0];
        if (!await DocumentStore.Sort(w, documentId, loadId, kind))
        {
            return new Problem("document.filed", "This document is no longer in the tray: someone else filed it.");
        }

        var document = (await DocumentStore.Get(w.Db, documentId))!;
        await LoadWrites.Settle(w, loadId);
        w.Record(
            DocumentRights.Added(kind),
            loadId,
            $"{kind.Format()} filed to {row.Number}: {document.FileName}",
            loadId: loadId,
            driverId: row.DriverId
        );
        return document;
    }

    /// <summary>Returns a locked load's document to the tray.</summary>
    public static async Task<Outcome<DocumentRow>> Unsort(CommandContext w, DocumentRow document)
    {
        var row = (await LoadReads.ByIds(w.Db, [document.LoadId!.Value]))[0];
        if (row.State is Core.Loads.LoadState.Billed or Core.Loads.LoadState.Closed)
        {
            return new Problem("document.billed", $"Load {row.Number} was billed with its documents: they cannot be moved.");
        }

        await DocumentStore.Unsort(w, document.Id);
        await LoadWrites.Settle(w, row.Id);
        w.Record(
            DocumentRights.Received(document.Kind),
            row.Id,
            $"{document.FileName} removed from {row.Number} and returned to the tray",
            loadId: row.Id,
            driverId: row.DriverId
        );
        return (await DocumentStore.Get(w.Db, document.Id))!;
    }

    /// <summary>A file's name and type, or why it cannot be kept.</summary>
    public static async Task<Outcome<(string Name, string Type)>> Read(string fileName, byte[] bytes)
    {
        var validation = new Validation();
        var name = validation.Text(Path.GetFileName(fileName), "file", "The file name", 200) ?? "document";
        var type = DocumentIntake.MediaType(bytes);
        validation.AddRange(type.Problems);
        if (
            validation.Ok
            && await Untrusted.Ask(
                FileQuestion.WhyRefused,
                bytes,
                type.Value,
                "The file takes too much time or memory to read: scan the document again."
            )
                is { } why
        )
        {
            validation.Add("file.unreadable", why, "file");
        }

        return validation.Ok ? (name, type.Value) : validation.Problems;
    }

    /// <summary>Removes a document from its locked load; it can be restored.</summary>
    public static async Task<Outcome<DocumentRow>> Remove(CommandContext w, DocumentRow document)
    {
        if (document.LoadId is null)
        {
            await DocumentStore.Remove(w, document.Id);
            w.Record(DocumentRights.Removed(document.Kind), document.Id, $"{document.FileName} removed from the tray", subject: "document");
            return document;
        }

        var row = (await LoadReads.ByIds(w.Db, [document.LoadId.Value]))[0];
        if (document.Kind == DocumentKind.Pod && row.State is Core.Loads.LoadState.Billed or Core.Loads.LoadState.Closed)
        {
            return new Problem("document.billed", $"Load {row.Number} was billed with this POD: it cannot be removed.");
        }

        await DocumentStore.Remove(w, document.Id);
        await LoadWrites.Settle(w, row.Id);
        w.Record(
            DocumentRights.Removed(document.Kind),
            row.Id,
            $"{document.Kind.Format()} removed from {row.Number}: {document.FileName}",
            loadId: row.Id,
            driverId: row.DriverId
        );
        return document;
    }

    public static async Task<Outcome<DocumentRow>> Restore(CommandContext w, DocumentRow document)
    {
        if (await DocumentStore.Restore(w, document.Id) == 0)
        {
            return new Problem("document.present", "This document is already on its load.");
        }

        if (document.LoadId is not { } load)
        {
            w.Record(DocumentRights.Received(document.Kind), document.Id, $"{document.FileName} returned to the tray", subject: "document");
            return document;
        }

        await LoadWrites.Settle(w, load);
        w.Record(
            DocumentRights.Restored(document.Kind),
            load,
            $"{document.Kind.Format()} restored: {document.FileName}",
            loadId: document.LoadId
        );
        return document;
    }
}
