using SteadyLark.Core.Places;
using SteadyLark.Core.Trips.Runs;
using SteadyLark.Formats.Routes;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Trips.Runs;

/// <summary>Runs as downloads: one driver's, or all.</summary>
public static class RunFiles
{
    public static RouteFile Route(RunPlanView plan, int? driver)
    {
        var runs = Of(plan, driver);
        return new RouteFile(
            Title(plan, driver),
            runs.SelectMany(r =>
                    r.Stops.Select(
                        (s, i) =>
                            new RouteStop(
                                plan.Ask.All[s].Name ?? plan.Ask.All[s].At!.Label,
                                plan.Ask.All[s].At!.Label,
                                driver is null ? $"driver {r.Driver + 1}" : "stop",
                                plan.Ask.All[s].At!.Point,
                                r.Visits.Count > i ? RunClock.Clock(r.Visits[i].Begins) : null,
                                r.Visits.Count > i ? r.Visits[i].Miles : null,
                                r.Visits.Count > i ? r.Visits[i].Minutes : null
                            )
                    )
                )
                .ToList(),
            runs.SelectMany(r => r.Line).Select(p => new GeoPoint(p[1], p[0])).ToList()
        );
    }

    public static byte[] Csv(RunPlanView plan, int? driver) =>
        new Table(
            ["driver", "stop", "name", "address", "latitude", "longitude", "arrives", "begins", "leaves", "miles", "drive minutes"],
            Of(plan, driver)
                .SelectMany(r =>
                    r.Stops.Select(
                        (s, i) =>
                        {
                            var (stop, visit) = (plan.Ask.All[s], r.Visits.ElementAtOrDefault(i));
                            return (IReadOnlyList<object?>)
                                [
                                    (decimal)(r.Driver + 1),
                                    (decimal)(i + 1),
                                    stop.Name,
                                    stop.At!.Label,
                                    (decimal)Math.Round(stop.At.Latitude, 5),
                                    (decimal)Math.Round(stop.At.Longitude, 5),
                                    visit is null ? null : RunClock.Clock(visit.Arrives),
                                    visit is null ? null : RunClock.Clock(visit.Begins),
                                    visit is null ? null : RunClock.Clock(visit.Leaves),
                                    (decimal?)visit?.Miles,
                                    (decimal?)visit?.Minutes,
                                ];
                        }
                    )
                )
                .ToList()
        ).Csv();

    public static byte[] Pdf(Business us, RunPlanView plan, int? driver)
    {
        using var page = new PdfPage(Title(plan, driver), $"{us.Name} · {plan.Name}");
        page.Line(Title(plan, driver), 19, bold: true);
        foreach (var run in Of(plan, driver))
        {
            page.Space(8);
            page.Rule();
            page.Line(
                $"Driver {run.Driver + 1}: {run.Stops.Count} stops, {run.Miles:0.0} miles, {RunClock.Clock(run.Begins)} to {RunClock.Clock(run.Ends)}{(run.Breaks is { } breaks ? $" ({breaks})" : "")}",
                12,
                bold: true
            );
            for (var i = 0; i < run.Stops.Count; i++)
            {
                var (stop, visit) = (plan.Ask.All[run.Stops[i]], run.Visits.ElementAtOrDefault(i));
                page.Columns(
                    10,
                    ($"{i + 1}", PdfPage.Left + 18, 18, false, true),
                    (visit is null ? "" : RunClock.Clock(visit.Begins), PdfPage.Left + 28, 40, true, false),
                    ($"{stop.Name ?? stop.At!.Label}", PdfPage.Left + 74, 190, true, false),
                    (stop.Name is null ? "" : stop.At!.Label, PdfPage.Left + 270, 180, false, false),
                    (visit is null ? "" : $"{visit.Miles:0.0} mi", PdfPage.Right, 60, false, true)
                );
            }
        }

        foreach (var left in plan.Unserved.Where(_ => driver is null))
        {
            page.Line($"Left out: {plan.Ask.All[left.Stop].Name ?? plan.Ask.All[left.Stop].At!.Label}, {left.Why}", 10);
        }

        return page.Save();
    }

    private static List<DriverRun> Of(RunPlanView plan, int? driver) =>
        plan.Runs.Where(r => r.Stops.Count > 0 && (driver is null || r.Driver == driver)).ToList();

    private static string Title(RunPlanView plan, int? driver) => driver is { } d ? $"{plan.Name}, driver {d + 1}" : plan.Name;
}
