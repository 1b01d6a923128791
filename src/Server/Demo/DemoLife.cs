using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Demo;

/// <summary>How much history the demo gets.</summary>
/// <param name="DaysBehind">Days before today.</param>
/// <param name="Busy">Brokered loads per day relative to the default of about eight; the trucks are as many as ever.</param>
/// <param name="Periods">Histories of that length, one after the other; only the newest has open loads.</param>
public sealed record DemoSize(int DaysBehind, double Busy, int Periods = 1)
{
    public static readonly DemoSize Whole = new(400, 1);

    /// <summary>Days without new loads at the end of an earlier period, in which what was delivered is billed and paid.</summary>
    public const int ClosingDays = 70;

    /// <summary>Days from the start of one period to the next: the loads of one are delivered and its last settlement week is over.</summary>
    public int Apart => DaysBehind - ClosingDays + 21;

    /// <summary>Days of all periods before today.</summary>
    public int AllDays => DaysBehind + ((Periods - 1) * Apart);

    /// <summary>Written without triggers and secondary indexes, with few documents: for benchmarks.</summary>
    public bool IsBulk => Busy > 2;
}

/// <summary>
/// Decides at random what happens, and runs it in time order from long ago to now. The seed is the day,
/// so the same day gives the same company; the clock decides how far it has come today.
/// </summary>
internal sealed partial class DemoLife
{
    private const int DaysAhead = 14;

    private readonly Instant _now;
    private readonly LocalDate _today;
    private readonly DateTimeZone _zone;
    private readonly DemoCast _cast;
    private readonly DemoSize _size;
    private readonly bool _isLast;
    private readonly Random _lot;
    private readonly PriorityQueue<Action, (Instant At, int Turn)> _moments = new();
    private readonly Dictionary<long, List<PastLoad>> _legsOf = [];
    private int _turn;

    /// <param name="before">The history of the period before, whose keys and numbers this one continues.</param>
    /// <param name="isLast">Whether this period ends now, with open loads.</param>
    public DemoLife(Instant now, DateTimeZone zone, DemoCast cast, DemoSize size, Past? before = null, bool isLast = true)
    {
        (_now, _zone, _cast, _size, _isLast) = (now, zone, cast, size, isLast);
        _today = now.InZone(zone).Date;
        Past = new Past(zone, before);
        _lot = new Random((int)(_today.ToDateOnly().DayNumber % 100_000));
        var began = zone.AtStartOfDay(_today.PlusDays(-size.DaysBehind)).ToInstant();
        foreach (var driver in cast.Drivers)
        {
            _legsOf[driver.Id] = [];
            _outSince[driver.Id] = began;
        }
    }

    public Past Past { get; }

    /// <summary>Runs every event up to now.</summary>
    public void Live()
    {
        foreach (var driver in _cast.Drivers)
        {
            // Not all on one morning.
            var start = _today.PlusDays(-_size.DaysBehind + (driver.Index % 3)) + new LocalTime(5, 0);
            At(start, "ines", m => NextTrip(m, driver, m.At, driver.HomePoint));
        }

        // The day an earlier period ends, the next begins: only what is still open is billed and paid then.
        var (lastDay, lastLoads) = _isLast ? (DaysAhead, DaysAhead) : (_size.Apart - _size.DaysBehind - 1, -DemoSize.ClosingDays);
        for (var day = -_size.DaysBehind; day <= lastDay; day++)
        {
            var date = _today.PlusDays(day);
            var usual = date.DayOfWeek switch
            {
                IsoDayOfWeek.Sunday => 2,
                IsoDayOfWeek.Saturday => 4,
                _ => 9 + _lot.Next(3),
            };
            var loads = (int)Math.Round(usual * _size.Busy * Season(date));
            for (var i = 0; i < loads && day <= lastLoads; i++)
            {
                Brokered(date);
            }

            if (date.DayOfWeek == IsoDayOfWeek.Monday)
            {
                At(date + new LocalTime(9, 30), "marta", InvoiceTogether);
            }

            if (date.DayOfWeek == IsoDayOfWeek.Tuesday)
            {
                At(date + new LocalTime(9, 0), "marta", m => Fuel(m, date));
                At(date + new LocalTime(10, 0), "marta", m => Weeks(m, date));
            }

            if (date.Day == 3)
            {
                At(date + new LocalTime(9, 20), "marta", m => Monthly(m, date));
            }
        }

        if (_isLast)
        {
            Trouble();
            Drafts();
        }

        while (_moments.TryDequeue(out var moment, out var when) && when.At <= _now)
        {
            moment();
        }
    }

