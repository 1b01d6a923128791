using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>How a driver works for us.</summary>
public enum WorkerKind
{
    /// <summary>On the payroll: we owe employer payroll tax, and deductions leave the minimum wage.</summary>
    Employee,

    /// <summary>A self-employed driver of our trucks.</summary>
    Contractor,

    /// <summary>Leases their truck to us with themselves (49 CFR 376).</summary>
    OwnerOperator,
}

/// <summary>What payroll needs to know of a driver and the company.</summary>
/// <param name="TaxPercent">Employer payroll tax in percent of taxable wages: 6.2 for Social Security and 1.45 for Medicare (26 USC 3111), plus
/// what the company adds for unemployment.</param>
/// <param name="MinimumWage">Dollars per hour: 7.25 (29 USC 206(a)(1)), or the state's.</param>
public sealed record PayrollTerms(WorkerKind Worker, decimal TaxPercent, decimal MinimumWage)
{
    /// <summary>An employee without tax and minimum wage.</summary>
    public static readonly PayrollTerms None = new(WorkerKind.Employee, 0, 0);

    /// <summary>Hours counted for a day out without a time sheet. Above the usual day, so that the protected wage is rather too high.</summary>
    public const int HoursADay = 12;

    /// <summary>The most hours on duty in a week (49 CFR 395.3(b)(2): 70 in 8 days).</summary>
    public const int MaxHours = 70;

    /// <summary>Employer payroll tax on a week's wages, per diem excluded (26 USC 62(c), Rev. Proc. 2019-48: paid under an accountable
    /// plan); zero for anyone but employees.</summary>
    public Money Tax(IEnumerable<PayLine> lines) =>
        Worker == WorkerKind.Employee
            ? (Money.Sum(lines.Where(l => l.Kind != PayKind.PerDay).Select(l => l.Amount)) * (TaxPercent / 100m)).ToCents()
            : Money.Zero();

    /// <summary>What deductions must leave of an employee's week: the minimum wage for its hours (29 CFR 531.35), never more than was earned.
    /// Hours are those of the time sheet, or <see cref="HoursADay"/> for each day out, at most <see cref="MaxHours"/>.</summary>
    /// <param name="earned">Earnings without reimbursements.</param>
    /// <param name="sheetHours">Hours of the time sheet in the week.</param>
    public Money Protected(Money earned, decimal sheetHours, int daysOut)
    {
        if (Worker != WorkerKind.Employee)
        {
            return Money.Zero();
        }

        var hours = Math.Min(MaxHours, sheetHours > 0 ? sheetHours : daysOut * HoursADay);
        return Money.Min(earned, Money.Usd(hours * MinimumWage).ToCents());
    }

    /// <summary>Checks the company's payroll settings.</summary>
    public static void Check(decimal? taxPercent, decimal? minimumWage, Validation validation)
    {
        if (taxPercent is < 0 or > 40 || taxPercent is { } t && decimal.Round(t, 3) != t)
        {
            validation.Add("range", "Employer payroll tax must be 0 to 40 percent, with up to three decimal places.", "payrollTaxPercent");
        }

        if (minimumWage is < 0 or > 100 || minimumWage is { } m && decimal.Round(m, 2) != m)
        {
            validation.Add("range", "The minimum wage must be 0 to 100 dollars per hour.", "minimumWage");
        }
    }
}

/// <summary>A driver's week for the payroll service, which withholds taxes: before tax, all in dollars.</summary>
/// <param name="Wages">Taxable earnings.</param>
/// <param name="PerDiem">Not taxable.</param>
/// <param name="BeforeTax">What the driver is owed before withholding: the settlement's net pay.</param>
public sealed record PayrollLine(
    string Driver,
    WorkerKind Worker,
    decimal Hours,
    int Miles,
    Money Wages,
    Money PerDiem,
    Money Reimbursed,
    Money Deducted,
    Money CarriedOver,
    Money BeforeTax,
    Money EmployerTax
)
{
    public static PayrollLine Of(string driver, WorkerKind worker, SettlementStatement week)
    {
        var perDiem = Money.Sum(week.Lines.Where(l => l.Kind == PayKind.PerDay).Select(l => l.Amount));
        return new PayrollLine(
            driver,
            worker,
            week.Lines.Where(l => l.Kind == PayKind.PerHour).Sum(l => l.Quantity),
            week.Miles,
            week.Earned - perDiem,
            perDiem,
            week.Reimbursed,
            week.Deducted,
            week.CarriedOver,
            week.Net,
            week.EmployerTax
        );
    }
}
