using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;

namespace SteadyLark.Server.Demo;

/// <summary>A demo customer: what it ships, from where, and how it pays.</summary>
/// <param name="PaysAfterDue">Days after the due date on which it usually pays; negative for early.</param>
internal sealed record DemoCustomer(
    string Name,
    string Town,
    Equipment Equipment,
    string Freight,
    int WeightLb,
    int? TemperatureF,
    int TermsDays,
    int PaysAfterDue
);

/// <summary>All fictitious: Tamarack Bend Freight, its customers, carriers, drivers and places. No real company, person or address is
/// meant.</summary>
internal static class DemoData
{
    public static readonly DemoCustomer[] Customers =
    [
        new("Snowberry Creamery", "Great Falls,MT", Equipment.Reefer, "butter", 38_400, 34, 21, -2),
        new("Ferncliff Log Homes", "Kalispell,MT", Equipment.Flatbed, "log-home kits", 44_800, null, 30, 3),
        new("Hollow Creek Honey", "Billings,MT", Equipment.Van, "honey in drums", 41_200, null, 30, -4),
        new("Palisade Millwork", "Missoula,MT", Equipment.Van, "millwork", 32_600, null, 30, 24),
        new("Coldwater Springs", "Missoula,MT", Equipment.Van, "bottled water", 43_500, null, 21, 0),
        new("Stillmeadow Seed Potato", "Idaho Falls,ID", Equipment.Reefer, "seed potatoes", 44_000, 40, 30, 2),
        new("Redwillow Pulse", "Great Falls,MT", Equipment.Van, "lentils in totes", 42_000, null, 30, -1),
        new("Kettle Ridge Dairy", "Twin Falls,ID", Equipment.Reefer, "cheese", 40_100, 36, 21, -3),
        new("Windrow Machinery", "Fargo,ND", Equipment.Flatbed, "hay balers", 27_300, null, 30, 16),
        new("Amber Kettle Brewing", "Portland,OR", Equipment.Tanker, "brewing syrup", 45_600, null, 30, 1),
        new("Orchard Bench Fruit", "Yakima,WA", Equipment.Reefer, "apples", 40_100, 34, 21, -2),
        new("Larkspur Lentil Works", "Havre,MT", Equipment.Van, "split peas", 41_800, null, 30, 0),
        new("Bitter Fork Lumber", "Missoula,MT", Equipment.Flatbed, "dimension lumber", 46_200, null, 30, 5),
        new("Cinder Flat Malting", "Great Falls,MT", Equipment.Van, "malt barley", 44_100, null, 30, -2),
        new("Three Poplars Wool", "Dillon,MT", Equipment.Van, "wool bales", 30_500, null, 30, 7),
        new("Bluestem Canola", "Minot,ND", Equipment.Tanker, "canola oil", 45_900, null, 30, 2),
        new("Quiet Basin Campers", "Nampa,ID", Equipment.CarHauler, "campers", 21_000, null, 30, 1),
        new("Skyrow Turbine Parts", "Casper,WY", Equipment.Flatbed, "turbine parts", 38_900, null, 30, -1),
        new("Cherry Lantern Growers", "Polson,MT", Equipment.Reefer, "cherries", 34_200, 33, 15, -1),
        new("Wide Gate Feed", "Bozeman,MT", Equipment.Van, "bagged feed", 43_000, null, 30, 4),
        new("Juniper Crossing Foods", "Boise,ID", Equipment.Reefer, "frozen hash browns", 41_500, -5, 30, 0),
        new("Ninepipe Bottling", "Polson,MT", Equipment.Van, "glass bottles", 28_400, null, 30, 2),
        new("Old Ferry Barley", "Moses Lake,WA", Equipment.Van, "barley flakes", 42_700, null, 30, -3),
        new("Copper Lane Doors", "Butte,MT", Equipment.Van, "doors", 29_800, null, 30, 6),
        new("Sagehollow Beef", "Miles City,MT", Equipment.Reefer, "boxed beef", 39_600, 30, 21, -4),
        new("Paintrock Mineral", "Casper,WY", Equipment.Van, "bagged minerals", 44_500, null, 30, 9),
        new("Highline Pea Protein", "Havre,MT", Equipment.Van, "pea protein", 40_000, null, 30, -2),
        new("Marrowstone Pump", "Seattle,WA", Equipment.Flatbed, "pump housings", 31_000, null, 30, 0),
        new("Twin Spruce Pallet", "Spokane,WA", Equipment.Flatbed, "pallets", 26_500, null, 30, 3),
        new("Dry Coulee Sunflower", "Bismarck,ND", Equipment.Van, "sunflower seed", 42_300, null, 30, 1),
        new("Fieldnote Paper", "Lewiston,ID", Equipment.Van, "paper rolls", 43_800, null, 30, -1),
        new("Glass Lake Trout", "Twin Falls,ID", Equipment.Reefer, "fresh trout", 30_200, 32, 15, 0),
        new("Prairie Kiln Brick", "Medicine Hat,AB", Equipment.Flatbed, "brick", 47_000, null, 30, 4),
        new("Westering Oats", "Regina,SK", Equipment.Van, "rolled oats", 42_600, null, 30, 0),
        new("Bow Terrace Pasta", "Calgary,AB", Equipment.Van, "pasta", 39_400, null, 30, -2),
        new("Chokecherry Preserves", "Helena,MT", Equipment.Van, "preserves in jars", 36_800, null, 30, 0),
        new("Lodgepole Stove", "Whitefish,MT", Equipment.Van, "wood stoves", 33_100, null, 30, 2),
        new("Sweetgrass Dairy Mix", "Sheridan,WY", Equipment.Reefer, "ice cream mix", 37_700, -10, 21, -1),
        new("Burnt Hill Onions", "Ontario,OR", Equipment.Reefer, "onions", 43_900, 38, 30, 5),
        new("Merriment Motors", "Salt Lake City,UT", Equipment.CarHauler, "pickup trucks", 38_000, null, 15, -1),
        new("Camas Meadow Flour", "Lewiston,ID", Equipment.Van, "bread flour", 43_900, null, 30, 0),
        new("Rattlebone Granola", "Bozeman,MT", Equipment.Van, "granola", 27_400, null, 30, 3),
        new("Nine Mile Cider", "Wenatchee,WA", Equipment.Tanker, "apple juice concentrate", 45_100, null, 30, -2),
        new("Tilted Silo Soy", "Fargo,ND", Equipment.Van, "soybean meal in bags", 44_200, null, 30, 1),
        new("Painted Fence Supply", "Billings,MT", Equipment.Flatbed, "fence panels", 36_700, null, 30, 11),
        new("Ice Bridge Vegetables", "Pasco,WA", Equipment.Reefer, "frozen peas", 41_000, -8, 21, -2),
        new("Low Bench Orchards", "Kalispell,MT", Equipment.Reefer, "cherries", 33_800, 33, 15, 0),
        new("Stone Ladle Soup", "Spokane,WA", Equipment.Van, "canned soup", 42_600, null, 30, 2),
        new("Mullan Creek Cabinets", "Missoula,MT", Equipment.Van, "cabinets", 24_900, null, 30, 19),
        new("Wheatear Bakeries", "Great Falls,MT", Equipment.Reefer, "frozen dough", 38_300, 0, 21, -1),
        new("Antelope Flat Steel", "Pocatello,ID", Equipment.Flatbed, "rebar", 46_900, null, 30, 4),
        new("Harebell Yogurt", "Twin Falls,ID", Equipment.Reefer, "yogurt", 37_900, 36, 21, -3),
        new("Gravelly Range Hay", "Dillon,MT", Equipment.Flatbed, "baled hay", 43_300, null, 15, 8),
        new("Longspur Mustard", "Minot,ND", Equipment.Van, "mustard seed", 42_800, null, 30, 0),
        new("Cold Ember Charcoal", "Eugene,OR", Equipment.Van, "charcoal", 39_200, null, 30, 2),
        new("Sawtooth Rim Water", "Idaho Falls,ID", Equipment.Van, "bottled water", 43_800, null, 30, -1),
        new("Kestrel Panel Homes", "Boise,ID", Equipment.Flatbed, "wall panels", 33_500, null, 30, 6),
        new("Bear Hollow Brewing", "Denver,CO", Equipment.Reefer, "beer in kegs", 41_700, 38, 30, 0),
        new("Chinook Sky Sugar", "Lethbridge,AB", Equipment.Van, "sugar in bags", 44_400, null, 30, -2),
        new("Teasel Ridge Tractors", "Sioux Falls,SD", Equipment.Flatbed, "tractors", 38_600, null, 30, 5),
    ];

