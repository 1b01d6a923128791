using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Papers;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Papers;
using SteadyLark.Server.Paying;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Demo;

/// <summary>
/// Lives the demo's past: a queue of moments, each a command through the same code as live work, from ten weeks ago up to
/// now. What is drawn by lot comes from the day alone, so the same day gives the same business; how far it has come today
/// is what the clock says.
/// </summary>
internal sealed class DemoLife
{
    private const int DaysAhead = 7;

    private readonly Work _w;
    private readonly DemoCast _cast;
    private readonly CoverCommands _cover;
    private readonly BillingCommands _billing;
    private readonly Random _lot;
    private readonly PriorityQueue<Func<Task>, (Instant At, int Turn)> _moments = new();
    private readonly Dictionary<long, (Instant Free, TownRow At)> _drivers = [];
    private readonly Dictionary<long, Instant> _trailers = [];
    private readonly int _daysBehind;
    private int _turn;

    public DemoLife(IServiceProvider services, Work w, DemoCast cast, int daysBehind)
    {
        _daysBehind = daysBehind;
        _w = w;
        _cast = cast;
        _cover = services.GetRequiredService<CoverCommands>();
        _billing = services.GetRequiredService<BillingCommands>();
        _lot = new Random((int)(w.Today.ToDateOnly().DayNumber % 100_000));
        var began = (w.Today.PlusDays(-_daysBehind) + new LocalTime(0, 0)).InZoneLeniently(w.Zone).ToInstant();
        foreach (var driver in cast.Drivers)
        {
            _drivers[driver.Id] = (began, driver.Home);
        }

        foreach (var trailer in cast.Trailers)
        {
            _trailers[trailer.Id] = began;
        }
    }

    /// <summary>Runs every moment up to now.</summary>
    public async Task Live(Action<string> say)
    {
        for (var day = -_daysBehind; day <= DaysAhead; day++)
        {
            var date = _w.Today.PlusDays(day);
            var loads = date.DayOfWeek switch { IsoDayOfWeek.Sunday => 3, IsoDayOfWeek.Saturday => 3, _ => 3 + _lot.Next(4) };
            for (var i = 0; i < loads; i++)
            {
                Plan(date);
            }

            if (date.DayOfWeek == IsoDayOfWeek.Tuesday)
            {
                At(date + new LocalTime(10, 0), "marta", w => Weeks(w, date));
            }
        }

        Trouble();
        Drafts();
        var done = 0;
        while (_moments.TryDequeue(out var moment, out var when) && when.At <= _w.Now)
        {
            await moment();
            if (++done % 400 == 0)
            {
                say($"  demo: {when.At.InZone(_w.Zone).Date:d MMM}, {done} things done");
            }
        }
    }

    private T Pick<T>(IReadOnlyList<T> from) => from[_lot.Next(from.Count)];

    private void At(Instant at, string who, Func<Work, Task> act, Via via = Via.Page) =>
        _moments.Enqueue(() => act(_w.At(at, who.Length == 0 ? new Actor(null, "", via) : _cast.Staff[who] with { Via = via })), (at, _turn++));

    private void At(LocalDateTime local, string who, Func<Work, Task> act) => At(local.InZoneLeniently(_w.Zone).ToInstant(), who, act);

    /// <summary>A load that picks up on a day: drawn by lot, then lived.</summary>
    private void Plan(LocalDate date)
    {
        var (data, customer, origin) = Pick(_cast.Customers);
        var from = _cast.TownOfPlace[origin];
        var candidates = _cast.Receivers.Where(r => Miles(from, r.Town) is > 120 and < 1300).ToList();
        var to = Pick(candidates);
        var extra = _lot.Next(12) == 0 ? Pick(candidates) : default;
        var pickup = date + new LocalTime(6 + _lot.Next(9), _lot.Next(2) * 30);
        var stops = extra.PlaceId == 0 || extra.PlaceId == to.PlaceId ? new[] { (origin, from), (to.PlaceId, to.Town) } : [(origin, from), (extra.PlaceId, extra.Town), (to.PlaceId, to.Town)];
        var slack = Duration.FromMinutes(90 + (_lot.Next(6) * 30));
        var booked = pickup.PlusHours(-(20 + _lot.Next(80)));
        var fate = new Fate(_lot.Next(100), _lot.Next(100), _lot.Next(100), _lot.Next(100), _lot.Next(100));
        Life(data, customer, stops, pickup, slack, booked, fate, _lot.Next(100) < 58);
    }

