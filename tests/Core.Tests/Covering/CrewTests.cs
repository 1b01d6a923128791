using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Covering;

public class CrewTests
{
    private static readonly EquipmentMatches Matches = new([new EquipmentMatch(Equipment.Reefer, Equipment.Van)]);

    private static IEnumerable<(string Code, string? Field)> Check(
        bool driver,
        bool truck,
        CrewTrailer? trailer,
        Equipment? wanted,
        params string[] required
    )
    {
        var validation = new Validation();
        Crew.Check(validation, driver, truck, trailer, wanted, required, Matches);
        return validation.Problems.Select(p => (p.Code, p.Field));
    }

    private static CrewTrailer Trailer(Equipment equipment, bool active = true) => new("5307", equipment, active, ["liftgate", "straps"]);

    [Fact]
    public void A_complete_crew_with_the_right_trailer_is_fine()
    {
        Assert.Empty(Check(true, true, Trailer(Equipment.Reefer), Equipment.Reefer));
        Assert.Empty(Check(true, true, Trailer(Equipment.Van), null));
    }

    [Fact]
    public void Whatever_is_missing_or_inactive_is_asked_for_by_its_field() =>
        Assert.Equal([("missing", "driverId"), ("missing", "truckId"), ("missing", "trailerId")], Check(false, false, null, Equipment.Van));

    [Fact]
    public void An_inactive_trailer_cannot_be_chosen() =>
        Assert.Equal([("missing", "trailerId")], Check(true, true, Trailer(Equipment.Van, active: false), Equipment.Van));

    [Fact]
    public void A_reefer_hauls_dry_freight_where_the_company_says_so_and_never_the_other_way()
    {
        Assert.Empty(Check(true, true, Trailer(Equipment.Reefer), Equipment.Van));
        Assert.False(EquipmentMatches.Same.Fits(Equipment.Reefer, Equipment.Van));
        Assert.False(Matches.Fits(Equipment.Van, Equipment.Reefer));
        Assert.Equal([Equipment.Reefer, Equipment.Van], Matches.Hauls(Equipment.Reefer));
        Assert.Equal([Equipment.Van], Matches.Hauls(Equipment.Van));
    }

    [Fact]
    public void A_table_keeps_each_pair_once_and_leaves_out_a_kind_s_own()
    {
        (Equipment?, Equipment?) pair = (Equipment.Tanker, Equipment.Van);
        Assert.Equal(
            [new EquipmentMatch(Equipment.Tanker, Equipment.Van)],
            EquipmentMatches.Check([pair, pair, (Equipment.Van, Equipment.Van)]).Value.Also
        );
        Assert.Empty(EquipmentMatches.Check([]).Value.Also);
        Assert.Equal("matches", EquipmentMatches.Check([((Equipment)77, Equipment.Van)]).Problems.Single().Field);
        Assert.Equal("matches", EquipmentMatches.Check([(null, Equipment.Van)]).Problems.Single().Field);
    }

    [Fact]
    public void A_trailer_has_what_the_load_requires()
    {
        Assert.Empty(Check(true, true, Trailer(Equipment.Van), Equipment.Van, "straps", "liftgate"));
        var validation = new Validation();
        Crew.Check(validation, true, true, Trailer(Equipment.Van), Equipment.Van, ["tarps", "straps", "vents"], Matches);
        var problem = Assert.Single(validation.Problems);
        Assert.Equal(("trailer.features", "trailerId"), (problem.Code, problem.Field));
        Assert.StartsWith("Trailer 5307 has no tarps, vents, and the load requires it: choose another", problem.Message);
    }

    [Fact]
    public void A_trailer_of_another_kind_is_refused() =>
        Assert.Equal([("trailer.equipment", "trailerId")], Check(true, true, Trailer(Equipment.Van), Equipment.Reefer));
}
