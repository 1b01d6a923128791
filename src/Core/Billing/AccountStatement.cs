using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;

namespace SteadyLark.Core.Billing;

/// <summary>A transaction that changed what a customer owes.</summary>
/// <param name="Amount">Positive when the customer owes more, negative when less.</param>
public sealed record AccountMove(LocalDate On, string What, Money Amount);

/// <summary>An invoice with something open on it.</summary>
public sealed record OwedInvoice(string Number, LocalDate IssuedOn, LocalDate DueOn, Money Total, Money Open);

/// <summary>A transaction with the balance after it.</summary>
public sealed record StatementLine(LocalDate On, string What, Money Amount, Money Balance);

/// <summary>A customer's statement of account: opening balance, transactions, closing balance, and open amounts by age.</summary>
/// <param name="Credit">The customer's unapplied credit.</param>
public sealed record AccountStatement(
    LocalDate From,
    LocalDate Until,
    Money Before,
    IReadOnlyList<StatementLine> Lines,
    Money Owed,
    Money Credit,
    IReadOnlyList<OwedInvoice> Open,
    IReadOnlyDictionary<AgingBucket, Money> Aging
)
{
    /// <summary>Builds the statement; its closing balance is the sum of all transactions through its last day.</summary>
    /// <param name="moves">All transactions of the account, ever.</param>
    /// <param name="credit">In the customer's currency, as all of it.</param>
    public static AccountStatement Of(
        LocalDate from,
        LocalDate until,
        IEnumerable<AccountMove> moves,
        IReadOnlyList<OwedInvoice> open,
        Money credit
    )
    {
        var upTo = moves.Where(m => m.On <= until).OrderBy(m => m.On).ToList();
        var before = Money.Sum(upTo.Where(m => m.On < from).Select(m => m.Amount), credit.Currency);
        var balance = before;
        var lines = upTo.Where(m => m.On >= from).Select(m => new StatementLine(m.On, m.What, m.Amount, balance += m.Amount)).ToList();
        var ages = Enum.GetValues<AgingBucket>()
            .ToDictionary(
                b => b,
                b => Money.Sum(open.Where(i => Ledger.Aging.Bucket(i.DueOn, until) == b).Select(i => i.Open), credit.Currency)
            );
        return new AccountStatement(from, until, before, lines, balance, credit, open.OrderBy(i => i.DueOn).ToList(), ages);
    }
}
