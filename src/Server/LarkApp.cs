using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.Extensions.FileProviders;
using NodaTime;
using NodaTime.Text;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Outside.Mail;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Claims;
using SteadyLark.Server.Companies;
using SteadyLark.Server.Covering;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Fleet;
using SteadyLark.Server.Ledger;
using SteadyLark.Server.Line;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Outside;
using SteadyLark.Server.Paying;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Server.Tracking;
using SteadyLark.Server.Trips;
using SteadyLark.Server.Trips.Runs;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server;

/// <summary>Builds the application: services, request pipeline, and all endpoints.</summary>
public static partial class LarkApp
{
    /// <param name="settings">From the environment, or from a test.</param>
    /// <param name="urls">Where to listen.</param>
    /// <param name="clock">The clock; the one in <paramref name="settings"/> when omitted.</param>
    /// <param name="jobs">Whether background jobs run; not when only the API description is needed.</param>
    public static WebApplication Build(LarkSettings settings, string urls, IClock? clock = null, bool jobs = true)
    {
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions { ContentRootPath = AppContext.BaseDirectory });
        builder
            .WebHost.UseUrls(urls)
            .UseKestrel(k =>
            {
                k.AddServerHeader = false;
                k.Limits.MaxRequestBodySize = NeedsExtensions.MaxFileBytes;
                k.Limits.MinRequestBodyDataRate = new Microsoft.AspNetCore.Server.Kestrel.Core.MinDataRate(240, TimeSpan.FromSeconds(10));
            });
        var services = builder.Services;
        services.AddLogs(settings);
        services.AddTelemetry(settings);
        services.AddExceptionHandler<ProblemHandler>();
        services.Configure<HostOptions>(o => o.ShutdownTimeout = TimeSpan.FromSeconds(25));
        services.AddSingleton(settings);
        services.AddSingleton(clock ?? settings.Clock());
        services.AddSingleton(_ => Database.Open(settings.Database));
        services
            .AddSingleton<BusinessZone>()
            .AddSingleton<Commands>()
            .AddSingleton<Sessions>()
            .AddSingleton<AccountCommands>()
            .AddSingleton<UserCommands>()
            .AddSingleton<Mailer>()
            .AddSingleton<CoverCommands>()
            .AddSingleton<TenderCommands>()
            .AddSingleton<HandoverCommands>()
            .AddSingleton<VendorPaymentCommands>()
            .AddSingleton<BillingCommands>()
            .AddSingleton<ClaimCommands>()
            .AddSingleton<DocumentRequestCommands>()
            .AddSingleton<OpenLoads>()
            .AddSingleton<PlanCommands>()
            .AddSingleton<MoveCommands>()
            .AddSingleton<TodayCache>()
            .AddSingleton<RunPlanner>();
        services.AddSingleton(_ => new Mailbox(Path.Combine(settings.Data, "outside", "mail")));
        services.AddSingleton<Simulation>().AddSingleton<Readiness>();
        services.AddSingleton<IMailOut>(s =>
            settings.SmtpHost is null
                ? ActivatorUtilities.CreateInstance<StandInMailOut>(s)
                : ActivatorUtilities.CreateInstance<SmtpMailOut>(s)
        );
        services.AddHttpContextAccessor();
        services.AddSingleton<Replica>().AddSingleton<CallerReads>().AddSingleton<ListOrders>().AddSingleton<Lists>();
        services.AddSingleton<Live>();
        if (jobs)
        {
            services.AddHostedService(s => s.GetRequiredService<Live>());
            services.AddHostedService<MailJobs>();
            services.AddHostedService<RateConfirmations>();
            services.AddHostedService<TenderExpiry>();
            services.AddHostedService<AuditSeals>();
            services.AddHostedService<BillingRuns>();
            services.AddHostedService<StandIns>();
            services.AddSchedules(settings);
        }

