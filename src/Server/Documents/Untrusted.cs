using System.Collections.Concurrent;
using System.ComponentModel;
using System.Diagnostics;
using System.Text;

namespace SteadyLark.Server.Documents;

/// <summary>Questions about a file from outside.</summary>
public enum FileQuestion : byte
{
    /// <summary>Why it is refused; nothing when it is within the limits and readable.</summary>
    WhyRefused = 1,

    /// <summary>Its text.</summary>
    Text = 2,
}

/// <summary>
/// Reads files from outside in separate processes, two at a time: each file may take 15 seconds and 768 MB. A file that takes more, or
/// crashes its reader,
/// costs only that process, and the next file gets a new one. The processes have no access to the database or to secrets.
/// </summary>
public static class Untrusted
{
    /// <summary>Time limit for one file, and for waiting for a free process.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(15);

    private const string MemoryLimit = "0x30000000";
    private static readonly SemaphoreSlim Places = new(2);
    private static readonly ConcurrentBag<Process> Idle = [];

    /// <returns>The answer; null when there is none.</returns>
    /// <param name="otherwise">The answer when the file takes too much, or no process becomes free in time.</param>
    public static async Task<string?> Ask(FileQuestion question, byte[] bytes, string mediaType, string? otherwise)
    {
        if (!await Places.WaitAsync(Patience))
        {
            return otherwise;
        }

        Process? reader = null;
        try
        {
            if (!Idle.TryTake(out reader) || reader.HasExited)
            {
                reader?.Dispose();
                reader = Start();
            }

            using var patience = new CancellationTokenSource(Patience);
            var answer = await Exchange(reader, question, bytes, mediaType, patience.Token);
            Idle.Add(reader);
            reader = null;
            return answer;
        }
        catch (Exception e) when (e is IOException or OperationCanceledException or InvalidOperationException or Win32Exception)
        {
            return otherwise;
        }
        finally
        {
            End(reader);
            Places.Release();
        }
    }

    /// <summary>The command that makes a process a reader.</summary>
    public const string Verb = "read-files";

    /// <summary>Answers questions about files, from one stream to another, until the first ends: a reader process's main loop.</summary>
    public static async Task Answer(Stream questions, Stream answers)
    {
        using var input = new BinaryReader(questions, Encoding.UTF8, leaveOpen: true);
        var kind = new byte[1];
        while (await questions.ReadAsync(kind) == 1)
        {
            var mediaType = input.ReadString();
            var bytes = input.ReadBytes(input.ReadInt32());
            // Ends with its server, even when that was killed.
            await using var watchdog = new Timer(_ => Environment.Exit(3), null, Patience * 2, Timeout.InfiniteTimeSpan);
            var answer =
                (FileQuestion)kind[0] == FileQuestion.Text
                    ? PdfText.Of(bytes, mediaType)
                    : FileLimits.Exceeded(bytes, mediaType) ?? PdfMerge.Unreadable(bytes, mediaType);
            var text = Encoding.UTF8.GetBytes(answer ?? "");
            await answers.WriteAsync(BitConverter.GetBytes(answer is null ? -1 : text.Length));
            await answers.WriteAsync(text);
            await answers.FlushAsync();
        }
    }

    private static async Task<string?> Exchange(
        Process reader,
        FileQuestion question,
        byte[] bytes,
        string mediaType,
        CancellationToken cancel
    )
    {
        using var head = new MemoryStream();
        await using (var writer = new BinaryWriter(head, Encoding.UTF8, leaveOpen: true))
        {
            writer.Write((byte)question);
            writer.Write(mediaType);
            writer.Write(bytes.Length);
        }

        var input = reader.StandardInput.BaseStream;
        await input.WriteAsync(head.GetBuffer().AsMemory(0, (int)head.Length), cancel);
        await input.WriteAsync(bytes, cancel);
        await input.FlushAsync(cancel);
        var output = reader.StandardOutput.BaseStream;
        var length = new byte[4];
        await output.ReadExactlyAsync(length, cancel);
        if (BitConverter.ToInt32(length) is not (>= 0 and < 64 * 1024 * 1024 and var count))
        {
            return BitConverter.ToInt32(length) == -1
                ? null
                : throw new InvalidOperationException("The reader's answer cannot be understood.");
        }

        var text = new byte[count];
        await output.ReadExactlyAsync(text, cancel);
        return Encoding.UTF8.GetString(text);
    }

    private static Process Start()
    {
        var host = Environment.ProcessPath ?? "dotnet";
        var isHost = Path.GetFileNameWithoutExtension(host) == "dotnet";
        var start = new ProcessStartInfo(host)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var argument in isHost ? [typeof(Untrusted).Assembly.Location, Verb] : new[] { Verb })
        {
            start.ArgumentList.Add(argument);
        }

        // No connection string or password is passed on.
        var kept = new[] { "PATH", "HOME", "DOTNET_ROOT", "TMPDIR", "LANG" };
        foreach (var name in start.Environment.Keys.Where(k => !kept.Contains(k)).ToList())
        {
            start.Environment.Remove(name);
        }

        start.Environment["DOTNET_GCHeapHardLimit"] = MemoryLimit;
        start.Environment["DOTNET_gcServer"] = "0";
        start.Environment["DOTNET_DbgEnableMiniDump"] = "0";
        var reader = Process.Start(start) ?? throw new InvalidOperationException("No reader process could be started.");
        // Its error output is of no use here, and must not fill its pipe.
        reader.ErrorDataReceived += (_, _) => { };
        reader.BeginErrorReadLine();
        return reader;
    }

    private static void End(Process? reader)
    {
        if (reader is null)
        {
            return;
        }

        try
        {
            reader.Kill(entireProcessTree: true);
        }
        catch (InvalidOperationException)
        {
            // It exited by itself.
        }

        reader.Dispose();
    }
}
