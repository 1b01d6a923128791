using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;

namespace SteadyLark.Server.Documents;

/// <summary>A customer's statement of account as a PDF.</summary>
public static class StatementPdf
{
    public static byte[] Of(Business us, CompanyRow customer, AccountStatement s)
    {
        using var page = new PdfPage($"Statement of account, {customer.Name}", $"{us.Name} · statement {s.Until:MMM d, uuuu}");
        page.Logo(us.Logo);
        page.Line("Statement of account", 19, bold: true);
        page.Space(8);
        page.Parties(us, customer);
        page.Space(8);
        page.Columns(
            10,
            ("Date", PdfPage.Left, 70, true, false),
            ("Description", 130, 260, true, false),
            ("Amount", 470, 80, true, true),
            ("Balance", PdfPage.Right, 80, true, true)
        );
        page.Rule();
        page.Columns(
            10,
            ($"{s.From:MMM d, uuuu}", PdfPage.Left, 75, false, false),
            ("Opening balance", 130, 260, false, false),
            ("", 470, 80, false, true),
            (s.Before.ToString(), PdfPage.Right, 80, false, true)
        );
        foreach (var line in s.Lines)
        {
            page.Columns(
                10,
                ($"{line.On:MMM d, uuuu}", PdfPage.Left, 75, false, false),
                (line.What, 130, 260, false, false),
                (line.Amount.ToString(), 470, 80, false, true),
                (line.Balance.ToString(), PdfPage.Right, 80, false, true)
            );
        }

        page.Rule();
        page.Columns(
            13,
            ($"Balance on {s.Until:MMM d, uuuu}", PdfPage.Left, 300, true, false),
            ($"USD {s.Owed}", PdfPage.Right, 160, true, true)
        );
        if (s.Credit.Amount > 0)
        {
            page.Line($"This includes an unapplied credit of {s.Credit.Formatted}.", 10);
        }

        page.Space(10);
        page.Line("Aging", 11, bold: true);
        foreach (
            var (bucket, words) in new[]
            {
                (AgingBucket.NotDue, "Current"),
                (AgingBucket.Days1To30, "1 to 30 days"),
                (AgingBucket.Days31To60, "31 to 60"),
                (AgingBucket.Days61To90, "61 to 90"),
                (AgingBucket.Over90, "over 90"),
            }
        )
        {
            page.Columns(10, (words, PdfPage.Left + 12, 200, false, false), (s.Aging[bucket].ToString(), 330, 80, false, true));
        }

        page.Space(6);
        foreach (var i in s.Open)
        {
            page.Columns(
                10,
                (i.Number, PdfPage.Left + 12, 90, false, false),
                ($"due {i.DueOn:MMM d, uuuu}", 160, 120, false, false),
                (i.Open.ToString(), 330, 80, false, true)
            );
        }

        return page.Save();
    }
}
