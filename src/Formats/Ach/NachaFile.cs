using System.Globalization;
using System.Text;
using NodaTime;
using SteadyLark.Core.Paying;

namespace SteadyLark.Formats.Ach;

/// <summary>Who sends an ACH file: us, and the bank that takes it.</summary>
/// <param name="TaxId">Our employer identification number, nine digits.</param>
/// <param name="Bank">The account that is debited; its bank receives the file.</param>
public sealed record AchSender(string Name, string TaxId, string BankName, BankAccount Bank);

/// <summary>A credit to a payee.</summary>
/// <param name="Cents">Above zero, at most 99,999,999.99 dollars.</param>
/// <param name="Id">Our key of the payment.</param>
/// <param name="Remittance">The bills it pays, for the payee.</param>
public sealed record AchCredit(string Payee, BankAccount Bank, long Cents, string Id, string Remittance);

/// <summary>A file of ACH credits to companies (CCD), 94 characters a record (Nacha Operating Rules, Appendix Three).</summary>
public static class NachaFile
{
    private const int Width = 94;
    private const long MaxCents = 9_999_999_999;

    /// <param name="effective">The day the credits should settle.</param>
    /// <param name="createdAt">Local time of the sender.</param>
    /// <param name="modifier">Tells files of one day apart: A to Z.</param>
    /// <exception cref="ArgumentException">No credits, or one of an amount that does not fit.</exception>
    public static string Write(
        AchSender sender,
        IReadOnlyList<AchCredit> credits,
        LocalDate effective,
        LocalDateTime createdAt,
        char modifier = 'A'
    )
    {
        if (credits.Count == 0 || credits.Any(c => c.Cents is <= 0 or > MaxCents))
        {
            throw new ArgumentException("An ACH file needs credits above zero.", nameof(credits));
        }

        var originating = sender.Bank.Routing[..8];
        var hash = Digits(credits.Sum(c => long.Parse(c.Bank.Routing[..8], CultureInfo.InvariantCulture)) % 10_000_000_000, 10);
        var total = Digits(credits.Sum(c => c.Cents), 12);
        var company = "1" + sender.TaxId;
        var entries = credits.Count * 2;
        var records = new List<string>
        {
            $"101 {sender.Bank.Routing}{company}{createdAt.ToString("yyMMddHHmm", CultureInfo.InvariantCulture)}{modifier}094101{Text(sender.BankName, 23)}{Text(sender.Name, 23)}{Text("", 8)}",
            $"5220{Text(sender.Name, 16)}{Text("", 20)}{company}CCD{Text("VENDOR PAY", 10)}{Day(effective)}{Day(effective)}   1{originating}{Digits(1, 7)}",
        };
        for (var i = 0; i < credits.Count; i++)
        {
            var c = credits[i];
            records.Add(
                $"6{(c.Bank.Type == BankAccountType.Savings ? "32" : "22")}{c.Bank.Routing}{Text(c.Bank.Account, 17)}{Digits(c.Cents, 10)}{Text(c.Id, 15)}{Text(c.Payee, 22)}  1{originating}{Digits(i + 1, 7)}"
            );
            records.Add($"705{Text(c.Remittance, 80)}0001{Digits(i + 1, 7)}");
        }

        records.Add($"8220{Digits(entries, 6)}{hash}{Digits(0, 12)}{total}{company}{Text("", 19)}{Text("", 6)}{originating}{Digits(1, 7)}");
        var blocks = (records.Count + 1 + 9) / 10;
        records.Add($"9{Digits(1, 6)}{Digits(blocks, 6)}{Digits(entries, 8)}{hash}{Digits(0, 12)}{total}{Text("", 39)}");
        while (records.Count % 10 != 0)
        {
            records.Add(new string('9', Width));
        }

        return string.Concat(records.Select(r => r + "\r\n"));
    }

    /// <summary>Left-aligned capitals and digits; anything else becomes a space.</summary>
    private static string Text(string text, int width)
    {
        var plain = new StringBuilder();
        foreach (
            var c in text.Normalize(NormalizationForm.FormD)
                .ToUpperInvariant()
                .Where(c => char.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
        )
        {
            plain.Append(c is >= ' ' and <= '~' ? c : ' ');
        }

        return plain.ToString().PadRight(width)[..width];
    }

    private static string Digits(long number, int width) => number.ToString(CultureInfo.InvariantCulture).PadLeft(width, '0');

    private static string Day(LocalDate day) => day.ToString("yyMMdd", CultureInfo.InvariantCulture);
}
