using System.IO.Compression;
using System.Xml;

namespace SteadyLark.Formats.Tables;

/// <summary>Limits of a workbook from outside, checked by streaming through it before anything parses it (ECMA-376 part 1, §
/// 18.3.1).</summary>
internal static class WorkbookLimits
{
    /// <summary>The most bytes its parts may inflate to, in total.</summary>
    public const long MaxInflated = 100 * 1024 * 1024;

    public const int MaxParts = 500;

    public const int MaxColumns = 256;

    public const int MaxRow = 100_000;

    public const int MaxCells = 1_000_000;

    /// <summary>Why the workbook is refused, in a sentence; null when it is within all limits.</summary>
    public static string? Exceeded(byte[] file)
    {
        using var zip = new ZipArchive(new MemoryStream(file), ZipArchiveMode.Read);
        if (zip.Entries.Count > MaxParts)
        {
            return $"The workbook has more than {MaxParts} parts.";
        }

        long inflated = 0;
        var cells = 0;
        foreach (var entry in zip.Entries)
        {
            using var part = new CountingStream(entry.Open(), MaxInflated - inflated);
            try
            {
                if (
                    entry.FullName.StartsWith("xl/worksheets/", StringComparison.OrdinalIgnoreCase)
                    && entry.FullName.EndsWith(".xml", StringComparison.OrdinalIgnoreCase)
                )
                {
                    if (Sheet(part, ref cells) is { } why)
                    {
                        return why;
                    }
                }
                else
                {
                    part.CopyTo(Stream.Null);
                }
            }
            catch (LimitException)
            {
                return $"The workbook unpacks to more than {MaxInflated / 1024 / 1024} MB.";
            }

            inflated += part.Count;
        }

        return null;
    }

    private static string? Sheet(Stream part, ref int cells)
    {
        using var xml = XmlReader.Create(part, new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null });
        while (xml.Read())
        {
            if (xml.NodeType != XmlNodeType.Element)
            {
                continue;
            }

            if (xml.LocalName == "c")
            {
                if (++cells > MaxCells)
                {
                    return $"The workbook has more than {MaxCells:#,##0} cells.";
                }

                if (xml.GetAttribute("r") is { } at && Over(at) is { } why)
                {
                    return why;
                }
            }
            else if (xml.LocalName == "dimension" && xml.GetAttribute("ref") is { } span)
            {
                if (Over(span.Split(':')[^1]) is { } why)
                {
                    return why;
                }
            }
            else if (xml.LocalName == "row" && int.TryParse(xml.GetAttribute("r"), out var row) && row > MaxRow)
            {
                return $"The workbook reaches beyond row {MaxRow:#,##0}.";
            }
        }

        return null;
    }

    /// <summary>Whether a cell such as <c>XFD1048576</c> is beyond the limits.</summary>
    private static string? Over(string at)
    {
        var column = 0;
        var i = 0;
        for (; i < at.Length && char.IsAsciiLetterUpper(at[i]) && column <= MaxColumns; i++)
        {
            column = (column * 26) + at[i] - 'A' + 1;
        }

        return column > MaxColumns ? $"The workbook has more than {MaxColumns} columns."
            : int.TryParse(at.AsSpan(i), out var row) && row > MaxRow ? $"The workbook reaches beyond row {MaxRow:#,##0}."
            : null;
    }
}

/// <summary>More bytes than allowed.</summary>
public sealed class LimitException : IOException;

/// <summary>Counts bytes read, and stops at a limit.</summary>
public sealed class CountingStream(Stream inner, long max) : Stream
{
    public long Count { get; private set; }

    public override bool CanRead => true;

    public override bool CanSeek => false;

    public override bool CanWrite => false;

    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => Count;
        set => throw new NotSupportedException();
    }

    public override int Read(byte[] buffer, int offset, int count)
    {
        var read = inner.Read(buffer, offset, count);
        Count += read;
        return Count > max ? throw new LimitException() : read;
    }

    public override void Flush() { }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            inner.Dispose();
        }

        base.Dispose(disposing);
    }
}
