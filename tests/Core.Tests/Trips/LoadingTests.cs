using CsCheck;
using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using SteadyLark.Core.Trips.Loading;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>Orders in the compartments of a tank trailer and vehicles on the decks of a car hauler, over a whole trip.</summary>
public class LoadingTests
{
    private const long Syrup = 1;
    private const long Soap = 2;
    private const long Oil = 3;
    private static readonly string[] Names = ["", "corn syrup", "soap", "canola oil"];
    private static readonly string[] Towns =
    [
        "Shelby MT",
        "Havre MT",
        "Helena MT",
        "Butte MT",
        "Dillon MT",
        "Salmon ID",
        "Arco ID",
        "Ely NV",
    ];

    /// <summary>So many gallons at 8 lb; corn syrup may not follow soap without a wash, and canola oil not be on a trailer with it.</summary>
    internal static CargoLine Bulk(long product, decimal gallons, bool own = false, decimal lb = 8) =>
        new(null, null, (int)Math.Round(gallons * lb), null, null, null, null, false, null)
        {
            Bulk = new BulkFreight(
                product,
                Names[product],
                gallons,
                own,
                product switch
                {
                    Oil => [Soap],
                    _ => [],
                },
                product == Syrup ? [Soap] : []
            ),
        };

    internal static CargoLine Vehicle(int length = 190, int height = 60, int pounds = 3_500, bool runs = true) =>
        new(1, null, pounds, null, length, 72, height, false, null)
        {
            Vehicle = new Vehicle(2024, "Larkspur", "Ridge", null, null, runs, true),
        };

    /// <summary>Visits as in <c>+1 +2 -1 w -2</c>: load 1 is picked up, then load 2, load 1 is delivered, the tank washed. A <c>!</c> before a pickup
    /// says that it happened.</summary>
    internal static List<Visit> Visits(string order, params CargoLine[][] cargo)
    {
        var words = order.Split(' ');
        var legs = cargo.Select((c, i) => Leg(i + 1, c, words.Contains($"!{i + 1}"))).ToList();
        return words
            .Select(
                (w, i) =>
                    w == "w"
                        ? new Visit(
                            new TripStop(
                                900 + i,
                                TripStopKind.Wash,
                                default,
                                "Wash",
                                Towns[i],
                                DateTimeZone.Utc,
                                null,
                                null,
                                null
                            ).OnTrip(),
                            0
                        )
                        : new Visit(Named(legs[w[1] - '1'], i, w[0] != '-'), w[0] == '-' ? 1 : 0)
            )
            .ToList();

        // A town and place for each visit.
        TripLeg Named(TripLeg leg, int at, bool first)
        {
            ((PlannedStop[])leg.Stops)[first ? 0 : 1] = leg.Stops[first ? 0 : 1] with { Point = new GeoPoint(40 + (at / 10d), -110) };
            ((List<string>)leg.Towns)[first ? 0 : 1] = Towns[at % Towns.Length];
            return leg;
        }

        static TripLeg Leg(int id, CargoLine[] cargo, bool begun) =>
            new(
                id,
                id,
                $"{8840 + id}",
                new PlannedStop[]
                {
                    ItineraryTests.At(id * 10, StopKind.Pickup, default, (0, 99), begun ? -1 : null),
                    ItineraryTests.At((id * 10) + 1, StopKind.Delivery, default, (0, 99), null),
                },
                new List<string> { "", "" },
                [DateTimeZone.Utc, DateTimeZone.Utc],
                cargo
            );
    }

    private static TripLimits Tank(params decimal[] compartments) =>
        new(new TrailerSize(504, 96, 96, 47_000, 12_500), TripLimits.TypicalTruckTareLb)
        {
            Layout = new TrailerLayout(compartments, [], false),
        };

    private static TripLimits Hauler(bool winch, params TrailerDeck[] decks) =>
        new(new TrailerSize(900, 102, 160, 40_000, 16_500), TripLimits.TypicalTruckTareLb) { Layout = new TrailerLayout([], decks, winch) };

    private static LoadingPlan Plan(TripLimits limits, string order, params CargoLine[] one) =>
        TrailerLoading.Of(Visits(order, one.Select(c => new[] { c }).ToArray()), limits, "6101");

    private static string Where(LoadingPlan plan) => string.Join(", ", plan.Placed.Select(p => $"{p.Load}:{p.Place + 1}:{p.Amount:0.#}"));

