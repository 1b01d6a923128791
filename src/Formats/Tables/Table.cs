using System.Globalization;
using CsvHelper;
using MiniExcelLibs;

namespace SteadyLark.Formats.Tables;

/// <summary>A table to export: titles, and rows of text, numbers, dates, instants and blanks.</summary>
/// <param name="Rows">Read once, one row at a time: a table of a million rows takes no more memory than one of ten.</param>
public sealed record Table(IReadOnlyList<string> Titles, IEnumerable<IReadOnlyList<object?>> Rows)
{
    /// <summary>The most rows a sheet holds besides its titles (ECMA-376: 1,048,576 rows).</summary>
    public const int MaxSheetRows = 1_048_575;

    /// <summary>As CSV (RFC 4180), UTF-8 with a byte order mark so that spreadsheets detect it. Text that a spreadsheet would read as a formula
    /// is escaped.</summary>
    public void WriteCsv(Stream stream)
    {
        stream.Write(System.Text.Encoding.UTF8.Preamble);
        using var csv = CsvWriter.Create(
            stream,
            new CsvWriterOptions { NewLine = "\r\n", Injection = CsvInjection.Escape },
            leaveOpen: true
        );
        foreach (var title in Titles)
        {
            csv.WriteField(title);
        }

        csv.EndRecord();
        foreach (var row in Rows)
        {
            foreach (var cell in row)
            {
                switch (cell)
                {
                    case decimal number:
                        csv.WriteField(number, [], CultureInfo.InvariantCulture);
                        break;
                    case DateTime at:
                        csv.WriteField(
                            at.ToString(at.TimeOfDay == TimeSpan.Zero ? "yyyy-MM-dd" : "yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)
                        );
                        break;
                    default:
                        csv.WriteField(cell?.ToString() ?? "");
                        break;
                }
            }

            csv.EndRecord();
        }
    }

    /// <summary>As a workbook (ECMA-376) with one sheet.</summary>
    public void WriteXlsx(Stream stream, string sheet)
    {
        var keys = Titles.Select((t, i) => Titles.Take(i).Contains(t) ? $"{t} {i + 1}" : t).ToList();
        stream.SaveAs(Rows.Select(r => keys.Select((k, i) => (k, r[i])).ToDictionary(x => x.k, x => x.Item2)), sheetName: sheet);
    }

    /// <summary>A small table as CSV.</summary>
    public byte[] Csv()
    {
        using var stream = new MemoryStream();
        WriteCsv(stream);
        return stream.ToArray();
    }
}
