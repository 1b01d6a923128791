using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips.Loading;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

/// <summary>Products, body styles, vehicle identification numbers, compartments and decks as entered.</summary>
public class BulkAndVehicleTests
{
    private static readonly LocalDate Today = new(2026, 11, 24);

    private static string Said(Validation validation) => string.Join(" | ", validation.Problems.Select(p => $"{p.Field}: {p.Message}"));

    [Theory]
    [InlineData("11111111111111111", 2019, null)]
    [InlineData("1111 1111-111111111", null, null)]
    // The digit X: ten elevenths, by hand: 2 × 10 at the eighth position and 1 elsewhere adds 10 to 89 - 8 ones.
    [InlineData("11111112X11111111", 2019, "check the VIN; its check digit, the 9th character, should be 0 for these characters and is X.")]
    [InlineData("11111112011111111", 2019, null)]
    [InlineData(
        "1111111111111111",
        2019,
        "a VIN has 17 characters, this one 16. Only vehicles before 1981 have shorter ones: enter the year."
    )]
    [InlineData("4451", 1967, null)]
    [InlineData("1111111I111111111", 2019, "a VIN has no I, O or Q; it may be a 1 or a 0.")]
    [InlineData("1111111111111111!", 2019, "a VIN has 17 letters and digits.")]
    public void A_vin_is_checked_by_its_digit(string typed, int? year, string? refused)
    {
        var validation = new Validation();
        var vin = Vin.Read(typed, year, "vin", "Line 1", validation);
        Assert.Equal(refused is null ? "" : $"vin: Line 1: {refused}", Said(validation));
        Assert.Equal(refused is null, vin is not null);
        Assert.DoesNotContain(' ', vin ?? "");
    }

    [Fact]
    public void Any_single_wrong_character_of_a_vin_is_found_when_its_value_differs()
    {
        const string Letters = "0123456789ABCDEFGHJKLMNPRSTUVWXYZ";
        const string Values = "012345678912345678" + "12345" + "7" + "9" + "23456789";
        Assert.Equal(Letters.Length, Values.Length);
        Gen.Select(Gen.Int[0, Letters.Length - 1].Array[17], Gen.Int[0, 16], Gen.Int[0, Letters.Length - 1])
            .Sample(t =>
            {
                var (digits, at, other) = t;
                var vin = string.Concat(digits.Select(d => Letters[d])).ToCharArray();
                vin[8] = Vin.CheckDigit(new string(vin))!.Value;
                var good = new string(vin);
                Assert.Equal(good, Vin.Read(good, 2020, "vin", "", new Validation()));
                if (at != 8 && Values[Letters.IndexOf(vin[at])] != Values[other])
                {
                    vin[at] = Letters[other];
                    Assert.Null(Vin.Read(new string(vin), 2020, "vin", "", new Validation()));
                }
            });
    }

    [Fact]
    public void Products_name_each_other_in_their_rules()
    {
        var now = new[] { new Product(7, "soap", 8.5m, null, false, [], [], Loads: 2) };
        var list = Products.CheckList(
            [
                new ProductOrder(7, "Soap", 8.5m),
                new ProductOrder(null, "corn syrup", 11.5m, 130, true, NotAfter: ["SOAP", "soap", " "], Apart: ["canola oil"]),
                new ProductOrder(null, "canola oil", 7.65m),
            ],
            now
        );
        Assert.Equal(["Soap"], list.Value[1].NotAfter);
        Assert.Equal(["canola oil"], list.Value[1].Apart);
        Assert.Equal((7, 0), (list.Value[0].Id, list.Value[1].Id));

        string Refused(params ProductOrder[] orders) => string.Join(" | ", Products.CheckList(orders, now).Problems.Select(p => p.Message));
        Assert.Equal("Soap cannot be removed: 2 loads of it are not delivered.", Refused());
        Assert.Equal(
            "This product is no longer on the list: reload the page. | Soap cannot be removed: 2 loads of it are not delivered.",
            Refused(new ProductOrder(8, "soap", 8))
        );
        Assert.Equal("There are two products named SOAP.", Refused(new ProductOrder(7, "soap", 8), new ProductOrder(null, "SOAP", 8)));
        Assert.Equal("A gallon weighs 4 to 25 pounds; enter up to three decimals.", Refused(new ProductOrder(7, "soap", 3.9m)));
        Assert.Equal("Enter what a gallon weighs, in pounds.", Refused(new ProductOrder(7, "soap", null)));
        Assert.Equal("Soap: choose another product than itself.", Refused(new ProductOrder(7, "soap", 8, Apart: ["soap"])));
        Assert.Equal("lye is not on the list: choose one of its products.", Refused(new ProductOrder(7, "soap", 8, NotAfter: ["lye"])));
    }

