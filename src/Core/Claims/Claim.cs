using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Claims;

/// <summary>What happened to the freight.</summary>
public enum ClaimKind
{
    Shortage,
    Damage,
    Refused,
    Loss,
    Delay,
}

/// <summary>How a claim was decided.</summary>
public enum ClaimOutcome
{
    /// <summary>Paid as claimed.</summary>
    Paid,

    /// <summary>Settled for less than claimed.</summary>
    Settled,
    Declined,

    /// <summary>The claimant took it back, or never filed one.</summary>
    Withdrawn,
}

/// <summary>Where a claim stands.</summary>
public enum ClaimStatus
{
    /// <summary>Reported by a driver, a carrier or a receiver; no claim in writing yet.</summary>
    Reported,
    Filed,
    Acknowledged,
    Decided,
}

public static class ClaimKinds
{
    /// <summary>As shown: <c>Shortage</c>.</summary>
    public static string Format(this ClaimKind kind) => kind == ClaimKind.Refused ? "Refused freight" : kind.ToString();

    /// <summary>The claim that a report about the freight opens; null when it opens none.</summary>
    public static ClaimKind? Of(ReportKind kind) =>
        kind switch
        {
            ReportKind.Short => ClaimKind.Shortage,
            ReportKind.Damaged => ClaimKind.Damage,
            ReportKind.Refused => ClaimKind.Refused,
            _ => null,
        };
}

/// <summary>A date by which something has to be done about a claim.</summary>
/// <param name="What">As an instruction: <c>acknowledge the claim in writing</c>.</param>
/// <param name="Rule">Its source, such as <c>49 CFR 370.5</c>.</param>
public sealed record ClaimDeadline(LocalDate On, string What, string Rule);

