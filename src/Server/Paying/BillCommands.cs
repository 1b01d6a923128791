using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Paying;

/// <param name="LegId">The delivered carrier leg it is for; otherwise <paramref name="VendorId"/>.</param>
/// <param name="Number">The vendor's own number.</param>
/// <param name="BilledOn">The bill's date; today when omitted.</param>
/// <param name="DueOn">By the vendor's terms when omitted.</param>
/// <param name="Lines">What it was for; optional for a leg.</param>
/// <param name="Spent">For an expense already paid: how and when.</param>
public sealed record BillRequest(
    long? LegId,
    string? Number,
    LocalDate? BilledOn,
    Money? Amount,
    long? VendorId = null,
    LocalDate? DueOn = null,
    IReadOnlyList<BillLineOrder>? Lines = null,
    PayoutRequest? Spent = null,
    string? Note = null
);

/// <param name="Line">The bill's line, from 1.</param>
/// <param name="DriverId">The owner-operator; the line's driver when omitted.</param>
/// <param name="Amount">All of the line that is not charged back yet when omitted.</param>
public sealed record ChargeBackRequest(int Line, long? DriverId = null, Money? Amount = null);

/// <param name="Amount">The approved amount; the whole bill when omitted.</param>
/// <param name="Reason">Required when it is more than agreed.</param>
/// <param name="QuickPay">Whether it is paid early for the vendor's discount.</param>
public sealed record ApproveBillRequest(Money? Amount, string? Reason, bool QuickPay = false);

public sealed record PayoutRequest(LocalDate? PaidOn, string? Method, string? Reference);

/// <summary>A bill with its lines, payments and documents.</summary>
/// <param name="Hold">Why it may not be paid now; null when it may.</param>
/// <param name="QuickPay">What quick pay of the amount to approve deducts; null when the vendor offers none or it is approved.</param>
public sealed record BillView(
    BillRow Bill,
    IReadOnlyList<BillLineRow> Lines,
    IReadOnlyList<VendorPaymentRow> Payments,
    IReadOnlyList<DocumentRow> Documents,
    string? Hold,
    QuickPay? QuickPay
);

/// <summary>Bills of carriers and other vendors: entered, compared with the agreement, approved, paid.</summary>
public static class BillCommands
{
    public static async Task<Outcome<BillRow>> Enter(CommandContext w, BillRequest request)
    {
        var found = new Validation();
        var leg = await LegOf(w, request, found);
        var vendor = (leg?.CarrierId ?? request.VendorId) is { } id ? await CompanyStore.Get(w.Db, id, locked: true) : null;
        var validation = new Validation { Currency = vendor?.Currency ?? Currency.USD };
        validation.AddRange(found.Problems);
        var payout = request.Spent is { } s
            ? Payout.Check(s.PaidOn ?? request.BilledOn, s.Method, s.Reference, w.Today, validation, "spent.")
            : null;
        if (payout is not null)
        {
            await CheckLimit(w, SoleMoney.PaidExpense, request.Amount, validation);
        }

        var entered = VendorBill.Enter(
            new BillOrder(request.Number, request.BilledOn, request.Amount, request.DueOn, request.Lines, request.Note, payout is not null),
            leg is null ? null : new BilledLeg(leg.LoadId, leg.LoadNumber, leg.Agreed, await BillStore.LegBilled(w.Db, leg.LegId)),
            vendor is null
                ? null
                : new BillVendor(
                    vendor.Name,
                    vendor.PayDays,
                    await BillStore.OfNumber(w.Db, vendor.Id, request.Number?.Trim() ?? "") is { } same
                        ? (same.Amount, same.BilledOn)
                        : null
                ),
            w.Today,
            await LedgerStore.Chart(w.Db),
            validation
        );
        if (!entered.Ok)
        {
            return entered.Problems;
        }

        var missing = await Missing(w, entered.Value.Lines);
        return missing.Any ? missing : await Add(w, vendor!, leg, entered.Value, payout);
    }

