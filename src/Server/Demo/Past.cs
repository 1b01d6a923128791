using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Demo;

/// <summary>When something in the past happened, by whom and through which channel.</summary>
internal readonly record struct Moment(Instant At, long? User, Via Via);

internal sealed class PastStop(PlannedStop plan, BookedStop booked)
{
    public PlannedStop Plan { get; set; } = plan;

    public BookedStop Booked { get; } = booked;

    public string? ReceivedBy { get; set; }

    public Via? Via { get; set; }
}

internal sealed record PastDocument(long Id, DocumentKind Kind, Instant At, long? By, Via Via);

internal sealed record PastTrip(long Id, string Number, long Driver, long Truck, long Trailer, Span Commitment)
{
    public Instant? Began { get; set; }

    public Instant? Ended { get; set; }
}

internal sealed record PastBill(long Id, string Number, LocalDate On, LocalDate Due, Money Amount, Money Agreed, Instant Entered)
{
    public Money? Approved { get; set; }

    public string? Why { get; set; }

    public Moment? ApprovedAt { get; set; }

    public LocalDate? PaidOn { get; set; }

    public long? PaidBy { get; set; }
}

/// <summary>A vendor bill: fuel, rent, tires.</summary>
internal sealed record PastVendorBill(PastBill Bill, long Vendor, string Name, IReadOnlyList<BillLine> Lines);

/// <param name="Load">The first of its loads.</param>
internal sealed record PastInvoice(long Id, string Number, InvoiceDraft Draft, long Load, string? MailTo, Instant At)
{
    public Money Paid { get; set; } = Money.Zero();

    public Money Open => Draft.Total - Paid;
}

internal sealed record PastPayment(long Id, long Customer, LocalDate On, string Method, string? Reference, AppliedPayment Payment);

internal sealed record PastAdvance(long Id, long Driver, LocalDate On, Money Amount, string Note, long? CarriedFrom = null)
{
    public Money Deducted { get; set; } = Money.Zero();
}

/// <summary>A line of a bill that was charged back to an owner-operator.</summary>
internal sealed record PastPayItem(long Driver, PayItem Item, long Bill, int Line, Moment Entered);

internal sealed record PastSettlement(long Id, long Driver, SettlementStatement Week, Moment Approved)
{
    public LocalDate? PaidOn { get; set; }

    public long? PaidBy { get; set; }
}

/// <param name="firstStop">The key of its first stop; the others follow it. Likewise its charges.</param>
internal sealed class PastLoad(
    long id,
    string number,
    BookedLoad order,
    string customer,
    Moment booked,
    long firstStop,
    long firstCharge,
    long leg
)
{
    public long Id => id;

    public string Number => number;

    public BookedLoad Order { get; set; } = order;

    public Moment? CanceledAt { get; set; }

    public string? CanceledWhy { get; set; }

    public string Customer => customer;

    public Moment Booked => booked;

    public long Leg => leg;

    public long FirstCharge => firstCharge;

    public long Tender { get; set; }

    public List<PastStop> Stops { get; } =
        order.Stops.Select((s, i) => new PastStop(new PlannedStop(firstStop + i, s.Kind, s.Place!.Point, s.At ?? default), s)).ToList();

    public PastTrip? Trip { get; set; }

    public long? Carrier { get; set; }

    public string? Who { get; set; }

    public Money? Agreed { get; set; }

    public Moment? TenderedAt { get; set; }

    public Instant? TenderExpires { get; set; }

    public CarrierDispatch? Dispatch { get; set; }

    public Instant? AcceptedAt { get; set; }

    public string? AcceptedBy { get; set; }

    public List<PastDocument> Documents { get; } = [];

    public PastInvoice? Invoice { get; set; }

    public PastBill? Bill { get; set; }

    public PastSettlement? Week { get; set; }

    /// <summary>What its accruals posted.</summary>
    public List<PostedRevenue> Revenue { get; } = [];

    public List<PostedCarrierPay> CarrierPay { get; } = [];

    public Instant? DeliveredAt => Stops.All(s => s.Plan.Done) ? Stops.Max(s => s.Plan.Delivered ?? s.Plan.Left) : null;

    public LoadState State =>
        LoadStates.Derive(
            new LoadFacts(
                Order.Draft,
                false,
                CanceledAt is not null,
                Stops
                    .Select(s => new StopFacts(
                        s.Plan.Kind,
                        s.Plan.Arrived is not null,
                        s.Plan.Left is not null,
                        s.Plan.Delivered is not null
                    ))
                    .ToList(),
                Order.Draft ? []
                    : Who is null ? [LegCover.Open]
                    : [Carrier is null || AcceptedAt is not null ? LegCover.Covered : LegCover.Tendered],
                Invoice is not null,
                Invoice is { } i && i.Open.Amount == 0,
                Bill?.PaidOn is not null || Week?.PaidOn is not null
            )
        );
}

