using System.Text.Json;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips.Runs;

/// <param name="Arrives">Minutes from midnight, as are the others.</param>
public sealed record RunVisitView(int Stop, double Arrives, double Begins, double Leaves, double Miles, double Minutes);

/// <param name="Line">Longitude and latitude of the route's points.</param>
/// <param name="Breaks">What this order violates, in words; its times are then those at which it would be driven anyway.</param>
public sealed record DriverRun(
    int Driver,
    IReadOnlyList<int> Stops,
    IReadOnlyList<RunVisitView> Visits,
    double Begins,
    double Ends,
    double Miles,
    double Minutes,
    long Load,
    string? Breaks,
    IReadOnlyList<double[]> Line
);

/// <summary>A plan with many small stops.</summary>
/// <param name="Progress">Progress of the search, 0 to 1.</param>
/// <param name="BestSoFar">Miles or minutes of the best plan so far, by its objective.</param>
public sealed record RunPlanView(
    long Id,
    string Name,
    RunState State,
    double Progress,
    double? BestSoFar,
    string? Summary,
    RunPlanRequest Ask,
    IReadOnlyList<DriverRun> Runs,
    IReadOnlyList<UnservedView> Unserved,
    double Miles,
    double Minutes,
    int Drivers,
    int Version,
    string MadeBy,
    Instant ChangedAt
);

/// <param name="Stop">Index of the stop to move.</param>
/// <param name="Driver">The driver who gets it, from 0.</param>
/// <param name="Place">Its position among their other stops, 0 for the first.</param>
/// <param name="Try">Only report the effect.</param>
public sealed record RunMoveRequest(int Stop, int Driver, int Place, bool Try = false);

/// <param name="Try">Only report the best position and its effect.</param>
public sealed record RunInsertRequest(RunStopRequest? Stop, bool Try = false);

/// <param name="Done">Already visited, and everything before it too.</param>
public sealed record RunMarkRequest(int Stop, bool? Done, bool? Locked);

/// <param name="From">Minutes from midnight at which drivers without visited stops may leave; null keeps it.</param>
public sealed record RunReplanRequest(double? From, RunShare? Share = null, int? Drivers = null);

/// <summary>The effect of a manual change.</summary>
/// <param name="Miles">Added miles; negative when fewer.</param>
/// <param name="Minutes">Added driving time.</param>
/// <param name="Breaks">What it would violate, in words.</param>
public sealed record RunChangeView(double Miles, double Minutes, int Driver, int Place, string? Breaks, RunPlanView? Plan);

/// <summary>Pasted text: lines of addresses, with names, minutes and windows.</summary>
public sealed record AddressText(string? Text);

/// <summary>Plans with many small stops.</summary>
public static class RunEndpoints
{
    public static void MapRuns(this RouteGroupBuilder api)
    {
        api.MapPost("/addresses", async Task<IResult> (HttpRequest request) => Told(Addresses.Read(await DocumentEndpoints.Body(request))))
            .Needs(Right.LoadsSee)
            .TakesFile()
            .Produces<AddressList>()
            .ProducesProblem(422)
            .WithName("readAddresses");

        api.MapPost("/addresses/text", (AddressText request) => Told(Pasted(request.Text)))
            .Needs(Right.LoadsSee)
            .Produces<AddressList>()
            .ProducesProblem(422)
            .WithName("readAddressText");

        api.MapPost(
                "/route-plan",
                async Task<IResult> (
                    HttpRequest request,
                    string? drivers,
                    string? start,
                    bool? open,
                    string? from,
                    double? shift,
                    long? capacity,
                    string? objective,
                    string? aim,
                    double? seconds,
                    CancellationToken cancel
                ) =>
                    Told(
                        RoutePlan.Answer(
                            await DocumentEndpoints.Body(request),
                            new PlanOptions(drivers, start, open ?? false, from, shift, capacity, objective ?? aim, seconds, 60),
                            cancel
                        )
                    )
            )
            .Needs(Right.LoadsSee)
            .TakesFile()
            .Produces<RoutePlanAnswer>()
            .ProducesProblem(422)
            .RequireRateLimiting(Limits.Planning)
            .WithName("planRoute");

        api.MapGet("/runs", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await RunStore.Newest(db, 100);
            })
            .Needs(Right.LoadsSee)
            .WithName("listRuns");

