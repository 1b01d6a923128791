using System.Globalization;
using System.Text;
using CsvHelper;
using MiniExcelLibs;
using SteadyLark.Core.Basics;

namespace SteadyLark.Formats.Tables;

/// <summary>Reads tables from outside: CSV (RFC 4180, with comma, semicolon or tab) and workbooks (ECMA-376).</summary>
public static class TableReader
{
    /// <summary>The most rows of one file.</summary>
    public const int MaxRows = 20_000;

    private const int MaxCells = 60;

    /// <summary>All rows as text, empty cells as empty strings; blank rows are dropped.</summary>
    public static Outcome<IReadOnlyList<IReadOnlyList<string>>> Read(byte[] file)
    {
        try
        {
            var isWorkbook = file.Length > 3 && file[0] == 'P' && file[1] == 'K';
            if (isWorkbook && WorkbookLimits.Exceeded(file) is { } why)
            {
                return new Problem("file.limits", $"{why} Save only the sheet that is needed.", "file");
            }

            var rows = isWorkbook ? Workbook(file) : Csv(file);
            return rows.Count > MaxRows ? new Problem("too.many", $"At most {MaxRows:#,##0} rows in one file.", "file")
                : rows.Count == 0 ? new Problem("empty", "This file is empty.", "file")
                : (Outcome<IReadOnlyList<IReadOnlyList<string>>>)rows;
        }
        catch (Exception e)
            when (e
                    is InvalidDataException
                        or InvalidOperationException
                        or NotSupportedException
                        or FormatException
                        or System.Xml.XmlException
                        or CsvFormatException
                        or KeyNotFoundException
                        or ArgumentException
                        or NullReferenceException
            )
        {
            return new Problem("file.unreadable", "This file cannot be read: send CSV, or a workbook (.xlsx).", "file");
        }
    }

    private static List<IReadOnlyList<string>> Csv(byte[] file)
    {
        var text = Text(file);
        if (text.Contains('\0'))
        {
            throw new InvalidDataException();
        }

        var head = text.Split('\n', 2)[0];
        var delimiter =
            head.Contains('\t') ? '\t'
            : head.Contains(';') ? ';'
            : ',';
        using var csv = CsvReader.FromText(
            text,
            new CsvReaderOptions
            {
                Separator = delimiter,
                HasHeader = false,
                FieldCountMismatch = CsvFieldCountHandling.Allow,
                MalformedData = CsvMalformedDataHandling.Recover,
            }
        );
        var rows = new List<IReadOnlyList<string>>();
        while (rows.Count <= MaxRows && csv.Read())
        {
            Add(rows, Enumerable.Range(0, Math.Min(csv.FieldCount, MaxCells)).Select(i => csv.GetString(i).Trim()).ToArray());
        }

        return rows;
    }

    /// <summary>UTF-8; anything else is read as Windows-1252, as older programs write it.</summary>
    private static string Text(byte[] file)
    {
        try
        {
            return new UTF8Encoding(false, true).GetString(file).TrimStart('\uFEFF');
        }
        catch (DecoderFallbackException)
        {
            return Encoding.Latin1.GetString(file);
        }
    }

    private static List<IReadOnlyList<string>> Workbook(byte[] file)
    {
        using var stream = new MemoryStream(file);
        var rows = new List<IReadOnlyList<string>>();
        foreach (
            var row in stream.Query(useHeaderRow: false, excelType: ExcelType.XLSX).Cast<IDictionary<string, object?>>().Take(MaxRows + 1)
        )
        {
            Add(
                rows,
                row.Values.Take(MaxCells)
                    .Select(v =>
                        v switch
                        {
                            null => "",
                            DateTime { TimeOfDay: var t } d when d.Year < 1901 => t.ToString(@"hh\:mm", CultureInfo.InvariantCulture),
                            DateTime d => d.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture),
                            TimeSpan t => t.ToString(@"hh\:mm", CultureInfo.InvariantCulture),
                            // Spreadsheets store a time of day as a fraction of a day.
                            double x => x.ToString("0.########", CultureInfo.InvariantCulture),
                            _ => Convert.ToString(v, CultureInfo.InvariantCulture)?.Trim() ?? "",
                        }
                    )
                    .ToArray()
            );
        }

        return rows;
    }

    private static void Add(List<IReadOnlyList<string>> rows, string[] cells)
    {
        if (cells.Any(c => c.Length > 0))
        {
            rows.Add(cells.Take(MaxCells).Select(c => c.Length > 500 ? c[..500] : c).ToList());
        }
    }
}
