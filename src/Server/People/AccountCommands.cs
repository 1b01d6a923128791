using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>The purpose of a one-time link, as its page shows it.</summary>
/// <param name="Company">Null on the first run.</param>
/// <param name="Login">Its user; null on the first run.</param>
public sealed record AccountLinkView(AccountLinkKind Kind, string? Company, string? Name, string? Login, Instant EndsAt);

public sealed record NewPasswordRequest(string? Password);

/// <summary>A company and its owner, on the first run.</summary>
/// <param name="McNumber">Docket number of the operating authority, if any.</param>
/// <param name="Zone">A tz database name, such as America/Chicago.</param>
/// <param name="Logo">A PNG, base64; null for none.</param>
/// <param name="Name">The owner's name.</param>
/// <param name="OwnerEmail">Where the owner gets links to reset a password.</param>
public sealed record FirstRunRequest(
    string? Company,
    string? Address,
    string? Phone,
    string? Email,
    string? Usdot,
    string? McNumber,
    string? Zone,
    string? Logo,
    string? Name,
    string? Login,
    string? OwnerEmail,
    string? Password
);

/// <summary>Actions through one-time links: the first run, accepting an invitation, resetting a password.</summary>
public sealed class AccountCommands(LarkSettings settings, Mailer mailer, BusinessZone zone)
{
    private static readonly Problem Gone = new(
        "link.gone",
        "This link no longer works: it was used, replaced, or has expired. Ask for a new one."
    );

    /// <summary>The address of a link's page.</summary>
    public string Url(string token) => $"{settings.Url}/welcome/{token}";

    public static async Task<Outcome<AccountLinkView>> View(CommandContext w, string token)
    {
        if (await AccountLinkStore.Find(w.Db, token, w.Now) is not { } link)
        {
            return Gone;
        }

        var user = link.UserId is { } id ? await UserStore.Get(w.Db, id) : null;
        return new AccountLinkView(link.Kind, (await Business.Read(w.Db))?.Name, user?.Name, user?.Login, link.EndsAt);
    }

    /// <summary>Sets the password of someone invited or resetting it. Earlier sessions end.</summary>
    public static async Task<Outcome<AccountLinkView>> SetPassword(CommandContext w, string token, NewPasswordRequest request)
    {
        if (await AccountLinkStore.Find(w.Db, token, w.Now) is not { UserId: { } id } link || await UserStore.Get(w.Db, id) is not { } user)
        {
            return Gone;
        }

        var company = (await Business.Read(w.Db))!.Name;
        if (Passwords.Refuses(request.Password, user.Login, user.Name, user.Email, company) is { } refused)
        {
            return refused;
        }

        if (!await AccountLinkStore.Use(w.Db, token, w.Now))
        {
            return Gone;
        }

        await UserStore.SetPasswordHash(w.Db, id, Passwords.Hash(request.Password!));
        await SessionStore.EndAll(w.Db, id, w.Now);
        var invited = link.Kind == AccountLinkKind.Invitation;
        w.At(w.Now, w.Actor with { UserId = id, Name = user.Name })
            .Record(
                invited ? EventKinds.UserJoined : EventKinds.UserPasswordReset,
                id,
                invited ? $"{user.Name} accepted the invitation" : $"{user.Name} reset their password"
            );
        return new AccountLinkView(link.Kind, company, user.Name, user.Login, link.EndsAt);
    }

