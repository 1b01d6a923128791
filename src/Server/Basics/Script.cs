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
