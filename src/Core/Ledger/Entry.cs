using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>The dimensions of a ledger line.</summary>
/// <param name="VendorId">A vendor other than a carrier.</param>
public sealed record Dimensions(
    long? LoadId = null,
    long? CustomerId = null,
    long? CarrierId = null,
    long? DriverId = null,
    long? TruckId = null,
    long? VendorId = null
)
{
    public static readonly Dimensions None = new();
}

/// <summary>One side of an entry: a debit or a credit, in whole cents, above zero.</summary>
/// <param name="ItemId">The open item that a line of a control account belongs to (see <see cref="Accounts.ItemOf"/>); else null.</param>
public sealed record EntryLine(string Account, decimal Debit, decimal Credit, Dimensions For, long? ItemId = null);

/// <summary>The business event that an entry records.</summary>
public enum EntrySource
{
    Opening,
    Invoice,
    InvoiceVoid,

    /// <summary>A short pay written off; its source is the payment.</summary>
    WriteOff,

    /// <summary>An open amount written off without a payment.</summary>
    InvoiceWriteOff,

    /// <summary>A credit memo; its source is the payment that stands for it.</summary>
    CreditMemo,

    /// <summary>What a carrier paid for a claim, in money.</summary>
    ClaimRecovery,

    /// <summary>A customer's unapplied credit paid back.</summary>
    Refund,
    Payment,
    PaymentReversal,
    Bill,
    BillReduction,

    /// <summary>Approved for more than was agreed.</summary>
    BillIncrease,
    BillVoid,

    /// <summary>A vendor is paid for bills; its source is the payment.</summary>
    BillPayment,
    Advance,
    Settlement,
    SettlementPayment,

    /// <summary>An expense already paid when entered, without a payable.</summary>
    Expense,
    ExpenseVoid,

    /// <summary>A customer's credit applied to an invoice.</summary>
    CreditUse,
    Journal,
    JournalReversal,

    /// <summary>Interest on loans since their last payment; its source is the month.</summary>
    InterestAccrual,

    /// <summary>Interest on owner-operators' escrow; its source is the month.</summary>
    EscrowInterest,

    /// <summary>A delivered load's revenue and carrier costs, before invoice and bill; its source is the load.</summary>
    Accrual,

    /// <summary>Wages for days of a month that are settled after it, and their reversal; its source is the month.</summary>
    WageAccrual,

    /// <summary>Equipment bought; its source is the asset, as that of its sale.</summary>
    Equipment,
    EquipmentSale,

    /// <summary>A month's depreciation of all equipment; its source is the month.</summary>
    Depreciation,
    LoanPayment,
}

/// <summary>A balanced journal entry. Made only through <see cref="Of"/>, which refuses what does not balance.</summary>
public sealed record Entry
{
    private Entry(LocalDate postedOn, string memo, EntrySource source, long sourceId, IReadOnlyList<EntryLine> lines)
    {
        PostedOn = postedOn;
        Memo = memo;
        Source = source;
        SourceId = sourceId;
        Lines = lines;
    }

    public LocalDate PostedOn { get; }

    public string Memo { get; }

    public EntrySource Source { get; }

    public long SourceId { get; }

    public IReadOnlyList<EntryLine> Lines { get; }

    public decimal Total => Lines.Sum(l => l.Debit);

    /// <summary>Drops zero lines. Throws <see cref="InvalidOperationException"/> when the rest does not balance, has fractional cents or
    /// negatives, or a line of a control account names no open item: that is a bug in the posting rules.</summary>
    public static Entry Of(LocalDate postedOn, string memo, EntrySource source, long sourceId, IEnumerable<EntryLine> lines)
    {
        var kept = lines.Where(l => l.Debit != 0 || l.Credit != 0).ToList();
        if (
            kept.Any(l =>
                l.Debit < 0 || l.Credit < 0 || (l.Debit != 0 && l.Credit != 0) || decimal.Round(l.Debit + l.Credit, 2) != l.Debit + l.Credit
            )
        )
        {
            throw new InvalidOperationException($"A line of '{memo}' is not one positive debit or credit in whole cents.");
        }

        if (kept.FirstOrDefault(l => (l.ItemId is null) == Accounts.IsControl.Contains(l.Account)) is { } lost)
        {
            throw new InvalidOperationException($"A line of '{memo}' on account {lost.Account} names no open item, or one too many.");
        }

        if (kept.Sum(l => l.Debit) != kept.Sum(l => l.Credit) || kept.Count < 2)
        {
            throw new InvalidOperationException($"'{memo}' does not balance: {kept.Sum(l => l.Debit)} against {kept.Sum(l => l.Credit)}.");
        }

        return new Entry(postedOn, memo, source, sourceId, kept);
    }

    /// <summary>The reversal: the same lines with debits and credits exchanged. Posted entries never change.</summary>
    public Entry Reversed(LocalDate on, string why, EntrySource source) =>
        Of(on, why, source, SourceId, Lines.Select(l => l with { Debit = l.Credit, Credit = l.Debit }));

    internal static EntryLine Debit(Account account, Money amount, Dimensions? of = null, long? item = null) =>
        new(account.Code, amount.Amount, 0, of ?? Dimensions.None, item);

    internal static EntryLine Credit(Account account, Money amount, Dimensions? of = null, long? item = null) =>
        new(account.Code, 0, amount.Amount, of ?? Dimensions.None, item);
}
