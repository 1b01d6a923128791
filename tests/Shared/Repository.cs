namespace SteadyLark.Tests.Shared;

public static class Repository
{
    /// <summary>The folder of the repository that the tests were built from.</summary>
    public static string Root { get; } = Find();

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "SteadyLark.slnx")))
        {
            folder = folder.Parent ?? throw new InvalidOperationException("The tests run outside the repository.");
        }

        return folder.FullName;
    }
}
