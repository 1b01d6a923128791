using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Loading;

namespace SteadyLark.Core.Trips;

/// <summary>A trailer of a trip.</summary>
/// <param name="Unit">Its unit number.</param>
/// <param name="Features">What it has besides its kind.</param>
public sealed record TripTrailer(
    long Id,
    string Unit,
    Equipment Equipment,
    TrailerSize Size,
    TrailerLayout Layout,
    IReadOnlyList<string> Features
);

/// <summary>A trip's truck and its trailers.</summary>
/// <param name="TruckTareLb">The truck's own weight with fuel and driver.</param>
/// <param name="Trailers">The one the trip is assigned first, which is hooked from the beginning unless the trip hooks it; then those it
/// hooks on the way. Empty for a truck alone.</param>
public sealed record Rig(int TruckTareLb, IReadOnlyList<TripTrailer> Trailers)
{
    public TripTrailer? First => Trailers.Count > 0 ? Trailers[0] : null;

    /// <summary>The trailer a leg's freight is in; null without one.</summary>
    public TripTrailer? Of(TripLeg leg) => leg.TrailerId is { } id ? Trailers.FirstOrDefault(t => t.Id == id) : First;

    /// <summary>What the truck and one of its trailers may carry; a typical van's limits without one.</summary>
    public TripLimits Limits(TripTrailer? trailer) =>
        new(trailer?.Size ?? TrailerSize.Typical(Equipment.Van), TruckTareLb) { Layout = trailer?.Layout ?? TrailerLayout.None };

    /// <summary>With another trailer, unless it is one of them.</summary>
    public Rig With(TripTrailer trailer) => Trailers.Any(t => t.Id == trailer.Id) ? this : this with { Trailers = [.. Trailers, trailer] };
}

/// <summary>A trailer's part of a trip.</summary>
/// <param name="From">When it is hooked on the way; null for from the trip's beginning.</param>
/// <param name="Until">When it is dropped on the way; null for to the trip's end.</param>
/// <param name="Hooked">When it was hooked on the way; null while it is not, as with <paramref name="Dropped"/>.</param>
public sealed record TrailerPart(TripTrailer Trailer, Instant? From, Instant? Until, Instant? Hooked, Instant? Dropped)
{
    /// <summary>Whether it is the trip's for all of it.</summary>
    public bool IsWhole => From is null && Until is null;

    /// <summary>When it is booked, of the time for which the trip is.</summary>
    public Span Of(Span trip)
    {
        var from = Instant.Min(Instant.Max(From ?? trip.From, trip.From), trip.Until);
        return new Span(from, Instant.Max(Instant.Min(Until ?? trip.Until, trip.Until), from));
    }
}

/// <summary>Which of a trip's trailers are hooked: they are hooked and dropped by stops of its own, and with freight that is left or taken in its
/// trailer.</summary>
public static class TripTrailers
{
    /// <summary>At most so many at a time: a truck tractor, a semitrailer and a trailer.</summary>
    public const int MostAtATime = 2;

    /// <summary>The longest that either of two trailers may be without a permit: 28 feet 6 inches, 23 CFR 658.13(b)(5). Longer ones are longer
    /// combination vehicles, 23 CFR 658.23.</summary>
    public const int LongestOfTwoIn = 342;

    /// <summary>A trailer that is hooked or dropped at a visit.</summary>
    /// <param name="Alone">Whether that is what the stop is for; with freight in it otherwise.</param>
    private sealed record Changed(bool Hooks, long TrailerId, bool Alone);

    /// <summary>The trailers that are hooked after each visit, in the order in which that was done.</summary>
    public static IReadOnlyList<IReadOnlyList<TripTrailer>> Hooked(IReadOnlyList<Visit> visits, Rig rig)
    {
        var behind = Beginning(visits, rig);
        var after = new List<IReadOnlyList<TripTrailer>>(visits.Count);
        foreach (var visit in visits)
        {
            behind = After(behind, visit, rig);
            after.Add(rig.Trailers.Where(t => behind.Contains(t.Id)).OrderBy(t => behind.IndexOf(t.Id)).ToList());
        }

        return after;
    }

    /// <summary>Whether a trip's trailers change on the way, or it has several.</summary>
    public static bool Change(IReadOnlyList<Visit> visits, Rig rig) =>
        rig.Trailers.Count > 1 || (rig.Trailers.Count == 1 && visits.Any(v => Changes(v, rig).Any()));

