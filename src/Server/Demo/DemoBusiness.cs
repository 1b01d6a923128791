using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;
using SteadyLark.Store.People;
using SteadyLark.Store.Places;
using SteadyLark.Store.Tracking;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Demo;

internal sealed record DemoDriver(
    int Index,
    long Id,
    string Name,
    long TruckId,
    string Unit,
    TownRow Home,
    DriverAgreement Agreement,
    IReadOnlyList<RecurringDeduction> Recurring
)
{
    /// <summary>So many drivers sign in on a phone.</summary>
    public const int OnPhone = 6;

    public WorkerKind Worker => WorkerOf(Index);

    /// <summary>Two of them lease their own truck to us.</summary>
    public static WorkerKind WorkerOf(int index) => index is 10 or 16 ? WorkerKind.OwnerOperator : WorkerKind.Employee;

    /// <summary>The trailer they pull.</summary>
    public Equipment Pulls => DemoData.Pulls[Index % DemoData.Pulls.Length];

    public long TrailerId { get; set; }

    public string TrailerUnit { get; set; } = "";

    public GeoPoint HomePoint => new(Home.Latitude, Home.Longitude);
}

internal sealed record DemoCarrier(long Id, CarrierRecord Record, int PayDays, bool IsCanadian);

/// <summary>The demo's records, by their database keys.</summary>
internal sealed class DemoCast
{
    private readonly Dictionary<long, List<long>> _receiversNear = [];

    public List<(DemoCustomer Data, long Id, long PlaceId)> Customers { get; } = [];

    public Dictionary<long, int> CustomerIndex { get; } = [];

    public List<DemoCarrier> Carriers { get; } = [];

    public Dictionary<string, long> Vendors { get; } = [];

    public List<long> Receivers { get; } = [];

    public List<DemoDriver> Drivers { get; } = [];

    public List<(long Id, string Unit, Equipment Equipment)> Trailers { get; } = [];

    public Dictionary<long, TownRow> TownOfPlace { get; } = [];

    public Dictionary<long, KnownPlace> Known { get; } = [];

    public Dictionary<long, DateTimeZone> ZoneOf { get; } = [];

    public Dictionary<string, Actor> Staff { get; } = [];

    /// <summary>Receivers for freight from a place.</summary>
    public List<long> ReceiversNear(long origin, Func<long, bool> near)
    {
        if (!_receiversNear.TryGetValue(origin, out var list))
        {
            _receiversNear[origin] = list = Receivers.Where(near).ToList();
        }

        return list;
    }

    /// <summary>Customers in the United States that ship in vans, by their place in the list.</summary>
    public List<int> VanShippers() =>
        Enumerable
            .Range(0, Customers.Count)
            .Where(i => Customers[i].Data.Equipment == Equipment.Van && TownOfPlace[Customers[i].PlaceId].Country == "US")
            .ToList();

    /// <summary>Drivers who do not sign in on a phone; those who do keep the trips they have.</summary>
    public HashSet<long> OffPhone() => Drivers.Where(d => d.Index >= DemoDriver.OnPhone).Select(d => d.Id).ToHashSet();

    public List<long> UsReceivers() => Receivers.Where(r => TownOfPlace[r].Country == "US").ToList();

    public static string MailOf(string company, string who) =>
        $"{who}@{new string(company.ToLowerInvariant().Where(char.IsAsciiLetter).ToArray())}.example";
}

/// <summary>
/// Tamarack Bend Freight of Missoula, Montana, generated for the day it is loaded. Its history is made by the same Core as
/// live work, and written in one transaction, so that an interrupted start leaves nothing behind.
/// </summary>
public static class DemoBusiness
{
    /// <summary>The password of everyone in the demo.</summary>
    public const string Password = "steady-lark";

    private static readonly (string Login, string Name, Role Role)[] Staff =
    [
        ("dana", "Dana Rask", Role.Owner),
        ("bo", "Bo Lindgren", Role.Broker),
        ("ines", "Ines Calder", Role.Dispatcher),
        ("marta", "Marta Quill", Role.Bookkeeper),
        ("vic", "Vic Amaro", Role.ReadOnly),
    ];