    private static string Why(LoadingPlan plan) => string.Join(' ', plan.Problems.Select(p => p.Message));

    [Fact]
    public void An_order_takes_whole_compartments_and_the_rest_of_one()
    {
        var plan = Plan(Tank(1_500, 1_000, 1_500), "+1 +2 -2 -1", Bulk(Syrup, 2_200), Bulk(Soap, 1_500));
        Assert.Equal("", Why(plan));
        Assert.Equal(2_200, plan.Placed.Where(p => p.Load == "8841").Sum(p => p.Amount));
        Assert.Equal(1_500, Assert.Single(plan.Placed, p => p.Load == "8842").Amount);
        // Two orders of one product share a compartment, unless one wants it to itself.
        Assert.Equal("8841:1:700, 8842:1:800", Where(Plan(Tank(1_500), "+1 +2 -2 -1", Bulk(Syrup, 700), Bulk(Syrup, 800))));
        Assert.Equal(
            "After Havre MT, 700 gal of corn syrup (load 8842) do not fit in trailer 6101: no compartment is left.",
            Why(Plan(Tank(1_500), "+1 +2 -2 -1", Bulk(Syrup, 800, own: true), Bulk(Syrup, 700)))
        );
    }

    [Fact]
    public void One_gallon_too_many_is_refused_with_the_quantity_that_fits()
    {
        Assert.Equal(
            "After Havre MT, 1,501 gal of soap (load 8842) do not fit in trailer 6101: 1,500 gal would fit, 1 gal less.",
            Why(Plan(Tank(2_000, 1_500), "+1 +2 -1 -2", Bulk(Syrup, 2_000), Bulk(Soap, 1_501)))
        );
        Assert.Equal("", Why(Plan(Tank(2_000, 1_500), "+1 +2 -1 -2", Bulk(Syrup, 2_000), Bulk(Soap, 1_500))));
        // Alone, as it is assigned. 4,300 gal at 11 lb are 47,300 lb: 300 lb over the payload of 47,000.
        Assert.Equal(
            "After Shelby MT, 4,300 gal of corn syrup (load 8841) make trailer 6101 too heavy: 4,272 gal would be legal, 28 gal less.",
            string.Join(
                ' ',
                TrailerLoading.Alone("8841", [Bulk(Syrup, 4_300, lb: 11)], "Shelby MT", Tank(3_000, 3_000), "6101").Select(p => p.Message)
            )
        );
    }

    [Fact]
    public void A_product_follows_one_that_soils_it_only_after_a_wash()
    {
        var (soap, syrup) = (Bulk(Soap, 900), Bulk(Syrup, 900));
        Assert.Equal(
            "Corn syrup may not follow soap without a wash, and no compartment of trailer 6101 is left for it: add a wash after Havre MT and before Helena MT.",
            Why(Plan(Tank(1_000), "+1 -1 +2 -2", soap, syrup))
        );
        var washed = Plan(Tank(1_000), "+1 -1 w +2 -2", soap, syrup);
        Assert.Equal(("", new Washed(2, 0)), (Why(washed), Assert.Single(washed.Washes)));
        // Soap may follow syrup; with a second compartment nothing is washed.
        Assert.Empty(Plan(Tank(1_000), "+1 -1 w +2 -2", syrup, soap).Washes);
        Assert.Empty(Plan(Tank(1_000, 1_000), "+1 -1 w +2 -2", soap, syrup).Washes);
        Assert.Equal(
            "Soap (load 8841) and canola oil (load 8842) may not be on one trailer together.",
            Why(Plan(Tank(1_000, 1_000), "+1 +2 -2 -1", soap, Bulk(Oil, 10)))
        );
        Assert.Equal("", Why(Plan(Tank(1_000, 1_000), "+1 -1 +2 -2", soap, Bulk(Oil, 10))));
    }