    /// <summary>Why trailers are not where a trip's visits need them, at the first visit ahead at which they are not: freight whose trailer is not hooked,
    /// a trailer hooked twice, dropped with freight in it, or too many at a time; null when they are.</summary>
    public static Problem? Refuses(IReadOnlyList<Visit> visits, Rig rig)
    {
        if (!Change(visits, rig))
        {
            return null;
        }

        var behind = Beginning(visits, rig);
        var aboard = Itinerary.Aboard(visits);
        for (var i = 0; i < visits.Count; i++)
        {
            var visit = visits[i];
            if (!visit.Reached && (Elsewhere(visits, i, rig) ?? Refuses(visit, i == 0 ? [] : aboard[i - 1], behind, rig)) is { } problem)
            {
                return problem;
            }

            behind = After(behind, visit, rig);
        }

        return null;
    }

    /// <summary>A trip's trailers, each with its part of the trip; without those it has nothing to do with any more.</summary>
    /// <param name="booked">When the trip is booked.</param>
    public static IReadOnlyList<TrailerPart> Parts(IRoads roads, IReadOnlyList<Visit> visits, Rig rig, Span booked, Instant now)
    {
        var points = Itinerary.Points(roads, visits);
        return Parts(
            visits,
            rig,
            visits.Any(v => v.Reached)
                ? Expectations.Of(roads, points, now).Select(e => (e.Arrives, e.Leaves)).ToList()
                : TripPlan.Build(roads, points, booked.From).Stops.Select(s => (s.Arrives, s.Leaves)).ToList()
        );
    }

    /// <summary>The same when it is known when each visit is expected.</summary>
    public static IReadOnlyList<TrailerPart> Parts(IReadOnlyList<Visit> visits, IReadOnlyList<ExpectedVisit> expected, Rig rig) =>
        Parts(visits, rig, expected.Select(e => (e.Arrives, e.Leaves)).ToList());

    private static List<TrailerPart> Parts(IReadOnlyList<Visit> visits, Rig rig, IReadOnlyList<(Instant Arrives, Instant Leaves)> times)
    {
        var changes = visits.Select((v, i) => (At: i, All: Changes(v, rig).ToList())).Where(c => c.All.Count > 0).ToList();
        return rig.Trailers.Where(t => t == rig.First || Uses(t)).Select(Part).ToList();

        bool Uses(TripTrailer t) => changes.Exists(c => c.All.Exists(x => x.TrailerId == t.Id)) || visits.Any(v => v.Leg.TrailerId == t.Id);

        TrailerPart Part(TripTrailer t)
        {
            var own = changes.SelectMany(c => c.All.Where(x => x.TrailerId == t.Id).Select(x => (c.At, x.Hooks))).ToList();
            int? first = own.Count > 0 && own[0].Hooks ? own[0].At : null;
            // Where the trip itself ends, the trailer's part does.
            int? last = own.Count > 0 && !own[^1].Hooks && own[^1].At < visits.Count - 1 ? own[^1].At : null;
            return new TrailerPart(
                t,
                first is { } f ? times[f].Arrives : null,
                last is { } l ? times[l].Leaves : null,
                first is { } h && visits[h].Reached ? Done(visits[h]) : null,
                last is { } d && visits[d].Stop.Done ? Done(visits[d]) : null
            );
        }

        static Instant Done(Visit v) => (v.Stop.Left ?? v.Stop.Arrived ?? v.Stop.Delivered)!.Value;
    }

    /// <summary>The stop at which a trip drops a trailer that it hooks again there; null when it is hooked where it is before the trip.</summary>
    /// <param name="where">Where it is to be hooked; null for where it is.</param>
    /// <param name="before">Where it is before the trip; null when unknown.</param>
    public static Visit? HookedAgainAt(IReadOnlyList<Visit> visits, Rig rig, TripTrailer trailer, GeoPoint? where, UnitStand? before)
    {
        var own = visits.Where(v => v.Leg.Own is not null && Changes(v, rig).Any(c => c.TrailerId == trailer.Id)).ToList();
        return
            own.LastOrDefault(v => v.Leg.Own!.Kind == TripStopKind.Drop) is { } dropped
            && (
                before is null
                || own.Any(v => v.Leg.Own!.Kind == TripStopKind.Hook)
                || (where is { } at && UnitStand.Near(dropped.Stop.Point, at) && !before.IsAt(at))
            )
            ? dropped
            : null;
    }

