using SteadyLark.Core.Basics;
using SteadyLark.Server.Documents;

namespace SteadyLark.Server.People;

/// <summary>A company's logo: a PNG for its documents.</summary>
internal static class CompanyLogo
{
    private const int MaxBytes = 500_000;

    /// <returns>Its bytes; null when there is none, or it was refused.</returns>
    public static byte[]? Read(string? base64, Validation validation)
    {
        if (string.IsNullOrEmpty(base64))
        {
            return null;
        }

        var bytes = new byte[(base64.Length / 4 * 3) + 3];
        if (
            !Convert.TryFromBase64String(base64, bytes, out var length)
            || !bytes.AsSpan(0, length).StartsWith((ReadOnlySpan<byte>)[0x89, (byte)'P', (byte)'N', (byte)'G'])
        )
        {
            validation.Add("logo", "The logo must be a PNG image.", "logo");
            return null;
        }

        var png = bytes[..length];
        if (length > MaxBytes || FileLimits.Exceeded(png, "image/png", FileLimits.MaxSignaturePixels) is not null)
        {
            validation.Add("logo", "The logo may have 500 kB and 4 million pixels.", "logo");
            return null;
        }

        try
        {
            // A logo that cannot be printed is refused now, not with the first invoice.
            using var page = new PdfPage("Logo", "");
            page.Picture(png, 100, 40);
            page.Save();
            return png;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            validation.Add("logo", "The logo cannot be read: save it as a PNG again.", "logo");
            return null;
        }
    }
}
