using SteadyLark.Core.Paying;
using SteadyLark.Server.Paying;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Papers;

/// <summary>A driver's week as he gets it on paper.</summary>
public static class WeekPdf
{
    public static byte[] Of(Business us, WeekView week)
    {
        using var page = new PdfPage($"Week of {week.Monday:d MMM uuuu}, {week.Driver}", $"{us.Name} · {week.Driver}");
        page.Line($"{week.Driver}, {week.Monday:d MMM} to {week.Monday.PlusDays(6):d MMM uuuu}", 19, bold: true);
        page.Line(week.Settlement is null ? "Not approved yet: the figures still grow." : $"Approved by {week.Settlement.ApprovedBy}" + (week.Settlement.PaidOn is { } paid ? $", paid {paid:ddd d MMM uuuu}" : $", pay day {week.PayDay:ddd d MMM uuuu}"), grey: true);
        page.Space(8);
        Part("Earned", week.Lines.Select(l => ($"{l.LoadNumber} {l.What}".Trim(), Said(l), l.Amount.ToString())));
        Part("Spent for us", week.Reimbursements.Select(r => (r.What, $"{r.On:ddd d MMM}", r.Amount.ToString())));
        Part("Kept back", week.Deductions.Select(d => (d.What, $"{d.On:ddd d MMM}", $"-{d.Amount}")));
        page.Rule();
        page.Columns(13, ("To pay", PdfPage.Left, 300, true, false), ($"USD {week.Net}", PdfPage.Right, 200, true, true));
        if (week.CarriedOver.Amount > 0)
        {
            page.Line($"{week.CarriedOver.Said} is carried over to the next weeks.", 10);
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
                page.Columns(10, (what, PdfPage.Left + 12, 250, false, false), (how, 310, 160, false, false), (amount, PdfPage.Right, 90, false, true));
            }
        }
    }

    private static string Said(PayLine l) => l.Kind switch
    {
        PayKind.PerMile => $"{l.Quantity:0} mi at {l.Rate:0.000#}",
        PayKind.PercentOfLineHaul => $"{l.Rate:0.##} % of {l.Quantity:#,##0.00}",
        PayKind.PerHour => $"{l.Quantity:0.##} hours at {l.Rate:0.00}",
        PayKind.PerDay => $"{l.Quantity:0} days at {l.Rate:0.00}",
        PayKind.PerExtraStop => $"{l.Quantity:0} extra stops at {l.Rate:0.00}",
        PayKind.PerLoad => "for the load",
        _ => $"{l.On:ddd d MMM}",
    };
}
