using System.Text;
using UglyToad.PdfPig;

namespace SteadyLark.Server.Documents;

/// <summary>The words that stand in a document.</summary>
public static class PdfText
{
    private const int MaxPages = 5;

    /// <summary>Words of a PDF's first pages; nothing for a picture or a scan.</summary>
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
            // Its pages can be shown, its words cannot be told.
            return "";
        }
    }
}