    /// <summary>What will go how, drawn before it happens: 0 to 99 each.</summary>
    private sealed record Fate(int Pickup, int Road, int Paper, int Money, int Rate);

    private void Life(DemoCustomer data, long customer, (long Place, TownRow Town)[] stops, LocalDateTime pickup, Duration slack, LocalDateTime booked, Fate fate, bool ours, Duration? held = null, bool neverCovered = false, bool unconfirmed = false, bool silent = false, int? driver = null)
    {
        var zone = WallClock.Zone(stops[0].Town.Zone)!;
        var opens = pickup.InZoneLeniently(zone).ToInstant();
        var windows = new List<(LocalDateTime From, LocalDateTime Until)> { (pickup, fate.Rate % 3 == 0 ? pickup.PlusHours(3) : pickup) };
        var at = opens;
        for (var i = 1; i < stops.Length; i++)
        {
            at += TripPlan.ServiceTime + RoadEstimate.DoorToDoor(Miles(stops[i - 1].Town, stops[i].Town));
            var local = HalfHour((at + slack).InZone(WallClock.Zone(stops[i].Town.Zone)!).LocalDateTime);
            windows.Add(fate.Rate % 4 == 0 ? (local.PlusHours(-3), local.PlusHours(1)) : (local, local));
        }

        var miles = Enumerable.Range(1, stops.Length - 1).Sum(i => Miles(stops[i - 1].Town, stops[i].Town));
        var perMile = 2.35m + (fate.Rate / 100m * 0.9m) + (data.Equipment is Equipment.Reefer ? 0.25m : data.Equipment is Equipment.Flatbed or Equipment.CarHauler ? 0.35m : 0m);
        var haul = Math.Max(450m, Math.Round(miles * perMile / 5m) * 5m);
        var charges = new List<ChargeRequest> { new(ChargeKind.LineHaul, null, Money.Usd(haul)), new(ChargeKind.FuelSurcharge, null, Money.Usd(Math.Round(miles * 0.46m, 2))) };
        if (stops.Length > 2)
        {
            charges.Add(new ChargeRequest(ChargeKind.ExtraStop, null, Money.Usd(95m)));
        }

        var order = new LoadRequest(
            customer, $"PO {70_000 + (_turn * 7)}", data.Equipment,
            stops.Select((s, i) => new StopRequest(i == 0 ? StopKind.Pickup : StopKind.Delivery, s.Place, windows[i].From, windows[i].Until, null)).ToList(),
            [new FreightRequest(data.Freight, null, 16 + (fate.Road % 11), data.WeightLb - (fate.Money * 20), data.TemperatureF)], charges, null, false);
        var bookedAt = booked.InZoneLeniently(_w.Zone).ToInstant();
        At(bookedAt, fate.Rate % 2 == 0 ? "bo" : "ines", async w =>
        {
            var load = Must(await LoadCommands.Book(w, order));
            if (!neverCovered)
            {
                var coverAt = Instant.Max(bookedAt + Duration.FromMinutes(40), opens - Duration.FromHours(6 + (fate.Road % 44)));
                At(coverAt, "ines", c => Cover(c, load.Id, data, stops, opens, miles, haul, windows, fate, ours, held ?? Duration.Zero, unconfirmed, silent, driver));
            }
        });
    }