    [Fact]
    public void What_was_loaded_stays_where_it_is()
    {
        CargoLine[][] cargo =
        [
            [Bulk(Syrup, 900)],
            [Bulk(Soap, 1_200)],
        ];
        var limits = Tank(1_500, 1_000);
        // The second order needs the first compartment, in which the first one is already.
        var plan = TrailerLoading.Of(Visits("!1 +2 -1 -2", cargo), limits, "6101", [new LoadedAt(1, 1, 0, 900)]);
        Assert.Equal(
            "After Havre MT, 1,200 gal of soap (load 8842) do not fit in trailer 6101: 1,000 gal would fit, 200 gal less.",
            Why(plan)
        );
        Assert.Equal("", Why(TrailerLoading.Of(Visits("!1 +2 -1 -2", cargo), limits, "6101", [new LoadedAt(1, 1, 1, 900)])));
        // It does not count before the pickup, nor when it does not add up any more.
        Assert.Equal("", Why(TrailerLoading.Of(Visits("+1 +2 -1 -2", cargo), limits, "6101", [new LoadedAt(1, 1, 0, 900)])));
        Assert.Equal("", Why(TrailerLoading.Of(Visits("!1 +2 -1 -2", cargo), limits, "6101", [new LoadedAt(1, 1, 0, 800)])));
    }

    [Fact]
    public void Axle_groups_stay_legal_after_every_visit()
    {
        // Even freight of 47,000 lb is legal; the shares of a compartment add up to 1.
        var even = Axles.Of(Tank(1_000, 1_000, 1_000), [(0, 15_667), (1, 15_667), (2, 15_666)]);
        Assert.All(Axles.Shares([1_000, 2_000, 500]), s => Assert.Equal(1, s.Sum(), 9));
        Assert.InRange(even.SteerLb + even.DriveLb + even.TrailerLb, 77_999, 78_001);
        Assert.InRange(even.DriveLb, 30_000, Axles.TandemLb);
        Assert.InRange(even.TrailerLb, 30_000, Axles.TandemLb);
        // Delivered from the front first, what is left would overload the trailer axles: the order of loading avoids it.
        var plan = Plan(Tank(2_000, 2_000), "+1 +2 -1 -2", Bulk(Syrup, 2_000, lb: 11.5m), Bulk(Soap, 2_000, lb: 11.5m));
        Assert.Equal("", Why(plan));
        // All of 4,500 gal has to go into the rear half.
        var rear = TrailerLoading.Of(
            Visits("!1 +2 -1 -2", [Bulk(Soap, 100)], [Bulk(Syrup, 3_600, lb: 11)]),
            Tank(3_700, 3_700),
            "6101",
            [new LoadedAt(1, 1, 0, 100)]
        );
        Assert.Equal(
            "However it is loaded, trailer 6101 with soap (load 8841) and corn syrup (load 8842) is over an axle limit: the trailer axles would carry",
            Why(rear)[..Why(rear).IndexOf(" 4", StringComparison.Ordinal)]
        );
    }

    private sealed record Order(int From, int Until, int Product, int Gallons);

    /// <summary>Up to four orders on eight visits, each of a product of its own when <paramref name="kinds"/> is 0.</summary>
    private static Gen<(int[] Sizes, Order[] Orders)> Trips(int kinds) =>
        Gen.Select(
                Gen.Int[1, 6].Array[1, 3],
                Gen.Select(Gen.Int[0, 5], Gen.Int[1, 4], Gen.Int[0, 2], Gen.Int[1, 9], (f, l, p, g) => new Order(f, f + l, p, g)).Array[
                    1,
                    4
                ]
            )
            .Select(t => (t.Item1, t.Item2.Select((o, i) => o with { Product = kinds == 0 ? i + 10 : o.Product + 1 }).ToArray()));

    /// <summary>The visits of orders: those at one time in the order of the list, deliveries first.</summary>
    private static (List<Visit> Visits, TripLimits Limits) Case(int[] sizes, Order[] orders, Func<int, IReadOnlyList<long>> notAfter)
    {
        var words = orders
            .SelectMany((o, i) => new[] { (At: o.From, Kind: 1, Word: $"+{i + 1}"), (At: o.Until, Kind: 0, Word: $"-{i + 1}") })
            .OrderBy(w => w.At)
            .ThenBy(w => w.Kind)
            .Select(w => w.Word);
        var cargo = orders.Select(o =>
            new[]
            {
                new CargoLine(null, null, o.Gallons * 4, null, null, null, null, false, null)
                {
                    Bulk = new BulkFreight(o.Product, $"product {o.Product}", o.Gallons, false, [], notAfter(o.Product)),
                },
            }
        );
        return (Visits(string.Join(' ', words), cargo.ToArray()), Tank(sizes.Select(s => (decimal)s).ToArray()));
    }

