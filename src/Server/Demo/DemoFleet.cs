using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Server.Places;

namespace SteadyLark.Server.Demo;

/// <summary>What our own trucks do: each driver's next load is found near where the last one ends, and they get home.</summary>
internal sealed partial class DemoLife
{
    /// <summary>Days out after which loads toward home come first, and after which a driver goes home without one.</summary>
    private const int WantsHome = 6,
        MustGoHome = 10;

    private static readonly Duration AtHome = Duration.FromHours(44);

    private static readonly string[] Cancellations =
    [
        "order pushed to next week",
        "customer found a truck of its own",
        "product not ready",
        "receiver closed",
    ];

    private readonly Dictionary<long, Instant> _outSince = [];
    private readonly Dictionary<(long Origin, Equipment Trailer), double> _nearestFreight = [];

    /// <summary>Miles of each truck since the last bill for it: repairs and tolls follow them, fuel with the empty ones. Owner-operators
    /// buy fuel on our account and bear the rest.</summary>
    private readonly Dictionary<long, int> _fuelMiles = [];
    private readonly Dictionary<long, int> _repairMiles = [];
    private int _tollMiles;

    private void Ran(DemoDriver driver, int miles)
    {
        _fuelMiles[driver.TruckId] = _fuelMiles.GetValueOrDefault(driver.TruckId) + miles;
        if (driver.Worker != WorkerKind.OwnerOperator)
        {
            _repairMiles[driver.TruckId] = _repairMiles.GetValueOrDefault(driver.TruckId) + miles;
            _tollMiles += miles;
        }
    }

    /// <summary>Books a driver's next load, from where and when they are free; after enough days out, toward home.</summary>
    private void NextTrip(Moment m, DemoDriver driver, Instant free, GeoPoint at)
    {
        var home = driver.HomePoint;
        var daysOut = (free - _outSince[driver.Id]).TotalDays;
        var drive = Routing.Roads.Between(at, home);
        if ((daysOut > WantsHome && drive.Miles < 160) || daysOut > MustGoHome)
        {
            Ran(driver, drive.WholeMiles);
            free += drive.DoorToDoor + AtHome;
            at = home;
            _outSince[driver.Id] = free;
            daysOut = 0;
        }

        // The first two have current loads with problems; nobody is planned further ahead than tomorrow.
        var last = driver.Index < 2 && _isLast ? _now - Duration.FromDays(3) : _now + Duration.FromHours(30);
        if (Choose(driver, at, free, daysOut > WantsHome - 2) is not var (customer, to) || free > last)
        {
            return;
        }

        var (data, id, origin) = customer;
        var empty = Routing.Roads.Between(at, Point(origin));
        var ready = (free + empty.DoorToDoor + Duration.FromMinutes(30)).InZone(Zone(origin)).LocalDateTime;
        var pickup = Opening(HalfHour(ready.PlusMinutes(29)));
        var opens = Exists(pickup, Zone(origin)).InZoneLeniently(Zone(origin)).ToInstant();
        if (opens > last)
        {
            return;
        }

        Ran(driver, empty.WholeMiles);
        var booked = Instant.Max(m.At + Duration.FromMinutes(5 + _lot.Next(50)), opens - Duration.FromHours(20 + _lot.Next(60)));
        Life(data, id, [origin, to], pickup, Slack(), booked.InZone(_zone).LocalDateTime, NewFate(), driver: driver);
    }

    /// <summary>Shippers load from six to three, not on Sundays. Who was unloaded after early morning mostly loads again the next
    /// day.</summary>
    private LocalDateTime Opening(LocalDateTime ready)
    {
        var (from, until) = (new LocalTime(6, 0), new LocalTime(_lot.Next(5) == 0 ? 15 : 8, 0));
        var at =
            ready.TimeOfDay < from ? ready.Date + from
            : ready.TimeOfDay > until ? ready.Date.PlusDays(1) + from.PlusMinutes(30 * _lot.Next(9))
            : ready;
        return at.DayOfWeek == IsoDayOfWeek.Sunday ? at.Date.PlusDays(1) + from.PlusMinutes(30 * _lot.Next(9)) : at;
    }

    /// <summary>Receivers unload from six to five.</summary>
    private static LocalDateTime Receiving(LocalDateTime at) =>
        at.TimeOfDay < new LocalTime(6, 0) ? at.Date + new LocalTime(7, 0)
        : at.TimeOfDay > new LocalTime(17, 0) ? at.Date.PlusDays(1) + new LocalTime(7, 0)
        : at;

