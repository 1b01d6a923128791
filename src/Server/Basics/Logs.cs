using Serilog;
using Serilog.Core;
using Serilog.Events;
using Serilog.Formatting.Compact;
using SteadyLark.Server.People;

namespace SteadyLark.Server.Basics;

/// <summary>Structured logs on the console: one line of text each, or one JSON object each (<c>LARK_LOG=json</c>).</summary>
public static class Logs
{
    private const string Text = "{Timestamp:HH:mm:ss} {Level:u4} {SourceContext:l} {Message:lj}{NewLine}{Exception}";

    public static void AddLogs(this IServiceCollection services, LarkSettings settings) => services.AddSerilog(Logger(settings));

    internal static Logger Logger(LarkSettings settings)
    {
        var logs = new LoggerConfiguration()
            .MinimumLevel.Is(settings.LogLevel)
            .MinimumLevel.Override("Microsoft.AspNetCore", Higher(settings.LogLevel, LogEventLevel.Warning))
            .MinimumLevel.Override("Quartz", Higher(settings.LogLevel, LogEventLevel.Error))
            .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
            // A refused token is answered, and counted by the request log.
            .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LevelAlias.Off)
            .Enrich.FromLogContext()
            .Enrich.With<WithoutPath>();
        return (
            settings.LogsJson ? logs.WriteTo.Console(new RenderedCompactJsonFormatter()) : logs.WriteTo.Console(outputTemplate: Text)
        ).CreateLogger();
    }

    /// <summary>One entry for each request, at information level; an error when the server failed. It names the route, never the address:
    /// addresses may hold the token of a link.</summary>
    public static void UseRequestLogs(this WebApplication app) =>
        app.UseSerilogRequestLogging(o =>
        {
            o.Logger = app.Services.GetRequiredService<Serilog.ILogger>();
            o.MessageTemplate = "{Method} {Route} {Status} in {Elapsed:0.0} ms";
            o.GetLevel = (http, _, e) => e is not null || http.Response.StatusCode >= 500 ? LogEventLevel.Error : LogEventLevel.Information;
            o.GetMessageTemplateProperties = (http, _, elapsed, status) =>
                [
                    new LogEventProperty("Method", new ScalarValue(http.Request.Method)),
                    new LogEventProperty("Route", new ScalarValue(Route(http))),
                    new LogEventProperty("Status", new ScalarValue(status)),
                    new LogEventProperty("Elapsed", new ScalarValue(elapsed)),
                    new LogEventProperty("UserId", new ScalarValue((http.User.Identity as LarkIdentity)?.User.UserId)),
                ];
        });

    /// <summary>The endpoint's route, such as <c>/api/loads/{id:long}</c>; not the address.</summary>
    public static string Route(HttpContext http) => (http.GetEndpoint() as RouteEndpoint)?.RoutePattern.RawText ?? "(no endpoint)";

    /// <summary>The web server names each request's path with every entry; a path may hold the token of a link.</summary>
    private sealed class WithoutPath : ILogEventEnricher
    {
        public void Enrich(LogEvent logEvent, ILogEventPropertyFactory propertyFactory) => logEvent.RemovePropertyIfPresent("RequestPath");
    }

    private static LogEventLevel Higher(LogEventLevel a, LogEventLevel b) => a > b ? a : b;
}