    /// <summary>Fills a database that has no company yet. <c>LARK_DEMO=none</c> leaves out everything but towns and accounts.</summary>
    /// <param name="size">How much history it gets; all of it when omitted.</param>
    public static async Task MakeIfNew(IServiceProvider services, Action<string> say, DemoSize? size = null)
    {
        var source = services.GetRequiredService<NpgsqlDataSource>();
        var zone = services.GetRequiredService<BusinessZone>();
        var now = services.GetRequiredService<IClock>().GetCurrentInstant();
        await using (var db = await source.OpenConnectionAsync())
        {
            if (await Business.Read(db) is { } known)
            {
                zone.Zone = WallClock.Zone(known.Zone) ?? zone.Zone;
                await using var upgrade = await CommandContext.Begin(
                    source,
                    new Actor(null, "Steady Lark", Via.System),
                    now,
                    zone.Zone,
                    Routing.Roads
                );
                await LegCosts.Missing(upgrade);
                await AccrualStore.Missing(upgrade);
                await upgrade.Commit();
                return;
            }
        }

        size ??= DemoSize.Whole;
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var empty = Environment.GetEnvironmentVariable("LARK_DEMO") == "none";
        await using var w = await CommandContext.Begin(source, new Actor(null, "Steady Lark", Via.System), now, zone.Zone, Routing.Roads);
        await Locks.Take(w, LockKey.FirstRun);
        if (await Business.Read(w.Db) is not null)
        {
            return;
        }

        var towns = TownTable.Read();
        if (!await PlaceStore.HasTowns(w.Db))
        {
            say("  towns and accounts");
            await TownTable.Fill(w.Db, towns);
            await LedgerStore.AddAccounts(w.Db);
        }

        if (empty)
        {
            await w.Commit();
            return;
        }

        await Business.Write(
            w.Db,
            new Business(
                "Tamarack Bend Freight",
                zone.Zone.Id,
                "410 Tamarack Bend Road, Missoula MT",
                "406-555-0100",
                "freight@tamarackbend.example",
                "0000100",
                w.Today
            )
        );
        await CompanySettingsStore.Write(
            w.Db,
            await CompanySettingsStore.Read(w.Db) with
            {
                PayrollTaxPercent = Past.Payroll.TaxPercent,
                MinimumWage = Past.Payroll.MinimumWage,
                EscrowPercent = 4.2m,
                Carriers = DemoData.Requirements,
                CarrierDetention = DemoData.Detention,
            }
        );
        await Business.WritePayment(
            w.Db,
            new PaymentDetails("PO Box 410, Missoula MT", "990000410", "Tamarack Bend Savings", "990001009", "41000410")
            {
                GstNumber = "990000410RT0001",
            }
        );
        var hash = Passwords.Hash(Password);
        var cast = new DemoCast();
        foreach (var (login, name, role) in Staff)
        {
            cast.Staff[login] = new Actor(
                await UserStore.Add(w.Db, login, name, role, hash, null, $"{login}@tamarackbend.example"),
                name,
                Via.Page
            );
        }

        var named = towns.ToDictionary(t => $"{t.Town.Name},{t.Town.Region}", t => t.Town);
        await People(w, cast, size, named, hash);
        var past = await Pasts(w, cast, size, say);
        await LegCosts.Missing(w);
        await Positions(w);
        if (!size.IsBulk)
        {
            await DemoCanada.Write(services, w, cast, named);
        }

        await DemoMails.Write(services, w, past, few: size.IsBulk);
        if (!size.IsBulk)
        {
            await DemoClaims.Write(services, w, past, cast);
            await DemoSplits.Write(w, cast);
            await DemoYard.Write(w, cast);
            await DemoShared.Write(services.GetRequiredService<CoverCommands>(), w, cast);
            await DemoPlaced.Write(services.GetRequiredService<CoverCommands>(), w, cast);
            await DemoRelay.Write(services.GetRequiredService<CoverCommands>(), w, cast);
            await DemoMoves.Write(services.GetRequiredService<MoveCommands>(), services.GetRequiredService<CoverCommands>(), w, cast);
            await DemoTeam.Write(w, cast);
            await DemoExpenses.Write(w, cast);
            await DemoStore.Equip(w.Db);
            await DemoPlan.Write(w);
        }

        await w.Commit();
        await Deliver(source, services.GetRequiredService<Mailbox>());
        say($"  demo: created in {watch.Elapsed.TotalSeconds:0} s");
    }

