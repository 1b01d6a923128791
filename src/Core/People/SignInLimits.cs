using NodaTime;

namespace SteadyLark.Core.People;

/// <summary>Failed sign-in attempts within <see cref="SignInLimits.Window"/>, including the current one.</summary>
/// <param name="Both">With this name from this address.</param>
/// <param name="OfLogin">With this name from anywhere.</param>
/// <param name="FromAddress">With any name from this address.</param>
public sealed record SignInAttempts(int Both, int OfLogin, int FromAddress);

/// <summary>When to delay sign-in attempts. An attempt is counted before its password is checked, so that parallel attempts all
/// count.</summary>
public static class SignInLimits
{
    public static readonly Duration Window = Duration.FromMinutes(10);

    /// <summary>How long an address counts as known after a sign-in from it.</summary>
    public static readonly Duration KnownFor = Duration.FromDays(90);

    public const int MaxBoth = 5;

    public const int MaxFromAddress = 30;

    /// <summary>From all unknown addresses together: a stranger can slow down strangers, and never lock out the owner of the
    /// name.</summary>
    public const int MaxOfLogin = 50;

    /// <param name="known">Whether this name signed in from this address within <see cref="KnownFor"/>.</param>
    public static bool MustWait(SignInAttempts attempts, bool known) =>
        attempts.Both > MaxBoth || attempts.FromAddress > MaxFromAddress || (!known && attempts.OfLogin > MaxOfLogin);
}
