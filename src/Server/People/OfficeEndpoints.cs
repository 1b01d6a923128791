using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

public sealed record UnitRequest(string? Name, bool Active = true);

/// <summary>Offices and driver groups, by which users' views are limited.</summary>
public static class OfficeEndpoints
{
    public static void MapOffices(this RouteGroupBuilder api)
    {
        foreach (
            var (at, kind, right, name) in new[]
            {
                ("/offices", UnitKind.Office, Right.LoadsSee, "Office"),
                ("/driver-groups", UnitKind.DriverGroup, Right.FleetSee, "DriverGroup"),
            }
        )
        {
            api.MapGet(at, async (CallerReads reads) =>
                {
                    await using var db = await reads.Open();
                    return await OfficeStore.All(db, kind);
                })
                .Needs(right)
                .WithName($"list{name}s");
            api.MapPost(at, (UnitRequest request, HttpContext http, Commands commands) =>
                    commands.Run(http, w => Write(w, kind, null, request))
                )
                .Needs(Right.SetupEdit)
                .WithName($"add{name}");
            api.MapPut(at + "/{id:long}", (long id, UnitRequest request, HttpContext http, Commands commands) =>
                    commands.Run(http, w => Write(w, kind, id, request))
                )
                .Needs(Right.SetupEdit)
                .WithName($"change{name}");
        }
    }

    private static async Task<Outcome<UnitRow>> Write(CommandContext w, UnitKind kind, long? id, UnitRequest request)
    {
        var what = kind == UnitKind.Office ? "office" : "driver group";
        var before = id is null ? null : (await OfficeStore.All(w.Db, kind)).FirstOrDefault(u => u.Id == id);
        if (id is not null && before is null)
        {
            return new Problem("not.found", $"This {what} was not found.");
        }

        var validation = new Validation();
        var name = validation.Text(request.Name, "name", "Name", 60, required: true);
        if (name is not null && await OfficeStore.NameTaken(w.Db, kind, name, id))
        {
            validation.Add(
                "name.taken",
                $"There is already {(kind == UnitKind.Office ? "an office" : "a driver group")} named {name}.",
                "name"
            );
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var unit = new UnitRow(id ?? await OfficeStore.Add(w.Db, kind, name!), name!, before is null || request.Active);
        if (before is not null)
        {
            await OfficeStore.Change(w.Db, kind, unit);
        }

        var added = kind == UnitKind.Office ? EventKinds.SetupOfficeAdded : EventKinds.SetupDriverGroupAdded;
        var changed = kind == UnitKind.Office ? EventKinds.SetupOfficeChanged : EventKinds.SetupDriverGroupChanged;
        var done =
            before is null ? "added"
            : before.Active != unit.Active
                ? unit.Active ? "reactivated"
                    : "deactivated"
            : "renamed";
        w.Record(
            before is null ? added : changed,
            unit.Id,
            $"{(kind == UnitKind.Office ? "Office" : "Driver group")} {unit.Name} {done}",
            before: before,
            after: unit
        );
        return unit;
    }
}
