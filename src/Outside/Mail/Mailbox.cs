namespace SteadyLark.Outside.Mail;

/// <summary>An email in the stand-in mailbox.</summary>
/// <param name="Name">Its file name, by which it is requested.</param>
/// <param name="ToUs">Whether it was written to us.</param>
public sealed record OutsideMail(string Name, bool ToUs, byte[] Eml);

/// <summary>
/// A minimal mail system for the simulated world: what we send is kept as EML files a person can read, and what is
/// written to us waits here until it is fetched. Several servers may share one folder.
/// </summary>
public sealed class Mailbox
{
    private readonly string _sent;
    private readonly string _toUs;

    /// <param name="folder">Created when missing.</param>
    public Mailbox(string folder)
    {
        _sent = Path.Combine(folder, "sent");
        _toUs = Path.Combine(folder, "to-us");
        Directory.CreateDirectory(_sent);
        Directory.CreateDirectory(_toUs);
    }

    /// <summary>Takes an email we send.</summary>
    public Task Deliver(string name, byte[] eml) => Put(Path.Combine(_sent, Safe(name) + ".eml"), eml);

    /// <summary>Takes an email written to us.</summary>
    public Task WriteToUs(string name, byte[] eml) => Put(Path.Combine(_toUs, Safe(name) + ".eml"), eml);

    /// <summary>Names of emails to us that were not fetched yet, oldest first.</summary>
    public IReadOnlyList<string> WaitingNames() =>
        new DirectoryInfo(_toUs).GetFiles("*.eml").OrderBy(f => f.LastWriteTimeUtc).Select(f => f.Name).ToList();

    /// <summary>The first bytes of an email to us, at most <paramref name="max"/>.</summary>
    public byte[] Read(string name, int max)
    {
        using var file = File.OpenRead(Path.Combine(_toUs, Path.GetFileName(name)));
        var bytes = new byte[Math.Min(file.Length, max)];
        file.ReadExactly(bytes);
        return bytes;
    }

    /// <summary>Marks an email as fetched.</summary>
    public void Fetched(string name)
    {
        var file = Path.Combine(_toUs, Path.GetFileName(name));
        if (File.Exists(file))
        {
            File.Move(file, file + ".fetched", overwrite: true);
        }
    }

    /// <summary>The newest emails in either direction.</summary>
    public IReadOnlyList<OutsideMail> Newest(int max) =>
        new DirectoryInfo(_sent)
            .GetFiles("*.eml")
            .Select(f => (File: f, ToUs: false))
            .Concat(new DirectoryInfo(_toUs).GetFiles("*.eml*").Select(f => (File: f, ToUs: true)))
            .OrderByDescending(f => f.File.LastWriteTimeUtc)
            .ThenByDescending(f => f.File.Name, StringComparer.Ordinal)
            .Take(max)
            .Select(f => new OutsideMail(f.File.Name, f.ToUs, File.ReadAllBytes(f.File.FullName)))
            .ToList();

    /// <summary>One email by its file name, or null.</summary>
    public OutsideMail? Get(string name)
    {
        foreach (var (folder, toUs) in new[] { (_sent, false), (_toUs, true) })
        {
            var file = Path.Combine(folder, Path.GetFileName(name));
            if (File.Exists(file))
            {
                return new OutsideMail(Path.GetFileName(file), toUs, File.ReadAllBytes(file));
            }
        }

        return null;
    }

    /// <summary>Deletes everything, for a new demo.</summary>
    public void Empty()
    {
        foreach (var file in Directory.GetFiles(_sent).Concat(Directory.GetFiles(_toUs)))
        {
            File.Delete(file);
        }
    }

    // Written to a temporary file and renamed, so that nobody reads half an email.
    private static async Task Put(string path, byte[] eml)
    {
        var aside = path + "." + Guid.NewGuid().ToString("N") + ".part";
        await File.WriteAllBytesAsync(aside, eml);
        File.Move(aside, path, overwrite: true);
    }

    private static string Safe(string name) =>
        string.Concat(name.Select(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.' ? c : '_'));
}
