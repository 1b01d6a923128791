using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Ledger;

public sealed record JournalLineRequest(
    string? Account,
    Money? Debit,
    Money? Credit,
    long? LoadId,
    long? CustomerId,
    long? DriverId,
    long? TruckId
);

/// <param name="PostedOn">Today when omitted.</param>
public sealed record JournalRequest(LocalDate? PostedOn, string? Memo, IReadOnlyList<JournalLineRequest>? Lines);

/// <param name="On">Today when omitted.</param>
public sealed record ReverseRequest(LocalDate? On, string? Why);

/// <param name="Month">Any day of the month.</param>
public sealed record CloseMonthRequest(LocalDate? Month);

public sealed record ReopenMonthRequest(LocalDate? Month, string? Why);

/// <param name="Code">Four digits; fixed once created.</param>
/// <param name="Parent">Its parent account.</param>
public sealed record AccountRequest(string? Code, string? Name, AccountKind? Kind, string? Parent);

public sealed record ChangeAccountRequest(string? Name, bool Inactive);

/// <summary>Manual bookkeeping: journal entries, months, accounts.</summary>
public static class LedgerCommands
{
    public static async Task<Outcome<EntryHead>> Post(CommandContext w, JournalRequest request)
    {
        var validation = new Validation();
        validation.Date(request.PostedOn, w.Today, "postedOn", "The date", required: false);
        var on = request.PostedOn ?? w.Today;
        await LedgerStore.CheckOpen(w.Db, on, validation, "postedOn");
        var lines = (request.Lines ?? [])
            .Select(l => new JournalLine(
                l?.Account,
                l?.Debit,
                l?.Credit,
                new Dimensions(l?.LoadId, l?.CustomerId, DriverId: l?.DriverId, TruckId: l?.TruckId)
            ))
            .ToList();
        for (var i = 0; i < Math.Min(lines.Count, Journal.MaxLines); i++)
        {
            foreach (
                var (kind, id, field) in new[]
                {
                    (RecordKind.Load, lines[i].For.LoadId, "loadId"),
                    (RecordKind.Company, lines[i].For.CustomerId, "customerId"),
                    (RecordKind.Driver, lines[i].For.DriverId, "driverId"),
                    (RecordKind.Truck, lines[i].For.TruckId, "truckId"),
                }
            )
            {
                if (id is { } key && !await Records.Exists(w.Db, kind, key))
                {
                    validation.Add("unknown", "The load, driver, truck or company on this line was not found.", $"lines[{i}].{field}");
                }
            }
        }

        var entry = Journal.Draft(on, request.Memo, lines, await LedgerStore.Chart(w.Db));
        validation.AddRange(entry.Problems);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var posted = await LedgerStore.Post(w, entry.Value);
        w.Record(EventKinds.EntryPosted, posted, $"Entry {posted} posted, {Money.Usd(entry.Value.Total).Formatted}: {entry.Value.Memo}");
        return (await LedgerStore.Head(w.Db, posted))!;
    }

