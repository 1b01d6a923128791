using System.Security.Claims;
using System.Xml.Linq;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Identity;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

public sealed record SignInRequest(string? Login, string? Password);

/// <summary>Who is signed in, and what the page needs to begin.</summary>
/// <param name="Token">Goes back in the header X-Lark-Token with each command.</param>
/// <param name="Clock">How to show times: the user's choice or the company default.</param>
/// <param name="DateOrder">How to show dates, likewise.</param>
/// <param name="Preferences">The user's own choices.</param>
public sealed record SessionView(long UserId, string Name, string Login, Role Role, long? DriverId, IReadOnlyList<string> Rights, string Token, string Business, string Zone, LocalDate Today, Instant Now, bool Demo, bool TwoPeople,
    ClockStyle Clock, DateOrder DateOrder, Preferences Preferences);

/// <summary>Signing in and out: a cookie that names a row in the sessions table, so that it can be ended from any server.</summary>
public sealed class Sessions(NpgsqlDataSource source, IClock clock, BusinessZone zone, IAntiforgery antiforgery)
{
    private static readonly Duration Length = Duration.FromHours(16);
    /// <summary>PBKDF2 with HMAC-SHA512 and 210,000 rounds (OWASP Password Storage Cheat Sheet, 2023). A hash with fewer is renewed at the next sign-in.</summary>
    private static readonly PasswordHasher<string> Hasher = new(Microsoft.Extensions.Options.Options.Create(new PasswordHasherOptions { IterationCount = 210_000 }));
    private static readonly string NobodysHash = Hasher.HashPassword("", Guid.NewGuid().ToString());

    public static string Hash(string password) => Hasher.HashPassword("", password);

    public async Task<Results<Ok<SessionView>, ProblemHttpResult>> SignIn(HttpContext http, SignInRequest request)
    {
        var login = (request.Login ?? "").Trim().ToLowerInvariant();
        var address = http.Connection.RemoteIpAddress?.ToString() ?? "";
        var now = clock.GetCurrentInstant();
        await using var db = await source.OpenConnectionAsync();
        // Counted before it is tried, and forgotten when it succeeds.
        var name = login[..Math.Min(login.Length, 60)];
        await UserStore.AddFailure(db, name, address, now);
        var attempts = await UserStore.Attempts(db, name, address, now - SignInLimits.Window);
        if (SignInLimits.MustWait(attempts, await UserStore.HasSignedIn(db, name, address, now - SignInLimits.KnownFor)))
        {
            http.Response.Headers.RetryAfter = ((int)SignInLimits.Window.TotalSeconds).ToString();
            return Answers.Refused([new Problem("sign.in.wait", $"Too many failed attempts: wait {SignInLimits.Window.TotalMinutes:0} minutes, then try again.")], StatusCodes.Status429TooManyRequests);
        }

        var user = await UserStore.ByLogin(db, login);
        var hash = user is null ? NobodysHash : await UserStore.PasswordHash(db, user.Id);
        // An unknown name takes as long as a wrong password.
        var verified = Hasher.VerifyHashedPassword("", hash!, request.Password ?? "");
        if (user is not { Active: true } || verified == PasswordVerificationResult.Failed)
        {
            return Answers.Refused([new Problem("sign.in.wrong", "Incorrect username or password.", "password")], StatusCodes.Status401Unauthorized);
        }

        if (verified == PasswordVerificationResult.SuccessRehashNeeded)
        {
            await UserStore.SetPasswordHash(db, user.Id, Hash(request.Password!));
        }

        await UserStore.ForgetFailures(db, name, address);
        var session = Guid.NewGuid();
        await UserStore.BeginSession(db, session, user.Id, address, now, now + Length);
        var principal = Principal(user, session);
        await http.SignInAsync(CookieAuthenticationDefaults.AuthenticationScheme, principal);
        http.User = principal;
        return TypedResults.Ok(await View(http, db));
    }

