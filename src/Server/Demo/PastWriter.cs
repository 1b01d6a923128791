using System.Security.Cryptography;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Demo;

/// <summary>Writes a history into an empty database, table by table, in order of their foreign keys.</summary>
internal static class PastWriter
{
    /// <summary>Documents older than this are not generated: one page that says so stands in for them.</summary>
    public const int DocumentDays = 60;

    private static readonly Lazy<byte[]> Older = new(() =>
        Sheet("Demo document", page =>
            page.Line($"The demo creates documents for its last {DocumentDays} days only. This page stands in for an older one.")
        )
    );

    /// <param name="documentsSince">Documents older than this are not generated: one page that says so stands in for them.</param>
    /// <param name="withTriggers">Whether the database's triggers keep what is paid and deducted up to date as parts are added.</param>
    public static async Task Write(NpgsqlConnection db, Past past, Instant documentsSince, bool withTriggers, Action<string> say)
    {
        say($"  demo: {past.Loads.Count} loads, {past.Entries.Count} ledger entries to write");
        await Trips(db, past);
        await Loads(db, past);
        await Documents(db, past, documentsSince);
        await Bills(db, past, withTriggers);
        await Money(db, past, withTriggers);
        await Entries(db, past);
        await past.Events.Copy(db);
        await DemoStore.Finish(
            db,
            past.Last.Where(l => l.Key is not "entry_line")
                .Select(l => (Table(l.Key), l.Value))
                .Concat(PaymentTables.Select(t => (t, past.Last.GetValueOrDefault("bill")))),
            [("load", past.NextLoadNumber), ("trip", past.NextTripNumber), ("invoice", past.NextInvoiceNumber)]
        );
    }

    private static readonly string[] PaymentTables = ["vendor_payments", "payment_batches"];

    private static string Table(string key) =>
        key switch
        {
            "entry" => "entries",
            "freight" => "freight_lines",
            _ => key + "s",
        };

    private static async Task Trips(NpgsqlConnection db, Past past)
    {
        var trips = new Bulk("trips", "id, number, driver_id, truck_id, trailer_id, scheduled, started_at, ended_at");
        foreach (var t in past.Loads.Select(l => l.Trip).OfType<PastTrip>())
        {
            trips.Add(t.Id, t.Number, t.Driver, t.Truck, t.Trailer, new Interval(t.Commitment.From, t.Commitment.Until), t.Began, t.Ended);
        }

        await trips.Copy(db);
        await DemoStore.Crew(db);
    }

