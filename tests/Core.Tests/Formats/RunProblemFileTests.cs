using System.Text;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Formats.Routes;
using Xunit;

namespace SteadyLark.Core.Tests.Formats;

/// <summary>Routing problems that bring their own matrix.</summary>
public class RunProblemFileTests
{
    private const string Square = "[[0,4,6],[4,0,3],[6,3,0]]";

    [Fact]
    public void A_problem_is_read_with_depot_windows_and_capacities()
    {
        var (problem, seconds) = Read(
            $$"""{"miles":{{Square}},"minutes":{{Square}},"depot":0,"demands":[0,5,7],"capacities":[8,9],"service":[0,10,15],"windows":[[0,600],null,[60,null]],"shift":480,"objective":"minutes","seconds":2}"""
        ).Value;
        Assert.Equal(
            (3, 2, RunObjective.Minutes, 480d, 2d),
            (problem.Stops.Count, problem.Drivers.Count, problem.Objective, problem.Shift, seconds)
        );
        Assert.Equal([(0, 0, 8L), (0, 0, 9L)], problem.Drivers.Select(d => (d.Start!.Value, d.End!.Value, d.Capacity)));
        Assert.Equal([0L, 5, 7], problem.Stops.Select(s => s.Demand));
        Assert.Equal((60d, RunProblem.Ever), (problem.Stops[2].Opens, problem.Stops[2].Closes));
        Assert.Equal(15, problem.Stops[2].Service);
    }

    [Fact]
    public void Fractional_demands_and_capacities_are_counted_in_thousandths()
    {
        var (problem, _) = Read($$"""{"miles":{{Square}},"depot":0,"demands":[0,0.5,1.25],"capacity":2}""").Value;
        Assert.Equal([0L, 500, 1250], problem.Stops.Select(s => s.Demand));
        Assert.All(problem.Drivers, d => Assert.Equal(2000, d.Capacity));

        // One capacity for all, and as many drivers as there are places to go to.
        Assert.Equal(2, problem.Drivers.Count);
    }

    [Theory]
    [InlineData("fewest", RunShare.Fewest, null)]
    [InlineData("even:3", RunShare.Even, 3)]
    [InlineData("2", RunShare.Any, 2)]
    public void Drivers_are_a_number_fewest_or_even(string text, RunShare share, int? drivers)
    {
        var validation = new SteadyLark.Core.Basics.Validation();
        Assert.Equal((share, drivers), RunProblemFile.Drivers(text, "drivers", validation));
        Assert.True(validation.Ok);
        Assert.Equal(share, Read($$"""{"miles":{{Square}},"depot":0,"drivers":"{{text}}"}""").Value.Problem.Share);
    }

    [Theory]
    [InlineData("[1,2]", "file")]
    [InlineData("{\"miles\":[[0,1],[1", "file")]
    [InlineData("{}", "miles")]
    [InlineData("{\"miles\":[]}", "miles")]
    [InlineData("{\"miles\":[[0,1],[1]]}", "miles[1]")]
    [InlineData("{\"miles\":[[0,\"x\"],[1,0]]}", "miles[0][1]")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"depot\":2}", "depot")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"demands\":[1]}", "demands")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"windows\":[[0],null]}", "windows")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"capacities\":[-1]}", "capacities")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"drivers\":\"even:0\"}", "drivers")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"objective\":\"1\"}", "objective")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"aim\":\"shortest\"}", "objective")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"shift\":0}", "shift")]
    [InlineData("{\"miles\":[[0,1],[1,0]],\"capacities\":[1,2],\"drivers\":3}", "capacities")]
    public void Errors_name_their_field(string json, string field) => Assert.Equal(field, Read(json).Problems[0].Field);

    [Fact]
    public void A_parsed_problem_can_be_planned()
    {
        var (problem, _) = Read($$"""{"minutes":{{Square}},"depot":0,"capacities":[9],"demands":[0,4,5]}""").Value;
        var plan = RunSolver.Solve(problem, TimeSpan.FromSeconds(0.3));
        Assert.Equal((13d, 1, 0), (plan.Driving, plan.Drivers, plan.Unserved.Count));
    }

    private static SteadyLark.Core.Basics.Outcome<(RunProblem Problem, double? Seconds)> Read(string json) =>
        RunProblemFile.Read(Encoding.UTF8.GetBytes(json));
}
