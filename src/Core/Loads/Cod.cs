using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>How a receiver pays a driver on delivery.</summary>
public enum CodMethod
{
    Cash,
    Check,
    MoneyOrder,

    /// <summary>Sent by phone or card.</summary>
    Electronic,
}

/// <summary>Cash on delivery: what a driver collects from the receiver.</summary>
public static class Cod
{
    public static string Format(this CodMethod method) =>
        method switch
        {
            CodMethod.MoneyOrder => "money order",
            _ => method.ToString().ToLowerInvariant(),
        };

    /// <summary>Why what is to be collected cannot be changed; null when it can.</summary>
    /// <param name="now">What is to be collected after the change.</param>
    public static Problem? ChangeRefuses(decimal? now, Money? collected) =>
        collected is { } paid && (now is null || now < paid.Amount)
            ? new Problem("cod.collected", $"{paid.Formatted} were collected on delivery already: undo that first.", "cod")
            : null;

    /// <summary>Why it cannot be recorded; null when it can.</summary>
    /// <param name="number">Of the load.</param>
    /// <param name="asked">What the driver is to collect; null for nothing.</param>
    /// <param name="collected">What they collected: nothing when zero, not known any more when null.</param>
    public static Problem? Refuses(LoadState state, string number, Money? asked, Money? collected, CodMethod? method) =>
        asked is null ? new Problem("cod.none", $"Load {number} has no cash on delivery.", "collected")
        : state is not (LoadState.Covered or LoadState.Rolling or LoadState.Delivered)
            ? new Problem("load.state", $"Load {number} is {state.Format()}: cash on delivery can no longer be recorded.", "collected")
        : collected is null ? null
        : collected.Value.Currency != asked.Value.Currency
            ? new Problem("currency", $"Enter what was collected in {asked.Value.Currency.Format()}.", "collected")
        : collected.Value.Amount < 0 || decimal.Round(collected.Value.Amount, 2) != collected.Value.Amount
            ? new Problem("not.positive", "Enter what was collected in dollars and cents; 0 for nothing.", "collected")
        : collected.Value.Amount > asked.Value.Amount
            ? new Problem("cod.more", $"The receiver pays {asked.Value.Formatted}: enter at most that.", "collected")
        : method is null && collected.Value.Amount > 0
            ? new Problem("missing", "Choose how the receiver paid: cash, check, money order or electronically.", "method")
        : null;
}
