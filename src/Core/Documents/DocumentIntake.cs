using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Documents;

/// <summary>Whether a file can be kept as a document, judged by its first bytes, never by its name.</summary>
public static class DocumentIntake
{
    /// <summary>25 MB: 25 × 1024 × 1024 bytes.</summary>
    public const int MaxBytes = 25 * 1024 * 1024;

    /// <summary>The media type of the bytes: PDF (ISO 32000-1 § 7.5.2), JPEG (ISO 10918-1 B.1.1.3) or PNG (ISO 15948 § 5.2).</summary>
    public static Outcome<string> MediaType(ReadOnlySpan<byte> bytes)
    {
        const string field = "file";
        if (bytes.Length == 0)
        {
            return new Problem("file.empty", "The file is empty: choose another.", field);
        }

        if (bytes.Length > MaxBytes)
        {
            return new Problem("file.large", $"The file is {bytes.Length / 1024.0 / 1024.0:0.0} MB; the limit is 25 MB.", field);
        }

        if (bytes.StartsWith("%PDF-"u8))
        {
            return "application/pdf";
        }

        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xD8, 0xFF]))
        {
            return "image/jpeg";
        }

        return bytes.StartsWith((ReadOnlySpan<byte>)[0x89, (byte)'P', (byte)'N', (byte)'G', 0x0D, 0x0A, 0x1A, 0x0A])
            ? "image/png"
            : new Problem("file.kind", "The file is not a PDF, JPEG or PNG: scan or photograph the document again.", field);
    }
}