/// <summary>A cargo claim: a customer's against us, and ours against the carrier that moved the freight.</summary>
/// <param name="Number">Our claim number, which every letter about it carries (49 CFR 370.5(b)).</param>
/// <param name="DeliveredOn">When the freight was delivered; null before.</param>
/// <param name="FiledOn">When the claim in writing reached us; null while it is only reported.</param>
/// <param name="Claimed">The amount claimed; null while it is only reported.</param>
/// <param name="ByCarrier">Whether a carrier moved the freight.</param>
/// <param name="CarrierFiledOn">When we filed our claim with the carrier.</param>
/// <param name="Recovered">What the carrier has paid or was deducted.</param>
/// <param name="IsReleased">Whether the carrier's pay was released although the claim goes on.</param>
public sealed record Claim(
    string Number,
    LocalDate? DeliveredOn,
    LocalDate? FiledOn,
    Money? Claimed,
    LocalDate? AcknowledgedOn,
    ClaimOutcome? Outcome,
    Money Allowed,
    bool ByCarrier,
    LocalDate? CarrierFiledOn,
    Money Recovered,
    bool IsReleased
)
{
    /// <summary>The customer's.</summary>
    public Currency Currency => Allowed.Currency;

    /// <summary>Days from receipt to our acknowledgment in writing: 49 CFR 370.5(a).</summary>
    public const int AcknowledgeDays = 30;

    /// <summary>Days from receipt to payment, refusal or a firm offer: 49 CFR 370.9(a).</summary>
    public const int DecideDays = 120;

    /// <summary>Days between reports on a claim that is not decided in time: 49 CFR 370.9(b).</summary>
    public const int StatusDays = 60;

    /// <summary>Days before a deadline when Today begins to show it.</summary>
    public const int WarnDays = 14;

    /// <summary>Months from delivery within which a claim can be filed, at least: 49 USC 14706(e)(1).</summary>
    public const int FileMonths = 9;

    public ClaimStatus Status =>
        Outcome is not null ? ClaimStatus.Decided
        : AcknowledgedOn is not null ? ClaimStatus.Acknowledged
        : FiledOn is not null ? ClaimStatus.Filed
        : ClaimStatus.Reported;

    /// <summary>Whether it holds its carrier's pay: until it is decided, and then until what we allowed is recovered.</summary>
    public bool HoldsPay => ByCarrier && !IsReleased && (Outcome is null || Recovered < Allowed);

    /// <summary>What has to be done next, and by when; null when nothing is due.</summary>
    /// <example>Filed on Nov 2: acknowledge by Dec 2. Acknowledged: decide by Mar 2. Not decided by then: report on May 1, on Jun 30, …</example>
    public ClaimDeadline? Next(LocalDate today)
    {
        if (Status == ClaimStatus.Decided)
        {
            return ByCarrier && CarrierFiledOn is null && Recovered < Allowed ? ToCarrier : null;
        }

        if (FiledOn is not { } filed)
        {
            return DeliveredOn is { } delivered
                ? new ClaimDeadline(delivered.PlusMonths(FileMonths), "expect the customer's claim, or close it", "49 USC 14706(e)(1)")
                : null;
        }

        if (AcknowledgedOn is null)
        {
            return new ClaimDeadline(filed.PlusDays(AcknowledgeDays), "acknowledge the claim in writing", "49 CFR 370.5(a)");
        }

        var decide = filed.PlusDays(DecideDays);
        if (today <= decide)
        {
            return new ClaimDeadline(decide, "pay, decline or make a firm offer", "49 CFR 370.9(a)");
        }

        var reports = (Period.DaysBetween(decide, today) + StatusDays - 1) / StatusDays;
        return new ClaimDeadline(decide.PlusDays(reports * StatusDays), "report to the claimant why it is not decided", "49 CFR 370.9(b)");
    }

    /// <summary>The last day for our own claim against the carrier.</summary>
    private ClaimDeadline? ToCarrier =>
        DeliveredOn is { } delivered
            ? new ClaimDeadline(delivered.PlusMonths(FileMonths), "file our claim with the carrier", "49 USC 14706(e)(1)")
            : null;

    /// <summary>Checks a claim in writing: what it must contain is in 49 CFR 370.3(b): the shipment, which the load is; that we are liable,
    /// which filing it says; and a determinable amount.</summary>
    /// <returns>The day it reached us, and the amount.</returns>
    public Outcome<(LocalDate On, Money Amount)> File(LocalDate? on, Money? amount, LocalDate today)
    {
        var validation = new Validation { Currency = Currency };
        if (Status != ClaimStatus.Reported)
        {
            return Refused("is filed already");
        }

        CheckDay(on, today, "filedOn", "The date received", validation);
        validation.Dollars(amount, "amount", "The amount claimed");
        return validation.Ok ? (on ?? today, amount!.Value) : validation.Problems;
    }

    /// <summary>Why it cannot be acknowledged; null when it can.</summary>
    public Problem? AcknowledgeRefusal =>
        Status switch
        {
            ClaimStatus.Filed => null,
            ClaimStatus.Reported => Refused("is not filed yet: enter the claim in writing first"),
            _ => Refused("is acknowledged already"),
        };

    /// <summary>Checks a decision.</summary>
    /// <param name="amount">For a settled claim: what we pay; the whole claim when it is paid.</param>
    /// <returns>What we allow; zero when it is declined or withdrawn.</returns>
    public Outcome<(ClaimOutcome Outcome, Money Allowed, string Why)> Decide(ClaimOutcome? outcome, Money? amount, string? why)
    {
        if (Status == ClaimStatus.Decided)
        {
            return Refused("is decided already: reopen it first");
        }

        var validation = new Validation();
        var text = validation.Text(why, "why", "The explanation", 400, required: true);
        if (outcome is null)
        {
            validation.Add("missing", "Choose the outcome: paid, settled, declined or withdrawn.", "outcome");
        }
        else if (Claimed is null && outcome != ClaimOutcome.Withdrawn)
        {
            validation.Add(
                "claim.not.filed",
                $"Claim {Number} is not filed yet: it can only be withdrawn. Enter the claim in writing first.",
                "outcome"
            );
        }

        var allowed = Money.Zero(Currency);
        if (validation.Ok && outcome == ClaimOutcome.Paid)
        {
            allowed = Claimed!.Value;
        }
        else if (validation.Ok && outcome == ClaimOutcome.Settled)
        {
            validation.Dollars(amount, "amount", "The amount settled", currency: Currency);
            if (amount >= Claimed)
            {
                validation.Add(
                    "claim.amount",
                    $"{Claimed!.Value.Formatted} was claimed: enter less, or choose paid for the whole claim.",
                    "amount"
                );
            }

            allowed = amount ?? allowed;
        }

        return validation.Ok ? (outcome!.Value, allowed, text!) : validation.Problems;
    }

    /// <summary>Why the load's invoice waits, for a customer whose terms say so.</summary>
    public string HoldReason(string description) => Cut($"Claim {Number}: {description}", 400);

    /// <summary>What the credit memo of a decision says.</summary>
    public string MemoText(string why) => Cut($"claim {Number}, {why}", 200);

    private static string Cut(string text, int max) => text.Length <= max ? text : text[..max];

    /// <summary>Why it cannot be reopened; null when it can.</summary>
    /// <param name="memo">The standing credit memo of its decision, or null.</param>
    public Problem? ReopenRefusal(string? memo) =>
        Status != ClaimStatus.Decided ? Refused("is not decided")
        : memo is not null ? Refused($"was credited with {memo}: reverse the credit memo first")
        : null;

    /// <summary>Checks our claim against the carrier.</summary>
    public Outcome<(LocalDate On, Money Amount)> FileWithCarrier(LocalDate? on, Money? amount, LocalDate today)
    {
        if (!ByCarrier)
        {
            return Refused("is about our own truck: there is no carrier to file it with");
        }

        if (CarrierFiledOn is not null)
        {
            return Refused("is filed with the carrier already");
        }

        var validation = new Validation { Currency = Recovered.Currency };
        CheckDay(on, today, "filedOn", "The date filed", validation);
        var wanted = amount ?? (Claimed?.Currency == Recovered.Currency ? Claimed : null);
        validation.Dollars(wanted, "amount", "The amount claimed from the carrier");
        return validation.Ok ? (on ?? today, wanted!.Value) : validation.Problems;
    }

    /// <summary>Why the report that opened it cannot be undone; null when it can.</summary>
    public Problem? UndoRefusal =>
        Status == ClaimStatus.Reported ? null : Refused("is filed: decide it as withdrawn instead of undoing the report");

    /// <summary>Why the carrier's pay cannot be released; null when it can.</summary>
    public Problem? ReleaseRefusal => HoldsPay ? null : Refused("holds nobody's pay");

    private static void CheckDay(LocalDate? on, LocalDate today, string field, string name, Validation validation)
    {
        validation.Date(on, today, field, name, required: false);
        if (on > today)
        {
            validation.Add("date.future", $"{name} cannot be in the future.", field);
        }
    }

    private Problem Refused(string what) => new("claim.state", $"Claim {Number} {what}.");
}