    private async Task Cover(
        Work w, long load, DemoCustomer data, (long Place, TownRow Town)[] stops, Instant opens, int miles, decimal haul, List<(LocalDateTime From, LocalDateTime Until)> windows, Fate fate, bool ours, Duration held, bool unconfirmed, bool silent, int? wanted)
    {
        await LoadWrites.Lock(w.Db, load);
        var arrives = opens + Duration.FromMinutes((fate.Pickup % 30) - 20);
        var leaves = Instant.Max(arrives, opens) + Duration.FromMinutes(35 + (fate.Road % 45)) + held + (fate.Pickup > 95 ? Duration.FromHours(3) : Duration.Zero);
        var steps = new List<(Instant Arrives, Instant Leaves)> { (arrives, leaves) };
        for (var i = 1; i < stops.Length; i++)
        {
            var there = steps[i - 1].Leaves + (RoadEstimate.DoorToDoor(Miles(stops[i - 1].Town, stops[i].Town)) * (0.94 + (fate.Road / 1000.0)));
            var opensThere = windows[i].From.InZoneLeniently(WallClock.Zone(stops[i].Town.Zone)!).ToInstant() - Duration.FromMinutes(25);
            there = Instant.Max(there, opensThere);
            steps.Add((there, there + Duration.FromMinutes(40 + (fate.Money % 50))));
        }

        var driver = wanted is { } index ? (_cast.Drivers[index].Id, _cast.Drivers[index].TruckId) : ours ? FreeDriver(stops[0].Town, opens) : null;
        var trailer = driver is null ? 0 : FreeTrailer(data.Equipment, opens);
        if (driver is { } d && trailer != 0)
        {
            Must(await CoverCommands.ByDriver(w, load, new CoverByDriverRequest(d.Id, d.TruckId, trailer)));
            var planned = TripPlan.Lay((await LoadReads.Stops(w.Db, [load])).Select(s => s.Planned()).ToList()).Promise.Until;
            var free = Instant.Max(planned, steps[^1].Leaves) + Duration.FromHours(fate.Money % 3 == 0 ? 10 : 2);
            _drivers[d.Id] = (free, stops[^1].Town);
            _trailers[trailer] = free;
            if (fate.Money > 90)
            {
                At(steps[0].Leaves + Duration.FromHours(1), "marta", async a => Must(await PayingCommands.Draw(a, new DrawRequest(d.Id, null, Money.Usd(100 + (fate.Rate % 4 * 50)), "on the fuel card"))));
            }
        }
        else
        {
            var carrier = Carrier(fate, miles);
            var agreed = Math.Round(haul * (0.80m + (fate.Money / 100m * 0.14m)) / 5m) * 5m;
            Must(await _cover.ByCarrier(w, load, new CoverByCarrierRequest(carrier.Id, Money.Usd(agreed))));
            var token = (await w.Db.One<string>("select t.token from tenders t join legs g on g.id = t.leg_id where g.load_id = @load and t.withdrawn_at is null", ("load", load)))!;
            if (!unconfirmed)
            {
                At(w.Now + Duration.FromMinutes(12 + fate.Road), "", async a => Must(await CoverCommands.Accept(a, token, new AcceptRequest("Dispatch at " + carrier.Name))), Via.Outside);
            }

            if (!unconfirmed && !silent)
            {
                At(steps[^1].Leaves + Duration.FromHours(40 + fate.Money), "marta", b => Bill(b, load, agreed, fate));
            }
        }

        Roll(load, silent ? steps[..1] : steps, fate, driver is not null, silent);
    }

    private void Roll(long load, List<(Instant Arrives, Instant Leaves)> steps, Fate fate, bool ours, bool silent)
    {
        for (var i = 0; i < steps.Count; i++)
        {
            var index = i;
            At(steps[i].Arrives, "ines", w => Say(w, load, index, StopWord.Arrived, null), ours ? Via.Phone : Via.Line);
            At(steps[i].Leaves, "ines", w => Say(w, load, index, index > 0 ? StopWord.Delivered : StopWord.Left, index > 0 ? Pick(DemoData.Signers) : null), ours ? Via.Phone : Via.Line);
        }

        if (silent)
        {
            return;
        }

        // Paper comes the same day from our own drivers, a day or two later from carriers, and now and then not at all for a while.
        var wait = Duration.FromMinutes(20 + (fate.Paper * (ours ? 2 : 22))) + (fate.Paper > 94 ? Duration.FromDays(6) : Duration.Zero);
        At(steps[^1].Leaves + wait, "ines", async w =>
        {
            await LoadWrites.Lock(w.Db, load);
            var row = (await LoadReads.ByIds(w.Db, [load]))[0];
            Must(await PaperCommands.Add(w, load, PaperKind.Pod, $"pod-{row.Number}.pdf", Pod(row)));
            var billAt = Morning(w.Now);
            At(billAt, "marta", b => Invoice(b, load, fate));
        });
    }

    private static async Task Say(Work w, long load, int index, StopWord word, string? signed)
    {
        await LoadWrites.Lock(w.Db, load);
        var stop = (await LoadReads.Stops(w.Db, [load]))[index];
        Must(await StopCommands.Record(w, load, stop.Id, new StopWordRequest(word, null, signed)));
    }

    private async Task Invoice(Work w, long load, Fate fate)
    {
        var invoice = Must(await _billing.Issue(w, new InvoiceRequest([load], null, null)));
        var data = _cast.Customers.First(c => c.Id == invoice.CustomerId).Data;
        var days = data.PaysAfterDue + (fate.Money % 5) - 2;
        var on = (invoice.DueOn.PlusDays(days) + new LocalTime(11, fate.Road % 60)).InZoneLeniently(w.Zone).ToInstant();
        var half = fate.Money is > 40 and < 47;
        At(Instant.Max(on, w.Now + Duration.FromDays(2)), "marta", p => Pay(p, invoice, half ? Math.Round(invoice.Total.Amount / 2, 2) : invoice.Total.Amount, fate));
    }

