using CsCheck;
using SteadyLark.Core.Places;
using Xunit;

namespace SteadyLark.Core.Tests.Places;

public class AddressLinesTests
{
    private static AddressLine Only(params string[] cells) => Assert.Single(AddressLines.Read([cells]));

    private static AddressLine Under(string head, string row) => Assert.Single(AddressLines.Read([head.Split('|'), row.Split('|')]));

    /// <summary>Every minute of the day, as people write it.</summary>
    [Fact]
    public void Any_time_of_day_is_read_in_every_form_it_is_written_in() =>
        Gen.Int[0, 1439]
            .Sample(minute =>
            {
                var (hour, past) = (minute / 60, minute % 60);
                var (twelve, half) = (hour % 12 == 0 ? 12 : hour % 12, hour < 12 ? "am" : "pm");
                foreach (
                    var form in new[]
                    {
                        $"{hour:00}:{past:00}",
                        $"{hour}:{past:00}",
                        $"{hour:00}{past:00}",
                        $"{hour}.{past:00}",
                        $" {twelve}:{past:00} {half} ",
                        $"{twelve}:{past:00}{half.ToUpperInvariant()}",
                        $"{twelve}:{past:00} {half[0]}.m.",
                    }
                )
                {
                    Assert.Equal(minute, AddressLines.Time(form));
                }

                if (past == 0)
                {
                    Assert.Equal(minute, AddressLines.Time($"{hour}"));
                    Assert.Equal(minute, AddressLines.Time($"{twelve}{half}"));
                }
            });

    [Theory]
    [InlineData("24:00", 1440.0)]
    // A spreadsheet's 7:30 is a fraction of the day.
    [InlineData("0.3125", 450.0)]
    [InlineData("24:01", null)]
    [InlineData("25:00", null)]
    [InlineData("8:60", null)]
    [InlineData("13 pm", null)]
    [InlineData("0 am", null)]
    [InlineData("noon", null)]
    [InlineData("", null)]
    public void The_edges_of_a_day(string text, double? minute) => Assert.Equal(minute, AddressLines.Time(text));

    [Fact]
    public void Columns_are_told_by_their_titles()
    {
        var line = Under(
            "Customer|Street Address|City|State|Zip|Opens|Closes|Minutes|Pallets",
            "Dahl|12 Elm St|Butte|MT|59701|8|11:30 am|20|4"
        );
        Assert.Equal(("12 Elm St, Butte, MT, 59701", "Dahl", 2), (line.Address, line.Name, line.Row));
        Assert.Equal((480.0, 690.0, 20.0, 4L), (line.Opens!.Value, line.Closes!.Value, line.Service!.Value, line.Demand!.Value));
        Assert.Empty(line.Faults);

        var point = Under("name|address|lat|lng|window", "Yard|Butte MT|46.0|-112.5|0800-1200");
        Assert.Equal(("46.0, -112.5", "Yard", 480.0, 720.0), (point.Address, point.Name, point.Opens!.Value, point.Closes!.Value));
        Assert.Equal("Butte MT", Under("address|lat|lng", "Butte MT|46.0|-112.5").Name);
    }

    [Theory]
    // Without titles, a window, minutes, a count and text are told apart by their form.
    [InlineData("Dahl Feed|12 Elm St, Butte MT 59701|08:00-12:00|25|6", "12 Elm St, Butte MT 59701", "Dahl Feed")]
    [InlineData("12 Elm St, Butte MT 59701|Dahl Feed|25 min|8am to 12pm|6", "12 Elm St, Butte MT 59701", "Dahl Feed")]
    [InlineData("Dahl Feed|12 Elm St|Butte|MT|59701|25|6|8:00 until 12:00", "12 Elm St, Butte, MT 59701", "Dahl Feed")]
    [InlineData("Dahl Feed|46.0038, -112.5347|25|6|8:00–12:00", "46.0038, -112.5347", "Dahl Feed")]
    [InlineData("46.0038|-112.5347|Dahl Feed|25|6|8:00-12:00", "46.0038, -112.5347", "Dahl Feed")]
    public void Rows_without_titles_are_understood_by_their_form(string row, string address, string name)
    {
        var line = Only(row.Split('|'));
        Assert.Equal((address, name), (line.Address, line.Name));
        Assert.Equal((480.0, 720.0, 25.0, 6L), (line.Opens!.Value, line.Closes!.Value, line.Service!.Value, line.Demand!.Value));
        Assert.Empty(line.Faults);
    }

    [Fact]
    public void A_lone_town_or_code_is_the_address()
    {
        Assert.Equal(("Butte MT", null), (Only("Butte MT").Address, Only("Butte MT").Name));
        // Five digits are a code, not minutes.
        Assert.Equal("59701", Only("59701").Address);
        Assert.Equal(("T2P 1J9", "Depot"), (Only("Depot", "T2P 1J9").Address, Only("Depot", "T2P 1J9").Name));
        Assert.Empty(AddressLines.Read([]));
    }

    [Theory]
    [InlineData("address|minutes", "Butte MT|soon", "service minutes: “soon” is not a number from 0 to 10,000")]
    [InlineData("address|minutes", "Butte MT|10001", "service minutes: “10001” is not a number from 0 to 10,000")]
    [InlineData("address|opens", "Butte MT|late", "“late” is not a time of day, such as 08:00")]
    [InlineData("address|window", "Butte MT|mornings", "“mornings” is not a time window, such as 08:00-12:00")]
    [InlineData("address|opens|closes", "Butte MT|12:00|8:00", "the window closes before it opens")]
    [InlineData("address|name", "|Dahl", "the address is missing")]
    public void What_is_wrong_is_said(string head, string row, string fault) => Assert.Equal(fault, Assert.Single(Under(head, row).Faults));

    /// <summary>Whatever a file has, each row is read or says what is wrong with it.</summary>
    [Fact]
    public void No_row_is_lost() =>
        Gen.OneOf(
                Gen.String[Gen.Char.AlphaNumeric, 0, 12],
                Gen.OneOf(new[] { "8:00-12:00", "MT", "46.1, -112.5", "25 min", "-", "59701", "", " " }.Select(Gen.Const).ToArray())
            )
            .Array[0, 6]
            .Array[1, 8]
            .Sample(rows =>
            {
                var read = AddressLines.Read(rows);
                Assert.InRange(read.Count, rows.Length - 1, rows.Length);
                Assert.All(read, l => Assert.True(l.Address.Length > 0 || l.Faults.Contains("the address is missing")));
            });
}
