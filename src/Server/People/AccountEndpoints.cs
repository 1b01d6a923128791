using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

public sealed record ResetRequest(string? Name);

public sealed record PasswordRequest(string? Current, string? Password);

public sealed record CodeRequest(string? Code);

/// <param name="Codes">Each works once in place of the app. Shown once.</param>
public sealed record RecoveryCodesView(IReadOnlyList<string> Codes);

/// <summary>One's own account.</summary>
/// <param name="Current">The current session.</param>
/// <param name="SecondFactorRequired">Whether the company requires one.</param>
public sealed record AccountView(
    UserRow User,
    IReadOnlyList<SessionRow> Sessions,
    Guid Current,
    bool SecondFactorRequired,
    int RecoveryCodesLeft
);

/// <summary>Signing in and out, one's own account, and one-time links.</summary>
public static class AccountEndpoints
{
    public static void MapAccounts(this RouteGroupBuilder api)
    {
        api.MapPost("/session", (SignInRequest request, HttpContext http, Sessions sessions) => sessions.SignIn(http, request))
            .IsOpen("users sign in here")
            .RequireRateLimiting(Limits.SignIn)
            .WithName("signIn");
        api.MapGet("/session", (HttpContext http, Sessions sessions) => sessions.Current(http))
            .Needs(Right.SessionOwn)
            .WithName("getSession");
        api.MapDelete("/session", (HttpContext http, Sessions sessions) => sessions.SignOut(http))
            .Needs(Right.SessionOwn)
            .WithName("signOut");
        api.MapPut("/preferences", (Preferences request, HttpContext http, Commands commands) => commands.Run<Preferences>(http, async w =>
                {
                    await UserStore.SetPreferences(w.Db, http.User.UserId(), request);
                    return request;
                }))
            .Needs(Right.SessionOwn)
            .WithName("setPreferences");
        MapLinks(api);
        MapOwn(api.MapGroup("").AddEndpointFilter(OnlySessions));
    }

    /// <summary>An account is managed by its user, not by an API token.</summary>
    private static async ValueTask<object?> OnlySessions(EndpointFilterInvocationContext context, EndpointFilterDelegate next) =>
        context.HttpContext.User.Session() is null
            ? Answers.Refused(
                [new Problem("no.right", "An API token cannot change an account: sign in instead.")],
                StatusCodes.Status403Forbidden
            )
            : await next(context);

    private static void MapLinks(RouteGroupBuilder api)
    {
        api.MapPost("/password-reset", (ResetRequest request, HttpContext http, Commands commands, AccountCommands accounts) =>
                commands.Run(http, w => accounts.RequestReset(w, request.Name))
            )
            .IsOpen("to ask for a reset link when the password is forgotten")
            .RequireRateLimiting(Limits.Account)
            .WithName("requestPasswordReset");
        api.MapGet("/account-links/{token}", (string token, HttpContext http, Commands commands) =>
                commands.Run(http, w => AccountCommands.View(w, token))
            )
            .IsOpen("the link is the permission")
            .RequireRateLimiting(Limits.Link)
            .WithName("getAccountLink");
        api.MapPost("/account-links/{token}/password", (string token, NewPasswordRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => AccountCommands.SetPassword(w, token, request))
            )
            .IsOpen("the link is the permission")
            .RequireRateLimiting(Limits.Link)
            .WithName("setPasswordByLink");
        api.MapPost(
                "/account-links/{token}/company",
                (string token, FirstRunRequest request, HttpContext http, Commands commands, AccountCommands accounts) =>
                    commands.Run(http, w => accounts.FirstRun(w, token, request))
            )
            .IsOpen("the link is the permission")
            .RequireRateLimiting(Limits.Link)
            .WithName("setUpCompany");
    }