    /// <summary>Makes and writes the periods, oldest first: the next is made while one is written.</summary>
    /// <returns>The newest.</returns>
    private static async Task<Past> Pasts(CommandContext w, DemoCast cast, DemoSize size, Action<string> say)
    {
        var bulk = size.IsBulk ? await DemoStore.BeginBulk(w.Db) : null;
        Past Period(int ago, Past? before)
        {
            var life = new DemoLife(w.Now - Duration.FromDays(ago * size.Apart), w.Zone, cast, size, before, isLast: ago == 0);
            life.Live();
            return life.Past;
        }

        var past = Period(size.Periods - 1, null);
        for (var ago = size.Periods - 1; ; ago--)
        {
            var (written, before) = (past, ago);
            var next = ago > 0 ? Task.Run(() => Period(before - 1, written)) : Task.FromResult(written);
            var since = size.IsBulk ? w.Now - Duration.FromDays(1) : w.Now - Duration.FromDays(PastWriter.DocumentDays);
            await PastWriter.Write(w.Db, written, since, withTriggers: bulk is null, say);
            past = await next;
            if (ago == 0)
            {
                break;
            }
        }

        await (bulk is not null ? DemoStore.EndBulk(w.Db, bulk) : DemoStore.Find(w.Db));
        return past;
    }

    /// <summary>How to sign in, printed at startup: the demo's users, or the link to set up a company, which is new at each start until
    /// used.</summary>
    public static async Task<string> HowToSignIn(IServiceProvider services)
    {
        await using var db = await services.GetRequiredService<NpgsqlDataSource>().OpenConnectionAsync();
        var business = await Business.Read(db);
        if (business is null)
        {
            var token = await AccountLinkStore.Make(
                db,
                AccountLinkKind.FirstRun,
                null,
                services.GetRequiredService<IClock>().GetCurrentInstant(),
                SessionRules.FirstRunFor
            );
            return $"open this link to set up your company, within two days: {services.GetRequiredService<AccountCommands>().Url(token)}";
        }

        if (business.DemoFor is null)
        {
            return "sign in with your username and password";
        }

        var users = await UserStore.All(db);
        var summary = users
            .Where(u => u.DriverId is null)
            .Append(users.First(u => u.DriverId is not null))
            .Select(u => $"{u.Login} ({u.RoleName.ToLowerInvariant()})");
        return $"sign in as {string.Join(", ", summary)}, password {Password}";
    }

    /// <summary>Deletes a demo completely. Refuses when the database holds a real company.</summary>
    public static async Task Empty(LarkSettings settings)
    {
        await using var source = NpgsqlDataSource.Create(settings.Database);
        await using var db = await source.OpenConnectionAsync();
        if (!await DemoStore.Empty(db))
        {
            throw new InvalidOperationException("This database holds a real company, not the demo. Nothing was changed.");
        }

        new Mailbox(Path.Combine(settings.Data, "outside", "mail")).Empty();
    }

    /// <summary>Minutes ago at which a truck reported its position.</summary>
    private static readonly int[] TellsBefore = [95, 50, 7];

