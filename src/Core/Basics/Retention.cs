using NodaTime;

namespace SteadyLark.Core.Basics;

/// <summary>How long technical records are kept. Business records and the audit log are never purged.</summary>
public static class Retention
{
    /// <summary>Idempotency keys, after the request: a client retries within minutes, a phone without coverage within days.</summary>
    public static readonly Duration IdempotencyKeys = Duration.FromDays(7);

    /// <summary>Sessions, after they ended. Sign-ins themselves stay in the audit log.</summary>
    public static readonly Duration Sessions = Duration.FromDays(30);

    /// <summary>One-time links, after they expired.</summary>
    public static readonly Duration AccountLinks = Duration.FromDays(30);

    /// <summary>Failed sign-in attempts; only recent ones count (<see cref="People.SignInLimits.Window"/>).</summary>
    public static readonly Duration SignInFailures = Duration.FromDays(2);
}
