using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

public sealed record DrawRequest(long? DriverId, LocalDate? DrawnOn, Money? Amount, string? Note);

public sealed record WeekRequest(long? DriverId, LocalDate? Monday);

/// <param name="Hours">For hours.</param>
/// <param name="Amount">For anything else.</param>
/// <param name="Account">What a reimbursement is spent on or where a deduction goes; the usual account when left out.</param>
public sealed record PayItemRequest(long? DriverId, PayItemKind? Kind, LocalDate? On, string? What, decimal? Hours, Money? Amount, string? Account, long? LoadId);

/// <param name="From">The first day on which it stands; today when left out.</param>
public sealed record PayRateRequest(PayKind? Kind, decimal? Rate, LocalDate? From);

public sealed record StandingDeductionRequest(string? Name, Money? Amount, string? Account, LocalDate? From, LocalDate? Until);

/// <summary>What was agreed with a driver.</summary>
public sealed record AgreementView(long DriverId, string Driver, IReadOnlyList<PayRate> Rates, IReadOnlyList<StandingDeduction> Standing);

/// <summary>A driver's week as he and the payer see it.</summary>
/// <param name="Items">What is written into it and can be taken back.</param>
/// <param name="Settlement">Null until it is approved; until then the figures grow.</param>
public sealed record WeekView(
    long DriverId, string Driver, LocalDate Monday, LocalDate PayDay, IReadOnlyList<PayLine> Lines, IReadOnlyList<Reimbursement> Reimbursements, IReadOnlyList<Deduction> Deductions,
    Money Earned, Money Reimbursed, Money Deducted, Money CarriedOver, Money Net, int Miles, int DaysOut, int Legs, IReadOnlyList<DrawRow> Draws, IReadOnlyList<PayItemRow> Items, SettlementRow? Settlement, bool Ended);

/// <summary>Paying drivers.</summary>
public static class WeekCommands
{
    public static async Task<Outcome<DrawRow>> Draw(Work w, DrawRequest request)
    {
        var checks = new Checks();
        var note = checks.Text(request.Note, "note", "The note", 200);
        checks.Amount(request.Amount?.Amount, "amount", "The amount drawn");
        checks.Date(request.DrawnOn, w.Today, "drawnOn", "The date", required: false);
        await LedgerStore.CheckOpen(w.Db, request.DrawnOn ?? w.Today, checks, "drawnOn");
        var driver = await Driver(w, request.DriverId, checks);
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var on = request.DrawnOn ?? w.Today;
        var amount = Money.Usd(request.Amount!.Value.Amount);
        var id = await WeekStore.AddDraw(w, driver!.Id, on, amount, note);
        await LedgerStore.Post(w, Postings.DrawGiven(on, driver.Name, id, driver.Id, amount));
        await Events.Add(w, "draw.given", "driver", driver.Id, $"{driver.Name} drew {amount.Said} ahead", driverId: driver.Id);
        return new DrawRow(id, driver.Id, on, amount, Money.Zero(), note);
    }

