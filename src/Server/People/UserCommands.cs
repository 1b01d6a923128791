using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>A user's view limits; omitted ones are unlimited.</summary>
public sealed record ViewLimitsRequest(
    IReadOnlyList<long>? Customers,
    IReadOnlyList<long>? Offices,
    IReadOnlyList<long>? DriverGroups,
    int? DaysAhead
)
{
    public ViewLimits Limits() => new(Customers, Offices, DriverGroups, DaysAhead);
}

/// <param name="DriverId">The driver they are, for a driver's role.</param>
/// <param name="OfficeId">The office of loads they book.</param>
/// <param name="Limits">Their view limits; unlimited when omitted.</param>
public sealed record InviteRequest(
    string? Login,
    string? Name,
    string? Email,
    long? RoleId,
    long? DriverId = null,
    long? OfficeId = null,
    ViewLimitsRequest? Limits = null
);

/// <param name="OfficeId">As in <see cref="InviteRequest"/>.</param>
/// <param name="Limits">As in <see cref="InviteRequest"/>.</param>
public sealed record UserRequest(string? Name, string? Email, long? RoleId, long? OfficeId = null, ViewLimitsRequest? Limits = null);

/// <param name="Link">The address to set a password, if one was created: shown once.</param>
public sealed record UserAnswer(UserRow User, string? Link);

/// <param name="Rights">By name; null for the standard role's own.</param>
public sealed record RoleRequest(string? Name, IReadOnlyList<string>? Rights);

/// <param name="Days">Days of validity, 1 to 366.</param>
public sealed record TokenRequest(string? Name, IReadOnlyList<string>? Rights, int? Days);

/// <param name="Token">Shown once.</param>
public sealed record TokenAnswer(TokenRow Row, string Token);

/// <summary>Users, roles and API tokens.</summary>
public sealed class UserCommands(AccountCommands accounts)
{
    public async Task<Outcome<UserAnswer>> Invite(CommandContext w, InviteRequest r)
    {
        var validation = new Validation();
        UserRules.Check(new UserDraft(r.Login, r.Name, r.Email, r.RoleId), validation);
        var role = r.RoleId is { } roleId ? await RoleStore.Get(w.Db, roleId) : null;
        CheckRole(validation, w, r.RoleId, role);
        if (role is not null && (role.Standard == Role.Driver) != (r.DriverId is not null))
        {
            validation.Add(
                "user.driver",
                role.Standard == Role.Driver ? "Choose the driver this user is." : "Only a user with the driver role is a driver.",
                "driverId"
            );
        }
        else if (r.DriverId is { } driver && !await Records.Exists(w.Db, RecordKind.Driver, driver))
        {
            validation.Add("not.found", "This driver was not found.", "driverId");
        }

        var limits = await CheckView(validation, w, role, r.OfficeId, r.Limits);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var id = await UserStore.Invite(
            w,
            r.Login!.Trim().ToLowerInvariant(),
            r.Name!.Trim(),
            r.Email!.Trim(),
            r.RoleId!.Value,
            r.DriverId
        );
        await UserStore.SetView(w.Db, id, r.OfficeId, limits);
        var user = (await UserStore.Get(w.Db, id))!;
        w.Record(EventKinds.UserInvited, id, $"{user.Name} was invited as {user.RoleName.ToLowerInvariant()}", after: Kept(user));
        return new UserAnswer(user, await accounts.Invite(w, user));
    }

