using System.Diagnostics;
using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Basics;

/// <summary>Runs commands, one transaction each, with the HTTP context (user, If-Match, Idempotency-Key) and the response.</summary>
public sealed class Commands(NpgsqlDataSource source, IClock clock, BusinessZone zone)
{
    /// <summary>Begins a command's transaction for the caller.</summary>
    public Task<CommandContext> Begin(Actor actor) =>
        CommandContext.Begin(source, actor, clock.GetCurrentInstant(), zone.Zone, Routing.Roads);

    /// <summary>Runs a command of any kind.</summary>
    public Task<Results<Ok<T>, ProblemHttpResult>> Run<T>(HttpContext http, Func<CommandContext, Task<Outcome<T>>> act) =>
        Run(http, null, act);

    /// <summary>What a command would answer: it is decided like one, and nothing is kept.</summary>
    public Task<Results<Ok<T>, ProblemHttpResult>> Preview<T>(HttpContext http, Func<CommandContext, Task<Outcome<T>>> act) =>
        Run(http, null, act, keep: false);

    /// <summary>
    /// Runs a command on one load: locks it, and answers 409 with the current sheet when If-Match names another version.
    /// </summary>
    public Task<Results<Ok<T>, ProblemHttpResult>> OnLoad<T>(HttpContext http, long loadId, Func<CommandContext, Task<Outcome<T>>> act) =>
        Run(http, loadId, act);

    /// <summary>
    /// Runs a command that moves money. It must carry an Idempotency-Key; the same key with the same request returns the
    /// same response and does nothing again.
    /// </summary>
    public async Task<Results<Ok<T>, ProblemHttpResult>> Money<T>(
        HttpContext http,
        object request,
        Func<CommandContext, Task<Outcome<T>>> act
    ) =>
        http.Request.Headers["Idempotency-Key"].Count == 0
            ? Answers.Refused(
                [new Problem("idempotency.key", "This request moves money: send an Idempotency-Key header of 8 to 200 characters.")],
                StatusCodes.Status400BadRequest
            )
            : await Once(http, request, act);

    /// <summary>Runs a command that may carry an Idempotency-Key, so that a caller without a response can safely retry.</summary>
    public async Task<Results<Ok<T>, ProblemHttpResult>> Once<T>(
        HttpContext http,
        object request,
        Func<CommandContext, Task<Outcome<T>>> act
    )
    {
        if (http.Request.Headers["Idempotency-Key"].Count == 0)
        {
            return await Run(http, act);
        }

        var key = http.Request.Headers["Idempotency-Key"].ToString();
        if (key.Length is < 8 or > 200)
        {
            return Answers.Refused(
                [new Problem("idempotency.key", "An Idempotency-Key must have 8 to 200 characters.")],
                StatusCodes.Status400BadRequest
            );
        }

        var route = $"{http.Request.Method} {http.Request.Path}";
        var hash = SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(request, request.GetType(), Json.Options));
        return await Run<T>(http, null, async w =>
        {
            if (await IdempotencyStore.Take(w, key, route, hash) is { } known)
            {
                return known.Route == route && known.Hash.AsSpan().SequenceEqual(hash)
                    ? JsonSerializer.Deserialize<T>(known.Answer, Json.Options)!
                    : new Problem("idempotency.reused", "This Idempotency-Key was already used for another request: use a new one.");
            }

            var outcome = await act(w);
            if (outcome.Ok)
            {
                await IdempotencyStore.Keep(w, key, JsonSerializer.Serialize(outcome.Value, Json.Options));
            }

            return outcome;
        });
    }

    /// <summary>Runs a command in its span, and counts it.</summary>
    private async Task<Results<Ok<T>, ProblemHttpResult>> Run<T>(
        HttpContext http,
        long? loadId,
        Func<CommandContext, Task<Outcome<T>>> act,
        bool keep = true
    )
    {
        var name = http.GetEndpoint()?.Metadata.GetMetadata<IEndpointNameMetadata>()?.EndpointName ?? "command";
        using var span = Telemetry.Commands.StartActivity(name);
        var began = Stopwatch.GetTimestamp();
        var outcome = "failed";
        try
        {
            var answer = await Decided(http, loadId, act, keep);
            outcome = answer.Result is ProblemHttpResult ? "refused" : "done";
            return answer;
        }
        finally
        {
            span?.SetTag("outcome", outcome);
            Telemetry.Count(name, outcome, Stopwatch.GetElapsedTime(began));
        }
    }

    /// <summary>So often a command is run that PostgreSQL ended because it and another one waited for each other.</summary>
    private const int Attempts = 3;

    private async Task<Results<Ok<T>, ProblemHttpResult>> Decided<T>(
        HttpContext http,
        long? loadId,
        Func<CommandContext, Task<Outcome<T>>> act,
        bool keep
    )
    {
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                return await DecidedOnce(http, loadId, act, keep);
            }
            catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.DeadlockDetected && attempt < Attempts)
            {
                // Nothing of it was kept: it starts anew, after the other one.
            }
        }
    }

    private async Task<Results<Ok<T>, ProblemHttpResult>> DecidedOnce<T>(
        HttpContext http,
        long? loadId,
        Func<CommandContext, Task<Outcome<T>>> act,
        bool keep
    )
    {
        try
        {
            await using var w = await Begin(http.Actor());
            if (loadId is { } id)
            {
                var version = await LoadWrites.Lock(w.Db, id);
                if (version is null)
                {
                    return Answers.NotFound("This load");
                }

                var match = http.Request.Headers.IfMatch.ToString().Trim('"', ' ');
                if (match.Length > 0 && match != "*" && match != version.Value.ToString())
                {
                    return Answers.Refused([Versions.Changed("this load")], newest: await LoadViews.Sheet(w.Db, id, w.Now, w.Zone));
                }
            }

            var outcome = await act(w);
            if (!outcome.Ok)
            {
                return Answers.Refused(outcome.Problems);
            }

            if (keep)
            {
                await w.Commit();
            }

            return TypedResults.Ok(outcome.Value);
        }
        catch (PostgresException e) when (Answers.Of(e) is { } problem)
        {
            return Answers.Refused([problem], StatusCodes.Status409Conflict);
        }
    }
}

/// <summary>The company's time zone, cached once the database is open.</summary>
public sealed class BusinessZone
{
    public DateTimeZone Zone { get; set; } = DateTimeZoneProviders.Tzdb["America/Denver"];
}
