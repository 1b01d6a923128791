using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Server.Billing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

/// <param name="Number">The carrier's own number.</param>
/// <param name="BilledOn">The bill's date; today when left out.</param>
public sealed record BillRequest(long? LegId, string? Number, LocalDate? BilledOn, Money? Amount);

/// <param name="Amount">What is approved; the whole bill when left out.</param>
/// <param name="Reason">Needed when it is over what was agreed.</param>
public sealed record ApproveBillRequest(Money? Amount, string? Reason);

public sealed record PayoutRequest(LocalDate? PaidOn, string? Method, string? Reference);

public sealed record DrawRequest(long? DriverId, LocalDate? DrawnOn, Money? Amount, string? Note);

public sealed record WeekRequest(long? DriverId, LocalDate? Monday);

/// <summary>A driver's week as he and the payer see it.</summary>
/// <param name="Settlement">Null until it is approved; until then the figures grow.</param>
public sealed record WeekView(
    long DriverId, string Driver, LocalDate Monday, LocalDate PayDay, IReadOnlyList<PaidLeg> Legs, int PerDiemDays, Money PerDiemRate, Money PerDiem, IReadOnlyList<Deduction> Deductions,
    Money Earned, Money Deducted, Money Net, int Miles, IReadOnlyList<DrawRow> Draws, SettlementRow? Settlement, bool Ended);

