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
    long? VendorId = null,
    long? TripId = null
)
{
    public static readonly Dimensions None = new();
}

/// <summary>One side of an entry: a debit or a credit, in whole cents, above zero.</summary>
/// <param name="ItemId">The open item that a line of a control account belongs to (see <see cref="Accounts.ItemOf"/>); else null.</param>
/// <param name="Currency">Of debit and credit: the document's.</param>
/// <param name="InBooks">Its worth in the books' US dollars, debits above zero; null in US dollars, and before <see cref="Exchange"/> has
/// translated the entry. A line may change it alone: then debit and credit are zero.</param>
public sealed record EntryLine(
    string Account,
    decimal Debit,
    decimal Credit,
    Dimensions For,
    long? ItemId = null,
    Currency Currency = Currency.USD,
    decimal? InBooks = null
)
{
    /// <summary>In its own currency, debits above zero.</summary>
    public decimal Signed => Debit - Credit;

    /// <summary>In US dollars, debits above zero.</summary>
    public decimal Booked => InBooks ?? Signed;
}

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

    /// <summary>An expense on a trip, approved; its source is the expense.</summary>
    TripExpense,

    /// <summary>A customer's credit applied to an invoice.</summary>
    CreditUse,
    Journal,
    JournalReversal,

    /// <summary>What is open in Canadian dollars at the rate of a month's end; its source is the month.</summary>
    Remeasurement,

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

    /// <summary>In US dollars.</summary>
    public decimal Total => Lines.Sum(l => Math.Max(0, l.Booked));

    /// <summary>Whether lines in another currency have no worth in the books yet.</summary>
    public bool NeedsRate => Lines.Any(l => l.Currency != Currency.USD && l.InBooks is null);

    /// <summary>Drops zero lines. Throws <see cref="InvalidOperationException"/> when the rest does not balance, has fractional cents or
    /// negatives, or a line of a control account names no open item: that is a bug in the posting rules.</summary>
    public static Entry Of(LocalDate postedOn, string memo, EntrySource source, long sourceId, IEnumerable<EntryLine> lines)
    {
        var kept = lines.Where(l => l.Debit != 0 || l.Credit != 0 || l.Booked != 0).ToList();
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

        var isTranslated = kept.All(l => l.Currency == Currency.USD || l.InBooks is not null);
        var off = isTranslated ? kept.Sum(l => l.Booked) : kept.Sum(l => l.Signed);
        if (off != 0 || kept.Count < 2 || (!isTranslated && kept.Any(l => l.Currency != kept[0].Currency)))
        {
            throw new InvalidOperationException($"'{memo}' does not balance: debits less credits are {off}.");
        }

        return new Entry(postedOn, memo, source, sourceId, kept);
    }

    /// <summary>The reversal: the same lines with debits and credits exchanged. Posted entries never change.</summary>
    public Entry Reversed(LocalDate on, string why, EntrySource source) =>
        Of(on, why, source, SourceId, Lines.Select(l => l with { Debit = l.Credit, Credit = l.Debit, InBooks = -l.InBooks }));

    internal static EntryLine Debit(Account account, Money amount, Dimensions? of = null, long? item = null) =>
        Debit(account.Code, amount, of, item);

    internal static EntryLine Debit(string account, Money amount, Dimensions? of = null, long? item = null) =>
        new(account, amount.Amount, 0, of ?? Dimensions.None, item, amount.Currency);

    internal static EntryLine Credit(Account account, Money amount, Dimensions? of = null, long? item = null) =>
        Credit(account.Code, amount, of, item);

    internal static EntryLine Credit(string account, Money amount, Dimensions? of = null, long? item = null) =>
        new(account, 0, amount.Amount, of ?? Dimensions.None, item, amount.Currency);

    /// <summary>A debit when above zero, a credit when below.</summary>
    internal static EntryLine Signed(string account, Money amount, Dimensions of, long? item = null) =>
        amount.Amount < 0 ? Credit(account, -amount, of, item) : Debit(account, amount, of, item);
}
