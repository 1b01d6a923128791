using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;

namespace SteadyLark.Core.Trips;

/// <summary>Who paid an expense on the road, and so where it goes.</summary>
public enum PaidBy
{
    /// <summary>Owed to the card's issuer, on account 2060.</summary>
    CompanyCard,

    /// <summary>Reimbursed with the driver's settlement.</summary>
    Driver,

    /// <summary>A bill of the vendor.</summary>
    OnAccount,

    /// <summary>Counted in the trip's cost and not posted, as the vendor's statement is entered as a bill.</summary>
    Separately,
}

/// <summary>Where an expense stands.</summary>
public enum ExpenseState
{
    /// <summary>Entered by a driver or dispatch; counted in the trip's cost, not posted yet.</summary>
    Reported,

    /// <summary>Posted to the ledger.</summary>
    Approved,
    Declined,
    Removed,
}

public static class Expenses
{
    /// <summary>The name of a kind, in a sentence.</summary>
    public static string Format(this CostKind kind) =>
        kind switch
        {
            CostKind.ReeferFuel => "reefer fuel",
            CostKind.Toll => "tolls",
            _ => kind.ToString().ToLowerInvariant(),
        };

    /// <summary>Whether gallons and state are recorded: fuel for the truck and for the trailer's refrigeration unit.</summary>
    public static bool IsFuel(this CostKind kind) => kind is CostKind.Fuel or CostKind.ReeferFuel;

    /// <summary>The account an expense goes to, unless another is chosen.</summary>
    public static string Account(this CostKind kind) =>
        kind switch
        {
            CostKind.Fuel => "5200",
            CostKind.ReeferFuel => "5290",
            CostKind.Toll or CostKind.Scale => "5300",
            CostKind.Lumper => "5350",
            CostKind.Lodging or CostKind.Parking => "5370",
            CostKind.Repair => "5400",
            _ => "5390",
        };
}

/// <summary>An expense as entered.</summary>
/// <param name="On">The day on the receipt.</param>
/// <param name="Place">Who was paid: the name on the receipt.</param>
/// <param name="Region">The state or province, two letters. Required for fuel.</param>
/// <param name="Price">For a gallon or liter.</param>
/// <param name="DriverId">The trip's driver when null.</param>
/// <param name="VendorId">Who sends the bill, for an expense on account.</param>
/// <param name="Reference">The receipt's number; for an expense on account the vendor's invoice number.</param>
/// <param name="LoadId">The load it is for; shared by all loads of the trip when null.</param>
/// <param name="ChargeBack">Whether an owner-operator bears it; when null, as the lease says: fuel, tolls, scales, parking, washes and
/// repairs.</param>
/// <param name="Account">The usual one of its kind when null.</param>
public sealed record ExpenseOrder(
    CostKind? Kind,
    LocalDate? On,
    Money? Amount,
    PaidBy? PaidBy,
    string? Place,
    string? Region,
    decimal? Quantity,
    VolumeUnit? Unit,
    decimal? Price,
    long? DriverId,
    long? VendorId,
    string? Reference,
    long? LoadId,
    bool? ChargeBack,
    string? Account,
    string? Note
);

/// <summary>A driver of the trip an expense is on.</summary>
public sealed record ExpenseDriver(long Id, string Name, WorkerKind Worker);

/// <summary>A leg that bears a part of an expense.</summary>
/// <param name="Miles">Loaded, whole miles.</param>
public sealed record ExpenseLeg(long LegId, long LoadId, string Load, int Miles);