/// <summary>
/// A company's history, made in memory by the same Core that decides live commands, and written in bulk afterwards.
/// A refusal by Core is a bug in the demo and throws.
/// </summary>
/// <param name="before">The history of the period before, whose keys and numbers this one continues.</param>
internal sealed class Past(DateTimeZone zone, Past? before = null)
{
    // Where the series of migration 0001 start.
    private const long FirstLoad = 2001;
    private const long FirstTrip = 601;
    private const long FirstInvoice = 1101;

    private readonly Dictionary<string, long> _last = before is null ? [] : new(before._last);
    private static readonly BookPeriods AllOpen = new(new HashSet<LocalDate>());

    /// <summary>The most charges added to a load after it was booked.</summary>
    private const int MaxAdded = 3;

    private readonly Dictionary<long, List<PastInvoice>> _open = [];

    /// <summary>Employer payroll tax with unemployment insurance, and Montana's minimum wage.</summary>
    public static readonly PayrollTerms Payroll = new(WorkerKind.Employee, 9.4m, 10.85m);

    public List<PastLoad> Loads { get; } = [];

    public List<PastInvoice> Invoices { get; } = [];

    public List<PastPayment> Payments { get; } = [];

    public List<PastSettlement> Weeks { get; } = [];

    public List<PastPayItem> PayItems { get; } = [];

    /// <summary>Charged back and not deducted yet.</summary>
    private readonly List<PastPayItem> _toDeduct = before is null ? [] : [.. before._toDeduct];

    /// <summary>What is held in escrow, by driver.</summary>
    private readonly Dictionary<long, Money> _held = before is null ? [] : new(before._held);

    public List<PastAdvance> Advances { get; } = [];

    public List<PastVendorBill> VendorBills { get; } = [];

    /// <summary>Entries in posting order, with their times.</summary>
    public List<(Entry Entry, Instant At)> Entries { get; } = [];

    public Bulk Events { get; } = new("events", "id, at, user_id, via, kind, subject, subject_id, load_id, driver_id, summary");

    /// <summary>The company's time zone.</summary>
    public DateTimeZone Zone => zone;

    /// <summary>Whether no period lies before it.</summary>
    public bool IsFirst { get; } = before is null;

    public long NextLoadNumber => FirstLoad + _last.GetValueOrDefault("load");

    public long NextTripNumber => FirstTrip + _last.GetValueOrDefault("trip");

    public long NextInvoiceNumber => FirstInvoice + _last.GetValueOrDefault("invoice");

    /// <summary>The next key of a table; the first of several.</summary>
    public long Next(string table, int several = 1)
    {
        var first = _last.GetValueOrDefault(table) + 1;
        _last[table] = first + several - 1;
        return first;
    }

    /// <summary>Tables with the last key issued.</summary>
    public IReadOnlyDictionary<string, long> Last => _last;