    /// <summary>Our trucks in transit have reported positions, as far along as the time since their departure allows.</summary>
    private static async Task Positions(CommandContext w)
    {
        foreach (
            var load in (await LoadReads.InStates(w.Db, [LoadState.Rolling], null, 500)).Where(l =>
                l.TripId is not null && l.Stops.All(s => s.CanBePlanned)
            )
        )
        {
            var stops = load.Planned();
            var next = stops.FindIndex(s => !s.Done);
            if (next < 1 || stops[next - 1].Left is not { } left || stops[next].Arrived is not null)
            {
                continue;
            }

            var (from, to) = (stops[next - 1].Point, stops[next].Point);
            var line = Routing.Line([from, to]);
            var whole = Routing.Roads.Between(from, to).DoorToDoor;
            var told = TellsBefore
                .Select(m => w.Now - Duration.FromMinutes(m))
                .Where(at => at > left)
                .Select(at => (At: at, Point: Whereabouts.Along(line, Whereabouts.Length(line) * Math.Min(0.97, (at - left) / whole))))
                .Select(p => new Position(p.At, Math.Round(p.Point.Latitude, 5), Math.Round(p.Point.Longitude, 5), 58))
                .ToList();
            if (told.Count > 0)
            {
                await PositionStore.Add(w, (await LoadReads.Legs(w.Db, load.Id))[^1].TruckId!.Value, told);
            }
        }
    }