    private static async Task Pay(Work w, InvoiceRow invoice, decimal amount, Fate fate) =>
        Must(await BillingCommands.Receive(w, new PaymentRequest(
            invoice.CustomerId, null, fate.Rate % 2 == 0 ? "check" : "ach", fate.Rate % 2 == 0 ? $"{4000 + fate.Money}" : null, Money.Usd(amount), [new ApplicationRequest(invoice.Id, Money.Usd(amount))])));

    private async Task Bill(Work w, long load, decimal agreed, Fate fate)
    {
        var leg = (await LoadReads.Legs(w.Db, load))[0];
        if (await PayingStore.LegForBill(w.Db, leg.Id) is null)
        {
            return;
        }

        var over = fate.Rate > 91 ? 140m : 0m;
        var bill = Must(await PayingCommands.EnterBill(w, new BillRequest(leg.Id, $"{8000 + (load * 3) + (fate.Road % 3)}", null, Money.Usd(agreed + over))));
        if (over > 0 && w.Now > _w.Now - Duration.FromDays(6))
        {
            return;
        }

        At(Morning(w.Now), "marta", async a => Must(await PayingCommands.ApproveBill(a, bill.Id, new ApproveBillRequest(over > 0 ? Money.Usd(agreed) : null, over > 0 ? "lumper without a receipt" : null))));
        At(bill.DueOn + new LocalTime(14, 0), "marta", async p => Must(await PayingCommands.PayBill(p, bill.Id, new PayoutRequest(null, "ach", null))));
    }

    /// <summary>Last week's pay: approved on Tuesday, paid on Friday.</summary>
    private async Task Weeks(Work w, LocalDate tuesday)
    {
        var monday = DriverWeek.MondayOf(tuesday).PlusDays(-7);
        foreach (var driver in _cast.Drivers)
        {
            var approved = await PayingCommands.ApproveWeek(w, new WeekRequest(driver.Id, monday));
            if (approved.Ok)
            {
                At(DriverWeek.PayDay(monday) + new LocalTime(9, 30), "marta", async p => Must(await PayingCommands.PayWeek(p, approved.Value.Id, new PayoutRequest(null, "ach", null))));
            }
        }
    }

    /// <summary>Loads around now that are in trouble, so that there is something to mend: late, silent, uncovered, unconfirmed, thin.</summary>
    private void Trouble()
    {
        var now = HalfHour(_w.Now.InZone(_w.Zone).LocalDateTime);
        Special(0, "Northgate Cold Storage", now.PlusHours(-7), Duration.FromMinutes(60), ours: true, held: Duration.FromHours(3), driver: 0);
        Special(1, "Black Hills Home Supply", now.PlusHours(-15), Duration.FromHours(9), ours: false, silentFor: Duration.FromHours(4));
        Special(2, "Red River Grocers", now.PlusHours(-6), Duration.FromMinutes(40), ours: true, driver: 1);
        Special(6, "Wascana Wholesale", now.PlusHours(4), Duration.FromHours(3), ours: false, neverCovered: true);
        Special(10, "Red River Grocers", now.PlusHours(22), Duration.FromHours(4), ours: false, neverCovered: true);
        Special(12, "Platte Street Millwork Supply", now.PlusHours(9), Duration.FromHours(4), ours: false, unconfirmed: true);

        void Special(int customer, string receiver, LocalDateTime pickup, Duration slack, bool ours, Duration? held = null, Duration? silentFor = null, bool neverCovered = false, bool unconfirmed = false, int? driver = null)
        {
            var (data, id, origin) = _cast.Customers[customer];
            var index = Array.FindIndex(DemoData.Receivers, r => r.Name == receiver);
            var from = _cast.TownOfPlace[origin];
            var stops = new[] { (origin, from), (_cast.Receivers[index].PlaceId, _cast.Receivers[index].Town) };
            var begins = pickup;
            if (silentFor is { } silent)
            {
                // Left so long ago that it should have arrived; the words that it did are still to come.
                var ago = RoadEstimate.DoorToDoor(Miles(from, stops[1].Item2)) + TripPlan.ServiceTime + silent;
                begins = HalfHour((_w.Now - ago).InZone(_w.Zone).LocalDateTime);
            }

            var local = begins.InZoneLeniently(_w.Zone).WithZone(WallClock.Zone(from.Zone)!).LocalDateTime;
            Life(data, id, stops, local, slack, now.PlusHours(-30), new Fate(25, 50, 50, 50, 50), ours, held, neverCovered, unconfirmed, silentFor is not null, driver);
        }
    }

