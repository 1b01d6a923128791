using System.Data;
using System.Runtime.CompilerServices;
using System.Text;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;

namespace SteadyLark.Store.Basics;

/// <summary>A thin layer over ADO.NET: SQL with named parameters in, rows read by hand out. It maps nothing.</summary>
internal static class Sql
{
    public static async Task<List<T>> Rows<T>(
        this NpgsqlConnection db,
        string sql,
        Func<NpgsqlDataReader, T> read,
        params (string Name, object? Value)[] parameters
    )
    {
        await using var command = await db.Command(sql, parameters);
        await using var reader = await command.ExecuteReaderAsync();
        var rows = new List<T>();
        while (await reader.ReadAsync())
        {
            rows.Add(read(reader));
        }

        return rows;
    }

    /// <summary>Several queries with the same parameters in one round trip; each has its own reader.</summary>
    public static async Task Together(
        this NpgsqlConnection db,
        (string Name, object? Value)[] parameters,
        params (string Sql, Action<NpgsqlDataReader> Read)[] questions
    )
    {
        var sql = string.Join(";\n", questions.Select(q => q.Sql));
        // Literals put together are as few as their callers.
        await using var command = await db.Command(
            questions.All(q => string.IsInterned(q.Sql) is not null) ? string.Intern(sql) : sql,
            parameters
        );
        await using var reader = await command.ExecuteReaderAsync();
        foreach (var (_, read) in questions)
        {
            while (await reader.ReadAsync())
            {
                read(reader);
            }

            await reader.NextResultAsync();
        }
    }

