using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

public sealed record AdvanceRequest(long? DriverId, LocalDate? IssuedOn, Money? Amount, string? Note);

public sealed record SettlementRequest(long? DriverId, LocalDate? Monday);

/// <param name="Hours">For hours.</param>
/// <param name="Amount">For anything else.</param>
/// <param name="Account">The expense account of a reimbursement or the account of a deduction; the usual one when omitted.</param>
public sealed record PayItemRequest(long? DriverId, PayItemKind? Kind, LocalDate? On, string? What, decimal? Hours, Money? Amount, string? Account, long? LoadId);

/// <param name="From">The first day it is in force; today when omitted.</param>
public sealed record PayRateRequest(PayKind? Kind, decimal? Rate, LocalDate? From);

public sealed record RecurringDeductionRequest(string? Name, Money? Amount, string? Account, LocalDate? From, LocalDate? Until);

/// <summary>A driver's pay rates.</summary>
public sealed record AgreementView(long DriverId, string Driver, IReadOnlyList<PayRate> Rates, IReadOnlyList<RecurringDeduction> Recurring);

/// <summary>A driver settlement as the driver and the bookkeeper see it.</summary>
/// <param name="Items">Pay items that can be removed.</param>
/// <param name="Settlement">Null until approved; until then the figures change.</param>
public sealed record SettlementView(
    long DriverId, string Driver, LocalDate Monday, LocalDate PayDay, IReadOnlyList<PayLine> Lines, IReadOnlyList<Reimbursement> Reimbursements, IReadOnlyList<Deduction> Deductions,
    Money Earned, Money Reimbursed, Money Deducted, Money CarriedOver, Money Net, int Miles, int DaysOut, int Legs, IReadOnlyList<AdvanceRow> Advances, IReadOnlyList<PayItemRow> Items, SettlementRow? Settlement, bool Ended);

/// <summary>Driver settlements.</summary>
public static class SettlementCommands
{
    public static async Task<Outcome<AdvanceRow>> IssueAdvance(CommandContext w, AdvanceRequest request)
    {
        var validation = new Validation();
        var note = validation.Text(request.Note, "note", "The note", 200);
        validation.Dollars(request.Amount, "amount", "The amount of the advance");
        validation.Date(request.IssuedOn, w.Today, "issuedOn", "The date", required: false);
        await LedgerStore.CheckOpen(w.Db, request.IssuedOn ?? w.Today, validation, "issuedOn");
        var driver = await Driver(w, request.DriverId, validation);
        await BillCommands.CheckLimit(w, SoleMoney.Advance, request.Amount, validation);
        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var on = request.IssuedOn ?? w.Today;
        var amount = Money.Usd(request.Amount!.Value.Amount);
        var id = await SettlementStore.AddAdvance(w, driver!.Id, on, amount, note);
        await LedgerStore.Post(w, Postings.AdvanceIssued(on, driver.Name, id, driver.Id, amount));
        await Events.Add(w, EventKinds.AdvanceIssued, driver.Id, $"Advance of {amount.Formatted} issued to {driver.Name}", driverId: driver.Id);
        return new AdvanceRow(id, driver.Id, on, amount, Money.Zero(), note);
    }

    /// <summary>Adds hours, extra pay, a reimbursement or a deduction to a driver's pay.</summary>
    public static async Task<Outcome<PayItemRow>> AddItem(CommandContext w, PayItemRequest request)
    {
        var validation = new Validation();
        var driver = await Driver(w, request.DriverId, validation);
        var what = validation.Text(request.What, "what", "What it is for", 120, required: true);
        validation.Date(request.On, w.Today, "on", "The date", required: false);
        var on = request.On ?? w.Today;
        var isHours = request.Kind == PayItemKind.Hours;
        if (request.Kind is null)
        {
            validation.Add("missing", "Choose a type: hours, extra pay, reimbursement or deduction.", "kind");
        }
        else if (isHours && (request.Hours is not { } h || h <= 0 || h > 24 || decimal.Round(h, 2) != h))
        {
            validation.Add("hours", "Hours must be more than 0 and at most 24, with up to two decimal places.", "hours");
        }
        else if (!isHours)
        {
            validation.Dollars(request.Amount, "amount", "The amount");
        }

        var chart = await LedgerStore.Chart(w.Db);
        var account = request.Kind switch
        {
            PayItemKind.Reimbursement => request.Account ?? Accounts.DriverReimbursements.Code,
            PayItemKind.Deduction => request.Account ?? Accounts.Withheld.Code,
            _ => null,
        };
        if (account is not null && ChartOfAccounts.Refuses(account, "account", chart) is { } refused)
        {
            validation.AddRange([refused]);
        }

        if (request.LoadId is { } load && !await w.Db.Has("loads", load))
        {
            validation.Add("unknown", "This load was not found.", "loadId");
        }

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        if (isHours && (await SettlementStore.Agreement(w.Db, driver!.Id)).At(PayKind.PerHour, on) == 0)
        {
            return new Problem("rate.none", $"{driver.Name} has no hourly rate on {on:MMM d}: add one to the pay rates first.", "hours");
        }

        var id = await SettlementStore.AddItem(w, driver!.Id, new PayItem(0, request.Kind!.Value, on, what!, isHours ? request.Hours : null, isHours ? null : request.Amount, account, request.LoadId));
        var row = (await SettlementStore.OpenItems(w.Db, driver.Id, on)).First(i => i.Id == id);
        await Events.Add(w, EventKinds.PayItemAdded, driver.Id, $"{Format(row)} added for {driver.Name}", driverId: driver.Id, loadId: request.LoadId);
        return row;
    }

