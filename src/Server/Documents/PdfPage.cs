using System.Collections.Concurrent;
using System.Reflection;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.Writer;

namespace SteadyLark.Server.Documents;

/// <summary>Writes text on US Letter pages (ANSI Y14.1 size A: 8.5 by 11 in, here 612 by 792 points), starting a new page when one is
/// full.</summary>
public sealed class PdfPage : IDisposable
{
    public const double Left = 54;
    public const double Right = 558;
    public const double PageWidth = 612;
    public const double PageHeight = 792;
    private const double Top = 54;
    private const double Bottom = 738;
    private const double Leading = 1.35;

    private static readonly ConcurrentDictionary<string, byte[]> FontBytes = new();

    /// <summary>Glyph widths of a typeface, in thousandths of its size; cached, because measuring is what costs.</summary>
    private static readonly ConcurrentDictionary<(string Face, char Sign), double> Advances = new();

    private readonly Dictionary<string, Face> _fonts = [];
    private readonly string _foot;
    private PdfPageBuilder _page;
    private int _pages;

    public PdfPage(string title, string foot)
    {
        Document = new PdfDocumentBuilder();
        Document.DocumentInformation.Title = title;
        Document.DocumentInformation.Creator = "Steady Lark";
        _foot = foot;
        _page = NewPage();
    }

    public PdfDocumentBuilder Document { get; }

    /// <summary>Where the next line goes, in points from the top.</summary>
    public double Y { get; private set; } = Top;

    /// <summary>A line of text, wrapped when too wide.</summary>
    public void Line(string text, double size = 10, bool bold = false, bool grey = false) =>
        Columns(size, grey, (text, Left, Right - Left, bold, false));

    /// <summary>Texts side by side, each at its own x; a right-aligned one ends at its x, in tabular figures. The tallest sets the
    /// height.</summary>
    public void Columns(double size, params (string Text, double X, double Width, bool Bold, bool RightAligned)[] cells) =>
        Columns(size, false, cells);

    /// <summary>Our address beside a customer's.</summary>
    public void Parties(Business us, CompanyRow customer) =>
        Columns(
            10,
            ($"{us.Name}\n{us.Address}\n{us.Phone}\n{us.Email}", Left, 240, false, false),
            (
                $"{customer.Name}\n{string.Join(", ", new[] { customer.Address, customer.Town, customer.Region }.OfType<string>())}",
                320,
                238,
                false,
                false
            )
        );

    public void Space(double points) => Y += points;

    /// <summary>A thin horizontal rule.</summary>
    public void Rule()
    {
        Room(8);
        _page.SetStrokeColor(0xDE, 0xD6, 0xC4);
        _page.DrawLine(new PdfPoint(Left, PageHeight - Y - 3), new PdfPoint(Right, PageHeight - Y - 3), 0.8);
        Y += 8;
    }

    /// <summary>A PNG at the left, scaled to fit the box, in points.</summary>
    public void Picture(byte[] png, double width, double height)
    {
        Room(height + 4);
        var (w, h) = PictureSize.Of(png, "image/png");
        var scale = Math.Min(width / w, height / h);
        _page.AddPng(png, new PdfRectangle(Left, PageHeight - Y - (h * scale), Left + (w * scale), PageHeight - Y));
        Y += (h * scale) + 4;
    }

    /// <summary>A company's logo in the upper right corner of the first page, a PNG, in a box of 160 by 34 points; text continues at the
    /// left. Nothing without a logo.</summary>
    public void Logo(byte[]? png)
    {
        if (png is null)
        {
            return;
        }

        var (w, h) = PictureSize.Of(png, "image/png");
        var scale = Math.Min(160.0 / w, 34.0 / h);
        _page.AddPng(png, new PdfRectangle(Right - (w * scale), PageHeight - Top - (h * scale), Right, PageHeight - Top));
    }

    public byte[] Save() => Document.Build();

    public void Dispose() => Document.Dispose();

    private void Columns(double size, bool grey, params (string Text, double X, double Width, bool Bold, bool RightAligned)[] cells)
    {
        var broken = cells
            .Select(c => (Cell: c, Font: Font(c.Bold, c.RightAligned)))
            .Select(c => (c.Cell, c.Font, Lines: Broken(c.Cell.Text, size, c.Font, c.Cell.Width)))
            .ToList();
        var rows = broken.Max(b => b.Lines.Count);
        for (var row = 0; row < rows; row++)
        {
            Room(size * Leading);
            foreach (var (cell, font, lines) in broken)
            {
                if (row < lines.Count && lines[row].Length > 0)
                {
                    Write(lines[row], size, cell.RightAligned ? cell.X - Width(lines[row], size, font) : cell.X, Y + size, font, grey);
                }
            }

            Y += size * Leading;
        }
    }

