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
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Paying;

public sealed record AdvanceRequest(long? DriverId, LocalDate? IssuedOn, Money? Amount, string? Note);

public sealed record SettlementRequest(long? DriverId, LocalDate? Monday);

/// <param name="Hours">For hours.</param>
/// <param name="Amount">For anything else.</param>
/// <param name="Account">The expense account of a reimbursement or the account of a deduction; the usual one when omitted.</param>
public sealed record PayItemRequest(
    long? DriverId,
    PayItemKind? Kind,
    LocalDate? On,
    string? What,
    decimal? Hours,
    Money? Amount,
    string? Account,
    long? LoadId
);

/// <param name="From">The first day it is in force; today when omitted.</param>
public sealed record PayRateRequest(PayKind? Kind, decimal? Rate, LocalDate? From);

public sealed record RecurringDeductionRequest(
    string? Name,
    Money? Amount,
    string? Account,
    LocalDate? From,
    LocalDate? Until,
    Money? UpTo = null
);

/// <summary>A driver's pay rates.</summary>
/// <param name="Escrow">Its changes, oldest first; empty without any.</param>
public sealed record AgreementView(
    long DriverId,
    string Driver,
    IReadOnlyList<PayRate> Rates,
    IReadOnlyList<RecurringDeduction> Recurring,
    IReadOnlyList<EscrowLine> Escrow
);

/// <summary>A driver settlement as the driver and the bookkeeper see it.</summary>
/// <param name="EmployerTax">Employer payroll tax on it; not part of the pay.</param>
/// <param name="Items">Pay items that can be removed.</param>
/// <param name="Settlement">Null until approved; until then the figures change.</param>
public sealed record SettlementView(
    long DriverId,
    string Driver,
    LocalDate Monday,
    LocalDate PayDay,
    IReadOnlyList<PayLine> Lines,
    IReadOnlyList<Reimbursement> Reimbursements,
    IReadOnlyList<Deduction> Deductions,
    Money Earned,
    Money Reimbursed,
    Money Deducted,
    Money CarriedOver,
    Money Net,
    Money EmployerTax,
    int Miles,
    int DaysOut,
    int Legs,
    IReadOnlyList<AdvanceRow> Advances,
    IReadOnlyList<PayItemRow> Items,
    SettlementRow? Settlement,
    bool Ended
);