    private static void MapOwn(RouteGroupBuilder own)
    {
        own.MapPost("/session/confirm", (ConfirmRequest request, HttpContext http, Sessions sessions) => sessions.Confirm(http, request))
            .Needs(Right.SessionOwn)
            .RequireRateLimiting(Limits.Account)
            .WithName("confirmSession");

        own.MapGet("/account", async (HttpContext http, NpgsqlDataSource source, IClock clock) =>
            {
                await using var db = await source.OpenConnectionAsync();
                var id = http.User.UserId();
                return new AccountView(
                    (await UserStore.Get(db, id))!,
                    await SessionStore.Of(db, id, clock.GetCurrentInstant()),
                    http.User.Session()!.Value,
                    http.User.DriverId() is null && (await CompanySettingsStore.Read(db)).SecondFactor,
                    await SecondFactorStore.RecoveryCodesLeft(db, id)
                );
            })
            .Needs(Right.SessionOwn)
            .WithName("getAccount");

        own.MapPost("/account/password", (PasswordRequest request, HttpContext http, Sessions sessions) =>
                sessions.ChangePassword(http, request)
            )
            .Needs(Right.SessionOwn)
            .RequireRateLimiting(Limits.Account)
            .WithName("changePassword");

        own.MapPost("/account/sessions/{id:guid}/end", (Guid id, HttpContext http, Commands commands) => commands.Run<bool>(http, async w =>
                {
                    if ((await SessionStore.Of(w.Db, http.User.UserId(), w.Now)).All(s => s.Id != id))
                    {
                        return new Problem("not.found", "This session was not found, or has ended already.");
                    }

                    await SessionStore.End(w.Db, id, w.Now);
                    w.Record(EventKinds.SessionEnded, http.User.UserId(), $"{w.Actor.Name} ended a session");
                    return true;
                }))
            .Needs(Right.SessionOwn)
            .WithName("endSession");

        own.MapPost("/account/sessions/end-others", (HttpContext http, Commands commands) => commands.Run<int>(http, async w =>
                {
                    var ended = await SessionStore.EndAll(w.Db, http.User.UserId(), w.Now, http.User.Session());
                    w.Record(EventKinds.SessionEnded, http.User.UserId(), $"{w.Actor.Name} ended {ended} other sessions");
                    return ended;
                }))
            .Needs(Right.SessionOwn)
            .WithName("endOtherSessions");

        own.MapPost("/account/second-factor", (HttpContext http, Commands commands) => commands.Run<SecondFactorSecret>(http, async w =>
                {
                    var user = (await UserStore.Get(w.Db, http.User.UserId()))!;
                    return user.SecondFactor
                        ? new Problem("second.factor.on", "A second factor is set up already: remove it first.")
                        : await SecondFactors.Begin(w.Db, user.Id, (await Business.Read(w.Db))!.Name, user.Login);
                }))
            .Needs(Right.SessionOwn)
            .Confirmed()
            .WithName("beginSecondFactor");

        own.MapPost(
                "/account/second-factor/confirm",
                (CodeRequest request, HttpContext http, Commands commands, AccountCommands accounts) =>
                    commands.Run<RecoveryCodesView>(http, async w =>
                    {
                        var user = (await UserStore.Get(w.Db, http.User.UserId()))!;
                        if (user.SecondFactor || !await SecondFactors.Accepts(w.Db, user.Id, request.Code, w.Now))
                        {
                            return new Problem(
                                "second.factor.wrong",
                                "This code is wrong: enter the six digits that the app shows now.",
                                "code"
                            );
                        }

                        var codes = await SecondFactors.Confirm(w.Db, user.Id, w.Now);
                        await SessionStore.Enrolled(w.Db, user.Id);
                        w.Record(EventKinds.UserSecondFactorOn, user.Id, $"{user.Name} set up a second factor");
                        await accounts.Notify(w, user, "A second factor was set up for your account");
                        return new RecoveryCodesView(codes);
                    })
            )
            .Needs(Right.SessionOwn)
            .RequireRateLimiting(Limits.Account)
            .WithName("confirmSecondFactor");

        own.MapPost("/account/second-factor/remove", (HttpContext http, Commands commands, AccountCommands accounts) =>
                commands.Run<bool>(http, async w =>
                {
                    var user = (await UserStore.Get(w.Db, http.User.UserId()))!;
                    if (user.DriverId is null && (await CompanySettingsStore.Read(w.Db)).SecondFactor)
                    {
                        return new Problem(
                            "second.factor.required",
                            "Your company requires a second factor: an administrator can remove a lost one."
                        );
                    }

                    await SecondFactorStore.Remove(w.Db, user.Id);
                    w.Record(EventKinds.UserSecondFactorRemoved, user.Id, $"{user.Name} removed their second factor");
                    await accounts.Notify(w, user, "The second factor of your account was removed");
                    return true;
                })
            )
            .Needs(Right.SessionOwn)
            .Confirmed()
            .WithName("removeSecondFactor");
    }
}
