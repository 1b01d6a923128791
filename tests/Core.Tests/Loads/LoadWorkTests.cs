using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class LoadWorkTests
{
    private static LoadWork Load(LoadState state, string? held = null) =>
        new(
            state,
            "6151",
            state is LoadState.Draft or LoadState.Quoted or LoadState.Booked or LoadState.Cancelled ? null : "R. Begaye",
            held
        );

    [Theory]
    [InlineData(LoadState.Draft, "edit stops draft cancel")]
    [InlineData(LoadState.Booked, "edit stops cancel cover")]
    [InlineData(LoadState.Tendered, "edit cancel unassign answer")]
    [InlineData(LoadState.Covered, "edit cancel unassign dispatch record addStop report")]
    [InlineData(LoadState.Rolling, "edit dispatch record addStop report")]
    [InlineData(LoadState.Delivered, "edit record report return")]
    [InlineData(LoadState.Billed, "")]
    [InlineData(LoadState.Closed, "")]
    [InlineData(LoadState.Cancelled, "")]
    public void Each_state_allows_what_its_freight_still_permits(LoadState state, string allowed)
    {
        var load = Load(state);
        var can = new (string Name, bool Can)[]
        {
            ("edit", load.EditRefusal(asDraft: false) is null),
            ("stops", load.EditRefusal(asDraft: false) is null && load.Edit(sameStops: false, split: false).Ok),
            ("draft", load.EditRefusal(asDraft: true) is null),
            ("cancel", load.CancelRefusal(loaded: false) is null),
            ("cover", !load.CoverRefusals.Any),
            ("unassign", load.UnassignRefusal(started: false) is null),
            ("answer", load.AnswerRefusal is null),
            ("dispatch", load.DispatchRefusal is null),
            ("record", load.StopEventRefusal is null),
            ("addStop", load.AddStopRefusal is null),
            ("report", load.ReportRefusal is null),
            ("return", load.ReturnRefusal is null),
        };
        Assert.Equal(allowed, string.Join(' ', can.Where(c => c.Can).Select(c => c.Name)));
        Assert.Equal(state is LoadState.Billed or LoadState.Closed or LoadState.Cancelled, load.MilesRefusal is not null);
    }

    [Fact]
    public void Once_someone_is_assigned_an_edit_keeps_the_stops()
    {
        Assert.Equal(EditScope.All, Load(LoadState.Booked).Edit(sameStops: false, split: false).Value);
        Assert.Equal(EditScope.AllButStops, Load(LoadState.Rolling).Edit(sameStops: true, split: false).Value);
        var refused = Load(LoadState.Covered).Edit(sameStops: false, split: false).Problems[0];
        Assert.Equal(
            ("stops", "R. Begaye is assigned to this load with these stops: unassign it before changing them."),
            (refused.Field, refused.Message)
        );
    }

    [Fact]
    public void Refusals_say_what_to_do_instead()
    {
        Assert.Equal("Load 6151 is covered and cannot be canceled.", Load(LoadState.Covered).CancelRefusal(loaded: true)!.Message);
        Assert.Equal("Load 6151 is rolling and cannot be canceled.", Load(LoadState.Rolling).CancelRefusal(loaded: false)!.Message);
        Assert.Equal("Load 6151 is billed and can no longer be changed.", Load(LoadState.Billed).EditRefusal(false)!.Message);
        Assert.Equal(
            "R. Begaye has already started: the load can no longer be unassigned.",
            Load(LoadState.Covered).UnassignRefusal(started: true)!.Message
        );
        Assert.Equal("This load is not assigned.", Load(LoadState.Booked).UnassignRefusal(started: false)!.Message);
        Assert.Equal("This load is not covered yet: cover it first.", Load(LoadState.Booked).StopEventRefusal!.Message);
        Assert.Equal("This load is not assigned yet: edit the load instead.", Load(LoadState.Draft).AddStopRefusal!.Message);
        Assert.Equal("Nobody carries this load yet: add a note instead.", Load(LoadState.Booked).ReportRefusal!.Message);
        Assert.Equal(
            "This load is tendered to R. Begaye: withdraw the tender first.",
            Load(LoadState.Tendered).CoverRefusals.Single().Message
        );
        Assert.Equal(
            "R. Begaye has not accepted this load yet: record the answer first.",
            Load(LoadState.Tendered).StopEventRefusal!.Message
        );
        Assert.Equal("R. Begaye has already accepted load 6151.", Load(LoadState.Covered).AnswerRefusal!.Message);
        Assert.Equal("carrier.dispatch", Load(LoadState.Covered).PickupRefusal(dispatched: false)!.Code);
        Assert.Null(Load(LoadState.Covered).PickupRefusal(dispatched: true));
        Assert.Equal("load.paid", Load(LoadState.Delivered).StopUndoRefusal(paid: true)!.Code);
        Assert.Null(Load(LoadState.Delivered).StopUndoRefusal(paid: false));
    }

    [Fact]
    public void A_load_on_hold_is_not_covered_and_says_why() =>
        Assert.Equal(["load.held"], Load(LoadState.Booked, held: "over its credit limit").CoverRefusals.Select(p => p.Code));

    [Fact]
    public void A_covered_load_on_hold_names_both_reasons() =>
        Assert.Equal(["load.state", "load.held"], Load(LoadState.Covered, held: "disputed").CoverRefusals.Select(p => p.Code));
}
