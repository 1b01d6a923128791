using System.Globalization;
using CsvHelper;
using MiniExcelLibs;

namespace SteadyLark.Formats.Tables;

/// <summary>A table to export: titles, and rows of text, numbers, dates, instants and blanks.</summary>
public sealed record Table(IReadOnlyList<string> Titles, IReadOnlyList<IReadOnlyList<object?>> Rows)
{
    /// <summary>As CSV (RFC 4180), UTF-8 with a byte order mark so that spreadsheets detect it. Text that a spreadsheet would read as a
    /// formula is escaped.</summary>
    public byte[] Csv()
    {
        using var stream = new MemoryStream();
        stream.Write(System.Text.Encoding.UTF8.Preamble);
        using (
            var csv = CsvWriter.Create(stream, new CsvWriterOptions { NewLine = "\r\n", Injection = CsvInjection.Escape }, leaveOpen: true)
        )
        {
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

        return stream.ToArray();
    }

    /// <summary>As a workbook (ECMA-376) with one sheet.</summary>
    public byte[] Xlsx(string sheet)
    {
        using var stream = new MemoryStream();
        var keys = Titles.Select((t, i) => Titles.Take(i).Contains(t) ? $"{t} {i + 1}" : t).ToList();
        stream.SaveAs(Rows.Select(r => keys.Select((k, i) => (k, r[i])).ToDictionary(x => x.k, x => x.Item2)), sheetName: sheet);
        return stream.ToArray();
    }
}
