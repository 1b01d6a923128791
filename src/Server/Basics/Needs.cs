using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>The right an endpoint requires.</summary>
/// <param name="Or">Rights that do as well.</param>
public sealed record NeedsRight(Right Right, IReadOnlyList<Right> Or)
{
    public bool IsMet(Func<Right, bool> has) => has(Right) || Or.Any(has);
}

/// <summary>Marks an endpoint that requires a recently entered password: payments and changes of rights.</summary>
public sealed record NeedsConfirmation;

/// <summary>Marks an endpoint whose body is a file, which may be larger than JSON.</summary>
public sealed record FileBody;

/// <summary>Marks an endpoint open to anyone, with the reason.</summary>
public sealed record AllowsAnyone(string Why);

public static class NeedsExtensions
{
    /// <summary>The most bytes of a JSON body.</summary>
    public const long MaxJsonBytes = 1024 * 1024;

    /// <summary>The most bytes of a file read. More than a document may have, so that one that is too large is refused with a sentence and
    /// not with a broken connection.</summary>
    public const long MaxFileBytes = 60 * 1024 * 1024;

    /// <summary>States the right an endpoint requires; without it the call is answered with 401 or 403.</summary>
    /// <param name="or">Rights that do as well.</param>
    public static TBuilder Needs<TBuilder>(this TBuilder builder, Right right, params Right[] or)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new NeedsRight(right, or));
        return builder;
    }

    public static TBuilder IsOpen<TBuilder>(this TBuilder builder, string why)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new AllowsAnyone(why));
        return builder;
    }

    /// <summary>States that the password must have been entered within <see cref="SessionRules.ConfirmedFor"/>. API tokens are exempt:
    /// their rights were granted for it.</summary>
    public static TBuilder Confirmed<TBuilder>(this TBuilder builder)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new NeedsConfirmation());
        return builder;
    }

    /// <summary>States that the body is a file, whatever its content type says: its contents decide.</summary>
    public static RouteHandlerBuilder TakesFile(this RouteHandlerBuilder builder) =>
        builder.WithMetadata(new FileBody()).Accepts<byte[]>("application/octet-stream", "*/*");

    /// <summary>Refuses calls without the right their endpoint requires; an endpoint that states none is closed to everyone.</summary>
    public static IApplicationBuilder UseRights(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                var endpoint = http.GetEndpoint();
                if (http.Features.Get<Microsoft.AspNetCore.Http.Features.IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size)
                {
                    size.MaxRequestBodySize = endpoint?.Metadata.GetMetadata<FileBody>() is null ? MaxJsonBytes : MaxFileBytes;
                }

                if (endpoint is null || endpoint.Metadata.GetMetadata<AllowsAnyone>() is not null)
                {
                    await next();
                    return;
                }

                var needs = endpoint.Metadata.GetMetadata<NeedsRight>();
                if (http.User.Identity?.IsAuthenticated != true)
                {
                    await Answers
                        .Refused([new Problem("sign.in", "Sign in to continue.")], StatusCodes.Status401Unauthorized)
                        .ExecuteAsync(http);
                }
                else if (needs is null || !needs.IsMet(http.User.Access().Has))
                {
                    await Answers.Refused([Missing(needs?.Right, http.User.Me())], StatusCodes.Status403Forbidden).ExecuteAsync(http);
                }
                else if (endpoint.Metadata.GetMetadata<NeedsConfirmation>() is not null && http.MustConfirm() is { } confirm)
                {
                    await confirm.ExecuteAsync(http);
                }
                else
                {
                    Trimming.Reader = http.User.Access();
                    await next();
                }
            }
        );

    /// <summary>The refusal when the password was not entered recently; null when it was, or for an API token.</summary>
    public static ProblemHttpResult? MustConfirm(this HttpContext http) =>
        http.User.Me() is { Session: not null } me
        && SessionRules.MustConfirm(me.User.ConfirmedAt, http.RequestServices.GetRequiredService<NodaTime.IClock>().GetCurrentInstant())
            ? Answers.Refused([new Problem("confirm.password", "Enter your password again to continue.")], StatusCodes.Status403Forbidden)
            : null;

    private static Problem Missing(Right? right, LarkIdentity me) =>
        right is not { } needed ? new Problem("no.right", "Nobody may do this yet: no permission is defined for it.")
        : me.User.MustEnroll ? new Problem("second.factor.needed", "Your company requires a second factor: set one up first.")
        : new Problem(
            "no.right",
            me.Session is null
                ? $"This API token does not allow this: it needs the permission {needed.Name()}."
                : $"Your role does not allow this: it needs the permission {needed.Name()}."
        );

    public static LarkIdentity Me(this ClaimsPrincipal user) => (LarkIdentity)user.Identity!;

    public static Access Access(this ClaimsPrincipal user) => (user.Identity as LarkIdentity)?.Access ?? Core.People.Access.Nobody;

    public static long UserId(this ClaimsPrincipal user) => user.Me().User.UserId;

    public static long? DriverId(this ClaimsPrincipal user) => user.Me().User.DriverId;

    public static Guid? Session(this ClaimsPrincipal user) => (user.Identity as LarkIdentity)?.Session;

    /// <summary>The caller and channel: the page sends <c>Lark-Via: page</c>, line or phone; anything else is the API.</summary>
    public static Actor Actor(this HttpContext http)
    {
        var address = http.Connection.RemoteIpAddress?.ToString();
        return http.User.Identity is LarkIdentity me
            ? new Actor(
                me.User.UserId,
                me.User.Name,
                http.Request.Headers["Lark-Via"].ToString() switch
                {
                    "page" => Via.Page,
                    "line" => Via.Line,
                    "phone" => Via.Phone,
                    _ => Via.Api,
                },
                me.User.DriverId,
                me.Access,
                address
            )
            : new Actor(null, "", Via.Outside, Address: address);
    }
}
