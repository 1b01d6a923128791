using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>The audit log.</summary>
public static class AuditEndpoints
{
    /// <summary>Entries per response.</summary>
    private const int Max = 100;

    public static void MapAudit(this RouteGroupBuilder api) =>
        api.MapGet(
                "/audit",
                async (
                    long? userId,
                    string? text,
                    string? subject,
                    long? subjectId,
                    string? load,
                    QueryDay? from,
                    QueryDay? until,
                    long? beforeId,
                    NpgsqlDataSource source,
                    BusinessZone zone,
                    HttpContext http
                ) =>
                {
                    await using var db = await source.OpenConnectionAsync();
                    var rows = await AuditStore.Search(
                        db,
                        new AuditQuery(
                            userId,
                            Written(text),
                            Written(subject),
                            subjectId,
                            Written(load),
                            from?.Value.AtStartOfDayInZone(zone.Zone).ToInstant(),
                            until?.Value.PlusDays(1).AtStartOfDayInZone(zone.Zone).ToInstant(),
                            beforeId
                        ),
                        Max
                    );
                    return rows.Select(r => Trimmed(r, http.User.Access())).ToList();
                }
            )
            .Needs(Right.AuditSee)
            .WithName("searchAudit");

    /// <summary>The audit log shows that something was done; amounts are visible to those who may see them.</summary>
    private static AuditRow Trimmed(AuditRow row, Access access) =>
        EventRights.MayHear(access, row.Kind) && EventRights.SeesAmounts(access, row.Kind)
            ? row
            : row with
            {
                Summary = Amounts.Remove(row.Summary),
                Before = null,
                After = null,
            };

    private static string? Written(string? text) =>
        string.IsNullOrWhiteSpace(text) ? null : text.Trim()[..Math.Min(text.Trim().Length, 100)];
}
