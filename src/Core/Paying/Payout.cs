using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;

namespace SteadyLark.Core.Paying;

/// <summary>How and when money went out.</summary>
public sealed record Payout(LocalDate On, string Method, string? Reference)
{
    /// <summary>Checks method, date and reference of a payment going out.</summary>
    /// <param name="paidOn">Today when null.</param>
    /// <param name="under">Prefix of the fields' names, such as <c>spent.</c>.</param>
    public static Payout Check(
        LocalDate? paidOn,
        string? method,
        string? reference,
        LocalDate today,
        Validation validation,
        string under = ""
    )
    {
        var text = validation.Text(reference, $"{under}reference", "The reference", 80);
        validation.Date(paidOn, today, $"{under}paidOn", "The date", required: false);
        PaymentMethods.Check(method, $"{under}method", validation);
        return new Payout(paidOn ?? today, method ?? "", text);
    }
}
