using Quartz;
using SteadyLark.Server.Documents;

namespace SteadyLark.Server.Basics;

/// <summary>
/// Jobs that run on a schedule, one server at a time: Quartz keeps the schedules in the database (schema <c>jobs</c>), and when a server
/// dies another
/// one takes over. Queues that are worked off within seconds (email, billing runs) have workers of their own, see <see cref="Jobs"/>.
/// </summary>
public static class Schedules
{
    public static void AddSchedules(this IServiceCollection services, LarkSettings settings)
    {
        services.AddQuartz(q =>
        {
            q.ConfigureScheduler(o =>
            {
                o.InstanceName = "lark";
                o.GenerateInstanceId = true;
            });
            q.UseDefaultThreadPool(o => o.MaxConcurrency = 2);
            q.UsePersistentStore(store =>
            {
                store.UsePostgres(settings.Database);
                store.UseClustering(c => c.CheckinInterval = TimeSpan.FromSeconds(10));
            });
            q.Every<PurgeJob>("purge", TimeSpan.FromMinutes(10));
            q.Every<DocumentRequestJob>("document requests", TimeSpan.FromMinutes(1));
        });
        services.Configure<AdoJobStoreOptions>(o => o.TablePrefix = "jobs.qrtz_");
        services.AddQuartzHostedService(o => o.WaitForJobsToComplete = true);
    }

    private static void Every<T>(this IQuartzBuilder q, string name, TimeSpan interval)
        where T : class, IJob =>
        q.ScheduleJob<T>(trigger => trigger.WithIdentity(name).WithSimpleSchedule(interval), job => job.WithIdentity(name));
}