    [Fact]
    public void Gallons_and_liters_are_read_and_weigh_what_the_product_weighs()
    {
        var soap = new Product(7, "soap", 8.5m, null, false, [], []);
        var validation = new Validation();
        Assert.Equal((soap, 1_505.8m), new BulkOrder(7, 5_700, VolumeUnit.Liters).Read([soap], "f", "Line 1", validation));
        Assert.Null(new BulkOrder(8, 20_001).Read([soap], "f", "Line 1", validation));
        Assert.Null(new BulkOrder(7, null, VolumeUnit.Liters).Read([soap], "f", "Line 1", validation));
        Assert.Equal(
            "f.productId: Line 1: choose the product from the list. | f.volume: Line 1: enter the gallons, more than 0 and at most 20,000. | f.volume: Line 1: enter the liters, more than 0 and at most 75,708.",
            Said(validation)
        );
    }

    [Fact]
    public void A_vehicle_has_the_size_of_its_body_style()
    {
        var styles = BodyStyles.CheckList([new BodyStyleOrder("Wagon", 190, 72, 60, 3_700)]).Value;
        Assert.Equal(new BodyStyle("Wagon", 190, 72, 60, 3_700), Assert.Single(styles));
        var validation = new Validation();
        var read = new VehicleOrder(2019, "Larkspur", "Ridge", "11111111111111111", "WAGON", Runs: false, Keys: false).Read(
            styles,
            Today,
            "v",
            "Line 1",
            validation
        );
        Assert.Equal((styles[0], ""), (read.Style, Said(validation)));
        Assert.Equal("2019 Larkspur Ridge Wagon, VIN 11111111111111111, does not run, no keys", read.Vehicle.Described);
        new VehicleOrder(2030, null, null, null, "hearse").Read(styles, Today, "v", "Line 1", validation);
        Assert.Equal(
            "v.year: Line 1: the model year must be between 1,886 and 2,028. | v.body: Line 1: hearse is not on the list of body styles: choose from the list, or add it in Setup.",
            Said(validation)
        );
        Assert.Equal(
            "The weight in pounds is required. | The width in inches must be between 20 and 140. | There are two body styles named VAN.",
            string.Join(
                " | ",
                BodyStyles
                    .CheckList([new BodyStyleOrder("van", 200, 80, 80, 5_000), new BodyStyleOrder("VAN", 200, 800, 80, null)])
                    .Problems.Select(p => p.Message)
                    .Order()
            )
        );
    }

    [Fact]
    public void Compartments_belong_to_tankers_and_decks_to_car_haulers()
    {
        var validation = new Validation();
        Assert.Equal(
            [1_500m, 1_505.8m],
            TrailerLayout.CheckCompartments([1_500, 1_505.8m], VolumeUnit.Gallons, Equipment.Tanker, validation)
        );
        Assert.Equal([1_505.8m], TrailerLayout.CheckCompartments([5_700], VolumeUnit.Liters, Equipment.Tanker, validation));
        Assert.All(TrailerLayout.Templates, t =>
            Assert.Equal(
                t.Decks.Count,
                TrailerLayout
                    .CheckDecks(
                        t.Decks.Select(d => new DeckOrder(d.Name, d.LengthIn, d.HeightIn, d.PayloadLb)).ToList(),
                        Equipment.CarHauler,
                        validation
                    )
                    .Count
            )
        );
        // Each template carries as many vehicles of 190 inches as it says.
        Assert.All(TrailerLayout.Templates, t =>
            Assert.Equal(t.Vehicles, t.Decks.Sum(d => (d.LengthIn + TrailerLayout.GapIn) / (190 + TrailerLayout.GapIn)))
        );
        Assert.Equal("", Said(validation));
        TrailerLayout.CheckCompartments([9], VolumeUnit.Gallons, Equipment.Tanker, validation);
        TrailerLayout.CheckCompartments([900], VolumeUnit.Gallons, Equipment.Van, validation);
        TrailerLayout.CheckDecks(
            [new DeckOrder("upper", 600, 70, null), new DeckOrder("Upper", 30, 70, 900)],
            Equipment.CarHauler,
            validation
        );
        Assert.Equal(
            "compartments[0]: Compartment 1: enter its size, 10 to 12,000 gallons. | compartments: Only a tanker has compartments. | decks[0].payloadLb: Deck 1: the payload in pounds is required. | decks[1].name: There are two decks named Upper. | decks[1].lengthIn: Deck 2: the length in inches must be between 60 and 1,200.",
            Said(validation)
        );
    }
}
