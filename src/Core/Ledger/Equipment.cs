using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>A truck, trailer or other equipment that the company owns, as entered.</summary>
/// <param name="InService">The first day of use; the day on which it is bought.</param>
/// <param name="Salvage">What it is expected to bring in the end; zero when omitted.</param>
/// <param name="Months">Its useful life.</param>
/// <param name="Loan">What of it a lender pays; nothing when omitted.</param>
public sealed record AssetOrder(
    string? Name,
    LocalDate? InService,
    Money? Cost,
    Money? Salvage,
    int? Months,
    long? TruckId,
    LoanOrder? Loan
);

/// <summary>A loan as entered.</summary>
/// <param name="Percent">Interest a year.</param>
/// <param name="Months">Number of monthly payments.</param>
/// <param name="FirstOn">Due date of the first payment.</param>
public sealed record LoanOrder(string? Lender, Money? Principal, decimal? Percent, int? Months, LocalDate? FirstOn);

/// <summary>A depreciable asset.</summary>
/// <param name="Months">Its useful life, above zero.</param>
/// <param name="SoldOn">When it was sold or scrapped; null while it is in use.</param>
public sealed record Asset(string Name, LocalDate InService, Money Cost, Money Salvage, int Months, LocalDate? SoldOn = null)
{
    /// <summary>The longest useful life that is believed: 20 years.</summary>
    public const int MaxMonths = 240;

    /// <summary>
    /// What is depreciated by the end of a month, by the straight line over its life (FASB ASC 360-10-35-4): the month in which it comes
    /// into service counts in full, the month in which it is sold does not.
    /// </summary>
    /// <param name="month">Any day of the month.</param>
    /// <returns>Between zero and cost less salvage; after the last month exactly that.</returns>
    /// <example>$148,000 with $40,000 salvage over 60 months: $1,800 a month.</example>
    public Money DepreciatedBy(LocalDate month)
    {
        var last = BookPeriods.MonthOf(month);
        if (SoldOn is { } sold && BookPeriods.MonthOf(sold) <= last)
        {
            last = BookPeriods.MonthOf(sold).PlusMonths(-1);
        }

        var used = Period.Between(BookPeriods.MonthOf(InService), last, PeriodUnits.Months).Months + 1;
        return ((Cost - Salvage) * (Math.Clamp(used, 0, Months) / (decimal)Months)).ToCents();
    }

    /// <summary>The depreciation of one month: what is depreciated by its end, less what was before, so no cent is lost over its
    /// life.</summary>
    public Money In(LocalDate month) => DepreciatedBy(month) - DepreciatedBy(month.PlusMonths(-1));

    /// <summary>Checks an asset as entered.</summary>
    /// <returns>The asset, and the loan when a lender pays for it.</returns>
    public static Outcome<(Asset Asset, Loan? Loan)> Check(AssetOrder order, LocalDate today)
    {
        var validation = new Validation();
        var name = validation.Text(order.Name, "name", "The name", 120, required: true);
        validation.Date(order.InService, today, "inService", "The in-service date");
        if (order.InService > today)
        {
            validation.Add("date.future", "The in-service date cannot be in the future.", "inService");
        }

        validation.Dollars(order.Cost, "cost", "The cost");
        validation.Dollars(order.Salvage, "salvage", "The salvage value", required: false, above: false);
        if (order.Salvage >= order.Cost)
        {
            validation.Add("salvage", "The salvage value must be less than the cost.", "salvage");
        }

        if (order.Months is not (>= 1 and <= MaxMonths))
        {
            validation.Add("months", $"The useful life is 1 to {MaxMonths} months.", "months");
        }

        var loan = order.Loan is { } l ? Loan.Check(l, order.Cost, today, validation) : null;
        return validation.Ok
            ? (new Asset(name!, order.InService!.Value, order.Cost!.Value, order.Salvage ?? Money.Zero(), order.Months!.Value), loan)
            : validation.Problems;
    }

