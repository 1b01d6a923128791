using NodaTime;
using Npgsql;
using Serilog.Events;

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
    string Database,
    string Data,
    string Url,
    string? Pages,
    string? SmtpHost,
    int SmtpPort,
    string? SmtpUser,
    string? SmtpPassword,
    int MailHoldSeconds
)
{
    /// <summary>How the connection to the mail server is secured (<c>LARK_SMTP_TLS</c>): encrypted unless configured otherwise.</summary>
    public SmtpTls SmtpTls { get; init; } = SmtpTls.StartTls;

    /// <summary>Addresses of trusted reverse proxies, for X-Forwarded-For and X-Forwarded-Proto (<c>LARK_PROXIES</c>, separated by commas);
    /// none by default.</summary>
    public IReadOnlyList<System.Net.IPAddress> Proxies { get; init; } = [];

    /// <summary>Whether simulated outsiders may act outside a demo (<c>LARK_SIMULATE=1</c>), for development.</summary>
    public bool Simulate { get; init; }

    /// <summary>Whether the public address is HTTPS: cookies are then sent over it only.</summary>
    public bool IsSecure => Url.StartsWith("https://", StringComparison.OrdinalIgnoreCase);

    /// <summary>Part of the cookie names, so that two installations on one machine do not sign each other out: cookies ignore ports (RFC
    /// 6265 § 8.5).</summary>
    public string CookieSuffix => Uri.TryCreate(Url, UriKind.Absolute, out var url) ? $"-{url.Port}" : "";

    /// <summary>What the clock reads at startup (<c>LARK_NOW</c>); null for the real time.</summary>
    public Instant? StartsAt { get; init; }

    /// <summary>The clock in use: the system's, or one shifted to <see cref="StartsAt"/>.</summary>
    public IClock Clock() => StartsAt is { } at ? new ShiftedClock(at) : SystemClock.Instance;

    /// <summary>The connection of the database owner, who may change tables (<c>LARK_DATABASE_OWNER</c>); the application's own when not
    /// set.</summary>
    public static string OwnerDatabase() => Variable("LARK_DATABASE_OWNER") ?? FromEnvironment().Database;

    /// <summary>A streaming replica for reads that may be some seconds late (<c>LARK_DATABASE_REPLICA</c>); null for none.</summary>
    public string? Replica { get; init; }

    /// <summary>The least important log entries that are written (<c>LARK_LOG_LEVEL</c>): warnings, unless asked for more.</summary>
    public LogEventLevel LogLevel { get; init; } = LogEventLevel.Warning;

    /// <summary>Whether log entries are JSON objects (<c>LARK_LOG=json</c>) instead of lines of text.</summary>
    public bool LogsJson { get; init; }

    /// <summary>The OpenTelemetry collector that gets traces and metrics (<c>OTEL_EXPORTER_OTLP_ENDPOINT</c>); null for none.</summary>
    public Uri? Otlp { get; init; }

    /// <summary>Whether the collector is reached over HTTP (<c>OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf</c>) instead of gRPC.</summary>
    public bool OtlpOverHttp { get; init; }

    private static string? Variable(string name) => Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;

    /// <summary>The settings of the environment. Throws <see cref="InvalidOperationException"/> that names every variable that is
    /// wrong.</summary>
    public static LarkSettings FromEnvironment()
    {
        var (settings, problems) = Read(Variable);
        return problems.Count == 0 ? settings : throw new InvalidOperationException(string.Join(Environment.NewLine, problems));
    }

    /// <summary>Reads and checks settings; each problem names its variable and says what it may be.</summary>
    public static (LarkSettings Settings, IReadOnlyList<string> Problems) Read(Func<string, string?> get)
    {
        var read = new SettingsReader(get);
        var port = read.Number("LARK_PORT", 4180, 1, 65_535);
        var smtpPort = read.Number("LARK_SMTP_PORT", 587, 1, 65_535);
        var settings = new LarkSettings(
            read.Connection("LARK_DATABASE", "Host=127.0.0.1;Port=5180;Database=lark;Username=lark"),
            get("LARK_DATA") ?? "var",
            read.Address("LARK_URL", $"http://127.0.0.1:{port}")!.ToString().TrimEnd('/'),
            get("LARK_PAGES"),
            get("LARK_SMTP_HOST"),
            smtpPort,
            get("LARK_SMTP_USER"),
            get("LARK_SMTP_PASSWORD"),
            read.Number("LARK_MAIL_HOLD", 10, 0, 3600)
        )
        {
            SmtpTls = read.Choice(
                "LARK_SMTP_TLS",
                smtpPort == 465 ? SmtpTls.Implicit : SmtpTls.StartTls,
                ("starttls", smtpPort == 465 ? SmtpTls.Implicit : SmtpTls.StartTls),
                ("implicit", SmtpTls.Implicit),
                ("none", SmtpTls.None)
            ),
            Proxies = read.Addresses("LARK_PROXIES"),
            Simulate = get("LARK_SIMULATE") == "1",
            StartsAt = read.Now("LARK_NOW"),
            Replica = get("LARK_DATABASE_REPLICA") is null ? null : read.Connection("LARK_DATABASE_REPLICA", ""),
            LogsJson = read.Choice("LARK_LOG", false, ("text", false), ("json", true)),
            LogLevel = read.Choice(
                "LARK_LOG_LEVEL",
                LogEventLevel.Warning,
                ("debug", LogEventLevel.Debug),
                ("information", LogEventLevel.Information),
                ("warning", LogEventLevel.Warning),
                ("error", LogEventLevel.Error)
            ),
            Otlp = read.Address("OTEL_EXPORTER_OTLP_ENDPOINT", null),
            OtlpOverHttp = read.Choice("OTEL_EXPORTER_OTLP_PROTOCOL", false, ("grpc", false), ("http/protobuf", true)),
        };
        read.Check(
            settings.Pages is null || File.Exists(Path.Combine(settings.Pages, "index.html")),
            $"LARK_PAGES must be the folder of the built pages: there is no index.html in {settings.Pages}."
        );
        read.Check(settings.SmtpPassword is null || settings.SmtpUser is not null, "LARK_SMTP_USER is missing: LARK_SMTP_PASSWORD is set.");
        return (settings, read.Problems);
    }
}

