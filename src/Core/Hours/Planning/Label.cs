namespace SteadyLark.Core.Hours.Planning;

/// <summary>What a schedule does, from one second until another, with the one before it.</summary>
/// <param name="Driven">Seconds of driving on the way to the visit, to where it ends.</param>
internal sealed record Step(PlannedKind Kind, long From, long Until, Func<string> Why, int Visit, int Seat, long Driven, string? Place)
{
    public Step? Before { get; init; }
}

/// <summary>A visit of a schedule, with the one before it.</summary>
internal sealed record Visited(int Visit, long Arrives, long Begins, long Leaves, Visited? Before);

/// <summary>A schedule up to an instant.</summary>
internal sealed record Label
{
    public long At { get; init; }

    /// <summary>Seconds of driving along the road.</summary>
    public long Position { get; init; }

    public long Late { get; init; }
    public long Leaves { get; init; }

    /// <summary>Of arrivals.</summary>
    public long Sum { get; init; }

    public int Seat { get; init; }
    public required HoursClock[] Clocks { get; init; }
    public Step? Step { get; init; }
    public Visited? Visits { get; init; }

    /// <summary>Where the shift began that is open; null when it had before the plan.</summary>
    public Label? Began { get; init; }

    /// <summary>How much later it can begin without making a visit late.</summary>
    public long Float { get; init; }

    public bool Replaced { get; set; }

    /// <summary>Whether what can follow it is known already.</summary>
    public bool Followed { get; set; }

    /// <summary>The least lateness and the earliest end it can come to.</summary>
    public (long Late, long Done) Bound { get; set; }

    public Label Then(HoursClock[] clocks, Step step) =>
        this with
        {
            Clocks = clocks,
            At = step.Until,
            Step = step with { Before = Step },
            Replaced = false,
            Followed = false,
        };

    public bool Replaces(Label other, bool split)
    {
        if (At > other.At || Position < other.Position || Late > other.Late || Seat != other.Seat)
        {
            return false;
        }

        for (var i = 0; i < Clocks.Length; i++)
        {
            if (!Clocks[i].NoWorseThan(other.Clocks[i], At, other.At, split))
            {
                return false;
            }
        }

        return true;
    }
}