        api.MapGet("/runs/{id:long}", async Task<IResult> (long id, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await RunStore.Get(db, id) is { } row ? TypedResults.Ok(View(row)) : Answers.NotFound("This plan");
            })
            .Needs(Right.LoadsSee)
            .Produces<RunPlanView>()
            .ProducesProblem(404)
            .WithName("getRun");

        api.MapGet("/runs/{id:long}/file", async Task<IResult> (long id, QueryEnum<RouteFormat> format, int? driver, CallerReads reads) =>
            {
                await using var db = await reads.Open();
                if (await RunStore.Get(db, id) is not { } row)
                {
                    return Answers.NotFound("This plan");
                }

                var plan = View(row);
                var name = $"runs-{id}{(driver is { } d ? $"-driver-{d + 1}" : "")}";
                return format.Value switch
                {
                    RouteFormat.Gpx => TypedResults.File(RunFiles.Route(plan, driver).Gpx(), "application/gpx+xml", $"{name}.gpx"),
                    RouteFormat.GeoJson => TypedResults.File(
                        RunFiles.Route(plan, driver).GeoJson(),
                        "application/geo+json",
                        $"{name}.geojson"
                    ),
                    RouteFormat.Csv => TypedResults.File(RunFiles.Csv(plan, driver), "text/csv; charset=utf-8", $"{name}.csv"),
                    _ => TypedResults.File(RunFiles.Pdf((await Business.Read(db))!, plan, driver), "application/pdf", $"{name}.pdf"),
                };
            })
            .Needs(Right.LoadsSee)
            .Produces<byte[]>(200, "application/octet-stream")
            .ProducesProblem(404)
            .WithName("getRunFile");

        api.MapPost("/runs", (RunPlanRequest ask, HttpContext http, Commands commands, RunPlanner thinker) =>
                Begin(http, commands, thinker, null, ask)
            )
            .Needs(Right.LoadsCover)
            .WithName("planRuns");

        api.MapPost(
                "/runs/{id:long}/replan",
                (long id, RunReplanRequest request, HttpContext http, Commands commands, RunPlanner thinker) =>
                    Begin(http, commands, thinker, (id, request), null)
            )
            .Needs(Right.LoadsCover)
            .WithName("replanRuns");

        api.MapPost("/runs/{id:long}/cancel", (long id, HttpContext http, Commands commands) => commands.Run(http, async w =>
                {
                    await RunStore.Cancel(w.Db, id);
                    return await RunStore.Get(w.Db, id) is { } row ? View(row) : (Outcome<RunPlanView>)Problem.Missing("This plan");
                }))
            .Needs(Right.LoadsCover)
            .WithName("cancelRuns");

