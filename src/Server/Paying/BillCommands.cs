using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

/// <param name="LegId">The delivered carrier leg it is for; otherwise <paramref name="VendorId"/>.</param>
/// <param name="Number">The vendor's own number.</param>
/// <param name="BilledOn">The bill's date; today when omitted.</param>
/// <param name="DueOn">By the vendor's terms when omitted.</param>
/// <param name="Lines">What it was for; optional for a leg.</param>
/// <param name="Spent">For an expense already paid: how and when.</param>
public sealed record BillRequest(
    long? LegId, string? Number, LocalDate? BilledOn, Money? Amount, long? VendorId = null, LocalDate? DueOn = null, IReadOnlyList<BillLineOrder>? Lines = null, PayoutRequest? Spent = null, string? Note = null);

/// <param name="Amount">The approved amount; the whole bill when omitted.</param>
/// <param name="Reason">Required when it is more than agreed.</param>
public sealed record ApproveBillRequest(Money? Amount, string? Reason);

public sealed record PayoutRequest(LocalDate? PaidOn, string? Method, string? Reference);

/// <summary>A bill with its lines and documents.</summary>
public sealed record BillView(BillRow Bill, IReadOnlyList<BillLineRow> Lines, IReadOnlyList<DocumentRow> Documents);

/// <summary>Bills of carriers and other vendors: entered, compared with the agreement, approved, paid.</summary>
public static class BillCommands
{
    public static async Task<Outcome<BillRow>> Enter(CommandContext w, BillRequest request)
    {
        var validation = new Validation();
        var number = validation.Text(request.Number, "number", "The bill number", 60, required: true);
        var note = validation.Text(request.Note, "note", "The note", 400);
        validation.Dollars(request.Amount, "amount", "The amount billed");
        validation.Date(request.BilledOn, w.Today, "billedOn", "The bill date", required: false);
        var leg = request.LegId is { } id ? await BillStore.LegForBill(w.Db, id) : null;
        if (leg is not null)
        {
            await LoadWrites.Lock(w.Db, leg.LoadId);
            if (await BillStore.LegBilled(w.Db, leg.LegId))
            {
                validation.Add("leg.billed", $"A bill for load {leg.LoadNumber} was already entered.", "legId");
            }
        }
        else if (request.LegId is not null || request.VendorId is null)
        {
            validation.Add("leg.unknown", "Choose a vendor, or a delivered load moved by a carrier.", request.LegId is null ? "vendorId" : "legId");
        }

        var vendor = (leg?.CarrierId ?? request.VendorId) is { } v ? await CompanyStore.Get(w.Db, v) : null;
        if (vendor is null && validation.Ok)
        {
            validation.Add("unknown", "This vendor is not in the address book.", "vendorId");
        }

        if (vendor is not null && number is not null)
        {
            // One at a time per vendor, so that a duplicate number gets a proper message.
            await w.Db.Run("select 1 from companies where id = @id for update", ("id", vendor.Id));
            if (await BillStore.OfNumber(w.Db, vendor.Id, number) is { } same)
            {
                validation.Add("bill.twice", $"{vendor.Name} already sent bill {number} for {same.Amount.Formatted}, dated {same.BilledOn:MMM d, uuuu}: check for a duplicate.", "number");
            }
        }

        var on = request.BilledOn ?? w.Today;
        // An invalid date was already reported; nothing is calculated from it.
        var due = validation.Ok ? VendorBill.DueOn(on, request.DueOn, vendor?.PayDays ?? 30, validation) : on;
        var (spentOn, spent) = (request.Spent?.PaidOn ?? on, request.Spent is not null);
        if (spent)
        {
            CheckPayout(w, request.Spent!, validation, "spent.");
            await CheckLimit(w, SoleMoney.PaidExpense, request.Amount, validation);
        }

        await LedgerStore.CheckOpen(w.Db, spent ? spentOn : on, validation, spent ? "spent.paidOn" : "billedOn");
        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var amount = request.Amount!.Value;
        if (spent && leg is not null && amount > leg.Agreed)
        {
            return new Problem("over.agreed", $"This is {(amount - leg.Agreed).Formatted} over the agreed {leg.Agreed.Formatted}: enter it as a bill for approval.", "amount");
        }

        var lines = VendorBill.Lines(amount, request.Lines, leg?.LoadId, await LedgerStore.Chart(w.Db));
        if (!lines.Ok)
        {
            return lines.Problems.ToList();
        }

        if (await Missing(w, lines.Value) is { } missing)
        {
            return missing;
        }

        var of = Of(vendor!, leg);
        var billId = await BillStore.Add(w, vendor!.Id, leg, number!, on, due, amount, lines.Value, note);
        if (spent)
        {
            await BillStore.Approve(w, billId, amount, null);
            await BillStore.Pay(w, billId, spentOn, request.Spent!.Method!, request.Spent.Reference, spent: true);
            await LedgerStore.Post(w, Postings.Spent(spentOn, vendor.Name, number!, billId, lines.Value, of));
            await Events.Add(w, EventKinds.BillExpensed, billId, $"Expense of {amount.Formatted} at {vendor.Name} by {request.Spent.Method}, {number}", loadId: leg?.LoadId);
        }
        else
        {
            await LedgerStore.Post(w, Postings.BillReceived(on, vendor.Name, number!, billId, lines.Value, of));
            var difference = leg is null ? (Money?)null : BillMatch.Of(leg.Agreed, amount).Difference;
            await Events.Add(
                w, EventKinds.BillEntered, billId,
                $"Bill {number} from {vendor.Name} for {amount.Formatted}" + (difference switch { null => "", { Amount: 0 } => ", as agreed", { } d => $", {Money.Usd(Math.Abs(d.Amount)).Formatted} {(d.Amount > 0 ? "over" : "under")} the agreed amount" }),
                loadId: leg?.LoadId);
        }

        await Settle(w, leg?.LoadId);
        return (await BillStore.Get(w.Db, billId))!;
    }

