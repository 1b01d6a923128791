using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;

namespace SteadyLark.Core.Paying;

/// <summary>
/// An owner-operator's escrow: money the lease lets us hold until it ends (49 CFR 376.12(k)). A recurring deduction to account 2250 builds
/// it up to the agreed amount; we account for every change, pay interest at least quarterly, and return it within 45 days of the lease's
/// end, less what the lease names.
/// </summary>
public static class Escrow
{
    /// <summary>Days after the end of the lease in which escrow is returned (49 CFR 376.12(k)(6)).</summary>
    public const int ReturnDays = 45;

    /// <summary>A week's deposit: the weekly amount, never beyond the agreed amount, and never more than the pay that is left.</summary>
    /// <param name="left">The week's pay after other deductions.</param>
    public static Money Deposit(Money weekly, Money room, Money left)
    {
        var least = Money.Min(Money.Min(weekly, room), left);
        return least.Amount > 0 ? least : Money.Zero();
    }

    /// <summary>Simple interest on the balance of each day, by a year of 365 days. 49 CFR 376.12(k)(5): at least the average yield of
    /// 91-day Treasury bills in the auctions of the quarter, which the company enters as its rate.</summary>
    /// <param name="moves">What was added to and taken from the balance, up to <paramref name="until"/>.</param>
    /// <param name="from">The first day that earns interest</param>
    /// <param name="until">and the last.</param>
    /// <returns>Zero while nothing is held.</returns>
    /// <example>$2,000.00 through a quarter of 92 days at 4.2 percent is $21.17.</example>
    public static Money Interest(IReadOnlyList<ItemMove> moves, LocalDate from, LocalDate until, decimal percent)
    {
        var balance = moves.Where(m => m.On < from).Sum(m => m.Amount);
        var byDay = moves.Where(m => m.On >= from && m.On <= until).ToLookup(m => m.On, m => m.Amount);
        var dollarDays = 0m;
        for (var day = from; day <= until; day = day.PlusDays(1))
        {
            balance += byDay[day].Sum();
            dollarDays += Math.Max(0, balance);
        }

        return Money.Usd(dollarDays * percent / 100m / 365m).ToCents();
    }

    /// <summary>Whether a month ends a quarter, in which interest is paid.</summary>
    public static bool PaysInterest(LocalDate month) => month.Month % 3 == 0;

    /// <summary>The first day of the quarter that a month ends.</summary>
    public static LocalDate QuarterOf(LocalDate month) => new LocalDate(month.Year, month.Month, 1).PlusMonths(-2);

    public static void CheckPercent(decimal? percent, Validation validation)
    {
        if (percent is < 0 or > 20 || percent is { } p && decimal.Round(p, 3) != p)
        {
            validation.Add("range", "Escrow interest must be 0 to 20 percent per year, with up to three decimal places.", "escrowPercent");
        }
    }
}

/// <summary>A line of a bill charged back to the owner-operator who caused it (49 CFR 376.12(h): the lease names what may be charged back,
/// and the owner-operator sees the document it is computed from).</summary>
public static class ChargeBack
{
    /// <summary>The deduction, or why there is none.</summary>
    /// <param name="bill">Number and vendor, for the driver's statement.</param>
    /// <param name="open">What was not charged back of the line yet.</param>
    /// <param name="amount">All that is open when null.</param>
    public static Outcome<PayItem> Of(
        string bill,
        string vendor,
        string account,
        string what,
        Money open,
        Money? amount,
        string driver,
        WorkerKind worker,
        LocalDate today
    )
    {
        var validation = new Validation();
        validation.Dollars(amount, "amount", "The amount charged back", required: false);
        if (worker != WorkerKind.OwnerOperator)
        {
            validation.Add("not.lease", $"{driver} is not an owner-operator: only a lease allows charging back.", "driverId");
        }

        if (open.Amount <= 0)
        {
            validation.Add("charged.back", "This line was charged back already.", "line");
        }
        else if (validation.Ok && amount > open)
        {
            validation.Add("over.line", $"Only {open.Formatted} of this line is left to charge back.", "amount");
        }

        return validation.Ok
            ? new PayItem(
                0,
                PayItemKind.Deduction,
                today,
                $"{what}, bill {bill} from {vendor}".Shortened(120),
                null,
                amount ?? open,
                account
            )
            : validation.Problems;
    }
}