    /// <summary>Writes hours, an extra, a reimbursement or a deduction into a driver's pay.</summary>
    public static async Task<Outcome<PayItemRow>> AddItem(Work w, PayItemRequest request)
    {
        var checks = new Checks();
        var driver = await Driver(w, request.DriverId, checks);
        var what = checks.Text(request.What, "what", "What it is for", 120, required: true);
        checks.Date(request.On, w.Today, "on", "The date", required: false);
        var on = request.On ?? w.Today;
        var isHours = request.Kind == PayItemKind.Hours;
        if (request.Kind is null)
        {
            checks.Add("missing", "Say what it is: hours, an extra, a reimbursement or a deduction.", "kind");
        }
        else if (isHours && (request.Hours is not { } h || h <= 0 || h > 24 || decimal.Round(h, 2) != h))
        {
            checks.Add("hours", "Hours of a day are more than 0 and at most 24, in hundredths.", "hours");
        }
        else if (!isHours)
        {
            checks.Amount(request.Amount?.Amount, "amount", "The amount");
            if (request.Amount is { Currency: not Currency.USD })
            {
                checks.Add("currency", "Pay is in US dollars.", "amount");
            }
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
            checks.AddRange([refused]);
        }

        if (request.LoadId is { } load && !await w.Db.Has("loads", load))
        {
            checks.Add("unknown", "This load is not here.", "loadId");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        if (isHours && (await WeekStore.Agreement(w.Db, driver!.Id)).At(PayKind.PerHour, on) == 0)
        {
            return new Problem("rate.none", $"No rate for an hour is agreed with {driver.Name} on {on:d MMM}: write it into the agreement first.", "hours");
        }

        var id = await WeekStore.AddItem(w, driver!.Id, new PayItem(0, request.Kind!.Value, on, what!, isHours ? request.Hours : null, isHours ? null : request.Amount, account, request.LoadId));
        var row = (await WeekStore.OpenItems(w.Db, driver.Id, on)).First(i => i.Id == id);
        await Events.Add(w, "pay.item_added", "driver", driver.Id, $"{Said(row)} written for {driver.Name}", driverId: driver.Id, loadId: request.LoadId);
        return row;
    }

    public static async Task<Outcome<PayItemRow>> TakeItemBack(Work w, long itemId)
    {
        if (await WeekStore.TakeItemBack(w, itemId) is not { } row)
        {
            return new Problem("not.found", "This is not here, or an approved week holds it.");
        }

        await Events.Add(w, "pay.item_back", "driver", row.DriverId, $"{Said(row)} taken back", driverId: row.DriverId);
        return row;
    }

    public static async Task<AgreementView?> Agreement(NpgsqlConnection db, long driverId) =>
        await FleetStore.Driver(db, driverId) is { } driver
            ? new AgreementView(driverId, driver.Name, (await WeekStore.Agreement(db, driverId)).Rates.OrderBy(r => r.Kind).ThenByDescending(r => r.From).ToList(), await WeekStore.Standing(db, driverId))
            : null;

    /// <summary>Agrees on a rate from a day on. Weeks that are approved stay as they are.</summary>
    public static async Task<Outcome<AgreementView>> SetRate(Work w, long driverId, PayRateRequest request)
    {
        var checks = new Checks();
        var driver = await Driver(w, driverId, checks);
        checks.Date(request.From, w.Today, "from", "The first day", required: false);
        if (request.Kind is not { } kind)
        {
            checks.Add("missing", "Say what is paid: a mile, a load, an hour …", "kind");
        }
        else if (request.Rate is not { } rate || rate < 0 || rate > DriverAgreement.Most(kind) || decimal.Round(rate, 4) != rate)
        {
            checks.Add("rate", $"The rate {DriverAgreement.Said(kind)} is between 0 and {DriverAgreement.Most(kind):#,##0}, with at most four places.", "rate");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var set = new PayRate(request.Kind!.Value, request.Rate!.Value, request.From ?? w.Today);
        var before = (await WeekStore.Agreement(w.Db, driverId)).At(set.Kind, set.From);
        await WeekStore.SetRate(w.Db, driverId, set, w.Actor.UserId, w.Now);
        await Events.Add(w, "pay.rate_set", "driver", driverId, $"{driver!.Name}: {set.Rate:0.00##} {DriverAgreement.Said(set.Kind)} from {set.From:d MMM uuuu}, {before:0.00##} before", driverId: driverId, before: new { rate = before });
        return (await Agreement(w.Db, driverId))!;
    }

    public static async Task<Outcome<AgreementView>> AddStanding(Work w, long driverId, StandingDeductionRequest request)
    {
        var checks = new Checks();
        var driver = await Driver(w, driverId, checks);
        var name = checks.Text(request.Name, "name", "What it is for", 60, required: true);
        checks.Amount(request.Amount?.Amount, "amount", "The amount of a week");
        checks.Date(request.From, w.Today, "from", "The first day", required: false);
        checks.Date(request.Until, w.Today, "until", "The last day", required: false);
        var from = request.From ?? w.Today;
        if (request.Until < from)
        {
            checks.Add("order", "The last day comes after the first.", "until");
        }

        var account = string.IsNullOrWhiteSpace(request.Account) ? Accounts.Withheld.Code : request.Account.Trim();
        if (ChartOfAccounts.Refuses(account, "account", await LedgerStore.Chart(w.Db)) is { } refused)
        {
            checks.AddRange([refused]);
        }

        if (request.Amount is { Currency: not Currency.USD })
        {
            checks.Add("currency", "Pay is in US dollars.", "amount");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        await WeekStore.AddStanding(w.Db, driverId, new StandingDeduction(0, name!, request.Amount!.Value, account, from, request.Until));
        await Events.Add(w, "pay.deduction_set", "driver", driverId, $"{driver!.Name}: {request.Amount.Value.Said} a week for {name}", driverId: driverId);
        return (await Agreement(w.Db, driverId))!;
    }

    /// <summary>Ends a standing deduction with the week before this one.</summary>
    public static async Task<Outcome<AgreementView>> EndStanding(Work w, long driverId, long id)
    {
        if (await WeekStore.EndStanding(w.Db, driverId, id, DriverWeek.MondayOf(w.Today).PlusDays(-1)) == 0)
        {
            return new Problem("not.found", "This deduction is not here, or it has ended.");
        }

        await Events.Add(w, "pay.deduction_ended", "driver", driverId, "A standing deduction ended", driverId: driverId);
        return (await Agreement(w.Db, driverId))!;
    }

    public static async Task<WeekView?> Week(NpgsqlConnection db, long driverId, LocalDate monday, Instant now, DateTimeZone zone)
    {
        if (await FleetStore.Driver(db, driverId) is not { } driver)
        {
            return null;
        }

        var settlement = await WeekStore.OfWeek(db, driverId, monday);
        var week = settlement is not null ? await WeekStore.Approved(db, settlement) : await Reckon(db, driverId, monday, now, zone);
        return new WeekView(
            driver.Id, driver.Name, week.Monday, week.PayDay, week.Lines, week.Reimbursements, week.Deductions, week.Earned, week.Reimbursed, week.Deducted, week.CarriedOver, week.Net, week.Miles, week.DaysOut,
            week.Legs.Count(), await WeekStore.Draws(db, driverId, monday, monday.PlusDays(6)), settlement is null ? await WeekStore.OpenItems(db, driverId, monday.PlusDays(6)) : [], settlement,
            now.InZone(zone).Date > monday.PlusDays(6));
    }

    public static async Task<Outcome<SettlementRow>> Approve(Work w, WeekRequest request)
    {
        var checks = new Checks();
        if (request.Monday is not { } monday || monday.DayOfWeek != IsoDayOfWeek.Monday)
        {
            checks.Add("week.monday", "Name the week by its Monday.", "monday");
            monday = default;
        }
        else if (w.Today <= monday.PlusDays(6))
        {
            checks.Add("week.running", $"This week runs until Sunday {monday.PlusDays(6):d MMM}: approve it when it has ended.", "monday");
        }
        else
        {
            await LedgerStore.CheckOpen(w.Db, monday.PlusDays(6), checks, "monday");
        }

        // One approval of a driver's weeks at a time.
        await w.Db.Run("select 1 from drivers where id = @id for update", ("id", request.DriverId ?? 0));
        var driver = await Driver(w, request.DriverId, checks);
        if (checks.Ok && await WeekStore.OfWeek(w.Db, driver!.Id, monday) is not null)
        {
            checks.Add("week.approved", $"{driver.Name}'s week is approved already.", "monday");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var week = await Reckon(w.Db, driver!.Id, monday, w.Now, w.Zone);
        if (week.IsEmpty)
        {
            return new Problem("week.empty", $"{driver.Name} earned nothing in this week.", "monday");
        }

        var id = await WeekStore.Add(w, driver.Id, week);
        if (week.Earned.Amount + week.Reimbursed.Amount + week.Deducted.Amount > 0)
        {
            await LedgerStore.Post(w, Postings.WeekApproved(monday.PlusDays(6), driver.Name, id, driver.Id, week));
        }

        await SettleLoads(w, week);
        await Events.Add(
            w, "week.approved", "settlement", id, $"{driver.Name}'s week of {monday:d MMM} approved at {week.Net.Said}" + (week.CarriedOver.Amount > 0 ? $", {week.CarriedOver.Said} carried over" : ""), driverId: driver.Id);
        return (await WeekStore.Get(w.Db, id))!;
    }

    public static async Task<Outcome<SettlementRow>> Pay(Work w, long settlementId, PayoutRequest request)
    {
        if (await WeekStore.Get(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This week is not here.");
        }

        if (week.PaidOn is { } paid)
        {
            return new Problem("week.paid", $"This week was paid on {paid:d MMM} already.");
        }

        var checks = new Checks();
        var (on, method, reference) = await BillCommands.Payout(w, request, checks, week.ApprovedById);
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        await WeekStore.Pay(w, settlementId, on, method, reference);
        if (week.Net.Amount > 0)
        {
            await LedgerStore.Post(w, Postings.WeekPaid(on, driver.Name, settlementId, driver.Id, week.Net));
        }

        await SettleLoads(w, await WeekStore.Approved(w.Db, week));
        await Events.Add(w, "week.paid", "settlement", settlementId, $"{driver.Name} paid {week.Net.Said} by {method}", driverId: driver.Id);
        return (await WeekStore.Get(w.Db, settlementId))!;
    }

    /// <summary>Takes a payment of a week back that was entered by mistake or came back: the week is to be paid again.</summary>
    public static async Task<Outcome<SettlementRow>> TakePaymentBack(Work w, long settlementId)
    {
        if (await WeekStore.Get(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This week is not here.");
        }

        if (week.PaidOn is null)
        {
            return new Problem("week.state", "This week is not paid.");
        }

        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        await WeekStore.TakePaymentBack(w, settlementId);
        await LedgerStore.Reverse(w, EntrySource.WeekPayment, settlementId, EntrySource.WeekPayment, $"Payment to {driver.Name} taken back");
        await SettleLoads(w, await WeekStore.Approved(w.Db, week));
        await Events.Add(
            w, "week.payment_back", "settlement", settlementId, $"Payment of {week.Net.Said} to {driver.Name} taken back", driverId: driver.Id, before: new { week.PaidOn, week.PaidMethod, week.PaidReference, week.PaidBy });
        return (await WeekStore.Get(w.Db, settlementId))!;
    }

    /// <summary>Takes the approval of a week back before it is paid: what it held is open again, and it can be approved anew.</summary>
    public static async Task<Outcome<WeekView>> TakeApprovalBack(Work w, long settlementId)
    {
        if (await WeekStore.Get(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This week is not here, or its approval was taken back.");
        }

        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        if (week.PaidOn is { } paid)
        {
            return new Problem("week.paid", $"This week was paid on {paid:d MMM}: take the payment back first.");
        }

        if (await WeekStore.TakenOfCarried(w.Db, settlementId) is var taken and > 0)
        {
            return new Problem("week.carried", $"A later week of {driver.Name} took back {Money.Usd(taken).Said} of what this one carried over: take that week's approval back first.");
        }

        var checks = new Checks();
        await LedgerStore.CheckOpen(w.Db, week.Monday.PlusDays(6), checks, "monday");
        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var was = await WeekStore.Approved(w.Db, week);
        await WeekStore.TakeApprovalBack(w, settlementId);
        await LedgerStore.Reverse(w, EntrySource.Week, settlementId, EntrySource.Week, $"{driver.Name}, week of {week.Monday:d MMM}: approval taken back");
        await SettleLoads(w, was);
        await Events.Add(w, "week.approval_back", "settlement", settlementId, $"Approval of {driver.Name}'s week of {week.Monday:d MMM} at {week.Net.Said} taken back", driverId: driver.Id, before: new { week.ApprovedBy, week.ApprovedAt, week.Net });
        return (await Week(w.Db, week.DriverId, week.Monday, w.Now, w.Zone))!;
    }

    /// <summary>The driver says that he has seen his approved week.</summary>
    public static async Task<Outcome<SettlementRow>> Seen(Work w, long driverId, LocalDate monday)
    {
        if (await WeekStore.Seen(w, driverId, monday) == 0)
        {
            return new Problem("not.found", "This week is not approved yet.", "monday");
        }

        var row = (await WeekStore.OfWeek(w.Db, driverId, monday))!;
        await Events.Add(w, "week.seen", "settlement", row.Id, $"{w.Actor.Name} has seen the week of {monday:d MMM}", driverId: driverId);
        return row;
    }

    private static async Task<WeekStatement> Reckon(NpgsqlConnection db, long driverId, LocalDate monday, Instant now, DateTimeZone zone)
    {
        var facts = await WeekStore.Facts(db, driverId, monday, zone, now);
        return DriverWeek.Settle(monday, await WeekStore.Agreement(db, driverId), facts.Legs, facts.DaysOut, facts.Draws, facts.Items, facts.Standing);
    }

    private static async Task SettleLoads(Work w, WeekStatement week)
    {
        foreach (var load in week.Lines.Where(l => l.LegId is not null).Select(l => l.LoadId!.Value).Distinct())
        {
            await LoadWrites.Settle(w.Db, load);
        }
    }

    private static async Task<DriverRow?> Driver(Work w, long? id, Checks checks)
    {
        var driver = id is { } d ? await FleetStore.Driver(w.Db, d) : null;
        if (driver is null)
        {
            checks.Add("missing", "Choose a driver.", "driverId");
        }

        return driver;
    }

    private static string Said(PayItemRow row) => row.Kind switch
    {
        PayItemKind.Hours => $"{row.Hours:0.##} hours, {row.What},",
        PayItemKind.Reimbursement => $"{row.Amount!.Value.Said} back for {row.What}",
        PayItemKind.Deduction => $"{row.Amount!.Value.Said} off for {row.What}",
        _ => $"{row.Amount!.Value.Said} for {row.What}",
    };
}