    [Fact]
    public void A_tank_placement_is_found_exactly_when_there_is_one() =>
        Trips(0)
            .Sample(
                t =>
                {
                    // Product 10 soils 11, and 12 soils 10.
                    IReadOnlyList<long> NotAfter(int p) =>
                        p == 11 ? [10]
                        : p == 10 ? [12]
                        : [];
                    var (visits, limits) = Case(t.Sizes, t.Orders, NotAfter);
                    var spans = t
                        .Orders.Select(
                            (_, i) =>
                                (From: visits.FindIndex(v => v.Leg.LegId == i + 1), Until: visits.FindLastIndex(v => v.Leg.LegId == i + 1))
                        )
                        .ToList();
                    Assert.Equal(Any(0, new int[t.Orders.Length]), TrailerLoading.Of(visits, limits, "6101").Problems.Count == 0);

                    // Every set of compartments for every order.
                    bool Any(int at, int[] sets) =>
                        at == t.Orders.Length
                        || Enumerable
                            .Range(1, (1 << t.Sizes.Length) - 1)
                            .Any(set =>
                                t.Sizes.Where((_, c) => (set >> c & 1) == 1).Sum() >= t.Orders[at].Gallons
                                && Enumerable.Range(0, at).All(b => (sets[b] & set) == 0 || Apart(at, b))
                                && Any(at + 1, [.. sets.Take(at), set, .. sets.Skip(at + 1)])
                            );

                    bool Apart(int a, int b) =>
                        (spans[a].Until <= spans[b].From && !NotAfter(t.Orders[b].Product).Contains(t.Orders[a].Product))
                        || (spans[b].Until <= spans[a].From && !NotAfter(t.Orders[a].Product).Contains(t.Orders[b].Product));
                },
                iter: 300
            );

    [Fact]
    public void A_tank_holds_all_of_every_order_and_never_two_products_in_a_compartment() =>
        Trips(3)
            .Sample(
                t =>
                {
                    var (visits, limits) = Case(t.Sizes, t.Orders, _ => []);
                    var plan = TrailerLoading.Of(visits, limits, "6101");
                    if (plan.Problems.Any)
                    {
                        Assert.Empty(plan.Placed);
                        return;
                    }

                    for (var i = 0; i < t.Orders.Length; i++)
                    {
                        Assert.Equal(t.Orders[i].Gallons, plan.Placed.Where(p => p.LegId == i + 1).Sum(p => p.Amount));
                    }

                    for (var v = 0; v < visits.Count; v++)
                    {
                        foreach (var place in plan.Placed.Where(p => p.After(v)).GroupBy(p => p.Place))
                        {
                            Assert.Single(place.Select(p => p.What).Distinct());
                            Assert.True(place.Sum(p => p.Amount) <= t.Sizes[place.Key]);
                        }
                    }
                },
                iter: 300
            );

    [Fact]
    public void A_vehicle_that_fits_on_no_deck_is_refused_with_its_figures()
    {
        var limits = Hauler(false, new TrailerDeck("upper", 600, 70, 12_000), new TrailerDeck("lower", 400, 76, 6_000));
        Assert.Equal(
            "The 2024 Larkspur Ridge (load 8841) is 6 ft 7 in high, 3 in too tall for every deck of trailer 6101.",
            Why(Plan(limits, "+1 -1", Vehicle(height: 79)))
        );
        Assert.Equal(
            "The 2024 Larkspur Ridge (load 8841) does not run, and trailer 6101 has no winch.",
            Why(Plan(limits, "+1 -1", Vehicle(runs: false)))
        );
        Assert.Equal("", Why(Plan(limits with { Layout = limits.Layout with { Winch = true } }, "+1 -1", Vehicle(runs: false))));
        Assert.Equal(
            "No deck of trailer 6101 is long, high and strong enough for the 2024 Larkspur Ridge (load 8841).",
            Why(Plan(limits, "+1 -1", Vehicle(length: 500, height: 76)))
        );
        // Three on the upper deck with gaps of 6 in, and on the lower one two by length, but one by weight.
        CargoLine[] five = [.. Enumerable.Repeat(Vehicle(), 5)];
        Assert.Equal("", Why(TrailerLoading.Of(Visits("+1 -1", five[..4]), limits, "6101")));
        Assert.Equal(
            "After Shelby MT, the 2024 Larkspur Ridge (load 8841) does not fit on trailer 6101 with the others: it weighs 3,500 lb, and at most 2,500 lb are left on a deck with room for it.",
            Why(TrailerLoading.Of(Visits("+1 -1", five), limits, "6101"))
        );
        var light = Hauler(false, new TrailerDeck("upper", 600, 70, 12_000), new TrailerDeck("lower", 300, 76, 12_000));
        Assert.Equal(
            "After Shelby MT, the 2024 Larkspur Ridge (load 8841) does not fit on trailer 6101 with the others: it needs 15 ft 10 in, and at most 8 ft 8 in are left on a deck.",
            Why(TrailerLoading.Of(Visits("+1 -1", five), light, "6101"))
        );
    }