    public static Task<Outcome<UserAnswer>> Change(CommandContext w, long id, UserRequest r) => OnUser(w, id, async user =>
        {
            var validation = new Validation();
            UserRules.Check(new UserDraft(user.Login, r.Name, r.Email, r.RoleId), validation);
            var role = r.RoleId is { } roleId ? await RoleStore.Get(w.Db, roleId) : null;
            CheckRole(validation, w, r.RoleId, role);
            if (role is not null && (role.Standard == Role.Driver) != (user.DriverId is not null))
            {
                validation.Add(
                    "user.driver",
                    user.DriverId is null
                        ? "An office user cannot become a driver: invite the driver with a username of their own."
                        : "A driver keeps the driver role: invite them again as an office user.",
                    "roleId"
                );
            }

            if (role is not null && UserRules.Refuses(await ChangeOf(w, user, staysOwner: role.Standard == Role.Owner)) is { } refused)
            {
                validation.Add(refused.Code, refused.Message, refused.Field);
            }

            var limits = await CheckView(validation, w, role, r.OfficeId, r.Limits);
            if (!validation.Ok)
            {
                return validation.Problems;
            }

            await UserStore.Change(w.Db, id, r.Name!.Trim(), r.Email!.Trim(), r.RoleId!.Value);
            await UserStore.SetView(w.Db, id, r.OfficeId, limits);
            var after = (await UserStore.Get(w.Db, id))!;
            w.Record(
                EventKinds.UserChanged,
                id,
                user.RoleId == after.RoleId
                    ? $"{after.Name}'s account was changed"
                    : $"{after.Name}'s role was changed from {user.RoleName} to {after.RoleName}",
                before: Kept(user),
                after: Kept(after)
            );
            return new UserAnswer(after, null);
        });

    /// <summary>Deactivates or reactivates a user. Their sessions, links and tokens end at once.</summary>
    public static Task<Outcome<UserAnswer>> SetActive(CommandContext w, long id, bool active) => OnUser(w, id, async user =>
        {
            if (user.Active == active)
            {
                return new Problem("user.same", active ? "This user is active already." : "This user is deactivated already.");
            }

            if (
                !active
                && (
                    id == w.Actor.UserId
                        ? new Problem("user.self", "You cannot deactivate yourself: another administrator can.")
                        : UserRules.Refuses(await ChangeOf(w, user, staysOwner: false))
                )
                    is { } refused
            )
            {
                return refused;
            }

            await UserStore.SetActive(w, id, active);
            w.Record(
                active ? EventKinds.UserReactivated : EventKinds.UserDeactivated,
                id,
                $"{user.Name} was {(active ? "reactivated" : "deactivated and signed out")}"
            );
            return new UserAnswer((await UserStore.Get(w.Db, id))!, null);
        });

    /// <summary>Sends a new link to choose a password: an invitation or a reset.</summary>
    public Task<Outcome<UserAnswer>> NewLink(CommandContext w, long id) => OnUser(w, id, async user =>
        {
            if (!user.Active || user.Email is null)
            {
                return user.Active
                    ? new Problem("missing", "This user has no email address: enter one first.", "email")
                    : new Problem("user.inactive", "This user is deactivated: reactivate them first.");
            }

            var link = user.Invited ? await accounts.Invite(w, user) : await accounts.Reset(w, user);
            w.Record(
                user.Invited ? EventKinds.UserInvited : EventKinds.UserResetSent,
                id,
                $"{user.Name} was sent {(user.Invited ? "another invitation" : "a link to reset the password")}"
            );
            return new UserAnswer(user, link);
        });

    /// <summary>Ends a user's sessions.</summary>
    public static Task<Outcome<UserAnswer>> SignOut(CommandContext w, long id) => OnUser(w, id, async user =>
        {
            if (id == w.Actor.UserId)
            {
                return new Problem("user.self", "Your other sessions end on your account page.");
            }

            await SessionStore.EndAll(w.Db, id, w.Now);
            w.Record(EventKinds.UserSignedOut, id, $"{user.Name} was signed out everywhere");
            return new UserAnswer(user, null);
        });

    /// <summary>Removes a lost second factor; the user signs in with the password and sets up another.</summary>
    public static Task<Outcome<UserAnswer>> RemoveSecondFactor(CommandContext w, long id) => OnUser(w, id, async user =>
        {
            if (id == w.Actor.UserId)
            {
                return new Problem("user.self", "Your own second factor is removed on your account page.");
            }

            await SecondFactorStore.Remove(w.Db, id);
            await SessionStore.EndAll(w.Db, id, w.Now);
            w.Record(EventKinds.UserSecondFactorRemoved, id, $"{user.Name}'s second factor was removed");
            return new UserAnswer((await UserStore.Get(w.Db, id))!, null);
        });

