using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Paying;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Documents;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <param name="On">The day on the receipt.</param>
/// <param name="Amount">For fuel, two of quantity, price and amount are enough.</param>
/// <param name="Place">Who was paid.</param>
/// <param name="Region">The state or province; required for fuel.</param>
/// <param name="Unit">US gallons when omitted.</param>
/// <param name="Price">For a gallon or liter.</param>
/// <param name="DriverId">The trip's driver when omitted.</param>
/// <param name="VendorId">Who sends the bill, for an expense on account.</param>
/// <param name="Reference">The receipt's number, or the vendor's invoice number.</param>
/// <param name="LoadId">The load it is for; shared by all loads of the trip when omitted.</param>
/// <param name="ChargeBack">Whether an owner-operator bears it; by its kind when omitted.</param>
/// <param name="Account">The usual one of its kind when omitted.</param>
public sealed record ExpenseRequest(
    CostKind? Kind,
    LocalDate? On,
    Money? Amount,
    PaidBy? PaidBy,
    string? Place = null,
    string? Region = null,
    decimal? Quantity = null,
    VolumeUnit? Unit = null,
    decimal? Price = null,
    long? DriverId = null,
    long? VendorId = null,
    string? Reference = null,
    long? LoadId = null,
    bool? ChargeBack = null,
    string? Account = null,
    string? Note = null
)
{
    internal ExpenseOrder Order =>
        new(
            Kind,
            On,
            Amount,
            PaidBy,
            Place,
            Region,
            Quantity,
            Unit,
            Price,
            DriverId,
            VendorId,
            Reference,
            LoadId,
            ChargeBack,
            Account,
            Note
        );
}

/// <param name="Reason">Why it is declined; the driver reads it.</param>
public sealed record DeclineExpenseRequest(string? Reason);

/// <summary>A trip's expenses, and what was planned next to what was spent.</summary>
public sealed record TripExpensesView(IReadOnlyList<SpendingLine> Lines, IReadOnlyList<TripExpenseRow> Expenses);

/// <summary>Expenses on trips: reported, approved and posted, declined, removed.</summary>
public static class ExpenseCommands
{
    /// <summary>Enters an expense. Who may enter bills approves it at once; anyone else reports it.</summary>
    /// <param name="ofDriver">The driver who reports it on the phone; null in the office.</param>
    public static async Task<Outcome<TripExpenseRow>> Enter(CommandContext w, long tripId, ExpenseRequest request, long? ofDriver = null)
    {
        if (await Trip(w, tripId) is not { } trip)
        {
            return Problem.Missing("This trip");
        }

        var currency = request.Amount?.Currency ?? Currency.USD;
        var validation = new Validation { Currency = currency };
        if (!await ExchangeStore.HasRate(w.Db, currency))
        {
            validation.Add("rate.missing", $"Enter an exchange rate of {currency.Format()} in Ledger first.", "amount");
        }

        if (request.VendorId is { } vendor)
        {
            CheckVendor(await CompanyStore.Get(w.Db, vendor), currency, validation);
        }

        var order = request.Order;
        if (ofDriver is { } own)
        {
            order = order with { DriverId = own, ChargeBack = null, Account = null };
            validation.AddRange(TripExpense.DriverRefusal(order.PaidBy) is { } refused ? [refused] : []);
        }

        var same = request.Amount is { } sum ? await TripExpenseStore.Same(w.Db, request.Reference, sum, request.On) : null;
        var checkedExpense = TripExpense.Check(order, trip, w.Today, await LedgerStore.Chart(w.Db), same, validation);
        if (!checkedExpense.Ok)
        {
            return checkedExpense.Problems;
        }

        var expense = checkedExpense.Value;
        var booked = await ExchangeStore.InBooks(w.Db, expense.Amount, expense.On);
        var id = await TripExpenseStore.Add(w, trip, expense, booked);
        if (ofDriver is null && w.Actor.May(Right.PayingEnter))
        {
            var posted = await Post(w, id, trip, expense, booked);
            if (posted.Any)
            {
                return AtEntry(posted);
            }

            Record(w, EventKinds.ExpenseApproved, trip, $"Trip {trip.Number}: {expense.Summary}");
        }
        else
        {
            Record(w, EventKinds.ExpenseReported, trip, $"Trip {trip.Number}: {expense.Summary} reported by {w.Actor.Name}");
        }

        await LegCosts.OfTrip(w, tripId);
        return (await TripExpenseStore.Get(w.Db, id))!;
    }

