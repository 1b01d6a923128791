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
        [["6145", "Bitter Fork, \"Lumber\"\nof Missoula", 119.5m, new DateTime(2026, 11, 24), new DateTime(2026, 11, 24, 8, 30, 0), 7m], ["6146", null, null, null, null, null]]);

    [Fact]
    public void A_table_comes_back_from_csv_and_from_a_workbook_as_it_was()
    {
        var csv = TableReader.Read(Loads.Csv()).Value;
        Assert.Equal(Loads.Titles, csv[0]);
        Assert.Equal(["6145", "Bitter Fork, \"Lumber\"\nof Missoula", "119.5", "2026-11-24", "2026-11-24 08:30", "7"], csv[1].Select(c => c.Replace("\r\n", "\n", StringComparison.Ordinal)));
        var book = TableReader.Read(Loads.Xlsx("loads")).Value;
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
    public void Commas_semicolons_and_tabs_part_cells_and_empty_lines_are_left_out(string text) =>
        Assert.Equal([["a", "b"], ["1", "2"]], TableReader.Read(Encoding.UTF8.GetBytes(text)).Value);

    [Fact]
    public void Letters_of_older_programs_are_read_too() => Assert.Equal("Montréal", TableReader.Read(Encoding.Latin1.GetBytes("Montréal,QC\n")).Value[0][0]);

    [Fact]
    public void What_is_no_table_is_said_to_be_none()
    {
        Assert.Equal("file.unreadable", TableReader.Read([0, 1, 2, 0, 3]).Problems[0].Code);
        Assert.Equal("file.unreadable", TableReader.Read([.. "PK\u0003\u0004 not a workbook"u8]).Problems[0].Code);
        Assert.Equal("empty", TableReader.Read([.. " \n , \n"u8]).Problems[0].Code);
        Assert.Equal("too.many", TableReader.Read(Encoding.UTF8.GetBytes(string.Concat(Enumerable.Repeat("a,b\n", TableReader.MaxRows + 1)))).Problems[0].Code);
    }

    [Fact]
    public void Nothing_that_is_sent_breaks_the_reader() =>
        Gen.Byte.Array[0, 400].Sample(bytes =>
        {
            var read = TableReader.Read(bytes);
            Assert.True(read.Ok ? read.Value.Count > 0 : read.Problems[0].Field == "file");
        });

    [Theory]
    [InlineData("=1+1")]
    [InlineData("+1")]
    [InlineData("-2+3")]
    [InlineData("@SUM(A1)")]
    public void Text_that_a_spreadsheet_would_take_for_a_formula_is_kept_from_being_one(string text)
    {
        var cell = TableReader.Read(new Table(["x", "y"], [["a", text]]).Csv()).Value[1][1];
        Assert.NotEqual(text[0], cell[0]);
        Assert.EndsWith(text, cell, StringComparison.Ordinal);
    }
}