    /// <summary>Creates the company and its owner. Only once.</summary>
    public async Task<Outcome<AccountLinkView>> FirstRun(CommandContext w, string token, FirstRunRequest r)
    {
        await Locks.Take(w, LockKey.FirstRun);
        if (
            await AccountLinkStore.Find(w.Db, token, w.Now) is not { Kind: AccountLinkKind.FirstRun } link
            || await Business.Read(w.Db) is not null
        )
        {
            return Gone;
        }

        var validation = new Validation();
        var company = CompanyRules.Check(
            new CompanyDraft(r.Company, r.Address, r.Phone, r.Email, r.Usdot, r.McNumber, r.Zone),
            validation,
            "company"
        );
        var logo = CompanyLogo.Read(r.Logo, validation);
        var drafted = new UserDraft(r.Login, r.Name, r.OwnerEmail, 0);
        UserRules.Check(drafted, validation, emailField: "ownerEmail");
        var login = (r.Login ?? "").Trim().ToLowerInvariant();
        if (Passwords.Refuses(r.Password, login, r.Name ?? "", r.OwnerEmail, r.Company ?? "") is { } refused)
        {
            validation.Add(refused.Code, refused.Message, refused.Field);
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        if (!await AccountLinkStore.Use(w.Db, token, w.Now))
        {
            return Gone;
        }

        await Business.Write(
            w.Db,
            new Business(
                company.Name!,
                company.Zone!,
                company.Address!,
                company.Phone!,
                company.Email!,
                company.Usdot,
                null,
                McNumber: company.McNumber,
                Logo: logo
            )
        );
        var owner = await UserStore.Add(w.Db, login, r.Name!.Trim(), Role.Owner, Passwords.Hash(r.Password!), null, r.OwnerEmail!.Trim());
        w.At(w.Now, w.Actor with { UserId = owner, Name = r.Name.Trim() })
            .Record(EventKinds.SetupCompanyCreated, 0, $"{company.Name} was set up by {r.Name.Trim()}");
        zone.Zone = WallClock.Zone(company.Zone!)!;
        return new AccountLinkView(link.Kind, company.Name, r.Name.Trim(), login, link.EndsAt);
    }

    /// <summary>Emails a password reset link to the user with this username or email. Responds the same whether or not there is
    /// one.</summary>
    public async Task<Outcome<bool>> RequestReset(CommandContext w, string? name)
    {
        if (
            await UserStore.Named(w.Db, (name ?? "").Trim()) is { Email: { } email, Invited: false } user
            && await AccountLinkStore.MadeSince(w.Db, user.Id, w.Now - SessionRules.ResetFor) < 3
        )
        {
            var token = await AccountLinkStore.Make(w.Db, AccountLinkKind.Reset, user.Id, w.Now, SessionRules.ResetFor);
            await Send(
                w,
                email,
                "Reset your password",
                user.Name,
                $"Open this link to choose a new password for {user.Login}. It works once, for one hour:\n\n{Url(token)}\n\nIf you did not ask for this, ignore this email: your password has not changed."
            );
            w.Record(EventKinds.UserResetRequested, user.Id, $"A link to reset the password was sent to {user.Name}");
        }

        return true;
    }

    /// <summary>Creates an invitation and emails it.</summary>
    /// <returns>Its address.</returns>
    public async Task<string> Invite(CommandContext w, UserRow user)
    {
        var url = Url(await AccountLinkStore.Make(w.Db, AccountLinkKind.Invitation, user.Id, w.Now, SessionRules.InvitationFor));
        var company = (await Business.Read(w.Db))!.Name;
        await Send(
            w,
            user.Email!,
            $"Your invitation to {company}",
            user.Name,
            $"{w.Actor.Name} invited you to work in {company}'s Steady Lark. Your username is {user.Login}. Open this link to choose a password. It works once, for seven days:\n\n{url}"
        );
        return url;
    }

    /// <summary>Creates a link to reset another user's password and emails it.</summary>
    /// <returns>Its address.</returns>
    public async Task<string> Reset(CommandContext w, UserRow user)
    {
        var url = Url(await AccountLinkStore.Make(w.Db, AccountLinkKind.Reset, user.Id, w.Now, SessionRules.ResetFor));
        if (user.Email is { } email)
        {
            await Send(
                w,
                email,
                "Reset your password",
                user.Name,
                $"{w.Actor.Name} sent you this link to choose a new password for {user.Login}. It works once, for one hour:\n\n{url}"
            );
        }

        return url;
    }

    /// <summary>Notifies a user of a change to their account, so that they notice one they did not make.</summary>
    public Task Notify(CommandContext w, UserRow user, string what) =>
        user.Email is { } email
            ? Send(
                w,
                email,
                what,
                user.Name,
                $"{what}, on {w.Now.InZone(w.Zone):ddd MMM d, HH:mm}. If this was not you, tell your administrator at once."
            )
            : Task.CompletedTask;

    private async Task Send(CommandContext w, string to, string subject, string name, string text)
    {
        var us = (await Business.Read(w.Db))!;
        await mailer.Send(w, MailPurpose.Account, to, subject, $"{name},\n\n{text}\n\n{us.Name}, {us.Phone}", [], null);
    }
}
