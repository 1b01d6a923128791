using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Outside;

/// <summary>Whether simulated outsiders may act: in a demo, or in development with <c>LARK_SIMULATE=1</c>. Never in a real
/// company.</summary>
public sealed class Simulation(NpgsqlDataSource source, LarkSettings settings)
{
    private bool? _demo;

    /// <summary>Whether email leaves: through a mail server, or to the stand-in mailbox. Otherwise it waits in the outbox.</summary>
    public async Task<bool> EmailLeaves() => settings.SmtpHost is not null || await Allowed();

    public async Task<bool> Allowed()
    {
        if (settings.Simulate)
        {
            return true;
        }

        if (_demo is null)
        {
            await using var db = await source.OpenConnectionAsync();
            // Unknown until there is a company, then checked again.
            _demo = await Business.Read(db) is { } business ? business.DemoFor is not null : null;
        }

        return _demo ?? false;
    }

    /// <summary>Hides endpoints where the simulation may not run.</summary>
    public static async ValueTask<object?> Filter(EndpointFilterInvocationContext context, EndpointFilterDelegate next) =>
        await context.HttpContext.RequestServices.GetRequiredService<Simulation>().Allowed()
            ? await next(context)
            : Answers.Refused([new Problem("not.found", "There is nothing at this address.")], StatusCodes.Status404NotFound);
}
