using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <param name="Kind">What it takes; it does not change later.</param>
public sealed record OwnFieldRequest(string? Name, OwnFieldKind? Kind, IReadOnlyList<string>? Choices, bool Required);

/// <summary>Fields that the business adds to its loads.</summary>
public static class OwnFieldCommands
{
    /// <summary>Most fields at one time.</summary>
    public const int Most = 30;

    public static async Task<Outcome<OwnField>> Write(Work w, long? id, OwnFieldRequest request)
    {
        var all = await OwnFieldStore.All(w.Db);
        var before = all.FirstOrDefault(f => f.Id == id);
        if (id is not null && before is null)
        {
            return new Problem("not.found", "This field is not here.");
        }

        if (id is null && all.Count >= Most)
        {
            return new Problem("too.many", $"A load takes at most {Most} fields of your own.", "name");
        }

        var defined = OwnField.Define(id ?? 0, request.Name, before?.Kind ?? request.Kind, request.Choices, request.Required);
        if (!defined.Ok)
        {
            return defined.Problems.ToList();
        }

        var field = defined.Value;
        if (before is not null && request.Kind is { } kind && kind != before.Kind)
        {
            return new Problem("own.kind", $"{before.Name} takes a {before.Kind.ToString().ToLowerInvariant()} and has values: add another field instead.", "kind");
        }

        if (await OwnFieldStore.NameTaken(w.Db, field.Name, id ?? 0))
        {
            return new Problem("name.taken", $"There is a field {field.Name} already.", "name");
        }

        if (id is null)
        {
            field = field with { Id = await OwnFieldStore.Add(w.Db, field) };
        }
        else
        {
            await OwnFieldStore.Change(w.Db, field);
        }

        await Events.Add(w, id is null ? "setup.field_added" : "setup.field_changed", "own_field", field.Id, $"Field {field.Name} {(id is null ? "added" : "changed")}", before: before);
        return field;
    }

    public static async Task<Outcome<OwnField>> Retire(Work w, long id)
    {
        var field = (await OwnFieldStore.All(w.Db)).FirstOrDefault(f => f.Id == id);
        if (field is null || !await OwnFieldStore.Retire(w, id))
        {
            return new Problem("not.found", "This field is not here.");
        }

        await Events.Add(w, "setup.field_retired", "own_field", id, $"Field {field.Name} taken off new loads", before: field);
        return field;
    }
}