    /// <summary>The last visit at which a trailer is hooked or dropped, or has freight in it; below 0 without one.</summary>
    /// <param name="trailer">Null for the one the trip is assigned.</param>
    internal static int LastUse(IReadOnlyList<Visit> visits, Rig rig, long? trailer)
    {
        var id = trailer ?? rig.First?.Id;
        return visits
            .ToList()
            .FindLastIndex(v => (v.Leg.Carries && rig.Of(v.Leg)?.Id == id) || Changes(v, rig).Any(c => c.TrailerId == id));
    }

    /// <summary>That a trailer is none of a trip's.</summary>
    public static Problem NotOnTrip(string trip) => new("missing", $"Choose one of the trailers of trip {trip}.", "trailerId");

    /// <summary>Between which visits a leg's stops may come: where its trailer is hooked.</summary>
    /// <param name="first">The first place that may be, from 0 for before the first visit,</param>
    /// <param name="last">and the last.</param>
    internal static (int First, int Last) Range(IReadOnlyList<Visit> visits, Rig rig, TripLeg leg, int first, int last)
    {
        if (leg.HooksTrailer || rig.Of(leg) is not { } trailer)
        {
            return (first, last);
        }

        var own = visits.SelectMany((v, i) => Changes(v, rig).Where(c => c.TrailerId == trailer.Id).Select(c => (At: i, c.Hooks))).ToList();
        return own.Count == 0
            ? (first, last)
            : (own[0].Hooks ? Math.Max(first, own[0].At + 1) : first, own[^1].Hooks ? last : Math.Min(last, own[^1].At));
    }

    /// <summary>Why a trailer is not hooked on the way; null when it is.</summary>
    /// <param name="trailer">Null when there is no such trailer.</param>
    /// <param name="loadedWith">The load whose freight waits in it; null when it is empty.</param>
    public static Problem? HookRefuses(TripTrailer? trailer, bool active, string? loadedWith) =>
        trailer is null || !active ? new Problem("missing", "Choose one of our trailers.", "trailerId")
        : loadedWith is { } load ? new Problem("trailer.loaded", StandsLoaded(trailer.Unit, load), "trailerId")
        : null;

    /// <summary>That a trailer has the freight of a load in it, and what to do, in a sentence.</summary>
    internal static string StandsLoaded(string unit, string load) =>
        $"Trailer {unit} stands loaded with load {load}: assign the next leg of that load instead.";

    /// <summary>Those of a trip's trailers that haul a load, by id; null in place of the one the trip is assigned, as legs name it.</summary>
    /// <param name="needs">The equipment the load needs; null for any.</param>
    /// <param name="required">The features it requires.</param>
    public static IReadOnlyList<long?> For(Rig rig, Equipment? needs, IReadOnlyList<string> required, EquipmentMatches matches) =>
        rig
            .Trailers.Where(t => matches.Fits(t.Equipment, needs) && TrailerFeatures.Lacks(t.Features, required) is null)
            .Select(t => Named(rig, t.Id))
            .ToList();

    /// <summary>A trailer as legs name it: null for the one the trip is assigned.</summary>
    public static long? Named(Rig rig, long trailer) => trailer == rig.First?.Id ? null : trailer;

    /// <summary>Why a leg's freight does not go into another trailer of its trip; null when it does.</summary>
    /// <param name="trailer">Null when the trip has no such trailer.</param>
    /// <param name="reached">Whether it was picked up.</param>
    public static Problem? ChangeRefuses(string trip, TripLeg leg, TripTrailer? trailer, bool reached) =>
        trailer is null ? NotOnTrip(trip)
        : reached ? new Problem("trailer.aboard", $"Load {leg.Number} is already loaded: it cannot change trailers.", "trailerId")
        : leg.HooksTrailer || leg.DropsTrailer
            ? new Problem("trailer.dropped", $"Load {leg.Number} changes trucks in its trailer, so it stays in it.", "trailerId")
        : null;