    private static async Task Loads(NpgsqlConnection db, Past past)
    {
        var loads = new Bulk(
            "loads",
            "id, number, state, to_cover, is_draft, customer_id, reference, equipment, driver_instructions, carrier_instructions, miles, revenue, booked_by, booked_at, first_at, last_at, delivered_at, lane, cancelled_at, cancelled_why"
        );
        var stops = new Bulk(
            "stops",
            "id, load_id, seq, kind, place_id, from_local, until_local, zone, from_at, until_at, note, arrived_at, arrived_via, left_at, left_via, delivered_at, delivered_via, received_by"
        );
        var freight = new Bulk("freight_lines", "load_id, seq, description, pieces, pallets, weight_lb, temperature_f");
        var charges = new Bulk("charges", "id, load_id, seq, kind, description, basis, rate, quantity, amount");
        var references = new Bulk("load_references", "load_id, seq, kind, value");
        var legs = new Bulk(
            "legs",
            "id, load_id, seq, miles, trip_id, carrier_id, agreed, carrier_driver, carrier_driver_phone, carrier_truck, carrier_trailer"
        );
        var carrierCharges = new Bulk("carrier_charges", "leg_id, seq, kind, amount");
        var tenders = new Bulk(
            "tenders",
            "id, leg_id, carrier_id, amount, token, sent_at, expires_at, accepted_at, accepted_by, accepted_via, signed_at, signed_by"
        );
        foreach (var l in past.Loads)
        {
            var o = l.Order;
            loads.Add(
                l.Id,
                l.Number,
                l.State,
                l.State.IsOpen() ? 1 : null,
                o.Draft,
                o.CustomerId,
                o.Reference,
                o.Equipment,
                o.DriverInstructions,
                o.CarrierInstructions,
                o.Miles,
                o.Revenue,
                l.Booked.User,
                l.Booked.At,
                o.Stops[0].At?.From,
                o.Stops[^1].At?.Until,
                l.DeliveredAt,
                o.Stops[0].Place is { } origin && o.Stops[^1].Place is { } destination
                    ? $"{origin.Town} {origin.Region} to {destination.Town} {destination.Region}"
                    : null,
                l.CanceledAt?.At,
                l.CanceledWhy
            );
            for (var i = 0; i < l.Stops.Count; i++)
            {
                var (b, p) = (l.Stops[i].Booked, l.Stops[i].Plan);
                var via = l.Stops[i].Via is { } v ? EnumCodec.Of(v) : null;
                stops.Add(
                    p.Id,
                    l.Id,
                    i + 1,
                    b.Kind,
                    b.Place!.Id,
                    b.Window?.From,
                    b.Window?.Until,
                    b.Place.Zone,
                    b.At?.From,
                    b.At?.Until,
                    b.Note,
                    p.Arrived,
                    p.Arrived is null ? null : via,
                    p.Left,
                    p.Left is null ? null : via,
                    p.Delivered,
                    p.Delivered is null ? null : via,
                    l.Stops[i].ReceivedBy
                );
            }

            for (var i = 0; i < o.Freight.Count; i++)
            {
                var f = o.Freight[i];
                freight.Add(l.Id, i + 1, f.Description, f.Pieces, f.Pallets, f.WeightLb, f.TemperatureF);
            }

            for (var i = 0; i < o.Charges.Count; i++)
            {
                var c = o.Charges[i];
                charges.Add(l.FirstCharge + i, l.Id, i + 1, c.Kind, c.Description, c.Price.Basis, c.Price.Rate, c.Price.Quantity, c.Amount);
            }

            for (var i = 0; i < o.References.Count; i++)
            {
                references.Add(l.Id, i + 1, o.References[i].Kind, o.References[i].Value);
            }

            if (!o.Draft)
            {
                var d = l.Dispatch;
                legs.Add(l.Leg, l.Id, 1, o.Miles ?? 0, l.Trip?.Id, l.Carrier, l.Agreed, d?.Driver, d?.Phone, d?.Truck, d?.Trailer);
                if (l.Agreed is { } agreed)
                {
                    carrierCharges.Add(l.Leg, 1, ChargeKind.LineHaul, agreed);
                }
            }

            if (l.TenderedAt is { } sent)
            {
                tenders.Add(
                    l.Tender,
                    l.Leg,
                    l.Carrier,
                    l.Agreed,
                    Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24)),
                    sent.At,
                    l.TenderExpires,
                    l.AcceptedAt,
                    l.AcceptedBy,
                    l.AcceptedAt is null ? null : AcceptedVia.Link,
                    l.AcceptedAt,
                    l.AcceptedBy
                );
            }
        }

        foreach (var bulk in new[] { loads, stops, freight, charges, references, legs, carrierCharges, tenders })
        {
            await bulk.Copy(db);
        }
    }

    private static async Task Documents(NpgsqlConnection db, Past past, Instant since)
    {
        var old = Older.Value;
        var bytes = new Bulk("document_files", "sha256, bytes");
        var documents = new Bulk("documents", "id, load_id, kind, file_name, media_type, size, sha256, added_at, added_by, via");
        var oldHash = SHA256.HashData(old);
        if (past.IsFirst)
        {
            bytes.Add(oldHash, old);
        }

        // Rate confirmations are generated from the database once the load is in it; these are the PODs and BOLs.
        var all = past
            .Loads.SelectMany(l =>
                l.Documents.Where(p => p.Kind != DocumentKind.RateConfirmation || p.At < since).Select(p => (Load: l, Document: p))
            )
            .ToList();
        var drawn = all.AsParallel()
            .AsOrdered()
            .Select(x =>
                x.Document.At < since ? old
                : x.Document.Kind == DocumentKind.Bol ? Bol(x.Load)
                : Pod(x.Load)
            )
            .ToList();
        for (var i = 0; i < all.Count; i++)
        {
            var ((load, document), file) = (all[i], drawn[i]);
            var hash = ReferenceEquals(file, old) ? oldHash : SHA256.HashData(file);
            if (!ReferenceEquals(file, old))
            {
                bytes.Add(hash, file);
            }

            var name = Past.FileName(load, document.Kind);
            documents.Add(
                document.Id,
                load.Id,
                document.Kind,
                name,
                "application/pdf",
                file.Length,
                hash,
                document.At,
                document.By,
                document.Via
            );
        }

        await bytes.Copy(db);
        await documents.Copy(db);
    }

    private static async Task Money(NpgsqlConnection db, Past past, bool withTriggers)
    {
        Money Kept(Money sum) => withTriggers ? Core.Basics.Money.Zero() : sum;
        var firstCharge = past.Loads.ToDictionary(l => l.Id, l => l.FirstCharge);
        var invoices = new Bulk("invoices", "id, number, customer_id, issued_on, posted_on, due_on, total, paid, mailed_to");
        var lines = new Bulk("invoice_lines", "invoice_id, seq, load_id, charge_id, description, amount");
        var invoiceLoads = new Bulk("invoice_loads", "invoice_id, load_id");
        foreach (var i in past.Invoices)
        {
            invoices.Add(
                i.Id,
                i.Number,
                i.Draft.CustomerId,
                i.Draft.IssuedOn,
                i.Draft.IssuedOn,
                i.Draft.DueOn,
                i.Draft.Total,
                Kept(i.Paid),
                i.MailTo
            );
            for (var n = 0; n < i.Draft.Lines.Count; n++)
            {
                var line = i.Draft.Lines[n];
                lines.Add(i.Id, n + 1, line.LoadId, firstCharge[line.LoadId] + line.ChargeId - 1, line.Description, line.Amount);
            }

            foreach (var load in i.Draft.Lines.Select(l => l.LoadId).Distinct())
            {
                invoiceLoads.Add(i.Id, load);
            }
        }

        var payments = new Bulk("payments", "id, customer_id, received_on, posted_on, method, reference, amount");
        var applications = new Bulk("payment_applications", "payment_id, invoice_id, posted_on, amount, write_off, kind, reason");
        foreach (var p in past.Payments)
        {
            payments.Add(p.Id, p.Customer, p.On, p.On, p.Method, p.Reference, p.Payment.Amount);
            foreach (var part in p.Payment.Applications)
            {
                applications.Add(p.Id, part.InvoiceId, p.On, part.Amount, part.WriteOff, part.Kind, part.Reason);
            }
        }

        var settlements = new Bulk(
            "settlements",
            "id, driver_id, monday, pay_day, earned, deducted, carried_over, net, employer_tax, days_out, miles, approved_by, approved_at, paid_on, paid_method, paid_by"
        );
        var settled = new Bulk("settlement_legs", "settlement_id, driver_id, leg_id, amount");
        var weekLines = new Bulk("settlement_lines", "settlement_id, seq, kind, what, quantity, rate, on_day, amount, leg_id");
        var kept = new Bulk("settlement_deductions", "settlement_id, seq, standing_id, item_id, amount");
        var advances = new Bulk("advances", "id, driver_id, issued_on, amount, deducted, note, carried_from");
        var deductions = new Bulk("advance_deductions", "settlement_id, advance_id, amount");
        foreach (var d in past.Advances)
        {
            advances.Add(d.Id, d.Driver, d.On, d.Amount, Kept(d.Deducted), d.Note, d.CarriedFrom);
        }

        foreach (var s in past.Weeks)
        {
            var w = s.Week;
            settlements.Add(
                s.Id,
                s.Driver,
                w.Monday,
                w.PayDay,
                w.Earned,
                w.Deducted,
                w.CarriedOver,
                w.Net,
                w.EmployerTax,
                w.DaysOut,
                w.Miles,
                s.Approved.User,
                s.Approved.At,
                s.PaidOn,
                s.PaidOn is null ? null : "ach",
                s.PaidBy
            );
            foreach (var leg in w.Legs)
            {
                settled.Add(s.Id, s.Driver, leg.LegId, leg.Amount);
            }

            for (var i = 0; i < w.Lines.Count; i++)
            {
                var line = w.Lines[i];
                weekLines.Add(s.Id, i + 1, line.Kind, line.What, line.Quantity, line.Rate, line.On, line.Amount, line.LegId);
            }

            var seq = 0;
            foreach (var part in w.Deductions)
            {
                if (part.AdvanceId is { } advance)
                {
                    deductions.Add(s.Id, advance, part.Amount);
                }
                else
                {
                    kept.Add(s.Id, ++seq, part.RecurringId, part.ItemId, part.Amount);
                }
            }
        }

        foreach (
            var bulk in new[]
            {
                invoices,
                lines,
                invoiceLoads,
                payments,
                applications,
                settlements,
                settled,
                weekLines,
                kept,
                advances,
                deductions,
            }
        )
        {
            await bulk.Copy(db);
        }
    }

    private static async Task Bills(NpgsqlConnection db, Past past, bool withTriggers)
    {
        var bills = new Bulk(
            "bills",
            "id, vendor_id, number, leg_id, billed_on, posted_on, due_on, amount, agreed, approved, approved_why, approved_by, approved_at, entered_at, paid, paid_on, paid_method, paid_by"
        );
        var lines = new Bulk("bill_lines", "bill_id, seq, account, description, amount, load_id, truck_id, driver_id");
        var batches = new Bulk("payment_batches", "id, paid_on, method, made_by, made_at");
        var payments = new Bulk("vendor_payments", "id, batch_id, vendor_id, payee, paid_on, posted_on, method, amount, paid_by, paid_at");
        var parts = new Bulk("bill_payments", "payment_id, bill_id, amount");
        var batchOf = new Dictionary<LocalDate, long>();
        void Add(PastBill b, long vendor, string payee, long? leg, Money? agreed)
        {
            var paid = withTriggers ? null : b.PaidOn;
            bills.Add(
                b.Id,
                vendor,
                b.Number,
                leg,
                b.On,
                b.On,
                b.Due,
                b.Amount,
                agreed,
                b.Approved,
                b.Why,
                b.ApprovedAt?.User,
                b.ApprovedAt?.At,
                b.Entered,
                paid is null ? 0m : b.Approved!.Value,
                paid,
                paid is null ? null : "ach",
                paid is null ? null : b.PaidBy
            );
            if (b.PaidOn is { } on)
            {
                var at = on.At(new LocalTime(15, 0)).InZoneLeniently(past.Zone).ToInstant();
                if (batchOf.TryAdd(on, b.Id))
                {
                    batches.Add(b.Id, on, "ach", b.PaidBy, at);
                }

                payments.Add(b.Id, batchOf[on], vendor, payee, on, on, "ach", b.Approved!.Value, b.PaidBy, at);
                parts.Add(b.Id, b.Id, b.Approved!.Value);
            }
        }

        foreach (var l in past.Loads.Where(l => l.Bill is not null))
        {
            Add(l.Bill!, l.Carrier!.Value, l.Who!, l.Leg, l.Bill!.Agreed);
            lines.Add(l.Bill.Id, 1, Accounts.PurchasedTransportation.Code, null, l.Bill.Amount, l.Id, null, null);
        }

        foreach (var v in past.VendorBills)
        {
            Add(v.Bill, v.Vendor, v.Name, null, null);
            for (var i = 0; i < v.Lines.Count; i++)
            {
                lines.Add(
                    v.Bill.Id,
                    i + 1,
                    v.Lines[i].Account,
                    v.Lines[i].Description,
                    v.Lines[i].Amount,
                    v.Lines[i].LoadId,
                    v.Lines[i].TruckId,
                    v.Lines[i].DriverId
                );
            }
        }

        var charged = new Bulk(
            "pay_items",
            "id, driver_id, kind, happened_on, what, amount, account, entered_by, entered_at, bill_id, bill_seq"
        );
        foreach (var c in past.PayItems)
        {
            charged.Add(
                c.Item.ItemId,
                c.Driver,
                c.Item.Kind,
                c.Item.On,
                c.Item.What,
                c.Item.Amount,
                c.Item.Account,
                c.Entered.User,
                c.Entered.At,
                c.Bill,
                c.Line
            );
        }

        foreach (var bulk in new[] { bills, lines, batches, payments, parts, charged })
        {
            await bulk.Copy(db);
        }
    }

    private static async Task Entries(NpgsqlConnection db, Past past)
    {
        // Already in the ledger: the opening balance.
        var first = await DemoStore.LastEntry(db);
        var entries = new Bulk("entries", "id, posted_on, at, memo, source, source_id");
        var lines = new Bulk(
            "entry_lines",
            "entry_id, seq, account, debit, credit, load_id, customer_id, carrier_id, driver_id, truck_id, vendor_id, item_id"
        );
        var id = first;
        foreach (var (e, at) in past.Entries)
        {
            id++;
            entries.Add(id, e.PostedOn, at, e.Memo, e.Source, e.SourceId);
            for (var i = 0; i < e.Lines.Count; i++)
            {
                var l = e.Lines[i];
                lines.Add(
                    id,
                    i + 1,
                    l.Account,
                    l.Debit,
                    l.Credit,
                    l.For.LoadId,
                    l.For.CustomerId,
                    l.For.CarrierId,
                    l.For.DriverId,
                    l.For.TruckId,
                    l.For.VendorId,
                    l.ItemId
                );
            }
        }

        await entries.Copy(db);
        await lines.Copy(db);
        await DemoStore.Finish(db, [("entries", id)], []);
    }

    private static byte[] Pod(PastLoad load) => Sheet($"POD {load.Number}", page =>
        {
            var last = load.Stops[^1];
            page.Line("Proof of delivery", 19, bold: true);
            page.Space(8);
            page.Line($"Load {load.Number} · {load.Customer} · {load.Order.Reference}");
            page.Line(
                $"{string.Join(", ", load.Order.Freight.Select(f => f.Description))}, {load.Order.Freight.Sum(f => f.WeightLb ?? 0):#,##0} lb"
            );
            page.Line($"Delivered to {last.Booked.Place!.Name}, {last.Booked.Place.Town} {last.Booked.Place.Region}");
            page.Space(20);
            page.Line($"Received in good order: {last.ReceivedBy}", 13, bold: true);
            page.Line(
                $"{(last.Plan.Delivered ?? last.Plan.Arrived ?? default).Format(WallClock.Zone(last.Booked.Place.Zone) ?? DateTimeZone.Utc)}"
            );
        });

    private static byte[] Bol(PastLoad load) => Sheet($"BOL {load.Number}", page =>
        {
            page.Line("Bill of lading", 19, bold: true);
            page.Space(8);
            page.Line($"Load {load.Number} · {load.Customer} · {load.Order.Reference}");
            foreach (var freight in load.Order.Freight)
            {
                page.Line($"{freight.Description}, {freight.WeightLb:#,##0} lb");
            }

            foreach (var stop in load.Stops)
            {
                page.Line(
                    $"{(stop.Plan.Kind == Core.Loads.StopKind.Pickup ? "Shipped from" : "Consigned to")} {stop.Booked.Place!.Name}, {stop.Booked.Place.Town} {stop.Booked.Place.Region}"
                );
            }
        });

    private static byte[] Sheet(string title, Action<PdfPage> write)
    {
        using var page = new PdfPage(title, "Demo document");
        write(page);
        return page.Save();
    }
}
