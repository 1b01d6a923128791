using System.Text;
using CsCheck;
using SteadyLark.Formats.Tables;
using Xunit;

namespace SteadyLark.Core.Tests.Formats;

/// <summary>Tables that people send and take along: CSV and workbooks.</summary>
public class TableTests
{
    private static readonly Table Loads = new(
        ["Load", "Customer", "Miles", "Day", "Seen", "Miles"],
        [
            ["6145", "Bitter Fork, \"Lumber\"\nof Missoula", 119.5m, new DateTime(2026, 11, 24), new DateTime(2026, 11, 24, 8, 30, 0), 7m],
            ["6146", null, null, null, null, null],
        ]
    );

    [Fact]
    public void Tables_round_trip_through_csv_and_workbooks()
    {
        var csv = TableReader.Read(Loads.Csv()).Value;
        Assert.Equal(Loads.Titles, csv[0]);
        Assert.Equal(
            ["6145", "Bitter Fork, \"Lumber\"\nof Missoula", "119.5", "2026-11-24", "2026-11-24 08:30", "7"],
            csv[1].Select(c => c.Replace("\r\n", "\n", StringComparison.Ordinal))
        );
        using var workbook = new MemoryStream();
        Loads.WriteXlsx(workbook, "loads");
        var book = TableReader.Read(workbook.ToArray()).Value;
        Assert.Equal(["Load", "Customer", "Miles", "Day", "Seen", "Miles 6"], book[0]);
        Assert.Equal(("6145", "119.5", "7"), (book[1][0], book[1][2], book[1][5]));
        Assert.Equal("6146", book[2][0]);
    }

    [Theory]
    [InlineData("a,b\r\n1,2\r\n")]
    [InlineData("a;b\n1;2\n")]
    [InlineData("a\tb\n1\t2")]
    [InlineData("\uFEFFa,b\n\n,\n1,2\n\n")]
    [InlineData("a,b\n\"1\",\" 2 \"")]
    public void Commas_semicolons_and_tabs_separate_cells_and_blank_lines_are_skipped(string text) =>
        Assert.Equal(
            [
                ["a", "b"],
                ["1", "2"],
            ],
            TableReader.Read(Encoding.UTF8.GetBytes(text)).Value
        );

    [Fact]
    public void Windows_1252_is_read_too() =>
        Assert.Equal("Montréal", TableReader.Read(Encoding.Latin1.GetBytes("Montréal,QC\n")).Value[0][0]);

    [Fact]
    public void Anything_that_is_not_a_table_is_refused()
    {
        Assert.Equal("file.unreadable", TableReader.Read([0, 1, 2, 0, 3]).Problems[0].Code);
        Assert.Equal("file.unreadable", TableReader.Read([.. "PK\u0003\u0004 not a workbook"u8]).Problems[0].Code);
        Assert.Equal("empty", TableReader.Read([.. " \n , \n"u8]).Problems[0].Code);
        Assert.Equal(
            "too.many",
            TableReader.Read(Encoding.UTF8.GetBytes(string.Concat(Enumerable.Repeat("a,b\n", TableReader.MaxRows + 1)))).Problems[0].Code
        );
    }

    [Fact]
    public void No_input_crashes_the_reader() =>
        Gen
            .Byte.Array[0, 400]
            .Sample(bytes =>
            {
                var read = TableReader.Read(bytes);
                Assert.True(read.Ok ? read.Value.Count > 0 : read.Problems[0].Field == "file");
            });

    [Theory]
    [InlineData("=1+1")]
    [InlineData("+1")]
    [InlineData("-2+3")]
    [InlineData("@SUM(A1)")]
    public void Text_that_looks_like_a_formula_is_escaped(string text)
    {
        var cell = TableReader
            .Read(
                new Table(
                    ["x", "y"],
                    [
                        ["a", text],
                    ]
                ).Csv()
            )
            .Value[1][1];
        Assert.NotEqual(text[0], cell[0]);
        Assert.EndsWith(text, cell, StringComparison.Ordinal);
    }
}