    private static Problem? Refuses(Visit visit, IReadOnlyList<TripLeg> aboard, IReadOnlyList<long> behind, Rig rig)
    {
        foreach (var change in Changes(visit, rig))
        {
            var trailer = rig.Trailers.First(t => t.Id == change.TrailerId);
            if (
                change.Hooks
                && (behind.Contains(trailer.Id) ? Twice(change, trailer, visit) : TooMany(trailer, visit, behind, rig)) is { } many
            )
            {
                return many;
            }

            if (!change.Hooks && !behind.Contains(trailer.Id) && change.Alone)
            {
                return new Problem(
                    "trailer.dropped",
                    $"Trailer {trailer.Unit} is not hooked in {visit.Town}: hook it first, or change the order of the stops."
                );
            }

            if (!change.Hooks && aboard.FirstOrDefault(l => l != visit.Leg && rig.Of(l) == trailer) is { } left)
            {
                return new Problem(
                    "trailer.aboard",
                    $"Load {left.Number} is in trailer {trailer.Unit} in {visit.Town}: deliver it before dropping the trailer."
                );
            }
        }

        return visit.Leg.Carries && rig.Of(visit.Leg) is { } needed && !behind.Contains(needed.Id) && !Changes(visit, rig).Any(c => c.Hooks)
            ? new Problem(
                "trailer.away",
                $"Load {visit.Leg.Number} is assigned to trailer {needed.Unit}, which is not hooked in {visit.Town}: hook it first, or change the order of the stops."
            )
            : null;
    }

    /// <summary>That a trailer is hooked again elsewhere than where the trip dropped it.</summary>
    private static Problem? Elsewhere(IReadOnlyList<Visit> visits, int at, Rig rig) =>
        visits[at].Leg.Own is { Kind: TripStopKind.Hook } hook
        && visits
            .Take(at)
            .Reverse()
            .FirstOrDefault(v => Changes(v, rig).Any(c => !c.Hooks && c.TrailerId == (hook.TrailerId ?? rig.First?.Id)))
            is { } dropped
        && !UnitStand.Near(dropped.Stop.Point, hook.Point)
            ? new Problem("trailer.elsewhere", $"Trailer {hook.Trailer} is dropped in {dropped.Town}: hook it there.")
            : null;

    private static Problem? Twice(Changed change, TripTrailer trailer, Visit visit) =>
        change.Alone ? new Problem("trailer.hooked", $"Trailer {trailer.Unit} is already hooked in {visit.Town}: drop it first.") : null;

    private static Problem? TooMany(TripTrailer trailer, Visit visit, IReadOnlyList<long> behind, Rig rig)
    {
        if (behind.Count == 0)
        {
            return null;
        }

        var others = rig.Trailers.Where(t => behind.Contains(t.Id)).ToList();
        if (behind.Count >= MostAtATime)
        {
            return new Problem(
                "trailer.most",
                $"The truck already pulls trailers {others.Select(t => t.Unit).ToList().Listed()} in {visit.Town}: drop one before hooking {trailer.Unit}."
            );
        }

        return others.Append(trailer).FirstOrDefault(t => t.Size.LengthIn > LongestOfTwoIn) is { } tooLong
            ? new Problem(
                "trailer.long",
                $"Trailer {tooLong.Unit} is {Capacity.Feet(tooLong.Size.LengthIn)} long: in doubles each trailer may be up to 28 ft 6 in without a permit (23 CFR 658.13). Drop {others[0].Unit} before hooking {trailer.Unit} in {visit.Town}."
            )
            : null;
    }

    /// <summary>The trailer hooked when the trip begins: the one it is assigned, unless it is hooked before it is used.</summary>
    private static List<long> Beginning(IReadOnlyList<Visit> visits, Rig rig)
    {
        if (rig.First is not { } first)
        {
            return [];
        }

        var use = visits.FirstOrDefault(v =>
            (v.Reached && v.Leg.Carries && rig.Of(v.Leg) == first) || Changes(v, rig).Any(c => c.TrailerId == first.Id)
        );
        return use is not null && Changes(use, rig).Any(c => c.Hooks && c.TrailerId == first.Id) ? [] : [first.Id];
    }

    private static List<long> After(List<long> behind, Visit visit, Rig rig)
    {
        foreach (var change in Changes(visit, rig))
        {
            behind = change.Hooks
                ? [.. behind.Where(t => t != change.TrailerId), change.TrailerId]
                : behind.Where(t => t != change.TrailerId).ToList();
        }

        return behind;
    }

    private static IEnumerable<Changed> Changes(Visit visit, Rig rig)
    {
        if (visit.Leg.Own is { } own)
        {
            if (TripStops.OfTrailer(own.Kind) && (own.TrailerId ?? rig.First?.Id) is { } trailer)
            {
                yield return new Changed(own.Kind == TripStopKind.Hook, trailer, true);
            }

            yield break;
        }

        if (rig.Of(visit.Leg) is { } loaded)
        {
            if (visit.Begins && visit.Leg.HooksTrailer)
            {
                yield return new Changed(true, loaded.Id, false);
            }

            if (visit.Ends && visit.Leg.DropsTrailer)
            {
                yield return new Changed(false, loaded.Id, false);
            }
        }
    }
}
