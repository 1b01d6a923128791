using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <param name="Offered">The permissions a role may have.</param>
public sealed record RolesView(IReadOnlyList<RoleRow> Roles, IReadOnlyList<RightInfo> Offered);

/// <param name="Offered">The permissions a token may have.</param>
public sealed record TokensView(IReadOnlyList<TokenRow> Tokens, IReadOnlyList<RightInfo> Offered);

/// <summary>Users, roles and API tokens.</summary>
public static class UserEndpoints
{
    public static void MapUsers(this RouteGroupBuilder api)
    {
        api.MapGet("/users", async (NpgsqlDataSource source) =>
            {
                await using var db = await source.OpenConnectionAsync();
                return await UserStore.All(db);
            })
            .Needs(Right.UsersEdit)
            .WithName("listUsers");
        api.MapPost("/users", (InviteRequest r, HttpContext http, Commands commands, UserCommands users) =>
                commands.Run(http, w => users.Invite(w, r))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("inviteUser");
        api.MapPut("/users/{id:long}", (long id, UserRequest r, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.Change(w, id, r))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("changeUser");
        api.MapPost("/users/{id:long}/deactivate", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.SetActive(w, id, false))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("deactivateUser");
        api.MapPost("/users/{id:long}/reactivate", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.SetActive(w, id, true))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("reactivateUser");
        api.MapPost("/users/{id:long}/link", (long id, HttpContext http, Commands commands, UserCommands users) =>
                commands.Run(http, w => users.NewLink(w, id))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("sendUserLink");
        api.MapPost("/users/{id:long}/sign-out", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.SignOut(w, id))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("signOutUser");
        api.MapPost("/users/{id:long}/remove-second-factor", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.RemoveSecondFactor(w, id))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("removeUserSecondFactor");

        api.MapGet("/roles", async (NpgsqlDataSource source) =>
            {
                await using var db = await source.OpenConnectionAsync();
                return new RolesView(await RoleStore.All(db), Rights.Offered);
            })
            .Needs(Right.UsersEdit)
            .WithName("listRoles");
        api.MapPost("/roles", (RoleRequest r, HttpContext http, Commands commands) => commands.Run(http, w => UserCommands.AddRole(w, r)))
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("addRole");
        api.MapPut("/roles/{id:long}", (long id, RoleRequest r, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.ChangeRole(w, id, r))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("changeRole");
        api.MapPost("/roles/{id:long}/remove", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.RemoveRole(w, id))
            )
            .Needs(Right.UsersEdit)
            .Confirmed()
            .WithName("removeRole");

        api.MapGet("/tokens", async (HttpContext http, NpgsqlDataSource source) =>
            {
                await using var db = await source.OpenConnectionAsync();
                return new TokensView(
                    await TokenStore.Of(db, http.User.Access().Has(Right.UsersEdit) ? null : http.User.UserId()),
                    Rights.Offered
                );
            })
            .Needs(Right.TokensOwn)
            .WithName("listTokens");
        api.MapPost("/tokens", (TokenRequest r, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.AddToken(w, r))
            )
            .Needs(Right.TokensOwn)
            .Confirmed()
            .WithName("addToken");
        api.MapPost("/tokens/{id:long}/revoke", (long id, HttpContext http, Commands commands) =>
                commands.Run(http, w => UserCommands.RevokeToken(w, id))
            )
            .Needs(Right.TokensOwn)
            .WithName("revokeToken");
    }
}