    public static async Task<Outcome<PayItemRow>> VoidItem(CommandContext w, long itemId)
    {
        if (await SettlementStore.VoidItem(w, itemId) is not { } row)
        {
            return new Problem("not.found", "This item was not found, or an approved settlement includes it.");
        }

        await Events.Add(w, EventKinds.PayItemRemoved, row.DriverId, $"{Format(row)} removed", driverId: row.DriverId);
        return row;
    }

    public static async Task<AgreementView?> Agreement(NpgsqlConnection db, long driverId) =>
        await FleetStore.Driver(db, driverId) is { } driver
            ? new AgreementView(driverId, driver.Name, (await SettlementStore.Agreement(db, driverId)).Rates.OrderBy(r => r.Kind).ThenByDescending(r => r.From).ToList(), await SettlementStore.Recurring(db, driverId))
            : null;

    /// <summary>Sets a pay rate from a date on. Approved settlements stay as they are.</summary>
    public static async Task<Outcome<AgreementView>> SetRate(CommandContext w, long driverId, PayRateRequest request)
    {
        var validation = new Validation();
        var driver = await Driver(w, driverId, validation);
        validation.Date(request.From, w.Today, "from", "The start date", required: false);
        if (request.Kind is not { } kind)
        {
            validation.Add("missing", "Choose a pay type: per mile, per load, per hour …", "kind");
        }
        else if (request.Rate is not { } rate || rate < 0 || rate > DriverAgreement.MaxRate(kind) || decimal.Round(rate, 4) != rate)
        {
            validation.Add("rate", $"The rate {DriverAgreement.Format(kind)} must be between 0 and {DriverAgreement.MaxRate(kind):#,##0}, with up to four decimal places.", "rate");
        }

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var set = new PayRate(request.Kind!.Value, request.Rate!.Value, request.From ?? w.Today);
        var before = (await SettlementStore.Agreement(w.Db, driverId)).At(set.Kind, set.From);
        await SettlementStore.SetRate(w.Db, driverId, set, w.Actor.UserId, w.Now);
        await LegPay.OfDriver(w.Db, driverId);
        await Events.Add(w, EventKinds.PayRateSet, driverId, $"{driver!.Name}: {set.Rate:0.00##} {DriverAgreement.Format(set.Kind)} from {set.From:MMM d, uuuu}, previously {before:0.00##}", driverId: driverId, before: new { rate = before });
        return (await Agreement(w.Db, driverId))!;
    }

    public static async Task<Outcome<AgreementView>> AddRecurring(CommandContext w, long driverId, RecurringDeductionRequest request)
    {
        var validation = new Validation();
        var driver = await Driver(w, driverId, validation);
        var name = validation.Text(request.Name, "name", "What it is for", 60, required: true);
        validation.Dollars(request.Amount, "amount", "The weekly amount");
        validation.Date(request.From, w.Today, "from", "The start date", required: false);
        validation.Date(request.Until, w.Today, "until", "The end date", required: false);
        var from = request.From ?? w.Today;
        if (request.Until < from)
        {
            validation.Add("order", "The end date must be after the start date.", "until");
        }

        var account = string.IsNullOrWhiteSpace(request.Account) ? Accounts.Withheld.Code : request.Account.Trim();
        if (ChartOfAccounts.Refuses(account, "account", await LedgerStore.Chart(w.Db)) is { } refused)
        {
            validation.AddRange([refused]);
        }

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        await SettlementStore.AddRecurring(w.Db, driverId, new RecurringDeduction(0, name!, request.Amount!.Value, account, from, request.Until));
        await Events.Add(w, EventKinds.PayDeductionSet, driverId, $"{driver!.Name}: recurring deduction of {request.Amount.Value.Formatted} per week for {name}", driverId: driverId);
        return (await Agreement(w.Db, driverId))!;
    }