    public static async Task<Outcome<RoleRow>> AddRole(CommandContext w, RoleRequest r)
    {
        var validation = new Validation();
        var name = validation.Text(r.Name, "name", "Name", 60, required: true);
        var rights = UserRules.Named(validation, r.Rights);
        await CheckRoleRequest(validation, w, name, rights, null);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var names = rights.Select(x => x.Name()).Order().ToList();
        var id = await RoleStore.Add(w.Db, name!, names);
        w.Record(EventKinds.RoleAdded, id, $"Role {name} was added", after: new { name, rights = names });
        return (await RoleStore.Get(w.Db, id))!;
    }

    public static async Task<Outcome<RoleRow>> ChangeRole(CommandContext w, long id, RoleRequest r)
    {
        if (await RoleStore.Get(w.Db, id) is not { } before)
        {
            return Problem.Missing("This role");
        }

        if (before.Fixed)
        {
            return new Problem("role.fixed", $"The {before.Name.ToLowerInvariant()} role cannot be changed.");
        }

        var validation = new Validation();
        var name = validation.Text(r.Name, "name", "Name", 60, required: true);
        var rights = r.Rights is null && before.Standard is { } standard ? Rights.Of(standard) : UserRules.Named(validation, r.Rights);
        await CheckRoleRequest(validation, w, name, rights, id);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await RoleStore.Change(w.Db, id, name!, r.Rights is null ? null : rights.Select(x => x.Name()).Order());
        var after = (await RoleStore.Get(w.Db, id))!;
        w.Record(
            EventKinds.RoleChanged,
            id,
            $"Role {after.Name} was changed: {Difference(before.Rights, after.Rights)}",
            before: new { before.Name, before.Rights },
            after: new { after.Name, after.Rights }
        );
        return after;
    }

    public static async Task<Outcome<RoleRow>> RemoveRole(CommandContext w, long id)
    {
        if (await RoleStore.Get(w.Db, id) is not { } role)
        {
            return Problem.Missing("This role");
        }

        if (role.Standard is not null || await RoleStore.IsUsed(w.Db, id))
        {
            return new Problem(
                "role.used",
                role.Standard is not null
                    ? "A standard role cannot be removed."
                    : "Some users still have this role: change their role first."
            );
        }

        await RoleStore.Remove(w.Db, id);
        w.Record(EventKinds.RoleRemoved, id, $"Role {role.Name} was removed", before: new { role.Name, role.Rights });
        return role;
    }