    /// <summary>Vendors of fuel, tires, rent and insurance.</summary>
    public static readonly (string Name, string Town)[] Vendors =
    [
        ("Bitterroot Fuel Stops", "Missoula,MT"),
        ("Lolo Tire and Axle", "Missoula,MT"),
        ("Grant Creek Properties", "Missoula,MT"),
        ("Big Sky Mutual Cover", "Helena,MT"),
        (Lessor, "Spokane,WA"),
        (Payroll, "Missoula,MT"),
        (Office, "Missoula,MT"),
        (Lumpers, "Spokane,WA"),
    ];

    public const string Lessor = "Pine Basin Truck Leasing";
    public const string Payroll = "Garnet Payroll Service";
    public const string Office = "Larch Street Business Services";
    public const string Lumpers = "Dockside Unloading";

    /// <summary>The trailer each driver pulls, in the order of the drivers.</summary>
    public static readonly Equipment[] Pulls =
    [
        Equipment.Reefer,
        Equipment.Van,
        Equipment.Flatbed,
        Equipment.Van,
        Equipment.Reefer,
        Equipment.Van,
        Equipment.Van,
        Equipment.Reefer,
        Equipment.Flatbed,
        Equipment.Reefer,
        Equipment.Van,
    ];

    /// <summary>The average price of diesel in a week, dollars per gallon: follows the season and moves from week to week.</summary>
    public static decimal Diesel(LocalDate day)
    {
        var week = Period.DaysBetween(new LocalDate(2020, 1, 6), day) / 7;
        return Math.Round(
            3.72m
                + (decimal)(
                    (0.22 * Math.Sin((day.DayOfYear - 60) / 365.0 * 2 * Math.PI))
                    + (0.11 * Math.Sin(week * 1.7))
                    + (0.06 * Math.Sin(week * 0.61))
                ),
            3
        );
    }

