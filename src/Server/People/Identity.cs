using System.Security.Claims;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.Extensions.Options;
using NodaTime;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>The caller, as read from the database for this request.</summary>
public sealed class LarkIdentity : ClaimsIdentity
{
    private LarkIdentity(SignedIn user, Access access, Guid? session, string scheme)
        : base(
            [
                new Claim(ClaimTypes.NameIdentifier, user.UserId.ToString()),
                new Claim(ClaimTypes.Name, user.Name),
                .. session is { } id ? [new Claim(SessionClaim, id.ToString())] : Array.Empty<Claim>(),
            ],
            scheme
        )
    {
        User = user;
        Access = access;
        Session = session;
    }

    internal const string SessionClaim = "session";

    public SignedIn User { get; }

    public Access Access { get; }

    /// <summary>The session; null with an API token.</summary>
    public Guid? Session { get; }

    public static ClaimsPrincipal OfSession(SignedIn user, Guid session) =>
        new(new LarkIdentity(user, user.Access, session, CookieAuthenticationDefaults.AuthenticationScheme));

    public static ClaimsPrincipal OfToken(TokenUser token) => new(new LarkIdentity(token.User, token.Access, null, ApiTokens.SchemeName));
}

/// <summary>API tokens in the Authorization header (RFC 6750 § 2.1): <c>Authorization: Bearer lark_…</c>.</summary>
public sealed class ApiTokens(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory log,
    UrlEncoder encoder,
    NpgsqlDataSource source,
    IClock clock
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, log, encoder)
{
    public const string SchemeName = "token";

    /// <summary>The prefix of each token, so that a leaked one is recognized.</summary>
    public const string Prefix = "lark_";

    private const string Bearer = "Bearer ";

    public static bool IsIn(HttpContext http) =>
        http.Request.Headers.Authorization.ToString().StartsWith(Bearer, StringComparison.OrdinalIgnoreCase);

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var token = Request.Headers.Authorization.ToString()[Bearer.Length..].Trim();
        if (!token.StartsWith(Prefix, StringComparison.Ordinal) || token.Length > 100)
        {
            return AuthenticateResult.Fail("not a token");
        }

        var now = clock.GetCurrentInstant();
        await using var db = await source.OpenConnectionAsync();
        if (await TokenStore.User(db, LinkToken.Hash(token), now) is not { } user)
        {
            return AuthenticateResult.Fail("unknown token");
        }

        if (user.LastUsedAt is not { } last || now - last > Duration.FromMinutes(1))
        {
            await TokenStore.Used(db, user.TokenId, now);
        }

        return AuthenticateResult.Success(new AuthenticationTicket(LarkIdentity.OfToken(user), SchemeName));
    }
}
