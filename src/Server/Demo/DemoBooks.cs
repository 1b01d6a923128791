using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Server.Demo;

/// <summary>What the trucks and the office cost, and what customers do not pay.</summary>
internal sealed partial class DemoLife
{
    private readonly List<(PastLoad Load, Fate Fate)> _together = [];
    private Money _taxOwed = Money.Zero();
    private Money _withheld = Money.Zero();

    /// <summary>What is short-paid of an invoice: about one in fifty a concession, fewer a freight claim, one customer in a while nearly
    /// all.</summary>
    private static (Money By, ShortPayReason Kind, string Why) Shorted(Moment m, PastInvoice invoice, Fate fate)
    {
        var open = invoice.Open.Amount;
        return fate switch
        {
            { Document: 17 } or { Document: 57 } when open > 300m => (
                Money.Usd(25m + (fate.Money % 4 * 25m)),
                ShortPayReason.Concession,
                fate.Road % 2 == 0 ? "no lumper receipt" : "late delivery, agreed by phone"
            ),
            { Document: 33, Road: < 60 } when open > 900m => (
                Money.Usd(180m + (fate.Money * 6m)),
                ShortPayReason.Claim,
                fate.Road % 2 == 0 ? "two pallets crushed" : "load arrived warm, part refused"
            ),
            { Document: 71, Road: < 9 } when open > 900m => (
                Money.Usd(Math.Round(open * 0.85m, 2)),
                ShortPayReason.Uncollectible,
                "customer in bankruptcy"
            ),
            _ => (Money.Zero(), ShortPayReason.Concession, ""),
        };
    }

    /// <summary>Last week's fuel by truck: its miles at 6.5 miles per gallon, below the average price by our discount.</summary>
    private void Fuel(Moment m, LocalDate tuesday)
    {
        var monday = DriverSettlement.MondayOf(tuesday).PlusDays(-7);
        var price = DemoData.Diesel(monday) - 0.31m;
        var lines = new List<BillLine>();
        foreach (var (truck, miles) in _fuelMiles.OrderBy(t => t.Key))
        {
            var gallons = Math.Round(miles / 6.5m, 1);
            if (gallons > 0)
            {
                var owner = _cast.Drivers.FirstOrDefault(d => d.TruckId == truck && d.Worker == WorkerKind.OwnerOperator);
                lines.Add(new BillLine("5200", $"{gallons} gal", Money.Usd(gallons * price).ToCents(), null, truck, owner?.Id));
            }
        }

        _fuelMiles.Clear();
        if (lines.Count > 0)
        {
            var bill = VendorBill(m, "Bitterroot Fuel Stops", $"W{monday:uuMMdd}", lines);
            for (var i = 0; i < lines.Count; i++)
            {
                if (lines[i].DriverId is { } id)
                {
                    Past.ChargeBackLine(m, bill, i + 1, id, _cast.Drivers.First(d => d.Id == id).Name);
                }
            }
        }

        Repairs(m, monday);
    }

    /// <summary>A few trucks are in the shop each week; over time each costs about 23 cents a mile.</summary>
    private void Repairs(Moment m, LocalDate monday)
    {
        var due = _repairMiles.OrderByDescending(t => t.Value).ThenBy(t => t.Key).Take(4 + _lot.Next(4)).Where(t => t.Value > 400).ToList();
        var lines = due.Select(t => new BillLine(
                "5400",
                Pick(Shop),
                Money.Usd(t.Value * (0.17m + (_lot.Next(13) * 0.01m))).ToCents(),
                null,
                t.Key,
                null
            ))
            .ToList();
        due.ForEach(t => _repairMiles.Remove(t.Key));
        if (lines.Count > 0)
        {
            VendorBill(m, "Lolo Tire and Axle", $"{monday:uuMMdd}", lines);
        }
    }

    private static readonly string[] Shop =
    [
        "tires",
        "brakes",
        "oil service",
        "DEF system",
        "lights and wiring",
        "air lines",
        "wheel seals",
    ];

    private void Monthly(Moment m, LocalDate day)
    {
        var trucks = _cast.Drivers.Count + 3;
        var ours = trucks - _cast.Drivers.Count(d => d.Worker == WorkerKind.OwnerOperator);
        var last = day.PlusMonths(-1);
        VendorBill(m, "Grant Creek Properties", $"{day:uuuu-MM}", [Line("6100", "yard and office", 6_400m)]);
        VendorBill(
            m,
            "Big Sky Mutual Cover",
            $"P{day:uuMM}",
            [Line("5700", $"{trucks} trucks, liability, cargo and damage", trucks * 1_130m), Line("6200", "office and errors", 1_240m)]
        );
        VendorBill(
            m,
            DemoData.Lessor,
            $"L{day:uuMM}",
            [Line("5500", $"{ours} trucks", ours * 2_760m), Line("5500", $"{_cast.Trailers.Count} trailers", _cast.Trailers.Count * 265m)]
        );
        List<BillLine> payroll =
        [
            Line("6600", $"office wages, {last:MMMM}", 42_500m),
            Line("6610", $"employer taxes and benefits, {last:MMMM}", 8_600m),
            Line("2210", $"driver payroll taxes, {last:MMMM}", _taxOwed.Amount),
            Line("2200", $"insurance withheld, {last:MMMM}", _withheld.Amount),
        ];
        (_taxOwed, _withheld) = (Money.Zero(), Money.Zero());
        VendorBill(m, DemoData.Payroll, $"{last:uuuu-MM}", payroll.Where(l => l.Amount.Amount > 0).ToList());
        VendorBill(
            m,
            DemoData.Office,
            $"{2_000 + (day.Year * 12) + day.Month}",
            [
                Line("6300", "telephone, software and load search", 5_900m),
                Line("6400", "supplies and postage", 1_450m + (_lot.Next(12) * 35m)),
                Line("6700", "bookkeeping review and taxes", 1_700m),
                Line("5600", $"plates and permits, {trucks} trucks", trucks * 172m),
                Line("5300", "tolls and scales", Math.Max(1m, Math.Round(_tollMiles * 0.014m, 2))),
            ]
        );
        _tollMiles = 0;
        var lumpers = Past
            .Loads.Where(l => l.DeliveredAt is { } at && Past.Day(at) >= last && Past.Day(at) < day)
            .SelectMany(l => l.Order.Charges)
            .Where(c => c.Kind == ChargeKind.Lumper)
            .Sum(c => c.Amount.Amount);
        if (lumpers > 0)
        {
            VendorBill(m, DemoData.Lumpers, $"U{day:uuMM}", [Line("5350", "unloading, paid by our drivers and carriers", lumpers)]);
        }
    }

    private static BillLine Line(string account, string what, decimal amount) => new(account, what, Money.Usd(amount), null, null, null);

    private PastVendorBill VendorBill(Moment m, string name, string number, IReadOnlyList<BillLine> lines)
    {
        var bill = Past.EnterVendorBill(m, _cast.Vendors[name], name, number, lines, 10);
        NextMorning(m.At, a => Past.ApproveVendorBill(a, bill, name));
        At(bill.Bill.Due + new LocalTime(14, 30), "dana", p => Past.PayVendorBill(p, bill, name));
        return bill;
    }
}