    /// <summary>The fuel surcharge of a week by the shippers' tables: what diesel costs above $1.20, at 6 miles per gallon.</summary>
    public static decimal FuelSurcharge(LocalDate day) => Math.Round((Diesel(day) - 1.20m) / 6m, 2);

    private static readonly string[] CarrierDrivers =
    [
        "Ray Ostrander",
        "Dell Whitcomb",
        "Luis Arreola",
        "Tammy Kessler",
        "Curt Lindqvist",
        "Amandeep Gill",
        "Joe Redfern",
        "Wanda Pruitt",
        "Stan Okafor",
        "Marcy Dufresne",
        "Pete Yellowtail",
        "Rosa Villanueva",
    ];

    /// <summary>Who a carrier sends for a load.</summary>
    public static CarrierDispatch DispatchOf(long load) =>
        new(
            CarrierDrivers[load * 7 % CarrierDrivers.Length],
            $"509-555-01{load * 13 % 100:00}",
            $"{100 + (load * 17 % 860)}",
            $"{5000 + (load * 29 % 900)}"
        );

    /// <summary>What the business asks of its carriers.</summary>
    public static readonly CarrierRequirements Requirements = new(Money.Usd(1_000_000m), Money.Usd(100_000m), Agreement: true);

    /// <summary>Detention as customers have agreed to it.</summary>
    public static readonly DetentionTerms CustomerDetention = new(120, Money.Usd(75m), Money.Usd(450m));