    /// <summary>A customer's open invoices, oldest due first.</summary>
    public IReadOnlyList<PastInvoice> OpenOf(long customer) => _open.TryGetValue(customer, out var list) ? list : [];

    public LocalDate Day(Instant at) => at.InZone(zone).Date;

    public PastLoad Book(Moment m, LoadOrder order, IReadOnlyDictionary<long, KnownPlace> places, string customer)
    {
        var number = $"{NextLoadNumber}";
        var booked = Must(Booking.Decide(Routing.Roads, order, places, customerKnown: true, Day(m.At)));
        var id = Next("load");
        var load = new PastLoad(
            id,
            number,
            booked,
            customer,
            m,
            Next("stop", booked.Stops.Count),
            Next("charge", booked.Charges.Count + MaxAdded),
            booked.Draft ? 0 : Next("leg")
        );
        Loads.Add(load);
        Tell(
            m,
            booked.Draft ? EventKinds.LoadDrafted : EventKinds.LoadBooked,
            id,
            booked.Draft ? $"{number} saved as a draft" : $"{number} booked, {Lane(load)}",
            id
        );
        return load;
    }

    public void AssignDriver(
        Moment m,
        PastLoad load,
        long driver,
        string name,
        long truck,
        string unit,
        long trailer,
        string trailerUnit,
        IEnumerable<Commitment> outlook
    )
    {
        var span = TripPlan.Build(Routing.Roads, load.Stops.Select(s => s.Plan).ToList()).Commitment;
        Must(Availability.Check(outlook, span, zone));
        load.Trip = new PastTrip(Next("trip"), $"{FirstTrip + _last["trip"] - 1}", driver, truck, trailer, span);
        load.Who = name;
        Tell(
            m,
            EventKinds.LoadCovered,
            load.Id,
            $"{load.Number} assigned to {name}, truck {unit}, trailer {trailerUnit}, trip {load.Trip.Number}",
            load.Id,
            driver
        );
    }

    public void AssignCarrier(Moment m, PastLoad load, long carrier, CarrierRecord record, Money agreed)
    {
        Must(CarrierFitness.Check(record, DemoData.Requirements, new CarriedFreight(load.Order.Stops[^1].Window!.Value.Until.Date)));
        (load.Carrier, load.Who, load.Agreed, load.TenderedAt) = (carrier, record.Name, agreed, m);
        load.Tender = Next("tender");
        load.Documents.Add(new PastDocument(Next("document"), DocumentKind.RateConfirmation, m.At, m.User, m.Via));
        Tell(m, EventKinds.TenderSent, load.Id, $"{load.Number} tendered to {record.Name} for {agreed.Formatted}", load.Id);
    }

    public void Accept(Moment m, PastLoad load, string by, CarrierDispatch dispatch)
    {
        (load.AcceptedAt, load.AcceptedBy, load.Dispatch) = (m.At, by, dispatch);
        Tell(
            m,
            EventKinds.TenderAccepted,
            load.Id,
            $"{load.Who} accepted {load.Number} at {load.Agreed!.Value.Formatted}, signed {by}",
            load.Id
        );
    }

    public void Say(Moment m, PastLoad load, int index, StopEvent word, string? receivedBy)
    {
        var stop = load.Stops[index];
        var change = Must(
            StopWork.Decide(load.Stops.Select(s => s.Plan).ToList(), stop.Plan.Id, word, m.At, receivedBy, covered: true, m.At)
        );
        stop.Plan = stop.Plan with { Arrived = change.Arrived, Left = change.Left, Delivered = change.Delivered };
        stop.ReceivedBy ??= change.ReceivedBy;
        stop.Via = m.Via;
        if (load.DeliveredAt is not null)
        {
            Accrue(m, load);
        }

        if (load.Trip is { } trip)
        {
            trip.Began = load.Stops.Min(s => s.Plan.Arrived);
            trip.Ended = load.DeliveredAt;
        }

        var town = stop.Booked.Place!.Town;
        var words = word switch
        {
            StopEvent.Arrived => "at",
            StopEvent.Delivered => "delivered in",
            _ => stop.Plan.Kind == StopKind.Pickup ? "left loaded from" : "left",
        };
        Tell(
            m,
            EventKinds.Of(word),
            load.Id,
            $"{load.Number} {words} {town} at {m.At.Format(WallClock.Zone(stop.Booked.Place.Zone)!)}"
                + (receivedBy is null ? "" : $", signed {receivedBy}"),
            load.Id,
            load.Trip?.Driver
        );
    }

