using NodaTime;
using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>What the job scheduler's tables say about its health.</summary>
public static class ScheduleStore
{
    /// <summary>Jobs that no server has started for so long, or that the scheduler gave up. The scheduler counts in ticks of 100 ns since
    /// the year 1.</summary>
    public static Task<List<string>> Stuck(NpgsqlConnection db, Instant now, Duration patience) =>
        db.Rows(
            "select trigger_name from jobs.qrtz_triggers where trigger_state = 'ERROR' or next_fire_time < @before order by 1",
            r => r.Text("trigger_name"),
            ("before", (now - patience).ToDateTimeUtc().Ticks)
        );
}
