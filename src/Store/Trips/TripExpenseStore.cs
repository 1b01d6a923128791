using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Store.Trips;

/// <summary>An expense on a trip.</summary>
/// <param name="LoadId">The load it is for; null when all loads of the trip share it.</param>
/// <param name="Price">For a gallon or liter, in the currency of the amount.</param>
/// <param name="Booked">In US dollars.</param>
/// <param name="Reason">Why it was declined.</param>
/// <param name="ReceiptId">The document, if one was added.</param>
public sealed record TripExpenseRow(
    long Id,
    long TripId,
    string Trip,
    long? LoadId,
    string? Load,
    CostKind Kind,
    LocalDate On,
    string? Place,
    string? Region,
    decimal? Quantity,
    VolumeUnit? Unit,
    decimal? Price,
    [property: SeenWith(Right.MarginsSee)] Money Amount,
    [property: SeenWith(Right.MarginsSee)] Money Booked,
    PaidBy PaidBy,
    long DriverId,
    string Driver,
    string Truck,
    long? VendorId,
    string? Vendor,
    string? Reference,
    string Account,
    string AccountName,
    string? Note,
    bool ChargeBack,
    ExpenseState State,
    string ReportedBy,
    Instant ReportedAt,
    string? DecidedBy,
    Instant? DecidedAt,
    string? Reason,
    long? PayItemId,
    long? BillId,
    long? ReceiptId
)
{
    /// <summary>As it was checked when it was entered.</summary>
    public TripExpense AsExpense(WorkerKind worker) =>
        new(
            Kind,
            On,
            Amount,
            PaidBy,
            Place,
            Region,
            Quantity is { } quantity ? new FuelBought(quantity, Unit!.Value, Price!.Value) : null,
            new ExpenseDriver(DriverId, Driver, worker),
            VendorId,
            Reference,
            LoadId,
            ChargeBack,
            Account,
            Note
        );
}

/// <summary>Expenses on trips.</summary>
public static class TripExpenseStore
{
    private const string Select = """
        select x.*, t.number as trip, l.number as load, d.name as driver, k.unit as truck, v.name as vendor, a.name as account_name,
            (select max(p.id) from documents p where p.expense_id = x.id and p.removed_at is null) as receipt_id
        from trip_expenses x join trips t on t.id = x.trip_id join drivers d on d.id = x.driver_id join trucks k on k.id = x.truck_id
        join accounts a on a.code = x.account left join loads l on l.id = x.load_id left join companies v on v.id = x.vendor_id
        """;

    /// <summary>An expense; null when there is none.</summary>
    /// <param name="locked">One command at a time for this expense.</param>
    public static async Task<TripExpenseRow?> Get(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from trip_expenses where id = @id for update", ("id", id));
        }