        services.AddHsts(o => o.MaxAge = TimeSpan.FromDays(365));
        services.AddLimits();
        services.ConfigureHttpJsonOptions(o =>
        {
            Json.Set(o.SerializerOptions);
            // Unknown fields would be lost silently.
            o.SerializerOptions.UnmappedMemberHandling = System.Text.Json.Serialization.JsonUnmappedMemberHandling.Disallow;
        });
        services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
        services.AddOpenApi("v1", o =>
        {
            o.AddSchemaTransformer(Json.Describe);
            o.AddDocumentTransformer(
                (document, _, _) =>
                {
                    document.Info.Title = "Steady Lark";
                    document.Info.Version = "1";
                    return Task.CompletedTask;
                }
            );
        });
        services.AddDataProtection().SetApplicationName("SteadyLark");
        services
            .AddOptions<KeyManagementOptions>()
            .Configure<NpgsqlDataSource>((o, source) => o.XmlRepository = new ProtectionKeys(source));
        services.AddAntiforgery(o =>
        {
            o.HeaderName = "X-Lark-Token";
            o.Cookie.Name = "lark-token" + settings.CookieSuffix;
            o.Cookie.SecurePolicy = settings.IsSecure ? CookieSecurePolicy.Always : CookieSecurePolicy.SameAsRequest;
            o.Cookie.HttpOnly = true;
            o.Cookie.SameSite = SameSiteMode.Strict;
        });
        services
            .AddAuthentication("lark")
            .AddPolicyScheme("lark", null, o =>
                o.ForwardDefaultSelector = http =>
                    ApiTokens.IsIn(http) ? ApiTokens.SchemeName : CookieAuthenticationDefaults.AuthenticationScheme
            )
            .AddScheme<Microsoft.AspNetCore.Authentication.AuthenticationSchemeOptions, ApiTokens>(ApiTokens.SchemeName, null)
            .AddCookie(o =>
            {
                o.Cookie.Name = "lark" + settings.CookieSuffix;
                o.Cookie.SecurePolicy = settings.IsSecure ? CookieSecurePolicy.Always : CookieSecurePolicy.SameAsRequest;
                o.Cookie.HttpOnly = true;
                o.Cookie.SameSite = SameSiteMode.Strict;
                o.Events.OnRedirectToLogin = c => Task.FromResult(c.Response.StatusCode = StatusCodes.Status401Unauthorized);
                o.Events.OnValidatePrincipal = Sessions.Validate;
            });

        var app = builder.Build();
        var pages =
            settings.Pages is { } folder && File.Exists(Path.Combine(folder, "index.html"))
                ? new PhysicalFileProvider(Path.GetFullPath(folder))
                : null;
        var index = pages is null ? null : File.ReadAllText(Path.Combine(settings.Pages!, "index.html"));
        if (settings.Proxies.Count > 0)
        {
            var forwarded = new ForwardedHeadersOptions
            {
                ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto,
                ForwardLimit = settings.Proxies.Count,
            };
            forwarded.KnownProxies.Clear();
            forwarded.KnownIPNetworks.Clear();
            foreach (var proxy in settings.Proxies)
            {
                forwarded.KnownProxies.Add(proxy);
            }

            app.UseForwardedHeaders(forwarded);
        }

        if (settings.IsSecure)
        {
            app.UseHsts();
        }

        app.UseSafety(index);
        app.UseRequestLogs();
        app.UseProblems();
        if (settings.IsSecure)
        {
            // Cookies are sent over https only: without this sign-in would fail silently.
            app.Use(
                (http, next) =>
                    http.Request.IsHttps || !http.Request.Path.StartsWithSegments("/api")
                        ? next(http)
                        : Answers
                            .Refused(
                                [
                                    new Problem(
                                        "https.required",
                                        "This server expects https, but the request arrived without it. Name the reverse proxy in LARK_PROXIES, and have it send X-Forwarded-Proto."
                                    ),
                                ],
                                StatusCodes.Status400BadRequest
                            )
                            .ExecuteAsync(http)
            );
        }

        if (pages is not null)
        {
            app.UseStaticFiles(
                new StaticFileOptions
                {
                    FileProvider = pages,
                    OnPrepareResponse = c =>
                        c.Context.Response.Headers.CacheControl = c.Context.Request.Path.StartsWithSegments("/_app/immutable")
                            ? "public, max-age=31536000, immutable"
                            : "no-cache",
                }
            );
        }

        app.UseRouting();
        app.UseAuthentication();
        app.UseRateLimiter();
        app.UseTokens();
        app.UseRights();
        app.MapEverything();
        if (index is not null)
        {
            app.MapFallback("{*path:nonfile}", (HttpContext http) =>
                    http.Request.Path.StartsWithSegments("/api")
                        ? (IResult)Answers.NotFound("This address")
                        : Results.Text(
                            settings.StartsAt is null
                                ? index
                                : index.Replace(
                                    "<head>",
                                    $"<head>\n    <meta name=\"lark-now\" content=\"{InstantPattern.ExtendedIso.Format(http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant())}\" />",
                                    StringComparison.Ordinal
                                ),
                            "text/html; charset=utf-8"
                        )
                )
                .IsOpen("the pages contain no business data");
        }