    /// <summary>Freight volume by season, higher from spring to fall: 1 is the year's average.</summary>
    private static double Season(LocalDate date) => 1 + (0.13 * Math.Sin((date.DayOfYear - 110) / 365.0 * 2 * Math.PI));

    private T Pick<T>(IReadOnlyList<T> from) => from[_lot.Next(from.Count)];

    private void At(Instant at, string who, Action<Moment> act, Via via = Via.Page) =>
        _moments.Enqueue(() => act(new Moment(at, who.Length == 0 ? null : _cast.Staff[who].UserId, via)), (at, _turn++));

    private void At(LocalDateTime local, string who, Action<Moment> act) => At(local.InZoneLeniently(_zone).ToInstant(), who, act);

    /// <summary>A load for a carrier that picks up on a day: generated, then run.</summary>
    private void Brokered(LocalDate date)
    {
        // Out-of-season freight is rare.
        var (data, customer, origin) = Pick(_cast.Customers);
        for (var i = 0; i < 3 && !DemoData.InSeason(data.Freight, date.Month); i++)
        {
            (data, customer, origin) = Pick(_cast.Customers);
        }

        var candidates = _cast.ReceiversNear(origin, p => Drive(origin, p).WholeMiles is > 150 and < 1300);
        var to = Pick(candidates);
        var extra = _lot.Next(12) == 0 ? Pick(candidates) : 0;
        var pickup = date + new LocalTime(6 + _lot.Next(9), _lot.Next(2) * 30);
        // A second delivery is roughly on the way.
        long[] stops =
            extra == 0 || extra == to || Drive(origin, extra).Miles + Drive(extra, to).Miles > (1.2 * Drive(origin, to).Miles) + 60
                ? [origin, to]
                : [origin, extra, to];
        var booked = pickup.PlusHours(-(20 + _lot.Next(150)));
        Life(data, customer, stops, pickup, Slack(), booked, NewFate());
    }

    private Duration Slack() => Duration.FromMinutes(90 + (_lot.Next(6) * 30));

    private Fate NewFate() => new(_lot.Next(100), _lot.Next(100), _lot.Next(100), _lot.Next(100), _lot.Next(100));

    /// <summary>Random outcomes decided in advance: 0 to 99 each.</summary>
    private sealed record Fate(int Pickup, int Road, int Document, int Money, int Rate);

    private sealed record Route(
        DemoCustomer Data,
        long Customer,
        long[] Stops,
        List<(LocalDateTime From, LocalDateTime Until)> Windows,
        Instant Opens,
        int Miles,
        decimal Haul
    );