    /// <summary>Detention as its rate confirmations offer it.</summary>
    public static readonly DetentionTerms Detention = new(120, Money.Usd(40m), Money.Usd(250m));

    public static readonly (string Name, string Town)[] Carriers =
    [
        ("Two Forks Trucking", "Lewiston,ID"),
        ("Coulee Run Carriers", "Moses Lake,WA"),
        ("Long Bench Transport", "Billings,MT"),
        ("Gray Heron Haul", "Spokane,WA"),
        ("Rimrock Relay", "Billings,MT"),
        ("Saltgrass Lines", "Ogden,UT"),
        ("Clearcut Hauling Pair", "Kalispell,MT"),
        ("Medicine Bow Motor", "Cheyenne,WY"),
        ("Lost Wagon Freightways", "Casper,WY"),
        ("Hightail Reefer Co", "Yakima,WA"),
        ("Badger Creek Cartage", "Havre,MT"),
        ("Ponderosa Point Trucking", "Missoula,MT"),
        ("Tumbling Fork Express", "Boise,ID"),
        ("Milk River Movers", "Havre,MT"),
        ("Big Open Transport", "Miles City,MT"),
        ("Palouse Wind Lines", "Pasco,WA"),
        ("Rattling Gate Trucking", "Twin Falls,ID"),
        ("Northwater Carriers", "Seattle,WA"),
        ("Dry Fork Flatbed", "Sheridan,WY"),
        ("Red River Rigs", "Fargo,ND"),
        ("Lantern Hill Logistics Haulers", "Portland,OR"),
        ("Cattail Slough Freight", "Minneapolis,MN"),
        ("Kestrel Road Transport", "Denver,CO"),
        ("Stone Shed Trucking", "Idaho Falls,ID"),
        ("Sixmile Carriers", "Missoula,MT"),
        ("Wheatline Motor", "Great Falls,MT"),
        ("Elk Crossing Haulage", "Bozeman,MT"),
        ("Basalt Rim Reefers", "Wenatchee,WA"),
        ("Prairie Lamp Lines", "Bismarck,ND"),
        ("Whistling Pass Trucking", "Butte,MT"),
        ("Chinook Belt Carriers", "Lethbridge,AB"),
        ("South Slope Transport", "Calgary,AB"),
        ("Qu'Appelle Cartage", "Regina,SK"),
        ("Tin Cup Tankers", "Pocatello,ID"),
        ("Harvest Moon Hopper", "Minot,ND"),
        ("Blue Camas Carriers", "Coeur d'Alene,ID"),
        ("Frostline Freight Pair", "Rapid City,SD"),
        ("Willow Bar Trucking", "Sidney,MT"),
        ("Ashcreek Auto Carry", "Salt Lake City,UT"),
        ("Fencepost Freight", "Dickinson,ND"),
        ("Bitterbrush Trucking", "Wenatchee,WA"),
        ("Cold Iron Carriers", "Casper,WY"),
        ("Silver Sage Transport", "Boise,ID"),
        ("Grouse Hollow Haul", "Lewiston,ID"),
        ("Quartz Creek Motor", "Helena,MT"),
        ("Two Medicine Relay", "Great Falls,MT"),
        ("Windmill Flat Freight", "Minot,ND"),
        ("Antler Ridge Lines", "Bozeman,MT"),
        ("Cedar Notch Cartage", "Coeur d'Alene,ID"),
        ("Granite Ferry Haulers", "Missoula,MT"),
        ("Salmon Falls Express", "Twin Falls,ID"),
        ("Loblolly Bend Trucking", "Portland,OR"),
        ("Tallgrass Reefer", "Sioux Falls,SD"),
        ("Northfork Flatdeck", "Kalispell,MT"),
        ("Sundown Valley Carriers", "Yakima,WA"),
        ("Dusty Axle Trucking", "Miles City,MT"),
        ("Echo Canyon Transport", "Ogden,UT"),
        ("Old Grade Freightways", "Butte,MT"),
        ("Harbor Gull Lines", "Tacoma,WA"),
        ("Prairie Clover Motor", "Bismarck,ND"),
        ("Magpie Cartage", "Billings,MT"),
        ("Lookout Pass Haul", "Spokane,WA"),
        ("Sweet Clover Carriers", "Sheridan,WY"),
        ("Red Willow Relay", "Denver,CO"),
        ("Kootenai Bend Trucking", "Kalispell,MT"),
        ("Seven Gates Transport", "Nampa,ID"),
        ("Blackbird Slough Lines", "Minneapolis,MN"),
        ("Cloudcroft Carriers", "Cheyenne,WY"),
        ("Turnrow Trucking", "Moses Lake,WA"),
        ("Flint Hollow Freight", "Rapid City,SD"),
        ("Oxbow Tank Lines", "Pasco,WA"),
        ("Shale Ridge Haulage", "Sidney,MT"),
        ("Tumbleweed Auto Movers", "Boise,ID"),
        ("Warm Wind Transport", "Calgary,AB"),
        ("Buffalo Stone Cartage", "Regina,SK"),
        ("Larch Needle Lines", "Polson,MT"),
        ("Pronghorn Freight Pair", "Glendive,MT"),
        ("Gull Lake Carriers", "Fargo,ND"),
        ("Riverstone Express", "Pocatello,ID"),
        ("Hollow Log Hauling", "Eugene,OR"),
    ];