    public void AddDocument(Moment m, PastLoad load, DocumentKind kind)
    {
        load.Documents.Add(new PastDocument(Next("document"), kind, m.At, m.User, m.Via));
        Tell(m, DocumentRights.Added(kind), load.Id, $"{kind.Format()} for {load.Number} added: {FileName(load, kind)}", load.Id);
    }

    /// <summary>An accessorial that came up on the way, before the load is delivered.</summary>
    public void AddCharge(Moment m, PastLoad load, ChargeKind kind, string description, decimal amount)
    {
        var price = new PricedCharge(ChargeBasis.Flat, null, null, Money.Usd(amount));
        load.Order = load.Order with { Charges = [.. load.Order.Charges, new BookedCharge(kind, description, price)] };
        Tell(
            m,
            EventKinds.LoadChanged,
            load.Id,
            $"{load.Number}: {kind.Format()} of {price.Amount.Formatted} added, {description}",
            load.Id
        );
    }

    /// <summary>The customer will not ship it.</summary>
    public void Cancel(Moment m, PastLoad load, string why)
    {
        (load.CanceledAt, load.CanceledWhy) = (m, why);
        Tell(m, EventKinds.LoadCancelled, load.Id, $"{load.Number} canceled: {why}", load.Id);
    }

    /// <summary>One invoice for one or more loads of a customer.</summary>
    public PastInvoice Invoice(Moment m, IReadOnlyList<PastLoad> loads, int termsDays, string mailTo, IReadOnlyList<DocumentKind> demands)
    {
        var billable = loads.Select(load =>
        {
            var charge = 0;
            return new BillableLoad(
                load.Id,
                load.Number,
                load.Order.CustomerId!.Value,
                load.Customer,
                load.State,
                load.Invoice is not null,
                load.Documents.Select(p => p.Kind).ToList(),
                load.Order.Charges.Select(c => new BillableCharge(++charge, c.Kind, c.Description, c.Amount)).ToList(),
                RequiredDocuments: demands
            );
        });
        var draft = Must(Invoicing.Draft(billable.ToList(), termsDays, Day(m.At)));
        var number = $"I-{NextInvoiceNumber}";
        var invoice = new PastInvoice(Next("invoice"), number, draft, loads[0].Id, mailTo, m.At);
        foreach (var load in loads)
        {
            load.Invoice = invoice;
        }

        Invoices.Add(invoice);
        _open.TryAdd(draft.CustomerId, []);
        _open[draft.CustomerId].Add(invoice);
        Post(m, Postings.InvoiceIssued(Day(m.At), invoice.Number, invoice.Id, draft.CustomerId, draft.Loads));
        Tell(
            m,
            EventKinds.InvoiceIssued,
            invoice.Id,
            $"Invoice {invoice.Number} for {draft.Total.Formatted} to {loads[0].Customer}, due {draft.DueOn:MMM d}",
            loads[0].Id
        );
        return invoice;
    }

