using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Line;

/// <summary>Something that was found.</summary>
/// <param name="Kind">load, company, driver, invoice or place.</param>
/// <param name="Score">0 to 1 for how well the words fit, before weight.</param>
public sealed record Found(string Kind, long Id, string Title, string Subtitle, double Score);

public static class FindStore
{
    /// <summary>Below this word similarity (pg_trgm) a word is not taken for a mistyped other.</summary>
    public const double LeastSimilar = 0.45;

    /// <summary>Where nothing is found so, a short word with letters exchanged may still be meant.</summary>
    public const double LeastSimilarAtAll = 0.3;

    /// <summary>
    /// Everything on which each of the words stands, whole, in part or mistyped, best first. A word of digits must stand
    /// there as it is, for a mistyped number is another number.
    /// </summary>
    /// <param name="kinds">Which kinds, or null for all.</param>
    public static async Task<List<Found>> Find(NpgsqlConnection db, IReadOnlyList<string> words, IReadOnlyList<string>? kinds, int most) =>
        await Find(db, words, kinds, most, LeastSimilar) is { Count: > 0 } found ? found : await Find(db, words, kinds, most, LeastSimilarAtAll);

    private static async Task<List<Found>> Find(NpgsqlConnection db, IReadOnlyList<string> words, IReadOnlyList<string>? kinds, int most, double least)
    {
        if (words.Count == 0)
        {
            return [];
        }

        var lowered = words.Take(8).Select(w => w.ToLowerInvariant()).ToList();
        var parameters = new List<(string, object?)> { ("kinds", kinds?.ToArray()), ("most", most), ("title", string.Join(' ', lowered)) };
        var fits = new List<string>();
        var scores = new List<string>();
        for (var i = 0; i < lowered.Count; i++)
        {
            parameters.Add(($"w{i}", lowered[i]));
            parameters.Add(($"like{i}", $"%{Basics.Find.Escape(lowered[i])}%"));
            var exactOnly = lowered[i].Any(char.IsAsciiDigit) || lowered[i].Length < 4;
            fits.Add(exactOnly ? $"words like @like{i}" : $"(words like @like{i} or @w{i} <% words)");
            scores.Add($"word_similarity(@w{i}, words)");
        }

        await db.Run($"set pg_trgm.word_similarity_threshold = {least.ToString(System.Globalization.CultureInfo.InvariantCulture)}");
        return await db.Rows(
            $"""
            select kind, ref_id, title, subtitle, (({string.Join(" + ", scores)}) / {lowered.Count})::float8 as score
            from findables where {string.Join(" and ", fits)} and (@kinds::text[] is null or kind = any(@kinds))
            order by lower(title) = @title desc, lower(title) like @title || '%' desc, round((({string.Join(" + ", scores)}) / {lowered.Count})::numeric, 1) desc, weight desc, ref_id desc
            limit @most
            """,
            r => new Found(r.Text("kind"), r.Long("ref_id"), r.Text("title"), r.Text("subtitle"), r.Double("score")), [.. parameters]);
    }
}