    private static async Task People(CommandContext w, DemoCast cast, DemoSize size, Dictionary<string, TownRow> towns, string hash)
    {
        var began = w.Today.PlusDays(-size.AllDays - 7);
        var phone = 101;
        string Phone() => $"406-555-{phone++ % 100 + 100:0000}";
        static string? HoursOf(int number) =>
            (number % 5) switch
            {
                0 => "Mon to Fri 6 am to 3 pm",
                1 => "Mon to Sat 7 am to 5 pm",
                2 => "24 hours",
                _ => null,
            };
        async Task<long> Place(string name, TownRow town, int number)
        {
            // Somewhere in or near its town, no two at the same spot.
            var at = new GeoPoint(
                Math.Round(town.Latitude + (((number * 37 % 41) - 20) * 0.0012), 5),
                Math.Round(town.Longitude + (((number * 53 % 47) - 23) * 0.0016), 5)
            );
            var id = await PlaceStore.Add(
                w.Db,
                new PlaceRow(
                    0,
                    name,
                    $"{number} {(number % 3 == 0 ? "Depot Street" : number % 3 == 1 ? "Mill Road" : "Elevator Lane")}",
                    town.Name,
                    town.Region,
                    town.Country,
                    at.Latitude,
                    at.Longitude,
                    town.Zone,
                    null,
                    Hours: HoursOf(number),
                    ServiceMinutes: number % 4 == 0 ? 90 : null,
                    Appointments: number % 3 == 0 ? "call the day before"
                        : number % 3 == 1 ? "email with the PO number"
                        : null
                )
            );
            cast.TownOfPlace[id] = town;
            cast.Known[id] = new KnownPlace(
                id,
                name,
                town.Name,
                town.Region,
                at,
                town.Zone,
                number % 4 == 0 ? Duration.FromMinutes(90) : null
            );
            cast.ZoneOf[id] = WallClock.Zone(town.Zone)!;
            return id;
        }

        var n = 0;
        foreach (var c in DemoData.Customers)
        {
            var town = towns[c.Town];
            var id = await CompanyStore.Add(
                w.Db,
                new CompanyRow(
                    0,
                    c.Name,
                    Phone(),
                    DemoCast.MailOf(c.Name, "pay"),
                    $"{100 + (n * 7)} Mill Road",
                    town.Name,
                    town.Region,
                    true,
                    false,
                    c.TermsDays,
                    null,
                    1,
                    null
                )
            );
            cast.CustomerIndex[id] = cast.Customers.Count;
            cast.Customers.Add((c, id, await Place(c.Name, town, 100 + (n * 7))));
            n++;
        }

        await WriteBillingSettings(w, cast);
        foreach (var (name, townName) in DemoData.Receivers.Concat(DemoData.MoreReceivers))
        {
            var town = towns[townName];
            cast.Receivers.Add(await Place(name, town, 20 + (n++ * 3)));
        }

        foreach (var (name, townName) in DemoData.Vendors)
        {
            var town = towns[townName];
            cast.Vendors[name] = await CompanyStore.Add(
                w.Db,
                new CompanyRow(
                    0,
                    name,
                    Phone(),
                    DemoCast.MailOf(name, "billing"),
                    null,
                    town.Name,
                    town.Region,
                    false,
                    false,
                    30,
                    null,
                    1,
                    null,
                    IsVendor: true,
                    PayDays: 10
                )
            );
        }

        var i = 0;
        foreach (var (name, townName) in DemoData.Carriers)
        {
            var town = towns[townName];
            // A few are not eligible: one without authority, one whose insurance ends this week, one with too little of it, one that has
            // not signed our agreement, one marked do not use.
            var ends = i == 2 ? w.Today.PlusDays(2) : w.Today.PlusDays(40 + (i * 11 % 300));
            var row = new CompanyRow(
                0,
                name,
                Phone(),
                DemoCast.MailOf(name, "dispatch"),
                $"{300 + (i * 9)} Yard Road",
                town.Name,
                town.Region,
                false,
                true,
                30,
                null,
                1,
                new CarrierFile(
                    $"{9_000_100 + i}",
                    i != 7,
                    ends,
                    i == 11 ? w.Today.PlusDays(-3) : ends,
                    i == 19 ? "abandoned a load in September" : null,
                    Money.Usd(i == 13 ? 750_000m : 1_000_000m),
                    Money.Usd(i % 5 == 3 ? 250_000m : 100_000m),
                    i % 6 == 1 ? SafetyRating.Satisfactory
                        : i == 16 ? SafetyRating.Conditional
                        : SafetyRating.None,
                    i == 22 ? null : w.Today.PlusDays(-410 - (i * 37 % 700))
                ),
                PayDays: i % 4 == 0 ? 15 : 30
            );
            cast.Carriers.Add(
                new DemoCarrier(await CompanyStore.Add(w.Db, row), CompanyStore.Record(row), row.PayDays, town.Country == "CA")
            );
            i++;
        }

        long[] groups =
        [
            await OfficeStore.Add(w.Db, UnitKind.DriverGroup, "Regional"),
            await OfficeStore.Add(w.Db, UnitKind.DriverGroup, "Long haul"),
        ];
        for (var t = 0; t < 25; t++)
        {
            var unit = $"{101 + t}";
            var spare = t >= DemoData.Drivers.Length;
            var truck = await FleetStore.AddTruck(w.Db, unit, spare ? "2019 day cab" : DemoData.Makes[t % DemoData.Makes.Length]);
            if (t < DemoData.Drivers.Length)
            {
                var (name, home) = DemoData.Drivers[t];
                var words = name.Split(' ');
                var row = new DriverRow(
                    0,
                    name,
                    $"{words[0][0]}. {words[^1]}",
                    Phone(),
                    $"{words[0].ToLowerInvariant()}@tamarackbend.example",
                    home,
                    true,
                    groups[t % 2],
                    Worker: DemoDriver.WorkerOf(t)
                );
                var driver = await FleetStore.AddDriver(w.Db, row);
                var (agreement, recurring) = await Agree(w, driver, t, LocalDate.Min(w.Today.PlusYears(-3), began));
                cast.Drivers.Add(new DemoDriver(t, driver, name, truck, unit, towns[$"{home[..^3]},{home[^2..]}"], agreement, recurring));
                if (t < DemoDriver.OnPhone)
                {
                    await UserStore.Add(w.Db, words[0].ToLowerInvariant(), name, Role.Driver, hash, driver);
                }
            }
        }

        foreach (var (equipment, count, first) in DemoData.Trailers)
        {
            for (var k = 0; k < count; k++)
            {
                cast.Trailers.Add((await FleetStore.AddTrailer(w.Db, $"{first + k}", equipment), $"{first + k}", equipment));
            }
        }

        foreach (var driver in cast.Drivers)
        {
            var (id, unit, _) = cast.Trailers.First(t => t.Equipment == driver.Pulls && cast.Drivers.All(d => d.TrailerId != t.Id));
            (driver.TrailerId, driver.TrailerUnit) = (id, unit);
        }

        await LedgerStore.Post(w.At(began.AtStartOfDayInZone(w.Zone).ToInstant()), Postings.Opening(began, Money.Usd(960_000m)));
    }

