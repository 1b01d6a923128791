using System.Security.Cryptography;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Documents;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Documents;

/// <param name="StopId">The delivery a POD is of; null for all of the load.</param>
/// <param name="Size">Bytes.</param>
/// <param name="Sha256">SHA-256 of the bytes, lower-case hexadecimal (FIPS 180-4).</param>
public sealed record DocumentRow(
    long Id,
    long? LoadId,
    DocumentKind Kind,
    string FileName,
    string MediaType,
    int Size,
    string Sha256,
    Instant AddedAt,
    string? AddedBy,
    string Via,
    long? BillId = null,
    long? StopId = null
);

/// <summary>A document in the tray.</summary>
/// <param name="From">Who emailed it; null when it was added by hand.</param>
/// <param name="SuggestedLoadId">The suggested load, with the reason.</param>
public sealed record TrayDocument(
    DocumentRow Document,
    string? From,
    string? Subject,
    long? SuggestedLoadId,
    string? SuggestedNumber,
    string? SuggestedLane,
    string? SuggestedWhy
);

public static class DocumentStore
{
    private const string Select = """
        select p.id, p.load_id, p.bill_id, p.kind, p.file_name, p.media_type, p.size, p.stop_id, encode(p.sha256, 'hex') as sha, p.added_at, p.via,
        u.name as added_by from documents p left join users u on u.id = p.added_by
        """;

    /// <summary>Stores a document. Identical bytes are stored once.</summary>
    public static async Task<long> Add(
        CommandContext w,
        long? loadId,
        DocumentKind kind,
        string fileName,
        string mediaType,
        byte[] bytes,
        long? billId = null,
        long? stopId = null,
        long? legId = null,
        long? expenseId = null
    )
    {
        var hash = SHA256.HashData(bytes);
        await w.Db.Run(
            "insert into document_files (sha256, bytes) values (@hash, @bytes) on conflict do nothing",
            ("hash", hash),
            ("bytes", bytes)
        );
        return await w.Db.One<long>(
            """
            insert into documents (load_id, bill_id, kind, file_name, media_type, size, sha256, added_at, added_by, via, stop_id, leg_id, expense_id)
            values (@load, @bill, @kind, @name, @type, @size, @hash, @now, @user, @via, @stop, @leg, @expense) returning id
            """,
            ("load", loadId),
            ("bill", billId),
            ("stop", stopId),
            ("leg", legId),
            ("expense", expenseId),
            ("kind", kind),
            ("name", fileName),
            ("type", mediaType),
            ("size", bytes.Length),
            ("hash", hash),
            ("now", w.Now),
            ("user", w.Actor.UserId),
            ("via", EnumCodec.Of(w.Actor.Via))
        );
    }

    public static Task<List<DocumentRow>> OfLoad(NpgsqlConnection db, long loadId) =>
        db.Rows($"{Select} where p.load_id = @load and p.removed_at is null order by p.id", Read, ("load", loadId));

    /// <summary>A carrier's rate confirmations for a leg.</summary>
    public static Task<List<DocumentRow>> OfLeg(NpgsqlConnection db, long legId) =>
        db.Rows($"{Select} where p.leg_id = @leg and p.removed_at is null order by p.id", Read, ("leg", legId));

    /// <summary>Those of several loads, by load; oldest first.</summary>
    public static async Task<ILookup<long, DocumentRow>> OfLoads(NpgsqlConnection db, IEnumerable<long> loadIds) =>
        (
            await db.Rows(
                $"{Select} where p.load_id = any(@loads) and p.removed_at is null order by p.id",
                Read,
                ("loads", loadIds.ToArray())
            )
        ).ToLookup(d => d.LoadId!.Value);

    public static Task<List<DocumentRow>> OfBill(NpgsqlConnection db, long billId) =>
        db.Rows($"{Select} where p.bill_id = @bill and p.removed_at is null order by p.id", Read, ("bill", billId));

    public static Task<DocumentRow?> Get(NpgsqlConnection db, long id) => db.Row($"{Select} where p.id = @id", Read, ("id", id));

    public static async Task<byte[]> Bytes(NpgsqlConnection db, long documentId) =>
        (
            await db.One<byte[]>(
                "select b.bytes from documents p join document_files b on b.sha256 = p.sha256 where p.id = @id",
                ("id", documentId)
            )
        )!;