        return app;
    }

    /// <summary>The one inline style the page router uses: it hides the element that announces pages to screen readers.</summary>
    private const string AnnouncerStyle = "'sha256-S8qMpvofolR8Mpjy4kQvEm7m1q8clzU4dfDH0AmvZjo='";

    private static void MapEverything(this WebApplication app)
    {
        app.MapOpenApi("/openapi/{documentName}.json").IsOpen("the API description contains no business data");
        app.MapApiReference();
        app.MapGet("/healthz", () => Results.Json(new { status = "alive" })).IsOpen("it reports health only").ExcludeFromDescription();
        app.MapGet("/readyz", async (Readiness readiness) =>
            {
                var report = await readiness.Check();
                return Results.Json(report, statusCode: report.Ready ? 200 : 503);
            })
            .IsOpen("it reports health only")
            .ExcludeFromDescription();
        var api = app.MapGroup("/api").AddEndpointFilter<RouteGroupBuilder, ViewFilter>();
        api.MapAccounts();
        api.MapUsers();
        api.MapOffices();
        api.MapAudit();
        api.MapPeople();
        api.MapCompanySettings();
        api.MapCompanies();
        api.MapPlaces();
        api.MapMap();
        api.MapFleet();
        api.MapLists();
        api.MapLoads();
        api.MapCovering();
        api.MapTrips();
        api.MapSharedTrips();
        api.MapExpenses();
        api.MapPlan();
        api.MapRuns();
        api.MapDocuments();
        api.MapBilling();
        api.MapBillingCorrections();
        api.MapClaims();
        api.MapPaying();
        api.MapLedger();
        api.MapEquipment();
        api.MapLine();
        api.MapOutside();
        StandIns.Map(api);
        api.MapTracking();
    }

    /// <summary>Security headers: nothing is loaded from elsewhere, nothing runs that we did not ship.</summary>
    private static void UseSafety(this WebApplication app, string? index)
    {
        // The page's one inline script, which starts it, is allowed by its hash.
        var hashes = index is null
            ? []
            : InlineScript()
                .Matches(index)
                .Select(m => $"'sha256-{Convert.ToBase64String(SHA256.HashData(Encoding.UTF8.GetBytes(m.Groups["code"].Value)))}'");
        var policy =
            $"default-src 'none'; script-src 'self' {string.Join(' ', hashes)}; style-src 'self'; style-src-attr 'unsafe-hashes' {AnnouncerStyle}; img-src 'self' data: blob:; frame-src 'self'; font-src 'self'; connect-src 'self'; manifest-src 'self'; "
            + "base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
        app.Use(
            (http, next) =>
            {
                // Set when the answer starts, because the exception handler clears headers.
                http.Response.OnStarting(() =>
                {
                    var headers = http.Response.Headers;
                    headers.ContentSecurityPolicy = http.Request.Path.StartsWithSegments(ApiReference.Path) ? ApiReference.Policy : policy;
                    headers.XContentTypeOptions = "nosniff";
                    headers["Referrer-Policy"] = "no-referrer";
                    headers["Cross-Origin-Opener-Policy"] = "same-origin";
                    headers["Permissions-Policy"] = "camera=(self), geolocation=(self), microphone=()";
                    if (http.Request.Path.StartsWithSegments("/api"))
                    {
                        headers.CacheControl = "no-store";
                    }

                    return Task.CompletedTask;
                });
                return next(http);
            }
        );
    }

    /// <summary>Answers of the web server itself, such as 404, get an explanation too.</summary>
    private static void UseProblems(this WebApplication app)
    {
        app.UseExceptionHandler(o => { });
        app.Use(
            async (http, next) =>
            {
                await next(http);
                if (http.Request.Path.StartsWithSegments("/api") && Empty(http.Response) is { } problem)
                {
                    await Answers.Refused([problem], http.Response.StatusCode).ExecuteAsync(http);
                }
            }
        );
    }

    /// <summary>The explanation of a refusal by the web server itself; null when the response already has one.</summary>
    private static Problem? Empty(HttpResponse response) =>
        response.HasStarted || response.ContentType is not null
            ? null
            : response.StatusCode switch
            {
                StatusCodes.Status404NotFound => new Problem("not.found", "There is nothing at this address."),
                StatusCodes.Status405MethodNotAllowed => new Problem(
                    "method",
                    "This address does not accept that method: see /openapi/v1.json."
                ),
                StatusCodes.Status415UnsupportedMediaType => new Problem("media.type", "Send this as application/json."),
                _ => null,
            };

    /// <summary>Commands with our cookie must also carry our token, so that no other site can send them.</summary>
    private static void UseTokens(this WebApplication app)
    {
        var antiforgery = app.Services.GetRequiredService<IAntiforgery>();
        app.Use(
            async (http, next) =>
            {
                var safe =
                    HttpMethods.IsGet(http.Request.Method)
                    || HttpMethods.IsHead(http.Request.Method)
                    || HttpMethods.IsOptions(http.Request.Method);
                if (
                    !safe
                    && http.User.Session() is not null
                    && http.GetEndpoint()?.Metadata.GetMetadata<AllowsAnyone>() is null
                    && !await IsOurs(antiforgery, http)
                )
                {
                    await Answers
                        .Refused([new Problem("token", "This page is out of date: reload it.")], StatusCodes.Status400BadRequest)
                        .ExecuteAsync(http);
                    return;
                }

                await next(http);
            }
        );

        static async Task<bool> IsOurs(IAntiforgery antiforgery, HttpContext http)
        {
            if (http.Request.Headers["X-Lark-Token"].Count == 0)
            {
                return false;
            }

            return await antiforgery.IsRequestValidAsync(http);
        }
    }

    [GeneratedRegex(@"<script(?![^>]*\bsrc=)[^>]*>(?<code>.*?)</script>", RegexOptions.Singleline | RegexOptions.IgnoreCase)]
    private static partial Regex InlineScript();
}
