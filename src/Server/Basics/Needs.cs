using System.Security.Claims;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>The right that an endpoint asks for.</summary>
public sealed record NeedsRight(Right Right);

/// <summary>Marks an endpoint whose body is a file, which may be larger than a command.</summary>
public sealed record FileBody;

/// <summary>Marks an endpoint that anyone may call, with the reason why.</summary>
public sealed record AllowsAnyone(string Why);

public static class NeedsExtensions
{
    /// <summary>Most bytes of a JSON body.</summary>
    public const long MaxJsonBytes = 1024 * 1024;

    /// <summary>Most bytes of a file. More than a document may have, so that one that is too large is refused with a sentence and not with a broken connection; no more than that is read.</summary>
    public const long MaxFileBytes = 60 * 1024 * 1024;

    /// <summary>States the right an endpoint asks for; without it the call ends in 401 or 403.</summary>
    public static TBuilder Needs<TBuilder>(this TBuilder builder, Right right)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new NeedsRight(right));
        return builder;
    }

    public static TBuilder IsOpen<TBuilder>(this TBuilder builder, string why)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new AllowsAnyone(why));
        return builder;
    }

    /// <summary>States that a file is the body, whatever the caller says it is: what it holds is seen by looking into it.</summary>
    public static RouteHandlerBuilder TakesFile(this RouteHandlerBuilder builder) => builder.WithMetadata(new FileBody()).Accepts<byte[]>("application/octet-stream", "*/*");

    /// <summary>Refuses calls without the right their endpoint states; an endpoint that states nothing is closed to all.</summary>
    public static IApplicationBuilder UseRights(this IApplicationBuilder app) => app.Use(async (http, next) =>
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

        var right = endpoint.Metadata.GetMetadata<NeedsRight>()?.Right;
        if (http.User.Identity?.IsAuthenticated != true)
        {
            await Answers.Refused([new Problem("sign.in", "Sign in to continue.")], StatusCodes.Status401Unauthorized).ExecuteAsync(http);
        }
        else if (right is null || !Rights.Has(http.User.Role(), right.Value))
        {
            await Answers.Refused([new Problem("no.right", right is { } needed ? $"Your role does not allow this: it needs the permission {needed.Name()}." : "Nobody may do this yet: no permission is defined for it.")], StatusCodes.Status403Forbidden).ExecuteAsync(http);
        }
        else
        {
            await next();
        }
    });

    public static Role Role(this ClaimsPrincipal user) => Enum.Parse<Role>(user.FindFirstValue(ClaimTypes.Role)!);

    public static long UserId(this ClaimsPrincipal user) => long.Parse(user.FindFirstValue(ClaimTypes.NameIdentifier)!);

    public static long? DriverId(this ClaimsPrincipal user) => long.TryParse(user.FindFirstValue("driver"), out var id) ? id : null;

    /// <summary>Who calls, and through what: the page says <c>Lark-Via: page</c>, line or phone; who says nothing came through the API.</summary>
    public static Actor Actor(this HttpContext http) =>
        http.User.Identity?.IsAuthenticated == true
            ? new Actor(http.User.UserId(), http.User.Identity.Name ?? "", http.Request.Headers["Lark-Via"].ToString() switch { "page" => Via.Page, "line" => Via.Line, "phone" => Via.Phone, _ => Via.Api }, http.User.DriverId())
            : new Actor(null, "", Via.Outside);
}
