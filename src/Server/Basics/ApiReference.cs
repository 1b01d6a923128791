using Scalar.AspNetCore;
using SteadyLark.Server.Outside;

namespace SteadyLark.Server.Basics;

/// <summary>The API description to read and try out (Scalar), in a demo only. Everything it loads is shipped with the server.</summary>
public static class ApiReference
{
    public const string Path = "/api-reference";

    /// <summary>Its page starts with an inline script and styles itself; like everywhere, nothing is loaded from elsewhere.</summary>
    public const string Policy =
        "default-src 'none'; script-src 'self' 'unsafe-inline'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

    public static void MapApiReference(this WebApplication app) =>
        app.MapScalarApiReference(Path, o =>
                o.WithTitle("Steady Lark API").DisableDefaultFonts().DisableAgent().DisableMcp().HideClientButton()
            )
            .InDemoOnly()
            .IsOpen("the API description contains no business data")
            .ExcludeFromDescription();

    /// <summary>Hides an endpoint where the simulation may not run. Its pages are served by a delegate of the package, which endpoint
    /// filters do not reach.</summary>
    private static T InDemoOnly<T>(this T builder)
        where T : IEndpointConventionBuilder
    {
        builder.Finally(endpoint =>
        {
            var serve = endpoint.RequestDelegate!;
            endpoint.RequestDelegate = async http =>
            {
                if (await http.RequestServices.GetRequiredService<Simulation>().Allowed())
                {
                    await serve(http);
                }
                else
                {
                    await Answers.NotFound("This address").ExecuteAsync(http);
                }
            };
        });
        return builder;
    }
}
