using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Diagnostics;
using Npgsql;
using SteadyLark.Core.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>Malformed requests are explained in plain words; our own bugs are logged and reported as such.</summary>
public sealed partial class ProblemHandler(NpgsqlDataSource source, ILogger<ProblemHandler> log) : IExceptionHandler
{
    private static readonly Problem Away = new(
        "database.away",
        "The database is not responding. What you typed is still here: try again in a moment."
    );

    public async ValueTask<bool> TryHandleAsync(HttpContext httpContext, Exception exception, CancellationToken cancellationToken)
    {
        if (exception is OperationCanceledException && httpContext.RequestAborted.IsCancellationRequested)
        {
            // The client disconnected.
            return true;
        }

        var (problem, status) = Explained(exception);
        if (problem is null)
        {
            log.LogError(exception, "{Method} {Route} failed", httpContext.Request.Method, Logs.Route(httpContext));
            problem = new Problem(
                "our.fault",
                "Something went wrong on our side. Nothing was changed. Try again; if it keeps happening, contact your administrator."
            );
        }

        await Answers.Refused([problem], status).ExecuteAsync(httpContext);
        return true;
    }

    private (Problem? Problem, int Status) Explained(Exception exception)
    {
        switch (exception)
        {
            case BadHttpRequestException e:
                return (Malformed(e), e.StatusCode);
            case PostgresException { SqlState: PostgresErrorCodes.CharacterNotInRepertoire }:
                return (
                    new Problem("bad.character", "The text contains a character that cannot be stored: retype it."),
                    StatusCodes.Status400BadRequest
                );
            case PostgresException { Routine: "RevalidateCachedQuery" }:
                // A migration ran beside this server: statements prepared before it are no longer valid. New connections prepare them
                // again.
                source.Clear();
                return (Away, StatusCodes.Status503ServiceUnavailable);
            case PostgresException
            {
                SqlState: PostgresErrorCodes.TooManyConnections
                    or PostgresErrorCodes.CannotConnectNow
                    or PostgresErrorCodes.AdminShutdown
                    or PostgresErrorCodes.CrashShutdown
            }:
            case NpgsqlException { InnerException: IOException or TimeoutException or System.Net.Sockets.SocketException }:
            case TimeoutException:
                return (Away, StatusCodes.Status503ServiceUnavailable);
            default:
                return (null, StatusCodes.Status500InternalServerError);
        }
    }

    private static Problem Malformed(BadHttpRequestException e)
    {
        if (e.InnerException is JsonException json)
        {
            if (UnknownField().Match(json.Message) is { Success: true } unknown)
            {
                return new Problem(
                    "unknown.field",
                    $"There is no field named {unknown.Groups["name"].Value} here: check its spelling.",
                    unknown.Groups["name"].Value
                );
            }

            var field = json.Path?.TrimStart('$', '.');
            var isType =
                json.Message.Contains("could not be converted", StringComparison.Ordinal)
                || json.Message.Contains("invalid", StringComparison.OrdinalIgnoreCase);
            var why = isType ? "the value has the wrong type" : json.Message.Split(" Path:")[0].TrimEnd('.');
            return new Problem(
                "malformed",
                $"{(string.IsNullOrEmpty(field) ? "The request" : field)} cannot be read: {why}.",
                string.IsNullOrEmpty(field) ? null : field
            );
        }

        return e.StatusCode == StatusCodes.Status413PayloadTooLarge
            ? new Problem("too.large", "This is too large: the limit for a document is 25 MB.", "file")
            : new Problem("malformed", $"The request cannot be read: {e.Message}");
    }

    [GeneratedRegex("JSON property '(?<name>[^']{1,60})' could not be mapped")]
    private static partial Regex UnknownField();
}
