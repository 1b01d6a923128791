using SteadyLark.Core.Fitting;
using Xunit;

namespace SteadyLark.Core.Tests.Fitting;

/// <summary>What fits a floor, a tank and a car hauler, judged by plain search.</summary>
public sealed class FitTests
{
    private static FitAnswer Answer(FitRequest request)
    {
        var answer = request.Answer();
        Assert.True(answer.Ok, string.Join(' ', answer.Problems.Select(p => p.Message)));
        return answer.Value;
    }

    private static FitOrder Order(string id, string product, decimal gallons, int stop = 1, bool alone = false) =>
        new(id, product, gallons, stop, alone);

    private static FitAnswer Tank(decimal[] compartments, params FitOrder[] orders) =>
        Answer(new FitRequest("tank", Compartments: compartments, Orders: orders));

    [Theory]
    [InlineData(26, 60, false, true)]
    [InlineData(52, 50, true, true)]
    [InlineData(52, 60, true, false)]
    [InlineData(31, 60, false, false)]
    public void Pallets_on_a_53_foot_trailer(int count, int height, bool stackable, bool fits)
    {
        var pallets = new FitPiece("pallets", count, 48, 40, height, 700, stackable, true, 1);
        var answer = Answer(new FitRequest("linear", new FitTrailer(636, 98, 108, 44_000), [pallets]));
        Assert.Equal(fits, answer.Fits);
        Assert.Equal(count, answer.Placed.Sum(p => p.Amount) + (fits ? 0 : Left(answer)));

        static decimal Left(FitAnswer answer) =>
            decimal.Parse(answer.Left.Single().Why.Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture);
    }

    [Fact]
    public void A_pallet_that_may_not_be_turned_takes_its_length() =>
        Assert.Equal(
            26m,
            Answer(
                new FitRequest(
                    "linear",
                    new FitTrailer(636, 98, 108, 44_000),
                    [new FitPiece("pallets", 27, 48, 40, 60, 100, false, false, 1)]
                )
            )
                .Placed.Sum(p => p.Amount)
        );

    [Fact]
    public void The_next_delivery_stands_at_the_doors_and_weight_counts()
    {
        var answer = Answer(
            new FitRequest(
                "linear",
                new FitTrailer(636, 98, 108, 10_000),
                [
                    new FitPiece("first", 4, 48, 40, 60, 1000, false, false, 1),
                    new FitPiece("second", 4, 48, 40, 60, 1000, false, false, 2),
                    new FitPiece("heavy", 3, 48, 40, 60, 1500, false, false, 1),
                ]
            )
        );
        Assert.Equal("0 to 48 in", answer.Placed[0].Where);
        Assert.Equal("second", answer.Placed[0].Id);
        Assert.Equal("2 of 3 do not fit: 3,000 pounds over the payload", answer.Left.Single().Why);
        Assert.Equal(["second"], answer.After[0].Aboard.Select(p => p.Id).Distinct());
        Assert.Empty(answer.After[1].Aboard);
    }

    [Fact]
    public void A_piece_that_is_too_large_is_named()
    {
        var answer = Answer(
            new FitRequest(
                "linear",
                new FitTrailer(636, 98, 108, 44_000),
                [
                    new FitPiece("tall", 1, 48, 40, 111, 100, false, true, 1),
                    new FitPiece("wide", 1, 120, 110, 50, 100, false, true, 1),
                    new FitPiece("beam", 1, 40, 600, 50, 100, false, true, 1),
                ]
            )
        );
        Assert.Equal(["3 inches too tall", "too long or too wide for the floor"], answer.Left.Select(l => l.Why));
        Assert.Equal("beam", answer.Placed.Single().Id);
    }

    [Fact]
    public void A_tank_order_one_gallon_too_large_is_refused_with_what_would_fit()
    {
        Assert.True(Tank([2000, 1500, 1500], Order("A", "syrup", 2000), Order("B", "soap", 3000)).Fits);
        var answer = Tank([2000, 1500, 1500], Order("A", "syrup", 2000), Order("B", "soap", 3001));
        Assert.False(answer.Fits);
        Assert.Equal(("A", "only 1500 of 2000 gallons fit: 500 too much"), (answer.Left.Single().Id, answer.Left.Single().Why));
    }