    /// <summary>A customer's payment of its invoices, as far as it goes.</summary>
    public void Receive(
        Moment m,
        long customer,
        string name,
        Money amount,
        string method,
        string? reference,
        IEnumerable<PastInvoice> on,
        (PastInvoice Invoice, Money By, ShortPayReason Kind, string Why)? paidShort = null
    )
    {
        var open = OpenOf(customer)
            .Where(i => i.Open.Amount > 0)
            .ToDictionary(i => i.Id, i => new OpenInvoice(i.Id, i.Number, customer, i.Open));
        var wanted = PaymentApplication
            .Spread(amount + (paidShort?.By ?? Money.Zero()), on.Where(i => open.ContainsKey(i.Id)).Select(i => open[i.Id]))
            .Applications.Select(a =>
                paidShort is { } s && s.Invoice.Id == a.InvoiceId
                    ? a with
                    {
                        Amount = a.Amount - s.By,
                        WriteOff = s.By,
                        Kind = s.Kind,
                        Reason = s.Why,
                    }
                    : a
            )
            .ToList();
        var payment = Must(PaymentApplication.Apply(customer, amount, wanted, open));
        var id = Next("payment");
        Payments.Add(new PastPayment(id, customer, Day(m.At), method, reference, payment));
        var byId = OpenOf(customer).ToDictionary(i => i.Id);
        foreach (var part in payment.Applications)
        {
            byId[part.InvoiceId].Paid += part.Amount + part.WriteOff;
        }

        _open[customer].RemoveAll(i => i.Open.Amount == 0);
        // Demo payments come after their invoices.
        var parts = payment.Applications.Select(a => new PostedApplication(a.InvoiceId, a.Amount, Day(m.At))).ToList();
        foreach (var entry in Postings.PaymentReceived(Day(m.At), PaymentState.Label(method, reference, name), id, customer, amount, parts))
        {
            Post(m, entry);
        }

        foreach (var a in payment.Applications.Where(a => a.WriteOff.Amount > 0))
        {
            var invoice = byId[a.InvoiceId];
            Post(
                m,
                Postings.WrittenOff(
                    Day(m.At),
                    EntrySource.WriteOff,
                    id,
                    invoice.Number,
                    invoice.Id,
                    customer,
                    a.WriteOff,
                    a.Kind!.Value,
                    a.Reason!,
                    invoice.Draft.Loads
                )
            );
        }

        Tell(
            m,
            EventKinds.PaymentReceived,
            id,
            $"{amount.Formatted} received from {name}, {payment.Applied.Formatted} applied"
                + (payment.WriteOff.Amount > 0 ? $", {payment.WriteOff.Formatted} written off" : "")
        );
    }

    public PastBill EnterBill(Moment m, PastLoad load, string number, Money amount, int payDays)
    {
        var bill = new PastBill(Next("bill"), number, Day(m.At), Terms.DueOn(Day(m.At), payDays), amount, load.Agreed!.Value, m.At);
        load.Bill = bill;
        var accepted = BillMatch.Of(bill.Agreed, amount).Accepted;
        Post(m, Postings.BillReceived(bill.On, load.Who!, number, bill.Id, Lines(load, accepted), Of(load)));
        Accrue(m, load);
        var difference = BillMatch.Of(bill.Agreed, amount).Difference;
        Tell(
            m,
            EventKinds.BillEntered,
            bill.Id,
            $"Bill {number} from {load.Who} for {amount.Formatted}"
                + (
                    difference.Amount == 0
                        ? ", as agreed"
                        : $", {Money.Usd(Math.Abs(difference.Amount)).Formatted} {(difference.Amount > 0 ? "over" : "under")} the agreed amount"
                ),
            load.Id
        );
        return bill;
    }

    public PastVendorBill EnterVendorBill(Moment m, long vendor, string name, string number, IReadOnlyList<BillLine> lines, int payDays)
    {
        var amount = Money.Sum(lines.Select(l => l.Amount));
        var bill = new PastVendorBill(
            new PastBill(Next("bill"), number, Day(m.At), Terms.DueOn(Day(m.At), payDays), amount, amount, m.At),
            vendor,
            name,
            lines
        );
        VendorBills.Add(bill);
        Post(m, Postings.BillReceived(bill.Bill.On, name, number, bill.Bill.Id, lines, new Dimensions(VendorId: vendor)));
        Tell(m, EventKinds.BillEntered, bill.Bill.Id, $"Bill {number} from {name} for {amount.Formatted}");
        return bill;
    }

