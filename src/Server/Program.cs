using NodaTime;
using SteadyLark.Core.Places;
using SteadyLark.Server;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Bench;
using SteadyLark.Server.Demo;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips.Runs;
using SteadyLark.Store.Basics;

var verb = args.Length > 0 ? args[0] : "serve";
try
{
    return verb switch
    {
        "serve" => await Serve(),
        "demo" => await Reset(),
        "openapi" => await Describe(args[1]),
        "miles" => MilesCommand.Run(args[1..], Console.Out, Console.Error),
        "route" => RouteCommand.Run(args[1..], Console.Out, Console.Error),
        "bench" => await Bench.Measured(LarkSettings.FromEnvironment(), args.Contains("--small") ? 1 : 49, args.Contains("--fresh")),
        _ => Fail($"Unknown command '{verb}': use serve, demo, bench, miles, route or openapi."),
    };
}
catch (Exception e) when (e is InvalidOperationException or IOException or Npgsql.NpgsqlException)
{
    return Fail(e.Message);
}

static int Fail(string why)
{
    Console.Error.WriteLine(why);
    return 1;
}

// Brings the database up to date, fills it if it is new, and serves until told to stop.
static async Task<int> Serve()
{
    var settings = LarkSettings.FromEnvironment();
    foreach (var script in await Database.Migrate(settings.Database))
    {
        Console.WriteLine($"  database: {string.Join('.', script.Split('.')[^2..])}");
    }

    await using var app = LarkApp.Build(settings, $"http://127.0.0.1:{Environment.GetEnvironmentVariable("LARK_PORT") ?? "4180"}");
    await DemoBusiness.MakeIfNew(app.Services, Console.WriteLine);
    await app.StartAsync();

    // Roads and towns are read now, so that the first who asks need not wait for them.
    _ = Task.Run(() => (Routing.Router.Route(new GeoPoint(46.9, -114.0), new GeoPoint(46.0, -112.5)), Routing.Gazetteer));
    Console.WriteLine($"Steady Lark is ready at {settings.Url} · {await DemoBusiness.HowToSignIn(app.Services)}");
    await app.WaitForShutdownAsync();
    return 0;
}

// Makes the demo anew in an emptied database.
static async Task<int> Reset()
{
    var settings = LarkSettings.FromEnvironment();
    await DemoBusiness.Empty(settings);
    await Database.Migrate(settings.Database);
    await using var app = LarkApp.Build(settings, "http://127.0.0.1:0");
    await DemoBusiness.MakeIfNew(app.Services, Console.WriteLine);
    return 0;
}

// Writes the API's description to a file; needs no database.
static async Task<int> Describe(string file)
{
    await using var app = LarkApp.Build(LarkSettings.FromEnvironment() with { Pages = null }, "http://127.0.0.1:0", SystemClock.Instance, jobs: false);
    await app.StartAsync();
    await using var stream = File.Create(file);
    await OpenApiFile.Write(app, stream);
    return 0;
}
