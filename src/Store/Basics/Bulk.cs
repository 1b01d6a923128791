using Npgsql;
using SteadyLark.Core.Basics;

namespace SteadyLark.Store.Basics;

/// <summary>Rows of one table collected for one COPY. For generated history, not for live work: constraints and triggers apply as
/// usual.</summary>
/// <param name="columns">Separated by commas.</param>
public sealed class Bulk(string table, string columns)
{
    private readonly List<object?[]> _rows = [];

    public int Count => _rows.Count;

    /// <summary>Values in column order; each of the .NET type that its column expects.</summary>
    public void Add(params object?[] row) => _rows.Add(row);

    public async Task Copy(NpgsqlConnection db)
    {
        await using var to = await db.BeginBinaryImportAsync($"copy {table} ({columns}) from stdin (format binary)");
        foreach (var row in _rows)
        {
            await to.StartRowAsync();
            foreach (var value in row)
            {
                switch (value)
                {
                    case null:
                        await to.WriteNullAsync();
                        break;
                    case Enum word:
                        await to.WriteAsync(EnumCodec.Of(word));
                        break;
                    case Money money:
                        await to.WriteAsync(money.Amount);
                        break;
                    default:
                        await to.WriteAsync(value);
                        break;
                }
            }
        }

        await to.CompleteAsync();
        _rows.Clear();
    }
}