    /// <summary>Charges a line of a bill back to the owner-operator who caused it.</summary>
    /// <param name="line">From 1.</param>
    public void ChargeBackLine(Moment m, PastVendorBill bill, int line, long driver, string name)
    {
        var of = bill.Lines[line - 1];
        var item = ChargeBack
            .Of(
                bill.Bill.Number,
                bill.Name,
                of.Account,
                $"fuel, {of.Description}",
                of.Amount,
                null,
                name,
                WorkerKind.OwnerOperator,
                Day(m.At)
            )
            .Value;
        var charged = new PastPayItem(driver, item with { ItemId = Next("pay_item") }, bill.Bill.Id, line, m);
        PayItems.Add(charged);
        _toDeduct.Add(charged);
        Tell(
            m,
            EventKinds.PayItemAdded,
            driver,
            $"{of.Amount.Formatted} of bill {bill.Bill.Number} from {bill.Name} charged back to {name}",
            driver: driver
        );
    }

    public void ApproveVendorBill(Moment m, PastVendorBill bill, string name)
    {
        (bill.Bill.Approved, bill.Bill.ApprovedAt) = (bill.Bill.Amount, m);
        Tell(m, EventKinds.BillApproved, bill.Bill.Id, $"Bill {bill.Bill.Number} from {name} approved for {bill.Bill.Amount.Formatted}");
    }

    public void PayVendorBill(Moment m, PastVendorBill bill, string name)
    {
        (bill.Bill.PaidOn, bill.Bill.PaidBy) = (Day(m.At), m.User);
        Post(m, Paid(bill.Bill, name, new Dimensions(VendorId: bill.Vendor)));
        Tell(m, EventKinds.BillPaid, bill.Bill.Id, $"Bill {bill.Bill.Number} from {name} paid, {bill.Bill.Amount.Formatted} by ach");
    }

    public void ApproveBill(Moment m, PastLoad load, Money amount, string? why)
    {
        var bill = load.Bill!;
        bill.Approved = Must(BillMatch.Of(bill.Agreed, bill.Amount).Approve(amount, why));
        (bill.Why, bill.ApprovedAt) = (why, m);
        var accepted = BillMatch.Of(bill.Agreed, bill.Amount).Accepted;
        if (bill.Approved.Value != accepted)
        {
            var (on, by, lines) = (
                Day(m.At),
                bill.Approved.Value - accepted,
                Lines(load, Money.Usd(Math.Abs((bill.Approved.Value - accepted).Amount)))
            );
            Post(
                m,
                by.Amount < 0
                    ? Postings.BillReduced(on, load.Who!, bill.Number, bill.Id, lines, Of(load))
                    : Postings.BillIncreased(on, load.Who!, bill.Number, bill.Id, lines, Of(load))
            );
        }

        Tell(
            m,
            EventKinds.BillApproved,
            bill.Id,
            $"Bill {bill.Number} from {load.Who} approved for {bill.Approved.Value.Formatted}" + (why is null ? "" : $": {why}"),
            load.Id
        );
    }

    public void PayBill(Moment m, PastLoad load)
    {
        var bill = load.Bill!;
        (bill.PaidOn, bill.PaidBy) = (Day(m.At), m.User);
        Post(m, Paid(bill, load.Who!, Of(load)));
        Tell(m, EventKinds.BillPaid, bill.Id, $"Bill {bill.Number} from {load.Who} paid, {bill.Approved!.Value.Formatted} by ach", load.Id);
    }

    /// <summary>In the demo's history each bill is paid by itself; the payment has the bill's key.</summary>
    private static Entry Paid(PastBill bill, string payee, Dimensions of) =>
        Postings.VendorPaid(
            bill.PaidOn!.Value,
            payee,
            $"bill {bill.Number}",
            bill.Id,
            [(new PaidBill(bill.Id, bill.Approved!.Value, Money.Zero()), of)]
        );

