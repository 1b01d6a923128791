using NodaTime;

namespace SteadyLark.Core.People;

/// <summary>Attempts to sign in within <see cref="SignInLimits.Window"/> that did not succeed, the present one counted.</summary>
/// <param name="Both">With this name from this address.</param>
/// <param name="OfLogin">With this name from anywhere.</param>
/// <param name="FromAddress">With any name from this address.</param>
public sealed record SignInAttempts(int Both, int OfLogin, int FromAddress);

/// <summary>When one must wait before trying to sign in again. An attempt is counted before its password is looked at, so that many at once count as many.</summary>
public static class SignInLimits
{
    public static readonly Duration Window = Duration.FromMinutes(10);

    /// <summary>How long an address counts as known after somebody signed in from it.</summary>
    public static readonly Duration KnownFor = Duration.FromDays(90);

    public const int MaxBoth = 5;

    public const int MaxFromAddress = 30;

    /// <summary>From everywhere together, but for known addresses: a stranger can slow down strangers, and never lock out the owner of the name.</summary>
    public const int MaxOfLogin = 50;

    /// <param name="known">Whether somebody has signed in with this name from this address within <see cref="KnownFor"/>.</param>
    public static bool MustWait(SignInAttempts attempts, bool known) =>
        attempts.Both > MaxBoth || attempts.FromAddress > MaxFromAddress || (!known && attempts.OfLogin > MaxOfLogin);
}