    public static Task<Outcome<TripExpenseRow>> Approve(CommandContext w, long id) =>
        Step(
            w,
            id,
            s => s.DecideRefusal,
            async (row, trip) =>
            {
                var expense = row.AsExpense(trip.Drivers.FirstOrDefault(d => d.Id == row.DriverId)?.Worker ?? default);
                var problems = await Post(w, id, trip, expense, row.Booked);
                Record(w, EventKinds.ExpenseApproved, trip, $"Trip {trip.Number}: {expense.Summary} approved");
                return problems;
            }
        );

    public static Task<Outcome<TripExpenseRow>> Decline(CommandContext w, long id, DeclineExpenseRequest request) =>
        Step(
            w,
            id,
            s => s.DecideRefusal,
            async (row, trip) =>
            {
                var validation = new Validation();
                var reason = validation.Text(request.Reason, "reason", "The reason", 200, required: true);
                if (validation.Ok)
                {
                    await TripExpenseStore.Decide(w, id, ExpenseState.Declined, reason);
                    Record(w, EventKinds.ExpenseDeclined, trip, $"Trip {trip.Number}: {Summary(row)} declined, {reason}");
                }

                return validation.Problems;
            }
        );

    /// <summary>Reverses a decision or a removal: the expense is reported again, and what it posted is reversed.</summary>
    public static Task<Outcome<TripExpenseRow>> Reopen(CommandContext w, long id) =>
        Step(
            w,
            id,
            s => s.ReopenRefusal,
            async (row, trip) =>
            {
                var problems = await TakeBack(w, row, trip, ExpenseState.Reported);
                Record(w, EventKinds.ExpenseReopened, trip, $"Trip {trip.Number}: {Summary(row)} reopened");
                return problems;
            }
        );

    /// <summary>Removes an expense entered by mistake; what it posted is reversed.</summary>
    public static Task<Outcome<TripExpenseRow>> Remove(CommandContext w, long id) =>
        Step(
            w,
            id,
            s => s.RemoveRefusal(w.Actor.May(Right.PayingEnter)),
            async (row, trip) =>
            {
                var problems = await TakeBack(w, row, trip, ExpenseState.Removed);
                Record(w, EventKinds.ExpenseRemoved, trip, $"Trip {trip.Number}: {Summary(row)} removed");
                return problems;
            }
        );

    /// <summary>Adds the receipt.</summary>
    public static async Task<Outcome<DocumentRow>> Attach(CommandContext w, long id, string fileName, byte[] bytes, long? ofDriver = null)
    {
        if (await TripExpenseStore.Get(w.Db, id, locked: true) is not { } row || (ofDriver is { } own && row.DriverId != own))
        {
            return NotHere;
        }

        var read = await DocumentCommands.Read(fileName, bytes);
        if (!read.Ok)
        {
            return read.Problems;
        }

        var document = await DocumentStore.Add(w, null, DocumentKind.Receipt, read.Value.Name, read.Value.Type, bytes, expenseId: id);
        if (await TripExpenseStore.Trip(w.Db, row.TripId, w.Zone) is { } trip)
        {
            Record(w, DocumentRights.Added(DocumentKind.Receipt), trip, $"Trip {trip.Number}: receipt added to {Summary(row)}");
        }

        return (await DocumentStore.Get(w.Db, document))!;
    }

    /// <summary>A trip's expenses; null when there is no such trip.</summary>
    public static async Task<TripExpensesView?> View(NpgsqlConnection db, long tripId)
    {
        if (await ItineraryStore.Trip(db, tripId) is null)
        {
            return null;
        }

        var (fuel, tolls, others) = await TripExpenseStore.Planned(db, tripId);
        var spent = (await TripExpenseStore.Spent(db, [tripId]))[tripId].ToList();
        return new TripExpensesView(TripSpending.Lines(fuel, tolls, others, spent), await TripExpenseStore.OfTrip(db, tripId));
    }

    /// <summary>A step of an expense: locks its trip's loads and itself, asks Core whether it may, and does it.</summary>
    private static async Task<Outcome<TripExpenseRow>> Step(
        CommandContext w,
        long id,
        Func<ExpenseStatus, Problem?> refusal,
        Func<TripExpenseRow, ExpenseTrip, Task<Problems>> act
    )
    {
        if (await TripExpenseStore.Get(w.Db, id) is not { } found || await Trip(w, found.TripId) is not { } trip)
        {
            return NotHere;
        }

        var row = (await TripExpenseStore.Get(w.Db, id, locked: true))!;
        if ((trip.ClosedRefusal ?? refusal(new ExpenseStatus(row.State, Summary(row)))) is { } refused)
        {
            return refused;
        }

        var problems = await act(row, trip);
        if (problems.Any)
        {
            return problems;
        }

        await LegCosts.OfTrip(w, row.TripId);
        return (await TripExpenseStore.Get(w.Db, id))!;
    }