    public void IssueAdvance(Moment m, long driver, string name, Money amount, string note)
    {
        var advance = new PastAdvance(Next("advance"), driver, Day(m.At), amount, note);
        Advances.Add(advance);
        Post(m, Postings.AdvanceIssued(advance.On, name, advance.Id, driver, amount));
        Tell(m, EventKinds.AdvanceIssued, driver, $"Advance of {amount.Formatted} issued to {name}, {note}", driver: driver);
    }

    /// <summary>Approves a driver's settlement; null when they earned nothing in the week.</summary>
    /// <param name="loads">Their loads around that time.</param>
    public PastSettlement? ApproveSettlement(
        Moment m,
        long driver,
        string name,
        DriverAgreement agreement,
        IReadOnlyList<RecurringDeduction> outlook,
        WorkerKind worker,
        LocalDate monday,
        IReadOnlyCollection<PastLoad> loads
    )
    {
        var legs = loads
            .Where(l => l.Week is null && l.DeliveredAt is not null)
            .Select(l => new WorkedLeg(
                l.Leg,
                l.Id,
                l.Number,
                l.Trip!.Truck,
                Lane(l),
                l.Order.Miles ?? 0,
                Day(l.DeliveredAt!.Value),
                l.Stops.Count,
                Money.Sum(l.Order.Charges.Where(c => c.Kind == ChargeKind.LineHaul).Select(c => c.Amount))
            ));
        var days = loads
            .Where(l => l.Trip!.Began is not null)
            .Select(l => new DaysOut(Day(l.Trip!.Began!.Value), Day(l.Trip.Ended ?? m.At)));
        var advances = Advances.Where(d => d.Driver == driver && d.Deducted < d.Amount).ToDictionary(d => d.Id);
        var statement = DriverSettlement.Settle(
            monday,
            agreement,
            legs,
            days,
            advances.Values.Select(d => new OpenAdvance(d.Id, d.On, d.Note, d.Amount - d.Deducted)),
            _toDeduct.Where(i => i.Driver == driver).Select(i => i.Item),
            outlook.Select(d => d with { Held = d.UpTo is null ? null : _held.GetValueOrDefault(driver, Money.Zero()) }),
            payroll: Payroll with
            {
                Worker = worker,
            }
        );
        if (statement.IsEmpty)
        {
            return null;
        }

        var week = new PastSettlement(Next("settlement"), driver, statement, m);
        Weeks.Add(week);
        foreach (var part in statement.Deductions.Where(d => d.AdvanceId is not null))
        {
            advances[part.AdvanceId!.Value].Deducted += part.Amount;
        }

        var taken = statement.Deductions.Select(d => d.ItemId).OfType<long>().ToHashSet();
        _toDeduct.RemoveAll(i => taken.Contains(i.Item.ItemId));
        _held[driver] =
            _held.GetValueOrDefault(driver, Money.Zero())
            + Money.Sum(statement.Deductions.Where(d => d.Account == Accounts.Escrow.Code).Select(d => d.Amount));

        long? carried = statement.CarriedOver.Amount > 0 ? Next("advance") : null;
        if (carried is { } advanceId)
        {
            Advances.Add(
                new PastAdvance(
                    advanceId,
                    driver,
                    monday.PlusDays(6),
                    statement.CarriedOver,
                    $"carried over from the week of {monday:MMM d}",
                    week.Id
                )
            );
        }

        var paid = statement.Lines.Select(l => l.LoadId).ToHashSet();
        foreach (var load in loads.Where(l => paid.Contains(l.Id)))
        {
            load.Week = week;
        }

        if (statement.Posts)
        {
            Post(m, Postings.SettlementApproved(monday.PlusDays(6), name, week.Id, driver, statement, carried));
        }

        Tell(
            m,
            EventKinds.SettlementApproved,
            week.Id,
            $"{name}'s settlement for the week of {monday:MMM d} approved for {statement.Net.Formatted}",
            driver: driver
        );
        return week;
    }

