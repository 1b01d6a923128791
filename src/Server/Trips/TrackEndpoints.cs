using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Trips;

/// <summary>A customer's tracking link. Shown once.</summary>
public sealed record TrackLink(string Url);

/// <summary>How many tracking links were revoked.</summary>
public sealed record TrackRevoked(int Count);

/// <summary>What a customer sees: where the load is, and its ETA. Not who hauls it, for how much, or what else is on board.</summary>
/// <param name="Where">In words: left Great Falls MT; at Spokane WA; waiting for pickup.</param>
/// <param name="Zone">Zone of the delivery, for the range.</param>
public sealed record TrackView(
    string Business,
    string Phone,
    string? Reference,
    string From,
    string To,
    string Where,
    LocalDateTime? ExpectedFrom,
    LocalDateTime? ExpectedUntil,
    string Zone,
    LocalDateTime? DeliveredAt
);

public static class TrackEndpoints
{
    /// <summary>ETAs are shown as a range of this width to either side, because they are estimates.</summary>
    private static readonly Duration Around = Duration.FromHours(1);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/loads/{id:long}/track", (long id, HttpContext http, Commands commands, LarkSettings settings) =>
                commands.OnLoad(http, id, async w =>
                {
                    var load = (await LoadReads.ByIds(w.Db, [id]))[0];
                    if (load.State is LoadState.Draft or LoadState.Cancelled)
                    {
                        return (Outcome<TrackLink>)
                            new Problem("load.state", $"Load {load.Number} is {load.State.Format()}: there is nothing to track.");
                    }

                    var token = await LoadWrites.CreateTrackLink(w, id);
                    w.Record(EventKinds.LoadTrackLink, id, $"Tracking link for {load.Number} created", loadId: id);
                    return new TrackLink($"{settings.Url}/track/{token}");
                })
            )
            .Needs(Right.LoadsRoll)
            .WithName("createTrackingLink");

        api.MapPost("/loads/{id:long}/track/revoke", (long id, HttpContext http, Commands commands) => commands.OnLoad(http, id, async w =>
                {
                    var load = (await LoadReads.ByIds(w.Db, [id]))[0];
                    var count = await LoadWrites.RevokeTrackLinks(w, id);
                    if (count == 0)
                    {
                        return (Outcome<TrackRevoked>)new Problem("link.none", $"Load {load.Number} has no tracking link to revoke.");
                    }

                    w.Record(EventKinds.LoadTrackRevoked, id, $"Tracking links for {load.Number} revoked", loadId: id);
                    return new TrackRevoked(count);
                }))
            .Needs(Right.LoadsRoll)
            .WithName("revokeTrackingLinks");

        api.MapGet("/track/{token}", async Task<IResult> (string token, CallerReads reads, IClock clock) =>
            {
                await using var db = await reads.Open();
                var id = await LoadReads.ByTrackToken(db, token, clock.GetCurrentInstant());
                if (id == 0)
                {
                    return Answers.NotFound("This tracking link");
                }

                var load = (await LoadReads.ByIds(db, [id]))[0];
                var business = (await Business.Read(db))!;
                return TypedResults.Ok(await Of(db, load, business, clock.GetCurrentInstant()));
            })
            .IsOpen("a customer tracks a load here, through a link with 192 random bits")
            .RequireRateLimiting(Limits.Link)
            .Produces<TrackView>()
            .ProducesProblem(404)
            .WithName("trackLoad");
    }

    private static async Task<TrackView> Of(NpgsqlConnection db, LoadRow load, Business business, Instant now)
    {
        static string Town(StopRow s) => $"{s.Town} {s.Region}";
        var last = load.Stops[^1];
        var zone = WallClock.Zone(last.Zone) ?? DateTimeZone.Utc;
        var visits = load.State is LoadState.Covered or LoadState.Rolling
            ? (await LoadViews.Visits(db, [load], now)).GetValueOrDefault(load.Id) ?? []
            : [];
        LocalDateTime? At(Instant? at) => at?.InZone(zone).LocalDateTime.With(TimeAdjusters.TruncateToMinute);
        var expected = visits.Count > 0 && !visits[^1].Done ? visits[^1].Arrives : (Instant?)null;
        var reached = load.Stops.LastOrDefault(s => s.ArrivedAt is not null);
        var where = load.State switch
        {
            LoadState.Cancelled => "canceled",
            LoadState.Delivered or LoadState.Billed or LoadState.Closed => $"delivered in {Town(last)}",
            _ when reached is null => $"waiting for pickup in {Town(load.Stops[0])}",
            _ when reached.LeftAt is null && reached.DeliveredAt is null => $"at the stop in {Town(reached)}",
            _ when await LoadViews.Seen(db, load, now, gate: false) is { } seen => $"on the road, {seen.Where} at {seen.At.Format(zone)}",
            _ => $"on the road, left {Town(reached)}",
        };
        return new TrackView(
            business.Name,
            business.Phone,
            load.Reference,
            Town(load.Stops[0]),
            Town(last),
            where,
            At(expected - Around),
            At(expected + Around),
            last.Zone ?? "UTC",
            load.State is LoadState.Delivered or LoadState.Billed or LoadState.Closed ? At(last.DeliveredAt ?? last.LeftAt) : null
        );
    }
}