    /// <summary>Some customers have their own billing settings.</summary>
    private static async Task WriteBillingSettings(CommandContext w, DemoCast cast)
    {
        for (var i = 0; i < cast.Customers.Count; i++)
        {
            if (i % 12 is 2 or 5 or 8 || i % 3 == 0)
            {
                await BillingSettingsStore.Write(w.Db, cast.Customers[i].Id, BillingSettingsOf(i), 0);
            }
        }
    }

    /// <summary>Billing settings of demo customers: one in twelve is billed weekly with columns, one with its POs and separate files, one
    /// requires the BOL and wants two copies; all of them, and a third of the others, have agreed to detention.</summary>
    internal static BillingSettings BillingSettingsOf(int index)
    {
        var settings = BillingSettings.Default with { Subject = null, Message = null, Detention = DemoData.CustomerDetention };
        var name = DemoData.Customers[index].Name;
        return (index % 12) switch
        {
            2 => settings with { ByLoad = true, Columns = ["reference", "origin", "destination", "delivered", "weight"], Together = true },
            5 => settings with { Columns = ["purchase_order", "delivered"], OneFile = false },
            8 => settings with
            {
                RequiredDocuments = [DocumentKind.Pod, DocumentKind.Bol],
                Recipients = $"{DemoCast.MailOf(name, "pay")}, {DemoCast.MailOf(name, "freight")}",
            },
            _ => settings,
        };
    }

    /// <summary>Drivers' pay rates: most by the mile plus per diem, one in six a percentage of the line haul; some have a recurring
    /// deduction. Owner-operators get more of the line haul, the fuel surcharge by the mile, and build up escrow.</summary>
    /// <param name="from">The first day they are in force.</param>
    private static async Task<(DriverAgreement Agreement, IReadOnlyList<RecurringDeduction> Recurring)> Agree(
        CommandContext w,
        long driver,
        int index,
        LocalDate from
    )
    {
        var leased = DemoDriver.WorkerOf(index) == WorkerKind.OwnerOperator;
        List<PayRate> rates =
            leased ? [new(PayKind.PercentOfLineHaul, 71m, from), new(PayKind.PerMile, 0.46m, from), new(PayKind.PerExtraStop, 50m, from)]
            : index % 6 == 4
                ? [new(PayKind.PercentOfLineHaul, 27m, from), new(PayKind.PerDay, 66m, from), new(PayKind.PerExtraStop, 40m, from)]
            :
            [
                new(PayKind.PerMile, 0.64m + (index % 5 * 0.015m), from),
                new(PayKind.PerDay, 66m, from),
                new(PayKind.PerExtraStop, 25m, from),
            ];
        foreach (var rate in rates)
        {
            await SettlementStore.SetRate(w.Db, driver, rate, null, w.Now);
        }

        List<RecurringDeduction> recurring =
            leased
                ?
                [
                    new(0, "occupational accident insurance", Money.Usd(36.25m), Accounts.Withheld.Code, from, null),
                    new(0, "escrow", Money.Usd(75m), Accounts.Escrow.Code, from, null, Money.Usd(2_500m)),
                ]
            : index % 3 == 1 ? [new(0, "health insurance", Money.Usd(38.50m), Accounts.Withheld.Code, from, null)]
            : [];
        foreach (var deduction in recurring)
        {
            await SettlementStore.AddRecurring(w.Db, driver, deduction);
        }

        return (new DriverAgreement(rates), await SettlementStore.Recurring(w.Db, driver));
    }

    /// <summary>The last days' emails are in the stand-in's mailbox as if they had been sent then.</summary>
    private static async Task Deliver(NpgsqlDataSource source, Mailbox mailbox)
    {
        mailbox.Empty();
        await using var db = await source.OpenConnectionAsync();
        foreach (var (id, eml) in await DemoStore.SentEmails(db, 40))
        {
            await mailbox.Deliver($"{id:D6}", eml);
        }
    }
}
