using System.Globalization;
using CsCheck;
using NodaTime;
using SteadyLark.Core.Paying;
using SteadyLark.Formats.Ach;
using Xunit;

namespace SteadyLark.Core.Tests.Formats;

/// <summary>ACH files read back by the positions of the record layouts (Nacha Operating Rules, Appendix Three), not by our own code.</summary>
public class NachaFileTests
{
    private static readonly AchSender Us = new(
        "Tamarack Bend Freight",
        "990000001",
        "Tamarack Bend Savings",
        new BankAccount("990001009", "100200300", BankAccountType.Checking)
    );

    private static readonly LocalDateTime At = new(2026, 11, 23, 14, 5);

    /// <summary>Characters from a position through another, counted from 1 as in the rules.</summary>
    private static string Part(string record, int from, int through) => record[(from - 1)..through];

    private static long Number(string record, int from, int through) =>
        long.Parse(Part(record, from, through), NumberStyles.None, CultureInfo.InvariantCulture);

    private static string[] Records(IReadOnlyList<AchCredit> credits) =>
        NachaFile.Write(Us, credits, new LocalDate(2026, 11, 24), At).Split("\r\n", StringSplitOptions.RemoveEmptyEntries);

    [Fact]
    public void A_credit_stands_in_its_fields()
    {
        var records = Records([
            new AchCredit(
                "Two Forks Trucking",
                new BankAccount("990001009", "4417001", BankAccountType.Savings),
                179_450,
                "31",
                "BILLS TF-88 TF-91"
            ),
        ]);
        Assert.Equal(["1", "5", "6", "7", "8", "9", "9", "9", "9", "9"], records.Select(r => r[..1]));
        var (header, batch, entry, addenda, batchEnd, end) = (records[0], records[1], records[2], records[3], records[4], records[5]);
        Assert.Equal("01", Part(header, 2, 3));
        Assert.Equal(" 990001009", Part(header, 4, 13));
        Assert.Equal("1990000001", Part(header, 14, 23));
        Assert.Equal("2611231405A094101", Part(header, 24, 40));
        Assert.Equal("TAMARACK BEND SAVINGS", Part(header, 41, 63).TrimEnd());
        Assert.Equal("220", Part(batch, 2, 4));
        Assert.Equal("CCD", Part(batch, 51, 53));
        Assert.Equal("261124", Part(batch, 70, 75));
        Assert.Equal("99000100", Part(batch, 80, 87));
        Assert.Equal("32", Part(entry, 2, 3));
        Assert.Equal("990001009", Part(entry, 4, 12));
        Assert.Equal("4417001", Part(entry, 13, 29).TrimEnd());
        Assert.Equal(179_450, Number(entry, 30, 39));
        Assert.Equal("31", Part(entry, 40, 54).TrimEnd());
        Assert.Equal("TWO FORKS TRUCKING", Part(entry, 55, 76).TrimEnd());
        Assert.Equal("1", Part(entry, 79, 79));
        Assert.Equal("990001000000001", Part(entry, 80, 94));
        Assert.Equal("05BILLS TF-88 TF-91", Part(addenda, 2, 83).TrimEnd());
        Assert.Equal("00010000001", Part(addenda, 84, 94));
        Assert.Equal(
            (2, 99_000_100, 0, 179_450),
            (Number(batchEnd, 5, 10), Number(batchEnd, 11, 20), Number(batchEnd, 21, 32), Number(batchEnd, 33, 44))
        );
        Assert.Equal((1, 1, 2), (Number(end, 2, 7), Number(end, 8, 13), Number(end, 14, 21)));
    }

    [Fact]
    public void Totals_hashes_and_blocks_fit_whatever_is_paid() =>
        Gen.Select(Gen.Long[1, 9_999_999_999], Gen.Int[0, 99_999_999], Gen.String[0, 60], Gen.Bool)
            .List[1, 40]
            .Sample(list =>
            {
                var credits = list.Select(
                        (c, i) =>
                            new AchCredit(
                                c.Item3,
                                new BankAccount(
                                    c.Item2.ToString("00000000", CultureInfo.InvariantCulture) + "0",
                                    "12345",
                                    c.Item4 ? BankAccountType.Savings : BankAccountType.Checking
                                ),
                                c.Item1,
                                $"{i}",
                                c.Item3
                            )
                    )
                    .ToList();
                var records = Records(credits);
                Assert.All(records, r => Assert.Equal(94, r.Length));
                Assert.All(records, r => Assert.All(r, c => Assert.InRange(c, ' ', '~')));
                Assert.Equal(0, records.Length % 10);
                var entries = records.Where(r => r[0] == '6').ToList();
                var (batchEnd, end) = (records.Single(r => r[0] == '8'), records.First(r => r[0] == '9'));
                Assert.Equal(credits.Sum(c => c.Cents), Number(batchEnd, 33, 44));
                Assert.Equal(entries.Sum(e => Number(e, 30, 39)), Number(end, 44, 55));
                Assert.Equal(entries.Sum(e => Number(e, 4, 11)) % 10_000_000_000, Number(end, 22, 31));
                Assert.Equal(credits.Count * 2, Number(batchEnd, 5, 10));
                Assert.Equal(records.Length / 10, Number(end, 8, 13));
                Assert.Equal(Enumerable.Range(1, credits.Count).Select(n => (long)n), entries.Select(e => Number(e, 88, 94)));
            });

    [Fact]
    public void A_file_without_credits_is_refused() => Assert.Throws<ArgumentException>(() => Records([]));
}