    [Fact]
    public void Orders_of_one_product_share_compartments_but_for_an_exclusive_one()
    {
        Assert.True(Tank([3000, 1000], Order("A", "oil", 1400), Order("B", "oil", 1500), Order("C", "wine", 900)).Fits);
        Assert.False(Tank([3000, 1000], Order("A", "oil", 1400), Order("B", "oil", 1500, 1, true), Order("C", "wine", 900)).Fits);
        var shared = Tank([3000, 1000], Order("A", "oil", 1400, 2), Order("B", "oil", 2000, 1));
        Assert.Equal(3400m, shared.Placed.Sum(p => p.Amount));
        Assert.Equal(1400m, shared.After.Single(a => a.Stop == 1).Aboard.Sum(p => p.Amount));
    }

    [Fact]
    public void Soap_does_not_ride_with_syrup()
    {
        var answer = Answer(
            new FitRequest(
                "tank",
                Compartments: [2000, 2000],
                Orders: [Order("A", "soap", 500), Order("B", "syrup", 1500)],
                Apart:
                [
                    ["syrup", "soap"],
                ]
            )
        );
        Assert.Equal(("A", "soap may not ride with syrup"), (answer.Left.Single().Id, answer.Left.Single().Why));
    }

    /// <summary>Whether orders fit, by giving each compartment to each group of orders in turn.</summary>
    private static bool Possible(IReadOnlyList<decimal> compartments, IReadOnlyList<FitOrder> orders)
    {
        var demands = orders.GroupBy(o => (o.Product, o.Exclusive ? o.Id : "")).Select(g => g.Sum(o => o.Gallons)).ToArray();
        return Give(0);

        bool Give(int c)
        {
            if (c == compartments.Count)
            {
                return demands.All(d => d <= 0);
            }

            for (var g = 0; g < demands.Length; g++)
            {
                demands[g] -= compartments[c];
                var done = Give(c + 1);
                demands[g] += compartments[c];
                if (done)
                {
                    return true;
                }
            }

            return false;
        }
    }

    [Fact]
    public void Every_tank_load_that_fits_is_found()
    {
        var (lot, fits) = (new Random(11), 0);
        for (var n = 0; n < 250; n++)
        {
            decimal[] compartments = [.. Enumerable.Range(0, 3 + lot.Next(4)).Select(_ => 500m * (1 + lot.Next(5)))];
            FitOrder[] orders =
            [
                .. Enumerable
                    .Range(0, 2 + lot.Next(11))
                    .Select(i =>
                        Order($"{i}", $"{(char)('a' + lot.Next(4))}", 100m * (1 + lot.Next(12)), 1 + lot.Next(3), lot.Next(6) == 0)
                    ),
            ];
            var answer = Tank(compartments, orders);
            Assert.Equal(Possible(compartments, orders), answer.Fits);
            fits += answer.Fits ? 1 : 0;

            // What is placed is whole, in compartments of one product, and never over.
            var of = orders.ToDictionary(o => o.Id!);
            Assert.All(answer.Placed.GroupBy(p => p.Id), g => Assert.Equal(of[g.Key].Gallons, g.Sum(p => p.Amount)));
            foreach (var compartment in answer.Placed.GroupBy(p => p.Where))
            {
                var index = int.Parse(compartment.Key["compartment ".Length..], System.Globalization.CultureInfo.InvariantCulture) - 1;
                Assert.True(compartment.Sum(p => p.Amount) <= compartments[index]);
                Assert.Single(compartment.Select(p => of[p.Id].Product).Distinct());
                Assert.True(compartment.Count() == 1 || compartment.All(p => !of[p.Id].Exclusive));
            }

            Assert.Equal(orders.Length, answer.Placed.Select(p => p.Id).Distinct().Count() + answer.Left.Count);
        }

        Assert.InRange(fits, 40, 210);
    }

    private static readonly FitDeck[] Decks =
    [
        new("upper front", 420, 64, 9_000),
        new("upper rear", 400, 66, 9_000),
        new("lower front", 380, 70, 10_000),
        new("lower rear", 240, 76, 8_000),
    ];

    private static FitVehicle Car(string id, decimal length, decimal height, decimal weight, int stop = 1, bool runs = true) =>
        new(id, length, height, weight, stop, runs);

    private static FitAnswer Deck(bool winch, decimal? payload, params FitVehicle[] vehicles) =>
        Answer(new FitRequest("deck", Decks: Decks, Payload: payload, Winch: winch, Gap: 4, Vehicles: vehicles));

