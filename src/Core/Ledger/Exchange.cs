using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Ledger;

/// <summary>What a currency is worth from a day on, until the next rate.</summary>
/// <param name="Usd">US dollars for one unit, with up to six decimals.</param>
public sealed record ExchangeRate(Currency Currency, LocalDate On, decimal Usd);

/// <summary>What is open of an item, or held in a bank account.</summary>
/// <param name="Own">In its own currency, debits above zero.</param>
/// <param name="Booked">In US dollars, debits above zero.</param>
public sealed record Carried(string Account, long? ItemId, decimal Own, decimal Booked, Dimensions For);

/// <summary>
/// Documents in Canadian dollars in books kept in US dollars (FASB ASC 830-20): each is booked at the rate of its day, what settles it takes
/// what it was booked at, and the difference is an exchange gain or loss.
/// </summary>
public static class Exchange
{
    /// <summary>The lowest and highest rate accepted, in US dollars for one Canadian: it was between 0.61 and 1.10 since 1950.</summary>
    public const decimal Lowest = 0.4m;

    /// <inheritdoc cref="Lowest"/>
    public const decimal Highest = 1.5m;

    /// <summary>A rate as typed, or what is wrong with it.</summary>
    public static Outcome<ExchangeRate> Draft(Currency? currency, LocalDate? on, decimal? usd, LocalDate today)
    {
        var validation = new Validation();
        if (currency is null or Currency.USD)
        {
            validation.Add("missing", "Choose the currency other than US dollars.", "currency");
        }

        validation.Date(on, today, "on", "The date");
        if (usd is not (>= Lowest and <= Highest) || decimal.Round(usd.Value, 6) != usd)
        {
            validation.Add(
                "out.of.range",
                $"Enter US dollars for one Canadian dollar, from {Lowest} to {Highest} with up to six decimals.",
                "usd"
            );
        }

        return validation.Ok ? new ExchangeRate(currency!.Value, on!.Value, usd!.Value) : validation.Problems;
    }

    /// <summary>An amount in US dollars, to the cent.</summary>
    /// <param name="rate">US dollars for one unit.</param>
    public static Money InBooks(Money amount, decimal rate) =>
        amount.Currency == Currency.USD ? amount : Money.Usd(amount.Amount * rate).ToCents();

    /// <summary>An amount of US dollars in another currency, to the cent.</summary>
    /// <param name="rate">US dollars for one unit.</param>
    public static Money From(Money usd, Currency currency, decimal rate) =>
        currency == Currency.USD ? usd : new Money(usd.Amount / rate, currency).ToCents();

    /// <summary>
    /// Gives an entry's lines their worth in US dollars. A line that takes from an open item takes its share of what the item was booked at,
    /// all of it when it closes the item (ASC 830-20-35-1); any other is worth the day's rate. The difference is an exchange gain or loss;
    /// without such a line it is rounding, and goes to the largest line.
    /// </summary>
    /// <param name="rate">US dollars for one unit, on the entry's day.</param>
    /// <param name="carried">The items of the entry's lines with something open.</param>
    public static Entry Translate(Entry entry, decimal rate, IReadOnlyCollection<Carried> carried)
    {
        var open = carried.Where(c => c.ItemId is not null).ToDictionary(c => (c.Account, c.ItemId), c => (c.Own, c.Booked));
        var lines = new List<EntryLine>();
        var settles = false;
        foreach (var line in entry.Lines)
        {
            if (line.Currency == Currency.USD)
            {
                lines.Add(line);
                continue;
            }

            var (own, booked) = open.GetValueOrDefault((line.Account, line.ItemId));
            var takes = line.ItemId is not null && line.Signed * own < 0 && Math.Abs(line.Signed) <= Math.Abs(own);
            var worth = takes ? Cents(booked * line.Signed / own) : Cents(line.Signed * rate);
            settles |= takes;
            open[(line.Account, line.ItemId)] = (own + line.Signed, booked + worth);
            lines.Add(line with { InBooks = worth });
        }

        var difference = -lines.Sum(l => l.Booked);
        if (difference != 0 && settles)
        {
            lines.Add(Difference(difference, entry.Lines[0].For));
        }
        else if (difference != 0)
        {
            var largest = lines.Where(l => l.ItemId is null).DefaultIfEmpty(lines[0]).MaxBy(l => Math.Abs(l.Booked))!;
            lines[lines.IndexOf(largest)] = largest with { InBooks = largest.Booked + difference };
        }

        return Entry.Of(entry.PostedOn, entry.Memo, entry.Source, entry.SourceId, lines);
    }

    /// <summary>What is open and held in Canadian dollars, at the rate of a month's last day (ASC 830-20-35-1). Items go back on the first of
    /// the next month, so that each is settled at what it was booked at; bank accounts keep their new worth.</summary>
    /// <param name="month">Its first day.</param>
    /// <param name="carried">Items and bank accounts at the end of its last day.</param>
    /// <returns>Nothing when the rate changed nothing.</returns>
    public static IReadOnlyList<Entry> Remeasured(LocalDate month, decimal rate, IReadOnlyCollection<Carried> carried)
    {
        var (last, memo) = (month.With(DateAdjusters.EndOfMonth), $"Canadian dollars at the rate of {month:MMMM uuuu}");
        Entry? Change(Func<Carried, bool> which)
        {
            var lines = carried
                .Where(which)
                .Select(c => new EntryLine(c.Account, 0, 0, c.For, c.ItemId, Currency.CAD, Cents(c.Own * rate) - c.Booked))
                .Where(l => l.Booked != 0)
                .ToList();
            return lines.Count == 0
                ? null
                : Entry.Of(
                    last,
                    memo,
                    EntrySource.Remeasurement,
                    Paying.WageAccrual.Key(month),
                    [.. lines, Difference(-lines.Sum(l => l.Booked), Dimensions.None)]
                );
        }

        var (items, banks) = (Change(c => c.ItemId is not null), Change(c => c.ItemId is null));
        return new[] { items, items?.Reversed(month.PlusMonths(1), $"{memo}, reversed", EntrySource.Remeasurement), banks }
            .OfType<Entry>()
            .ToList();
    }

    private static EntryLine Difference(decimal amount, Dimensions of) =>
        Entry.Signed(Accounts.ExchangeDifferences.Code, Money.Usd(amount), of);

    private static decimal Cents(decimal amount) => Money.Usd(amount).ToCents().Amount;
}