    private void Life(
        DemoCustomer data,
        long customer,
        long[] stops,
        LocalDateTime pickup,
        Duration slack,
        LocalDateTime booked,
        Fate fate,
        Duration? held = null,
        bool neverCovered = false,
        bool unconfirmed = false,
        bool silent = false,
        DemoDriver? driver = null
    )
    {
        var opens = pickup.InZoneLeniently(Zone(stops[0])).ToInstant();
        var windows = new List<(LocalDateTime From, LocalDateTime Until)> { (pickup, fate.Rate % 3 == 0 ? pickup.PlusHours(3) : pickup) };
        var at = opens;
        for (var i = 1; i < stops.Length; i++)
        {
            var drive = Drive(stops[i - 1], stops[i]).DoorToDoor;
            at += TripPlan.ServiceTime + drive;
            var local = Exists(HalfHour((at + slack).InZone(Zone(stops[i])).LocalDateTime), Zone(stops[i]));
            if (held is null && !silent)
            {
                // Drivers rest after 11 hours at the wheel, and receivers unload by day.
                at += Duration.FromHours(10 * (int)(drive.TotalHours / 11));
                local = Exists(Receiving(HalfHour((at + slack).InZone(Zone(stops[i])).LocalDateTime)), Zone(stops[i]));
                at = local.InZoneLeniently(Zone(stops[i])).ToInstant();
            }

            windows.Add(
                fate.Rate % 4 == 0
                    ? (Exists(local.PlusHours(-3), Zone(stops[i])), Exists(local.PlusHours(1), Zone(stops[i])))
                    : (local, local)
            );
        }

        windows[0] = (Exists(windows[0].From, Zone(stops[0])), Exists(windows[0].Until, Zone(stops[0])));
        var miles = Enumerable.Range(1, stops.Length - 1).Sum(i => Miles(stops[i - 1], stops[i]));
        var bookedAt = booked.InZoneLeniently(_zone).ToInstant();
        var age = Period.DaysBetween(bookedAt.InZone(_zone).Date, _today);
        // Rates follow the season, the lane and, slowly, the years.
        var perMile =
            (
                2.24m
                + (fate.Rate / 100m * 0.36m)
                + Lane(stops[0], stops[^1])
                + (
                    data.Equipment is Equipment.Reefer ? 0.18m
                    : data.Equipment is Equipment.Flatbed or Equipment.CarHauler ? 0.22m
                    : 0m
                )
            ) * (decimal)Math.Round(Season(pickup.Date) - (age * 0.00008), 3);
        var haul = Math.Max(500m, Math.Round(miles * perMile / 5m) * 5m);
        var charges = new List<ChargeOrder>
        {
            new(ChargeKind.LineHaul, null, haul),
            new(ChargeKind.FuelSurcharge, null, null, ChargeBasis.PerMile, DemoData.FuelSurcharge(pickup.Date)),
        };
        if (stops.Length > 2)
        {
            charges.Add(new ChargeOrder(ChargeKind.ExtraStop, null, 95m));
        }

        if (data.Equipment == Equipment.Flatbed && fate.Pickup % 3 == 0)
        {
            charges.Add(new ChargeOrder(ChargeKind.Tarp, null, 75m));
        }

        var order = new LoadOrder(
            customer,
            $"PO {70_000 + (_turn * 7)}",
            data.Equipment,
            stops
                .Select((s, i) => new StopOrder(i == 0 ? StopKind.Pickup : StopKind.Delivery, s, windows[i].From, windows[i].Until, null))
                .ToList(),
            [new FreightOrder(data.Freight, null, 16 + (fate.Road % 11), data.WeightLb - (fate.Money * 20), data.TemperatureF)],
            charges,
            null,
            false
        )
        {
            References = fate.Road % 4 == 0 ? [new ReferenceOrder(ReferenceKind.PickupNumber, $"PU{4_000 + (_turn % 5_000)}")] : [],
            CarrierInstructions = data.TemperatureF is { } t
                ? $"Set the reefer to {t} °F before loading and run it without a break. Send a picture of the display."
                : null,
        };
        var route = new Route(data, customer, stops, windows, opens, miles, haul);
        At(bookedAt, fate.Rate % 2 == 0 ? "bo" : "ines", m =>
        {
            var load = Past.Book(m, order, _cast.Known, data.Name);
            var coverAt = Instant.Max(bookedAt + Duration.FromMinutes(40), opens - Duration.FromHours(6 + (fate.Road % 44)));
            if (driver is null && held is null && !neverCovered && !unconfirmed && !silent && fate is { Document: < 3 })
            {
                At(coverAt, "bo", c => Past.Cancel(c, load, Pick(Cancellations)));
            }
            else if (!neverCovered)
            {
                At(coverAt, "ines", c => Cover(c, load, route, fate, held ?? Duration.Zero, unconfirmed, silent, driver));
            }
        });
    }

