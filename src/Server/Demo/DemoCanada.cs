using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Paying;
using SteadyLark.Server.Trips;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;

namespace SteadyLark.Server.Demo;

/// <summary>The demo's partners in Canadian dollars: a seed grower and a carrier, with a load that is paid, one that is billed and one that is
/// booked.</summary>
internal static class DemoCanada
{
    /// <summary>Days of rates before today.</summary>
    private const int Days = 120;

    /// <summary>What a Canadian dollar is worth on a day, made up: it drifts a little with the season and from day to day.</summary>
    /// <returns>US dollars, to four decimals.</returns>
    internal static decimal Rate(LocalDate day)
    {
        var n = Period.DaysBetween(new LocalDate(2026, 1, 1), day);
        return Math.Round(0.7230m + ((decimal)Math.Sin(n / 41.0) * 0.009m) + ((decimal)Math.Sin(n * 1.7) * 0.0012m), 4);
    }

    public static async Task Write(IServiceProvider services, CommandContext w, DemoCast cast, IReadOnlyDictionary<string, TownRow> towns)
    {
        for (var day = w.Today.PlusDays(-Days); day <= w.Today; day = day.PlusDays(1))
        {
            if (day.DayOfWeek is not (IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday))
            {
                await ExchangeStore.Set(w, new ExchangeRate(Currency.CAD, day, Rate(day)), "central bank stand-in");
            }
        }

        var customer = await CompanyStore.Add(w.Db, Company("Cypress Rail Seeds", "pay", towns["Medicine Hat,AB"], null));
        var carrier = await CompanyStore.Add(
            w.Db,
            Company(
                "Oldman Line Haul",
                "dispatch",
                towns["Lethbridge,AB"],
                new CarrierFile(
                    "9000188",
                    true,
                    w.Today.PlusDays(210),
                    w.Today.PlusDays(210),
                    null,
                    Money.Usd(1_000_000m),
                    Money.Usd(250_000m),
                    SafetyRating.Satisfactory,
                    w.Today.PlusDays(-300)
                )
            )
        );
        var from = await Place(w, "Cypress Rail Seeds", towns["Medicine Hat,AB"]);
        var to = await Place(w, "Sun River Seed Supply", towns["Great Falls,MT"]);
        var desk = new Desk(services, w, cast, customer, carrier, from, to);
        var paid = await desk.Delivered(-38, 2_150m, 1_780m, "CR 5512");
        var invoice = Must(await desk.Billing.Issue(w.At(desk.Morning(-36), cast.Staff["marta"]), new InvoiceRequest([paid], null, null)));
        Must(
            await BillingCommands.Receive(
                w.At(desk.Morning(-4), cast.Staff["marta"]),
                new PaymentRequest(customer, null, "wire", "CR-88", invoice.Total, null)
            )
        );
        var billed = await desk.Delivered(-9, 2_150m, 1_800m, "CR 5560");
        Must(await desk.Billing.Issue(w.At(desk.Morning(-7), cast.Staff["marta"]), new InvoiceRequest([billed], null, null)));
        var leg = (await LoadReads.Legs(w.Db, billed))[^1];
        Must(await BillCommands.Enter(w.At(desk.Morning(-5), cast.Staff["marta"]), new BillRequest(leg.Id, "OL-2207", null, Cad(1_800m))));
        await desk.Book(2, 2_200m, "CR 5581");
    }

    private static Money Cad(decimal amount) => new(amount, Currency.CAD);

    private static CompanyRow Company(string name, string mailbox, TownRow town, CarrierFile? carrier) =>
        new(
            0,
            name,
            carrier is null ? "403-555-0144" : "403-555-0145",
            DemoCast.MailOf(name, mailbox),
            "12 Elevator Road",
            town.Name,
            town.Region,
            carrier is null,
            carrier is not null,
            30,
            null,
            1,
            carrier,
            Currency: Currency.CAD
        );

    private static Task<long> Place(CommandContext w, string name, TownRow town) =>
        PlaceStore.Add(
            w.Db,
            new PlaceRow(0, name, "1 Siding Road", town.Name, town.Region, town.Country, town.Latitude, town.Longitude, town.Zone, null)
        );

    private static T Must<T>(Outcome<T> outcome) =>
        outcome.Ok ? outcome.Value : throw new InvalidOperationException($"The demo's Canadian loads: {outcome.Problems[0].Message}");

    /// <summary>Those who book, cover and bill.</summary>
    private sealed record Desk(IServiceProvider Services, CommandContext W, DemoCast Cast, long Customer, long Carrier, long From, long To)
    {
        public BillingCommands Billing => Services.GetRequiredService<BillingCommands>();

        public Instant Morning(int day) => W.Today.PlusDays(day).At(new LocalTime(9, 10)).InZoneLeniently(W.Zone).ToInstant();

        public async Task<long> Book(int day, decimal rate, string reference)
        {
            var pickup = W.Today.PlusDays(day);
            return Must(
                await LoadCommands.Book(
                    W.At(Morning(Math.Min(day - 2, 0)), Cast.Staff["bo"]),
                    new LoadRequest(
                        Customer,
                        reference,
                        Equipment.Van,
                        [
                            new StopRequest(StopKind.Pickup, From, pickup.At(new LocalTime(7, 0)), null, null),
                            new StopRequest(StopKind.Delivery, To, pickup.At(new LocalTime(16, 0)), null, null),
                        ],
                        [new FreightRequest("seed in bags", null, 22, 41_200, null)],
                        [new ChargeRequest(ChargeKind.LineHaul, null, Cad(rate))],
                        null,
                        false
                    )
                )
            ).Id;
        }

        public async Task<long> Delivered(int day, decimal rate, decimal pay, string reference)
        {
            var load = await Book(day, rate, reference);
            var bo = W.At(Morning(day - 1), Cast.Staff["bo"]);
            Must(
                await Services
                    .GetRequiredService<CoverCommands>()
                    .ByCarrier(
                        bo,
                        load,
                        null,
                        new CoverByCarrierRequest(
                            Carrier,
                            Cad(pay),
                            AcceptedBy: "Rhea Tolman",
                            Dispatch: new CarrierDispatch("Dell Marsh", "403-555-0177", "41", "7702")
                        )
                    )
            );
            var stops = (await LoadReads.Sheet(W.Db, load))!.Load.Stops;
            var there = W.Today.PlusDays(day).At(new LocalTime(15, 40)).InZoneLeniently(W.Zone).ToInstant();
            foreach (
                var (stop, what, at) in new[]
                {
                    (stops[0].Id, StopEvent.Left, there - Duration.FromHours(7)),
                    (stops[1].Id, StopEvent.Delivered, there),
                }
            )
            {
                Must(
                    await StopCommands.Record(
                        W.At(at, Cast.Staff["ines"]),
                        load,
                        stop,
                        new StopEventRequest(what, at, what == StopEvent.Delivered ? "P. Lund" : null)
                    )
                );
            }

            using var page = new PdfPage("Proof of delivery", "Sun River Seed Supply");
            page.Line($"Received in good order, load of {reference}, P. Lund");
            Must(await DocumentCommands.Add(W.At(there, Cast.Staff["ines"]), load, DocumentKind.Pod, "pod.pdf", page.Save()));
            return load;
        }
    }
}