/// <summary>Driver settlements.</summary>
public static class SettlementCommands
{
    public static async Task<Outcome<AdvanceRow>> IssueAdvance(CommandContext w, AdvanceRequest request)
    {
        var validation = new Validation();
        var note = validation.Text(request.Note, "note", "The note", 200);
        validation.Dollars(request.Amount, "amount", "The amount of the advance");
        validation.Date(request.IssuedOn, w.Today, "issuedOn", "The date", required: false);
        var driver = await Driver(w, request.DriverId, validation);
        await BillCommands.CheckLimit(w, SoleMoney.Advance, request.Amount, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var on = request.IssuedOn ?? w.Today;
        var amount = Money.Usd(request.Amount!.Value.Amount);
        var id = await SettlementStore.AddAdvance(w, driver!.Id, on, amount, note);
        await LedgerStore.Post(w, Postings.AdvanceIssued(await LedgerStore.PostingDay(w, on), driver.Name, id, driver.Id, amount));
        w.Record(EventKinds.AdvanceIssued, driver.Id, $"Advance of {amount.Formatted} issued to {driver.Name}", driverId: driver.Id);
        return new AdvanceRow(id, driver.Id, on, amount, Money.Zero(), note);
    }

    /// <summary>Voids an advance that was entered by mistake or given back, before a settlement deducts it.</summary>
    public static async Task<Outcome<AdvanceRow>> VoidAdvance(CommandContext w, long id)
    {
        if (await SettlementStore.Advance(w.Db, id) is not var (advance, state))
        {
            return Problem.Missing("This advance");
        }

        if (state.VoidRefusal is { } refused)
        {
            return refused;
        }

        var driver = (await FleetStore.Driver(w.Db, advance.DriverId))!;
        await SettlementStore.VoidAdvance(w, id);
        await LedgerStore.Reverse(w, EntrySource.Advance, id, EntrySource.Advance, $"Advance to {driver.Name} void");
        w.Record(
            EventKinds.AdvanceVoid,
            advance.DriverId,
            $"Advance of {advance.Amount.Formatted} to {driver.Name} voided",
            driverId: advance.DriverId
        );
        return advance;
    }

    /// <summary>Adds hours, extra pay, a reimbursement or a deduction to a driver's pay.</summary>
    public static async Task<Outcome<PayItemRow>> AddItem(CommandContext w, PayItemRequest request)
    {
        var validation = new Validation();
        var driver = await Driver(w, request.DriverId, validation);
        var item = new PayItemOrder(
            request.Kind,
            request.What,
            request.On,
            request.Hours,
            request.Amount,
            request.Account,
            request.LoadId
        ).Check(await LedgerStore.Chart(w.Db), w.Today, validation);
        if (request.LoadId is { } load && !await Records.Exists(w.Db, RecordKind.Load, load))
        {
            validation.Add("unknown", "This load was not found.", "loadId");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        if (item!.RateRefusal(driver!.Name, await SettlementStore.Agreement(w.Db, driver.Id)) is { } refused)
        {
            return refused;
        }

        var id = await SettlementStore.AddItem(w, driver.Id, item);
        var row = (await SettlementStore.OpenItems(w.Db, driver.Id, item.On)).First(i => i.Id == id);
        w.Record(EventKinds.PayItemAdded, driver.Id, $"{Format(row)} added for {driver.Name}", driverId: driver.Id, loadId: request.LoadId);
        return row;
    }

    public static async Task<Outcome<PayItemRow>> VoidItem(CommandContext w, long itemId)
    {
        if (await TripExpenseStore.TripOf(w.Db, null, itemId) is { } trip)
        {
            return new Problem("expense.item", $"This comes from an expense on trip {trip}: reopen or remove the expense there.");
        }

        if (await SettlementStore.VoidItem(w, itemId) is not { } row)
        {
            return new Problem("not.found", "This item was not found, or an approved settlement includes it.");
        }

        w.Record(EventKinds.PayItemRemoved, row.DriverId, $"{Format(row)} removed", driverId: row.DriverId);
        return row;
    }

    public static async Task<AgreementView?> Agreement(NpgsqlConnection db, long driverId) =>
        await FleetStore.Driver(db, driverId) is { } driver
            ? new AgreementView(
                driverId,
                driver.Name,
                (await SettlementStore.Agreement(db, driverId)).Rates.OrderBy(r => r.Kind).ThenByDescending(r => r.From).ToList(),
                await SettlementStore.Recurring(db, driverId),
                await SettlementStore.EscrowLines(db, driverId)
            )
            : null;

    /// <summary>Sets a pay rate from a date on. Approved settlements stay as they are.</summary>
    public static async Task<Outcome<AgreementView>> SetRate(CommandContext w, long driverId, PayRateRequest request)
    {
        var validation = new Validation();
        var driver = await Driver(w, driverId, validation);
        var set = new PayRateOrder(request.Kind, request.Rate, request.From).Check(w.Today, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var before = (await SettlementStore.Agreement(w.Db, driverId)).At(set!.Kind, set.From);
        await SettlementStore.SetRate(w.Db, driverId, set, w.Actor.UserId, w.Now);
        await LegCosts.OfDriver(w, driverId);
        w.Record(
            EventKinds.PayRateSet,
            driverId,
            $"{driver!.Name}: {set.Rate:0.00##} {DriverAgreement.Format(set.Kind)} from {set.From:MMM d, uuuu}, previously {before:0.00##}",
            driverId: driverId,
            before: new { rate = before }
        );
        return (await Agreement(w.Db, driverId))!;
    }

    public static async Task<Outcome<AgreementView>> AddRecurring(CommandContext w, long driverId, RecurringDeductionRequest request)
    {
        var validation = new Validation();
        var driver = await Driver(w, driverId, validation);
        var deduction = new RecurringDeductionOrder(
            request.Name,
            request.Amount,
            request.Account,
            request.From,
            request.Until,
            request.UpTo
        ).Check(await LedgerStore.Chart(w.Db), w.Today, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await SettlementStore.AddRecurring(w.Db, driverId, deduction!);
        w.Record(
            EventKinds.PayDeductionSet,
            driverId,
            $"{driver!.Name}: recurring deduction of {deduction!.Amount.Formatted} per week for {deduction.Name}",
            driverId: driverId
        );
        return (await Agreement(w.Db, driverId))!;
    }

    /// <summary>Ends a recurring deduction with the week before this one.</summary>
    public static async Task<Outcome<AgreementView>> EndRecurring(CommandContext w, long driverId, long id)
    {
        if (await SettlementStore.EndRecurring(w.Db, driverId, id, DriverSettlement.MondayOf(w.Today).PlusDays(-1)) == 0)
        {
            return new Problem("not.found", "This deduction was not found, or it has ended.");
        }

        w.Record(EventKinds.PayDeductionEnded, driverId, "A recurring deduction ended", driverId: driverId);
        return (await Agreement(w.Db, driverId))!;
    }

    /// <summary>A driver's settlement as it was approved, or as it stands.</summary>
    internal static async Task<(SettlementRow? Row, SettlementStatement Week)> Statement(
        NpgsqlConnection db,
        long driverId,
        LocalDate monday,
        Instant now,
        DateTimeZone zone
    ) =>
        await SettlementStore.OfWeek(db, driverId, monday) is { } settlement
            ? (settlement, await SettlementStore.Approved(db, settlement))
            : (null, await Calculate(db, driverId, monday, now, zone));

    public static async Task<SettlementView?> Week(NpgsqlConnection db, long driverId, LocalDate monday, Instant now, DateTimeZone zone)
    {
        if (await FleetStore.Driver(db, driverId) is not { } driver)
        {
            return null;
        }

        var (settlement, week) = await Statement(db, driverId, monday, now, zone);
        return new SettlementView(
            driver.Id,
            driver.Name,
            week.Monday,
            week.PayDay,
            week.Lines,
            week.Reimbursements,
            week.Deductions,
            week.Earned,
            week.Reimbursed,
            week.Deducted,
            week.CarriedOver,
            week.Net,
            week.EmployerTax,
            week.Miles,
            week.DaysOut,
            week.Legs.Count(),
            await SettlementStore.Advances(db, driverId, monday, monday.PlusDays(6)),
            settlement is null ? await SettlementStore.OpenItems(db, driverId, monday.PlusDays(6)) : [],
            settlement,
            now.InZone(zone).Date > monday.PlusDays(6)
        );
    }

    /// <summary>Every driver's settlement of a week in which they have anything.</summary>
    /// <param name="day">A day of the week; of last week when null.</param>
    public static async Task<List<SettlementView>> OfWeek(NpgsqlConnection db, LocalDate? day, Instant now, DateTimeZone zone)
    {
        var monday = DriverSettlement.MondayOf(day ?? now.InZone(zone).Date.PlusDays(-7));
        var weeks = new List<SettlementView>();
        foreach (var driver in await FleetStore.Drivers(db))
        {
            var week = (await Week(db, driver.Id, monday, now, zone))!;
            if (week.Lines.Count + week.Reimbursements.Count + week.Deductions.Count + week.Advances.Count > 0)
            {
                weeks.Add(week);
            }
        }

        return weeks;
    }

    public static async Task<Outcome<SettlementRow>> Approve(CommandContext w, SettlementRequest request)
    {
        var validation = new Validation();
        var monday = SettlementState.CheckWeek(request.Monday, w.Today, validation);
        var driver = await Driver(w, request.DriverId, validation, locked: true);
        if (validation.Ok && await SettlementStore.OfWeek(w.Db, driver!.Id, monday) is not null)
        {
            validation.Add("settlement.approved", $"{driver.Name}'s settlement is already approved.", "monday");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var week = await Calculate(w.Db, driver!.Id, monday, w.Now, w.Zone);
        if (week.IsEmpty)
        {
            return new Problem("settlement.empty", $"{driver.Name} has no earnings in this settlement.", "monday");
        }

        var (id, carried) = await SettlementStore.Add(w, driver.Id, week);
        if (week.Posts)
        {
            var on = await LedgerStore.PostingDay(w, monday.PlusDays(6));
            await LedgerStore.Post(w, Postings.SettlementApproved(on, driver.Name, id, driver.Id, week, carried));
        }

        await SettleLoads(w, week);
        w.Record(
            EventKinds.SettlementApproved,
            id,
            $"{driver.Name}'s settlement for the week of {monday:MMM d} approved for {week.Net.Formatted}"
                + (week.CarriedOver.Amount > 0 ? $", {week.CarriedOver.Formatted} carried over" : ""),
            driverId: driver.Id
        );
        return (await SettlementStore.Get(w.Db, id))!;
    }

    public static Task<Outcome<SettlementRow>> Pay(CommandContext w, long settlementId, PayoutRequest request) =>
        Step(
            w,
            settlementId,
            s => s.PayRefusal,
            async week =>
            {
                var validation = new Validation();
                var payout = await BillCommands.ReadPayout(w, request, validation, week.ApprovedById);
                if (!validation.Ok)
                {
                    return validation.Problems;
                }

                await SettlementStore.Pay(w, settlementId, payout);
                if (week.Net.Amount > 0)
                {
                    var on = await OpenItemStore.FirstDay(w, Accounts.WagesPayable, settlementId, payout.On, week.Net);
                    await LedgerStore.Post(w, Postings.SettlementPaid(on, week.Driver, settlementId, week.DriverId, week.Net));
                }

                w.Record(
                    EventKinds.SettlementPaid,
                    settlementId,
                    $"{week.Driver} paid {week.Net.Formatted} by {payout.Method}",
                    driverId: week.DriverId
                );
                return Problems.None;
            }
        );

    /// <summary>Reverses a settlement payment that was entered by mistake or returned: the settlement is open again.</summary>
    public static Task<Outcome<SettlementRow>> Unpay(CommandContext w, long settlementId) =>
        Step(
            w,
            settlementId,
            s => s.UnpayRefusal,
            async week =>
            {
                await SettlementStore.Unpay(w, settlementId);
                await Reverse(w, EntrySource.SettlementPayment, settlementId, $"Payment to {week.Driver} reversed");
                w.Record(
                    EventKinds.SettlementPaymentReversed,
                    settlementId,
                    $"Payment of {week.Net.Formatted} to {week.Driver} reversed",
                    driverId: week.DriverId,
                    before: new
                    {
                        week.PaidOn,
                        week.PaidMethod,
                        week.PaidReference,
                        week.PaidBy,
                    }
                );
                return Problems.None;
            }
        );

    /// <summary>Reverses a settlement's approval before it is paid: its contents are open again and can be approved again.</summary>
    public static async Task<Outcome<SettlementView>> Unapprove(CommandContext w, long settlementId)
    {
        var reversed = await Step(
            w,
            settlementId,
            s => s.UnapproveRefusal,
            async week =>
            {
                await SettlementStore.Unapprove(w, settlementId);
                await Reverse(w, EntrySource.Settlement, settlementId, $"{week.Driver}, week of {week.Monday:MMM d}: approval reversed");
                w.Record(
                    EventKinds.SettlementApprovalReversed,
                    settlementId,
                    $"Approval of {week.Driver}'s settlement for the week of {week.Monday:MMM d}, {week.Net.Formatted}, reversed",
                    driverId: week.DriverId,
                    before: new
                    {
                        week.ApprovedBy,
                        week.ApprovedAt,
                        week.Net,
                    }
                );
                return Problems.None;
            }
        );
        return reversed.Ok ? (await Week(w.Db, reversed.Value.DriverId, reversed.Value.Monday, w.Now, w.Zone))! : reversed.Problems;
    }

    /// <summary>A step in a settlement's life: locks it, asks Core whether it may, does it, and settles its loads.</summary>
    private static async Task<Outcome<SettlementRow>> Step(
        CommandContext w,
        long settlementId,
        Func<SettlementState, Problem?> refusal,
        Func<SettlementRow, Task<Problems>> act
    )
    {
        if (await SettlementStore.Get(w.Db, settlementId) is not { } week)
        {
            return Problem.Missing("This settlement");
        }

        if (refusal(week.State) is { } refused)
        {
            return refused;
        }

        var statement = await SettlementStore.Approved(w.Db, week);
        var problems = await act(week);
        if (problems.Any)
        {
            return problems;
        }

        await SettleLoads(w, statement);
        return await SettlementStore.Get(w.Db, settlementId) ?? week;
    }

    private static Task Reverse(CommandContext w, EntrySource source, long settlementId, string why) =>
        LedgerStore.Reverse(w, source, settlementId, source, why);

    /// <summary>The driver acknowledges their approved settlement.</summary>
    public static async Task<Outcome<SettlementRow>> Seen(CommandContext w, long driverId, LocalDate monday)
    {
        if (await SettlementStore.Seen(w, driverId, monday) == 0)
        {
            return new Problem("not.found", "This settlement is not approved yet.", "monday");
        }

        var row = (await SettlementStore.OfWeek(w.Db, driverId, monday))!;
        w.Record(
            EventKinds.SettlementAcknowledged,
            row.Id,
            $"{w.Actor.Name} acknowledged the settlement for the week of {monday:MMM d}",
            driverId: driverId
        );
        return row;
    }

    private static async Task<SettlementStatement> Calculate(
        NpgsqlConnection db,
        long driverId,
        LocalDate monday,
        Instant now,
        DateTimeZone zone
    )
    {
        var facts = await SettlementStore.Facts(db, driverId, monday, monday.PlusDays(6), zone, now);
        return DriverSettlement.Settle(
            monday,
            await SettlementStore.Agreement(db, driverId),
            facts.Legs,
            facts.DaysOut,
            facts.Advances,
            facts.Items,
            facts.Recurring,
            facts.Approved,
            facts.Payroll
        );
    }

    private static async Task SettleLoads(CommandContext w, SettlementStatement week)
    {
        foreach (var load in week.Lines.Where(l => l.LegId is not null).Select(l => l.LoadId!.Value).Distinct())
        {
            await LoadWrites.Settle(w, load);
        }
    }

    private static async Task<DriverRow?> Driver(CommandContext w, long? id, Validation validation, bool locked = false)
    {
        var driver = id is { } d ? await FleetStore.Driver(w.Db, d, locked) : null;
        if (driver is null)
        {
            validation.Add("missing", "Choose a driver.", "driverId");
        }

        return driver;
    }

    private static string Format(PayItemRow row) =>
        row.Kind switch
        {
            PayItemKind.Hours => $"{row.Hours:0.##} hours, {row.What},",
            PayItemKind.Reimbursement => $"reimbursement of {row.Amount!.Value.Formatted} for {row.What}",
            PayItemKind.Deduction => $"deduction of {row.Amount!.Value.Formatted} for {row.What}",
            _ => $"{row.Amount!.Value.Formatted} for {row.What}",
        };
}