    private static async Task<BillRow> Add(CommandContext w, CompanyRow vendor, UnbilledLeg? leg, EnteredBill bill, Payout? payout)
    {
        var postedOn = await LedgerStore.PostingDay(w, payout?.On ?? bill.BilledOn);
        var id = await BillStore.Add(w, vendor.Id, leg, bill, postedOn);
        var of =
            leg is null && !vendor.IsCarrier
                ? new Dimensions(VendorId: vendor.Id)
                : new Dimensions(LoadId: leg?.LoadId, CarrierId: vendor.Id);
        if (payout is not null)
        {
            await BillStore.Approve(w, id, bill.Amount, null);
            await BillStore.Spend(w, id, payout);
            await LedgerStore.Post(w, Postings.Spent(postedOn, vendor.Name, bill.Number, id, bill.Lines, of));
            w.Record(
                EventKinds.BillExpensed,
                id,
                $"Expense of {bill.Amount.Formatted} at {vendor.Name} by {payout.Method}, {bill.Number}",
                loadId: leg?.LoadId
            );
        }
        else
        {
            var match = BillMatch.Of(leg is null ? bill.Amount : leg.Agreed + bill.Tax, bill.Amount);
            var accepted = VendorBill.UpTo(bill.Lines, match.Accepted);
            await LedgerStore.Post(w, Postings.BillReceived(postedOn, vendor.Name, bill.Number, id, accepted, of));
            var compared = leg is null ? "" : $", {match.Formatted}";
            w.Record(
                EventKinds.BillEntered,
                id,
                $"Bill {bill.Number} from {vendor.Name} for {bill.Amount.Formatted}{compared}",
                loadId: leg?.LoadId
            );
        }

        await Settle(w, leg?.LoadId);
        return (await BillStore.Get(w.Db, id))!;
    }

    public static Task<Outcome<BillRow>> Approve(CommandContext w, long billId, ApproveBillRequest request) =>
        Step(
            w,
            billId,
            b => b.ApproveRefusal,
            async bill =>
            {
                var validation = new Validation { Currency = bill.Amount.Currency };
                var why = validation.Text(request.Reason, "reason", "The reason", 400);
                validation.Dollars(request.Amount, "amount", "The amount approved", required: false);
                var approved = validation.Ok
                    ? BillMatch.Of(bill.Agreed ?? bill.Amount, bill.Amount).Approve(request.Amount ?? bill.Amount, why)
                    : validation.Problems;
                if (!approved.Ok)
                {
                    return approved.Problems;
                }

                var quick = request.QuickPay
                    ? (await CompanyStore.Get(w.Db, bill.VendorId))!.Terms.QuickPay(approved.Value, w.Today)
                    : null;
                if (quick is { Ok: false })
                {
                    return quick.Problems;
                }

                await BillStore.Approve(w, billId, approved.Value, why, quick?.Value);
                await PostApproval(w, bill, approved.Value);
                w.Record(
                    EventKinds.BillApproved,
                    billId,
                    $"Bill {bill.Number} from {bill.Vendor} approved for {approved.Value.Formatted}"
                        + (quick is null ? "" : $", quick pay less {quick.Value.Discount.Formatted}")
                        + (why is null ? "" : $": {why}"),
                    loadId: bill.LoadId
                );
                return Problems.None;
            }
        );

    /// <summary>What is owed after an approval, more or less than what was accepted when the bill came.</summary>
    private static async Task PostApproval(CommandContext w, BillRow bill, Money approved)
    {
        var moves = await OpenItemStore.Moves(w.Db, Accounts.Payable, [bill.Id]);
        var accepted = new Money(moves[bill.Id].Sum(m => m.Amount), bill.Amount.Currency);
        if (approved == accepted)
        {
            return;
        }

        var lines = (await BillStore.Lines(w.Db, bill.Id))
            .Select(l => new BillLine(l.Account, l.Description, l.Amount, l.LoadId, l.TruckId, l.DriverId, l.TripId))
            .ToList();
        var of = await Of(w, bill);
        await LedgerStore.Post(
            w,
            approved < accepted
                ? Postings.BillReduced(
                    await OpenItemStore.FirstDay(w, Accounts.Payable, bill.Id, w.Today, accepted - approved),
                    bill.Vendor,
                    bill.Number,
                    bill.Id,
                    VendorBill.Less(VendorBill.UpTo(lines, accepted), accepted - approved),
                    of
                )
                : Postings.BillIncreased(
                    w.Today,
                    bill.Vendor,
                    bill.Number,
                    bill.Id,
                    VendorBill.Less(VendorBill.UpTo(lines, approved), approved - accepted),
                    of
                )
        );
    }

    /// <summary>Reverses an approval, as long as nothing was paid.</summary>
    public static Task<Outcome<BillRow>> Unapprove(CommandContext w, long billId) =>
        Step(
            w,
            billId,
            b => b.UnapproveRefusal,
            async bill =>
            {
                await BillStore.Unapprove(w, billId);
                await LedgerStore.Reverse(
                    w,
                    EntrySource.BillReduction,
                    billId,
                    EntrySource.BillReduction,
                    $"Bill {bill.Number} from {bill.Vendor}: approval reversed"
                );
                await LedgerStore.Reverse(
                    w,
                    EntrySource.BillIncrease,
                    billId,
                    EntrySource.BillIncrease,
                    $"Bill {bill.Number} from {bill.Vendor}: approval reversed"
                );
                w.Record(
                    EventKinds.BillApprovalReversed,
                    billId,
                    $"Approval of bill {bill.Number} from {bill.Vendor} reversed",
                    loadId: bill.LoadId,
                    before: new
                    {
                        bill.Approved,
                        bill.ApprovedWhy,
                        bill.ApprovedBy,
                    }
                );
                return Problems.None;
            }
        );

