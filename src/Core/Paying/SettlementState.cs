using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>What can be done with an advance.</summary>
/// <param name="Deducted">What approved settlements deducted of it.</param>
/// <param name="IsCarryover">Whether it is a settlement's carryover.</param>
public sealed record AdvanceState(bool IsVoid, Money Deducted, bool IsCarryover)
{
    /// <summary>Why it cannot be voided; null when it can: it was never paid out, or given back.</summary>
    public Problem? VoidRefusal =>
        IsVoid ? new Problem("advance.void", "This advance is already void.")
        : IsCarryover ? new Problem("advance.carried", "This is a settlement's carryover: reverse that approval instead.")
        : Deducted.Amount > 0
            ? new Problem(
                "advance.deducted",
                $"{Deducted.Formatted} of this advance was deducted: reverse the settlement's approval first."
            )
        : null;
}

/// <summary>What can be done with an approved driver settlement.</summary>
/// <param name="Driver">The driver's name, for sentences.</param>
/// <param name="PaidOn">When it was paid, or null.</param>
/// <param name="DeductedCarryover">How much of its carryover later settlements have deducted.</param>
public sealed record SettlementState(string Driver, LocalDate? PaidOn, Money DeductedCarryover)
{
    /// <summary>Why it cannot be paid; null when it can.</summary>
    public Problem? PayRefusal =>
        PaidOn is { } paid ? new Problem("settlement.paid", $"This settlement was already paid on {paid:MMM d}.") : null;

    /// <summary>Why its payment cannot be reversed; null when it can.</summary>
    public Problem? UnpayRefusal => PaidOn is null ? new Problem("settlement.state", "This settlement is not paid.") : null;

    /// <summary>Why its approval cannot be reversed; null when it can: not once it is paid, or while a later settlement stands on its
    /// carryover.</summary>
    public Problem? UnapproveRefusal =>
        PaidOn is { } paid ? new Problem("settlement.paid", $"This settlement was paid on {paid:MMM d}: reverse the payment first.")
        : DeductedCarryover.Amount > 0
            ? new Problem(
                "settlement.carried",
                $"A later settlement for {Driver} deducted {DeductedCarryover.Formatted} of this one's carryover: reverse that approval first."
            )
        : null;

    /// <summary>Checks the week of a settlement: it begins on a Monday, and can be approved from the day after it ends on Sunday.</summary>
    /// <param name="monday">As asked for.</param>
    /// <param name="today">In the company's time zone.</param>
    /// <returns>The Monday; a day of the current week when there was none, with a problem.</returns>
    public static LocalDate CheckWeek(LocalDate? monday, LocalDate today, Validation validation)
    {
        if (monday is not { } start || start.DayOfWeek != IsoDayOfWeek.Monday)
        {
            validation.Add("settlement.monday", "Enter the Monday on which the settlement week begins.", "monday");
            return today;
        }

        if (NotYet(start, today) is { } running)
        {
            validation.AddRange([running]);
        }

        return start;
    }

    /// <summary>Why a week cannot be approved yet; null when it can: it ends on Sunday, and the day after it can be approved.</summary>
    /// <param name="monday">The Monday of the settlement week.</param>
    /// <param name="today">In the company's time zone.</param>
    public static Problem? NotYet(LocalDate monday, LocalDate today) =>
        today <= monday.PlusDays(6)
            ? new Problem(
                "settlement.running",
                $"This settlement week runs through Sunday {monday.PlusDays(6):MMM d}: approve it after it ends.",
                "monday"
            )
            : null;
}