    /// <summary>Ends a recurring deduction with the week before this one.</summary>
    public static async Task<Outcome<AgreementView>> EndRecurring(CommandContext w, long driverId, long id)
    {
        if (await SettlementStore.EndRecurring(w.Db, driverId, id, DriverSettlement.MondayOf(w.Today).PlusDays(-1)) == 0)
        {
            return new Problem("not.found", "This deduction was not found, or it has ended.");
        }

        await Events.Add(w, EventKinds.PayDeductionEnded, driverId, "A recurring deduction ended", driverId: driverId);
        return (await Agreement(w.Db, driverId))!;
    }

    public static async Task<SettlementView?> Week(NpgsqlConnection db, long driverId, LocalDate monday, Instant now, DateTimeZone zone)
    {
        if (await FleetStore.Driver(db, driverId) is not { } driver)
        {
            return null;
        }

        var settlement = await SettlementStore.OfWeek(db, driverId, monday);
        var week = settlement is not null ? await SettlementStore.Approved(db, settlement) : await Calculate(db, driverId, monday, now, zone);
        return new SettlementView(
            driver.Id, driver.Name, week.Monday, week.PayDay, week.Lines, week.Reimbursements, week.Deductions, week.Earned, week.Reimbursed, week.Deducted, week.CarriedOver, week.Net, week.Miles, week.DaysOut,
            week.Legs.Count(), await SettlementStore.Advances(db, driverId, monday, monday.PlusDays(6)), settlement is null ? await SettlementStore.OpenItems(db, driverId, monday.PlusDays(6)) : [], settlement,
            now.InZone(zone).Date > monday.PlusDays(6));
    }

    public static async Task<Outcome<SettlementRow>> Approve(CommandContext w, SettlementRequest request)
    {
        var validation = new Validation();
        if (request.Monday is not { } monday || monday.DayOfWeek != IsoDayOfWeek.Monday)
        {
            validation.Add("settlement.monday", "Give the Monday of the settlement week.", "monday");
            monday = default;
        }
        else if (SettlementState.NotYet(monday, w.Today) is { } running)
        {
            validation.AddRange([running]);
        }
        else
        {
            await LedgerStore.CheckOpen(w.Db, monday.PlusDays(6), validation, "monday");
        }

        // One approval per driver at a time.
        await w.Db.Run("select 1 from drivers where id = @id for update", ("id", request.DriverId ?? 0));
        var driver = await Driver(w, request.DriverId, validation);
        if (validation.Ok && await SettlementStore.OfWeek(w.Db, driver!.Id, monday) is not null)
        {
            validation.Add("settlement.approved", $"{driver.Name}'s settlement is already approved.", "monday");
        }

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var week = await Calculate(w.Db, driver!.Id, monday, w.Now, w.Zone);
        if (week.IsEmpty)
        {
            return new Problem("settlement.empty", $"{driver.Name} has no earnings in this settlement.", "monday");
        }

        var id = await SettlementStore.Add(w, driver.Id, week);
        if (week.Earned.Amount + week.Reimbursed.Amount + week.Deducted.Amount > 0)
        {
            await LedgerStore.Post(w, Postings.SettlementApproved(monday.PlusDays(6), driver.Name, id, driver.Id, week));
        }

        await SettleLoads(w, week);
        await Events.Add(
            w, EventKinds.SettlementApproved, id, $"{driver.Name}'s settlement for the week of {monday:MMM d} approved for {week.Net.Formatted}" + (week.CarriedOver.Amount > 0 ? $", {week.CarriedOver.Formatted} carried over" : ""), driverId: driver.Id);
        return (await SettlementStore.Get(w.Db, id))!;
    }

