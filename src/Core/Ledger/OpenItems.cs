using NodaTime;

namespace SteadyLark.Core.Ledger;

/// <summary>What a line of a control account belongs to.</summary>
public enum OpenItemKind
{
    Invoice,
    Load,
    Advance,
    Bill,
    Leg,
    Settlement,

    /// <summary>A pay item that reimburses a driver.</summary>
    Reimbursement,
    Payment,
}

/// <summary>A change of an open item on the day it posts.</summary>
/// <param name="Amount">In dollars; positive when more is open, negative when less.</param>
public sealed record ItemMove(LocalDate On, decimal Amount);

/// <summary>
/// Open items: an invoice, bill, advance or payment with the lines posted to it. What is open on a day is the sum of what was posted
/// through it, so the sub-ledger equals its account on every day.
/// </summary>
public static class OpenItems
{
    /// <summary>
    /// The first day on which an amount can be taken from an open item, so that no day shows less than nothing open: a payment dated before
    /// its invoice is applied when the invoice posts, and stays the customer's credit until then.
    /// </summary>
    /// <param name="moves">What was posted to the item, in any order.</param>
    /// <param name="from">The earliest day wanted, such as the payment's.</param>
    /// <param name="amount">In dollars, above zero.</param>
    /// <exception cref="InvalidOperationException">Less than the amount is open in the end.</exception>
    /// <example>Invoice of $900 posted on Nov 5, paid on Nov 2: <c>FirstDay([(Nov 5, 900)], Nov 2, 900)</c> is Nov 5.</example>
    public static LocalDate FirstDay(IEnumerable<ItemMove> moves, LocalDate from, decimal amount)
    {
        var days = moves.GroupBy(m => m.On).Select(g => (On: g.Key, Amount: g.Sum(m => m.Amount))).OrderBy(d => d.On).ToList();
        var open = days.Sum(d => d.Amount);
        if (open < amount)
        {
            throw new InvalidOperationException($"Only {open} of {amount} is open.");
        }

        // From the last day back, as long as enough is open.
        for (var i = days.Count - 1; i >= 0; i--)
        {
            if (days[i].On <= from)
            {
                break;
            }

            open -= days[i].Amount;
            if (open < amount)
            {
                return days[i].On;
            }
        }

        return from;
    }
}
