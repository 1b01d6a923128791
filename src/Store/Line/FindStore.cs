using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Line;

/// <summary>A search result.</summary>
/// <param name="Kind">load, company, driver, invoice or place.</param>
/// <param name="Score">0 to 1 for how well the words match, before weighting.</param>
public sealed record Found(string Kind, long Id, string Title, string Subtitle, double Score);

public static class FindStore
{
    /// <summary>How many spellings are tried for a word that is not in the vocabulary.</summary>
    private const int MaxSpellings = 6;

    /// <summary>
    /// Everything that matches each of the words, whole, partial or misspelled, best first: exact numbers and names, then what is in
    /// progress, then the newest. A word with digits must match
    /// exactly, because a mistyped number is another number; one of one or two characters must begin a word, because trigrams cannot match
    /// it.
    /// </summary>
    /// <param name="kinds">Which kinds, or null for all.</param>
    public static async Task<List<Found>> Find(NpgsqlConnection db, IReadOnlyList<string> words, IReadOnlyList<string>? kinds, int max)
    {
        if (words.Count == 0)
        {
            return [];
        }

        var typed = words.Take(8).Select(w => w.ToLowerInvariant()).ToArray();
        var found = await Find(db, typed.Select(w => new[] { w }).ToList(), typed, kinds, max);
        return found.Count > 0 || typed.All(w => w.Length < 3 || w.Any(char.IsAsciiDigit))
            ? found
            : await Find(db, await Spellings(db, typed), typed, kinds, max);
    }

    /// <summary>
    /// For each word, the vocabulary words it may mean: insertions, deletions, swaps and substitutions (Levenshtein), or similar trigrams.
    /// </summary>
    private static async Task<List<string[]>> Spellings(NpgsqlConnection db, string[] typed)
    {
        var near = (
            await db.Rows(
                """
                select t.at, v.word from unnest(@words) with ordinality as t(word, at)
                cross join lateral (
                    select v.word, levenshtein_less_equal(t.word, v.word, 2) as off from search_vocabulary v
                    where abs(length(v.word) - length(t.word)) <= 2 and (levenshtein_less_equal(t.word, v.word, 2) <= case when
                        length(t.word) < 5 then 1 else 2 end or similarity(t.word, v.word) > 0.5)
                    order by off, similarity(t.word, v.word) desc, v.word limit @most) v
                where length(t.word) >= 3 and t.word !~ '[0-9]'
                """,
                r => (At: (int)r.Long("at"), Event: r.Text("word")),
                ("words", typed),
                ("most", MaxSpellings)
            )
        ).ToLookup(n => n.At, n => n.Event);
        return typed.Select((w, i) => near[i + 1].Prepend(w).Distinct().ToArray()).ToList();
    }

    private static Task<List<Found>> Find(NpgsqlConnection db, List<string[]> forms, string[] typed, IReadOnlyList<string>? kinds, int max)
    {
        var parameters = new List<(string, object?)>
        {
            ("kinds", kinds?.ToArray()),
            ("most", max),
            ("title", string.Join(' ', typed)),
            ("start", $"{Basics.Find.Escape(string.Join(' ', typed))}%"),
        };
        for (var i = 0; i < forms.Count; i++)
        {
            parameters.Add(
                (
                    $"w{i}",
                    forms[i].Select(Basics.Find.Escape).SelectMany(f => f.Length < 3 ? [$"{f}%", $"% {f}%"] : new[] { $"%{f}%" }).ToArray()
                )
            );
        }

        return db.Rows(
            $"""
            select kind, ref_id, title, subtitle, weight::float8 as score from search_entries
            where {string.Join(
                " and ",
                forms.Select((f, i) => $"words like any(@w{i})")
            )} and (@kinds::text[] is null or kind = any(@kinds))
              and (current_user <> 'lark_limited' or find_in_view(kind, ref_id))
            order by lower(title) = @title desc, lower(title) like @start desc, weight desc, ref_id desc
            limit @most
            """,
            r => new Found(r.Text("kind"), r.Long("ref_id"), r.Text("title"), r.Text("subtitle"), r.Double("score")),
            [.. parameters]
        );
    }
}