    public static async Task<Outcome<TokenAnswer>> AddToken(CommandContext w, TokenRequest r)
    {
        var validation = new Validation();
        var name = validation.Text(r.Name, "name", "Name", 60, required: true);
        var rights = UserRules.Named(validation, r.Rights);
        if (UserRules.RefusesRights(w.Actor.Access!, rights) is { } beyond)
        {
            validation.Add(beyond.Code, beyond.Message, beyond.Field);
        }

        if (r.Days is not { } days || days < 1 || days > SessionRules.TokenFor.TotalDays)
        {
            validation.Add("out.of.range", $"A token lasts 1 to {SessionRules.TokenFor.TotalDays:0} days.", "days");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var token = ApiTokens.Prefix + LinkToken.New();
        var names = rights.Select(x => x.Name()).Order().ToList();
        var id = await TokenStore.Add(w, name!, LinkToken.Hash(token), names, w.Now + Duration.FromDays(r.Days!.Value));
        w.Record(
            EventKinds.TokenAdded,
            id,
            $"{w.Actor.Name} created API token {name} for {r.Days} days",
            after: new
            {
                name,
                rights = names,
                r.Days,
            }
        );
        return new TokenAnswer((await TokenStore.Of(w.Db, w.Actor.UserId)).Single(t => t.Id == id), token);
    }

    /// <summary>Revokes one's own token; with the right to edit users, any token.</summary>
    public static async Task<Outcome<bool>> RevokeToken(CommandContext w, long id)
    {
        if (await TokenStore.Revoke(w, id, w.Actor.May(Right.UsersEdit) ? null : w.Actor.UserId) is not { } name)
        {
            return new Problem("not.found", "This token was not found, or is revoked already.");
        }

        w.Record(EventKinds.TokenRevoked, id, $"API token {name} was revoked");
        return true;
    }

    /// <summary>Runs a change to a user whom the actor may change: nobody changes someone with rights beyond their own.</summary>
    private static async Task<Outcome<UserAnswer>> OnUser(CommandContext w, long id, Func<UserRow, Task<Outcome<UserAnswer>>> act)
    {
        await UserStore.Lock(w.Db, id);
        if (await UserStore.Get(w.Db, id) is not { } user || await RoleStore.Get(w.Db, user.RoleId) is not { } role)
        {
            return Problem.Missing("This user");
        }

        return UserRules.RefusesRights(w.Actor.Access!, Named(role.Rights)) is null
            ? await act(user)
            : new Problem(
                "user.beyond",
                $"{user.Name} has permissions that you do not have: only someone who has them all may change this account."
            );
    }

    /// <summary>Validates a user's office and view limits.</summary>
    private static async Task<ViewLimits> CheckView(
        Validation validation,
        CommandContext w,
        RoleRow? role,
        long? officeId,
        ViewLimitsRequest? given
    )
    {
        var limits = ViewLimits.Named(validation, given?.Limits());
        if (limits.RefusesRole(role?.Standard) is { } refused)
        {
            validation.Add(refused.Code, refused.Message, refused.Field);
        }

        if (await OfficeStore.Unknown(w.Db, limits) is { } unknown)
        {
            validation.Add("not.found", "One of these was not found: choose from the list.", $"limits.{unknown}");
        }

        if (officeId is { } office && !await OfficeStore.Has(w.Db, UnitKind.Office, office))
        {
            validation.Add("not.found", "This office was not found.", "officeId");
        }

        return limits;
    }

    /// <summary>A user as recorded in the audit log.</summary>
    private static object Kept(UserRow user) =>
        new
        {
            user.Login,
            user.Name,
            user.Email,
            role = user.RoleName,
            user.OfficeId,
            limits = user.Limits.IsLimited ? user.Limits : null,
        };

    private static async Task<UserChange> ChangeOf(CommandContext w, UserRow user, bool staysOwner) =>
        new(user.Id == w.Actor.UserId, user is { Active: true, Standard: Role.Owner }, staysOwner, await UserStore.ActiveOwners(w.Db));

    private static void CheckRole(Validation validation, CommandContext w, long? roleId, RoleRow? role)
    {
        if (roleId is not null && role is null)
        {
            validation.Add("not.found", "This role was not found.", "roleId");
        }
        else if (role is not null && UserRules.RefusesRights(w.Actor.Access!, Named(role.Rights)) is { } beyond)
        {
            validation.Add(beyond.Code, beyond.Message, "roleId");
        }
    }

    private static async Task CheckRoleRequest(Validation validation, CommandContext w, string? name, IReadOnlySet<Right> rights, long? id)
    {
        if (UserRules.RefusesRights(w.Actor.Access!, rights) is { } beyond)
        {
            validation.Add(beyond.Code, beyond.Message, beyond.Field);
        }

        if (name is not null && await RoleStore.NameTaken(w.Db, name, id))
        {
            validation.Add("name.taken", "There is a role with this name already.", "name");
        }
    }

    private static HashSet<Right> Named(IEnumerable<string> names) => names.Select(Rights.Parse).OfType<Right>().ToHashSet();

    private static string Difference(IReadOnlyList<string> before, IReadOnlyList<string> after)
    {
        var (added, removed) = (after.Except(before).ToList(), before.Except(after).ToList());
        return added.Count + removed.Count == 0
            ? "renamed"
            : string.Join(", ", added.Select(r => $"+{r}").Concat(removed.Select(r => $"-{r}")));
    }
}
