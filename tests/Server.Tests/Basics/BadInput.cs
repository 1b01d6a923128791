using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using Xunit;
using Xunit.Abstractions;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>
/// Every field of every command in the API's own description, with everything that does not belong there: it is refused
/// with a sentence, and where it can be, by its field; it is never our fault, and the books stay as they were.
/// </summary>
public partial class BadInput(TestBusiness business, ITestOutputHelper summary) : IClassFixture<TestBusiness>
{
    private static readonly string[] WrongKinds =
    [
        "true",
        "[]",
        "{}",
        "[[[[]]]]",
        "1e400",
        "-0.5",
        "\"\\u0000\"",
        "\"\\ud800\"",
        "\"x\"",
        "\"<script>alert(1)</script>\"",
    ];

    private static readonly string Long = new('x', 10_001);

    private Dictionary<string, JsonNode?> _good = [];

    /// <summary>A request that would be taken, per command: each field is then spoilt in turn. A command missing here fails the
    /// test.</summary>
    private async Task<Dictionary<string, JsonNode?>> Good(Caller owner)
    {
        var detention = new
        {
            charges = new[]
            {
                new
                {
                    kind = "detention",
                    description = "two hours",
                    amount = TestBusiness.Usd(120m),
                    authorization = new
                    {
                        by = "R. Dahl",
                        on = "2026-11-20",
                        reference = "email of November 20",
                    },
                },
            },
        };
        var dispatch = new
        {
            driver = "Ray Ostrander",
            phone = "509-555-0142",
            truck = "118",
            trailer = "5302",
        };
        JsonNode? Located() =>
            Node(
                new
                {
                    placeId = business.Ids["to"],
                    at = "2026-11-20T10:00:00Z",
                    note = "in the yard",
                }
            );

        JsonNode? Split(string at) =>
            JsonNode.Parse($$"""{"placeId":{{business.Ids["handover"]}},"at":"{{at}}","method":"drop","afterStops":1}""");
        JsonNode? Rates(string name) =>
            Node(
                new
                {
                    name,
                    discountPercent = 60,
                    minimum = 95.5,
                    surchargePercent = 20.25,
                    currency = "USD",
                    rates = new
                    {
                        breaks = new[] { 0, 500 },
                        rows = new[]
                        {
                            new
                            {
                                upToMiles = 500,
                                @class = 77.5,
                                perCwt = new[] { 40.25, 30.5 },
                            },
                        },
                    },
                    active = true,
                }
            );
        var rates = (await owner.Post("class-rates", Rates("Midwest"))).Id;
        var booked = (await owner.Post("loads", business.Order(9, "PO spoil"))).Id;
        var apart = (await owner.Post("loads", business.Order(11, "PO apart"))).Id;
        var transfer = (await owner.Post($"loads/{apart}/split", Split("2026-12-04T14:00:00"))).Ok["transferId"]!.GetValue<long>();
        var open = (await owner.Get($"loads/{booked}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        JsonNode? Plan()
        {
            var move = Node(business.Crew("lena"));
            (move!["legIds"], move["cabotageReason"]) = (new JsonArray(open), "none");
            return new JsonObject { ["moves"] = new JsonArray(move) };
        }

        var covered = (await owner.Post("loads", business.Order(8, "PO covered"))).Id;
        _ = (await owner.Post($"loads/{covered}/cover/driver", business.Crew("lena"))).Ok;
        var onTrip = (await owner.Get($"loads/{covered}")).Ok["sheet"]!["load"]!;
        var stop = onTrip["stops"]![0]!["id"]!.GetValue<long>();
        var ridden = (await owner.Get($"loads/{covered}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var (trip, order) = (
            onTrip["tripId"]!.GetValue<long>(),
            onTrip["stops"]!.AsArray().Select(s => s!["id"]!.GetValue<long>()).ToArray()
        );
        var soon = (await owner.Post("loads", business.Order(5, "PO expenses"))).Id;
        _ = (await owner.Post($"loads/{soon}/cover/driver", business.Crew("moses"))).Ok;
        var spending = (await owner.Get($"loads/{soon}")).Ok["sheet"]!["load"]!["tripId"]!.GetValue<long>();
        JsonNode? Expense(string paidBy)
        {
            var expense = Node(
                new
                {
                    kind = "fuel",
                    on = "2026-11-23",
                    amount = TestBusiness.Usd(389.40m),
                    paidBy,
                    place = "Gorge Fuel",
                    region = "OR",
                    quantity = 102.5,
                    unit = "gallons",
                    price = 3.799,
                    driverId = business.Ids["moses"],
                    reference = "88-1",
                    loadId = soon,
                    chargeBack = false,
                    account = "5200",
                    note = "two tanks",
                }
            );
            if (paidBy == "on_account")
            {
                expense!["vendorId"] = business.Ids["fuel vendor"];
            }

            return expense;
        }

        business.Ids["fuel vendor"] = (await owner.Post("companies", new { name = "Two Forks Fuel", isVendor = true })).Id;
        var expense = (await owner.Post($"trips/{spending}/expenses", Expense("company_card"))).Id;
        var hauled = await business.Delivered(owner, 1, "carrier");
        var leg = (await owner.Get($"loads/{hauled}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var other = await business.Delivered(owner, 2, "carrier");
        var otherLeg = (await owner.Get($"loads/{other}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>();
        var bill = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = otherLeg,
                    number = "B-1",
                    amount = TestBusiness.Usd(700m),
                }
            )
        ).Id;
        var third = await business.Delivered(owner, 3, "carrier");
        var payable = (
            await owner.Pay(
                "bills",
                new
                {
                    legId = (await owner.Get($"loads/{third}")).Ok["sheet"]!["legs"]![0]!["id"]!.GetValue<long>(),
                    number = "B-3",
                    amount = TestBusiness.Usd(700m),
                }
            )
        ).Id;
        _ = (await owner.Pay($"bills/{payable}/approve", new { })).Ok;
        var shop = (await owner.Post("companies", new { name = "Nine Mile Towing", isVendor = true })).Id;
        var remit = (await owner.Post($"companies/{shop}/remit-to", new { address = "PO Box 12, Helena MT" })).Ok[0]![
            "id"
        ]!.GetValue<long>();
        var settled = await business.Delivered(owner, -9, "moses");
        _ = settled;
        var week = (await owner.Pay("settlements/approve", new { driverId = business.Ids["moses"], monday = "2026-11-09" })).Id;
        var invoice = (await owner.Pay("invoices", new { loadIds = new[] { other } })).Id;
        var asset = (
            await owner.Pay(
                "assets",
                new
                {
                    name = "Truck 119",
                    inService = "2026-11-02",
                    cost = TestBusiness.Usd(1000m),
                    months = 60,
                    loan = new
                    {
                        lender = "Clark Fork Bank",
                        principal = TestBusiness.Usd(500m),
                        percent = 8m,
                        months = 60,
                        firstOn = "2026-12-01",
                    },
                }
            )
        ).Ok;
        var claim = (await owner.Post($"loads/{other}/claims", new { kind = "damage", description = "one pallet crushed" })).Id;
        var field = (
            await owner.Post(
                "custom-fields",
                new
                {
                    name = "Cost center",
                    kind = "text",
                    required = false,
                }
            )
        ).Id;
        var company = JsonNode.Parse(
            """{"name":"Sixmile Carriers","email":"a@sixmile.example","phone":"406-555-0144","address":"1 Mill Road","town":"Butte","region":"MT","isCustomer":true,"isCarrier":true,"termsDays":30,"note":"ring","carrier":{"usdot":"9000555","authorityActive":true,"liabilityUntil":"2027-05-01","cargoUntil":"2027-05-01"},"isVendor":true,"payDays":30}"""
        );
        var vendor = (
            await owner.Post(
                "companies",
                new
                {
                    name = "Lolo Tire and Axle",
                    isCustomer = false,
                    isCarrier = false,
                    isVendor = true,
                }
            )
        ).Id;
        _ = (
            await owner.Pay(
                "pay-items",
                new
                {
                    driverId = business.Ids["lena"],
                    kind = "reimbursement",
                    on = "2026-11-20",
                    what = "scale",
                    amount = TestBusiness.Usd(15m),
                }
            )
        ).Ok;
        var entry = (
            await owner.Pay(
                "ledger/entries",
                new
                {
                    memo = "x",
                    lines = new object[]
                    {
                        new { account = "5400", debit = TestBusiness.Usd(5m) },
                        new { account = "3000", credit = TestBusiness.Usd(5m) },
                    },
                }
            )
        ).Id;
        var credit = (
            await owner.Pay(
                "payments",
                new
                {
                    customerId = business.Ids["customer"],
                    method = "check",
                    amount = TestBusiness.Usd(3m),
                    applications = Array.Empty<object>(),
                }
            )
        ).Id;
        string device;
        device = (await owner.Post($"trucks/{business.Ids["lena truck"]}/devices", new { label = "tracker" })).Ok["address"]!
            .GetValue<string>()
            .Split('/')[^2];

        var bookedStop = (await owner.Get($"loads/{booked}")).Ok["sheet"]!["load"]!["stops"]![1]!["id"]!.GetValue<long>();
        var run = await TestBusiness.Run(owner);
        var office = (await owner.Post("offices", new { name = "Butte" })).Id;
        var group = (await owner.Post("driver-groups", new { name = "Local" })).Id;
        using var sheet = new SteadyLark.Server.Documents.PdfPage("x", "x");
        var loose = (await owner.Upload("documents/tray?name=scan.pdf", sheet.Save())).Id;
        var good = new Dictionary<string, JsonNode?>
        {
            ["POST /api/session"] = JsonNode.Parse("""{"login":"nobody","password":"x"}"""),
            ["POST /api/session/confirm"] = JsonNode.Parse("""{"password":"x","code":"123456"}"""),
            ["POST /api/password-reset"] = JsonNode.Parse("""{"name":"nobody"}"""),
            ["POST /api/account/password"] = JsonNode.Parse("""{"current":"x","password":"x"}"""),
            ["POST /api/account/second-factor/confirm"] = JsonNode.Parse("""{"code":"123456"}"""),
            [$"POST /api/account-links/{new string('0', 48)}/password"] = JsonNode.Parse("""{"password":"nine gravel cottonwood"}"""),
            [$"POST /api/account-links/{new string('0', 48)}/company"] = JsonNode.Parse(
                """{"company":"Sixmile Freight","address":"1 Mill Road","phone":"406-555-0101","email":"a@sixmile.example","usdot":"1234567","mcNumber":"123456","zone":"America/Denver","logo":"","name":"Pat Lund","login":"pat","ownerEmail":"pat@sixmile.example","password":"nine gravel cottonwood"}"""
            ),
            ["POST /api/users"] = Node(
                new
                {
                    login = "pat.lund",
                    name = "Pat Lund",
                    email = "pat@sixmile.example",
                    roleId = 2,
                    driverId = (long?)null,
                }
            ),
            ["PUT /api/users/6"] = JsonNode.Parse(
                """{"name":"The read only","email":"read@sixmile.example","roleId":6,"officeId":1,"limits":{"customers":[1],"offices":[1],"driverGroups":[1],"daysAhead":7}}"""
            ),
            ["POST /api/offices"] = JsonNode.Parse("""{"name":"Great Falls","active":true}"""),
            ["POST /api/driver-groups"] = JsonNode.Parse("""{"name":"Regional","active":true}"""),
            [$"PUT /api/offices/{office}"] = JsonNode.Parse("""{"name":"Fargo","active":false}"""),
            [$"PUT /api/driver-groups/{group}"] = JsonNode.Parse("""{"name":"Long haul","active":false}"""),
            ["POST /api/roles"] = JsonNode.Parse("""{"name":"Night desk","rights":["loads.see","loads.roll"]}"""),
            ["PUT /api/roles/3"] = JsonNode.Parse("""{"name":"Dispatcher","rights":["loads.see","loads.roll"]}"""),
            ["POST /api/tokens"] = JsonNode.Parse("""{"name":"Board","rights":["loads.see"],"days":30}"""),
            ["PUT /api/company"] = JsonNode.Parse(
                """{"name":"Tamarack Bend Freight","address":"410 Tamarack Bend Road","phone":"406-555-0100","email":"freight@tamarackbend.example","usdot":"0000100","mcNumber":"123456","zone":"America/Denver","logo":""}"""
            ),
            ["POST /api/companies"] = company,
            [$"PUT /api/companies/{business.Ids["customer"]}"] = company!.DeepClone(),
            ["POST /api/places"] = JsonNode.Parse("""{"name":"A dock","address":"1 Mill Road","townId":1,"note":"ring"}"""),
            [$"PUT /api/places/{business.Ids["from"]}"] = JsonNode.Parse(
                """{"name":"Snowberry dock","address":"1 Mill Road","townId":1,"note":"ring","geofenceMiles":0.4,"docks":"4","hours":"6 to 15","serviceMinutes":45,"appointments":"by phone","bookingNote":"none"}"""
            ),
            ["POST /api/loads/price"] = JsonNode.Parse(
                """{"charges":[{"kind":"line_haul","description":null,"amount":null,"basis":"per_mile","rate":2.5}],"miles":344,"freight":[{"description":"butter","pallets":20,"weightLb":38400,"lengthIn":48,"widthIn":40,"heightIn":60}],"minimum":{"amount":"650.00","currency":"USD"}}"""
            ),
            ["POST /api/miles"] = Node(
                new
                {
                    stops = new object[]
                    {
                        new { placeId = business.Ids["from"] },
                        new
                        {
                            placeId = business.Ids["to"],
                            routeOverride = new
                            {
                                miles = 300,
                                milesWhy = "as the customer counts",
                                via = new[]
                                {
                                    new
                                    {
                                        name = "Butte MT",
                                        latitude = 46.0,
                                        longitude = -112.53,
                                    },
                                },
                            },
                        },
                    },
                    emptyMiles = 20,
                }
            ),
            [$"POST /api/loads/{booked}/stops/{bookedStop}/route"] = JsonNode.Parse(
                """{"miles":410,"milesWhy":"closed pass","via":[{"name":"Butte MT","latitude":46.0,"longitude":-112.53}]}"""
            ),
            [$"POST /api/loads/{covered}/costs"] = Node(
                new
                {
                    kind = "lodging",
                    expected = TestBusiness.Usd(90m),
                    note = "one night",
                }
            ),
            ["POST /api/addresses/text"] = JsonNode.Parse("""{"text":"Snowberry; Butte MT; 20 min; 8-12"}"""),
            ["POST /api/runs"] = JsonNode.Parse(
                """{"name":"Two stops","start":{"label":"Butte MT","latitude":46.0,"longitude":-112.53},"roundTrip":true,"from":420,"shift":600,"share":"any","drivers":1,"objective":"miles","capacity":10,"stops":[{"name":"A","at":{"label":"Helena MT","latitude":46.6,"longitude":-112.03},"service":10,"opens":480,"closes":720,"demand":1,"done":false,"locked":false},{"name":"B","at":{"label":"Missoula MT","latitude":46.87,"longitude":-113.99},"service":10,"demand":1,"done":false,"locked":false}]}"""
            ),
            [$"POST /api/runs/{run}/replan"] = JsonNode.Parse("""{"from":480,"share":"fewest","drivers":2}"""),
            [$"POST /api/runs/{run}/move"] = JsonNode.Parse("""{"stop":0,"driver":0,"place":1,"try":true}"""),
            [$"POST /api/runs/{run}/insert"] = JsonNode.Parse(
                """{"stop":{"name":"C","at":{"label":"Bozeman MT","latitude":45.68,"longitude":-111.04},"service":5,"demand":0,"done":false,"locked":false},"try":true}"""
            ),
            [$"POST /api/runs/{run}/mark"] = JsonNode.Parse("""{"stop":0,"done":true,"locked":true}"""),
            ["POST /api/fit"] = JsonNode.Parse(
                """{"kind":"tank","compartments":[2000,1500],"orders":[{"id":"A","product":"oil","gallons":900,"stop":1,"exclusive":false}],"apart":[["soap","oil"]]}"""
            ),
            ["POST /api/hours"] = JsonNode.Parse(
                """{"rules":"us-70-8","zone":"America/Denver","now":"2026-11-24T16:00:00Z","log":[{"from":"2026-11-24T12:00:00Z","until":"2026-11-24T15:00:00Z","duty":"driving"}],"team":true,"codriver":[],"visits":[{"miles":300,"minutes":300,"from":"2026-11-24T20:00:00Z","until":"2026-11-25T06:00:00Z","service":60,"country":"US","name":"Butte"}],"start":"2026-11-24T17:00:00Z","split":false,"inspection":15}"""
            ),
            ["POST /api/route"] = JsonNode.Parse(
                """{"from":"Butte MT","to":"59701","via":["Missoula MT"],"avoidTolls":false,"shortest":false,"stayIn":"US"}"""
            ),
            ["POST /api/drivers"] = JsonNode.Parse(
                """{"name":"Nils Ostrander","shortName":"N. Ostrander","phone":"406-555-0177","email":"nils@sixmile.example","homeTownId":1,"active":true}"""
            ),
            [$"PUT /api/drivers/{business.Ids["lena"]}"] = JsonNode.Parse(
                """{"name":"Lena Haugen","shortName":"L. Haugen","phone":"406-555-0178","email":"lena@sixmile.example","homeTownId":1,"active":true}"""
            ),
            ["PUT /api/preferences"] = JsonNode.Parse("""{"clock":"twelve_hour","dateOrder":"day_first"}"""),
            [$"POST /api/trucks/{business.Ids["lena truck"]}/devices"] = JsonNode.Parse("""{"label":"tracker"}"""),
            ["POST /api/trucks"] = JsonNode.Parse("""{"unit":"901","make":"a cabover","active":true}"""),
            [$"PUT /api/trucks/{business.Ids["lena truck"]}"] = JsonNode.Parse("""{"unit":"902","make":"a cabover","active":true}"""),
            ["POST /api/trailers"] = JsonNode.Parse("""{"unit":"903","equipment":"van","active":true}"""),
            [$"PUT /api/trailers/{business.Ids["lena trailer"]}"] = JsonNode.Parse("""{"unit":"904","equipment":"reefer","active":true}"""),
            ["POST /api/loads"] = Node(business.Order(9)),
            [$"PUT /api/loads/{booked}"] = Node(business.Order(9)),
            [$"POST /api/loads/{booked}/cancel"] = JsonNode.Parse("""{"why":"canceled"}"""),
            [$"POST /api/loads/{booked}/cover/driver"] = Node(business.Crew("moses")),
            [$"POST /api/loads/{booked}/cover/carrier"] = Node(TestBusiness.Accepted(business.Ids["carrier"], TestBusiness.Usd(800m))),
            [$"POST /api/accept/{new string('0', 48)}"] = JsonNode.Parse("""{"name":"Jo"}"""),
            [$"POST /api/accept/{new string('0', 48)}/decline"] = JsonNode.Parse("""{"name":"Jo","reason":"no truck"}"""),
            [$"POST /api/accept/{new string('0', 48)}/dispatch"] = Node(dispatch),
            [$"POST /api/loads/{booked}/tender/accept"] = JsonNode.Parse("""{"name":"Jo"}"""),
            [$"POST /api/loads/{booked}/tender/decline"] = JsonNode.Parse("""{"name":"Jo","reason":"no truck"}"""),
            [$"PUT /api/loads/{booked}/dispatch"] = Node(dispatch),
            [$"PUT /api/loads/{booked}/carrier-pay"] = Node(
                new
                {
                    charges = new[]
                    {
                        new
                        {
                            kind = "line_haul",
                            description = "all of it",
                            amount = TestBusiness.Usd(900m),
                            authorization = new
                            {
                                by = "R. Dahl",
                                on = "2026-11-20",
                                reference = "a call",
                            },
                        },
                    },
                }
            ),
            [$"POST /api/loads/{covered}/stops/{stop}"] = JsonNode.Parse(
                """{"event":"arrived","at":"2026-11-20T10:00:00Z","receivedBy":"R. Dahl"}"""
            ),
            ["POST /api/invoices"] = Node(
                new
                {
                    loadIds = new[] { hauled },
                    termsDays = 30,
                    mailTo = "pay@snowberry.example",
                }
            ),
            ["POST /api/payments"] = Node(
                new
                {
                    customerId = business.Ids["customer"],
                    receivedOn = "2026-11-20",
                    method = "check",
                    reference = "1",
                    amount = TestBusiness.Usd(1m),
                    applications = new[] { new { invoiceId = invoice, amount = TestBusiness.Usd(1m) } },
                }
            ),
            ["POST /api/bills"] = Node(
                new
                {
                    vendorId = vendor,
                    number = "77",
                    billedOn = "2026-11-20",
                    dueOn = "2026-12-20",
                    amount = TestBusiness.Usd(700m),
                    lines = new[]
                    {
                        new
                        {
                            account = "5400",
                            description = "tires",
                            amount = TestBusiness.Usd(700m),
                            loadId = hauled,
                            truckId = business.Ids["lena truck"],
                            driverId = business.Ids["lena"],
                        },
                    },
                    spent = new
                    {
                        paidOn = "2026-11-20",
                        method = "card",
                        reference = "1",
                    },
                    note = "two axles",
                }
            ),
            ["POST /api/pay-items"] = Node(
                new
                {
                    driverId = business.Ids["lena"],
                    kind = "reimbursement",
                    on = "2026-11-20",
                    what = "scale",
                    amount = TestBusiness.Usd(15m),
                    account = "5300",
                    loadId = hauled,
                }
            ),
            [$"POST /api/drivers/{business.Ids["lena"]}/rates"] = Node(
                new
                {
                    kind = "per_hour",
                    rate = 22.5,
                    from = "2026-11-20",
                }
            ),
            [$"POST /api/drivers/{business.Ids["lena"]}/deductions"] = Node(
                new
                {
                    name = "insurance",
                    amount = TestBusiness.Usd(38m),
                    account = "2200",
                    from = "2026-11-20",
                    until = "2027-11-20",
                }
            ),
            [$"POST /api/devices/{device}/positions"] = JsonNode.Parse(
                """{"positions":[{"at":"2026-11-23T10:00:00Z","latitude":46.8,"longitude":-113.9,"milesPerHour":52}]}"""
            ),
            ["PUT /api/outside/stand-ins/trucks"] = JsonNode.Parse("""{"works":false,"speed":60}"""),
            ["PUT /api/company-settings"] = JsonNode.Parse(
                """{"twoPeople":false,"requestAfterHours":24,"geofenceMiles":0.5,"minimumPerMile":1.9,"rateStep":25,"milesPerGallon":6.5,"fuelPrice":3.85,"driverPerMile":0.6,"fixedPerMile":0.28,"fixedPerDay":210,"tollPerMile":0.45}"""
            ),
            ["POST /api/accounts"] = JsonNode.Parse("""{"code":"5210","name":"Diesel","kind":"expense","parent":"5200"}"""),
            ["PUT /api/equipment-matches"] = JsonNode.Parse("""{"matches":[{"trailer":"reefer","load":"van"}]}"""),
            ["PUT /api/accounts/5300"] = JsonNode.Parse("""{"name":"Tolls","inactive":false}"""),
            ["POST /api/ledger/opening"] = Node(
                new
                {
                    on = "2026-10-31",
                    lines = new object[] { new { account = "1500", debit = TestBusiness.Usd(5m) } },
                    items = new object[]
                    {
                        new
                        {
                            kind = "invoice",
                            partyId = business.Ids["customer"],
                            number = "OLD-9",
                            on = "2026-10-01",
                            dueOn = "2026-10-31",
                            amount = TestBusiness.Usd(5m),
                        },
                    },
                }
            ),
            ["POST /api/ledger/entries"] = Node(
                new
                {
                    postedOn = "2026-11-20",
                    memo = "x",
                    lines = new object[]
                    {
                        new
                        {
                            account = "5400",
                            debit = TestBusiness.Usd(5m),
                            loadId = hauled,
                            customerId = business.Ids["customer"],
                            driverId = business.Ids["lena"],
                            truckId = business.Ids["lena truck"],
                        },
                        new { account = "3000", credit = TestBusiness.Usd(5m) },
                    },
                }
            ),
            [$"POST /api/ledger/entries/{entry}/reverse"] = JsonNode.Parse("""{"on":"2026-11-23","why":"wrong"}"""),
            ["POST /api/ledger/exchange-rates"] = JsonNode.Parse("""{"currency":"CAD","on":"2026-11-20","usd":0.72}"""),
            ["POST /api/ledger/periods/close"] = JsonNode.Parse("""{"month":"2026-09-01"}"""),
            ["POST /api/ledger/periods/reopen"] = JsonNode.Parse("""{"month":"2026-09-01","why":"late bill"}"""),
            ["POST /api/invoices/prepare"] = Node(
                new
                {
                    loadIds = new[] { hauled },
                    termsDays = 30,
                    mailTo = "pay@snowberry.example",
                    subject = "x",
                    message = "y",
                    documents = new[] { "pod" },
                }
            ),
            ["POST /api/invoices/preview"] = Node(
                new
                {
                    loadIds = new[] { hauled },
                    termsDays = 30,
                    mailTo = "pay@snowberry.example",
                    subject = "x",
                    message = "y",
                    documents = new[] { "pod" },
                }
            ),
            [$"POST /api/invoices/{invoice}/send"] = JsonNode.Parse("""{"to":"pay@snowberry.example","message":"once more"}"""),
            ["POST /api/billing-runs"] = Node(new { loadIds = new[] { hauled }, together = false }),
            [$"PUT /api/companies/{business.Ids["customer"]}/billing-settings"] = JsonNode.Parse(
                """{"byLoad":true,"columns":["reference"],"documents":["pod"],"oneFile":true,"together":true,"recipients":"a@b.example","subject":"{invoice}","message":"{total}","requiredDocuments":["pod"],"version":0}"""
            ),
            [$"POST /api/companies/{business.Ids["customer"]}/statement"] = JsonNode.Parse("""{"to":"a@b.example","message":"here"}"""),
            [$"POST /api/invoices/{invoice}/write-off"] = Node(
                new
                {
                    amount = TestBusiness.Usd(1m),
                    kind = "claim",
                    reason = "two cases short",
                }
            ),
            [$"POST /api/invoices/{invoice}/credit-memos"] = Node(
                new
                {
                    amount = TestBusiness.Usd(1m),
                    reason = "billing_error",
                    why = "wrong miles",
                    issuedOn = "2026-11-20",
                    charge = "line_haul",
                    send = false,
                }
            ),
            [$"POST /api/loads/{other}/late-charges"] = Node(detention),
            [$"POST /api/loads/{covered}/charges"] = Node(detention),
            [$"POST /api/loads/{other}/claims"] = Node(new { kind = "damage", description = "two pallets crushed" }),
            [$"POST /api/claims/{claim}/file"] = Node(new { filedOn = "2026-11-20", amount = TestBusiness.Usd(300m) }),
            [$"POST /api/claims/{claim}/decide"] = Node(
                new
                {
                    outcome = "withdrawn",
                    amount = TestBusiness.Usd(100m),
                    why = "found",
                }
            ),
            [$"POST /api/claims/{claim}/carrier"] = Node(new { filedOn = "2026-11-20", amount = TestBusiness.Usd(300m) }),
            [$"POST /api/claims/{claim}/release"] = Node(new { why = "the carrier is not liable" }),
            [$"POST /api/claims/{claim}/recoveries"] = Node(
                new
                {
                    amount = TestBusiness.Usd(1m),
                    paidOn = "2026-11-20",
                    method = "check",
                    reference = "88",
                }
            ),
            [$"POST /api/bills/{payable}/debit-memos"] = Node(
                new
                {
                    amount = TestBusiness.Usd(1m),
                    why = "missed pickup",
                    claimId = (long?)null,
                }
            ),
            ["POST /api/assets"] = Node(
                new
                {
                    name = "Truck 118",
                    truckId = business.Ids["moses truck"],
                    inService = "2026-11-02",
                    cost = TestBusiness.Usd(1000m),
                    salvage = TestBusiness.Usd(100m),
                    months = 60,
                    loan = new
                    {
                        lender = "Clark Fork Bank",
                        principal = TestBusiness.Usd(500m),
                        percent = 8.5m,
                        months = 60,
                        firstOn = "2026-12-01",
                    },
                }
            ),
            [$"POST /api/assets/{asset["id"]}/sell"] = Node(new { soldOn = "2026-11-20", proceeds = TestBusiness.Usd(10m) }),
            [$"POST /api/loans/{asset["loan"]!["id"]}/payments"] = Node(
                new
                {
                    paidOn = "2026-11-20",
                    method = "ach",
                    reference = "1",
                }
            ),
            [$"POST /api/payments/{credit}/refund"] = Node(
                new
                {
                    amount = TestBusiness.Usd(1m),
                    paidOn = "2026-11-20",
                    method = "check",
                    reference = "4011",
                    reason = "paid twice",
                }
            ),
            [$"POST /api/payments/{credit}/use-credit"] = Node(
                new
                {
                    applications = new[]
                    {
                        new
                        {
                            invoiceId = invoice,
                            amount = TestBusiness.Usd(1m),
                            writeOff = TestBusiness.Usd(1m),
                            reason = "short",
                            kind = "claim",
                        },
                    },
                }
            ),
            [$"POST /api/loads/{hauled}/return-to-dispatch"] = JsonNode.Parse("""{"why":"wrong rate"}"""),
            [$"POST /api/loads/{hauled}/resolve-return"] = JsonNode.Parse("""{"why":"mended"}"""),
            [$"POST /api/documents/{loose}/assign"] = Node(new { loadId = hauled, kind = "bol" }),
            [$"POST /api/bills/{bill}/charge-back"] = Node(
                new
                {
                    line = 1,
                    driverId = business.Ids["lena"],
                    amount = TestBusiness.Usd(1m),
                }
            ),
            [$"POST /api/bills/{bill}/approve"] = Node(new { amount = TestBusiness.Usd(700m), reason = "as agreed" }),
            ["POST /api/vendor-payments"] = Node(
                new
                {
                    bills = new[] { new { billId = payable, amount = TestBusiness.Usd(100m) } },
                    paidOn = "2026-11-23",
                    method = "ach",
                    reference = "1",
                }
            ),
            [$"POST /api/companies/{shop}/remit-to"] = Node(
                new
                {
                    factor = "Larkspur Receivables",
                    address = "PO Box 12, Helena MT",
                    routing = "990001000",
                    account = "4417001",
                    type = "checking",
                    notice = "letter of November 2",
                }
            ),
            [$"POST /api/remit-tos/{remit}/confirm"] = Node(new { callBack = "Lena at 406-555-0144" }),
            ["PUT /api/company/payment-details"] = Node(
                new
                {
                    remitAddress = "PO Box 8, Missoula MT",
                    taxId = "99-0000001",
                    bankName = "Tamarack Bend Savings",
                    routing = "990001000",
                    account = "100200300",
                }
            ),
            ["POST /api/settlements/approve"] = Node(new { driverId = business.Ids["lena"], monday = "2026-11-09" }),
            [$"POST /api/settlements/{week}/pay"] = Node(
                new
                {
                    paidOn = "2026-11-23",
                    method = "ach",
                    reference = "1",
                }
            ),
            ["POST /api/advances"] = Node(
                new
                {
                    driverId = business.Ids["moses"],
                    issuedOn = "2026-11-20",
                    amount = TestBusiness.Usd(1m),
                    note = "fuel",
                }
            ),
            ["POST /api/custom-fields"] = JsonNode.Parse(
                """{"name":"Season","kind":"choice","choices":["Spring","Fall"],"required":false}"""
            ),
            [$"PUT /api/custom-fields/{field}"] = JsonNode.Parse("""{"name":"Cost center","kind":"text","required":false}"""),
            [$"POST /api/loads/{booked}/override-hold"] = JsonNode.Parse("""{"kind":"credit","why":"they pay on Friday"}"""),
            ["POST /api/outside/emails"] = JsonNode.Parse(
                """{"from":"a@b.example","subject":"hello","text":"words","file":{"name":"x.pdf","base64":"AAAA"}}"""
            ),
            [$"POST /api/loads/{covered}/stops"] = Node(
                new
                {
                    kind = "delivery",
                    placeId = business.Ids["to"],
                    from = "2026-12-03T12:00:00",
                    note = "ring",
                }
            ),
            [$"POST /api/loads/{covered}/reports"] = JsonNode.Parse(
                """{"kind":"delay","note":"snow","expectedAt":"2026-12-03T10:00:00Z"}"""
            ),
            [$"POST /api/loads/{covered}/handover"] = Node(
                new
                {
                    placeId = business.Ids["to"],
                    driverId = business.Ids["moses"],
                    truckId = business.Ids["moses truck"],
                    trailerId = business.Ids["lena trailer"],
                    at = "2026-11-23T10:00:00Z",
                }
            ),
            [$"POST /api/loads/{booked}/cover/trip"] = Node(new { tripId = trip, cabotageReason = "none" }),
            [$"POST /api/trips/{trip}/preview"] = Node(new { order }),
            [$"PUT /api/trips/{trip}/order"] = Node(new { order, was = order }),
            [$"PUT /api/trips/{trip}/legs/{ridden}/trailer"] = Node(new { trailerId = business.Ids["lena trailer"] }),
            [$"PUT /api/trips/{trip}/name"] = Node(new { name = "Friday round", number = "F-12" }),
            [$"PUT /api/trips/{trip}/codriver"] = Node(
                new
                {
                    driverId = business.Ids["lena"],
                    share = 40,
                    cabotageReason = "none",
                }
            ),
            [$"POST /api/trips/{trip}/stops"] = Node(
                new
                {
                    kind = "fuel",
                    placeId = business.Ids["to"],
                    minutes = 30,
                    note = "card 4",
                    allowLate = true,
                }
            ),
            [$"POST /api/trips/{spending}/expenses"] = Expense("on_account"),
            [$"POST /api/mine/trips/{spending}/expenses"] = Expense("driver"),
            [$"POST /api/expenses/{expense}/decline"] = Node(new { reason = "no receipt" }),
            [$"POST /api/trips/{trip}/messages"] = Node(new { text = "Use dock 4." }),
            [$"POST /api/mine/trips/{trip}/messages"] = Node(new { text = "On my way." }),
            [$"PUT /api/trips/{trip}/closing"] = Node(new { closed = false, archived = false }),
            [$"POST /api/trips/{trip}/copy"] = Node(
                new
                {
                    on = "2026-12-16",
                    assign = true,
                    driverId = business.Ids["moses"],
                    truckId = business.Ids["moses truck"],
                    trailerId = business.Ids["moses trailer"],
                    cabotageReason = "none",
                }
            ),
            [$"POST /api/trips/{trip}/stops/{stop}"] = Node(new { left = true, at = "2026-11-20T10:00:00Z" }),
            [$"POST /api/mine/trips/{trip}/stops/{stop}"] = Node(new { left = true, at = "2026-11-20T10:00:00Z" }),
            [$"POST /api/trucks/{business.Ids["moses truck"]}/location"] = Located(),
            [$"POST /api/trailers/{business.Ids["lena trailer"]}/location"] = Located(),
            ["PUT /api/products"] = Node(
                new
                {
                    products = new[]
                    {
                        new
                        {
                            productId = (long?)null,
                            name = "corn syrup",
                            lbPerGallon = 11.5,
                            temperatureF = 130,
                            ownCompartments = true,
                            apart = new[] { "soap" },
                            notAfter = new[] { "soap" },
                        },
                        new
                        {
                            productId = (long?)null,
                            name = "soap",
                            lbPerGallon = 8.5,
                            temperatureF = 60,
                            ownCompartments = false,
                            apart = Array.Empty<string>(),
                            notAfter = Array.Empty<string>(),
                        },
                    },
                }
            ),
            ["POST /api/class-rates"] = Rates("Overnight"),
            [$"PUT /api/class-rates/{rates}"] = Rates("Midwest"),
            ["PUT /api/body-styles"] = Node(
                new
                {
                    styles = new[]
                    {
                        new
                        {
                            name = "wagon",
                            lengthIn = 190,
                            widthIn = 72,
                            heightIn = 60,
                            weightLb = 3_700,
                        },
                    },
                }
            ),
            [$"PUT /api/loads/{apart}/cod"] = Node(new { collected = business.Dollars(850m), method = "cash" }),
            [$"PUT /api/mine/loads/{apart}/cod"] = Node(new { collected = business.Dollars(850m), method = "cash" }),
            ["PUT /api/trailer-features"] = Node(new { features = new[] { new { was = (string?)null, name = "liftgate" } } }),
            [$"PUT /api/loads/{apart}/shares"] = Node(new { shares = new[] { 60.5, 39.5 } }),
            ["POST /api/moves"] = Node(
                new
                {
                    trailerId = business.Ids["van"],
                    what = "empty pallets",
                    equipment = "van",
                    fromPlaceId = business.Ids["from"],
                    fromTownId = 1,
                    toPlaceId = business.Ids["to"],
                    toTownId = 1,
                    from = "2026-11-26T15:00:00Z",
                    by = "2026-11-28T15:00:00Z",
                    driverId = business.Ids["lena"],
                    truckId = business.Ids["lena truck"],
                    instructions = "Ring the bell",
                }
            ),
            ["POST /api/plan/preview"] = Plan(),
            ["POST /api/plan/moves"] = Plan(),
            [$"POST /api/drivers/{business.Ids["moses"]}/time-off"] = Node(
                new
                {
                    from = "2027-01-04T00:00:00Z",
                    until = "2027-01-05T00:00:00Z",
                    note = "off",
                }
            ),
            [$"PUT /api/drivers/{business.Ids["moses"]}/home-by"] = Node(new { at = "2027-01-04T00:00:00Z" }),
            [$"POST /api/loads/{booked}/divide"] = Node(
                new
                {
                    parts = new[]
                    {
                        new { stops = new[] { 1, 2 }, amounts = new[] { 9m } },
                        new { stops = new[] { 1, 2 }, amounts = new[] { 11m } },
                    },
                }
            ),
            ["POST /api/loads/combine"] = Node(new { loadIds = new[] { booked, apart } }),
            [$"POST /api/loads/{booked}/split"] = Split("2026-12-02T12:00:00"),
            [$"PUT /api/loads/{apart}/transfers/{transfer}"] = Split("2026-12-04T12:00:00"),
            [$"POST /api/loads/{apart}/transfers/{transfer}"] = JsonNode.Parse("""{"event":"left","at":"2026-11-20T10:00:00Z"}"""),
            [$"POST /api/mine/loads/{covered}/transfers/{transfer}"] = JsonNode.Parse("""{"event":"taken","at":"2026-11-20T10:00:00Z"}"""),
            [$"POST /api/mine/loads/{covered}/reports"] = JsonNode.Parse("""{"kind":"note","note":"ring"}"""),
            [$"POST /api/mine/loads/{covered}/sign"] = JsonNode.Parse("""{"name":"R. Dahl","picture":"AAAA"}"""),
            [$"POST /api/mine/loads/{covered}/stops/{stop}"] = JsonNode.Parse(
                """{"event":"arrived","at":"2026-11-20T10:00:00Z","receivedBy":"R. Dahl"}"""
            ),
        };
        foreach (var list in ListCatalog.All)
        {
            var column = list.Columns[0].Id;
            var query = new
            {
                text = "a",
                filters = new[] { ListCalls.Filter(column, "is", "1", "2") },
                sorts = new[] { new { column, descending = true } },
                groups = new[] { new { column } },
                only = new[] { 1 },
            };
            good[$"POST /api/lists/{list.Name}/keys"] = Node(new { query, count = 1 });
            good[$"POST /api/lists/{list.Name}/rows"] = Node(
                new
                {
                    query,
                    from = 0,
                    count = 1,
                    columns = new[] { column },
                    counted = true,
                }
            );
            good[$"POST /api/lists/{list.Name}/totals"] = Node(new { query, columns = new[] { column } });
            good[$"POST /api/lists/{list.Name}/export"] = Node(
                new
                {
                    query,
                    columns = new[] { column },
                    format = "csv",
                }
            );
            good[$"POST /api/lists/{list.Name}/views"] = Node(
                new
                {
                    name = "mine",
                    shared = true,
                    definition = new { text = "a" },
                }
            );
        }

        return good;
    }

    private static JsonNode? Node(object o) => JsonNode.Parse(System.Text.Json.JsonSerializer.Serialize(o));

    [Fact]
    public async Task No_bad_field_of_any_command_causes_a_server_error()
    {
        var owner = await business.As(Role.Owner);
        var document = (await owner.Get("/openapi/v1.json")).Ok;
        _good = await Good(owner);
        var commands = Commands(document).ToList();
        Assert.Empty(commands.Where(c => Request(c.Method, c.Path) is null).Select(c => $"{c.Method} {c.Path}"));
        // A request that names a field wrongly would be refused for that, whatever else is wrong with it.
        Assert.Empty(
            commands.SelectMany(c =>
                (Request(c.Method, c.Path)!.Value.Body as JsonObject ?? [])
                    .Select(f => f.Key)
                    .Except(Fields(document, c.Schema, "").Select(f => f.Path.Split('.')[0].Split('[')[0]))
                    .Select(f => $"{c.Method} {c.Path}: {f}")
            )
        );
        var tried = 0;
        var wrong = new List<string>();
        foreach (var (method, path, schema) in commands)
        {
            var (address, good) = Request(method, path)!.Value;
            var known = Fields(document, schema, "").Select(f => f.Path.Split('.')[0].Split('[')[0]).ToHashSet();
            foreach (var field in Fields(document, schema, ""))
            {
                foreach (var bad in Bad(field))
                {
                    var body = Spoilt(good!, field.Path, bad.Json);
                    var answer = await owner.Send(
                        new HttpMethod(method),
                        address,
                        new StringContent(body, Encoding.UTF8, "application/json"),
                        Guid.NewGuid().ToString()
                    );
                    tried++;
                    var status = (int)answer.Status;
                    var what =
                        $"{method} {path} {field.Path} = {(bad.Json.Length > 60 ? bad.Json[..60] + "…" : bad.Json)}: {status} {(answer.Body as JsonObject)?["detail"]}";
                    if (
                        status >= 500
                        || (
                            status >= 300
                            && string.IsNullOrWhiteSpace((answer.Body as JsonObject)?["errors"]?[0]?["message"]?.GetValue<string>())
                        )
                    )
                    {
                        wrong.Add(what);
                    }
                    else if (
                        status == 422
                        && answer.Fields.Where(f => f is not null).Select(f => f!.Split('.')[0].Split('[')[0]).Except(known).ToList()
                            is { Count: > 0 } strange
                    )
                    {
                        wrong.Add($"names a field that is not there, {string.Join(", ", strange)}: {what}");
                    }
                    else if (bad.MustFail && status < 300)
                    {
                        wrong.Add("taken: " + what);
                    }
                    else if (
                        bad.Unreadable
                        && status == 400
                        && !answer.Fields.Any(f =>
                            f is not null && field.Path.StartsWith(f.Split('.')[0].Split('[')[0], StringComparison.Ordinal)
                        )
                    )
                    {
                        wrong.Add("no field: " + what);
                    }
                }
            }
        }

        summary.WriteLine($"{commands.Count} commands, {tried} spoilt requests");
        Assert.True(wrong.Count == 0, $"{wrong.Count} of {tried}:\n{string.Join('\n', wrong.Take(60))}");
        Assert.True(tried > 1500, $"only {tried} were tried");
        await using var db = await business.Db.Source.OpenConnectionAsync();
        Assert.Empty(await TestBusiness.Disagreements(db));
    }

    [Fact]
    public async Task Every_endpoint_answers_every_role_with_a_sentence()
    {
        var document = (await (await business.As(Role.Owner)).Get("/openapi/v1.json")).Ok;
        var tried = 0;
        var wrong = new List<string>();
        foreach (var role in Enum.GetValues<Role>())
        {
            var caller = await business.As(role);
            foreach (var (path, methods) in document["paths"]!.AsObject())
            {
                foreach (var (method, _) in methods!.AsObject().Where(m => path != "/api/session"))
                {
                    foreach (var id in new[] { "1", "-1", "987654321", "99999999999999999999", "x'; drop table loads; --", "9999-12-31" })
                    {
                        var address = System.Text.RegularExpressions.Regex.Replace(path, @"\{[^}]*\}", _ => Uri.EscapeDataString(id));
                        var q = Uri.EscapeDataString(id);
                        address +=
                            $"?q={q}&after={q}&limit={q}&before={q}&monday={q}&by={q}&from={q}&until={q}&driverId={q}&truckId={q}&carrierId={q}&lane={q}&format={q}&kind={q}&view={q}&account={q}&month={q}&upTo={q}&months={q}&customerId={q}&loadId={q}&companyId={q}&entryId={q}&name={q}&open={q}&paid={q}";
                        var content = method is "post" or "put" ? new StringContent("{}", Encoding.UTF8, "application/json") : null;
                        var answer = await caller.Send(
                            new HttpMethod(method.ToUpperInvariant()),
                            address,
                            content,
                            Guid.NewGuid().ToString()
                        );
                        tried++;
                        if (
                            (int)answer.Status >= 500
                            || ((int)answer.Status >= 400 && (answer.Body as JsonObject)?["errors"]?[0]?["message"] is null)
                        )
                        {
                            wrong.Add(
                                $"{role} {method} {address[..Math.Min(90, address.Length)]}: {(int)answer.Status} {(answer.Body as JsonObject)?["detail"]}"
                            );
                        }

                        if (!path.Contains('{', StringComparison.Ordinal) && method == "post")
                        {
                            break;
                        }
                    }
                }
            }
        }

        summary.WriteLine($"{tried} calls");
        Assert.True(wrong.Count == 0, $"{wrong.Count} of {tried}:\n{string.Join('\n', wrong.Take(40))}");
        Assert.True(tried > 1000, $"only {tried} were tried");
    }

    private (string Address, JsonNode? Body)? Request(string method, string path)
    {
        var pattern = "^" + System.Text.RegularExpressions.Regex.Replace(path, @"\{[^}]*\}", "[^/]+") + "$";
        foreach (var (key, body) in _good)
        {
            var words = key.Split(' ');
            if (words[0] == method && System.Text.RegularExpressions.Regex.IsMatch(words[1], pattern))
            {
                return (words[1], body);
            }
        }

        return null;
    }

    private static IEnumerable<(string Method, string Path, JsonNode Schema)> Commands(JsonNode document) =>
        from path in document["paths"]!.AsObject()
        from method in path.Value!.AsObject()
        let schema = method.Value!["requestBody"]?["content"]?["application/json"]?["schema"]
        where schema is not null
        select (method.Key.ToUpperInvariant(), path.Key, schema);

    private sealed record Field(string Path, string Kind, string? Format);

    private sealed record BadValue(string Json, bool MustFail, bool Unreadable);

    /// <summary>Every field a schema knows, down to the leaves; of lists the first element.</summary>
    private static IEnumerable<Field> Fields(JsonNode document, JsonNode schema, string at)
    {
        while (schema["$ref"] is { } link)
        {
            schema = document["components"]!["schemas"]![link.GetValue<string>().Split('/')[^1]]!;
        }

        if ((schema["oneOf"] ?? schema["anyOf"]) is JsonArray either)
        {
            schema = either.First(e => e!["type"]?.ToString() != "null")!;
            foreach (var field in Fields(document, schema, at))
            {
                yield return field;
            }

            yield break;
        }

        var kinds = schema["type"] is JsonArray many
            ? many.Select(t => t!.GetValue<string>()).ToList()
            : [schema["type"]?.GetValue<string>() ?? "string"];
        var kind = kinds.First(t => t != "null");
        if (at.Length > 0)
        {
            yield return new Field(at, schema["enum"] is null ? kind : "enum", schema["format"]?.GetValue<string>());
        }

        if (schema["items"] is { } items)
        {
            foreach (var field in Fields(document, items, at + "[0]"))
            {
                yield return field;
            }
        }

        foreach (var (name, property) in schema["properties"]?.AsObject() ?? [])
        {
            foreach (var field in Fields(document, property!, at.Length == 0 ? name : $"{at}.{name}"))
            {
                yield return field;
            }
        }
    }

    [GeneratedRegex("([aA]mount|pay|writeOff|expected|actual|debit|credit|creditLimit)$")]
    private static partial Regex MoneyField();

    private static IEnumerable<BadValue> Bad(Field field)
    {
        yield return new BadValue("null", false, false);
        foreach (var json in WrongKinds)
        {
            var isText = json.StartsWith('"');
            var fits = field.Kind switch
            {
                "object" => json.StartsWith('{'),
                "array" => json.StartsWith('['),
                "string" or "enum" => isText,
                "boolean" => json == "true",
                "number" => json is "-0.5" or "1e400",
                _ => false,
            };
            yield return new BadValue(json, !fits, !fits);
        }

        switch (field.Kind)
        {
            case "string" when field.Format is null:
                yield return new BadValue($"\"{Long}\"", false, false);
                yield return new BadValue("\"'; drop table loads; --\"", false, false);
                break;
            case "string":
                foreach (
                    var text in new[]
                    {
                        "",
                        "2026-02-30",
                        "2026-13-01T00:00:00",
                        "9999-12-31",
                        "0001-01-01",
                        "0001-01-01T00:00:00",
                        "9999-12-31T23:59:59",
                        "9999-12-31T23:59:59Z",
                        "-9998-01-01T00:00:00Z",
                        "1950-01-01T00:00:00Z",
                        "2099-01-01",
                        "2026-11-23T10:00:00+99:00",
                    }
                )
                {
                    yield return new BadValue($"\"{text}\"", false, false);
                }

                break;
            case "integer" or "number":
                foreach (
                    var number in new[]
                    {
                        "-1",
                        "0",
                        "1.5",
                        "2147483648",
                        "9223372036854775807",
                        "9223372036854775808",
                        "1e30",
                        "987654321",
                    }
                )
                {
                    yield return new BadValue(number, false, false);
                }

                break;
            case "object" when MoneyField().IsMatch(field.Path):
                foreach (
                    var amount in new[]
                    {
                        "-5.00",
                        "0.001",
                        "1e9",
                        "abc",
                        "",
                        "99999999999999999999999999999999",
                        "9999999999999",
                        "79228162514264337593543950335",
                    }
                )
                {
                    yield return new BadValue($$"""{"amount":"{{amount}}","currency":"USD"}""", true, false);
                }

                yield return new BadValue("""{"amount":"5.00","currency":"EUR"}""", true, false);
                yield return new BadValue("""{"amount":"5.00","currency":"CAD"}""", true, false);
                yield return new BadValue("""{"amount":5.00,"currency":"USD"}""", true, false);
                yield return new BadValue("""{"amount":"5.00"}""", true, false);
                break;
            case "array":
                yield return new BadValue("[null]", false, false);
                yield return new BadValue("[" + string.Join(',', Enumerable.Repeat("{}", 1000)) + "]", true, false);
                break;
        }
    }

    /// <summary>The good request as text with one value replaced; what has no place yet is given one.</summary>
    private static string Spoilt(JsonNode good, string path, string json)
    {
        const string Mark = "@@spoilt@@";
        var root = good.DeepClone();
        var node = root;
        var steps = path.Split('.').SelectMany(s => s.EndsWith("[0]", StringComparison.Ordinal) ? new[] { s[..^3], "[0]" } : [s]).ToArray();
        for (var i = 0; i < steps.Length; i++)
        {
            var last = i == steps.Length - 1;
            if (steps[i] == "[0]")
            {
                var list = node.AsArray();
                if (list.Count == 0)
                {
                    list.Add(new JsonObject());
                }

                if (last)
                {
                    list[0] = Mark;
                }
                else
                {
                    node = list[0]!;
                }
            }
            else if (last)
            {
                node[steps[i]] = Mark;
            }
            else
            {
                node[steps[i]] ??= steps[i + 1] == "[0]" ? new JsonArray() : new JsonObject();
                node = node[steps[i]]!;
            }
        }

        return root.ToJsonString().Replace($"\"{Mark}\"", json, StringComparison.Ordinal);
    }
}
