using NodaTime;

namespace SteadyLark.Core.People;

/// <summary>How long sessions, confirmations and links last.</summary>
public static class SessionRules
{
    /// <summary>After this one must sign in again.</summary>
    public static readonly Duration Length = Duration.FromHours(16);

    /// <summary>How long entering the password counts for payments and changes of rights.</summary>
    public static readonly Duration ConfirmedFor = Duration.FromMinutes(15);

    public static readonly Duration InvitationFor = Duration.FromDays(7);

    public static readonly Duration ResetFor = Duration.FromHours(1);

    /// <summary>The setup link printed when a new installation starts.</summary>
    public static readonly Duration FirstRunFor = Duration.FromDays(2);

    /// <summary>The longest validity of an API token.</summary>
    public static readonly Duration TokenFor = Duration.FromDays(366);

    /// <summary>Whether the password must be entered again before money is sent or rights are changed.</summary>
    /// <param name="confirmedAt">When it was last entered in this session.</param>
    public static bool MustConfirm(Instant confirmedAt, Instant now) => now - confirmedAt > ConfirmedFor || confirmedAt > now;
}
