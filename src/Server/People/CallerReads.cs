using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.People;

/// <summary>Database connections limited to what the caller may see. Endpoints read only through these.</summary>
public sealed class CallerReads(NpgsqlDataSource source, Replica replica, IHttpContextAccessor caller, IClock clock, BusinessZone zone)
{
    /// <summary>For the caller of the current request.</summary>
    public Task<NpgsqlConnection> Open() => Open(caller.HttpContext?.User.Access() ?? Access.Nobody);

    /// <summary>For the caller of the current request, where the answer may be some seconds late: from the replica, if there is
    /// one.</summary>
    public async Task<NpgsqlConnection> OpenLate() =>
        await Reads.Open(
            await replica.Source(),
            (caller.HttpContext?.User.Access() ?? Access.Nobody).Limits,
            clock.GetCurrentInstant(),
            zone.Zone
        );

    public Task<NpgsqlConnection> Open(Access access, CancellationToken cancel = default) =>
        Reads.Open(source, access.Limits, clock.GetCurrentInstant(), zone.Zone, cancel);
}