    private void Drafts()
    {
        foreach (var (customer, words) in new[] { (4, "two more to Seattle next week, rate to be agreed"), (14, "asked for Thursday, weight unknown"), (33, "waiting for the PO") })
        {
            var c = _cast.Customers[customer];
            At(_w.Now - Duration.FromHours(3 + customer), "bo", async w => Must(await LoadCommands.Book(w, new LoadRequest(
                c.Id, null, c.Data.Equipment, [new StopRequest(StopKind.Pickup, c.PlaceId, null, null, null)], [new FreightRequest(c.Data.Freight, null, null, null, c.Data.TemperatureF)], [], words, true))));
        }
    }

    private (long Id, long TruckId)? FreeDriver(TownRow from, Instant opens)
    {
        // The first two are kept for the loads around now that are in trouble.
        var free = _cast.Drivers
            .Where(d => opens < _w.Now - Duration.FromDays(3) || (d.Id != _cast.Drivers[0].Id && d.Id != _cast.Drivers[1].Id))
            .Where(d => _drivers[d.Id] is var s && s.Free + RoadEstimate.DoorToDoor(Miles(s.At, from)) <= opens && Miles(s.At, from) < 420)
            .OrderBy(d => Miles(_drivers[d.Id].At, from)).ThenBy(d => _drivers[d.Id].Free).ThenBy(d => d.Id).ToList();
        return free.Count == 0 ? null : (free[0].Id, free[0].TruckId);
    }

    private long FreeTrailer(Equipment equipment, Instant opens) => _cast.Trailers.FirstOrDefault(t => t.Equipment == equipment && _trailers[t.Id] <= opens).Id;

    private (long Id, string Name) Carrier(Fate fate, int miles)
    {
        // Those with lapsed papers stand at 2, 7, 11 and 19; nobody books them.
        var index = ((fate.Road * 7) + (miles % 13)) % _cast.Carriers.Count;
        while (index is 2 or 7 or 11 or 19)
        {
            index = (index + 1) % _cast.Carriers.Count;
        }

        return (_cast.Carriers[index].Id, _cast.Carriers[index].Name);
    }

    private Instant Morning(Instant after)
    {
        var local = after.InZone(_w.Zone).LocalDateTime;
        var day = local.TimeOfDay < new LocalTime(9, 0) ? local.Date : local.Date.PlusDays(1);
        while (day.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
        {
            day = day.PlusDays(1);
        }

        return (day + new LocalTime(9, 5 + _lot.Next(50))).InZoneLeniently(_w.Zone).ToInstant();
    }

    private static byte[] Pod(LoadRow load)
    {
        using var page = new PdfPage($"POD {load.Number}", "Demo paper");
        var last = load.Stops[^1];
        page.Line("Proof of delivery", 19, bold: true);
        page.Space(8);
        page.Line($"Load {load.Number} · {load.Customer} · {load.Reference}");
        page.Line($"{load.Freight}, {load.WeightLb:#,##0} lb");
        page.Line($"Delivered to {last.Place}, {last.Town} {last.Region}");
        page.Space(20);
        page.Line($"Received in good order: {last.ReceivedBy}", 13, bold: true);
        page.Line($"{(last.DeliveredAt ?? last.ArrivedAt ?? default).Said(WallClock.Zone(last.Zone) ?? DateTimeZone.Utc)}");
        return page.Save();
    }

    private static LocalDateTime HalfHour(LocalDateTime t) => t.Date + new LocalTime(t.Hour, t.Minute < 30 ? 0 : 30);

    private static int Miles(TownRow a, TownRow b) => RoadEstimate.Miles(new GeoPoint(a.Latitude, a.Longitude), new GeoPoint(b.Latitude, b.Longitude));

    /// <summary>The demo does nothing that the rules refuse; if it does, the demo is wrong.</summary>
    private static T Must<T>(Outcome<T> outcome) => outcome.Ok ? outcome.Value : throw new InvalidOperationException($"The demo was refused: {string.Join(' ', outcome.Problems.Select(p => p.Message))}");
}
