namespace SteadyLark.Outside.Mail;

/// <summary>A mail in the stand-in's hands.</summary>
/// <param name="Name">Its file's name, by which it is asked for.</param>
/// <param name="ToUs">Whether the outside world wrote it to us.</param>
public sealed record OutsideMail(string Name, bool ToUs, byte[] Eml);

/// <summary>
/// The world's mail system, as small as can be: what we send is kept as EML files that a person can read, and what the
/// world writes to us waits here until it is fetched. Several servers may share one folder.
/// </summary>
public sealed class Mailbox
{
    private readonly string _sent;
    private readonly string _toUs;

    /// <param name="folder">Made when it is not there.</param>
    public Mailbox(string folder)
    {
        _sent = Path.Combine(folder, "sent");
        _toUs = Path.Combine(folder, "to-us");
        Directory.CreateDirectory(_sent);
        Directory.CreateDirectory(_toUs);
    }

    /// <summary>Takes a mail that we send.</summary>
    public Task Deliver(string name, byte[] eml) => Put(Path.Combine(_sent, Safe(name) + ".eml"), eml);

    /// <summary>Takes a mail that the world writes to us.</summary>
    public Task WriteToUs(string name, byte[] eml) => Put(Path.Combine(_toUs, Safe(name) + ".eml"), eml);

    /// <summary>Names of emails to us that were not fetched yet, the oldest first.</summary>
    public IReadOnlyList<string> WaitingNames() => new DirectoryInfo(_toUs).GetFiles("*.eml").OrderBy(f => f.LastWriteTimeUtc).Select(f => f.Name).ToList();

    /// <summary>The first bytes of an email to us, at most <paramref name="max"/>.</summary>
    public byte[] Read(string name, int max)
    {
        using var file = File.OpenRead(Path.Combine(_toUs, Path.GetFileName(name)));
        var bytes = new byte[Math.Min(file.Length, max)];
        file.ReadExactly(bytes);
        return bytes;
    }

    /// <summary>Marks a mail as fetched.</summary>
    public void Fetched(string name)
    {
        var file = Path.Combine(_toUs, Path.GetFileName(name));
        if (File.Exists(file))
        {
            File.Move(file, file + ".fetched", overwrite: true);
        }
    }

    /// <summary>The newest mails either way.</summary>
    public IReadOnlyList<OutsideMail> Newest(int max) =>
        new DirectoryInfo(_sent).GetFiles("*.eml").Select(f => (File: f, ToUs: false))
            .Concat(new DirectoryInfo(_toUs).GetFiles("*.eml*").Select(f => (File: f, ToUs: true)))
            .OrderByDescending(f => f.File.LastWriteTimeUtc).ThenByDescending(f => f.File.Name, StringComparer.Ordinal).Take(max)
            .Select(f => new OutsideMail(f.File.Name, f.ToUs, File.ReadAllBytes(f.File.FullName))).ToList();

    /// <summary>One mail by its file's name, or null.</summary>
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

    /// <summary>Throws everything away, for a demo made anew.</summary>
    public void Empty()
    {
        foreach (var file in Directory.GetFiles(_sent).Concat(Directory.GetFiles(_toUs)))
        {
            File.Delete(file);
        }
    }

    // Written aside and moved, so that nobody reads half a mail.
    private static async Task Put(string path, byte[] eml)
    {
        var aside = path + "." + Guid.NewGuid().ToString("N") + ".part";
        await File.WriteAllBytesAsync(aside, eml);
        File.Move(aside, path, overwrite: true);
    }

    private static string Safe(string name) => string.Concat(name.Select(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.' ? c : '_'));
}
