using System.Diagnostics;
using System.Diagnostics.Metrics;
using Npgsql;
using OpenTelemetry.Exporter;
using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;
using OpenTelemetry.Trace;

namespace SteadyLark.Server.Basics;

/// <summary>
/// Traces and metrics over OTLP, when <c>OTEL_EXPORTER_OTLP_ENDPOINT</c> names a collector: requests, statements, and commands with their
/// outcome.
/// </summary>
public static class Telemetry
{
    public const string Name = "SteadyLark";

    private static readonly Meter Meter = new(Name);
    private static readonly Histogram<double> Durations = Meter.CreateHistogram<double>(
        "lark.command.duration",
        "ms",
        "Duration of commands, by endpoint and outcome."
    );

    /// <summary>Starts a command's span; null when nobody listens.</summary>
    public static ActivitySource Commands { get; } = new(Name);

    /// <summary>Counts a command.</summary>
    /// <param name="outcome">done, refused or failed.</param>
    public static void Count(string command, string outcome, TimeSpan took) =>
        Durations.Record(
            took.TotalMilliseconds,
            new KeyValuePair<string, object?>("command", command),
            new KeyValuePair<string, object?>("outcome", outcome)
        );

    public static void AddTelemetry(this IServiceCollection services, LarkSettings settings)
    {
        if (settings.Otlp is not { } collector)
        {
            return;
        }

        void Export(OtlpExporterOptions o, string signal)
        {
            o.Protocol = settings.OtlpOverHttp ? OtlpExportProtocol.HttpProtobuf : OtlpExportProtocol.Grpc;
            o.Endpoint = settings.OtlpOverHttp ? new Uri($"{collector.AbsoluteUri.TrimEnd('/')}/v1/{signal}") : collector;
        }

        services
            .AddOpenTelemetry()
            .ConfigureResource(r => r.AddService("steady-lark", serviceVersion: typeof(Telemetry).Assembly.GetName().Version?.ToString()))
            .WithTracing(t =>
                t.AddSource(Name)
                    .AddNpgsql()
                    .AddAspNetCoreInstrumentation(o =>
                    {
                        // Streams last as long as their page is open.
                        o.Filter = http => !http.Request.Path.StartsWithSegments("/api/events/stream");
                        o.EnrichWithHttpResponse = (activity, response) => activity.SetTag("url.path", Logs.Route(response.HttpContext));
                    })
                    .AddOtlpExporter(o => Export(o, "traces"))
            )
            .WithMetrics(m =>
                m.AddMeter(Name)
                    .AddMeter("Npgsql")
                    .AddAspNetCoreInstrumentation()
                    .AddRuntimeInstrumentation()
                    .AddOtlpExporter(
                        (o, reader) =>
                        {
                            Export(o, "metrics");
                            reader.PeriodicExportingMetricReaderOptions.ExportIntervalMilliseconds = 15_000;
                        }
                    )
            );
    }
}
