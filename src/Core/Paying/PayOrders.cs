using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;

namespace SteadyLark.Core.Paying;

/// <summary>A pay item as entered.</summary>
/// <param name="Hours">For hours.</param>
/// <param name="Amount">For anything else.</param>
/// <param name="Account">The expense account of a reimbursement or the account of a deduction; the usual one when null.</param>
public sealed record PayItemOrder(
    PayItemKind? Kind,
    string? What,
    LocalDate? On,
    decimal? Hours,
    Money? Amount,
    string? Account,
    long? LoadId
)
{
    /// <summary>Checks a pay item.</summary>
    /// <param name="chart">The company's chart of accounts.</param>
    /// <param name="today">In the company's time zone; the item's date when it has none.</param>
    public PayItem? Check(IReadOnlyList<Account> chart, LocalDate today, Validation validation)
    {
        var what = validation.Text(What, "what", "What it is for", 120, required: true);
        validation.Date(On, today, "on", "The date", required: false);
        var isHours = Kind == PayItemKind.Hours;
        if (Kind is null)
        {
            validation.Add("missing", "Choose a type: hours, extra pay, reimbursement or deduction.", "kind");
        }
        else if (isHours && (Hours is not { } h || h <= 0 || h > 24 || decimal.Round(h, 2) != h))
        {
            validation.Add("hours", "Hours must be more than 0 and at most 24, with up to two decimal places.", "hours");
        }
        else if (!isHours)
        {
            validation.Dollars(Amount, "amount", "The amount");
        }

        var account = Kind switch
        {
            PayItemKind.Reimbursement => Account ?? Accounts.DriverReimbursements.Code,
            PayItemKind.Deduction => Account ?? Accounts.Withheld.Code,
            _ => null,
        };
        if (account is not null && ChartOfAccounts.Refuses(account, "account", chart) is { } refused)
        {
            validation.AddRange([refused]);
        }

        return validation.Ok
            ? new PayItem(0, Kind!.Value, On ?? today, what!, isHours ? Hours : null, isHours ? null : Amount, account, LoadId)
            : null;
    }
}

/// <summary>A pay rate as entered.</summary>
/// <param name="From">The first day it is in force; today when null.</param>
public sealed record PayRateOrder(PayKind? Kind, decimal? Rate, LocalDate? From)
{
    public PayRate? Check(LocalDate today, Validation validation)
    {
        validation.Date(From, today, "from", "The start date", required: false);
        if (Kind is not { } kind)
        {
            validation.Add("missing", "Choose a pay type: per mile, per load, per hour …", "kind");
        }
        else if (Rate is not { } rate || rate < 0 || rate > DriverAgreement.MaxRate(kind) || decimal.Round(rate, 4) != rate)
        {
            validation.Add(
                "rate",
                $"The rate {DriverAgreement.Format(kind)} must be between 0 and {DriverAgreement.MaxRate(kind):#,##0}, with up to four decimal places.",
                "rate"
            );
        }

        return validation.Ok ? new PayRate(Kind!.Value, Rate!.Value, From ?? today) : null;
    }
}

/// <summary>A recurring deduction as entered.</summary>
/// <param name="Amount">Per week.</param>
/// <param name="UpTo">For escrow, the agreed amount; it is held on account 2250.</param>
public sealed record RecurringDeductionOrder(
    string? Name,
    Money? Amount,
    string? Account,
    LocalDate? From,
    LocalDate? Until,
    Money? UpTo = null
)
{
    public RecurringDeduction? Check(IReadOnlyList<Account> chart, LocalDate today, Validation validation)
    {
        var name = validation.Text(Name, "name", "What it is for", 60, required: true);
        validation.Dollars(Amount, "amount", "The weekly amount");
        validation.Dollars(UpTo, "upTo", "The agreed escrow", required: false);
        validation.Date(From, today, "from", "The start date", required: false);
        validation.Date(Until, today, "until", "The end date", required: false);
        var from = From ?? today;
        if (Until < from)
        {
            validation.Add("order", "The end date must be after the start date.", "until");
        }

        var account =
            UpTo is not null ? Accounts.Escrow.Code
            : string.IsNullOrWhiteSpace(Account) ? Accounts.Withheld.Code
            : Account.Trim();
        if (UpTo is null && account == Accounts.Escrow.Code)
        {
            validation.Add("missing", "Enter the agreed amount of the escrow.", "upTo");
        }

        if (ChartOfAccounts.Refuses(account, "account", chart) is { } refused)
        {
            validation.AddRange([refused]);
        }

        return validation.Ok ? new RecurringDeduction(0, name!, Amount!.Value, account, from, Until, UpTo) : null;
    }
}
