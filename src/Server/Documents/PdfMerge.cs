using UglyToad.PdfPig;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.Writer;

namespace SteadyLark.Server.Documents;

/// <summary>Appends documents to a document: PDF pages as they are, images on a page of their own.</summary>
public static class PdfMerge
{
    private const double Margin = 36;

    /// <summary>Why a file cannot be used as a document, in plain words; null when it can. Tested by doing what an invoice will do with
    /// it.</summary>
    public static string? Unreadable(byte[] bytes, string mediaType)
    {
        try
        {
            using var trial = new PdfDocumentBuilder();
            return Append(trial, bytes, mediaType) == 0 ? "The PDF has no pages: scan the document again." : null;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return mediaType == "application/pdf"
                ? "The PDF cannot be read: it is damaged or password protected. Save it again without a password."
                : "The image cannot be read: it is damaged. Take it again.";
        }
    }

    /// <returns>Number of pages added.</returns>
    public static int Append(PdfDocumentBuilder target, byte[] bytes, string mediaType)
    {
        if (mediaType == "application/pdf")
        {
            using var document = PdfDocument.Open(bytes);
            for (var i = 1; i <= document.NumberOfPages; i++)
            {
                target.AddPage(document, i);
            }

            return document.NumberOfPages;
        }

        var page = target.AddPage(PdfPage.PageWidth, PdfPage.PageHeight);
        var (width, height) = PictureSize.Of(bytes, mediaType);
        var scale = Math.Min((PdfPage.PageWidth - (2 * Margin)) / width, (PdfPage.PageHeight - (2 * Margin)) / height);
        var (w, h) = (width * scale, height * scale);
        var box = new PdfRectangle(
            (PdfPage.PageWidth - w) / 2,
            (PdfPage.PageHeight - h) / 2,
            (PdfPage.PageWidth + w) / 2,
            (PdfPage.PageHeight + h) / 2
        );
        if (mediaType == "image/png")
        {
            page.AddPng(bytes, box);
        }
        else
        {
            page.AddJpeg(bytes, box);
        }

        return 1;
    }
}
