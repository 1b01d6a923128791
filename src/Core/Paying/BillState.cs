using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>Where a bill stands.</summary>
public enum BillStatus
{
    Entered,
    Approved,
    PartlyPaid,
    Paid,
    Void,
}

/// <summary>What can be done with a bill. It is entered, approved and paid, at once or in parts, each step reversible in turn; an expense is
/// approved and paid on entry.</summary>
/// <param name="Number">The vendor's number, for sentences.</param>
/// <param name="IsApproved">Whether an amount was approved.</param>
/// <param name="PaidOn">When it was paid in full, or null.</param>
/// <param name="IsExpense">Whether it was entered as already paid.</param>
/// <param name="IsPartlyPaid">Whether a part of it is paid.</param>
/// <param name="LoadWithoutPod">The number of the load it is for, while that has no POD; else null.</param>
public sealed record BillState(
    string Number,
    bool IsApproved,
    LocalDate? PaidOn,
    bool IsVoid,
    bool IsExpense,
    bool IsPartlyPaid = false,
    string? LoadWithoutPod = null
)
{
    public BillStatus Status =>
        IsVoid ? BillStatus.Void
        : PaidOn is not null ? BillStatus.Paid
        : IsPartlyPaid ? BillStatus.PartlyPaid
        : IsApproved ? BillStatus.Approved
        : BillStatus.Entered;

    /// <summary>Why it cannot be approved; null when it can.</summary>
    public Problem? ApproveRefusal =>
        Status switch
        {
            BillStatus.Entered => LoadWithoutPod is null
                ? null
                : new Problem(
                    "bill.pod",
                    $"Load {LoadWithoutPod} has no POD, which its rate confirmation asks for: attach it to the load, or ask the carrier for it, before you approve bill {Number}."
                ),
            BillStatus.Void => Refused("is void"),
            _ => Refused("is already approved"),
        };

    /// <summary>Why its approval cannot be reversed; null when it can.</summary>
    public Problem? UnapproveRefusal =>
        Status switch
        {
            BillStatus.Approved => null,
            BillStatus.Paid => IsExpense
                ? Refused("is an expense paid on entry: void it instead")
                : Refused("is paid: reverse the payment first"),
            BillStatus.PartlyPaid => Refused("is partly paid: reverse the payment first"),
            BillStatus.Void => Refused("is void"),
            _ => Refused("is not approved"),
        };

    /// <summary>Why it cannot be paid; null when it can.</summary>
    public Problem? PayRefusal =>
        Status switch
        {
            BillStatus.Approved or BillStatus.PartlyPaid => null,
            BillStatus.Paid => Refused($"was already paid on {PaidOn:MMM d}"),
            BillStatus.Void => Refused("is void"),
            _ => Refused("is not approved yet"),
        };

    /// <summary>Why it cannot be voided; null when it can: a bill before it is approved, an expense at any time.</summary>
    public Problem? VoidRefusal =>
        Status switch
        {
            BillStatus.Void => Refused("is already void"),
            BillStatus.Entered => null,
            _ => IsExpense
                ? null
                : Refused(
                    Status switch
                    {
                        BillStatus.Paid => "is paid: reverse the payment first",
                        BillStatus.PartlyPaid => "is partly paid: reverse the payment first",
                        _ => "is approved: reverse the approval first",
                    }
                ),
        };

    private Problem Refused(string what) => new("bill.state", $"Bill {Number} {what}.");
}
