using System.Security.Cryptography;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Papers;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Papers;

/// <param name="Size">Bytes.</param>
/// <param name="Sha256">SHA-256 of the bytes, lower-case hexadecimal (FIPS 180-4).</param>
public sealed record PaperRow(long Id, long? LoadId, PaperKind Kind, string FileName, string MediaType, int Size, string Sha256, Instant AddedAt, string? AddedBy, string Via);

public static class PaperStore
{
    private const string Select = "select p.id, p.load_id, p.kind, p.file_name, p.media_type, p.size, encode(p.sha256, 'hex') as sha, p.added_at, p.via, u.name as added_by from papers p left join users u on u.id = p.added_by";

    /// <summary>Keeps a paper. Equal bytes are kept once.</summary>
    public static async Task<long> Add(Work w, long? loadId, PaperKind kind, string fileName, string mediaType, byte[] bytes)
    {
        var hash = SHA256.HashData(bytes);
        await w.Db.Run("insert into paper_bytes (sha256, bytes) values (@hash, @bytes) on conflict do nothing", ("hash", hash), ("bytes", bytes));
        return await w.Db.One<long>(
            """
            insert into papers (load_id, kind, file_name, media_type, size, sha256, added_at, added_by, via)
            values (@load, @kind, @name, @type, @size, @hash, @now, @user, @via) returning id
            """,
            ("load", loadId), ("kind", kind), ("name", fileName), ("type", mediaType), ("size", bytes.Length), ("hash", hash), ("now", w.Now), ("user", w.Actor.UserId), ("via", Words.Of(w.Actor.Via)));
    }

    public static Task<List<PaperRow>> OfLoad(NpgsqlConnection db, long loadId) =>
        db.Rows($"{Select} where p.load_id = @load and p.put_away_at is null order by p.id", Read, ("load", loadId));

    public static Task<PaperRow?> Get(NpgsqlConnection db, long id) => db.Row($"{Select} where p.id = @id", Read, ("id", id));

    public static async Task<byte[]> Bytes(NpgsqlConnection db, long paperId) =>
        (await db.One<byte[]>("select b.bytes from papers p join paper_bytes b on b.sha256 = p.sha256 where p.id = @id", ("id", paperId)))!;

    /// <summary>Takes a paper off its load. Its bytes stay.</summary>
    public static Task<int> PutAway(Work w, long id) => w.Db.Run("update papers set put_away_at = @now where id = @id and put_away_at is null", ("id", id), ("now", w.Now));

    /// <summary>Brings a paper back that was put away.</summary>
    public static Task<int> BringBack(Work w, long id) => w.Db.Run("update papers set put_away_at = null where id = @id and put_away_at is not null", ("id", id));

    private static PaperRow Read(NpgsqlDataReader r) =>
        new(r.Long("id"), r.LongOrNull("load_id"), r.Word<PaperKind>("kind"), r.Text("file_name"), r.Text("media_type"), r.Int("size"), r.Text("sha"), r.Instant("added_at"), r.TextOrNull("added_by"), r.Text("via"));
}