/// <summary>Reads settings, and collects what is wrong with them.</summary>
internal sealed class SettingsReader(Func<string, string?> get)
{
    private readonly List<string> _problems = [];

    public IReadOnlyList<string> Problems => _problems;

    public void Check(bool ok, string problem)
    {
        if (!ok)
        {
            _problems.Add(problem);
        }
    }

    public int Number(string name, int otherwise, int min, int max)
    {
        if (get(name) is not { } text)
        {
            return otherwise;
        }

        var ok =
            int.TryParse(text, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var n)
            && n >= min
            && n <= max;
        Check(ok, $"{name} must be a whole number from {min} to {max}, not '{text}'.");
        return ok ? n : otherwise;
    }

    public T Choice<T>(string name, T otherwise, params (string Word, T Value)[] choices)
    {
        if (get(name) is not { } text)
        {
            return otherwise;
        }

        foreach (var (word, value) in choices)
        {
            if (word == text)
            {
                return value;
            }
        }

        _problems.Add($"{name} must be {string.Join(", ", choices[..^1].Select(c => c.Word))} or {choices[^1].Word}, not '{text}'.");
        return otherwise;
    }

    public Uri? Address(string name, string? otherwise)
    {
        if ((get(name) ?? otherwise) is not { } text)
        {
            return null;
        }

        var ok = Uri.TryCreate(text, UriKind.Absolute, out var uri) && uri.Scheme is "http" or "https";
        Check(ok, $"{name} must be an address such as https://dispatch.company.example, not '{text}'.");
        return ok ? uri : new Uri("http://127.0.0.1");
    }

    public IReadOnlyList<System.Net.IPAddress> Addresses(string name)
    {
        var addresses = new List<System.Net.IPAddress>();
        foreach (var text in (get(name) ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (System.Net.IPAddress.TryParse(text, out var address))
            {
                addresses.Add(address);
            }
            else
            {
                _problems.Add($"{name} must be IP addresses separated by commas, not '{text}'.");
            }
        }

        return addresses;
    }

    public string Connection(string name, string otherwise)
    {
        var text = get(name) ?? otherwise;
        try
        {
            return new NpgsqlConnectionStringBuilder(text).Host is { Length: > 0 } ? text : throw new ArgumentException("Host is missing");
        }
        catch (Exception e) when (e is ArgumentException or FormatException)
        {
            // The text may hold a password: only the reason is shown.
            _problems.Add(
                $"{name} must be a connection string such as Host=127.0.0.1;Database=lark;Username=lark_app: {e.Message.Split('(')[0].Trim()}."
            );
            return otherwise;
        }
    }

    public Instant? Now(string name)
    {
        if (get(name) is not { } text)
        {
            return null;
        }

        try
        {
            return ShiftedClock.Parse(text, new BusinessZone().Zone);
        }
        catch (InvalidOperationException e)
        {
            _problems.Add(e.Message);
            return null;
        }
    }
}