    /// <summary>Checks a sale.</summary>
    /// <param name="proceeds">What the buyer pays; zero for scrap.</param>
    /// <returns>The day, and the gain: proceeds less book value, below zero for a loss.</returns>
    public Outcome<(LocalDate On, Money Proceeds, Money Gain)> Sell(LocalDate? on, Money? proceeds, LocalDate today)
    {
        if (SoldOn is not null)
        {
            return new Problem("asset.sold", $"{Name} was already sold.");
        }

        var validation = new Validation();
        validation.Date(on, today, "soldOn", "The date sold", required: false);
        var day = on ?? today;
        if (day > today || day < InService)
        {
            validation.Add(
                "date.sold",
                $"{Name} was in service from {InService:MMM d, uuuu}: the date sold is between then and today.",
                "soldOn"
            );
        }

        validation.Dollars(proceeds, "proceeds", "The amount received", above: false);
        return validation.Ok
            ? (day, proceeds!.Value, proceeds.Value - (Cost - (this with { SoldOn = day }).DepreciatedBy(day)))
            : validation.Problems;
    }
}

/// <summary>One payment of a loan.</summary>
/// <param name="Left">What is owed after it.</param>
public sealed record LoanPayment(int Number, LocalDate DueOn, Money Interest, Money Principal, Money Left)
{
    public Money Amount => Interest + Principal;
}

/// <summary>A loan paid back in level monthly payments.</summary>
/// <param name="Percent">Interest a year; zero for none.</param>
public sealed record Loan(string Lender, Money Principal, decimal Percent, int Months, LocalDate FirstOn)
{
    public const decimal MaxPercent = 40m;

    /// <summary>The level payment: what pays back the principal with interest in equal monthly payments, to the cent.</summary>
    /// <example>$120,000 at 8 % over 60 months: $2,433.17.</example>
    public Money Payment
    {
        get
        {
            var rate = Percent / 1200m;
            if (rate == 0)
            {
                return (Principal * (1m / Months)).ToCents();
            }

            var growth = 1m;
            for (var i = 0; i < Months; i++)
            {
                growth *= 1 + rate;
            }

            return (Principal * (rate * growth / (growth - 1))).ToCents();
        }
    }

    /// <summary>The amortization schedule: each month's interest on the balance, to the cent; the last payment clears the balance.</summary>
    public IReadOnlyList<LoanPayment> Schedule()
    {
        var (left, payment) = (Principal, Payment);
        var payments = new List<LoanPayment>();
        for (var i = 0; i < Months; i++)
        {
            var interest = (left * (Percent / 1200m)).ToCents();
            var principal = i == Months - 1 ? left : Money.Min(left, payment - interest);
            left -= principal;
            payments.Add(new LoanPayment(i + 1, FirstOn.PlusMonths(i), interest, principal, left));
        }

        return payments;
    }

    /// <summary>
    /// Interest of past days that no payment has posted yet, by days of the month between two payments (FASB ASC 835-30-35-2: by the time
    /// that has passed): all of it for a payment that is past due.
    /// </summary>
    /// <param name="last">The last day that counts.</param>
    /// <param name="paid">How many payments were posted through it.</param>
    /// <example>$120,000 at 8 %, payments on the 15th: on the 30th, 15 of 30 days of $800.00 are $400.00.</example>
    public Money Accrued(LocalDate last, int paid) =>
        Money.Sum(
            Schedule()
                .Skip(paid)
                .Select(p =>
                {
                    var from = FirstOn.PlusMonths(p.Number - 2);
                    var (passed, whole) = (Period.DaysBetween(from, last), Period.DaysBetween(from, p.DueOn));
                    return (p.Interest * (Math.Clamp(passed, 0, whole) / (decimal)whole)).ToCents();
                })
        );

    internal static Loan? Check(LoanOrder order, Money? cost, LocalDate today, Validation validation)
    {
        var lender = validation.Text(order.Lender, "loan.lender", "The lender", 120, required: true);
        validation.Dollars(order.Principal, "loan.principal", "The amount of the loan");
        if (order.Principal > cost)
        {
            validation.Add("loan.principal", "The loan cannot be more than the cost.", "loan.principal");
        }

        if (order.Percent is not (>= 0 and <= MaxPercent))
        {
            validation.Add("loan.percent", $"The interest rate is 0 to {MaxPercent:0} percent a year.", "loan.percent");
        }

        if (order.Months is not (>= 1 and <= Asset.MaxMonths))
        {
            validation.Add("loan.months", $"A loan has 1 to {Asset.MaxMonths} monthly payments.", "loan.months");
        }

        validation.Date(order.FirstOn, today, "loan.firstOn", "The date of the first payment");
        return validation.Ok
            ? new Loan(lender!, order.Principal!.Value, order.Percent!.Value, order.Months!.Value, order.FirstOn!.Value)
            : null;
    }
}