    private void Cover(Moment m, PastLoad load, Route route, Fate fate, Duration held, bool unconfirmed, bool silent, DemoDriver? driver)
    {
        var stops = route.Stops;
        var arrives = route.Opens + Duration.FromMinutes((fate.Pickup % 30) - 20);
        var leaves =
            Instant.Max(arrives, route.Opens)
            + Duration.FromMinutes(35 + (fate.Road % 45))
            + held
            + (fate.Pickup > 95 ? Duration.FromHours(3) : Duration.Zero);
        var steps = new List<(Instant Arrives, Instant Leaves)> { (arrives, leaves) };
        for (var i = 1; i < stops.Length; i++)
        {
            var there = steps[i - 1].Leaves + (Drive(stops[i - 1], stops[i]).DoorToDoor * (0.94 + (fate.Road / 1000.0)));
            var opensThere = route.Windows[i].From.InZoneLeniently(Zone(stops[i])).ToInstant() - Duration.FromMinutes(25);
            there = Instant.Max(there, opensThere);
            if (i == stops.Length - 1 && fate.Road > 93)
            {
                // Weather, a shop, a long line at the shipper: about one in sixteen is late.
                var closes = route.Windows[i].Until.InZoneLeniently(Zone(stops[i])).ToInstant();
                there = Instant.Max(there, closes + Duration.FromMinutes(20 + (fate.Money * 2)));
            }

            steps.Add((there, there + Duration.FromMinutes(40 + (fate.Money % 50))));
        }

        if (driver is not null)
        {
            Past.AssignDriver(
                m,
                load,
                driver.Id,
                driver.Name,
                driver.TruckId,
                driver.Unit,
                driver.TrailerId,
                driver.TrailerUnit,
                OpenCommitments(driver.Id)
            );
            _legsOf[driver.Id].Add(load);
            Ran(driver, route.Miles);
            NextTrip(m, driver, Instant.Max(load.Trip!.Commitment.Until, steps[^1].Leaves), Point(stops[^1]));
            if (fate.Money > 93)
            {
                At(steps[0].Leaves + Duration.FromHours(1), "marta", a =>
                    Past.IssueAdvance(a, driver.Id, driver.Name, Money.Usd(100 + (fate.Rate % 4 * 50)), "on the fuel card")
                );
            }
        }
        else
        {
            var carrier = Carrier(fate, route, route.Windows[^1].Until.Date);
            var agreed = Math.Round(load.Order.Revenue.Amount * (0.825m + (fate.Money / 100m * 0.11m)) / 5m) * 5m;
            Past.AssignCarrier(m, load, carrier.Id, carrier.Record, Money.Usd(agreed));
            var closes = route.Windows[0].Until.InZoneLeniently(Zone(stops[0])).ToInstant();
            load.TenderExpires = unconfirmed ? closes : Tender.DefaultExpiry(m.At, 4, closes);
            if (!unconfirmed)
            {
                At(
                    m.At + Duration.FromMinutes(12 + fate.Road),
                    "",
                    a => Past.Accept(a, load, "Dispatch at " + carrier.Record.Name, DemoData.DispatchOf(load.Id)),
                    Via.Outside
                );
            }

            if (!unconfirmed && !silent)
            {
                At(steps[^1].Leaves + Duration.FromHours(40 + fate.Money), "marta", b => Bill(b, load, carrier, fate));
            }
        }

        Roll(load, silent ? steps[..1] : steps, fate, load.Trip is not null, silent);
    }

