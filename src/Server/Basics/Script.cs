using System.Text.Encodings.Web;
using System.Text.Json;
using SteadyLark.Core.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>What commands for scripts share: the file they read and the JSON they print.</summary>
internal static class Script
{
    public static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The largest question accepted.</summary>
    private const int MaxBytes = 4_000_000;

    /// <summary>The answer to a question in a JSON file.</summary>
    /// <param name="doc">Where the question is described.</param>
    public static Outcome<TAnswer> Ask<TQuestion, TAnswer>(string file, string doc, Func<TQuestion, Outcome<TAnswer>> answer)
    {
        var read = Read(file);
        if (!read.Ok)
        {
            return read.Problems;
        }

        if (read.Value.Length > MaxBytes)
        {
            return new Problem("too.large", $"The file is larger than {MaxBytes / 1_000_000} MB.");
        }

        try
        {
            return JsonSerializer.Deserialize<TQuestion>(read.Value, Json) is { } question
                ? answer(question)
                : new Problem("json", $"The file is empty: {doc} says what it contains.");
        }
        catch (JsonException e)
        {
            return new Problem("json", $"The file is not JSON as described in {doc}: {e.Message}");
        }
    }

    /// <summary>Says what is wrong.</summary>
    /// <returns>The exit code for it.</returns>
    public static int Refused(TextWriter wrong, Problems problems)
    {
        wrong.WriteLine(string.Join(Environment.NewLine, problems.Select(p => p.Message)));
        return 2;
    }

    /// <summary>A file's bytes; those of standard input for <c>-</c>.</summary>
    public static Outcome<byte[]> Read(string file)
    {
        try
        {
            using var input = file == "-" ? Console.OpenStandardInput() : File.OpenRead(file);
            using var all = new MemoryStream();
            input.CopyTo(all);
            return all.ToArray();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return new Problem("file", $"{file} cannot be read: check that it exists.");
        }
    }
}
