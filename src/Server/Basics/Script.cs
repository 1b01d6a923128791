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

    /// <summary>A command that answers a question in a JSON file: in JSON with <c>--json</c>, or in sentences.</summary>
    /// <param name="name">Of the command, whose question docs/NAME.md describes.</param>
    /// <returns>0, or 2 when the arguments or the file are invalid.</returns>
    public static int Run<TQuestion, TAnswer>(
        string name,
        IReadOnlyList<string> args,
        TextWriter summary,
        TextWriter wrong,
        Func<TQuestion, Outcome<TAnswer>> answer,
        Action<TAnswer> tell
    )
    {
        var files = args.Where(a => a != "--json").ToList();
        var answered =
            files.Count == 1 ? Ask($"docs/{name}.md", files[0], answer) : new Problem("file", $"Give a file: {name} FILE, with --json.");
        if (!answered.Ok)
        {
            wrong.WriteLine(string.Join(Environment.NewLine, answered.Problems.Select(p => p.Message)));
            return 2;
        }

        if (args.Contains("--json"))
        {
            summary.WriteLine(JsonSerializer.Serialize(answered.Value, Json));
        }
        else
        {
            tell(answered.Value);
        }

        return 0;
    }

    /// <summary>The answer to a question in a JSON file.</summary>
    /// <param name="doc">Where the question is described.</param>
    private static Outcome<TAnswer> Ask<TQuestion, TAnswer>(string doc, string file, Func<TQuestion, Outcome<TAnswer>> answer)
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