    public static async Task<Outcome<SettlementRow>> Pay(CommandContext w, long settlementId, PayoutRequest request)
    {
        if (await SettlementStore.Get(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This settlement was not found.");
        }

        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        if (new SettlementState(driver.Name, week.PaidOn, Money.Zero()).PayRefusal is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        var (on, method, reference) = await BillCommands.ReadPayout(w, request, validation, week.ApprovedById);
        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        await SettlementStore.Pay(w, settlementId, on, method, reference);
        if (week.Net.Amount > 0)
        {
            await LedgerStore.Post(w, Postings.SettlementPaid(on, driver.Name, settlementId, driver.Id, week.Net));
        }

        await SettleLoads(w, await SettlementStore.Approved(w.Db, week));
        await Events.Add(w, EventKinds.SettlementPaid, settlementId, $"{driver.Name} paid {week.Net.Formatted} by {method}", driverId: driver.Id);
        return (await SettlementStore.Get(w.Db, settlementId))!;
    }

    /// <summary>Reverses a settlement payment that was entered by mistake or returned: the settlement is open again.</summary>
    public static async Task<Outcome<SettlementRow>> Unpay(CommandContext w, long settlementId)
    {
        if (await SettlementStore.Get(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This settlement was not found.");
        }

        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        if (new SettlementState(driver.Name, week.PaidOn, Money.Zero()).UnpayRefusal is { } refused)
        {
            return refused;
        }

        await SettlementStore.Unpay(w, settlementId);
        await LedgerStore.Reverse(w, EntrySource.SettlementPayment, settlementId, EntrySource.SettlementPayment, $"Payment to {driver.Name} reversed");
        await SettleLoads(w, await SettlementStore.Approved(w.Db, week));
        await Events.Add(
            w, EventKinds.SettlementPaymentReversed, settlementId, $"Payment of {week.Net.Formatted} to {driver.Name} reversed", driverId: driver.Id, before: new { week.PaidOn, week.PaidMethod, week.PaidReference, week.PaidBy });
        return (await SettlementStore.Get(w.Db, settlementId))!;
    }

    /// <summary>Reverses a settlement's approval before it is paid: its contents are open again and can be approved again.</summary>
    public static async Task<Outcome<SettlementView>> Unapprove(CommandContext w, long settlementId)
    {
        if (await SettlementStore.Get(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This settlement was not found, or its approval was reversed.");
        }

        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        if (new SettlementState(driver.Name, week.PaidOn, Money.Usd(await SettlementStore.DeductedCarryover(w.Db, settlementId))).UnapproveRefusal is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        await LedgerStore.CheckOpen(w.Db, week.Monday.PlusDays(6), validation, "monday");
        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var was = await SettlementStore.Approved(w.Db, week);
        await SettlementStore.Unapprove(w, settlementId);
        await LedgerStore.Reverse(w, EntrySource.Settlement, settlementId, EntrySource.Settlement, $"{driver.Name}, week of {week.Monday:MMM d}: approval reversed");
        await SettleLoads(w, was);
        await Events.Add(w, EventKinds.SettlementApprovalReversed, settlementId, $"Approval of {driver.Name}'s settlement for the week of {week.Monday:MMM d}, {week.Net.Formatted}, reversed", driverId: driver.Id, before: new { week.ApprovedBy, week.ApprovedAt, week.Net });
        return (await Week(w.Db, week.DriverId, week.Monday, w.Now, w.Zone))!;
    }

    /// <summary>The driver acknowledges their approved settlement.</summary>
    public static async Task<Outcome<SettlementRow>> Seen(CommandContext w, long driverId, LocalDate monday)
    {
        if (await SettlementStore.Seen(w, driverId, monday) == 0)
        {
            return new Problem("not.found", "This settlement is not approved yet.", "monday");
        }

        var row = (await SettlementStore.OfWeek(w.Db, driverId, monday))!;
        await Events.Add(w, EventKinds.SettlementAcknowledged, row.Id, $"{w.Actor.Name} acknowledged the settlement for the week of {monday:MMM d}", driverId: driverId);
        return row;
    }

    private static async Task<SettlementStatement> Calculate(NpgsqlConnection db, long driverId, LocalDate monday, Instant now, DateTimeZone zone)
    {
        var facts = await SettlementStore.Facts(db, driverId, monday, zone, now);
        return DriverSettlement.Settle(monday, await SettlementStore.Agreement(db, driverId), facts.Legs, facts.DaysOut, facts.Advances, facts.Items, facts.Recurring);
    }

    private static async Task SettleLoads(CommandContext w, SettlementStatement week)
    {
        foreach (var load in week.Lines.Where(l => l.LegId is not null).Select(l => l.LoadId!.Value).Distinct())
        {
            await LoadWrites.Settle(w.Db, load);
        }
    }

    private static async Task<DriverRow?> Driver(CommandContext w, long? id, Validation validation)
    {
        var driver = id is { } d ? await FleetStore.Driver(w.Db, d) : null;
        if (driver is null)
        {
            validation.Add("missing", "Choose a driver.", "driverId");
        }

        return driver;
    }

    private static string Format(PayItemRow row) => row.Kind switch
    {
        PayItemKind.Hours => $"{row.Hours:0.##} hours, {row.What},",
        PayItemKind.Reimbursement => $"reimbursement of {row.Amount!.Value.Formatted} for {row.What}",
        PayItemKind.Deduction => $"deduction of {row.Amount!.Value.Formatted} for {row.What}",
        _ => $"{row.Amount!.Value.Formatted} for {row.What}",
    };
}
