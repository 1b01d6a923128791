using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

/// <summary>What trailers have and loads require.</summary>
public class TrailerFeatureTests
{
    private static readonly FeatureUse[] Now = [new("liftgate", 2, 0), new("tarps", 0, 1), new("vents", 0, 0)];

    private static string List(params FeatureOrder?[] rows)
    {
        var list = TrailerFeatures.CheckList(rows, Now);
        return list.Ok
            ? string.Join(", ", list.Value.Select(f => f.Was == f.Name ? f.Name : $"{f.Was ?? "new"} > {f.Name}"))
            : string.Join(" | ", list.Problems.Select(p => $"{p.Field}: {p.Message}"));
    }

    [Fact]
    public void The_list_is_reordered_renamed_added_to_and_shortened() =>
        Assert.Equal(
            "tarps > lumber tarps, liftgate, new > chains",
            List(new("tarps", " Lumber tarps"), new("liftgate", "liftgate"), new(null, "Chains"))
        );

    [Fact]
    public void Names_may_be_swapped() =>
        Assert.Equal(
            "liftgate > tarps, tarps > liftgate, vents",
            List(new("liftgate", "tarps"), new("tarps", "liftgate"), new("vents", "vents"))
        );

    [Fact]
    public void What_is_in_use_stays_and_each_name_is_there_once()
    {
        Assert.Equal(
            "features: Liftgate cannot be removed: 2 trailers have it. Take it off them first. | features: Tarps cannot be removed: 1 load requires it.",
            List(new FeatureOrder("vents", "vents"))
        );
        Assert.Equal(
            "features[3].name: There are two features named vents.",
            List(new("liftgate", "liftgate"), new("tarps", "tarps"), new("vents", "vents"), new(null, "VENTS"))
        );
        Assert.Equal(
            "features[2].name: This feature is no longer on the list: reload the page. | features[3].name: The name of the feature is required.",
            List(new("liftgate", "liftgate"), new("tarps", "tarps"), new("winch", "winch"), null)
        );
        Assert.Equal("too.many", TrailerFeatures.CheckList(new FeatureOrder?[61], Now).Problems.Single().Code);
        Assert.StartsWith(
            "features[2].name: The name of the feature has 31 characters",
            List(new("liftgate", "liftgate"), new("tarps", "tarps"), new(null, new string('x', 31)))
        );
    }

    [Fact]
    public void Choices_are_of_the_list_in_its_order()
    {
        string[] known = ["liftgate", "tarps", "vents"];
        var validation = new Validation();
        Assert.Equal(["liftgate", "vents"], TrailerFeatures.Read([" Vents", "liftgate", "vents", null, ""], known, "features", validation));
        Assert.True(validation.Ok);
        TrailerFeatures.Read(["winch"], known, "features", validation);
        var problem = Assert.Single(validation.Problems);
        Assert.Equal(
            ("features", "winch is not on the list of features: choose from the list, or add it in Setup."),
            (problem.Field, problem.Message)
        );
    }

    [Fact]
    public void A_trailer_keeps_what_its_loads_require_and_a_covered_load_requires_what_its_trailer_has()
    {
        Assert.Null(TrailerFeatures.TakenOffRefusal("5307", ["tarps"], [("4471", "tarps")]));
        Assert.Equal(
            "Load 4471, which trailer 5307 is assigned to, requires tarps: assign another trailer first.",
            TrailerFeatures.TakenOffRefusal("5307", ["vents"], [("4471", "tarps")])!.Message
        );
        Assert.Null(TrailerFeatures.AddedRefusal(["tarps"], [("5307", ["tarps", "vents"])]));
        Assert.Equal(
            "features",
            TrailerFeatures.AddedRefusal(["tarps", "winch"], [("5301", ["tarps", "winch"]), ("5307", ["tarps"])])!.Field
        );
        Assert.Equal("no winch", TrailerFeatures.Lacks(["tarps"], ["tarps", "winch"]));
    }
}