        api.MapPost("/runs/{id:long}/move", (long id, RunMoveRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Move(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("moveRunStop");

        api.MapPost("/runs/{id:long}/insert", (long id, RunInsertRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Insert(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("insertRunStop");

        api.MapPost("/runs/{id:long}/mark", (long id, RunMarkRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => Mark(w, id, request))
            )
            .Needs(Right.LoadsCover)
            .WithName("markRunStop");
    }

    /// <summary>For a pasted list, an error about the whole list is about the text, not about a file.</summary>
    private static Outcome<AddressList> Pasted(string? text)
    {
        var read = Addresses.Read(System.Text.Encoding.UTF8.GetBytes(text ?? ""));
        return read.Ok || read.Problems.All(p => p.Field != "file")
            ? read
            : new Problem("text.unreadable", "Paste the addresses, one per line.", "text");
    }

    private static IResult Told<T>(Outcome<T> outcome) => outcome.Ok ? TypedResults.Ok(outcome.Value) : Answers.Refused(outcome.Problems);

    private static async Task<IResult> Begin(
        HttpContext http,
        Commands commands,
        RunPlanner thinker,
        (long Id, RunReplanRequest Request)? again,
        RunPlanRequest? ask
    )
    {
        long made = 0;
        var result = await commands.Run(http, async w =>
        {
            RunOrders? before = null;
            if (again is { } a)
            {
                if (await RunStore.Get(w.Db, a.Id, locked: true) is not { } row)
                {
                    return (Outcome<RunPlanView>)Problem.Missing("This plan");
                }

                if (row.State == RunState.Planning && row.ChangedAt > w.Now - RunPlanner.Silence)
                {
                    return new Problem("run.thinking", "This plan is already being calculated: wait, or stop it first.");
                }

                ask = JsonSerializer.Deserialize<RunPlanRequest>(row.Ask, Json.Options)!;
                ask = ask with
                {
                    From = a.Request.From ?? ask.From,
                    Share = a.Request.Share ?? ask.Share,
                    Drivers = a.Request.Drivers ?? ask.Drivers,
                };
                before = row.Plan is null ? null : JsonSerializer.Deserialize<RunOrders>(row.Plan, Json.Options);
                made = a.Id;
            }

            var validation = new Validation();
            var name = validation.Text(ask!.Name, "name", "The name", 120) ?? $"{ask.All.Count} stops, {w.Now.Format(w.Zone)}";
            validation.AddRange(RunBook.Check(ask));
            if (!validation.Ok)
            {
                return validation.Problems;
            }

            ask = ask with { Name = name };
            var text = JsonSerializer.Serialize(ask, Json.Options);
            if (made > 0)
            {
                await RunStore.Replan(w, made, text);
            }
            else
            {
                made = await RunStore.Add(w, name, text);
            }

            w.Record(
                EventKinds.RunsPlanned,
                made,
                $"{name}: {ask.All.Count} stops {(before is null ? "being planned" : "being replanned")}"
            );
            return View((await RunStore.Get(w.Db, made))!);
        });
        if (result.Result is Microsoft.AspNetCore.Http.HttpResults.Ok<RunPlanView>)
        {
            thinker.Begin(made);
        }

        return result;
    }

    private static async Task<Outcome<RunChangeView>> Move(CommandContext w, long id, RunMoveRequest r)
    {
        var open = await Open(w, id);
        if (!open.Ok)
        {
            return open.Problems;
        }

        var (row, ask, orders) = open.Value;
        if (r.Stop < 0 || r.Stop >= ask.All.Count || r.Driver < 0 || r.Driver >= Math.Max(orders.Runs.Count, ask.Drivers ?? 0))
        {
            return new Problem("not.found", "This stop or driver is not in the plan.", "stop");
        }

        if (ask.All[r.Stop].Done)
        {
            return new Problem("run.done", "This stop is complete: it cannot be moved.", "stop");
        }

        var runs = orders.Runs.ToList();
        while (runs.Count <= r.Driver)
        {
            runs.Add([]);
        }

        // Nothing is placed before visited stops.
        var done = runs[r.Driver].Count(s => ask.All[s].Done);
        var change = RunEdits.Move(RunBook.Problem(ask, runs.Count), runs, r.Stop, r.Driver, Math.Max(done, r.Place));
        return await Keep(w, row, ask, orders, change, r.Stop, r.Try, $"{Name(ask, r.Stop)} moved to driver {r.Driver + 1}");
    }

    private static async Task<Outcome<RunChangeView>> Insert(CommandContext w, long id, RunInsertRequest r)
    {
        var open = await Open(w, id);
        if (!open.Ok)
        {
            return open.Problems;
        }

        var (row, ask, orders) = open.Value;
        if (r.Stop is null)
        {
            return new Problem("missing", "Choose the stop to insert.", "stop");
        }

        ask = ask with { Stops = [.. ask.All, r.Stop with { Done = false }] };
        var wrong = RunBook.Check(ask);
        if (wrong.Count > 0)
        {
            return new Problems(
                wrong.Select(p => p with { Field = p.Field?.Replace($"stops[{ask.All.Count - 1}].", "stop.", StringComparison.Ordinal) })
            );
        }

        var runs =
            orders.Runs.Count > 0
                ? orders.Runs
                :
                [
                    [],
                ];
        var problem = RunBook.Problem(ask, runs.Count);
        if (RunClock.Impossible(problem, ask.All.Count - 1) is { } why)
        {
            return new Problem("run.impossible", $"{Name(ask, ask.All.Count - 1)}: {why}.", "stop");
        }

        var change = RunEdits.Insert(problem, runs, ask.All.Count - 1, runs.Select(run => run.Count(s => ask.All[s].Done)).ToList());
        return await Keep(w, row, ask, orders, change, ask.All.Count - 1, r.Try, $"{Name(ask, ask.All.Count - 1)} inserted");
    }

    private static async Task<Outcome<RunPlanView>> Mark(CommandContext w, long id, RunMarkRequest r)
    {
        var open = await Open(w, id);
        if (!open.Ok)
        {
            return open.Problems;
        }

        var (row, ask, orders) = open.Value;
        if (orders.Runs.FirstOrDefault(run => run.Contains(r.Stop)) is not { } run)
        {
            return new Problem("not.found", "This stop is not on a run.", "stop");
        }

        var at = run.ToList().IndexOf(r.Stop);
        var stops = ask
            .All.Select(
                (s, i) =>
                    r.Done == true && run.Take(at + 1).Contains(i) ? s with { Done = true }
                    : r.Done == false && run.Skip(at).Contains(i) ? s with { Done = false }
                    : s
            )
            .Select((s, i) => i == r.Stop && r.Locked is { } locked ? s with { Locked = locked } : s)
            .ToList();
        ask = ask with { Stops = stops };
        await RunStore.Change(w, id, JsonSerializer.Serialize(ask, Json.Options), row.Plan!);
        w.Record(
            EventKinds.RunsMarked,
            id,
            $"{row.Name}: {Name(ask, r.Stop)} {(r.Done is { } done ? done ? "and all stops before it complete" : "and all stops after it reopened" : r.Locked == true ? "locked" : "unlocked")}"
        );
        return View((await RunStore.Get(w.Db, id))!);
    }

    private static async Task<Outcome<RunChangeView>> Keep(
        CommandContext w,
        RunRow row,
        RunPlanRequest ask,
        RunOrders orders,
        RunChange change,
        int stop,
        bool tried,
        string summary
    )
    {
        var driver = change.Runs.ToList().FindIndex(run => run.Contains(stop));
        var place = change.Runs[driver].ToList().IndexOf(stop);
        RunPlanView? plan = null;
        var breaks = Worded(change.Breaks, ask);
        if (!tried)
        {
            var now = new RunOrders(change.Runs, orders.Unserved.Where(u => u.Stop != stop).ToList());
            await RunStore.Change(w, row.Id, JsonSerializer.Serialize(ask, Json.Options), JsonSerializer.Serialize(now, Json.Options));
            w.Record(EventKinds.RunsChanged, row.Id, $"{row.Name}: {summary}, {change.Miles:+0.0;-0.0;0} miles", before: orders);
            plan = View((await RunStore.Get(w.Db, row.Id))!);
        }

        return new RunChangeView(Math.Round(change.Miles, 1), Math.Round(change.Minutes), driver, place, breaks, plan);
    }

    /// <summary>Core refers to stops by index; users know them by name.</summary>
    private static string? Worded(string? breaks, RunPlanRequest ask) =>
        breaks is null ? null
        : System.Text.RegularExpressions.Regex.Replace(breaks, @"\bdriver (\d+)", m =>
            int.Parse(m.Groups[1].Value) is var d and <= 26 ? $"driver {(char)('A' + d - 1)}" : m.Value
        )
            is not { } lettered
            ? null
        : System.Text.RegularExpressions.Regex.Replace(lettered, @"\bstop (\d+)", m =>
            int.Parse(m.Groups[1].Value) is var i && i < ask.All.Count ? Name(ask, i) : "the terminal"
        );

    private static async Task<Outcome<(RunRow Row, RunPlanRequest Ask, RunOrders Orders)>> Open(CommandContext w, long id) =>
        await RunStore.Get(w.Db, id, locked: true) is not { } row ? Problem.Missing("This plan")
        : row.State == RunState.Planning || row.Plan is null
            ? new Problem("run.thinking", "This plan is being calculated: wait until it is ready.")
        : (
            row,
            JsonSerializer.Deserialize<RunPlanRequest>(row.Ask, Json.Options)!,
            JsonSerializer.Deserialize<RunOrders>(row.Plan, Json.Options)!
        );

    private static string Name(RunPlanRequest ask, int stop) => ask.All[stop].Name ?? ask.All[stop].At?.Label ?? $"stop {stop + 1}";

    private static RunPlanView View(RunRow row)
    {
        var ask = JsonSerializer.Deserialize<RunPlanRequest>(row.Ask, Json.Options)!;
        var orders = row.Plan is null ? new RunOrders([], []) : JsonSerializer.Deserialize<RunOrders>(row.Plan, Json.Options)!;
        if (orders.Runs.All(r => r.Count == 0))
        {
            return new RunPlanView(
                row.Id,
                row.Name,
                row.State,
                row.Progress,
                row.Cost,
                row.Summary,
                ask,
                [],
                orders.Unserved,
                0,
                0,
                0,
                row.Version,
                row.MadeBy,
                row.ChangedAt
            );
        }

        var problem = RunBook.Problem(ask, orders.Runs.Count);
        var runs = orders
            .Runs.Select(
                (stops, d) =>
                {
                    var run = RunClock.Anyhow(problem, d, stops);
                    var points = new List<GeoPoint>();
                    if (stops.Count > 0)
                    {
                        points =
                        [
                            .. ask.Start is { } start ? new[] { start.Point } : [],
                            .. stops.Select(s => ask.All[s].At!.Point),
                            .. ask is { RoundTrip: true, Start: { } back } ? new[] { back.Point } : [],
                        ];
                    }

                    var line = points.Count > 1 ? Routing.Line(points) : points;
                    return new DriverRun(
                        d,
                        stops,
                        run.Visits.Select(v => new RunVisitView(
                                v.Stop,
                                Math.Round(v.Arrives),
                                Math.Round(v.Begins),
                                Math.Round(v.Leaves),
                                Math.Round(v.Miles, 1),
                                Math.Round(v.Minutes)
                            ))
                            .ToList(),
                        Math.Round(run.Begins),
                        Math.Round(run.Ends),
                        Math.Round(RunClock.Cost(problem with { Objective = RunObjective.Miles }, d, stops), 1),
                        Math.Round(RunClock.Cost(problem with { Objective = RunObjective.Minutes }, d, stops)),
                        stops.Sum(s => ask.All[s].Demand),
                        Worded(RunEdits.Breaks(problem, d, stops), ask),
                        line.Select(Routing.Position).ToList()
                    );
                }
            )
            .ToList();
        return new RunPlanView(
            row.Id,
            row.Name,
            row.State,
            row.Progress,
            row.Cost,
            row.Summary,
            ask,
            runs,
            orders.Unserved,
            Math.Round(runs.Sum(r => r.Miles), 1),
            runs.Sum(r => r.Minutes),
            runs.Count(r => r.Stops.Count > 0),
            row.Version,
            row.MadeBy,
            row.ChangedAt
        );
    }
}
