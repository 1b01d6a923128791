using System.Globalization;

namespace SteadyLark.Core.Fitting;

/// <summary>
/// Pieces on a trailer's floor, in rows from the nose: the last stop's first, so that the next delivery stands at the doors. Pieces of one kind
/// are stacked as high as the trailer, where they may be. A row takes what fits across; its depth is its longest piece. Each way of turning the
/// kinds is tried, and the shortest floor wins.
/// </summary>
public static class FloorFit
{
    /// <summary>Up to so many turnable kinds every combination of turns is tried; above it, all lie one way or the other.</summary>
    private const int MostTurns = 8;

    /// <summary>Some pieces on each other on the floor.</summary>
    private sealed record Stack(FitPiece Piece, int Pieces, decimal Along, decimal Across);

    private sealed record Row(decimal From, decimal Depth, List<Stack> Stacks);

    public static FitAnswer Fit(FitTrailer trailer, IReadOnlyList<FitPiece> pieces)
    {
        var left = new Dictionary<FitPiece, string>();
        var loaded = new List<FitPiece>();
        var pounds = 0m;
        foreach (var p in pieces.OrderByDescending(p => p.Stop))
        {
            if (TooLarge(trailer, p) is { } why)
            {
                left[p] = why;
                continue;
            }

            var room = p.Weight == 0 ? p.Count : (int)Math.Min(p.Count, Math.Floor((trailer.Payload - pounds) / p.Weight));
            pounds += room * p.Weight;
            if (room > 0)
            {
                loaded.Add(p with { Count = room });
            }

            if (room < p.Count)
            {
                left[p] = Said(p.Count - room, p, $"{(p.Count - room) * p.Weight:#,##0} pounds over the payload");
            }
        }

        var rows = Shortest(trailer, loaded);
        var fit = rows.Where(r => r.From + r.Depth <= trailer.Length).ToList();
        var over = rows.Skip(fit.Count)
            .SelectMany(r => r.Stacks)
            .GroupBy(s => s.Piece.Id)
            .ToDictionary(g => g.Key!, g => g.Sum(s => s.Pieces));
        foreach (var p in pieces.Where(p => over.ContainsKey(p.Id!)))
        {
            var needs = Ends(rows) - trailer.Length;
            left[p] = Said(over[p.Id!], p, $"{needs:0.##} inches of floor are missing for everything");
        }

        return FitAnswer.Of(
            fit.SelectMany(r =>
                    r.Stacks.GroupBy(s => s.Piece.Id)
                        .Select(g => new FitPlace(
                            g.Key!,
                            string.Create(CultureInfo.InvariantCulture, $"{r.From:0.##} to {r.From + r.Depth:0.##} in"),
                            g.Sum(s => s.Pieces)
                        ))
                )
                .ToList(),
            pieces.Where(left.ContainsKey).Select(p => new FitLeft(p.Id!, left[p])).ToList(),
            pieces.ToDictionary(p => p.Id!, p => p.Stop)
        );
    }

    /// <summary>Inches of the trailer's length that pieces take, whatever its length; null when one is too tall or too wide for it.</summary>
    public static decimal? Length(FitTrailer trailer, IReadOnlyList<FitPiece> pieces) =>
        pieces.Any(p => TooLarge(trailer, p) is not null) ? null : Ends(Shortest(trailer, pieces));

    private static List<Row> Shortest(FitTrailer trailer, IReadOnlyList<FitPiece> pieces) =>
        Turns(pieces).Select(turned => Rows(trailer, pieces, turned)).MinBy(Ends)!;

    private static decimal Ends(List<Row> rows) => rows.Count == 0 ? 0 : rows[^1].From + rows[^1].Depth;

    private static string Said(int some, FitPiece p, string why) =>
        string.Create(CultureInfo.InvariantCulture, $"{some} of {p.Count} do not fit: {why}");

    private static string? TooLarge(FitTrailer t, FitPiece p)
    {
        var straight = p.Length <= t.Length && p.Width <= t.Width;
        var turned = p.Turnable && p.Width <= t.Length && p.Length <= t.Width;
        return p.Height > t.Height ? $"{(p.Height - t.Height).ToString("0.##", CultureInfo.InvariantCulture)} inches too tall"
            : straight || turned ? null
            : "too long or too wide for the floor";
    }

    /// <summary>Ways to lay the kinds: those that lie across.</summary>
    private static IEnumerable<HashSet<string>> Turns(IReadOnlyList<FitPiece> pieces)
    {
        var may = pieces.Where(p => p.Turnable).Select(p => p.Id!).ToList();
        return may.Count <= MostTurns
            ? Subsets.Each(may).Select(m => Subsets.Of(may, m).ToHashSet())
            :
            [
                [],
                [.. may],
            ];
    }

    private static List<Row> Rows(FitTrailer trailer, IReadOnlyList<FitPiece> pieces, HashSet<string> across)
    {
        var rows = new List<Row>();
        foreach (var stop in pieces.GroupBy(p => p.Stop).OrderByDescending(g => g.Key))
        {
            var waiting = stop.SelectMany(p => Stacks(trailer, p, across.Contains(p.Id!))).OrderByDescending(s => s.Along).ToList();
            while (waiting.Count > 0)
            {
                var row = new List<Stack>();
                var room = trailer.Width;
                foreach (var stack in waiting.ToList())
                {
                    if (stack.Across <= room)
                    {
                        row.Add(stack);
                        waiting.Remove(stack);
                        room -= stack.Across;
                    }
                }

                var from = rows.Count == 0 ? 0 : rows[^1].From + rows[^1].Depth;
                rows.Add(new Row(from, row.Max(s => s.Along), row));
            }
        }

        return rows;
    }

    private static IEnumerable<Stack> Stacks(FitTrailer trailer, FitPiece p, bool across)
    {
        // A turn that does not fit stays straight, and the other way around.
        var turned = across
            ? p.Length <= trailer.Width && p.Width <= trailer.Length
            : !(p.Width <= trailer.Width && p.Length <= trailer.Length);
        var (along, wide) = turned ? (p.Width, p.Length) : (p.Length, p.Width);
        var high = p.Stackable ? (int)Math.Floor(trailer.Height / p.Height) : 1;
        for (var rest = p.Count; rest > 0; rest -= high)
        {
            yield return new Stack(p, Math.Min(rest, high), along, wide);
        }
    }
}
