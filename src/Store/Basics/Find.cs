namespace SteadyLark.Store.Basics;

public static class Find
{
    /// <summary>Escapes typed text for use in a LIKE pattern.</summary>
    public static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("%", "\\%", StringComparison.Ordinal)
            .Replace("_", "\\_", StringComparison.Ordinal);
}
