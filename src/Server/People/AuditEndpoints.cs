using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>The audit log.</summary>
public static class AuditEndpoints
{
    /// <summary>Entries in one answer.</summary>
    private const int Max = 100;

    public static void MapAudit(this RouteGroupBuilder api) => api.MapGet("/audit", async (
        long? userId, string? text, string? subject, long? subjectId, string? load, QueryDay? from, QueryDay? until, long? beforeId, NpgsqlDataSource source, BusinessZone zone) =>
    {
        await using var db = await source.OpenConnectionAsync();
        return await AuditStore.Search(
            db,
            new AuditQuery(
                userId, Written(text), Written(subject), subjectId, Written(load), from?.Value.AtStartOfDayInZone(zone.Zone).ToInstant(), until?.Value.PlusDays(1).AtStartOfDayInZone(zone.Zone).ToInstant(), beforeId),
            Max);
    }).Needs(Right.AuditSee).WithName("searchAudit");

    private static string? Written(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim()[..Math.Min(text.Trim().Length, 100)];
}