/// <summary>The trip an expense is on.</summary>
/// <param name="From">The day it begins, as planned.</param>
/// <param name="Until">The day it ended; null while it is not over.</param>
/// <param name="Drivers">One, or the two of a team; the trip's driver first.</param>
/// <param name="Legs">In the order in which they were put on the trip.</param>
public sealed record ExpenseTrip(
    long Id,
    string Number,
    bool IsCanceled,
    LocalDate From,
    LocalDate? Until,
    long TruckId,
    IReadOnlyList<ExpenseDriver> Drivers,
    IReadOnlyList<ExpenseLeg> Legs,
    bool IsClosed = false
)
{
    /// <summary>Why its expenses cannot change; null when they can.</summary>
    public Problem? ClosedRefusal =>
        IsClosed ? new Problem("trip.closed", $"Trip {Number} is closed: reopen it before its expenses change.") : null;
}

/// <summary>An expense that can be stored.</summary>
public sealed record TripExpense(
    CostKind Kind,
    LocalDate On,
    Money Amount,
    PaidBy PaidBy,
    string? Place,
    string? Region,
    FuelBought? Fuel,
    ExpenseDriver Driver,
    long? VendorId,
    string? Reference,
    long? LoadId,
    bool ChargeBack,
    string Account,
    string? Note
)
{
    /// <summary>How many days before a trip begins, or after it ended, something may be bought for it.</summary>
    public const int DaysAround = 7;

    /// <summary>In a sentence: fuel of $389.40 at Gorge Fuel, Biggs OR.</summary>
    public string Summary => $"{Kind.Format()} of {Amount.Formatted}{(Where is { } at ? $" at {at}" : "")}";

    private string? Where => Place is null ? Region : $"{Place}{(Region is null ? "" : $" {Region}")}";

    /// <summary>Why a driver may not enter it so on the phone; null when they may.</summary>
    public static Problem? DriverRefusal(PaidBy? paidBy) =>
        paidBy is Trips.PaidBy.CompanyCard or Trips.PaidBy.Driver
            ? null
            : new Problem("missing", "Say who paid: the company card, or you.", "paidBy");

    /// <summary>Checks an expense. A fuel receipt names date, seller, state, quantity, price and amount, which a fuel tax report has to show
    /// (IFTA Procedures Manual P560).</summary>
    /// <param name="today">In the company's time zone.</param>
    /// <param name="same">The trip of an expense with the same receipt number, amount and day; null when there is none.</param>
    /// <param name="validation">In the currency of the expense.</param>
    public static Outcome<TripExpense> Check(
        ExpenseOrder order,
        ExpenseTrip trip,
        LocalDate today,
        IReadOnlyList<Account> chart,
        string? same,
        Validation validation
    )
    {
        if (trip.ClosedRefusal is { } closed)
        {
            return closed;
        }

        if (trip.IsCanceled)
        {
            return new Problem("trip.canceled", $"Trip {trip.Number} is canceled: enter the expense on the trip it was made on.");
        }

        if (order.Kind is null)
        {
            validation.Add("missing", "Choose what was paid for.", "kind");
        }

        CheckDay(order.On, trip, today, validation);
        var place = validation.Text(order.Place, "place", "Who was paid", 120);
        var region = validation.Text(order.Region, "region", "The state", 2)?.ToUpperInvariant();
        if (region is not null && Regions.Of(region.ToLowerInvariant()) is null)
        {
            validation.Add("region", $"{region} is not a state or province: enter two letters, such as OR.", "region");
        }
        else if (region is null && order.Kind is { } bought && bought.IsFuel())
        {
            validation.Add("missing", "Enter the state or province where the fuel was bought.", "region");
        }

        var (fuel, amount) = ReadAmount(order, validation);
        var driver = order.DriverId is { } id ? trip.Drivers.FirstOrDefault(d => d.Id == id) : trip.Drivers[0];
        if (driver is null)
        {
            validation.Add("driver.other", $"Choose a driver of trip {trip.Number}.", "driverId");
        }

        if (order.LoadId is { } load && trip.Legs.All(l => l.LoadId != load))
        {
            validation.Add("load.other", $"This load is not on trip {trip.Number}.", "loadId");
        }

        var reference = Payment(order, amount, same, validation);
        var note = validation.Text(order.Note, "note", "The note", 200);
        var account = order.Account ?? order.Kind?.Account();
        if (account is not null && ChartOfAccounts.Refuses(account, "account", chart) is { } refused)
        {
            validation.AddRange([refused]);
        }

        var bears = ChargesBack(order, driver, validation);
        return validation.Ok
            ? new TripExpense(
                order.Kind!.Value,
                order.On!.Value,
                amount,
                order.PaidBy!.Value,
                place,
                region,
                fuel,
                driver!,
                order.PaidBy == Trips.PaidBy.OnAccount ? order.VendorId : null,
                reference,
                order.LoadId,
                bears,
                account!,
                note
            )
            : validation.Problems;
    }

    private static void CheckDay(LocalDate? day, ExpenseTrip trip, LocalDate today, Validation validation)
    {
        validation.Date(day, today, "on", "The date");
        if (day is not { } on)
        {
            return;
        }

        if (on > today)
        {
            validation.Add("date.ahead", $"{on:MMM d} is ahead: enter the date on the receipt.", "on");
        }
        else if (on < trip.From.PlusDays(-DaysAround))
        {
            validation.Add(
                "date.before",
                $"Trip {trip.Number} begins {trip.From:MMM d}: check the date, or enter this on an earlier trip.",
                "on"
            );
        }
        else if (trip.Until is { } until && on > until.PlusDays(DaysAround))
        {
            validation.Add("date.after", $"Trip {trip.Number} ended {until:MMM d}: check the date, or enter this on a later trip.", "on");
        }
    }

    private static (FuelBought? Fuel, Money Amount) ReadAmount(ExpenseOrder order, Validation validation)
    {
        if (order.Kind?.IsFuel() == true)
        {
            var read = FuelBought.Read(order.Quantity, order.Unit, order.Price, order.Amount, validation);
            return (read?.Fuel, read?.Amount ?? Money.Zero());
        }

        if (order.Quantity is not null || order.Price is not null)
        {
            validation.Add("quantity", "Gallons and price are for fuel: leave them empty.", order.Quantity is null ? "price" : "quantity");
        }

        validation.Dollars(order.Amount, "amount", "The amount");
        return (null, order.Amount ?? Money.Zero());
    }

    /// <summary>Who paid, and the receipt.</summary>
    /// <returns>The reference.</returns>
    private static string? Payment(ExpenseOrder order, Money amount, string? same, Validation validation)
    {
        if (order.PaidBy is null)
        {
            validation.Add("missing", "Choose who paid: company card, driver, on account, or a separate bill.", "paidBy");
        }

        var account = order.PaidBy == Trips.PaidBy.OnAccount;
        if (account && order.VendorId is null)
        {
            validation.Add("missing", "Choose the vendor who sends the bill.", "vendorId");
        }

        var reference = validation.Text(
            order.Reference,
            "reference",
            account ? "The vendor's invoice number" : "The receipt number",
            60,
            required: account
        );
        if (same is not null && reference is not null)
        {
            validation.Add(
                "expense.twice",
                $"Receipt {reference} of {amount.Formatted} was already entered on trip {same}: check for a duplicate.",
                "reference"
            );
        }

        return reference;
    }

    private static bool ChargesBack(ExpenseOrder order, ExpenseDriver? driver, Validation validation)
    {
        var ours = order.PaidBy is Trips.PaidBy.CompanyCard or Trips.PaidBy.OnAccount;
        var leased = driver?.Worker == WorkerKind.OwnerOperator;
        if (order.ChargeBack == true && !leased)
        {
            validation.Add("not.lease", $"{driver?.Name} is not an owner-operator: only a lease allows charging back.", "chargeBack");
        }
        else if (order.ChargeBack == true && !ours)
        {
            validation.Add("charge.back.unpaid", "Only what the company pays can be charged back to the driver.", "chargeBack");
        }

        return order.ChargeBack ?? (leased && ours && order.Kind is not (CostKind.Lumper or CostKind.Lodging or CostKind.Other));
    }

    /// <summary>The part of an expense that each leg of its trip bears, by miles; all of it the legs of its load when it is for
    /// one.</summary>
    /// <returns>Parts above zero that add up to the amount; none when the trip has no legs left.</returns>
    /// <example>$90.00 over legs of 100 and 200 miles: $30.00 and $60.00.</example>
    public static IReadOnlyList<(ExpenseLeg Leg, Money Amount)> Shares(Money amount, long? loadId, IReadOnlyList<ExpenseLeg> legs)
    {
        var bearing = legs.Where(l => l.LoadId == loadId).ToList() is { Count: > 0 } own ? own : legs;
        return bearing.Count == 0
            ? []
            : bearing.Zip(amount.Split(bearing.Select(l => (decimal)l.Miles).ToList())).Where(s => s.Second.Amount > 0).ToList();
    }

    /// <summary>The dimensions and amounts an expense is posted with: by load, with trip, truck and driver.</summary>
    /// <param name="amount">In the currency it is posted in.</param>
    public IReadOnlyList<(Dimensions For, Money Amount)> Lines(Money amount, ExpenseTrip trip)
    {
        var of = new Dimensions(DriverId: Driver.Id, TruckId: trip.TruckId, TripId: trip.Id);
        var shares = Shares(amount, LoadId, trip.Legs);
        return shares.Count == 0
            ? [(of, amount)]
            : shares
                .GroupBy(s => s.Leg.LoadId)
                .Select(g => (of with { LoadId = g.Key }, Money.Sum(g.Select(s => s.Amount), amount.Currency)))
                .ToList();
    }

    /// <summary>What the driver's settlement takes of it: a reimbursement of what they paid, or a deduction of what they bear; null for
    /// neither.</summary>
    /// <param name="booked">In US dollars.</param>
    public PayItem? PayItem(Money booked, ExpenseTrip trip)
    {
        var what = $"{Summary}, trip {trip.Number}".Capitalized().Shortened(120);
        return PaidBy == Trips.PaidBy.Driver
                ? new PayItem(0, PayItemKind.Reimbursement, On, what, null, booked, Accounts.ReimbursementsPayable.Code, LoadId)
            : ChargeBack ? new PayItem(0, PayItemKind.Deduction, On, what, null, booked, Account, LoadId)
            : null;
    }
}