        return await db.Row(Select + " where x.id = @id", Read, ("id", id));
    }

    /// <summary>A trip's expenses, oldest first, without those that were removed.</summary>
    public static Task<List<TripExpenseRow>> OfTrip(NpgsqlConnection db, long tripId) =>
        db.Rows(Select + " where x.trip_id = @trip and x.state <> 'removed' order by x.spent_on, x.id", Read, ("trip", tripId));

    /// <summary>A driver's expenses since a day, newest first, without those that were removed.</summary>
    public static Task<List<TripExpenseRow>> OfDriver(NpgsqlConnection db, long driverId, LocalDate since) =>
        db.Rows(
            Select + " where x.driver_id = @driver and x.spent_on >= @since and x.state <> 'removed' order by x.spent_on desc, x.id desc",
            Read,
            ("driver", driverId),
            ("since", since)
        );

    /// <summary>Expenses that wait for a decision, oldest first.</summary>
    public static Task<List<TripExpenseRow>> Reported(NpgsqlConnection db, int max = 500) =>
        db.Rows(Select + " where x.state = 'reported' order by x.id limit @max", Read, ("max", max));

    /// <summary>How many expenses wait for a decision.</summary>
    public static Task<int> CountReported(NpgsqlConnection db) =>
        db.One<int>("select count(*)::int from trip_expenses where state = 'reported'");

    /// <summary>The number of the trip whose expense a bill or pay item comes from; null when it comes from none.</summary>
    public static async Task<string?> TripOf(NpgsqlConnection db, long? billId, long? payItemId) =>
        (
            await db.Rows(
                "select t.number from trip_expenses x join trips t on t.id = x.trip_id where x.bill_id = @bill or x.pay_item_id = @item",
                r => r.Text("number"),
                ("bill", billId),
                ("item", payItemId)
            )
        ).FirstOrDefault();

    /// <summary>The trip on which the same receipt was entered; null when it was not.</summary>
    public static async Task<string?> Same(NpgsqlConnection db, string? reference, Money amount, LocalDate? on) =>
        string.IsNullOrWhiteSpace(reference)
            ? null
            : (
                await db.Rows(
                    """
                    select t.number from trip_expenses x join trips t on t.id = x.trip_id where lower(x.reference) = lower(@reference)
                    and x.amount = @amount and x.spent_on = @on and x.state in ('reported', 'approved') limit 1
                    """,
                    r => r.Text("number"),
                    ("reference", reference.Trim()),
                    ("amount", amount),
                    ("on", on)
                )
            ).FirstOrDefault();

    /// <summary>The trip an expense is on, as it is decided by; null when there is none.</summary>
    public static async Task<ExpenseTrip?> Trip(NpgsqlConnection db, long tripId, DateTimeZone zone)
    {
        if (await ItineraryStore.Trip(db, tripId) is not { } trip)
        {
            return null;
        }

        var legs = (await Legs(db, [tripId]))[tripId].ToList();
        return new ExpenseTrip(
            tripId,
            trip.Number,
            trip.CanceledAt is not null,
            (trip.StartedAt ?? trip.From).InZone(zone).Date,
            trip.EndedAt?.InZone(zone).Date,
            trip.TruckId,
            [
                new ExpenseDriver(trip.DriverId, trip.Driver, trip.Worker),
                .. trip.CodriverId is { } other
                    ? [new ExpenseDriver(other, trip.Codriver!, trip.CodriverWorker!.Value)]
                    : (ExpenseDriver[])[],
            ],
            legs,
            trip.ClosedAt is not null
        );
    }

    /// <summary>The legs of trips, by trip, as expenses are shared over them.</summary>
    internal static async Task<ILookup<long, ExpenseLeg>> Legs(NpgsqlConnection db, long[] trips) =>
        (
            await db.Rows(
                "select g.id, g.trip_id, g.load_id, g.miles, l.number from legs g join loads l on l.id = g.load_id where g.trip_id = any(@trips) order by g.id",
                r => (Trip: r.Long("trip_id"), Leg: new ExpenseLeg(r.Long("id"), r.Long("load_id"), r.Text("number"), r.Int("miles"))),
                ("trips", trips)
            )
        ).ToLookup(x => x.Trip, x => x.Leg);

    /// <summary>What was spent on trips, by trip: reported or approved, and not borne by an owner-operator.</summary>
    public static async Task<ILookup<long, SpentOnTrip>> Spent(NpgsqlConnection db, long[] trips) =>
        (
            await db.Rows(
                """
                select trip_id, kind, load_id, booked, quantity, unit, price from trip_expenses
                where trip_id = any(@trips) and state in ('reported', 'approved') and not charge_back
                """,
                r =>
                    (
                        Trip: r.Long("trip_id"),
                        Spent: new SpentOnTrip(
                            r.Enum<CostKind>("kind"),
                            r.LongOrNull("load_id"),
                            r.Usd("booked"),
                            r.DecimalOrNull("quantity") is { } q
                                ? new FuelBought(q, r.Enum<VolumeUnit>("unit"), r.Decimal("price")).Gallons
                                : null
                        )
                    ),
                ("trips", trips)
            )
        ).ToLookup(x => x.Trip, x => x.Spent);

    /// <summary>What was planned for a trip's fuel and tolls, and its legs' shares of other planned costs.</summary>
    public static async Task<(Money Fuel, Money Tolls, IReadOnlyList<EnteredCost> Others)> Planned(NpgsqlConnection db, long tripId)
    {
        var legs = await db.Rows(
            $"""
            select g.load_id, coalesce(g.planned_fuel, 0) as fuel, coalesce(g.planned_tolls, 0) as tolls, {LegSql.AllMiles} as leg_miles,
                {LegSql.Place} as leg_place from legs g where g.trip_id = @trip
            """,
            r =>
                (
                    Load: r.Long("load_id"),
                    Fuel: r.Usd("fuel"),
                    Tolls: r.Usd("tolls"),
                    Miles: r.Ints("leg_miles"),
                    Place: r.Int("leg_place")
                ),
            ("trip", tripId)
        );
        var entered = await TripStore.Entered(db, legs.Select(l => l.Load).Distinct().ToArray());
        return (
            Money.Sum(legs.Select(l => l.Fuel)),
            Money.Sum(legs.Select(l => l.Tolls)),
            legs.SelectMany(l => entered[l.Load].Select(c => c.Share(l.Miles, l.Place))).ToList()
        );
    }

    public static Task<long> Add(CommandContext w, ExpenseTrip trip, TripExpense x, Money booked) =>
        w.Db.One<long>(
            """
            insert into trip_expenses (trip_id, load_id, kind, spent_on, place, region, quantity, unit, price, amount, currency, booked, paid_by,
                driver_id, truck_id, vendor_id, reference, account, note, charge_back, state, reported_by, reported_by_id, reported_at)
            values (@trip, @load, @kind, @on, @place, @region, @quantity, @unit, @price, @amount, @currency, @booked, @paid,
                @driver, @truck, @vendor, @reference, @account, @note, @back, 'reported', @by, @user, @now) returning id
            """,
            ("trip", trip.Id),
            ("load", x.LoadId),
            ("kind", x.Kind),
            ("on", x.On),
            ("place", x.Place),
            ("region", x.Region),
            ("quantity", x.Fuel?.Quantity),
            ("unit", x.Fuel?.Unit),
            ("price", x.Fuel?.Price),
            ("amount", x.Amount),
            ("currency", x.Amount.Currency),
            ("booked", booked),
            ("paid", x.PaidBy),
            ("driver", x.Driver.Id),
            ("truck", trip.TruckId),
            ("vendor", x.VendorId),
            ("reference", x.Reference),
            ("account", x.Account),
            ("note", x.Note),
            ("back", x.ChargeBack),
            ("by", w.Actor.Name),
            ("user", w.Actor.UserId),
            ("now", w.Now)
        );

    /// <summary>Decides an expense, or reports it again.</summary>
    /// <param name="reason">Why it is declined.</param>
    /// <param name="payItem">What the driver's settlement takes of it.</param>
    /// <param name="bill">The vendor's bill.</param>
    public static Task Decide(
        CommandContext w,
        long id,
        ExpenseState state,
        string? reason = null,
        long? payItem = null,
        long? bill = null
    ) =>
        w.Db.Run(
            """
            update trip_expenses set state = @state, reason = @reason, pay_item_id = @item, bill_id = @bill,
                decided_by = case when @state <> 'reported' then @by end, decided_at = case when @state <> 'reported' then @now end where id = @id
            """,
            ("id", id),
            ("state", state),
            ("reason", reason),
            ("item", payItem),
            ("bill", bill),
            ("by", w.Actor.Name),
            ("now", w.Now)
        );

    private static TripExpenseRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("trip_id"),
            r.Text("trip"),
            r.LongOrNull("load_id"),
            r.TextOrNull("load"),
            r.Enum<CostKind>("kind"),
            r.Date("spent_on"),
            r.TextOrNull("place"),
            r.TextOrNull("region"),
            r.DecimalOrNull("quantity"),
            r.EnumOrNull<VolumeUnit>("unit"),
            r.DecimalOrNull("price"),
            r.Money("amount"),
            r.Usd("booked"),
            r.Enum<PaidBy>("paid_by"),
            r.Long("driver_id"),
            r.Text("driver"),
            r.Text("truck"),
            r.LongOrNull("vendor_id"),
            r.TextOrNull("vendor"),
            r.TextOrNull("reference"),
            r.Text("account"),
            r.Text("account_name"),
            r.TextOrNull("note"),
            r.Bool("charge_back"),
            r.Enum<ExpenseState>("state"),
            r.Text("reported_by"),
            r.Instant("reported_at"),
            r.TextOrNull("decided_by"),
            r.InstantOrNull("decided_at"),
            r.TextOrNull("reason"),
            r.LongOrNull("pay_item_id"),
            r.LongOrNull("bill_id"),
            r.LongOrNull("receipt_id")
        );
}