    /// <summary>Charges a line of a bill back to an owner-operator: a deduction with the line's account.</summary>
    public static async Task<Outcome<BillRow>> ChargeBackLine(CommandContext w, long billId, ChargeBackRequest request)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill || bill.VoidedAt is not null)
        {
            return Problem.Missing("This bill");
        }

        if ((await BillStore.Lines(w.Db, billId)).FirstOrDefault(l => l.Line == request.Line) is not { } line)
        {
            return Problem.Missing("This line", "line");
        }

        if ((request.DriverId ?? line.DriverId) is not { } id || await FleetStore.Driver(w.Db, id, locked: true) is not { } driver)
        {
            return new Problem("missing", "Choose the owner-operator.", "driverId");
        }

        var item = ChargeBack.Of(
            bill.Number,
            bill.Vendor,
            line.Account,
            line.Description ?? line.AccountName,
            line.Amount - line.ChargedBack,
            request.Amount,
            driver.Name,
            driver.Worker,
            w.Today
        );
        if (!item.Ok)
        {
            return item.Problems;
        }

        await SettlementStore.AddItem(w, id, item.Value, (billId, line.Line));
        w.Record(
            EventKinds.PayItemAdded,
            id,
            $"{item.Value.Amount!.Value.Formatted} of bill {bill.Number} from {bill.Vendor} charged back to {driver.Name}",
            driverId: id
        );
        return (await BillStore.Get(w.Db, billId))!;
    }

    /// <summary>Voids a bill entered by mistake, before it is approved; or an expense.</summary>
    public static Task<Outcome<BillRow>> Void(CommandContext w, long billId) =>
        Step(
            w,
            billId,
            b => b.VoidRefusal,
            async bill =>
            {
                if (await TripExpenseStore.TripOf(w.Db, billId, null) is { } trip)
                {
                    return new Problem(
                        "expense.bill",
                        $"Bill {bill.Number} comes from an expense on trip {trip}: reopen or remove the expense there."
                    );
                }

                if ((await BillStore.Lines(w.Db, billId)).FirstOrDefault(l => l.ChargedBack.Amount > 0) is { } line)
                {
                    return new Problem(
                        "bill.charged.back",
                        $"{line.ChargedBack.Formatted} of bill {bill.Number} was charged back to a driver: remove that deduction first."
                    );
                }

                await BillStore.Void(w, billId);
                await (
                    bill.Spent
                        ? LedgerStore.Reverse(w, EntrySource.Expense, billId, EntrySource.ExpenseVoid, $"Expense at {bill.Vendor} voided")
                        : LedgerStore.Reverse(
                            w,
                            EntrySource.Bill,
                            billId,
                            EntrySource.BillVoid,
                            $"Bill {bill.Number} from {bill.Vendor} voided"
                        )
                );
                w.Record(EventKinds.BillVoid, billId, $"Bill {bill.Number} from {bill.Vendor} voided", loadId: bill.LoadId);
                return Problems.None;
            }
        );

    /// <summary>A bill as shown.</summary>
    public static async Task<BillView?> View(NpgsqlConnection db, long id, LocalDate today)
    {
        if (await BillStore.Get(db, id) is not { } bill)
        {
            return null;
        }

        var terms = (await CompanyStore.Get(db, bill.VendorId))!.Terms;
        var quick =
            bill.State.Status == BillStatus.Entered && terms.QuickPayPercent is not null
                ? terms.QuickPay(Money.Min(bill.Agreed ?? bill.Amount, bill.Amount), today).Value
                : null;
        return new BillView(
            bill,
            await BillStore.Lines(db, id),
            await VendorPaymentStore.OfBill(db, id),
            await DocumentStore.OfBill(db, id),
            (await VendorPaymentStore.ToPay(db, [id])).GetValueOrDefault(id)?.Hold?.Message,
            quick
        );
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
            return read.Problems;
        }

        var id = await DocumentStore.Add(w, null, DocumentKind.CarrierBill, read.Value.Name, read.Value.Type, bytes, billId);
        w.Record(
            EventKinds.BillAttached,
            billId,
            $"{read.Value.Name} attached to bill {bill.Number} from {bill.Vendor}",
            loadId: bill.LoadId
        );
        return (await DocumentStore.Get(w.Db, id))!;
    }

    /// <summary>A second person confirms what one person paid out alone.</summary>
    public static async Task<Outcome<List<SolePaymentRow>>> ConfirmSole(CommandContext w, SolePaymentKind kind, long id)
    {
        if (await SolePaymentStore.Get(w.Db, kind, id) is not { } payment)
        {
            return Problem.Missing("This payment");
        }

        if (payment.ConfirmRefusal(w.Actor.UserId) is { } refused)
        {
            return refused;
        }

        await SolePaymentStore.Confirm(w, kind, id);
        w.Record(
            kind == SolePaymentKind.Expense ? EventKinds.ExpenseConfirmed : EventKinds.AdvanceConfirmed,
            payment.SubjectId,
            $"Payment to {payment.What} confirmed"
        );
        return await SolePaymentStore.All(w.Db, w.Actor.UserId);
    }

    /// <summary>The company's limit for payments one person makes alone.</summary>
    internal static async Task CheckLimit(CommandContext w, SoleMoney kind, Money? amount, Validation validation)
    {
        // An amount in a currency nobody trades in is refused by its own check.
        if (
            amount is { } sum
            && await ExchangeStore.HasRate(w.Db, sum.Currency)
            && MoneyLimit.Refuses(
                kind,
                await ExchangeStore.InBooks(w.Db, sum, w.Today),
                (await CompanySettingsStore.Read(w.Db)).SoleLimit,
                w.Actor.May
            )
                is { } refused
        )
        {
            validation.AddRange([refused]);
        }
    }

    /// <summary>When, how and with what reference money goes out; checks two-person approval.</summary>
    internal static async Task<Payout> ReadPayout(CommandContext w, PayoutRequest request, Validation validation, long? approvedBy)
    {
        var payout = Payout.Check(request.PaidOn, request.Method, request.Reference, w.Today, validation);
        if (TwoPeople.Refuses(approvedBy, w.Actor.UserId, (await Business.Read(w.Db))!.TwoPeople) is { } same)
        {
            validation.AddRange([same]);
        }

        return payout;
    }

    /// <summary>A step in a bill's life: locks it, asks Core whether it may, does it, and settles the bill's load.</summary>
    private static async Task<Outcome<BillRow>> Step(
        CommandContext w,
        long billId,
        Func<BillState, Problem?> refusal,
        Func<BillRow, Task<Problems>> act
    )
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return NotHere;
        }

        if (refusal(bill.State) is { } refused)
        {
            return refused;
        }

        var problems = await act(bill);
        if (problems.Any)
        {
            return problems;
        }

        await Settle(w, bill.LoadId);
        return (await BillStore.Get(w.Db, billId))!;
    }

    private static Problem NotHere => Problem.Missing("This bill");

    /// <summary>The delivered leg a bill is for, with its load locked; null for any other bill.</summary>
    private static async Task<UnbilledLeg?> LegOf(CommandContext w, BillRequest request, Validation validation)
    {
        var leg = request.LegId is { } id ? await BillStore.LegForBill(w.Db, id) : null;
        if (leg is not null)
        {
            await LoadWrites.Lock(w.Db, leg.LoadId);
        }
        else if (request.LegId is not null || request.VendorId is null)
        {
            validation.Add(
                "leg.unknown",
                "Choose a vendor, or a delivered load moved by a carrier.",
                request.LegId is null ? "vendorId" : "legId"
            );
        }

        return leg;
    }

    /// <summary>Loads, trips, trucks and drivers that the lines name and that do not exist.</summary>
    private static async Task<Problems> Missing(CommandContext w, IReadOnlyList<BillLine> lines)
    {
        var validation = new Validation();
        for (var i = 0; i < lines.Count; i++)
        {
            foreach (
                var (kind, id, field) in new[]
                {
                    (RecordKind.Load, lines[i].LoadId, "loadId"),
                    (RecordKind.Truck, lines[i].TruckId, "truckId"),
                    (RecordKind.Driver, lines[i].DriverId, "driverId"),
                    (RecordKind.Trip, lines[i].TripId, "tripId"),
                }
            )
            {
                if (id is { } key && !await Records.Exists(w.Db, kind, key))
                {
                    validation.Add("unknown", $"This {kind.ToString().ToLowerInvariant()} was not found.", $"lines[{i}].{field}");
                }
            }
        }

        return validation.Problems;
    }

    internal static async Task<Dimensions> Of(CommandContext w, BillRow bill) =>
        bill.LegId is null && !(await CompanyStore.Get(w.Db, bill.VendorId))!.IsCarrier
            ? new Dimensions(VendorId: bill.VendorId)
            : new Dimensions(LoadId: bill.LoadId, CarrierId: bill.VendorId);

    internal static async Task Settle(CommandContext w, long? loadId)
    {
        if (loadId is { } load)
        {
            await LoadWrites.Settle(w, load);
        }
    }
}
