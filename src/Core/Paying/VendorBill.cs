using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;

namespace SteadyLark.Core.Paying;

/// <summary>A bill line as typed.</summary>
public sealed record BillLineOrder(string? Account, string? Description, Money? Amount, long? LoadId, long? TruckId, long? DriverId);

/// <summary>A bill line.</summary>
public sealed record BillLine(string Account, string? Description, Money Amount, long? LoadId, long? TruckId, long? DriverId);

/// <summary>A bill of any vendor: a carrier for a leg, a tire shop, the landlord.</summary>
public static class VendorBill
{
    public const int MaxLines = 60;

    /// <summary>The bill's lines, which add up to its amount, or what is wrong with them.</summary>
    /// <param name="lines">Omitted for a carrier's bill: all of it is purchased transportation.</param>
    /// <param name="legLoad">The load of the carrier's leg; null for any other bill.</param>
    public static Outcome<IReadOnlyList<BillLine>> Lines(Money amount, IReadOnlyList<BillLineOrder>? lines, long? legLoad, IReadOnlyList<Account> chart)
    {
        var validation = new Validation();
        if (lines is null or { Count: 0 })
        {
            return legLoad is { } load
                ? new List<BillLine> { new(Accounts.PurchasedTransportation.Code, null, amount, load, null, null) }
                : new Problem("missing", "Choose at least one account.", "lines");
        }

        if (lines.Count > MaxLines)
        {
            validation.Add("too.many", $"A bill has at most {MaxLines} lines.", "lines");
        }

        var read = new List<BillLine>();
        for (var i = 0; i < lines.Count; i++)
        {
            var (line, at) = (lines[i], $"lines[{i}]");
            if (ChartOfAccounts.Refuses(line?.Account, $"{at}.account", chart) is { } refused)
            {
                validation.AddRange([refused]);
            }

            validation.Dollars(line?.Amount, $"{at}.amount", "The line amount");
            var what = validation.Text(line?.Description, $"{at}.description", "The description", 120);
            read.Add(new BillLine(line?.Account ?? "", what, line?.Amount ?? Money.Zero(), line?.LoadId ?? legLoad, line?.TruckId, line?.DriverId));
        }

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var sum = Money.Sum(read.Select(l => l.Amount));
        return sum == amount
            ? read
            : new Problem("lines.sum", $"The lines total {sum.Formatted} and the bill {amount.Formatted}: {Money.Usd(Math.Abs((sum - amount).Amount)).Formatted} {(sum > amount ? "too much" : "short")}.", "lines");
    }

    /// <summary>A bill approved for less reduces its lines, the last first.</summary>
    public static IReadOnlyList<BillLine> Less(IReadOnlyList<BillLine> lines, Money by)
    {
        var left = by;
        var taken = new List<BillLine>();
        foreach (var line in lines.Reverse())
        {
            var part = Money.Min(left, line.Amount);
            if (part.Amount > 0)
            {
                taken.Add(line with { Amount = part });
                left -= part;
            }
        }

        return taken;
    }

    /// <summary>The due date: the bill's own, else by the vendor's terms.</summary>
    public static LocalDate DueOn(LocalDate billedOn, LocalDate? typed, int payDays, Validation validation)
    {
        if (typed is { } due && (due < billedOn || due > billedOn.PlusDays(Billing.Terms.MaxDays * 2)))
        {
            validation.Add("due.before", "The due date must be on or within eight months after the bill date: check the dates.", "dueOn");
        }

        return typed ?? Billing.Terms.DueOn(billedOn, payDays);
    }
}
