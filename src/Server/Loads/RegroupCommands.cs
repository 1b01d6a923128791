using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <param name="Stops">Its stops, counted from 1, in order.</param>
/// <param name="Amounts">How much of each freight line it gets: gallons, pallets, pieces or pounds, whichever the line has first.</param>
public sealed record DividedPartRequest(IReadOnlyList<int>? Stops, IReadOnlyList<decimal>? Amounts);

/// <param name="Parts">The loads it is divided into.</param>
public sealed record DivideRequest(IReadOnlyList<DividedPartRequest?>? Parts);

/// <param name="LoadIds">The loads that become one, the one whose reference is kept first.</param>
public sealed record CombineRequest(IReadOnlyList<long>? LoadIds);

/// <param name="Loads">The loads as they are now.</param>
/// <param name="Before">What all charges came to before; and <paramref name="After"/>, what they come to now.</param>
public sealed record RegroupAnswer(
    string Summary,
    IReadOnlyList<LoadLink> Loads,
    [property: SeenWith(Right.RatesSee)] Money Before,
    [property: SeenWith(Right.RatesSee)] Money After
);

/// <summary>Divides loads, combines them, and restores what was divided or combined.</summary>
public static class RegroupCommands
{
    /// <summary>Divides a locked load.</summary>
    public static async Task<Outcome<RegroupAnswer>> Divide(CommandContext w, long id, DivideRequest request)
    {
        var sheet = (await LoadReads.Sheet(w.Db, id))!;
        var parts = (request.Parts ?? []).Select(p => new DividedPart(p?.Stops ?? [], p?.Amounts ?? [])).ToList();
        var orders = Regrouping.Divide(sheet.Load.Work(), sheet.Legs.Count > 1, Order(sheet), parts);
        if (!orders.Ok)
        {
            return orders.Problems;
        }

        var numbers = new List<string>();
        for (var part = 1; numbers.Count < orders.Value.Count; part++)
        {
            if (Regrouping.NumberOf(sheet.Load.Number, part) is var number && !await LoadReads.NumberTaken(w.Db, number))
            {
                numbers.Add(number);
            }
        }

        var summary = $"{sheet.Load.Number} divided into {numbers.Listed()}";
        return await Replace(
            w,
            [sheet],
            orders.Value.Select((o, i) => o with { Number = numbers[i] }).ToList(),
            EventKinds.LoadDivided,
            summary
        );
    }

    /// <summary>Combines loads into one.</summary>
    public static async Task<Outcome<RegroupAnswer>> Combine(CommandContext w, CombineRequest request)
    {
        var ids = (request.LoadIds ?? []).Distinct().Take(Regrouping.Most + 1).ToList();
        await LoadWrites.Lock(w.Db, ids);
        var sheets = new List<LoadSheet>();
        foreach (var id in ids)
        {
            if (await LoadReads.Sheet(w.Db, id) is not { } sheet)
            {
                return Problem.Missing("One of these loads", "loadIds");
            }

            sheets.Add(sheet);
        }

        var order = Regrouping.Combine(
            sheets
                .Select(s => new CombinedLoad(
                    s.Load.Number,
                    s.Load.Work(),
                    s.Legs.Count > 1,
                    Order(s),
                    s.Load.Stops.Select(x => x.FromAt).OfType<NodaTime.Instant>().ToList(),
                    s.Charges.Select(c => c.Amount).ToList()
                ))
                .ToList()
        );
        if (!order.Ok)
        {
            return order.Problems;
        }

        var number = await LoadCommands.NextFree(w);
        return await Replace(
            w,
            sheets,
            [order.Value with { Number = number }],
            EventKinds.LoadCombined,
            $"{sheets.ConvertAll(s => s.Load.Number).Listed()} combined into {number}"
        );
    }

    /// <summary>Brings back a load that was divided or combined, with those combined with it; the loads that replaced them are canceled.</summary>
    public static async Task<Outcome<RegroupAnswer>> Restore(CommandContext w, long id)
    {
        var (old, by) = await LoadWrites.Replacements(w.Db, id);
        await LoadWrites.Lock(w.Db, [.. old, .. by]);
        var rows = (await LoadReads.ByIds(w.Db, [id, .. old, .. by])).DistinctBy(l => l.Id).ToDictionary(l => l.Id);
        var replacements = new List<(LoadWork, bool)>();
        foreach (var replacement in by)
        {
            replacements.Add((rows[replacement].Work(), (await LoadReads.Legs(w.Db, replacement)).Count > 1));
        }

        if (Regrouping.RestoreRefusal(rows[id].Number, replacements) is { } refused)
        {
            return refused;
        }

        var numbers = old.ConvertAll(o => rows[o].Number).Listed();
        await LoadWrites.Cancel(w, by, $"{numbers} restored");
        await LoadWrites.NotReplaced(w.Db, old);
        await LoadWrites.MoveTrackLinks(w.Db, by, old[0]);
        await LoadWrites.Reopen(w.Db, old);
        foreach (var each in by.Concat(old))
        {
            await LoadWrites.Settle(w, each);
            w.Record(
                EventKinds.LoadRestored,
                each,
                $"{numbers} restored, {by.ConvertAll(b => rows[b].Number).Listed()} canceled",
                loadId: each
            );
        }

        return new RegroupAnswer(
            $"{numbers} restored",
            old.Select(o => new LoadLink(o, rows[o].Number)).ToList(),
            Money.Sum(by.Select(b => rows[b].Revenue), rows[id].Revenue.Currency),
            Money.Sum(old.Select(o => rows[o].Revenue), rows[id].Revenue.Currency)
        );
    }

    /// <summary>Cancels loads and books those that replace them: so that what a customer owes at most is never counted twice.</summary>
    private static async Task<Outcome<RegroupAnswer>> Replace(
        CommandContext w,
        IReadOnlyList<LoadSheet> old,
        IReadOnlyList<LoadOrder> orders,
        EventKind kind,
        string summary
    )
    {
        var ids = old.Select(s => s.Load.Id).ToList();
        await LoadWrites.Cancel(w, ids, summary);
        foreach (var id in ids)
        {
            await LoadWrites.Settle(w, id);
        }

        var booked = new List<LoadLink>();
        var revenue = new List<Money>();
        foreach (var order in orders)
        {
            var made = await LoadCommands.Book(w, order, old[0].Load.Number);
            if (!made.Ok)
            {
                return made.Problems;
            }

            booked.Add(new LoadLink(made.Value.Id, made.Value.Number));
            revenue.Add((await LoadReads.ByIds(w.Db, [made.Value.Id]))[0].Revenue);
        }

        await LoadWrites.Replaced(w.Db, ids, booked.Select(b => b.Id).ToList());
        await LoadWrites.MoveTrackLinks(w.Db, ids, booked[0].Id);
        foreach (var id in ids.Concat(booked.Select(b => b.Id)))
        {
            w.Record(kind, id, summary, loadId: id);
        }

        var currency = old[0].Load.Revenue.Currency;
        return new RegroupAnswer(summary, booked, Money.Sum(old.Select(s => s.Load.Revenue), currency), Money.Sum(revenue, currency));
    }

    /// <summary>A load as it would be booked again.</summary>
    private static LoadOrder Order(LoadSheet sheet) =>
        LoadRequest.Of(sheet).Order() with
        {
            Move = sheet.Load.Move,
            Currency = sheet.Load.Revenue.Currency,
        };
}