/// <summary>Paying carriers and drivers.</summary>
public static class PayingCommands
{
    public static async Task<Outcome<BillRow>> EnterBill(Work w, BillRequest request)
    {
        var checks = new Checks();
        var number = checks.Text(request.Number, "number", "The bill's own number", 60, required: true);
        checks.Amount(request.Amount?.Amount, "amount", "The amount billed");
        checks.Date(request.BilledOn, w.Today, "billedOn", "The bill's date", required: false);
        if (request.Amount is { Currency: not Currency.USD })
        {
            checks.Add("currency", "Bills are kept in US dollars.", "amount");
        }

        var leg = request.LegId is { } id ? await PayingStore.LegForBill(w.Db, id) : null;
        if (leg is null)
        {
            checks.Add("leg.unknown", "Choose a delivered load that a carrier moved.", "legId");
        }
        else
        {
            await LoadWrites.Lock(w.Db, leg.LoadId);
            if (await PayingStore.LegBilled(w.Db, leg.LegId))
            {
                checks.Add("leg.billed", $"A bill for load {leg.LoadNumber} is entered already.", "legId");
            }

            if (number is not null && await PayingStore.NumberTaken(w.Db, leg.CarrierId, number))
            {
                checks.Add("bill.twice", $"{leg.Carrier} has sent a bill {number} before: look whether this is the same.", "number");
            }
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var carrier = (await CompanyStore.Get(w.Db, leg!.CarrierId))!;
        var on = request.BilledOn ?? w.Today;
        var amount = request.Amount!.Value;
        var billId = await PayingStore.AddBill(w, leg, number!, on, Terms.DueOn(on, carrier.Carrier!.PayDays), amount);
        await LedgerStore.Post(w, Postings.BillReceived(on, leg.Carrier, number!, billId, amount, Of(leg.LoadId, leg.CarrierId)));
        await LoadWrites.Settle(w.Db, leg.LoadId);
        var difference = BillMatch.Of(leg.Agreed, amount).Difference;
        await Events.Add(
            w, "bill.entered", "bill", billId,
            $"Bill {number} from {leg.Carrier} over {amount.Said}" + (difference.Amount == 0 ? ", as agreed" : $", {Money.Usd(Math.Abs(difference.Amount)).Said} {(difference.Amount > 0 ? "over" : "under")} what was agreed"),
            loadId: leg.LoadId);
        return (await PayingStore.Bill(w.Db, billId))!;
    }

    public static async Task<Outcome<BillRow>> ApproveBill(Work w, long billId, ApproveBillRequest request)
    {
        if (await PayingStore.Bill(w.Db, billId, locked: true) is not { } bill)
        {
            return new Problem("not.found", "This bill is not here.");
        }

        if (bill.VoidedAt is not null || bill.Approved is not null)
        {
            return new Problem("bill.state", $"Bill {bill.Number} is {(bill.VoidedAt is not null ? "void" : "approved")} already.");
        }

        var checks = new Checks();
        var why = checks.Text(request.Reason, "reason", "The reason", 400);
        if (request.Amount is { } asked)
        {
            checks.Amount(asked.Amount, "amount", "The amount approved");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var approved = BillMatch.Of(bill.Agreed, bill.Amount).Approve(request.Amount is { } a ? Money.Usd(a.Amount) : bill.Amount, why);
        if (!approved.Ok)
        {
            return approved.Problems.ToList();
        }

        await PayingStore.Approve(w, billId, approved.Value, why);
        if (approved.Value < bill.Amount)
        {
            await LedgerStore.Post(w, Postings.BillReduced(w.Today, bill.Carrier, bill.Number, billId, bill.Amount - approved.Value, Of(bill.LoadId, bill.CarrierId)));
        }

        await LoadWrites.Settle(w.Db, bill.LoadId);
        await Events.Add(w, "bill.approved", "bill", billId, $"Bill {bill.Number} from {bill.Carrier} approved at {approved.Value.Said}" + (why is null ? "" : $": {why}"), loadId: bill.LoadId);
        return (await PayingStore.Bill(w.Db, billId))!;
    }

    /// <summary>Takes a bill back that was entered by mistake, before it is approved.</summary>
    public static async Task<Outcome<BillRow>> VoidBill(Work w, long billId)
    {
        if (await PayingStore.Bill(w.Db, billId, locked: true) is not { } bill)
        {
            return new Problem("not.found", "This bill is not here.");
        }

        if (bill.VoidedAt is not null || bill.Approved is not null)
        {
            return new Problem("bill.state", $"Bill {bill.Number} is {(bill.VoidedAt is not null ? "void" : "approved")} already.");
        }

        await PayingStore.VoidBill(w, billId);
        await LedgerStore.Reverse(w, EntrySource.Bill, billId, EntrySource.BillVoid, $"Bill {bill.Number} from {bill.Carrier} taken back");
        await LoadWrites.Settle(w.Db, bill.LoadId);
        await Events.Add(w, "bill.void", "bill", billId, $"Bill {bill.Number} from {bill.Carrier} taken back", loadId: bill.LoadId);
        return (await PayingStore.Bill(w.Db, billId))!;
    }

    public static async Task<Outcome<BillRow>> PayBill(Work w, long billId, PayoutRequest request)
    {
        if (await PayingStore.Bill(w.Db, billId, locked: true) is not { } bill)
        {
            return new Problem("not.found", "This bill is not here.");
        }

        if (bill.Approved is not { } amount || bill.PaidOn is not null)
        {
            return new Problem("bill.state", bill.PaidOn is not null ? $"Bill {bill.Number} was paid on {bill.PaidOn:d MMM} already." : $"Bill {bill.Number} is not approved yet.");
        }

        var payout = Payout(w, request);
        if (!payout.Ok)
        {
            return payout.Problems.ToList();
        }

        var (on, method, reference) = payout.Value;
        await PayingStore.PayBill(w, billId, on, method, reference);
        await LedgerStore.Post(w, Postings.BillPaid(on, bill.Carrier, bill.Number, billId, amount, Of(bill.LoadId, bill.CarrierId)));
        await LoadWrites.Settle(w.Db, bill.LoadId);
        await Events.Add(w, "bill.paid", "bill", billId, $"Bill {bill.Number} from {bill.Carrier} paid, {amount.Said} by {method}", loadId: bill.LoadId);
        return (await PayingStore.Bill(w.Db, billId))!;
    }

    public static async Task<Outcome<DrawRow>> Draw(Work w, DrawRequest request)
    {
        var checks = new Checks();
        var note = checks.Text(request.Note, "note", "The note", 200);
        checks.Amount(request.Amount?.Amount, "amount", "The amount drawn");
        checks.Date(request.DrawnOn, w.Today, "drawnOn", "The date", required: false);
        var driver = request.DriverId is { } d ? await FleetStore.Driver(w.Db, d) : null;
        if (driver is null)
        {
            checks.Add("missing", "Choose a driver.", "driverId");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var on = request.DrawnOn ?? w.Today;
        var amount = Money.Usd(request.Amount!.Value.Amount);
        var id = await PayingStore.AddDraw(w, driver!.Id, on, amount, note);
        await LedgerStore.Post(w, Postings.DrawGiven(on, driver.Name, id, driver.Id, amount));
        await Events.Add(w, "draw.given", "driver", driver.Id, $"{driver.Name} drew {amount.Said} ahead", driverId: driver.Id);
        return new DrawRow(id, driver.Id, on, amount, Money.Zero(), note);
    }

    public static async Task<WeekView?> Week(Npgsql.NpgsqlConnection db, long driverId, LocalDate monday, Instant now, DateTimeZone zone)
    {
        if (await FleetStore.Driver(db, driverId) is not { } driver)
        {
            return null;
        }

        var settlement = await PayingStore.Settlement(db, driverId, monday);
        WeekStatement week;
        if (settlement is not null)
        {
            week = await PayingStore.Approved(db, settlement, zone);
        }
        else
        {
            var facts = await PayingStore.Facts(db, driverId, monday, zone, now);
            week = DriverWeek.Settle(monday, FleetStore.Agreement(driver), facts.Legs, facts.DaysOut, facts.Draws);
        }

        var draws = await PayingStore.Draws(db, driverId, monday, monday.PlusDays(6));
        return new WeekView(
            driver.Id, driver.Name, week.Monday, week.PayDay, week.Legs, week.PerDiemDays, Money.Usd(week.PerDiemRate), week.PerDiem, week.Deductions, week.Earned, week.Deducted, week.Net,
            week.Miles, draws, settlement, now.InZone(zone).Date > monday.PlusDays(6));
    }

    public static async Task<Outcome<SettlementRow>> ApproveWeek(Work w, WeekRequest request)
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

        // One approval of a driver's weeks at a time.
        await w.Db.Run("select 1 from drivers where id = @id for update", ("id", request.DriverId ?? 0));
        var driver = request.DriverId is { } d ? await FleetStore.Driver(w.Db, d) : null;
        if (driver is null)
        {
            checks.Add("missing", "Choose a driver.", "driverId");
        }
        else if (checks.Ok && await PayingStore.Settlement(w.Db, driver.Id, monday) is not null)
        {
            checks.Add("week.approved", $"{driver.Name}'s week is approved already.", "monday");
        }

        if (!checks.Ok)
        {
            return checks.Problems.ToList();
        }

        var facts = await PayingStore.Facts(w.Db, driver!.Id, monday, w.Zone, w.Now);
        var week = DriverWeek.Settle(monday, FleetStore.Agreement(driver), facts.Legs, facts.DaysOut, facts.Draws);
        if (week.Earned.Amount == 0)
        {
            return new Problem("week.empty", $"{driver.Name} earned nothing in this week.", "monday");
        }

        var id = await PayingStore.AddSettlement(w, driver.Id, week);
        await LedgerStore.Post(w, Postings.WeekApproved(monday.PlusDays(6), driver.Name, id, driver.Id, week));
        foreach (var load in week.Legs.Select(l => l.LoadId).Distinct())
        {
            await LoadWrites.Settle(w.Db, load);
        }

        await Events.Add(w, "week.approved", "settlement", id, $"{driver.Name}'s week of {monday:d MMM} approved at {week.Net.Said}", driverId: driver.Id);
        return (await PayingStore.Settlement(w.Db, id))!;
    }

    public static async Task<Outcome<SettlementRow>> PayWeek(Work w, long settlementId, PayoutRequest request)
    {
        if (await PayingStore.Settlement(w.Db, settlementId) is not { } week)
        {
            return new Problem("not.found", "This week is not here.");
        }

        if (week.PaidOn is { } paid)
        {
            return new Problem("week.paid", $"This week was paid on {paid:d MMM} already.");
        }

        var payout = Payout(w, request);
        if (!payout.Ok)
        {
            return payout.Problems.ToList();
        }

        var (on, method, reference) = payout.Value;
        var driver = (await FleetStore.Driver(w.Db, week.DriverId))!;
        await PayingStore.PaySettlement(w, settlementId, on, method, reference);
        if (week.Net.Amount > 0)
        {
            await LedgerStore.Post(w, Postings.WeekPaid(on, driver.Name, settlementId, driver.Id, week.Net));
        }

        foreach (var load in (await PayingStore.Approved(w.Db, week, w.Zone)).Legs.Select(l => l.LoadId).Distinct())
        {
            await LoadWrites.Settle(w.Db, load);
        }

        await Events.Add(w, "week.paid", "settlement", settlementId, $"{driver.Name} paid {week.Net.Said} by {method}", driverId: driver.Id);
        return (await PayingStore.Settlement(w.Db, settlementId))!;
    }

    private static Outcome<(LocalDate On, string Method, string? Reference)> Payout(Work w, PayoutRequest request)
    {
        var checks = new Checks();
        var reference = checks.Text(request.Reference, "reference", "The reference", 80);
        checks.Date(request.PaidOn, w.Today, "paidOn", "The date", required: false);
        if (request.Method is null || !BillingCommands.Methods.Contains(request.Method))
        {
            checks.Add("missing", $"Say how it is paid: {string.Join(", ", BillingCommands.Methods)}.", "method");
        }

        return checks.Ok ? (request.PaidOn ?? w.Today, request.Method!, reference) : checks.Problems.ToList();
    }

    private static Dimensions Of(long loadId, long carrierId) => new(LoadId: loadId, CarrierId: carrierId);
}