    private void Roll(PastLoad load, List<(Instant Arrives, Instant Leaves)> steps, Fate fate, bool ours, bool silent)
    {
        Extras(load, steps, fate, silent);
        for (var i = 0; i < steps.Count; i++)
        {
            var index = i;
            At(steps[i].Arrives, "ines", m => Past.Say(m, load, index, StopEvent.Arrived, null), ours ? Via.Phone : Via.Line);
            At(
                steps[i].Leaves,
                "ines",
                m =>
                    Past.Say(
                        m,
                        load,
                        index,
                        index == load.Stops.Count - 1 ? StopEvent.Delivered : StopEvent.Left,
                        index > 0 ? Pick(DemoData.Signers) : null
                    ),
                ours ? Via.Phone : Via.Line
            );
        }

        if (silent)
        {
            return;
        }

        // Documents come the same day from our own drivers, a day or two later from carriers, and occasionally much later.
        var wait =
            Duration.FromMinutes(20 + (fate.Document * (ours ? 2 : 22))) + (fate.Document > 94 ? Duration.FromDays(6) : Duration.Zero);
        At(steps[^1].Leaves + wait, "ines", m =>
        {
            foreach (var kind in RequiredDocuments(load))
            {
                Past.AddDocument(m, load, kind);
            }

            if (SettingsOf(load).Together)
            {
                _together.Add((load, fate));
            }
            else
            {
                NextMorning(m.At, b => Invoice(b, [load], fate));
            }
        });
    }

    private void Invoice(Moment m, IReadOnlyList<PastLoad> loads, Fate fate)
    {
        var data = _cast.Customers[(int)_cast.CustomerIndex[loads[0].Order.CustomerId!.Value]].Data;
        var invoice = Past.Invoice(m, loads, data.TermsDays, DemoCast.MailOf(data.Name, "pay"), RequiredDocuments(loads[0]));
        var days = data.PaysAfterDue + 8 + (fate.Money % 5);
        var on = (invoice.Draft.DueOn.PlusDays(days) + new LocalTime(11, fate.Road % 60)).InZoneLeniently(_zone).ToInstant();
        At(Instant.Max(on, m.At + Duration.FromDays(2)), "marta", p => Pay(p, invoice, data.Name, fate, half: fate.Money is > 40 and < 44));
    }

    /// <summary>One invoice a week for each customer that wants it so.</summary>
    private void InvoiceTogether(Moment m)
    {
        foreach (var customer in _together.GroupBy(t => t.Load.Order.CustomerId).OrderBy(g => g.Key).ToList())
        {
            Invoice(m, customer.Select(t => t.Load).ToList(), customer.First().Fate);
        }

        _together.Clear();
    }

    private IReadOnlyList<DocumentKind> RequiredDocuments(PastLoad load) => SettingsOf(load).RequiredDocuments;

    private BillingSettings SettingsOf(PastLoad load) =>
        DemoBusiness.BillingSettingsOf((int)_cast.CustomerIndex[load.Order.CustomerId!.Value]);

    /// <summary>Customers pay everything due at once: this invoice and others of theirs due by then. A few pay half at first.</summary>
    private void Pay(Moment m, PastInvoice invoice, string name, Fate fate, bool half)
    {
        var open = Past.OpenOf(invoice.Draft.CustomerId)
            .Where(i => i.Open.Amount > 0 && (i == invoice || i.Draft.DueOn <= invoice.Draft.DueOn))
            .ToList();
        if (invoice.Open.Amount == 0 || open.Count == 0)
        {
            return;
        }

        if (half)
        {
            open = [invoice];
            At(m.At + Duration.FromDays(18), "marta", p => Pay(p, invoice, name, fate, half: false));
        }

        var (shortBy, kind, why) = half ? (Money.Zero(), ShortPayReason.Concession, "") : Shorted(m, invoice, fate);
        var amount = half ? Money.Usd(Math.Round(invoice.Open.Amount / 2, 2)) : Money.Sum(open.Select(i => i.Open)) - shortBy;
        var check = fate.Rate % 2 == 0;
        Past.Receive(
            m,
            invoice.Draft.CustomerId,
            name,
            amount,
            check ? "check" : "ach",
            check ? $"{4000 + fate.Money}" : null,
            open,
            shortBy.Amount > 0 ? (invoice, shortBy, kind, why) : null
        );
    }

