using NodaTime;

namespace SteadyLark.Server.Basics;

/// <summary>How a connection to a mail server is encrypted.</summary>
public enum SmtpTls
{
    /// <summary>STARTTLS is required (RFC 3207).</summary>
    StartTls,

    /// <summary>TLS from the first byte, port 465 (RFC 8314).</summary>
    Implicit,

    /// <summary>Unencrypted: only for a server on the same machine.</summary>
    None,
}

/// <summary>Settings from the environment, read once at startup.</summary>
/// <param name="Database">Npgsql connection string (<c>LARK_DATABASE</c>).</param>
/// <param name="Data">Folder for data outside the database: the stand-ins' files (<c>LARK_DATA</c>).</param>
/// <param name="Url">The public address of this server, for links in emails (<c>LARK_URL</c>).</param>
/// <param name="Pages">Folder with the built pages, or null when there are none (<c>LARK_PAGES</c>).</param>
/// <param name="SmtpHost">Mail server (<c>LARK_SMTP_HOST</c>); null for the stand-in mailbox.</param>
public sealed record LarkSettings(
    string Database, string Data, string Url, string? Pages, string? SmtpHost, int SmtpPort, string? SmtpUser, string? SmtpPassword, int MailHoldSeconds)
{
    /// <summary>How the connection to the mail server is secured (<c>LARK_SMTP_TLS</c>): encrypted unless configured otherwise.</summary>
    public SmtpTls SmtpTls { get; init; } = SmtpTls.StartTls;

    /// <summary>Addresses of trusted reverse proxies, for X-Forwarded-For and X-Forwarded-Proto (<c>LARK_PROXIES</c>, separated by commas); none by default.</summary>
    public IReadOnlyList<System.Net.IPAddress> Proxies { get; init; } = [];

    /// <summary>Whether simulated outsiders may act outside a demo (<c>LARK_SIMULATE=1</c>), for development.</summary>
    public bool Simulate { get; init; }

    /// <summary>Whether the public address is HTTPS: cookies are then sent over it only.</summary>
    public bool IsSecure => Url.StartsWith("https://", StringComparison.OrdinalIgnoreCase);

    /// <summary>Part of the cookie names, so that two installations on one machine do not sign each other out: cookies ignore ports (RFC 6265 § 8.5).</summary>
    public string CookieSuffix => Uri.TryCreate(Url, UriKind.Absolute, out var url) ? $"-{url.Port}" : "";

    /// <summary>What the clock reads at startup (<c>LARK_NOW</c>); null for the real time.</summary>
    public Instant? StartsAt { get; init; }

    /// <summary>The clock in use: the system's, or one shifted to <see cref="StartsAt"/>.</summary>
    public IClock Clock() => StartsAt is { } at ? new ShiftedClock(at) : SystemClock.Instance;

    /// <summary>The connection of the database owner, who may change tables (<c>LARK_DATABASE_OWNER</c>); the application's own when not set.</summary>
    public static string OwnerDatabase() => Get("LARK_DATABASE_OWNER") ?? FromEnvironment().Database;

    private static string? Get(string name) => Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;

    public static LarkSettings FromEnvironment()
    {
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
            SmtpTls = Get("LARK_SMTP_TLS") switch
            {
                null or "starttls" => Number("LARK_SMTP_PORT", 587) == 465 ? SmtpTls.Implicit : SmtpTls.StartTls,
                "implicit" => SmtpTls.Implicit,
                "none" => SmtpTls.None,
                var other => throw new InvalidOperationException($"LARK_SMTP_TLS must be starttls, implicit or none, not '{other}'."),
            },
            Proxies = (Get("LARK_PROXIES") ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Select(p => System.Net.IPAddress.TryParse(p, out var address) ? address : throw new InvalidOperationException($"LARK_PROXIES must be IP addresses separated by commas, not '{p}'.")).ToList(),
            Simulate = Get("LARK_SIMULATE") == "1",
            StartsAt = Get("LARK_NOW") is { } now ? ShiftedClock.Parse(now, new BusinessZone().Zone) : null,
        };
    }
}