    [Fact]
    public void A_vehicle_three_inches_too_tall_or_that_does_not_run_is_left_with_the_reason()
    {
        var answer = Deck(false, 30_000, Car("van", 200, 79, 4_000), Car("sedan", 190, 58, 3_300), Car("wreck", 180, 55, 3_000, 1, false));
        Assert.Equal(["3 inches too tall for every deck", "does not run, and there is no winch"], answer.Left.Select(l => l.Why));
        Assert.True(Deck(true, 30_000, Car("wreck", 180, 55, 3_000, 1, false)).Fits);
        Assert.Equal(
            "100 pounds over the payload",
            Deck(true, 6_200, Car("a", 180, 55, 3_000), Car("b", 180, 55, 3_300)).Left.Single().Why
        );
    }

    [Fact]
    public void The_next_delivery_is_reachable_on_its_deck()
    {
        var answer = Answer(
            new FitRequest(
                "deck",
                Decks: [new FitDeck("deck", 400, 70, 9_000)],
                Gap: 4,
                Vehicles: [Car("first", 190, 60, 3_000, 1), Car("last", 190, 60, 3_000, 2)]
            )
        );
        Assert.Equal([("last", "deck 1"), ("first", "deck 2")], answer.Placed.Select(p => (p.Id, p.Where)));
    }

    [Fact]
    public void Every_deck_load_that_fits_is_found()
    {
        var (lot, fits) = (new Random(7), 0);
        for (var n = 0; n < 60; n++)
        {
            FitVehicle[] vehicles =
            [
                .. Enumerable
                    .Range(0, 3 + lot.Next(5))
                    .Select(i => Car($"{i}", 150 + lot.Next(80), 54 + lot.Next(22), 2_500 + lot.Next(3_500), 1 + lot.Next(3))),
            ];
            var answer = Deck(true, 32_000, vehicles);
            Assert.Equal(Spread(vehicles, 0, Decks.Select(_ => new List<FitVehicle>()).ToArray()), answer.Fits);
            fits += answer.Fits ? 1 : 0;
        }

        Assert.InRange(fits, 10, 50);

        static bool Spread(FitVehicle[] vehicles, int next, List<FitVehicle>[] on)
        {
            if (next == vehicles.Length)
            {
                return on.Sum(d => d.Sum(v => v.Weight)) <= 32_000;
            }

            for (var d = 0; d < on.Length; d++)
            {
                on[d].Add(vehicles[next]);
                var holds =
                    on[d].Sum(v => v.Length + 4) - 4 <= Decks[d].Length
                    && on[d].Max(v => v.Height) <= Decks[d].Height
                    && on[d].Sum(v => v.Weight) <= Decks[d].Payload;
                var done = holds && Spread(vehicles, next + 1, on);
                on[d].RemoveAt(on[d].Count - 1);
                if (done)
                {
                    return true;
                }
            }

            return false;
        }
    }

    [Fact]
    public void Bad_questions_are_refused_with_their_field()
    {
        static IEnumerable<string?> Fields(FitRequest request) => request.Answer().Problems.Select(p => p.Field);
        Assert.Equal(["kind"], Fields(new FitRequest("box")));
        Assert.Equal(["pieces", "orders"], Fields(new FitRequest("tank", Pieces: [], Compartments: [5])));
        Assert.Equal(["trailer", "pieces"], Fields(new FitRequest("linear")));
        Assert.Equal(["compartments", "orders"], Fields(new FitRequest("tank")));
        Assert.Equal(["decks", "vehicles"], Fields(new FitRequest("deck")));
        Assert.Equal(
            ["orders", "orders[0].gallons", "apart"],
            Fields(
                new FitRequest(
                    "tank",
                    Compartments: [100],
                    Orders: [Order("A", "oil", 0), Order("A", "oil", 5)],
                    Apart:
                    [
                        ["oil"],
                    ]
                )
            )
        );
        Assert.Equal(["pieces"], Fields(new FitRequest("linear", new FitTrailer(1, 1, 1, 1), [null])));
        Assert.Equal(["orders"], Fields(new FitRequest("tank", Compartments: [100], Orders: [Order("", "oil", 5), Order("A", "oil", 5)])));
        Assert.Equal(["compartments"], Fields(new FitRequest("tank", Compartments: [.. new decimal[13]], Orders: [Order("A", "oil", 5)])));
    }
}