    private void Bill(Moment m, PastLoad load, DemoCarrier carrier, Fate fate)
    {
        if (load.DeliveredAt is null)
        {
            return;
        }

        var over = fate.Rate > 91 ? 140m : 0m;
        var agreed = load.Agreed!.Value;
        var bill = Past.EnterBill(m, load, $"{8000 + (load.Id * 3) + (fate.Road % 3)}", agreed + Money.Usd(over), carrier.PayDays);
        if (over > 0 && m.At > _now - Duration.FromDays(6))
        {
            return;
        }

        NextMorning(m.At, a => Past.ApproveBill(a, load, over > 0 ? agreed : bill.Amount, over > 0 ? "no lumper receipt" : null));
        At(bill.Due + new LocalTime(14, 0), "dana", p => Past.PayBill(p, load));
    }

    /// <summary>Last week's pay: approved on Tuesday, paid on Friday.</summary>
    private void Weeks(Moment m, LocalDate tuesday)
    {
        var monday = DriverSettlement.MondayOf(tuesday).PlusDays(-7);
        foreach (var driver in _cast.Drivers)
        {
            // Of past loads, only those that reach into this week or are not paid yet matter.
            var loads = _legsOf[driver.Id];
            loads.RemoveAll(l => l.Week is not null && l.DeliveredAt is { } at && Past.Day(at) < monday.PlusDays(-7));
            if (
                Past.ApproveSettlement(m, driver.Id, driver.Name, driver.Agreement, driver.Recurring, driver.Worker, monday, loads) is
                { } week
            )
            {
                At(DriverSettlement.PayDay(monday) + new LocalTime(9, 30), "dana", p => Past.PaySettlement(p, week, driver.Name));
                _taxOwed += week.Week.EmployerTax;
                _withheld += Money.Sum(
                    week.Week.Deductions.Where(d => d.Account == Accounts.Withheld.Code && d.RecurringId is not null).Select(d => d.Amount)
                );
            }
        }
    }

    /// <summary>Current loads with problems to work on: late, without update, uncovered, unconfirmed, tight.</summary>
    private void Trouble()
    {
        var now = HalfHour(_now.InZone(_zone).LocalDateTime);
        Special(
            0,
            "Northgate Cold Storage",
            now.PlusHours(-7),
            Duration.FromMinutes(60),
            held: Duration.FromHours(3),
            driver: _cast.Drivers[0]
        );
        Special(1, "Black Hills Home Supply", now.PlusHours(-15), Duration.FromHours(9), silentFor: Duration.FromHours(4));
        Special(2, "Red River Grocers", now.PlusHours(-6), Duration.FromMinutes(40), driver: _cast.Drivers[1]);
        Special(6, "Wascana Wholesale", now.PlusHours(4), Duration.FromHours(3), neverCovered: true);
        Special(10, "Red River Grocers", now.PlusHours(22), Duration.FromHours(4), neverCovered: true);
        Special(12, "Platte Street Millwork Supply", now.PlusHours(9), Duration.FromHours(4), unconfirmed: true);

        void Special(
            int customer,
            string receiver,
            LocalDateTime pickup,
            Duration slack,
            Duration? held = null,
            Duration? silentFor = null,
            bool neverCovered = false,
            bool unconfirmed = false,
            DemoDriver? driver = null
        )
        {
            var (data, id, origin) = _cast.Customers[customer];
            var to = _cast.Known.Values.First(p => p.Name == receiver).Id;
            var begins = pickup;
            if (silentFor is { } silent)
            {
                // Left so long ago that it should have arrived; nobody has reported it yet.
                var ago = Drive(origin, to).DoorToDoor + TripPlan.ServiceTime + silent;
                begins = HalfHour((_now - ago).InZone(_zone).LocalDateTime);
            }

            var local = begins.InZoneLeniently(_zone).WithZone(Zone(origin)).LocalDateTime;
            Life(
                data,
                id,
                [origin, to],
                local,
                slack,
                now.PlusHours(-30),
                new Fate(25, 50, 50, 50, 50),
                held,
                neverCovered,
                unconfirmed,
                silentFor is not null,
                driver
            );
        }
    }