    /// <summary>Removes a document from its load. Its bytes stay.</summary>
    public static Task<int> Remove(CommandContext w, long id) =>
        w.Db.Run("update documents set removed_at = @now where id = @id and removed_at is null", ("id", id), ("now", w.Now));

    /// <summary>Restores a removed document.</summary>
    public static Task<int> Restore(CommandContext w, long id) =>
        w.Db.Run("update documents set removed_at = null where id = @id and removed_at is not null", ("id", id));

    /// <summary>Puts a document in the tray, with a suggestion.</summary>
    public static async Task<long> AddToTray(
        CommandContext w,
        DocumentKind kind,
        string fileName,
        string mediaType,
        byte[] bytes,
        long? mailId,
        TraySuggestion suggestion
    )
    {
        var id = await Add(w, null, kind, fileName, mediaType, bytes);
        await w.Db.Run(
            "update documents set email_id = @mail, suggested_load_id = @load, suggested_why = @why where id = @id",
            ("id", id),
            ("mail", mailId),
            ("load", suggestion.LoadId),
            ("why", suggestion.Why)
        );
        return id;
    }

    private const string InTray = "p.load_id is null and p.bill_id is null and p.expense_id is null and p.removed_at is null";

    /// <summary>Documents in the tray, oldest first.</summary>
    public static Task<List<TrayDocument>> Tray(NpgsqlConnection db, int max) =>
        db.Rows(
            $"""
            select p.id, p.load_id, p.bill_id, p.kind, p.file_name, p.media_type, p.size, p.stop_id, encode(p.sha256, 'hex') as sha, p.added_at, p.via,
                u.name as added_by, m.from_address, m.subject, p.suggested_load_id, l.number as guess_number, p.suggested_why,
                   (select x.town from stops s join places x on x.id = s.place_id where s.load_id = l.id order by s.seq limit 1) || ' to '
                       || (select x.town from stops s join places x on x.id = s.place_id where s.load_id = l.id order by s.seq desc limit 1)
                       as lane
            from documents p left join users u on u.id = p.added_by left join emails m on m.id = p.email_id left join loads l on l.id =
                p.suggested_load_id where {InTray} order by p.id limit @most
            """,
            r => new TrayDocument(
                Read(r),
                r.TextOrNull("from_address"),
                r.TextOrNull("subject"),
                r.LongOrNull("suggested_load_id"),
                r.TextOrNull("guess_number"),
                r.TextOrNull("lane"),
                r.TextOrNull("suggested_why")
            ),
            ("most", max)
        );

    public static Task<int> TrayCount(NpgsqlConnection db) => db.One<int>($"select count(*)::int from documents p where {InTray}");

    /// <summary>Files a document from the tray to a load.</summary>
    /// <returns>False when it is no longer in the tray.</returns>
    public static async Task<bool> Sort(CommandContext w, long id, long loadId, DocumentKind kind) =>
        await w.Db.Run(
            $"update documents p set load_id = @load, kind = @kind where p.id = @id and {InTray}",
            ("id", id),
            ("load", loadId),
            ("kind", kind)
        ) == 1;

    /// <summary>Returns a load's document to the tray.</summary>
    public static Task Unsort(CommandContext w, long id) =>
        w.Db.Run(
            """
            update documents set suggested_load_id = load_id, suggested_why = 'it was filed there before', load_id = null, stop_id = null
            where id = @id
            """,
            ("id", id)
        );

    /// <summary>Loads that a tray document may belong to: recent ones that are not closed, with their numbers.</summary>
    public static Task<List<TrayLoad>> TrayLoads(NpgsqlConnection db, Instant since) =>
        db.Rows(
            """
            select l.id, l.number, array_remove(array(select r.value from load_references r where r.load_id = l.id) || array[l.number,
                l.reference], null) as words
            from loads l where l.state in ('booked', 'tendered', 'covered', 'rolling', 'delivered', 'billed') and l.booked_at > @since order by l.id
                desc limit 3000
            """,
            r => new TrayLoad(r.Long("id"), r.Text("number"), r.Texts("words")),
            ("since", since)
        );

    private static DocumentRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.LongOrNull("load_id"),
            r.Enum<DocumentKind>("kind"),
            r.Text("file_name"),
            r.Text("media_type"),
            r.Int("size"),
            r.Text("sha"),
            r.Instant("added_at"),
            r.TextOrNull("added_by"),
            r.Text("via"),
            r.LongOrNull("bill_id"),
            r.LongOrNull("stop_id")
        );
}