    /// <summary>Reverses a manual journal entry. Entries made by documents are reversed with their document.</summary>
    public static async Task<Outcome<EntryHead>> Reverse(CommandContext w, long entryId, ReverseRequest request)
    {
        if (await LedgerStore.Head(w.Db, entryId, locked: true) is not { } entry)
        {
            return Problem.Missing("This journal entry");
        }

        var validation = new Validation();
        var why = validation.Text(request.Why, "why", "The reason for the reversal", 160, required: true);
        validation.Date(request.On, w.Today, "on", "The date", required: false);
        var on = request.On ?? w.Today;
        await LedgerStore.CheckOpen(w.Db, on, validation, "on");
        if (entry.Source != EntrySource.Journal)
        {
            validation.Add(
                "entry.document",
                "This entry was posted by an invoice, payment, bill, settlement or advance: void or reverse that, and this entry is reversed with it."
            );
        }
        else if (entry.Reversed)
        {
            validation.Add("entry.reversed", $"Entry {entryId} is already reversed.");
        }
        else if (on < entry.PostedOn)
        {
            validation.Add("date.before", $"It was posted on {entry.PostedOn:MMM d, uuuu}: reverse it on that date or later.", "on");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var id = await LedgerStore.Reverse(w, entryId, EntrySource.Journal, 0, EntrySource.JournalReversal, on, why!);
        w.Record(EventKinds.EntryReversed, entryId, $"Entry {entryId} reversed by {id}: {why}");
        return (await LedgerStore.Head(w.Db, id))!;
    }

    public static async Task<Outcome<List<ClosedMonth>>> Close(CommandContext w, CloseMonthRequest request)
    {
        var validation = new Validation();
        validation.Date(request.Month, w.Today, "month", "The month");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var months = (await LedgerStore.Periods(w.Db)).Close(request.Month!.Value, await LedgerStore.FirstDay(w.Db) ?? w.Today, w.Today);
        if (!months.Ok)
        {
            return months.Problems;
        }

        foreach (var month in months.Value)
        {
            await AccrueWages(w, month);
            await EquipmentCommands.Depreciate(w, month);
            await EquipmentCommands.AccrueInterest(w, month);
            await EscrowInterest(w, month);
            await ExchangeCommands.Remeasure(w, month);
        }

        await LedgerStore.Close(w, months.Value);
        w.Record(EventKinds.PeriodClosed, 0, $"The books are closed through {BookPeriods.MonthOf(request.Month.Value):MMMM uuuu}");
        return await LedgerStore.Closings(w.Db);
    }

    /// <summary>Drivers' wages for days of a month whose settlements post after it: on its last day, and back on the first of the
    /// next.</summary>
    private static async Task AccrueWages(CommandContext w, LocalDate month)
    {
        var last = month.With(DateAdjusters.EndOfMonth);
        var earned = new List<(long DriverId, Money Earned)>();
        foreach (var driver in await FleetStore.Drivers(w.Db))
        {
            var from = DriverSettlement.MondayOf(month);
            var facts = await SettlementStore.Facts(w.Db, driver.Id, from, last, w.Zone, w.Now, settledAfter: last);
            var agreement = await SettlementStore.Agreement(w.Db, driver.Id);
            earned.Add((driver.Id, WageAccrual.Earned(last, agreement, facts.Legs, facts.DaysOut, facts.Items, facts.Approved)));
        }

        await LedgerStore.Post(w, Postings.WagesAccrued(month, earned.Where(e => e.Earned.Amount > 0).ToList()));
    }

    /// <summary>Interest on owner-operators' escrow, with the last month of a quarter.</summary>
    private static async Task EscrowInterest(CommandContext w, LocalDate month)
    {
        var percent = (await CompanySettingsStore.Read(w.Db)).EscrowPercent;
        if (percent == 0 || !Escrow.PaysInterest(month))
        {
            return;
        }

        var last = month.With(DateAdjusters.EndOfMonth);
        var earned = (await SettlementStore.EscrowMoves(w.Db, last))
            .Select(d => (DriverId: d.Key, Amount: Escrow.Interest(d.ToList(), Escrow.QuarterOf(month), last, percent)))
            .Where(d => d.Amount.Amount > 0)
            .ToList();
        await LedgerStore.Post(w, Postings.EscrowInterest(month, earned));
    }

    public static async Task<Outcome<List<ClosedMonth>>> Reopen(CommandContext w, ReopenMonthRequest request)
    {
        var validation = new Validation();
        validation.Date(request.Month, w.Today, "month", "The month");
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var months = (await LedgerStore.Periods(w.Db)).Reopen(request.Month!.Value, request.Why);
        if (!months.Ok)
        {
            return months.Problems;
        }

        await LedgerStore.Reopen(w, months.Value, request.Why!.Trim());
        foreach (var month in months.Value)
        {
            await EquipmentStore.Undepreciate(w, month);
            foreach (
                var (source, what) in new[]
                {
                    (EntrySource.WageAccrual, "Wages accrued"),
                    (EntrySource.InterestAccrual, "Interest accrued"),
                    (EntrySource.EscrowInterest, "Escrow interest"),
                    (EntrySource.Remeasurement, "Canadian dollars at the rate"),
                    (EntrySource.Depreciation, "Depreciation"),
                }
            )
            {
                await LedgerStore.Reverse(w, source, WageAccrual.Key(month), source, $"{what} for {month:MMMM uuuu}: month reopened");
            }
        }

        w.Record(
            EventKinds.PeriodReopened,
            0,
            $"The books for {string.Join(", ", months.Value.Select(m => $"{m:MMMM uuuu}"))} were reopened: {request.Why.Trim()}"
        );
        return await LedgerStore.Closings(w.Db);
    }

    public static async Task<Outcome<Account>> AddAccount(CommandContext w, AccountRequest request)
    {
        await LedgerStore.LockChart(w);
        var account = ChartOfAccounts.Add(request.Code, request.Name, request.Kind, request.Parent, await LedgerStore.Chart(w.Db));
        if (account.Ok)
        {
            await LedgerStore.AddAccount(w.Db, account.Value);
            w.Record(
                EventKinds.SetupAccountAdded,
                long.Parse(account.Value.Code),
                $"Account {account.Value.Code} {account.Value.Name} added"
            );
        }

        return account;
    }

    /// <summary>Renames an account, or deactivates it. Its entries stay.</summary>
    public static async Task<Outcome<Account>> ChangeAccount(CommandContext w, string code, ChangeAccountRequest request)
    {
        await LedgerStore.LockChart(w);
        var chart = await LedgerStore.Chart(w.Db);
        if (chart.FirstOrDefault(a => a.Code == code) is not { } before)
        {
            return Problem.Missing("This account");
        }

        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "The name", 60) ?? before.Name;
        if (chart.Any(a => a.Code != code && string.Equals(a.Name, name, StringComparison.OrdinalIgnoreCase)))
        {
            validation.Add("name.taken", $"There is already an account named {name}.", "name");
        }

        if (request.Inactive && before.Needed)
        {
            validation.Add("account.needed", $"{before.Name} is used by automatic postings: it cannot be deactivated.", "inactive");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var account = before with { Name = name, Inactive = request.Inactive };
        await LedgerStore.ChangeAccount(w, account);
        w.Record(
            EventKinds.SetupAccountChanged,
            long.Parse(code),
            $"Account {code} {before.Name} {(request.Inactive ? "deactivated" : $"renamed {name}")}",
            before: before
        );
        return account;
    }
}
