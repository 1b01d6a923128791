using SteadyLark.Core.Paying;
using SteadyLark.Server.Paying;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Documents;

/// <summary>A settlement statement as a PDF.</summary>
public static class SettlementPdf
{
    public static byte[] Of(Business us, SettlementView week)
    {
        using var page = new PdfPage(
            $"Settlement statement, {week.Driver}, week of {week.Monday:MMM d, uuuu}",
            $"{us.Name} · {week.Driver}"
        );
        page.Logo(us.Logo);
        page.Line($"Settlement statement: {week.Driver}, {week.Monday:MMM d} to {week.Monday.PlusDays(6):MMM d, uuuu}", 19, bold: true);
        page.Line(
            week.Settlement is null
                ? "Not approved yet: amounts may still change."
                : $"Approved by {week.Settlement.ApprovedBy}"
                    + (week.Settlement.PaidOn is { } paid ? $", paid {paid:ddd MMM d, uuuu}" : $", pay date {week.PayDay:ddd MMM d, uuuu}"),
            grey: true
        );
        page.Space(8);
        Part("Earnings", week.Lines.Select(l => ($"{l.LoadNumber} {l.What}".Trim(), Format(l), l.Amount.ToString())));
        Part("Reimbursements", week.Reimbursements.Select(r => (r.What, $"{r.On:ddd MMM d}", r.Amount.ToString())));
        Part("Deductions", week.Deductions.Select(d => (d.What, $"{d.On:ddd MMM d}", $"-{d.Amount}")));
        page.Rule();
        page.Columns(13, ("Net pay", PdfPage.Left, 300, true, false), ($"USD {week.Net}", PdfPage.Right, 200, true, true));
        if (week.CarriedOver.Amount > 0)
        {
            page.Line($"{week.CarriedOver.Formatted} is carried over to later settlements.", 10);
        }

        page.Space(8);
        page.Line($"{week.Miles} miles paid, {week.DaysOut} days out. {us.Name}, {us.Phone}", 10, grey: true);
        return page.Save();

        void Part(string title, IEnumerable<(string What, string How, string Amount)> rows)
        {
            var all = rows.ToList();
            if (all.Count == 0)
            {
                return;
            }

            page.Rule();
            page.Line(title, 11, bold: true);
            foreach (var (what, how, amount) in all)
            {
                page.Columns(
                    10,
                    (what, PdfPage.Left + 12, 250, false, false),
                    (how, 310, 160, false, false),
                    (amount, PdfPage.Right, 90, false, true)
                );
            }
        }
    }

    private static string Format(PayLine l) =>
        l.Kind switch
        {
            PayKind.PerMile => $"{l.Quantity:0} mi at {l.Rate:0.000#}",
            PayKind.PerEmptyMile => $"{l.Quantity:0} empty mi at {l.Rate:0.000#}",
            PayKind.PercentOfLineHaul => $"{l.Rate:0.##} % of {l.Quantity:#,##0.00}",
            PayKind.PerHour => $"{l.Quantity:0.##} hours at {l.Rate:0.00}",
            PayKind.PerDay => $"{l.Quantity:0} days at {l.Rate:0.00}",
            PayKind.PerExtraStop => $"{l.Quantity:0} extra stops at {l.Rate:0.00}",
            PayKind.PerLoad => "per load",
            _ => $"{l.On:ddd MMM d}",
        };
}
