using NodaTime;

namespace SteadyLark.Server.Basics;

/// <summary>What the environment says. Read once, at the start.</summary>
/// <param name="Database">Npgsql connection string (<c>LARK_DATABASE</c>).</param>
/// <param name="Data">Folder for what is not in the database: the stand-ins' things (<c>LARK_DATA</c>).</param>
/// <param name="Url">The address under which people outside reach us, for links in mails (<c>LARK_URL</c>).</param>
/// <param name="Pages">Folder with the built pages, or null when there are none (<c>LARK_PAGES</c>).</param>
/// <param name="SmtpHost">Mail server (<c>LARK_SMTP_HOST</c>); null for the stand-in mailbox.</param>
public sealed record LarkSettings(
    string Database, string Data, string Url, string? Pages, string? SmtpHost, int SmtpPort, string? SmtpUser, string? SmtpPassword, int MailHoldSeconds)
{
    /// <summary>What the clock reads when the server starts (<c>LARK_NOW</c>); null for the real time.</summary>
    public Instant? StartsAt { get; init; }

    /// <summary>The clock to run by: the system's, or one shifted to <see cref="StartsAt"/>.</summary>
    public IClock Clock() => StartsAt is { } at ? new ShiftedClock(at) : SystemClock.Instance;

    public static LarkSettings FromEnvironment()
    {
        static string? Get(string name) => Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;
        static int Number(string name, int otherwise) =>
            Get(name) is not { } text ? otherwise
            : int.TryParse(text, out var n) && n >= 0 ? n
            : throw new InvalidOperationException($"{name} must be a whole number, not '{text}'.");
        return new LarkSettings(
            Get("LARK_DATABASE") ?? "Host=127.0.0.1;Port=5180;Database=lark;Username=lark",
            Get("LARK_DATA") ?? "var",
            (Get("LARK_URL") ?? $"http://127.0.0.1:{Number("LARK_PORT", 4180)}").TrimEnd('/'),
            Get("LARK_PAGES"),
            Get("LARK_SMTP_HOST"),
            Number("LARK_SMTP_PORT", 587),
            Get("LARK_SMTP_USER"),
            Get("LARK_SMTP_PASSWORD"),
            Number("LARK_MAIL_HOLD", 10))
        {
            StartsAt = Get("LARK_NOW") is { } now ? ShiftedClock.Parse(now, new BusinessZone().Zone) : null,
        };
    }
}
