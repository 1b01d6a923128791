using System.Security.Claims;
using System.Xml.Linq;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <param name="Login">Username or email address.</param>
/// <param name="Code">From the authenticator app, or a recovery code; requested when needed.</param>
public sealed record SignInRequest(string? Login, string? Password, string? Code = null);

public sealed record ConfirmRequest(string? Password, string? Code = null);

/// <summary>The signed-in user, and what the page needs to start.</summary>
/// <param name="Role">The role's name.</param>
/// <param name="Token">Returned in the header X-Lark-Token with each command.</param>
/// <param name="Simulator">Whether simulated outsiders may act here.</param>
/// <param name="EmailLeaves">Whether email can be sent; otherwise it waits until a mail server is configured.</param>
/// <param name="MustEnroll">Whether a second factor must be set up before anything else.</param>
/// <param name="Clock">How to show times: the user's choice or the company default.</param>
/// <param name="DateOrder">How to show dates, likewise.</param>
/// <param name="Preferences">The user's own choices.</param>
/// <param name="OfficeId">The user's own office.</param>
/// <param name="LimitedTo">What their view is limited to, in words; null when they see everything their rights allow.</param>
public sealed record SessionView(
    long UserId,
    string Name,
    string Login,
    string Role,
    long? DriverId,
    IReadOnlyList<string> Rights,
    string Token,
    string Business,
    string Zone,
    LocalDate Today,
    Instant Now,
    bool Demo,
    bool Simulator,
    bool EmailLeaves,
    bool TwoPeople,
    bool MustEnroll,
    ClockStyle Clock,
    DateOrder DateOrder,
    Preferences Preferences,
    long? OfficeId,
    string? LimitedTo
);

