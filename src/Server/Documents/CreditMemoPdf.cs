using SteadyLark.Core.Billing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;

namespace SteadyLark.Server.Documents;

/// <summary>A credit memo as a PDF.</summary>
public static class CreditMemoPdf
{
    /// <param name="payment">The payment that stands for the memo.</param>
    public static byte[] Of(Business us, CompanyRow customer, PaymentRow payment, MemoRow memo, IReadOnlyList<AppliedRow> applied)
    {
        using var page = new PdfPage($"Credit memo {payment.Reference}", $"{us.Name} · credit memo {payment.Reference}");
        page.Logo(us.Logo);
        page.Line($"Credit memo {payment.Reference}", 19, bold: true);
        page.Space(8);
        page.Parties(us, customer);
        page.Space(8);
        foreach (
            var (label, value) in new[]
            {
                ("Date", $"{payment.ReceivedOn:MMM d, uuuu}"),
                ("For invoice", memo.Invoice),
                ("Reason", $"{memo.Reason.Format()}: {memo.Why}"),
            }
        )
        {
            page.Columns(10, (label, PdfPage.Left, 110, true, false), (value, 170, 380, false, false));
        }

        page.Rule();
        page.Columns(13, ("Credit", PdfPage.Left, 300, true, false), ($"USD {payment.Amount}", PdfPage.Right, 160, true, true));
        foreach (var a in applied)
        {
            page.Columns(
                10,
                ($"Applied to invoice {a.Number}", PdfPage.Left, 300, false, false),
                (a.Amount.ToString(), PdfPage.Right, 160, false, true)
            );
        }

        page.Columns(
            10,
            ("Left on your account", PdfPage.Left, 300, false, false),
            (payment.Unapplied.ToString(), PdfPage.Right, 160, false, true)
        );
        return page.Save();
    }
}
