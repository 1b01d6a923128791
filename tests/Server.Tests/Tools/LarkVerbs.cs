using System.Diagnostics;
using SteadyLark.Tests.Shared;
using Xunit;

namespace SteadyLark.Server.Tests.Tools;

/// <summary>The verbs of ./lark, each made to fail: a sentence on standard error, an exit code other than 0, and nothing left
/// behind.</summary>
public sealed class LarkVerbs : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("lark-verbs-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private async Task<(int Code, string Out, string Error)> Lark(string[] args, params (string Name, string Value)[] environment)
    {
        var start = new ProcessStartInfo(Path.Combine(Repository.Root, "lark"), args)
        {
            RedirectStandardError = true,
            RedirectStandardOutput = true,
            UseShellExecute = false,
        };
        foreach (var inherited in start.Environment.Keys.Where(k => k.StartsWith("LARK_", StringComparison.Ordinal)).ToList())
        {
            start.Environment.Remove(inherited);
        }

        start.Environment["LARK_DATA"] = Path.Combine(_folder, "data");
        start.Environment["LARK_PORT"] = "47911";
        foreach (var (name, value) in environment)
        {
            start.Environment[name] = value;
        }

        using var process = Process.Start(start)!;
        var (text, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        using var patience = new CancellationTokenSource(TimeSpan.FromMinutes(2));
        await process.WaitForExitAsync(patience.Token);
        return (process.ExitCode, await text, await error);
    }

    private string At(string name) => Path.Combine(_folder, name);

    [Theory]
    [InlineData("fly", "There is no './lark fly'.")]
    [InlineData("backup", "Give a file: ./lark backup FILE")]
    [InlineData("backup {nowhere}/x.backup", "nowhere does not exist: create it first.")]
    [InlineData("backup {taken}", "taken already exists: choose another name.")]
    [InlineData("backup {new}", "There is no company in")]
    [InlineData("restore", "Give a file: ./lark restore FILE")]
    [InlineData("restore {missing}", "There is no file")]
    [InlineData("restore {taken}", "is not a backup made by './lark backup', or it is damaged.")]
    [InlineData("restore {empty}", "is not a backup made by './lark backup', or it is damaged.")]
    [InlineData("restore {encrypted}", "is encrypted: set LARK_BACKUP_PASSPHRASE.")]
    public async Task Failing_verbs_leave_nothing_behind(string command, string sentence)
    {
        await File.WriteAllTextAsync(At("taken"), "somebody's list");
        await File.WriteAllBytesAsync(At("empty"), []);
        // The first bytes of a symmetrically encrypted OpenPGP message: RFC 4880, section 5.3.
        await File.WriteAllBytesAsync(At("encrypted"), [0x8c, 0x0d, 0x04, 0x09, 0x03, 0x08]);
        var (code, _, error) = await Lark(
            command.Replace("{", $"{_folder}/", StringComparison.Ordinal).Replace("}", "", StringComparison.Ordinal).Split(' ')
        );
        Assert.Equal(1, code);
        Assert.Contains(sentence, error, StringComparison.Ordinal);
        Assert.Single(error.Trim().Split('\n'));
        Assert.Equal(["empty", "encrypted", "taken"], Directory.EnumerateFileSystemEntries(_folder).Select(Path.GetFileName).Order());
        Assert.Equal("somebody's list", await File.ReadAllTextAsync(At("taken")));
    }

    [Theory]
    [InlineData("LARK_PORT", "80")]
    [InlineData("LARK_PORT", "ninety")]
    [InlineData("LARK_PG_PORT", "70000")]
    public async Task Refuses_a_port_it_cannot_use(string name, string value)
    {
        var (code, _, error) = await Lark(["help"], (name, value));
        Assert.Equal(1, code);
        Assert.Contains($"{name} must be a port between 1024 and", error, StringComparison.Ordinal);
        Assert.Contains($"not '{value}'", error, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Help_names_every_verb()
    {
        var (code, text, _) = await Lark(["help"]);
        Assert.Equal(0, code);
        var verbs = File.ReadLines(Path.Combine(Repository.Root, "lark"))
            .SkipWhile(l => !l.StartsWith("case ${1:-help} in", StringComparison.Ordinal))
            .Skip(1)
            .Select(l => l.Trim().Split(')')[0])
            .TakeWhile(v => v != "esac")
            .Where(v => v.All(char.IsAsciiLetterLower))
            .ToList();
        Assert.True(verbs.Count >= 8);
        Assert.All(verbs, v => Assert.Contains(v, text, StringComparison.Ordinal));
    }
}