    public void PaySettlement(Moment m, PastSettlement week, string name)
    {
        (week.PaidOn, week.PaidBy) = (Day(m.At), m.User);
        if (week.Week.Net.Amount > 0)
        {
            Post(m, Postings.SettlementPaid(week.PaidOn.Value, name, week.Id, week.Driver, week.Week.Net));
        }

        Tell(m, EventKinds.SettlementPaid, week.Id, $"{name} paid {week.Week.Net.Formatted} by ach", driver: week.Driver);
    }

    public static string FileName(PastLoad load, DocumentKind kind) =>
        $"{kind switch { DocumentKind.Pod => "pod", DocumentKind.Bol => "bol", _ => "rate-confirmation" }}-{load.Number}.pdf";

    private static Dimensions Of(PastLoad load) => new(LoadId: load.Id, CarrierId: load.Carrier);

    private static List<BillLine> Lines(PastLoad load, Money amount) =>
        [new(Accounts.PurchasedTransportation.Code, null, amount, load.Id, null, null)];

    public static string Lane(PastLoad load) =>
        load.Stops.Count >= 2 ? $"{load.Stops[0].Booked.Place!.Town} to {load.Stops[^1].Booked.Place!.Town}" : "";

    /// <summary>Posts what a delivered load earns and costs, as far as it is not posted.</summary>
    private void Accrue(Moment m, PastLoad load)
    {
        var zone = WallClock.Zone(load.Stops[^1].Booked.Place!.Zone)!;
        var leg = load.Carrier is { } carrier ? new AccruableLeg(load.Leg, carrier, load.Agreed!.Value, load.Bill?.On) : null;
        var delivered = new AccruableLoad(
            load.Id,
            load.Number,
            load.Order.CustomerId!.Value,
            load.DeliveredAt!.Value.InZone(zone).Date,
            load.Invoice is not null,
            load.Order.Charges.Select(c => (c.Kind, c.Amount)).ToList(),
            leg is null ? [] : [leg]
        );
        foreach (var entry in Accruals.Change(load.Id, load.Number, delivered, load.Revenue, load.CarrierPay, AllOpen, Day(m.At)))
        {
            Post(m, entry);
            foreach (var line in entry.Lines)
            {
                if (Accruals.RevenueCodes.Contains(line.Account))
                {
                    load.Revenue.Add(
                        new PostedRevenue(line.Account, delivered.CustomerId!.Value, new Money(-line.Signed, line.Currency), entry.PostedOn)
                    );
                }
                else if (line.Account == Accounts.AccruedCarrierPay.Code)
                {
                    load.CarrierPay.Add(
                        new PostedCarrierPay(load.Leg, line.For.CarrierId!.Value, new Money(-line.Signed, line.Currency), entry.PostedOn)
                    );
                }
            }
        }
    }

    private void Post(Moment m, Entry entry) => Entries.Add((entry, m.At));

    private void Tell(Moment m, EventKind kind, long subjectId, string summary, long? load = null, long? driver = null) =>
        Events.Add(Next("event"), m.At, m.User, m.Via, kind.Name, kind.Subject, subjectId, load, driver, summary);

    /// <summary>The demo does nothing the rules refuse; if it does, the demo has a bug.</summary>
    private static T Must<T>(Outcome<T> outcome) =>
        outcome.Ok
            ? outcome.Value
            : throw new InvalidOperationException(
                $"The demo data was rejected: {string.Join(' ', outcome.Problems.Select(p => p.Message))}"
            );

    private static void Must(IReadOnlyList<Problem> problems)
    {
        if (problems.Count > 0)
        {
            throw new InvalidOperationException($"The demo data was rejected: {string.Join(' ', problems.Select(p => p.Message))}");
        }
    }
}
