using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's expenses on the trips of the last days: fuel by the week's statement, and what drivers paid. Those of trips under way wait
/// for the bookkeeper.</summary>
internal static class DemoExpenses
{
    private const decimal MilesPerGallon = 6.5m;

    public static async Task Write(CommandContext w, DemoCast cast)
    {
        var trips = (await ItineraryStore.Around(w.Db, new Span(w.Now - Duration.FromDays(4), w.Now + Duration.FromHours(1))))
            .Where(t => t.StartedAt is { } started && started < w.Now - Duration.FromHours(6))
            .OrderBy(t => t.EndedAt is not null)
            .ThenBy(t => t.StartedAt)
            .ToList();
        for (var i = 0; i < trips.Count; i++)
        {
            if (await TripExpenseStore.Trip(w.Db, trips[i].Id, w.Zone) is not { } trip)
            {
                continue;
            }

            var regions = (await TripSheets.Visits(w.Db, trips[i]) ?? []).Where(v => v.Reached).Select(v => v.Town.Split(' ')[^1]).ToList();
            if (regions.Count > 0 && regions.All(r => Core.Places.Regions.Country(r) == "US"))
            {
                foreach (var expense in Of(trip, trips[i], regions, cast, i, w.Today))
                {
                    await Enter(w, cast, trips[i], expense, trip.Until is not null);
                }
            }
        }
    }

    private static IEnumerable<ExpenseRequest> Of(
        ExpenseTrip trip,
        TripRow row,
        List<string> regions,
        DemoCast cast,
        int i,
        LocalDate today
    )
    {
        var miles = trip.Legs.Sum(l => l.Miles);
        var last = trip.Until ?? today;
        if (!row.IsLeased && miles > 150)
        {
            // Filled at the start, and on a long trip once more on the way.
            var gallons = Math.Min(178.4m, Math.Round(miles / MilesPerGallon, 1));
            yield return Fuel(trip.From, regions[0], gallons - (i % 7), i);
            if (miles / MilesPerGallon > 178 && last > trip.From)
            {
                yield return Fuel(last, regions[^1], 92.5m + (3 * (i % 5)), i + 3);
            }
        }

        if (row.Rig.First?.Equipment == Equipment.Reefer && !row.IsLeased && i % 2 == 0)
        {
            yield return Fuel(trip.From, regions[0], 18.5m + (i % 6), i) with
            {
                Kind = CostKind.ReeferFuel,
            };
        }

        if (i % 3 == 1)
        {
            yield return new ExpenseRequest(CostKind.Scale, trip.From, Money.Usd(14.75m), PaidBy.Driver, "Prickly Pear Scales", regions[0]);
        }

        if (i % 5 == 2)
        {
            yield return new ExpenseRequest(
                CostKind.Lumper,
                last,
                Money.Usd(120m + (5 * (i % 9))),
                PaidBy.CompanyCard,
                "Dockside Unloading",
                regions[^1],
                LoadId: trip.Legs[^1].LoadId,
                Note: "receiver requires a lumper"
            );
        }

        if (i % 11 == 4 && last > trip.From)
        {
            yield return new ExpenseRequest(CostKind.Lodging, trip.From, Money.Usd(92.40m), PaidBy.Driver, "Elkhorn Motor Inn", regions[0]);
        }

        if (i == 6 && !row.IsLeased && cast.Vendors.TryGetValue("Lolo Tire and Axle", out var vendor))
        {
            yield return new ExpenseRequest(
                CostKind.Repair,
                last,
                Money.Usd(418.60m),
                PaidBy.OnAccount,
                "Lolo Tire and Axle",
                regions[^1],
                VendorId: vendor,
                Reference: "RS-4417",
                Note: "road call, steer tire"
            );
        }

        static ExpenseRequest Fuel(LocalDate on, string region, decimal gallons, int i) =>
            new(
                CostKind.Fuel,
                on,
                null,
                PaidBy.Separately,
                "Bitterroot Fuel Stops",
                region,
                gallons,
                VolumeUnit.Gallons,
                DemoData.Diesel(on) - 0.31m + (0.01m * ((i % 9) - 4)),
                Reference: $"{on:MMdd}-{2_104 + (37 * i)}"
            );
    }

    /// <summary>Drivers report on the phone, with the receipt; the bookkeeper enters the week's fuel, and approves what is older.</summary>
    private static async Task Enter(CommandContext w, DemoCast cast, TripRow trip, ExpenseRequest expense, bool isOver)
    {
        var marta = w.At(w.Now, cast.Staff["marta"]);
        if (expense.PaidBy is PaidBy.Separately or PaidBy.OnAccount)
        {
            Must(await ExpenseCommands.Enter(marta, trip.Id, expense));
            return;
        }

        // A little ago, but not on the day before the receipt's.
        var before = w.Now - Duration.FromHours(2);
        var driver = w.At(before.InZone(w.Zone).Date < expense.On ? w.Now : before, new Actor(null, trip.Driver, Via.Phone, trip.DriverId));
        var made = Must(await ExpenseCommands.Enter(driver, trip.Id, expense, trip.DriverId));
        using var receipt = new PdfPage("Receipt", "Demo document");
        receipt.Line(expense.Place!, 16, bold: true);
        receipt.Line($"{expense.On!.Value:MMM d, uuuu}", grey: true);
        receipt.Space(8);
        receipt.Line($"{expense.Kind!.Value.Format()}  {made.Amount.Formatted}", 12);
        _ = Must(await ExpenseCommands.Attach(driver, made.Id, "receipt.pdf", receipt.Save()));
        if (isOver)
        {
            Must(await ExpenseCommands.Approve(marta, made.Id));
        }
    }

    private static T Must<T>(Outcome<T> outcome) =>
        outcome.Ok ? outcome.Value : throw new InvalidOperationException($"The demo's expenses: {outcome.Problems[0].Message}");
}