    private void Write(string text, double size, double x, double y, Face face, bool grey)
    {
        if (grey)
        {
            _page.SetTextAndFillColor(0x5A, 0x64, 0x75);
        }
        else
        {
            _page.SetTextAndFillColor(0x16, 0x23, 0x3B);
        }

        _page.AddText(Writable(text), size, new PdfPoint(x, PageHeight - y), face.Font);
    }

    private double Width(string text, double size, Face face)
    {
        var sum = 0d;
        foreach (var sign in Writable(text))
        {
            sum += Advances.GetOrAdd(
                (face.Name, sign),
                static (key, at) =>
                    at.Page._page.MeasureText(key.Sign.ToString(), 1000, new PdfPoint(0, 0), at.Face.Font) is { Count: > 0 } l
                        ? l[^1].EndBaseLine.X
                        : 0,
                (Page: this, Face: face)
            );
        }

        return sum * size / 1000;
    }

    /// <summary>Characters missing from the typeface are written as question marks.</summary>
    private static string Writable(string text) =>
        string.Concat(
            text.Replace('\t', ' ')
                .Replace('·', '•')
                .EnumerateRunes()
                .Select(r =>
                    r.Value
                        is >= 0x20
                            and < 0x7F
                            or >= 0xA0
                            and <= 0x17F
                            or 0x2013
                            or 0x2014
                            or 0x2018
                            or 0x2019
                            or 0x201C
                            or 0x201D
                            or 0x2022
                            or 0x2026
                        ? r.ToString()
                        : "?"
                )
        );

    private List<string> Broken(string text, double size, Face font, double width)
    {
        var lines = new List<string>();
        foreach (var paragraph in text.Replace("\r", "", StringComparison.Ordinal).Split('\n'))
        {
            var line = "";
            foreach (var word in paragraph.Split(' '))
            {
                var rest = word;
                while (rest.Length > 1 && Width(rest, size, font) > width)
                {
                    // A word wider than its column is broken anywhere.
                    var fits = rest.Length - 1;
                    while (fits > 1 && Width(rest[..fits], size, font) > width)
                    {
                        fits--;
                    }

                    if (line.Length > 0)
                    {
                        lines.Add(line);
                        line = "";
                    }

                    lines.Add(rest[..fits]);
                    rest = rest[fits..];
                }

                var longer = line.Length == 0 ? rest : $"{line} {rest}";
                if (line.Length > 0 && Width(longer, size, font) > width)
                {
                    lines.Add(line);
                    line = rest;
                }
                else
                {
                    line = longer;
                }
            }

            lines.Add(line);
        }

        return lines;
    }

    private void Room(double height)
    {
        if (Y + height > Bottom)
        {
            _page = NewPage();
        }
    }

    private PdfPageBuilder NewPage()
    {
        _page = Document.AddPage(PageWidth, PageHeight);
        Write($"{_foot} · page {++_pages}", 8, Left, 762, Font(false, false), grey: true);
        Y = Top;
        return _page;
    }

    /// <summary>Atkinson Hyperlegible, embedded in the program: no system font is used.</summary>
    private Face Font(bool bold, bool mono)
    {
        var name = $"atkinson-{(mono ? "mono" : "next")}-{(bold ? 700 : 400)}";
        if (!_fonts.TryGetValue(name, out var face))
        {
            face = _fonts[name] = new Face(name, Document.AddTrueTypeFont(FontBytes.GetOrAdd(name, Read)));
        }

        return face;
    }

    private static byte[] Read(string face)
    {
        using var stream = Assembly.GetExecutingAssembly().GetManifestResourceStream($"SteadyLark.Server.Documents.Fonts.{face}.ttf")!;
        using var bytes = new MemoryStream();
        stream.CopyTo(bytes);
        return bytes.ToArray();
    }

    /// <summary>A typeface of this document.</summary>
    private sealed record Face(string Name, PdfDocumentBuilder.AddedFont Font);
}