    private static readonly string[] YardTowns =
    [
        "Spokane,WA",
        "Seattle,WA",
        "Tacoma,WA",
        "Portland,OR",
        "Eugene,OR",
        "Boise,ID",
        "Nampa,ID",
        "Twin Falls,ID",
        "Idaho Falls,ID",
        "Pocatello,ID",
        "Salt Lake City,UT",
        "Ogden,UT",
        "Denver,CO",
        "Cheyenne,WY",
        "Casper,WY",
        "Rapid City,SD",
        "Sioux Falls,SD",
        "Bismarck,ND",
        "Fargo,ND",
        "Minot,ND",
        "Dickinson,ND",
        "Minneapolis,MN",
        "Missoula,MT",
        "Billings,MT",
        "Great Falls,MT",
        "Kalispell,MT",
        "Bozeman,MT",
        "Helena,MT",
        "Butte,MT",
        "Yakima,WA",
        "Moses Lake,WA",
        "Pasco,WA",
        "Lewiston,ID",
        "Calgary,AB",
        "Lethbridge,AB",
        "Regina,SK",
    ];

    private static readonly string[] YardWords =
    [
        "Thistle",
        "Harrow",
        "Lodestone",
        "Meadowlark",
        "Pennant",
        "Quarry",
        "Saddleback",
        "Tansy",
        "Ironbark",
        "Juncture",
    ];

    private static readonly string[] YardKinds =
    [
        "Dry Goods",
        "Cold Dock",
        "Building Supply",
        "Farm Stores",
        "Market Hall",
        "Parts Depot",
        "Bottle Works",
    ];

    /// <summary>More receivers, with names combined from plain words, so that the address book is as long as a real one.</summary>
    public static IEnumerable<(string Name, string Town)> MoreReceivers =>
        Enumerable
            .Range(0, 110)
            .Select(i =>
                (
                    $"{YardWords[i % YardWords.Length]} {YardKinds[i % YardKinds.Length]} {(i / 70 == 0 ? "" : "Two")}".TrimEnd(),
                    YardTowns[i * 5 % YardTowns.Length]
                )
            );