    private void Drafts()
    {
        foreach (
            var (customer, words) in new[]
            {
                (4, "two more to Seattle next week, rate not agreed yet"),
                (14, "asked for Thursday, weight unknown"),
                (33, "waiting for the PO"),
            }
        )
        {
            var (data, id, place) = _cast.Customers[customer];
            At(_now - Duration.FromHours(3 + customer), "bo", m =>
                Past.Book(
                    m,
                    new LoadOrder(
                        id,
                        null,
                        data.Equipment,
                        [new StopOrder(StopKind.Pickup, place, null, null, null)],
                        [new FreightOrder(data.Freight, null, null, null, data.TemperatureF)],
                        [],
                        words,
                        true
                    ),
                    _cast.Known,
                    data.Name
                )
            );
        }
    }

    /// <summary>A driver's bookings that stand: of trips that have not ended.</summary>
    private IEnumerable<Commitment> OpenCommitments(long driver) =>
        _legsOf[driver]
            .Where(l => l.Trip is { Ended: null })
            .Select(l => new Commitment(CommitmentKind.Driver, driver, "", l.Trip!.Number, l.Number, l.Trip.Commitment));

    private DemoCarrier Carrier(Fate fate, Route route, LocalDate delivered)
    {
        var index = ((fate.Road * 7) + (route.Miles % 13)) % _cast.Carriers.Count;
        while (
            CarrierFitness.Check(_cast.Carriers[index].Record, DemoData.Requirements, new CarriedFreight(delivered)).Count > 0
            || !MayHaul(_cast.Carriers[index].IsCanadian, route.Stops)
        )
        {
            index = (index + 1) % _cast.Carriers.Count;
        }

        return _cast.Carriers[index];
    }

    private bool IsCanada(long place) => _cast.TownOfPlace[place].Country == "CA";

    /// <summary>Nobody hauls between two points of the other country.</summary>
    private bool MayHaul(bool isCanadian, long[] stops) =>
        !Cabotage.Happens(
            isCanadian ? "CA" : "US",
            stops.Select((s, i) => (i == 0 ? StopKind.Pickup : StopKind.Delivery, (string?)_cast.TownOfPlace[s].Country)).ToList()
        );

    /// <summary>The bookkeeper's work of the next morning. This morning's is left for whoever tries the demo, at any hour.</summary>
    private void NextMorning(Instant after, Action<Moment> act)
    {
        var at = Morning(after);
        if (at.InZone(_zone).Date < _now.InZone(_zone).Date)
        {
            At(at, "marta", act);
        }
    }

    private Instant Morning(Instant after)
    {
        var local = after.InZone(_zone).LocalDateTime;
        var day = local.TimeOfDay < new LocalTime(9, 0) ? local.Date : local.Date.PlusDays(1);
        while (day.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
        {
            day = day.PlusDays(1);
        }

        return (day + new LocalTime(9, 5 + _lot.Next(50))).InZoneLeniently(_zone).ToInstant();
    }

    private DateTimeZone Zone(long place) => _cast.ZoneOf[place];

    /// <summary>A time skipped in spring moves an hour later.</summary>
    private static LocalDateTime Exists(LocalDateTime local, DateTimeZone zone) =>
        zone.MapLocal(local).Count == 0 ? local.PlusHours(1) : local;

    private static LocalDateTime HalfHour(LocalDateTime t) => t.Date + new LocalTime(t.Hour, t.Minute < 30 ? 0 : 30);

    private Drive Drive(long a, long b) => Routing.Roads.Between(Point(a), Point(b));

    private int Miles(long a, long b) => Drive(a, b).WholeMiles;

    private GeoPoint Point(long place) => _cast.Known[place].Point;
}
