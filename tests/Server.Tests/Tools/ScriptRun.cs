namespace SteadyLark.Server.Tests.Tools;

/// <summary>A command for scripts, run with a file.</summary>
internal static class ScriptRun
{
    /// <param name="command">With arguments, the answer and what is wrong.</param>
    /// <param name="text">Of the file, its first argument.</param>
    public static (int Code, string Out, string Wrong) Of(
        Func<IReadOnlyList<string>, TextWriter, TextWriter, int> command,
        string text,
        params string[] more
    )
    {
        var file = Path.GetTempFileName();
        File.WriteAllText(file, text);
        var (summary, wrong) = (new StringWriter(), new StringWriter());
        var code = command([file, .. more], summary, wrong);
        File.Delete(file);
        return (code, summary.ToString(), wrong.ToString());
    }
}