    /// <summary>Rows one after the other: nothing is held but the row at hand. The connection is busy until the end.</summary>
    /// <param name="seconds">How long the whole may take.</param>
    public static async IAsyncEnumerable<T> Stream<T>(
        this NpgsqlConnection db,
        string sql,
        Func<NpgsqlDataReader, T> read,
        int seconds,
        [EnumeratorCancellation] CancellationToken cancel,
        params (string Name, object? Value)[] parameters
    )
    {
        await using var command = await db.Command(sql, parameters);
        command.CommandTimeout = seconds;
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            yield return read(reader);
        }
    }

    /// <summary>The first row, or null.</summary>
    public static async Task<T?> Row<T>(
        this NpgsqlConnection db,
        string sql,
        Func<NpgsqlDataReader, T> read,
        params (string Name, object? Value)[] parameters
    )
        where T : class
    {
        await using var command = await db.Command(sql, parameters);
        await using var reader = await command.ExecuteReaderAsync(CommandBehavior.SingleRow);
        return await reader.ReadAsync() ? read(reader) : null;
    }

    /// <summary>The first column of the first row; the type's default when there is no row or it is null.</summary>
    public static async Task<T?> One<T>(this NpgsqlConnection db, string sql, params (string Name, object? Value)[] parameters)
    {
        await using var command = await db.Command(sql, parameters);
        await using var reader = await command.ExecuteReaderAsync(CommandBehavior.SingleRow);
        return await reader.ReadAsync() && !await reader.IsDBNullAsync(0) ? await reader.GetFieldValueAsync<T>(0) : default;
    }

    /// <summary>Runs a statement and returns the number of rows affected.</summary>
    public static async Task<int> Run(this NpgsqlConnection db, string sql, params (string Name, object? Value)[] parameters)
    {
        await using var command = await db.Command(sql, parameters);
        return await command.ExecuteNonQueryAsync();
    }

    /// <summary>Whether a table has a row with this key.</summary>
    /// <param name="table">One of our own table names, never user input.</param>
    public static Task<bool> Has(this NpgsqlConnection db, string table, long id) =>
        db.One<bool>($"select exists (select 1 from {table} where id = @id)", ("id", id));

    /// <summary>
    /// A command, prepared when its SQL is a literal of the program: literals are interned, and there are only so many of them. Statements
    /// put together
    /// at run time, such as a list's with its filters, are not: each connection would keep every variant. Automatic preparation is off,
    /// because about
    /// one command in twenty thousand failed in the driver when a statement was evicted by another (Npgsql 10.0.3); explicit ones are never
    /// evicted.
    /// </summary>
    private static async ValueTask<NpgsqlCommand> Command(this NpgsqlConnection db, string sql, (string Name, object? Value)[] parameters)
    {
        var command = new NpgsqlCommand(sql, db);
        foreach (var (name, value) in parameters)
        {
            command.Parameters.AddWithValue(
                name,
                value switch
                {
                    null => DBNull.Value,
                    Currency c => c.ToString(),
                    Enum e => EnumCodec.Of(e),
                    Money m => m.Amount,
                    _ => value,
                }
            );
        }

        if (string.IsInterned(sql) is not null)
        {
            await command.PrepareAsync();
        }

        return command;
    }

    public static long Long(this NpgsqlDataReader r, string column) => r.GetInt64(r.GetOrdinal(column));

    public static long? LongOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Long(column);

    public static int Int(this NpgsqlDataReader r, string column) => r.GetInt32(r.GetOrdinal(column));

    /// <summary>An array of integers; empty when null.</summary>
    public static int[] Ints(this NpgsqlDataReader r, string column) => r.Null(column) ? [] : r.GetFieldValue<int[]>(r.GetOrdinal(column));

    /// <summary>An array of texts, never null.</summary>
    public static string[] Texts(this NpgsqlDataReader r, string column) => r.GetFieldValue<string[]>(r.GetOrdinal(column));

    public static double[] Doubles(this NpgsqlDataReader r, string column) =>
        r.Null(column) ? [] : r.GetFieldValue<double[]>(r.GetOrdinal(column));

    /// <summary>None when null.</summary>
    public static long[] Longs(this NpgsqlDataReader r, string column) =>
        r.Null(column) ? [] : r.GetFieldValue<long[]>(r.GetOrdinal(column));

    public static decimal[] Decimals(this NpgsqlDataReader r, string column) =>
        r.Null(column) ? [] : r.GetFieldValue<decimal[]>(r.GetOrdinal(column));

    public static int? IntOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Int(column);

    public static string Text(this NpgsqlDataReader r, string column) => r.GetString(r.GetOrdinal(column));

    public static string? TextOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Text(column);

    public static bool Bool(this NpgsqlDataReader r, string column) => r.GetBoolean(r.GetOrdinal(column));

    public static double Double(this NpgsqlDataReader r, string column) => r.GetDouble(r.GetOrdinal(column));

    public static decimal Decimal(this NpgsqlDataReader r, string column) => r.GetDecimal(r.GetOrdinal(column));

    public static decimal? DecimalOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Decimal(column);

    public static Money Usd(this NpgsqlDataReader r, string column) => SteadyLark.Core.Basics.Money.Usd(r.Decimal(column));

    /// <summary>An amount in the currency of the row's document, its column <c>currency</c>.</summary>
    public static Money Money(this NpgsqlDataReader r, string column) => new(r.Decimal(column), r.Currency());

    public static Money? MoneyOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Money(column);

    /// <summary>The currency of the row's document, or of another column.</summary>
    public static Currency Currency(this NpgsqlDataReader r, string column = "currency") => System.Enum.Parse<Currency>(r.Text(column));

    public static Money? UsdOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Usd(column);

    public static Instant Instant(this NpgsqlDataReader r, string column) => r.GetFieldValue<Instant>(r.GetOrdinal(column));

    public static Instant? InstantOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Instant(column);

    public static LocalDate Date(this NpgsqlDataReader r, string column) => r.GetFieldValue<LocalDate>(r.GetOrdinal(column));

    public static LocalDate? DateOrNull(this NpgsqlDataReader r, string column) => r.Null(column) ? null : r.Date(column);

    public static LocalDateTime? LocalOrNull(this NpgsqlDataReader r, string column) =>
        r.Null(column) ? null : r.GetFieldValue<LocalDateTime>(r.GetOrdinal(column));

    public static T Enum<T>(this NpgsqlDataReader r, string column)
        where T : struct, Enum => EnumCodec.To<T>(r.Text(column));

    public static T? EnumOrNull<T>(this NpgsqlDataReader r, string column)
        where T : struct, Enum => r.Null(column) ? null : r.Enum<T>(column);

    public static bool Null(this NpgsqlDataReader r, string column) => r.IsDBNull(r.GetOrdinal(column));
}

/// <summary>Enum members as the database and the API write them: <c>CarHauler</c> is <c>car_hauler</c>.</summary>
public static class EnumCodec
{
    public static string Of(Enum value)
    {
        var name = value.ToString();
        var text = new StringBuilder(name.Length + 4);
        foreach (var c in name)
        {
            if (char.IsUpper(c) && text.Length > 0)
            {
                text.Append('_');
            }

            text.Append(char.ToLowerInvariant(c));
        }

        return text.ToString();
    }

    public static T To<T>(string word)
        where T : struct, Enum => Enum.Parse<T>(word.Replace("_", "", StringComparison.Ordinal), ignoreCase: true);
}