    /// <summary>Posts an expense: as a bill, on the company card, or for the driver's settlement.</summary>
    private static async Task<Problems> Post(CommandContext w, long id, ExpenseTrip trip, TripExpense expense, Money booked)
    {
        long? bill = null;
        if (expense.PaidBy == PaidBy.OnAccount)
        {
            var lines = expense
                .Lines(expense.Amount, trip)
                .Select(l => new BillLineOrder(
                    expense.Account,
                    expense.Kind.Format(),
                    l.Amount,
                    l.For.LoadId,
                    l.For.TruckId,
                    l.For.DriverId,
                    l.For.TripId
                ));
            var entered = await BillCommands.Enter(
                w,
                new BillRequest(
                    null,
                    expense.Reference,
                    expense.On,
                    expense.Amount,
                    expense.VendorId,
                    Lines: lines.ToList(),
                    Note: expense.Note
                )
            );
            if (!entered.Ok)
            {
                return entered.Problems;
            }

            bill = entered.Value.Id;
        }

        long? item = expense.PayItem(booked, trip) is { } pay ? await SettlementStore.AddItem(w, expense.Driver.Id, pay) : null;
        if (expense.PaidBy is PaidBy.CompanyCard or PaidBy.Driver)
        {
            await LedgerStore.Post(
                w,
                Postings.TripExpense(
                    await LedgerStore.PostingDay(w, expense.On),
                    $"Trip {trip.Number}: {expense.Summary}",
                    id,
                    expense.Account,
                    expense.Lines(booked, trip),
                    expense.Driver.Id,
                    expense.PaidBy == PaidBy.Driver ? item : null
                )
            );
        }

        await TripExpenseStore.Decide(w, id, ExpenseState.Approved, payItem: item, bill: bill);
        return Problems.None;
    }

    /// <summary>Gives an expense another state and reverses what it posted, as long as nothing was paid of it.</summary>
    private static async Task<Problems> TakeBack(CommandContext w, TripExpenseRow row, ExpenseTrip trip, ExpenseState state)
    {
        // Bill and pay item are not the expense's any more, so that they may go.
        await TripExpenseStore.Decide(w, row.Id, state);
        if (row.PayItemId is { } item && await SettlementStore.VoidItem(w, item) is null)
        {
            return new ExpenseStatus(row.State, Summary(row)).Settled(row.Driver);
        }

        if (row.BillId is { } bill && await BillCommands.Void(w, bill) is { Ok: false } kept)
        {
            return kept.Problems;
        }

        await LedgerStore.Reverse(
            w,
            EntrySource.TripExpense,
            row.Id,
            EntrySource.TripExpense,
            $"Trip {trip.Number}: {Summary(row)} reversed"
        );
        return Problems.None;
    }

    private static void CheckVendor(CompanyRow? vendor, Currency currency, Validation validation)
    {
        if (vendor is null)
        {
            validation.Add("unknown", "This vendor is not in the address book.", "vendorId");
        }
        else if (vendor.Currency != currency)
        {
            validation.Add("currency", $"{vendor.Name} bills in {vendor.Currency.Format()}: enter the amount so.", "amount");
        }
    }

    /// <summary>Problems of the vendor's bill, by the fields of the expense.</summary>
    private static Problems AtEntry(Problems problems) =>
        new(
            problems.Select(p =>
                p with
                {
                    Field =
                        p.Field is "number" ? "reference"
                        : p.Field is "vendorId" ? p.Field
                        : null,
                }
            )
        );

    /// <summary>The trip of an expense, with its loads locked.</summary>
    private static async Task<ExpenseTrip?> Trip(CommandContext w, long tripId)
    {
        var legs = (await ItineraryStore.Legs(w.Db, [tripId])).GetValueOrDefault(tripId)?.Legs ?? [];
        await LoadWrites.Lock(w.Db, legs.Select(l => l.LoadId));
        return await TripExpenseStore.Trip(w.Db, tripId, w.Zone);
    }

    private static string Summary(TripExpenseRow row) => row.AsExpense(default).Summary;

    private static void Record(CommandContext w, EventKind kind, ExpenseTrip trip, string summary)
    {
        if (trip.Legs.Count == 0)
        {
            w.Record(kind, trip.Id, summary, driverId: trip.Drivers[0].Id, subject: "trip");
        }

        foreach (var load in trip.Legs.Select(l => l.LoadId).Distinct())
        {
            w.Record(kind, load, summary, loadId: load, driverId: trip.Drivers[0].Id);
        }
    }

    private static Problem NotHere => Problem.Missing("This expense");
}
