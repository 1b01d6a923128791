using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>Money one person pays out alone, without an approval before.</summary>
public enum SolePaymentKind
{
    /// <summary>An expense entered as already paid; its key is the bill's.</summary>
    Expense,
    Advance,
}

/// <summary>A payment that one person made alone.</summary>
/// <param name="SubjectId">The bill, or the driver of an advance.</param>
/// <param name="What">Whom it went to, and for what.</param>
/// <param name="PaidBy">The user who paid; null for the system.</param>
public sealed record SolePayment(long SubjectId, string What, long? PaidBy, bool IsConfirmed, bool Stands)
{
    /// <summary>Why a user cannot confirm it; null when they can. Nobody confirms what they paid.</summary>
    public Problem? ConfirmRefusal(long? user) =>
        !Stands ? new Problem("payment.void", $"The payment to {What} is void: there is nothing to confirm.")
        : IsConfirmed ? new Problem("payment.confirmed", $"The payment to {What} is confirmed already.")
        : PaidBy == user ? new Problem("pay.same.person", $"You paid {What}, so another person must confirm it.")
        : null;
}

/// <summary>Two-person approval: where the company requires it, whoever approved something does not also pay it.</summary>
public static class TwoPeople
{
    /// <param name="required">The company's setting.</param>
    /// <returns>The refusal, or null.</returns>
    public static Problem? Refuses(long? approvedBy, long? payer, bool required) =>
        required && approvedBy is not null && approvedBy == payer
            ? new Problem(
                "pay.same.person",
                "You approved this, so another person must pay it. Company settings can allow one person to do both."
            )
            : null;
}
