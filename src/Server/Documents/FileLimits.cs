using System.IO.Compression;
using SteadyLark.Formats.Tables;

namespace SteadyLark.Server.Documents;

/// <summary>Limits on PDFs and images from outside, judged from the file before anything decodes it.</summary>
public static class FileLimits
{
    /// <summary>The most pixels of an image.</summary>
    public const long MaxPixels = 40_000_000;

    /// <summary>The most pixels of a signature.</summary>
    public const long MaxSignaturePixels = 4_000_000;

    /// <summary>The most bytes a PDF's streams may inflate to, in total.</summary>
    public const long MaxInflated = 300 * 1024 * 1024;

    /// <summary>Why a file is refused, in a sentence; null when it is within the limits.</summary>
    public static string? Exceeded(byte[] bytes, string mediaType, long maxPixels = MaxPixels) =>
        mediaType == "application/pdf" ? Pdf(bytes) : Image(bytes, mediaType, maxPixels);

    private static string? Image(byte[] bytes, string mediaType, long maxPixels)
    {
        try
        {
            var (width, height) = PictureSize.Of(bytes, mediaType);
            return (long)width * height > maxPixels
                ? $"The image has {(long)width * height / 1e6:0} million pixels; the limit is {maxPixels / 1_000_000} million. Take it at a lower resolution."
                : null;
        }
        catch (FormatException e)
        {
            return $"{e.Message} Take the picture again.";
        }
    }

    /// <summary>Inflates every deflated stream (ISO 32000-1 § 7.4.4), counting and discarding the bytes. Chained filters, which would hide
    /// their size, are refused.</summary>
    private static string? Pdf(byte[] bytes)
    {
        const string tooLarge = "The PDF unpacks to more than 300 MB: scan the document at a lower resolution.";
        ReadOnlySpan<byte> all = bytes;
        long inflated = 0;
        for (var at = 0; all[at..].IndexOf("stream"u8) is >= 0 and var found; )
        {
            var begin = at + found;
            at = begin + 6;
            // Not "endstream", and its dictionary ends right before it.
            if (begin >= 3 && all[(begin - 3)..begin].SequenceEqual("end"u8))
            {
                continue;
            }

            var head = all[Math.Max(0, begin - 1000)..begin];
            var dictionary = head[Math.Max(0, head.LastIndexOf("<<"u8))..];
            if (Count(dictionary, "FlateDecode"u8) + Count(dictionary, "LZWDecode"u8) + Count(dictionary, "RunLengthDecode"u8) > 1)
            {
                return "The PDF packs its contents more than once: print it to a new PDF and send that.";
            }

            var data = at + (at < all.Length && all[at] == '\r' ? 1 : 0);
            data += data < all.Length && all[data] == '\n' ? 1 : 0;
            if (dictionary.IndexOf("FlateDecode"u8) < 0 || data >= all.Length)
            {
                continue;
            }

            try
            {
                using var counted = new CountingStream(
                    new ZLibStream(new MemoryStream(bytes, data, bytes.Length - data), CompressionMode.Decompress),
                    MaxInflated - inflated
                );
                counted.CopyTo(Stream.Null);
                inflated += counted.Count;
            }
            catch (LimitException)
            {
                return tooLarge;
            }
            catch (InvalidDataException)
            {
                // Not deflated after all, or damaged: the PDF reader will report it.
            }
        }

        return null;
    }

    private static int Count(ReadOnlySpan<byte> text, ReadOnlySpan<byte> word)
    {
        var n = 0;
        for (int i; (i = text.IndexOf(word)) >= 0; text = text[(i + word.Length)..])
        {
            n++;
        }

        return n;
    }
}