    /// <summary>Freight for a driver's trailer near where they are, to where there is freight again or, when they want it, to their
    /// home.</summary>
    private ((DemoCustomer Data, long Id, long PlaceId) Customer, long To)? Choose(
        DemoDriver driver,
        GeoPoint at,
        Instant free,
        bool homeward
    )
    {
        var month = free.InZone(_zone).Month;
        var near = _cast
            .Customers.Where(c => Fits(driver.Pulls, c.Data.Equipment) && DemoData.InSeason(c.Data.Freight, month))
            .Select(c => (Customer: c, Miles: GreatCircle.Miles(at, Point(c.PlaceId))))
            .OrderBy(c => c.Miles)
            .Take(4)
            .ToList();
        // Close ones are likelier.
        var (customer, _) = near[Math.Min(Math.Min(_lot.Next(near.Count), _lot.Next(near.Count)), _lot.Next(near.Count))];
        var origin = customer.PlaceId;
        var candidates = _cast
            .ReceiversNear(origin, p => Drive(origin, p).WholeMiles is > 150 and < 1300)
            .Where(p => Drive(origin, p).WholeMiles is > 340 and < 1150 && !(IsCanada(origin) && IsCanada(p)))
            .ToList();
        if (candidates.Count == 0)
        {
            return null;
        }

        if (homeward)
        {
            var best = candidates.MinBy(p => GreatCircle.Miles(Point(p), driver.HomePoint));
            if (GreatCircle.Miles(Point(best), driver.HomePoint) < 170)
            {
                return (customer, best);
            }
        }

        var good = candidates.Where(p => Nearest(p, driver.Pulls) < 45).ToList();
        return (customer, Pick(good.Count > 0 ? good : candidates));
    }

    /// <summary>Miles from a place to the nearest freight for a trailer.</summary>
    private double Nearest(long place, Equipment trailer)
    {
        if (!_nearestFreight.TryGetValue((place, trailer), out var miles))
        {
            _nearestFreight[(place, trailer)] = miles = _cast
                .Customers.Where(c => Fits(trailer, c.Data.Equipment))
                .Min(c => GreatCircle.Miles(Point(place), Point(c.PlaceId)));
        }

        return miles;
    }

    /// <summary>A reefer hauls dry freight, too.</summary>
    private static bool Fits(Equipment trailer, Equipment freight) =>
        trailer == freight || (trailer == Equipment.Reefer && freight == Equipment.Van);

    /// <summary>What a lane pays more or less than others, per mile: strong one way, weak the other.</summary>
    private decimal Lane(long origin, long destination)
    {
        var (a, b) = (_cast.TownOfPlace[origin].Id, _cast.TownOfPlace[destination].Id);
        var lane = ((a * 7919) + (b * 104_729)) % 41;
        var west = _cast.TownOfPlace[destination].Longitude < _cast.TownOfPlace[origin].Longitude ? 0.07m : -0.07m;
        return west + ((lane - 20) * 0.009m);
    }

    /// <summary>Detention, layover and lumpers, as they come up on the way.</summary>
    private void Extras(PastLoad load, List<(Instant Arrives, Instant Leaves)> steps, Fate fate, bool silent)
    {
        if (silent)
        {
            return;
        }

        var kept = steps[0].Leaves - Instant.Max(steps[0].Arrives, load.Stops[0].Booked.At?.From ?? steps[0].Arrives);
        if (kept > Duration.FromHours(3))
        {
            var hours = (int)Math.Ceiling(kept.TotalHours - 2);
            At(steps[0].Leaves + Duration.FromMinutes(5), "ines", m =>
                Past.AddCharge(m, load, ChargeKind.Detention, $"{hours} hours at {load.Stops[0].Booked.Place!.Name}", 75m * hours)
            );
        }

        var before = steps[^1].Arrives - Duration.FromMinutes(4);
        if (load.Order.Equipment == Equipment.Reefer && fate.Road % 5 == 0)
        {
            At(before, "ines", m => Past.AddCharge(m, load, ChargeKind.Lumper, "lumper receipt on file", 180m + (fate.Money % 9 * 20m)));
        }

        if (fate.Pickup is > 80 and < 87)
        {
            At(before, "ines", m => Past.AddCharge(m, load, ChargeKind.Layover, "receiver rescheduled to the next day", 250m));
        }

        if (fate.Pickup is > 60 and < 69)
        {
            var hours = 1 + (fate.Money % 4);
            At(before, "ines", m => Past.AddCharge(m, load, ChargeKind.Detention, $"{hours} hours at the receiver", 75m * hours));
        }
    }
}
