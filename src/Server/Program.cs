using NodaTime;
using SteadyLark.Core.Places;
using SteadyLark.Server;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Bench;
using SteadyLark.Server.Demo;
using SteadyLark.Server.Documents;
using SteadyLark.Server.Places;
using SteadyLark.Server.Trips;
using SteadyLark.Server.Trips.Runs;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

var verb = args.Length > 0 ? args[0] : "serve";
try
{
    return verb switch
    {
        "serve" => await Serve(),
        "migrate" => await Migrate(),
        Untrusted.Verb => await ReadFiles(),
        "verify" => await Verify(args.Length > 1 ? args[1] : null),
        "demo" => await Reset(),
        "openapi" => await Describe(args[1]),
        "miles" => MilesCommand.Run(args[1..], Console.Out, Console.Error),
        "fit" => FitCommand.Run(args[1..], Console.Out, Console.Error),
        "hours" => HoursCommand.Run(args[1..], Console.Out, Console.Error),
        "route" => RouteCommand.Run(args[1..], Console.Out, Console.Error),
        "bench" => await Measure(args.Contains("--small"), args.Contains("--million"), args.Contains("--fresh")),
        _ => Fail($"Unknown command '{verb}': use serve, migrate, verify, demo, bench, miles, route, fit, hours or openapi."),
    };
}
catch (Exception e) when (e is InvalidOperationException or IOException or Npgsql.NpgsqlException)
{
    return Fail(e.Message);
}

// The demo's own history, or one as long and 49 times as busy, or five of those.
static Task<int> Measure(bool small, bool million, bool fresh)
{
    var (size, database) =
        small ? (DemoSize.Whole, "lark_bench_small")
        : million ? (new DemoSize(545, 54, 5), "lark_bench_million")
        : (new DemoSize(545, 49), "lark_bench");
    return Bench.Measured(LarkSettings.FromEnvironment(), size, database, fresh);
}

static int Fail(string why)
{
    Console.Error.WriteLine(why);
    return 1;
}

// Migrates the database, as its owner (LARK_DATABASE_OWNER): the application's own role may not.
static async Task<int> Migrate()
{
    foreach (var script in await Database.Migrate(LarkSettings.OwnerDatabase()))
    {
        Console.WriteLine($"  database: {string.Join('.', script.Split('.')[^2..])}");
    }

    return 0;
}

// Reads files from outside for a server, isolated from its memory and secrets.
static async Task<int> ReadFiles()
{
    await Untrusted.Answer(Console.OpenStandardInput(), Console.OpenStandardOutput());
    return 0;
}

// Verifies the audit log's hash chain.
static async Task<int> Verify(string? knownHead)
{
    await using var source = Database.Open(LarkSettings.FromEnvironment().Database);
    await using var db = await source.OpenConnectionAsync();
    await AuditStore.Seal(db);
    var report = await AuditStore.Verify(db, knownHead);
    foreach (var sentence in report.Broken)
    {
        Console.Error.WriteLine(sentence);
    }

    Console.WriteLine(
        report.Broken.Count == 0
            ? $"The audit log is complete and unchanged: {report.Entries:#,##0} entries, {report.Open:#,##0} not chained yet. Head: {report.Head}"
            : $"The audit log is NOT intact: {report.Entries:#,##0} entries. Head: {report.Head}"
    );
    return report.Broken.Count == 0 ? 0 : 1;
}

// Fills the database if it is new, and serves until told to stop.
static async Task<int> Serve()
{
    var settings = LarkSettings.FromEnvironment();
    if (await Database.IsBehind(settings.Database))
    {
        return Fail(
            "The database is older than this version: run './lark start', or the verb 'migrate' with the owner's connection in LARK_DATABASE_OWNER."
        );
    }

    await using var app = LarkApp.Build(settings, $"http://127.0.0.1:{Environment.GetEnvironmentVariable("LARK_PORT") ?? "4180"}");
    await DemoBusiness.MakeIfNew(app.Services, Console.WriteLine);
    await app.StartAsync();

    // Roads and towns are loaded now, so that the first request does not wait for them.
    _ = Task.Run(() => (Routing.Router.Route(new GeoPoint(46.9, -114.0), new GeoPoint(46.0, -112.5)), Routing.Gazetteer));
    Console.WriteLine($"Steady Lark is ready at {settings.Url} · {await DemoBusiness.HowToSignIn(app.Services)}");
    await app.WaitForShutdownAsync();
    return 0;
}

// Creates a new demo in an emptied database.
static async Task<int> Reset()
{
    var settings = LarkSettings.FromEnvironment();
    await DemoBusiness.Empty(settings with { Database = LarkSettings.OwnerDatabase() });
    await Database.Migrate(LarkSettings.OwnerDatabase());
    await using var app = LarkApp.Build(settings, "http://127.0.0.1:0");
    await DemoBusiness.MakeIfNew(app.Services, Console.WriteLine);
    return 0;
}

// Writes the API description to a file; needs no database.
static async Task<int> Describe(string file)
{
    await using var app = LarkApp.Build(
        LarkSettings.FromEnvironment() with
        {
            Pages = null,
        },
        "http://127.0.0.1:0",
        SystemClock.Instance,
        jobs: false
    );
    await app.StartAsync();
    await using var stream = File.Create(file);
    await OpenApiFile.Write(app, stream);
    return 0;
}