    [Fact]
    public void The_next_delivery_is_at_the_rear_of_its_deck()
    {
        var one = Hauler(true, new TrailerDeck("bed", 640, 100, 20_000));
        // Picked up in one place, they may be loaded in any order.
        var together = Visits("+1 +2 -1 -2", [Vehicle()], [Vehicle()]);
        ((PlannedStop[])together[1].Leg.Stops)[0] = together[1].Stop with { Point = together[0].Stop.Point };
        var ordered = TrailerLoading.Of(together, one, "6101");
        Assert.Empty(ordered.Warnings);
        Assert.Equal("8842:1:1, 8841:1:1", Where(ordered));
        // The first one leaves first, behind the second: it has to be moved, or goes on another deck.
        Assert.Equal(
            [
                "In Helena MT, the 2024 Larkspur Ridge (load 8841) is behind the 2024 Larkspur Ridge (load 8842) on the bed deck: plan time to move it.",
            ],
            Plan(one, "+1 +2 -1 -2", Vehicle(), Vehicle()).Warnings
        );
        var last = Plan(one, "+1 +2 -2 -1", Vehicle(), Vehicle());
        Assert.Empty(last.Warnings);
        Assert.Equal("8841:1:1, 8842:1:1", Where(last));
        var two = Hauler(true, new TrailerDeck("upper", 640, 100, 20_000), new TrailerDeck("lower", 640, 100, 20_000));
        Assert.Empty(Plan(two, "+1 +2 -1 -2", Vehicle(), Vehicle()).Warnings);
    }

    [Fact]
    public void Vehicles_are_placed_exactly_when_they_can_be() =>
        Gen.Select(
                Gen.Int[2, 6].Array[1, 3],
                Gen.Select(Gen.Int[0, 5], Gen.Int[1, 4], Gen.Int[1, 3], Gen.Int[1, 4], (f, l, size, kg) =>
                    (From: f, Until: f + l, Size: size, Weight: kg)
                ).Array[1, 5]
            )
            .Sample(
                t =>
                {
                    var (sizes, cars) = t;
                    var words = cars.SelectMany(
                            (o, i) => new[] { (At: o.From, Kind: 1, Word: $"+{i + 1}"), (At: o.Until, Kind: 0, Word: $"-{i + 1}") }
                        )
                        .OrderBy(w => w.At)
                        .ThenBy(w => w.Kind)
                        .Select(w => w.Word)
                        .ToList();
                    var visits = Visits(
                        string.Join(' ', words),
                        cars.Select(c => new[] { Vehicle((c.Size * 100) - TrailerLayout.GapIn, 60, c.Weight * 1_000) }).ToArray()
                    );
                    var limits = Hauler(
                        true,
                        sizes.Select((s, i) => new TrailerDeck($"deck {i}", (s * 100) - TrailerLayout.GapIn, 60, 6_000)).ToArray()
                    );
                    var plan = TrailerLoading.Of(visits, limits, "6101");
                    var spans = cars.Select((_, i) => (From: words.IndexOf($"+{i + 1}"), Until: words.IndexOf($"-{i + 1}"))).ToList();
                    Assert.Equal(Any([]), !plan.Problems.Any);
                    Assert.True(plan.Problems.Any || Fits(plan.Placed.OrderBy(p => p.LegId).Select(p => p.Place).ToList()));

                    bool Any(List<int> decks) =>
                        decks.Count == cars.Length ? Fits(decks) : Enumerable.Range(0, sizes.Length).Any(d => Any([.. decks, d]));

                    bool Fits(List<int> decks) =>
                        Enumerable
                            .Range(0, words.Count)
                            .All(v =>
                                Enumerable
                                    .Range(0, cars.Length)
                                    .Where(c => spans[c].From <= v && v < spans[c].Until)
                                    .GroupBy(c => decks[c])
                                    .All(g => g.Sum(c => cars[c].Size) <= sizes[g.Key] && g.Sum(c => cars[c].Weight) <= 6)
                            );
                },
                iter: 300
            );
}