    /// <summary>Destinations: fictitious receivers in real towns.</summary>
    public static readonly (string Name, string Town)[] Receivers =
    [
        ("Northgate Cold Storage", "Spokane,WA"),
        ("Inland Table Foods", "Spokane,WA"),
        ("Riverfront Builders Yard", "Spokane,WA"),
        ("Ballard Cross-Dock", "Seattle,WA"),
        ("Rainier Pantry Stores", "Seattle,WA"),
        ("Harbor Light Imports", "Tacoma,WA"),
        ("Commencement Storage", "Tacoma,WA"),
        ("Columbia Slough Warehouse", "Portland,OR"),
        ("Rose Quarter Grocers", "Portland,OR"),
        ("Willamette Brewers Supply", "Portland,OR"),
        ("Emerald Valley Foods", "Eugene,OR"),
        ("Treasure Valley Depot", "Boise,ID"),
        ("Foothill Fresh", "Boise,ID"),
        ("Canyon Rim Packing", "Twin Falls,ID"),
        ("Snake Plain Storage", "Twin Falls,ID"),
        ("Teton View Wholesale", "Idaho Falls,ID"),
        ("Eagle Rock Supply", "Idaho Falls,ID"),
        ("Portneuf Distribution", "Pocatello,ID"),
        ("Wasatch Grocers", "Salt Lake City,UT"),
        ("Jordan River Steel Yard", "Salt Lake City,UT"),
        ("Great Basin Cold", "Salt Lake City,UT"),
        ("Weber Bakery Works", "Ogden,UT"),
        ("Front Range Foods", "Denver,CO"),
        ("Platte Street Millwork Supply", "Denver,CO"),
        ("Mile High Cold Chain", "Denver,CO"),
        ("High Plains Depot", "Cheyenne,WY"),
        ("Platte Bridge Yard", "Casper,WY"),
        ("Black Hills Home Supply", "Rapid City,SD"),
        ("Rushmore Grocers", "Rapid City,SD"),
        ("Falls Park Foods", "Sioux Falls,SD"),
        ("Missouri Slope Feed", "Bismarck,ND"),
        ("Capital Cold Bismarck", "Bismarck,ND"),
        ("Red River Grocers", "Fargo,ND"),
        ("Valley Machinery Lot", "Fargo,ND"),
        ("Souris Basin Supply", "Minot,ND"),
        ("Badlands Farm Store", "Dickinson,ND"),
        ("Mill City Foods", "Minneapolis,MN"),
        ("North Loop Bottlers", "Minneapolis,MN"),
        ("St Anthony Cold", "Minneapolis,MN"),
        ("Lakes Lumber Yard", "Minneapolis,MN"),
        ("Clark Fork Warehouse", "Missoula,MT"),
        ("Hellgate Produce", "Missoula,MT"),
        ("Rattlesnake Builders", "Missoula,MT"),
        ("Yellowstone Wholesale", "Billings,MT"),
        ("Magic Valley Brewing Supply", "Billings,MT"),
        ("Rims Cold Storage", "Billings,MT"),
        ("Electric City Depot", "Great Falls,MT"),
        ("Sun River Feed", "Great Falls,MT"),
        ("Flathead Home Center", "Kalispell,MT"),
        ("Glacier Gate Grocers", "Kalispell,MT"),
        ("Gallatin Builders Supply", "Bozeman,MT"),
        ("Last Chance Market", "Helena,MT"),
        ("Summit Valley Stores", "Butte,MT"),
        ("Selah Packing", "Yakima,WA"),
        ("Ahtanum Warehouse", "Yakima,WA"),
        ("Basin Potato Sheds", "Moses Lake,WA"),
        ("Confluence Cold", "Wenatchee,WA"),
        ("Tri-River Storage", "Pasco,WA"),
        ("Lake Country Supply", "Coeur d'Alene,ID"),
        ("Seaport Paper Dock", "Lewiston,ID"),
        ("Oldman Valley Foods", "Lethbridge,AB"),
        ("Chinook Pantry", "Lethbridge,AB"),
        ("Foothills Freight Shed", "Calgary,AB"),
        ("Nose Hill Grocers", "Calgary,AB"),
        ("Stampede Yard", "Calgary,AB"),
        ("Wascana Wholesale", "Regina,SK"),
        ("Wheat City Depot", "Regina,SK"),
        ("Bridge City Foods", "Saskatoon,SK"),
        ("Gas City Stores", "Medicine Hat,AB"),
        ("Big Horn Supply", "Sheridan,WY"),
        ("Treasure State Auto Lot", "Billings,MT"),
        ("Garden City Autos", "Missoula,MT"),
        ("Palouse Auto Row", "Spokane,WA"),
        ("Puget Motors Lot", "Seattle,WA"),
        ("Cache Valley Creamery", "Ogden,UT"),
        ("Snake River Malt House", "Nampa,ID"),
        ("Owyhee Onion Sheds", "Ontario,OR"),
        ("Mini-Cassia Warehouse", "Burley,ID"),
        ("Hi-Line Co-op", "Havre,MT"),
        ("Dawson County Feed", "Glendive,MT"),
    ];