    public async Task<Ok<SessionView>> Current(HttpContext http)
    {
        await using var db = await source.OpenConnectionAsync();
        return TypedResults.Ok(await View(http, db));
    }

    public async Task<NoContent> SignOut(HttpContext http)
    {
        await using var db = await source.OpenConnectionAsync();
        if (Guid.TryParse(http.User.FindFirstValue("session"), out var id))
        {
            await UserStore.EndSession(db, id, clock.GetCurrentInstant());
        }

        await http.SignOutAsync();
        return TypedResults.NoContent();
    }

    /// <summary>Whether the session of a request that is still under way stands.</summary>
    public static async Task<bool> Stands(HttpContext http)
    {
        await using var db = await http.RequestServices.GetRequiredService<NpgsqlDataSource>().OpenConnectionAsync(http.RequestAborted);
        return Guid.TryParse(http.User.FindFirstValue("session"), out var id)
            && await UserStore.OfSession(db, id, http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant()) is not null;
    }

    /// <summary>Looks at each request whether its session still stands.</summary>
    public static async Task Validate(CookieValidatePrincipalContext context)
    {
        var services = context.HttpContext.RequestServices;
        await using var db = await services.GetRequiredService<NpgsqlDataSource>().OpenConnectionAsync();
        var user = Guid.TryParse(context.Principal?.FindFirstValue("session"), out var id)
            ? await UserStore.OfSession(db, id, services.GetRequiredService<IClock>().GetCurrentInstant())
            : null;
        if (user is null)
        {
            context.RejectPrincipal();
        }
        else
        {
            context.ReplacePrincipal(Principal(user, id));
        }
    }

    private static ClaimsPrincipal Principal(UserRow user, Guid session) => new(new ClaimsIdentity(
        [
            new Claim(ClaimTypes.NameIdentifier, user.Id.ToString()),
            new Claim(ClaimTypes.Name, user.Name),
            new Claim(ClaimTypes.Role, user.Role.ToString()),
            new Claim("login", user.Login),
            new Claim("session", session.ToString()),
            .. user.DriverId is { } driver ? [new Claim("driver", driver.ToString())] : Array.Empty<Claim>(),
        ],
        CookieAuthenticationDefaults.AuthenticationScheme));

    private async Task<SessionView> View(HttpContext http, NpgsqlConnection db)
    {
        var business = (await Business.Read(db))!;
        var user = http.User;
        var now = clock.GetCurrentInstant();
        var defaults = await CompanySettingsStore.Read(db);
        var preferences = await UserStore.Preferences(db, user.UserId());
        var (style, order) = preferences.Or(defaults.Clock, defaults.DateOrder);
        return new SessionView(
            user.UserId(), user.Identity!.Name!, user.FindFirstValue("login")!, user.Role(), user.DriverId(), Rights.Of(user.Role()).Select(r => r.Name()).Order().ToList(),
            antiforgery.GetAndStoreTokens(http).RequestToken!, business.Name, business.Zone, now.InZone(zone.Zone).Date, now, business.DemoFor is not null, business.TwoPeople,
            style, order, preferences);
    }
}

/// <summary>Keys that protect cookies and tokens, in the database, so that every server knows them.</summary>
public sealed class ProtectionKeys(NpgsqlDataSource source) : IXmlRepository
{
    public IReadOnlyCollection<XElement> GetAllElements()
    {
        using var db = source.OpenConnection();
        return db.Rows("select xml from protection_keys", r => XElement.Parse(r.Text("xml"))).GetAwaiter().GetResult();
    }

    public void StoreElement(XElement element, string friendlyName)
    {
        using var db = source.OpenConnection();
        db.Run("insert into protection_keys (name, xml) values (@name, @xml) on conflict (name) do nothing", ("name", friendlyName), ("xml", element.ToString(SaveOptions.DisableFormatting))).GetAwaiter().GetResult();
    }
}
