namespace SteadyLark.Store.Basics;

public static class Find
{
    /// <summary>Typed text made safe for the inside of a LIKE pattern.</summary>
    public static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal);
}