    public static readonly (string Name, string Home)[] Drivers =
    [
        ("Moses Okafor", "Missoula MT"),
        ("Lena Haugen", "Missoula MT"),
        ("Tomas Aguirre", "Boise ID"),
        ("Signe Lindqvist", "Kalispell MT"),
        ("Percy Begaye", "Billings MT"),
        ("Joan Whitcomb", "Billings MT"),
        ("Rafael Castellanos", "Missoula MT"),
        ("Anja Novak", "Great Falls MT"),
        ("Dewey Sandoval", "Butte MT"),
        ("Ruth Tallbear", "Great Falls MT"),
        ("Emil Gustafson", "Missoula MT"),
        ("Nadia Petrov", "Spokane WA"),
        ("Cal Drummond", "Helena MT"),
        ("Birgit Olsen", "Kalispell MT"),
        ("Hank Yoshida", "Spokane WA"),
        ("Leona Fairchild", "Bozeman MT"),
        ("Omar Haddad", "Idaho Falls ID"),
        ("Greta Vandermeer", "Missoula MT"),
        ("Silas Montoya", "Billings MT"),
        ("Ida Kowalczyk", "Missoula MT"),
        ("Walt Redfern", "Polson MT"),
        ("Mercy Adeyemi", "Great Falls MT"),
    ];

    /// <summary>Whether freight of a kind ships in a month.</summary>
    public static bool InSeason(string freight, int month) =>
        freight switch
        {
            "cherries" => month is 6 or 7 or 8,
            "apples" => month is 1 or 2 or >= 8,
            "seed potatoes" => month is >= 2 and <= 5,
            "onions" => month is <= 3 or >= 8,
            "wool bales" => month is >= 4 and <= 9,
            "hay balers" or "campers" => month is >= 2 and <= 8,
            "lentils in totes" or "split peas" or "malt barley" => month is <= 4 or >= 8,
            "log-home kits" => month is >= 3 and <= 10,
            _ => true,
        };

    public static readonly (Equipment Equipment, int Count, int FirstUnit)[] Trailers =
    [
        (Equipment.Van, 14, 3301),
        (Equipment.Reefer, 12, 5301),
        (Equipment.Flatbed, 9, 7301),
        (Equipment.Tanker, 3, 8301),
        (Equipment.CarHauler, 2, 9301),
    ];

    public static readonly string[] Makes = ["2021 sleeper", "2022 sleeper", "2023 sleeper", "2024 sleeper"];

    public static readonly string[] Signers =
    [
        "R. Dahl",
        "M. Pruitt",
        "K. Osei",
        "T. Lamb",
        "J. Ferro",
        "S. Whitehorse",
        "D. Ng",
        "P. Marsh",
        "A. Quist",
        "L. Romero",
    ];
}
