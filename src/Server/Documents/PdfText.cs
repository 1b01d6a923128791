using System.Text;
using UglyToad.PdfPig;

namespace SteadyLark.Server.Documents;

/// <summary>Text extraction from documents.</summary>
public static class PdfText
{
    private const int MaxPages = 5;

    /// <summary>The text of a PDF's first pages; empty for an image or a scan.</summary>
    public static string Of(byte[] bytes, string mediaType)
    {
        if (mediaType != "application/pdf")
        {
            return "";
        }

        try
        {
            using var document = PdfDocument.Open(bytes);
            var text = new StringBuilder();
            foreach (var page in document.GetPages().Take(MaxPages))
            {
                text.AppendJoin(' ', page.GetWords().Select(w => w.Text)).AppendLine();
            }

            return text.ToString();
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // Its pages can be displayed, but their text cannot be extracted.
            return "";
        }
    }
}
