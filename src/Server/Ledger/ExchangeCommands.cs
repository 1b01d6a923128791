using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;

namespace SteadyLark.Server.Ledger;

/// <param name="Usd">US dollars for one unit, with up to six decimals.</param>
/// <param name="On">From this day until the next rate.</param>
public sealed record ExchangeRateRequest(Currency? Currency, LocalDate? On, decimal? Usd);

/// <summary>Exchange rates, and what is open in another currency at the end of a month.</summary>
public static class ExchangeCommands
{
    /// <summary>Enters a day's rate, or corrects it. Entries keep the rate they were posted at.</summary>
    /// <param name="source">Who says so.</param>
    public static async Task<Outcome<List<ExchangeRateRow>>> Set(CommandContext w, ExchangeRateRequest request, string source)
    {
        var rate = Exchange.Draft(request.Currency, request.On, request.Usd, w.Today);
        if (!rate.Ok)
        {
            return rate.Problems;
        }

        await ExchangeStore.Set(w, rate.Value, source);
        w.Record(
            EventKinds.ExchangeRateSet,
            (rate.Value.On.Year * 10_000) + (rate.Value.On.Month * 100) + rate.Value.On.Day,
            $"1 {rate.Value.Currency} is {rate.Value.Usd:0.0000##} USD from {rate.Value.On:MMM d, uuuu}, {source}"
        );
        return await ExchangeStore.Rates(w.Db);
    }

    /// <summary>What is open and held in Canadian dollars, at the rate of a month's last day.</summary>
    internal static async Task Remeasure(CommandContext w, LocalDate month)
    {
        var last = month.With(DateAdjusters.EndOfMonth);
        var carried = await ExchangeStore.InCanadian(w.Db, last);
        if (carried.Count > 0)
        {
            await LedgerStore.Post(w, Exchange.Remeasured(month, await ExchangeStore.Rate(w.Db, Currency.CAD, last), carried));
        }
    }
}
