using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>What must be known about a carrier before it is assigned a load.</summary>
/// <param name="AuthorityActive">Operating authority in force (for-hire carriers of property: 49 U.S.C. § 13902).</param>
/// <param name="LiabilityUntil">Last day on which its liability insurance is in force; null when no certificate is on file.</param>
/// <param name="CargoUntil">Last day on which its cargo insurance is in force; null when no certificate is on file.</param>
/// <param name="DoNotUse">Why we do not use it, or null.</param>
public sealed record CarrierRecord(string Name, bool AuthorityActive, LocalDate? LiabilityUntil, LocalDate? CargoUntil, string? DoNotUse);

public static class CarrierFitness
{
    /// <summary>In a few words, why a carrier cannot have a load today; null when it can.</summary>
    /// <example>insurance expired</example>
    public static string? Summary(CarrierRecord carrier, LocalDate today) =>
        Check(carrier, today).Count == 0 ? null
        : carrier.DoNotUse is not null ? "do not use"
        : !carrier.AuthorityActive ? "no authority"
        : carrier.LiabilityUntil is null || carrier.CargoUntil is null ? "no insurance on file"
        : "insurance expired";

    /// <summary>Every reason this carrier cannot have a load delivered on <paramref name="deliveredOn"/>; empty when it can.</summary>
    /// <param name="carrier">As on file.</param>
    /// <param name="deliveredOn">The day of the last delivery, at its place; when null, only whether there is insurance is checked.</param>
    public static Problems Check(CarrierRecord carrier, LocalDate? deliveredOn)
    {
        var validation = new Validation();
        const string field = "carrierId";
        if (carrier.DoNotUse is { } why)
        {
            validation.Add("carrier.do.not.use", $"{carrier.Name} is marked do not use: {why}. Choose another carrier.", field);
        }

        if (!carrier.AuthorityActive)
        {
            validation.Add("carrier.authority", $"{carrier.Name} has no active operating authority. Choose another carrier.", field);
        }

        Insured("liability", carrier.LiabilityUntil);
        Insured("cargo", carrier.CargoUntil);
        return validation.Problems;

        void Insured(string kind, LocalDate? until)
        {
            if (until is null)
            {
                validation.Add(
                    $"carrier.{kind}",
                    $"{carrier.Name} has no {kind} insurance on file. Request a certificate of insurance.",
                    field
                );
            }
            else if (until < deliveredOn)
            {
                validation.Add(
                    $"carrier.{kind}",
                    $"{carrier.Name}'s {kind} insurance expires {until.Value:ddd MMM d}, before delivery on {deliveredOn:ddd MMM d}. Request a renewed certificate.",
                    field
                );
            }
        }
    }
}