/// <summary>What can be done with an expense.</summary>
/// <param name="Summary">As in <see cref="TripExpense.Summary"/>.</param>
public sealed record ExpenseStatus(ExpenseState State, string Summary)
{
    /// <summary>Why it cannot be approved or declined; null when it can.</summary>
    public Problem? DecideRefusal => State == ExpenseState.Reported ? null : Refused();

    /// <summary>Why it cannot be reported again; null when it can: a decision, or a removal, is taken back.</summary>
    public Problem? ReopenRefusal => State == ExpenseState.Reported ? Refused() : null;

    /// <summary>Why it cannot be removed; null when it can: what is posted by those who may enter bills, anything else by those who
    /// may report it.</summary>
    /// <param name="mayPost">Whether the user may enter bills.</param>
    public Problem? RemoveRefusal(bool mayPost) =>
        State == ExpenseState.Removed ? Refused()
        : State == ExpenseState.Approved && !mayPost
            ? new Problem(
                "expense.posted",
                $"The expense, {Summary}, is approved and posted: ask someone who may enter bills to remove it."
            )
        : null;

    /// <summary>Why nothing can be taken back once a settlement includes it.</summary>
    public Problem Settled(string driver) =>
        new("expense.settled", $"An approved settlement of {driver} includes the {Summary}: reverse its approval first.");

    private Problem Refused() =>
        new(
            "expense.state",
            $"The expense, {Summary}, is {(State == ExpenseState.Reported ? "not decided yet" : $"already {State.ToString().ToLowerInvariant()}")}."
        );
}