    public static async Task<Outcome<BillRow>> Approve(CommandContext w, long billId, ApproveBillRequest request)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        if (bill.State.ApproveRefusal is { } refused)
        {
            return refused;
        }

        var validation = new Validation();
        var why = validation.Text(request.Reason, "reason", "The reason", 400);
        validation.Dollars(request.Amount, "amount", "The amount approved", required: false);

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        var approved = BillMatch.Of(bill.Agreed ?? bill.Amount, bill.Amount).Approve(request.Amount is { } a ? Money.Usd(a.Amount) : bill.Amount, why);
        if (!approved.Ok)
        {
            return approved.Problems.ToList();
        }

        await BillStore.Approve(w, billId, approved.Value, why);
        if (approved.Value < bill.Amount)
        {
            var lines = (await BillStore.Lines(w.Db, billId)).Select(l => new BillLine(l.Account, l.Description, l.Amount, l.LoadId, l.TruckId, l.DriverId)).ToList();
            await LedgerStore.Post(w, Postings.BillReduced(w.Today, bill.Vendor, bill.Number, billId, VendorBill.Less(lines, bill.Amount - approved.Value), await Of(w, bill)));
        }

        await Settle(w, bill.LoadId);
        await Events.Add(w, EventKinds.BillApproved, billId, $"Bill {bill.Number} from {bill.Vendor} approved for {approved.Value.Formatted}" + (why is null ? "" : $": {why}"), loadId: bill.LoadId);
        return (await BillStore.Get(w.Db, billId))!;
    }

    /// <summary>Reverses an approval, as long as nothing was paid.</summary>
    public static async Task<Outcome<BillRow>> Unapprove(CommandContext w, long billId)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        if (bill.State.UnapproveRefusal is { } refused)
        {
            return refused;
        }

        await BillStore.Unapprove(w, billId);
        await LedgerStore.Reverse(w, EntrySource.BillReduction, billId, EntrySource.BillReduction, $"Bill {bill.Number} from {bill.Vendor}: approval reversed");
        await Settle(w, bill.LoadId);
        await Events.Add(w, EventKinds.BillApprovalReversed, billId, $"Approval of bill {bill.Number} from {bill.Vendor} reversed", loadId: bill.LoadId, before: new { bill.Approved, bill.ApprovedWhy, bill.ApprovedBy });
        return (await BillStore.Get(w.Db, billId))!;
    }

    /// <summary>Voids a bill entered by mistake, before it is approved; or an expense.</summary>
    public static async Task<Outcome<BillRow>> Void(CommandContext w, long billId)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        if (bill.State.VoidRefusal is { } refused)
        {
            return refused;
        }

        await BillStore.Void(w, billId);
        await (bill.Spent
            ? LedgerStore.Reverse(w, EntrySource.Expense, billId, EntrySource.ExpenseVoid, $"Expense at {bill.Vendor} voided")
            : LedgerStore.Reverse(w, EntrySource.Bill, billId, EntrySource.BillVoid, $"Bill {bill.Number} from {bill.Vendor} voided"));
        await Settle(w, bill.LoadId);
        await Events.Add(w, EventKinds.BillVoid, billId, $"Bill {bill.Number} from {bill.Vendor} voided", loadId: bill.LoadId);
        return (await BillStore.Get(w.Db, billId))!;
    }

    public static async Task<Outcome<BillRow>> Pay(CommandContext w, long billId, PayoutRequest request)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        if (bill.State.PayRefusal is { } refused)
        {
            return refused;
        }

        var amount = bill.Approved!.Value;
        var validation = new Validation();
        var (on, method, reference) = await ReadPayout(w, request, validation, bill.ApprovedById);
        if (w.Actor.UserId is { } payer && await CompanyStore.AddedBy(w.Db, bill.VendorId) == payer)
        {
            await CheckLimit(w, SoleMoney.OwnVendor, amount, validation);
        }

        if (!validation.Ok)
        {
            return validation.Problems.ToList();
        }

        await BillStore.Pay(w, billId, on, method, reference);
        await LedgerStore.Post(w, Postings.BillPaid(on, bill.Vendor, bill.Number, billId, amount, await Of(w, bill)));
        await Settle(w, bill.LoadId);
        await Events.Add(w, EventKinds.BillPaid, billId, $"Bill {bill.Number} from {bill.Vendor} paid, {amount.Formatted} by {method}", loadId: bill.LoadId);
        return (await BillStore.Get(w.Db, billId))!;
    }

    /// <summary>Reverses a payment that was entered by mistake or returned: the bill is open again.</summary>
    public static async Task<Outcome<BillRow>> Unpay(CommandContext w, long billId)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        if (bill.State.UnpayRefusal is { } refused)
        {
            return refused;
        }

        await BillStore.Unpay(w, billId);
        await LedgerStore.Reverse(w, EntrySource.BillPayment, billId, EntrySource.BillPayment, $"Payment of bill {bill.Number} to {bill.Vendor} reversed");
        await Settle(w, bill.LoadId);
        await Events.Add(w, EventKinds.BillPaymentReversed, billId, $"Payment of bill {bill.Number} to {bill.Vendor} reversed", loadId: bill.LoadId, before: new { bill.PaidOn, bill.PaidMethod, bill.PaidReference, bill.PaidBy });
        return (await BillStore.Get(w.Db, billId))!;
    }

    /// <summary>Adds a document to a bill.</summary>
    public static async Task<Outcome<DocumentRow>> Attach(CommandContext w, long billId, string fileName, byte[] bytes)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        var read = await DocumentCommands.Read(fileName, bytes);
        if (!read.Ok)
        {
            return read.Problems.ToList();
        }

        var id = await DocumentStore.Add(w, null, DocumentKind.CarrierBill, read.Value.Name, read.Value.Type, bytes, billId);
        await Events.Add(w, EventKinds.BillAttached, billId, $"{read.Value.Name} attached to bill {bill.Number} from {bill.Vendor}", loadId: bill.LoadId);
        return (await DocumentStore.Get(w.Db, id))!;
    }

    /// <summary>The company's limit for payments one person makes alone.</summary>
    internal static async Task CheckLimit(CommandContext w, SoleMoney kind, Money? amount, Validation validation)
    {
        if (amount is { } sum && MoneyLimit.Refuses(kind, sum, (await CompanySettingsStore.Read(w.Db)).SoleLimit, w.Actor.May) is { } refused)
        {
            validation.AddRange([refused]);
        }
    }

    /// <summary>When, how and with what reference money goes out; checks two-person approval.</summary>
    internal static async Task<(LocalDate On, string Method, string? Reference)> ReadPayout(CommandContext w, PayoutRequest request, Validation validation, long? approvedBy)
    {
        var reference = CheckPayout(w, request, validation, "");
        var on = request.PaidOn ?? w.Today;
        await LedgerStore.CheckOpen(w.Db, on, validation, "paidOn");
        if (TwoPeople.Refuses(approvedBy, w.Actor.UserId, (await Business.Read(w.Db))!.TwoPeople) is { } same)
        {
            validation.AddRange([same]);
        }

        return (on, request.Method ?? "", reference);
    }

    private static string? CheckPayout(CommandContext w, PayoutRequest request, Validation validation, string under)
    {
        var reference = validation.Text(request.Reference, $"{under}reference", "The reference", 80);
        validation.Date(request.PaidOn, w.Today, $"{under}paidOn", "The date", required: false);
        if (request.Method is null || !BillingCommands.Methods.Contains(request.Method))
        {
            validation.Add("missing", $"Choose a payment method: {string.Join(", ", BillingCommands.Methods)}.", $"{under}method");
        }

        return reference;
    }

    private static Problem NotHere => new("not.found", "This bill was not found.");

    private static async Task<Problem?> Missing(CommandContext w, IReadOnlyList<BillLine> lines)
    {
        for (var i = 0; i < lines.Count; i++)
        {
            foreach (var (table, id, field, what) in new[] { ("loads", lines[i].LoadId, "loadId", "load"), ("trucks", lines[i].TruckId, "truckId", "truck"), ("drivers", lines[i].DriverId, "driverId", "driver") })
            {
                if (id is { } key && !await w.Db.Has(table, key))
                {
                    return new Problem("unknown", $"This {what} was not found.", $"lines[{i}].{field}");
                }
            }
        }

        return null;
    }

    private static Dimensions Of(CompanyRow vendor, UnbilledLeg? leg) => leg is null && !vendor.IsCarrier ? new Dimensions(VendorId: vendor.Id) : new Dimensions(LoadId: leg?.LoadId, CarrierId: vendor.Id);

    private static async Task<Dimensions> Of(CommandContext w, BillRow bill) =>
        bill.LegId is null && !(await CompanyStore.Get(w.Db, bill.VendorId))!.IsCarrier ? new Dimensions(VendorId: bill.VendorId) : new Dimensions(LoadId: bill.LoadId, CarrierId: bill.VendorId);

    private static async Task Settle(CommandContext w, long? loadId)
    {
        if (loadId is { } load)
        {
            await LoadWrites.Settle(w.Db, load);
        }
    }
}
