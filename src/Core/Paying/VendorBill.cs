using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;

namespace SteadyLark.Core.Paying;

/// <summary>A bill line as typed.</summary>
public sealed record BillLineOrder(
    string? Account,
    string? Description,
    Money? Amount,
    long? LoadId,
    long? TruckId,
    long? DriverId,
    long? TripId = null
);

/// <summary>A bill line.</summary>
public sealed record BillLine(
    string Account,
    string? Description,
    Money Amount,
    long? LoadId,
    long? TruckId,
    long? DriverId,
    long? TripId = null
);

/// <summary>A bill as entered.</summary>
/// <param name="Number">The vendor's own number.</param>
/// <param name="BilledOn">The bill's date; today when null.</param>
/// <param name="DueOn">By the vendor's terms when null.</param>
/// <param name="Lines">What it was for; optional for a carrier's leg.</param>
/// <param name="IsExpense">Whether it is already paid.</param>
public sealed record BillOrder(
    string? Number,
    LocalDate? BilledOn,
    Money? Amount,
    LocalDate? DueOn,
    IReadOnlyList<BillLineOrder>? Lines,
    string? Note,
    bool IsExpense
);

/// <summary>A delivered carrier leg for which a bill is entered.</summary>
/// <param name="IsBilled">Whether a bill for it was entered before.</param>
public sealed record BilledLeg(long LoadId, string LoadNumber, Money Agreed, bool IsBilled);

/// <summary>The vendor of a bill.</summary>
/// <param name="PayDays">Its terms, days from the bill date.</param>
/// <param name="Same">Amount and date of its bill with the same number, or null.</param>
public sealed record BillVendor(string Name, int PayDays, (Money Amount, LocalDate BilledOn)? Same);

/// <summary>A bill that can be stored.</summary>
public sealed record EnteredBill(
    string Number,
    LocalDate BilledOn,
    LocalDate DueOn,
    Money Amount,
    IReadOnlyList<BillLine> Lines,
    string? Note
)
{
    /// <summary>The GST or HST among its lines, which we claim back. It is owed on top of what was agreed for the freight.</summary>
    public Money Tax => Money.Sum(Lines.Where(l => l.Account == Accounts.SalesTax.Code).Select(l => l.Amount), Amount.Currency);
}

/// <summary>A bill of any vendor: a carrier for a leg, a tire shop, the landlord.</summary>
public static class VendorBill
{
    public const int MaxLines = 60;

    /// <summary>Checks a bill as entered. An expense for a leg never exceeds the agreed amount: more needs approval.</summary>
    /// <param name="leg">The carrier leg it is for, or null.</param>
    /// <param name="vendor">Null when it is not in the address book.</param>
    /// <param name="validation">What was wrong before this; nothing is calculated from it.</param>
    public static Outcome<EnteredBill> Enter(
        BillOrder order,
        BilledLeg? leg,
        BillVendor? vendor,
        LocalDate today,
        IReadOnlyList<Account> chart,
        Validation validation
    )
    {
        var number = validation.Text(order.Number, "number", "The bill number", 60, required: true);
        var note = validation.Text(order.Note, "note", "The note", 400);
        validation.Dollars(order.Amount, "amount", "The amount billed");
        validation.Date(order.BilledOn, today, "billedOn", "The bill date", required: false);
        if (leg is { IsBilled: true })
        {
            validation.Add("leg.billed", $"A bill for load {leg.LoadNumber} was already entered.", "legId");
        }

        if (vendor is null && validation.Ok)
        {
            validation.Add("unknown", "This vendor is not in the address book.", "vendorId");
        }

        if (vendor?.Same is { } same)
        {
            validation.Add(
                "bill.twice",
                $"{vendor.Name} already sent bill {number} for {same.Amount.Formatted}, dated {same.BilledOn:MMM d, uuuu}: check for a duplicate.",
                "number"
            );
        }

        var on = order.BilledOn ?? today;
        var due = validation.Ok ? DueOn(on, order.DueOn, vendor!.PayDays, validation) : on;
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var amount = order.Amount!.Value;
        var entered = Lines(amount, order.Lines, leg?.LoadId, chart)
            // The tax first: what is disputed of a bill is freight.
            .Then(lines => new EnteredBill(
                number!,
                on,
                due,
                amount,
                leg is null ? lines : lines.OrderByDescending(l => l.Account == Accounts.SalesTax.Code).ToList(),
                note
            ));
        return order.IsExpense && leg is not null && entered.Ok && amount - entered.Value.Tax > leg.Agreed
            ? new Problem(
                "over.agreed",
                $"This is {(amount - entered.Value.Tax - leg.Agreed).Formatted} over the agreed {leg.Agreed.Formatted}: enter it as a bill for approval.",
                "amount"
            )
            : entered;
    }

    /// <summary>The bill's lines, which add up to its amount, or what is wrong with them.</summary>
    /// <param name="lines">Omitted for a carrier's bill: all of it is purchased transportation.</param>
    /// <param name="legLoad">The load of the carrier's leg; null for any other bill.</param>
    public static Outcome<IReadOnlyList<BillLine>> Lines(
        Money amount,
        IReadOnlyList<BillLineOrder>? lines,
        long? legLoad,
        IReadOnlyList<Account> chart
    )
    {
        var validation = new Validation { Currency = amount.Currency };
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
            read.Add(
                new BillLine(
                    line?.Account ?? "",
                    what,
                    line?.Amount ?? Money.Zero(amount.Currency),
                    line?.LoadId ?? legLoad,
                    line?.TruckId,
                    line?.DriverId,
                    line?.TripId
                )
            );
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var sum = Money.Sum(read.Select(l => l.Amount));
        return sum == amount
            ? read
            : new Problem(
                "lines.sum",
                $"The lines total {sum.Formatted} and the bill {amount.Formatted}: {((sum > amount ? sum - amount : amount - sum)).Formatted} {(sum > amount ? "too much" : "short")}.",
                "lines"
            );
    }

    /// <summary>A bill's lines up to an amount, the first first: the rest is <see cref="Less"/>.</summary>
    public static IReadOnlyList<BillLine> UpTo(IReadOnlyList<BillLine> lines, Money amount)
    {
        var left = amount;
        var kept = new List<BillLine>();
        foreach (var line in lines)
        {
            var part = Money.Min(left, line.Amount);
            if (part.Amount > 0)
            {
                kept.Add(line with { Amount = part });
                left -= part;
            }
        }

        return kept;
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
