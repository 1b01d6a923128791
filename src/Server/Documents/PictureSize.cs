using System.Buffers.Binary;

namespace SteadyLark.Server.Documents;

/// <summary>Reads an image's size from its header.</summary>
internal static class PictureSize
{
    /// <returns>Width and height in pixels. Throws <see cref="FormatException"/> when the header does not have them.</returns>
    public static (int Width, int Height) Of(ReadOnlySpan<byte> bytes, string mediaType)
    {
        // PNG: the IHDR chunk is first, ISO 15948 § 11.2.2.
        if (mediaType == "image/png" && bytes.Length >= 24)
        {
            return Sane(BinaryPrimitives.ReadInt32BigEndian(bytes[16..]), BinaryPrimitives.ReadInt32BigEndian(bytes[20..]));
        }

        // JPEG: markers up to a start of frame (SOF0 to SOF15 without DHT, JPG and DAC), ISO 10918-1 § B.2.2.
        for (var at = 2; mediaType == "image/jpeg" && at + 9 < bytes.Length && bytes[at] == 0xFF; )
        {
            var marker = bytes[at + 1];
            if (marker is >= 0xC0 and <= 0xCF and not (0xC4 or 0xC8 or 0xCC))
            {
                return Sane(
                    BinaryPrimitives.ReadUInt16BigEndian(bytes[(at + 7)..]),
                    BinaryPrimitives.ReadUInt16BigEndian(bytes[(at + 5)..])
                );
            }

            at += marker == 0xFF ? 1 : 2 + BinaryPrimitives.ReadUInt16BigEndian(bytes[(at + 2)..]);
        }

        throw new FormatException("The image does not state its size.");
    }

    private static (int Width, int Height) Sane(int width, int height) =>
        width is > 0 and < 60_000 && height is > 0 and < 60_000
            ? (width, height)
            : throw new FormatException("The image states an impossible size.");
}
