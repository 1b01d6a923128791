using NodaTime;
using Serilog.Events;
using SteadyLark.Server.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>Settings are checked when the server starts, and everything that is wrong is said at once.</summary>
public class SettingsFromEnvironment
{
    private static (LarkSettings Settings, IReadOnlyList<string> Problems) Read(params (string Name, string Value)[] set) =>
        LarkSettings.Read(name => set.FirstOrDefault(s => s.Name == name).Value);

    [Fact]
    public void Nothing_needs_to_be_set()
    {
        var (settings, problems) = Read();
        Assert.Empty(problems);
        Assert.Equal(
            ("http://127.0.0.1:4180", 587, SmtpTls.StartTls, LogEventLevel.Warning, false),
            (settings.Url, settings.SmtpPort, settings.SmtpTls, settings.LogLevel, settings.LogsJson)
        );
        Assert.Null(settings.Otlp);
    }

    [Fact]
    public void Everything_wrong_is_named_with_what_it_may_be()
    {
        var problems = Read(
            ("LARK_PORT", "http"),
            ("LARK_SMTP_PORT", "99999"),
            ("LARK_MAIL_HOLD", "-1"),
            ("LARK_URL", "dispatch"),
            ("LARK_PROXIES", "10.0.0.1, proxy"),
            ("LARK_SMTP_TLS", "yes"),
            ("LARK_NOW", "today"),
            ("LARK_LOG", "xml"),
            ("LARK_LOG_LEVEL", "loud"),
            ("LARK_PAGES", "/nowhere"),
            ("LARK_SMTP_PASSWORD", "secret"),
            ("OTEL_EXPORTER_OTLP_ENDPOINT", "collector"),
            ("LARK_DATABASE", "Hots=1")
        ).Problems;
        Assert.Equal(
            [
                "LARK_DATABASE",
                "LARK_LOG",
                "LARK_LOG_LEVEL",
                "LARK_MAIL_HOLD",
                "LARK_NOW",
                "LARK_PAGES",
                "LARK_PORT",
                "LARK_PROXIES",
                "LARK_SMTP_PORT",
                "LARK_SMTP_TLS",
                "LARK_SMTP_USER",
                "LARK_URL",
                "OTEL_EXPORTER_OTLP_ENDPOINT",
            ],
            problems.Select(p => p.Split(' ')[0]).Order(StringComparer.Ordinal)
        );
        Assert.Contains("LARK_SMTP_PORT must be a whole number from 1 to 65535, not '99999'.", problems);
        Assert.Contains("LARK_SMTP_TLS must be starttls, implicit or none, not 'yes'.", problems);
        Assert.DoesNotContain(problems, p => p.Contains("secret", StringComparison.Ordinal));
    }

    [Fact]
    public void A_connection_string_is_never_repeated() =>
        Assert.DoesNotContain("hunter2", Read(("LARK_DATABASE", "Host=db;Pasword=hunter2")).Problems.Single(), StringComparison.Ordinal);

    [Fact]
    public void Port_465_means_tls_from_the_first_byte_unless_told_otherwise()
    {
        Assert.Equal(SmtpTls.Implicit, Read(("LARK_SMTP_PORT", "465")).Settings.SmtpTls);
        Assert.Equal(SmtpTls.None, Read(("LARK_SMTP_PORT", "465"), ("LARK_SMTP_TLS", "none")).Settings.SmtpTls);
    }

    [Fact]
    public void Addresses_lose_their_last_slash_and_times_are_read_in_the_companys_zone()
    {
        var (settings, problems) = Read(
            ("LARK_URL", "https://dispatch.company.example/"),
            ("LARK_NOW", "2026-11-24 09:42"),
            ("LARK_PROXIES", "10.0.0.1,::1")
        );
        Assert.Empty(problems);
        Assert.Equal(("https://dispatch.company.example", true, 2), (settings.Url, settings.IsSecure, settings.Proxies.Count));
        Assert.Equal(Instant.FromUtc(2026, 11, 24, 16, 42), settings.StartsAt);
    }
}
