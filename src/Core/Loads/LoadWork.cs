using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>How much of a load an edit may replace.</summary>
public enum EditScope
{
    /// <summary>Everything, stops included.</summary>
    All,

    /// <summary>Everything but the stops: a truck is assigned to them as they are.</summary>
    AllButStops,
}

/// <summary>What can be done with a load in its state. Each refusal says what to do instead.</summary>
/// <param name="Number">For sentences.</param>
/// <param name="Who">The assigned driver or carrier, or null.</param>
/// <param name="Held">Why it is on hold, or null.</param>
public sealed record LoadWork(LoadState State, string Number, string? Who = null, string? Held = null)
{
    /// <summary>Why it cannot be edited; null when it can.</summary>
    /// <param name="asDraft">Whether it would be saved as a draft.</param>
    public Problem? EditRefusal(bool asDraft) =>
        State is LoadState.Billed or LoadState.Closed or LoadState.Cancelled ? Refused("can no longer be changed")
        : asDraft && State != LoadState.Draft
            ? new Problem("load.state", $"Load {Number} is already booked: it cannot become a draft again.", "draft")
        : null;

    /// <summary>How much an edit replaces, or why it may not: once someone is assigned, the stops stay as they are.</summary>
    /// <param name="sameStops">Whether the edit keeps the kinds, places and times of all stops.</param>
    /// <param name="split">Whether it has several legs, which were planned for these stops.</param>
    public Outcome<EditScope> Edit(bool sameStops, bool split) =>
        State is LoadState.Draft or LoadState.Booked && !split ? EditScope.All
        : sameStops ? EditScope.AllButStops
        : split ? new Problem("load.split", $"Load {Number} is split for these stops: join its legs before changing them.", "stops")
        : new Problem("load.covered", $"{Who} is assigned to this load with these stops: unassign it before changing them.", "stops");

    /// <summary>Why it cannot be canceled; null when it can: until a truck has left with the freight.</summary>
    /// <param name="loaded">Whether one has.</param>
    public Problem? CancelRefusal(bool loaded) =>
        State is LoadState.Draft or LoadState.Booked or LoadState.Tendered or LoadState.Covered && !loaded
            ? null
            : Refused("cannot be canceled");

    /// <summary>Why no driver or carrier can be assigned; empty when one can.</summary>
    public Problems CoverRefusals
    {
        get
        {
            var validation = new Validation();
            if (State != LoadState.Booked)
            {
                validation.Add(
                    "load.state",
                    Who is null ? $"Load {Number} is {State.Format()}: book it first."
                        : State == LoadState.Tendered ? $"This load is tendered to {Who}: withdraw the tender first."
                        : $"This load is assigned to {Who}: unassign it first."
                );
            }

            if (Held is not null)
            {
                validation.Add("load.held", $"Load {Number} is on hold: {Held}");
            }

            return validation.Problems;
        }
    }

    /// <summary>Why it cannot be unassigned; null when it can.</summary>
    /// <param name="started">Whether the truck has been at a stop.</param>
    public Problem? UnassignRefusal(bool started) =>
        State is LoadState.Tendered or LoadState.Covered && !started
            ? null
            : new Problem(
                "load.state",
                Who is null ? "This load is not assigned." : $"{Who} has already started: the load can no longer be unassigned."
            );

    /// <summary>Why no event can be recorded at its stops; null when one can.</summary>
    public Problem? StopEventRefusal =>
        State is LoadState.Covered or LoadState.Rolling or LoadState.Delivered ? null
        : Who is null ? new Problem("load.state", "This load is not covered yet: cover it first.")
        : State == LoadState.Tendered ? NotAccepted
        : StopsFixed;

    /// <summary>Why an event at its stops cannot be undone; null when it can.</summary>
    /// <param name="paid">Whether a bill or an approved settlement includes it.</param>
    public Problem? StopUndoRefusal(bool paid) =>
        State is LoadState.Billed or LoadState.Closed
            ? new Problem("load.state", $"Load {Number} is billed: its stops can no longer be changed.")
        : paid ? new Problem("load.paid", $"Pay for load {Number} is already entered: its stops can no longer be changed.")
        : null;

    /// <summary>Why no delivery can be added at its end; null when one can.</summary>
    public Problem? AddStopRefusal =>
        State switch
        {
            LoadState.Covered or LoadState.Rolling => null,
            LoadState.Booked or LoadState.Draft => new Problem("load.state", "This load is not assigned yet: edit the load instead."),
            LoadState.Tendered => NotAccepted,
            _ => StopsFixed,
        };

    /// <summary>Why nothing but a note can be reported about it; null when anything can.</summary>
    public Problem? ReportRefusal =>
        State is LoadState.Covered or LoadState.Rolling or LoadState.Delivered
            ? null
            : new Problem(
                "load.state",
                Who is null
                    ? "Nobody carries this load yet: add a note instead."
                    : $"Load {Number} is {State.Format()}: add a note instead.",
                "kind"
            );

    /// <summary>Why its miles cannot be changed; null when they can.</summary>
    public Problem? MilesRefusal =>
        State is LoadState.Billed or LoadState.Closed or LoadState.Cancelled
            ? new Problem("load.state", $"Load {Number} is {State.Format()}: its miles can no longer be changed.")
            : null;

    /// <summary>Why billing cannot return it to dispatch; null when it can.</summary>
    public Problem? ReturnRefusal =>
        State == LoadState.Delivered
            ? null
            : new Problem(
                "load.not.delivered",
                $"Load {Number} is {State.Format()}: only a delivered, unbilled load can be returned to dispatch."
            );

    /// <summary>Why the truck cannot leave the first pickup; null when it can: whose truck it is must be known before it takes the freight.</summary>
    /// <param name="dispatched">Whether the carrier's driver and truck are recorded; true for our own.</param>
    public Problem? PickupRefusal(bool dispatched) =>
        dispatched ? null : new Problem("carrier.dispatch", $"Enter {Who}’s driver, phone and truck before the freight is picked up.");

    /// <summary>Why the carrier's answer to a tender cannot be recorded; null when it can.</summary>
    public Problem? AnswerRefusal =>
        State == LoadState.Tendered ? null
        : Who is null ? new Problem("load.state", $"Load {Number} is not tendered to a carrier.")
        : new Problem("load.state", $"{Who} has already accepted load {Number}.");

    /// <summary>Why the carrier's driver and truck cannot be entered; null when they can.</summary>
    public Problem? DispatchRefusal =>
        State switch
        {
            LoadState.Covered or LoadState.Rolling => null,
            LoadState.Tendered => NotAccepted,
            _ => new Problem("load.state", $"Load {Number} is {State.Format()}: the carrier’s driver cannot be changed."),
        };

    private Problem NotAccepted => new("load.state", $"{Who} has not accepted this load yet: record the answer first.");

    private Problem StopsFixed => new("load.state", $"Load {Number} is {State.Format()}: its stops can no longer be changed.");

    private Problem Refused(string what) => new("load.state", $"Load {Number} is {State.Format()} and {what}.");
}
