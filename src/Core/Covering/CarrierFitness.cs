using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>A motor carrier's safety rating (49 CFR 385.3); most carriers have none.</summary>
public enum SafetyRating
{
    None,
    Satisfactory,
    Conditional,
    Unsatisfactory,
}

/// <summary>What must be known about a carrier before it is assigned a load.</summary>
/// <param name="AuthorityActive">Operating authority in force (for-hire carriers of property: 49 U.S.C. § 13902).</param>
/// <param name="LiabilityUntil">Last day on which its liability insurance is in force; null when no certificate is on file.</param>
/// <param name="CargoUntil">Last day on which its cargo insurance is in force; null when no certificate is on file.</param>
/// <param name="DoNotUse">Why we do not use it, or null.</param>
/// <param name="Liability">Limit of its liability insurance, in dollars; null when not on file.</param>
/// <param name="Cargo">Limit of its cargo insurance, in dollars; null when not on file.</param>
/// <param name="AgreementOn">When it signed our broker-carrier agreement; null when it has not.</param>
public sealed record CarrierRecord(
    string Name,
    bool AuthorityActive,
    LocalDate? LiabilityUntil,
    LocalDate? CargoUntil,
    string? DoNotUse,
    Money? Liability = null,
    Money? Cargo = null,
    SafetyRating Safety = SafetyRating.None,
    LocalDate? AgreementOn = null
);

/// <summary>What the company asks of every carrier, beyond the law.</summary>
/// <param name="Liability">The least limit of liability insurance, in dollars; null for the legal minimum.</param>
/// <param name="Cargo">The least limit of cargo insurance, in dollars; null for none.</param>
/// <param name="Agreement">Whether it must have signed our broker-carrier agreement.</param>
/// <param name="RefuseConditional">Whether a conditional safety rating keeps it from loads.</param>
public sealed record CarrierRequirements(
    Money? Liability = null,
    Money? Cargo = null,
    bool Agreement = false,
    bool RefuseConditional = false
)
{
    /// <summary>Nothing beyond the law.</summary>
    public static readonly CarrierRequirements Legal = new();
}

/// <summary>What is hauled, as far as it decides about a carrier.</summary>
/// <param name="DeliveredOn">The day of the last delivery, at its place; when null, only whether there is insurance is checked.</param>
public sealed record CarriedFreight(LocalDate? DeliveredOn, bool Hazmat = false);

public static class CarrierFitness
{
    /// <summary>
    /// The least limit of liability insurance of a for-hire carrier of property with trucks of 10,001 lb or more (49 CFR 387.9): $750,000;
    /// $1,000,000 with hazardous materials. The $5,000,000 for bulk gases, explosives and large tanks of hazardous substances is not
    /// decided here: for such freight, ask for it in the company's requirements.
    /// </summary>
    public static Money LegalLiability(bool hazmat) => Money.Usd(hazmat ? 1_000_000m : 750_000m);

    /// <summary>In a few words, why a carrier cannot have a load today; null when it can.</summary>
    /// <example>insurance expired</example>
    public static string? Summary(CarrierRecord carrier, CarrierRequirements requirements, LocalDate today)
    {
        var problems = Check(carrier, requirements, new CarriedFreight(today));
        return problems.Count == 0 ? null
            : carrier.DoNotUse is not null ? "do not use"
            : problems[0].Code switch
            {
                "carrier.authority" => "no authority",
                "carrier.safety" => "safety rating",
                "carrier.agreement" => "no agreement",
                _ when carrier.LiabilityUntil is null || carrier.CargoUntil is null => "no insurance on file",
                _ when carrier.LiabilityUntil < today || carrier.CargoUntil < today => "insurance expired",
                _ => "insurance too low",
            };
    }

    /// <summary>Every reason this carrier cannot haul this freight; empty when it can. It is asked when a load is tendered, when the carrier
    /// accepts, and when its driver is dispatched.</summary>
    public static Problems Check(CarrierRecord carrier, CarrierRequirements requirements, CarriedFreight freight)
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

        // An unsatisfactory rating ends a carrier's right to operate (49 CFR 385.13).
        if (carrier.Safety == SafetyRating.Unsatisfactory || (requirements.RefuseConditional && carrier.Safety == SafetyRating.Conditional))
        {
            validation.Add(
                "carrier.safety",
                $"{carrier.Name} has {(carrier.Safety == SafetyRating.Conditional ? "a conditional" : "an unsatisfactory")} safety rating. Choose another carrier.",
                field
            );
        }

        if (requirements.Agreement && carrier.AgreementOn is null)
        {
            validation.Add(
                "carrier.agreement",
                $"{carrier.Name} has not signed our broker-carrier agreement. Have it signed and enter the date.",
                field
            );
        }

        Insured("liability", carrier.LiabilityUntil, carrier.Liability, LeastLiability());
        Insured("cargo", carrier.CargoUntil, carrier.Cargo, requirements.Cargo);
        return validation.Problems;

        // Below the legal minimum nobody may haul; a limit that is not on file is asked for by the company's own minimum, and for hazmat.
        Money? LeastLiability()
        {
            var legal = LegalLiability(freight.Hazmat);
            return requirements.Liability is { } own ? (own > legal ? own : legal)
                : carrier.Liability is not null || freight.Hazmat ? legal
                : null;
        }

        void Insured(string kind, LocalDate? until, Money? limit, Money? least)
        {
            if (until is null)
            {
                validation.Add(
                    $"carrier.{kind}",
                    $"{carrier.Name} has no {kind} insurance on file. Request a certificate of insurance.",
                    field
                );
            }
            else if (until < freight.DeliveredOn)
            {
                validation.Add(
                    $"carrier.{kind}",
                    $"{carrier.Name}'s {kind} insurance expires {until.Value:ddd MMM d}, before delivery on {freight.DeliveredOn:ddd MMM d}. Request a renewed certificate.",
                    field
                );
            }
            else if (least is { } needed && limit is null)
            {
                validation.Add(
                    $"carrier.{kind}.limit",
                    $"{carrier.Name}'s {kind} insurance limit is not on file; {needed.Formatted} is needed. Enter it from the certificate.",
                    field
                );
            }
            else if (least is { } minimum && limit < minimum)
            {
                validation.Add(
                    $"carrier.{kind}.limit",
                    $"{carrier.Name} has {limit!.Value.Formatted} of {kind} insurance; {minimum.Formatted} is needed. Request a certificate with a higher limit.",
                    field
                );
            }
        }
    }
}