/// <summary>Signing in and out: a cookie names a row in the sessions table, so that any server can end it.</summary>
public sealed class Sessions(
    NpgsqlDataSource source,
    IClock clock,
    Commands commands,
    AccountCommands accounts,
    Outside.Simulation simulation,
    BusinessZone zone,
    IAntiforgery antiforgery
)
{
    public async Task<Results<Ok<SessionView>, ProblemHttpResult>> SignIn(HttpContext http, SignInRequest request)
    {
        var typed = (request.Login ?? "").Trim().ToLowerInvariant();
        await using var db = await source.OpenConnectionAsync();
        var user = await UserStore.Named(db, typed);
        if (user is null && await Business.Read(db) is null)
        {
            return Answers.Refused(
                [
                    new Problem(
                        "not.set.up",
                        "This installation has no company yet: open the link that was printed when the server started."
                    ),
                ],
                StatusCodes.Status409Conflict
            );
        }

        if (await Checked(http, db, user, typed, request.Password, request.Code) is { } refused)
        {
            return Answers.Refused([refused.Problem], refused.Status);
        }

        var now = clock.GetCurrentInstant();
        var mustEnroll = user is { SecondFactor: false, DriverId: null } && (await CompanySettingsStore.Read(db)).SecondFactor;
        var session = Guid.NewGuid();
        var address = Address(http);
        var device = Device(http);
        await SessionStore.Begin(db, session, user!.Id, address, device, mustEnroll, now, now + SessionRules.Length);
        await using (var w = await commands.Begin(new Actor(user.Id, user.Name, Via.Page, user.DriverId, Address: address)))
        {
            w.Record(EventKinds.SessionBegan, user.Id, $"{user.Name} signed in from {address}", after: new { device });
            await w.Commit();
        }

        var principal = LarkIdentity.OfSession((await SessionStore.User(db, session, now))!, session);
        await http.SignInAsync(CookieAuthenticationDefaults.AuthenticationScheme, principal);
        http.User = principal;
        return TypedResults.Ok(await View(http, db));
    }

    /// <summary>Asks for the password again, before payments and changes of rights.</summary>
    public async Task<Results<NoContent, ProblemHttpResult>> Confirm(HttpContext http, ConfirmRequest request)
    {
        await using var db = await source.OpenConnectionAsync();
        var user = await UserStore.Get(db, http.User.UserId());
        if (await Checked(http, db, user, user!.Login, request.Password, request.Code) is { } refused)
        {
            // The session is still valid: 401 would say that it ended.
            return Answers.Refused(
                [refused.Problem],
                refused.Status == StatusCodes.Status401Unauthorized ? StatusCodes.Status422UnprocessableEntity : refused.Status
            );
        }

        await SessionStore.Confirm(db, http.User.Session()!.Value, clock.GetCurrentInstant());
        return TypedResults.NoContent();
    }

    /// <summary>Changes one's own password. The other sessions end.</summary>
    public async Task<Results<NoContent, ProblemHttpResult>> ChangePassword(HttpContext http, PasswordRequest request)
    {
        await using var db = await source.OpenConnectionAsync();
        var user = (await UserStore.Get(db, http.User.UserId()))!;
        var company = (await Business.Read(db))!.Name;
        if (Passwords.Refuses(request.Password, user.Login, user.Name, user.Email, company) is { } refused)
        {
            return Answers.Refused([refused]);
        }

        // The second factor was checked when this session began.
        if (await Checked(http, db, user with { SecondFactor = false }, user.Login, request.Current, null) is { } wrong)
        {
            return wrong.Status == StatusCodes.Status401Unauthorized
                ? Answers.Refused([new Problem("sign.in.wrong", "This is not your current password.", "current")])
                : Answers.Refused([wrong.Problem], wrong.Status);
        }

        await using var w = await commands.Begin(http.Actor());
        await UserStore.SetPasswordHash(w.Db, user.Id, Passwords.Hash(request.Password!));
        await SessionStore.EndAll(w.Db, user.Id, w.Now, http.User.Session());
        await SessionStore.Confirm(w.Db, http.User.Session()!.Value, w.Now);
        w.Record(EventKinds.UserPasswordChanged, user.Id, $"{user.Name} changed their password");
        await accounts.Notify(w, user, "The password of your account was changed");
        await w.Commit();
        return TypedResults.NoContent();
    }

    public async Task<Ok<SessionView>> Current(HttpContext http)
    {
        await using var db = await source.OpenConnectionAsync();
        return TypedResults.Ok(await View(http, db));
    }

    public async Task<NoContent> SignOut(HttpContext http)
    {
        if (http.User.Session() is { } id)
        {
            await using var db = await source.OpenConnectionAsync();
            await SessionStore.End(db, id, clock.GetCurrentInstant());
        }

        await http.SignOutAsync();
        return TypedResults.NoContent();
    }

    /// <summary>Whether the session or token of a request in progress is still valid, with the same rights.</summary>
    public static async Task<bool> Stands(HttpContext http)
    {
        await using var db = await http.RequestServices.GetRequiredService<NpgsqlDataSource>().OpenConnectionAsync(http.RequestAborted);
        var now = http.RequestServices.GetRequiredService<IClock>().GetCurrentInstant();
        var access = http.User.Session() is { } id
            ? (await SessionStore.User(db, id, now))?.Access
            : (await TokenStore.User(db, LinkToken.Hash(http.Request.Headers.Authorization.ToString().Split(' ')[^1]), now))?.Access;
        return access?.Key == http.User.Access().Key;
    }

    /// <summary>Checks at each request that its session is still valid.</summary>
    public static async Task Validate(CookieValidatePrincipalContext context)
    {
        var services = context.HttpContext.RequestServices;
        var now = services.GetRequiredService<IClock>().GetCurrentInstant();
        await using var db = await services.GetRequiredService<NpgsqlDataSource>().OpenConnectionAsync();
        var user = Guid.TryParse(context.Principal?.FindFirstValue(LarkIdentity.SessionClaim), out var id)
            ? await SessionStore.User(db, id, now)
            : null;
        if (user is null)
        {
            context.RejectPrincipal();
            return;
        }

        if (now - user.LastSeenAt > Duration.FromMinutes(1))
        {
            await SessionStore.Seen(db, id, now);
        }

        context.ReplacePrincipal(LarkIdentity.OfSession(user, id));
    }

    /// <summary>Checks password and second factor within the attempt limits. An attempt is counted before it is tried, and removed when it
    /// succeeds.</summary>
    /// <returns>The refusal, or null.</returns>
    private async Task<(Problem Problem, int Status)?> Checked(
        HttpContext http,
        NpgsqlConnection db,
        UserRow? user,
        string typed,
        string? password,
        string? code
    )
    {
        var address = Address(http);
        var now = clock.GetCurrentInstant();
        var name = user?.Login ?? typed[..Math.Min(typed.Length, 60)];
        await SessionStore.AddAttempt(db, name, address, now);
        var attempts = await SessionStore.Attempts(db, name, address, now - SignInLimits.Window);
        if (SignInLimits.MustWait(attempts, await SessionStore.HasSignedIn(db, name, address, now - SignInLimits.KnownFor)))
        {
            http.Response.Headers.RetryAfter = ((int)SignInLimits.Window.TotalSeconds).ToString();
            return (
                new Problem(
                    "sign.in.wait",
                    $"Too many failed attempts: wait {SignInLimits.Window.TotalMinutes:0} minutes, then try again."
                ),
                StatusCodes.Status429TooManyRequests
            );
        }

        if (!await Passwords.Verify(db, user, password) || user is not { Active: true })
        {
            await Failed("wrong password");
            return (new Problem("sign.in.wrong", "Incorrect username or password.", "password"), StatusCodes.Status401Unauthorized);
        }

        if (user.SecondFactor)
        {
            if (string.IsNullOrWhiteSpace(code))
            {
                return (
                    new Problem("second.factor", "Enter the code from your authenticator app.", "code"),
                    StatusCodes.Status401Unauthorized
                );
            }

            if (!await SecondFactors.Accepts(db, user.Id, code, now))
            {
                await Failed("wrong code");
                return (
                    new Problem(
                        "second.factor.wrong",
                        "This code is wrong or was already used: enter the current one, or a recovery code.",
                        "code"
                    ),
                    StatusCodes.Status401Unauthorized
                );
            }
        }

        await SessionStore.ForgetAttempts(db, name, address);
        return null;

        async Task Failed(string why)
        {
            await using var w = await commands.Begin(new Actor(user?.Id, user?.Name ?? "", Via.Page, Address: address));
            w.Record(EventKinds.SessionFailed, user?.Id ?? 0, $"Sign-in as {name} from {address} failed: {why}");
            await w.Commit();
        }
    }

    private static string Address(HttpContext http) => http.Connection.RemoteIpAddress?.ToString() ?? "";

    /// <summary>The browser and system of a sign-in, as its user would name them.</summary>
    private static string? Device(HttpContext http)
    {
        var agent = http.Request.Headers.UserAgent.ToString();
        var browser = new[] { ("Edg/", "Edge"), ("Firefox/", "Firefox"), ("Chrome/", "Chrome"), ("Safari/", "Safari") }
            .FirstOrDefault(b => agent.Contains(b.Item1, StringComparison.Ordinal))
            .Item2;
        var system = new[]
        {
            ("iPhone", "iPhone"),
            ("iPad", "iPad"),
            ("Android", "Android"),
            ("Windows", "Windows"),
            ("Mac OS", "Mac"),
            ("Linux", "Linux"),
        }
            .FirstOrDefault(s => agent.Contains(s.Item1, StringComparison.Ordinal))
            .Item2;
        return browser is null && system is null ? null : string.Join(" on ", new[] { browser, system }.Where(p => p is not null));
    }

    private async Task<SessionView> View(HttpContext http, NpgsqlConnection db)
    {
        var business = (await Business.Read(db))!;
        var me = http.User.Me();
        var now = clock.GetCurrentInstant();
        var defaults = await CompanySettingsStore.Read(db);
        var preferences = await UserStore.Preferences(db, me.User.UserId);
        var (style, order) = preferences.Or(defaults.Clock, defaults.DateOrder);
        return new SessionView(
            me.User.UserId,
            me.User.Name,
            me.User.Login,
            me.User.RoleName,
            me.User.DriverId,
            me.Access.Rights.Select(r => r.Name()).Order().ToList(),
            antiforgery.GetAndStoreTokens(http).RequestToken!,
            business.Name,
            business.Zone,
            now.InZone(zone.Zone).Date,
            now,
            business.DemoFor is not null,
            await simulation.Allowed(),
            await simulation.EmailLeaves(),
            business.TwoPeople,
            me.User.MustEnroll,
            style,
            order,
            preferences,
            me.Access.OfficeId,
            me.Access.Limits.Summary
        );
    }
}

/// <summary>Keys that protect cookies and tokens, in the database, shared by all servers.</summary>
public sealed class ProtectionKeys(NpgsqlDataSource source) : IXmlRepository
{
    public IReadOnlyCollection<XElement> GetAllElements()
    {
        using var db = source.OpenConnection();
        return ProtectionKeyStore.All(db).GetAwaiter().GetResult();
    }

    public void StoreElement(XElement element, string friendlyName)
    {
        using var db = source.OpenConnection();
        ProtectionKeyStore.Add(db, friendlyName, element).GetAwaiter().GetResult();
    }
}
