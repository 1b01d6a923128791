using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips.Loading;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Fleet;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's food-grade tankers and car haulers: what they have, a trip of each that carries several customers' freight, and an open load
/// beside it.</summary>
internal static class DemoPlaced
{
    /// <summary>Pounds per gallon; each is hauled warm when it says so. Nothing edible follows soap without a wash, or rides with it.</summary>
    private static readonly (string Name, decimal Density, int? Temperature, bool Own)[] Liquids =
    [
        ("brewing syrup", 11.6m, 110, false),
        ("canola oil", 7.65m, null, false),
        ("apple juice concentrate", 11.1m, 40, false),
        ("corn syrup", 11.8m, 120, false),
        ("liquid egg", 8.7m, 38, true),
        ("dish soap", 8.6m, null, false),
    ];

    private const string Soap = "dish soap";
    private static readonly decimal[] Compartments = [1_900, 1_300, 1_300, 1_900];
    private static readonly string[] Makes = ["Larkspur", "Tamarind", "Bluewing"];
    private static readonly string[] Models = ["Ridge", "Mesa", "Harbor", "Trail", "Summit"];
    private static readonly string[] Bodies = ["sedan", "small SUV", "pickup", "wagon", "large SUV", "hatchback", "minivan"];

    public static async Task Write(CoverCommands cover, CommandContext w, DemoCast cast)
    {
        await Equip(w);
        var desk = w.At(w.Now, cast.Staff["ines"]);
        foreach (var kind in new[] { Equipment.Tanker, Equipment.CarHauler })
        {
            var stands = await LocationStore.Trailers(w.Db);
            foreach (var trailer in (await FleetStore.Trailers(w.Db)).Where(t => t.Active && t.Equipment == kind))
            {
                if (
                    stands.TryGetValue(trailer.Id, out var at)
                    && cast.Customers.FindIndex(c => c.PlaceId == at.PlaceId) is >= 0 and var shipper
                    && DemoShared.Along(cast, at.Point).FirstOrDefault() is { } receivers
                    && await Trip(desk, cover, cast, kind, trailer, shipper, receivers)
                )
                {
                    break;
                }
            }
        }
    }

    /// <summary>The company's products, and what its tankers and car haulers have.</summary>
    private static async Task Equip(CommandContext w)
    {
        var edible = Liquids.Select(l => l.Name).Where(n => n != Soap).ToList();
        await ProductStore.Set(
            w.Db,
            Liquids
                .Select(l => new Product(
                    0,
                    l.Name,
                    l.Density,
                    l.Temperature,
                    l.Own,
                    l.Name == Soap ? edible : [],
                    l.Name == Soap ? [] : [Soap]
                ))
                .ToList()
        );
        await DemoStore.FillTanks(w.Db);
        foreach (var trailer in await FleetStore.Trailers(w.Db))
        {
            var layout = trailer.Equipment switch
            {
                Equipment.Tanker => new TrailerLayout(Compartments, [], false),
                Equipment.CarHauler => new TrailerLayout([], TrailerLayout.Templates[^(trailer.Id % 2 == 0 ? 1 : 2)].Decks, true),
                _ => null,
            };
            if (layout is not null)
            {
                await FleetStore.ChangeTrailer(
                    w.Db,
                    trailer with
                    {
                        Layout = layout,
                        Features = layout.Winch ? ["straps", TrailerFeatures.Winch] : [],
                    }
                );
            }
        }
    }

    /// <summary>Books three loads that ride together and one that stays open; whether a driver was found for them.</summary>
    private static async Task<bool> Trip(
        CommandContext w,
        CoverCommands cover,
        DemoCast cast,
        Equipment kind,
        TrailerRow trailer,
        int shipper,
        IReadOnlyList<long> receivers
    )
    {
        var loads = new List<long>();
        for (var i = 0; i < 4; i++)
        {
            loads.Add(await Book(w, cast, kind, shipper, receivers[i % receivers.Count], i));
        }

        if (await DemoShared.Cover(w, cover, loads[0], [trailer]) is not { } trip)
        {
            return false;
        }

        foreach (var load in loads.Skip(1).Take(2))
        {
            _ = await TripCommands.Add(w, load, null, new CoverByTripRequest(trip));
        }

        return true;
    }

    private static async Task<long> Book(CommandContext w, DemoCast cast, Equipment kind, int shipper, long to, int i)
    {
        var (data, customer, from) = cast.Customers[shipper];
        var day = w.Now.InZone(w.Zone).Date.PlusDays(1);
        var miles = Routing.Roads.Between(cast.Known[from].Point, cast.Known[to].Point).WholeMiles;
        var tank = kind == Equipment.Tanker;
        var freight = tank ? await Liquid(w, data.Freight, i) : Vehicles(i);
        // By the gallon and mile, or by the vehicle and mile; with a minimum.
        var haul = tank
            ? Math.Max(690m, freight.Sum(f => f.Bulk!.Volume!.Value) * miles * 0.0014m)
            : Math.Max(260m, miles * 1.15m) * freight.Count;
        var until = day.PlusDays(miles < 260 ? 0 : 1);
        var booked = await LoadCommands.Book(
            w,
            new LoadRequest(
                customer,
                $"{(tank ? "BLK" : "VEH")} {6120 + (i * 9)}",
                kind,
                [
                    new StopRequest(StopKind.Pickup, from, day + new LocalTime(6, 0), day + new LocalTime(14, 0), null),
                    new StopRequest(StopKind.Delivery, to, until + new LocalTime(7, 0), until.PlusDays(1) + new LocalTime(17, 0), null),
                ],
                freight,
                [new ChargeRequest(ChargeKind.LineHaul, null, Money.Usd(Math.Round(haul / 5m) * 5m))],
                tank ? "Check the wash ticket before loading." : null,
                false,
                Cod: !tank && i == 2 ? 425m : null
            )
        );
        return booked.Value.Id;
    }

    private static async Task<List<FreightRequest>> Liquid(CommandContext w, string usual, int i)
    {
        var products = await ProductStore.All(w.Db);
        var other = products.First(p => p.Name != usual && p.Name is not Soap and not "liquid egg");
        var product = i % 2 == 0 ? products.FirstOrDefault(p => p.Name == usual) ?? products[0] : other;
        decimal[] gallons = [1_850, 1_250, 780, 900];
        return [new FreightRequest(null, null, null, null, null, Bulk: new BulkOrder(product.Id, gallons[i]))];
    }

    private static List<FreightRequest> Vehicles(int load)
    {
        int[] counts = [3, 2, 1, 2];
        return Enumerable
            .Range(counts.Take(load).Sum(), counts[load])
            .Select(i =>
            {
                var vin = $"0TBLK{i % 10}52{0}{(char)('A' + (i % 8))}{40_217 + (i * 613):0000000}".ToCharArray();
                vin[8] = Vin.CheckDigit(new string(vin))!.Value;
                return new FreightRequest(
                    null,
                    null,
                    null,
                    null,
                    null,
                    Vehicle: new VehicleOrder(
                        2017 + (i % 9),
                        Makes[i % Makes.Length],
                        Models[i % Models.Length],
                        new string(vin),
                        Bodies[i % Bodies.Length],
                        Runs: i != 4
                    )
                );
            })
            .ToList();
    }
}
