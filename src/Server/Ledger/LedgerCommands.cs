using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Ledger;

namespace SteadyLark.Server.Ledger;

public sealed record JournalLineRequest(string? Account, Money? Debit, Money? Credit, long? LoadId, long? CustomerId, long? DriverId, long? TruckId);

/// <param name="PostedOn">Today when left out.</param>
public sealed record JournalRequest(LocalDate? PostedOn, string? Memo, IReadOnlyList<JournalLineRequest>? Lines);

/// <param name="On">Today when left out.</param>
public sealed record ReverseRequest(LocalDate? On, string? Why);

/// <param name="Month">Any day of it.</param>
public sealed record CloseMonthRequest(LocalDate? Month);

public sealed record ReopenMonthRequest(LocalDate? Month, string? Why);

/// <param name="Code">Four digits; it does not change later.</param>
/// <param name="Parent">The account it is a part of.</param>
public sealed record AccountRequest(string? Code, string? Name, AccountKind? Kind, string? Parent);

public sealed record ChangeAccountRequest(string? Name, bool Retired);

/// <summary>The books by hand: entries, months, accounts.</summary>
public static class LedgerCommands
{
    public static async Task<Outcome<EntryHead>> Post(Work w, JournalRequest request)
    {
        var checks = new Checks();
        checks.Date(request.PostedOn, w.Today, "postedOn", "The date", required: false);
        var on = request.PostedOn ?? w.Today;
        await LedgerStore.CheckOpen(w.Db, on, checks, "postedOn");
        var lines = (request.Lines ?? []).Select(l => new JournalLine(l?.Account, l?.Debit, l?.Credit, new Dimensions(l?.LoadId, l?.CustomerId, DriverId: l?.DriverId, TruckId: l?.TruckId))).ToList();
        for (var i = 0; i < Math.Min(lines.Count, Journal.MostLines); i++)
        {
            foreach (var (table, id, field) in new[] { ("loads", lines[i].For.LoadId, "loadId"), ("companies", lines[i].For.CustomerId, "customerId"), ("drivers", lines[i].For.DriverId, "driverId"), ("trucks", lines[i].For.TruckId, "truckId") })
            {
                if (id is { } key && !await w.Db.Has(table, key))
                {
                    checks.Add("unknown", "What this line belongs to is not here.", $"lines[{i}].{field}");
                }
            }
        }

        var entry = Journal.Draft(on, request.Memo, lines, await LedgerStore.Chart(w.Db));
        checks.AddRange(entry.Problems);
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var posted = await LedgerStore.Post(w, entry.Value);
        await Events.Add(w, "entry.posted", "entry", posted, $"Entry {posted} posted, {Money.Usd(entry.Value.Total).Said}: {entry.Value.Memo}");
        return (await LedgerStore.Head(w.Db, posted))!;
    }

    /// <summary>Undoes an entry that was typed by hand. What papers made is undone with its paper.</summary>
    public static async Task<Outcome<EntryHead>> Reverse(Work w, long entryId, ReverseRequest request)
    {
        await w.Db.Run("select 1 from entries where id = @id for share", ("id", entryId));
        if (await LedgerStore.Head(w.Db, entryId) is not { } entry)
        {
            return new Problem("not.found", "This entry is not here.");
        }

        var checks = new Checks();
        var why = checks.Text(request.Why, "why", "Why it is reversed", 160, required: true);
        checks.Date(request.On, w.Today, "on", "The date", required: false);
        var on = request.On ?? w.Today;
        await LedgerStore.CheckOpen(w.Db, on, checks, "on");
        if (entry.Source != EntrySource.Journal)
        {
            checks.Add("entry.paper", "A paper made this entry: take back the invoice, payment, bill or draw, and its entry is reversed with it.");
        }
        else if (entry.Reversed)
        {
            checks.Add("entry.reversed", $"Entry {entryId} is reversed already.");
        }
        else if (on < entry.PostedOn)
        {
            checks.Add("date.before", $"It was posted on {entry.PostedOn:d MMM uuuu}: reverse it on that day or later.", "on");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var id = await LedgerStore.Reverse(w, entryId, EntrySource.Journal, 0, EntrySource.JournalReversal, on, why!);
        await Events.Add(w, "entry.reversed", "entry", entryId, $"Entry {entryId} reversed by {id}: {why}");
        return (await LedgerStore.Head(w.Db, id))!;
    }

    public static async Task<Outcome<List<ClosedMonth>>> Close(Work w, CloseMonthRequest request)
    {
        var checks = new Checks();
        checks.Date(request.Month, w.Today, "month", "The month");
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var months = (await LedgerStore.Periods(w.Db)).Close(request.Month!.Value, await LedgerStore.FirstDay(w.Db) ?? w.Today, w.Today);
        if (!months.Ok)
        {
            return months.Problems.ToList();
        }

        await LedgerStore.Close(w, months.Value);
        await Events.Add(w, "period.closed", "period", 0, $"The books are closed through {BookPeriods.MonthOf(request.Month.Value):MMMM uuuu}");
        return await LedgerStore.Closings(w.Db);
    }

    public static async Task<Outcome<List<ClosedMonth>>> Reopen(Work w, ReopenMonthRequest request)
    {
        var checks = new Checks();
        checks.Date(request.Month, w.Today, "month", "The month");
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var months = (await LedgerStore.Periods(w.Db)).Reopen(request.Month!.Value, request.Why);
        if (!months.Ok)
        {
            return months.Problems.ToList();
        }

        await LedgerStore.Reopen(w, months.Value, request.Why!.Trim());
        await Events.Add(w, "period.reopened", "period", 0, $"The books of {string.Join(", ", months.Value.Select(m => $"{m:MMMM uuuu}"))} are open again: {request.Why.Trim()}");
        return await LedgerStore.Closings(w.Db);
    }

    public static async Task<Outcome<Account>> AddAccount(Work w, AccountRequest request)
    {
        await w.Db.Run("lock table accounts in share row exclusive mode");
        var account = ChartOfAccounts.Add(request.Code, request.Name, request.Kind, request.Parent, await LedgerStore.Chart(w.Db));
        if (account.Ok)
        {
            await LedgerStore.AddAccount(w.Db, account.Value);
            await Events.Add(w, "setup.account_added", "account", long.Parse(account.Value.Code), $"Account {account.Value.Code} {account.Value.Name} added");
        }

        return account;
    }

    /// <summary>Gives an account another name, or takes it out of use. What was posted stays.</summary>
    public static async Task<Outcome<Account>> ChangeAccount(Work w, string code, ChangeAccountRequest request)
    {
        await w.Db.Run("lock table accounts in share row exclusive mode");
        var chart = await LedgerStore.Chart(w.Db);
        if (chart.FirstOrDefault(a => a.Code == code) is not { } before)
        {
            return new Problem("not.found", "This account is not here.");
        }

        var checks = new Checks();
        var name = checks.Text(request.Name, "name", "The name", 60) ?? before.Name;
        if (chart.Any(a => a.Code != code && string.Equals(a.Name, name, StringComparison.OrdinalIgnoreCase)))
        {
            checks.Add("name.taken", $"There is an account {name} already.", "name");
        }

        if (request.Retired && before.Needed)
        {
            checks.Add("account.needed", $"{before.Name} is posted to by the rules of the house: it stays.", "retired");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var account = before with { Name = name, Retired = request.Retired };
        await LedgerStore.ChangeAccount(w, account);
        await Events.Add(w, "setup.account_changed", "account", long.Parse(code), $"Account {code} {before.Name} {(request.Retired ? "taken out of use" : $"is {name}")}", before: before);
        return account;
    }
}
