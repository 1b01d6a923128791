using System.Security.Claims;
using System.Threading.RateLimiting;
using SteadyLark.Core.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>Names of rate limits.</summary>
public static class Limits
{
    /// <summary>Signing in: 60 tries a minute from one address.</summary>
    public const string SignIn = "sign-in";

    /// <summary>Entering passwords and codes while signed in, and requesting password resets: 30 tries a minute from one address.</summary>
    public const string Account = "account";

    /// <summary>External links: 60 requests a minute for one link and address.</summary>
    public const string Link = "link";

    /// <summary>Live streams: eight per user.</summary>
    public const string Stream = "stream";

    /// <summary>Planning: one request per user at a time.</summary>
    public const string Planning = "planning";

    public static void AddLimits(this IServiceCollection services) =>
        services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            o.OnRejected = async (context, _) =>
            {
                context.HttpContext.Response.Headers.RetryAfter = "10";
                await Answers
                    .Refused(
                        [new Problem("too.many.requests", "Too many requests at once: wait a few seconds, then try again.")],
                        StatusCodes.Status429TooManyRequests
                    )
                    .ExecuteAsync(context.HttpContext);
            };
            // A signed-in user has at most forty requests in progress, and two hundred more may wait.
            o.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(http =>
                !http.Request.Path.StartsWithSegments("/api") || http.Request.Path.StartsWithSegments("/api/events")
                    ? RateLimitPartition.GetNoLimiter("free")
                    : RateLimitPartition.GetConcurrencyLimiter(User(http) ?? Address(http), _ => new ConcurrencyLimiterOptions
                    {
                        PermitLimit = 40,
                        QueueLimit = 200,
                    })
            );
            o.AddPolicy(SignIn, http => Window(Address(http), 60));
            o.AddPolicy(Account, http => Window($"account {Address(http)}", 30));
            o.AddPolicy(Link, http => Window($"{Address(http)} {http.Request.RouteValues["token"]}", 60));
            o.AddPolicy(Stream, http =>
                RateLimitPartition.GetConcurrencyLimiter(User(http) ?? Address(http), _ => new ConcurrencyLimiterOptions
                {
                    PermitLimit = 8,
                    QueueLimit = 0,
                })
            );
            o.AddPolicy(Planning, http =>
                RateLimitPartition.GetConcurrencyLimiter(User(http) ?? Address(http), _ => new ConcurrencyLimiterOptions
                {
                    PermitLimit = 1,
                    QueueLimit = 0,
                })
            );
        });

    private static RateLimitPartition<string> Window(string key, int perMinute) =>
        RateLimitPartition.GetFixedWindowLimiter(key, _ => new FixedWindowRateLimiterOptions
        {
            PermitLimit = perMinute,
            Window = TimeSpan.FromMinutes(1),
        });

    private static string? User(HttpContext http) => http.User.FindFirstValue(ClaimTypes.NameIdentifier);

    private static string Address(HttpContext http) => http.Connection.RemoteIpAddress?.ToString() ?? "unknown";
}
