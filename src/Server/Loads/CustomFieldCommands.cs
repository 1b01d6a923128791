using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;

namespace SteadyLark.Server.Loads;

/// <param name="Kind">Its type; fixed once created.</param>
public sealed record CustomFieldRequest(string? Name, CustomFieldKind? Kind, IReadOnlyList<string>? Choices, bool Required);

/// <summary>Custom fields of loads.</summary>
public static class CustomFieldCommands
{
    /// <summary>The most active fields.</summary>
    public const int Max = 30;

    public static async Task<Outcome<CustomField>> Write(CommandContext w, long? id, CustomFieldRequest request)
    {
        var all = await CustomFieldStore.All(w.Db);
        var before = all.FirstOrDefault(f => f.Id == id);
        if (id is not null && before is null)
        {
            return Problem.Missing("This field");
        }

        if (id is null && all.Count >= Max)
        {
            return new Problem("too.many", $"A load can have at most {Max} custom fields.", "name");
        }

        var defined = CustomField.Define(id ?? 0, request.Name, before?.Kind ?? request.Kind, request.Choices, request.Required);
        if (!defined.Ok)
        {
            return defined.Problems;
        }

        var field = defined.Value;
        if (before is not null && request.Kind is { } kind && kind != before.Kind)
        {
            return new Problem(
                "field.kind",
                $"{before.Name} takes a {before.Kind.ToString().ToLowerInvariant()} and has values: add another field instead.",
                "kind"
            );
        }

        if (await CustomFieldStore.NameTaken(w.Db, field.Name, id ?? 0))
        {
            return new Problem("name.taken", $"There is already a field named {field.Name}.", "name");
        }

        if (id is null)
        {
            field = field with { Id = await CustomFieldStore.Add(w.Db, field) };
        }
        else
        {
            await CustomFieldStore.Change(w.Db, field);
        }

        w.Record(
            id is null ? EventKinds.SetupFieldAdded : EventKinds.SetupFieldChanged,
            field.Id,
            $"Field {field.Name} {(id is null ? "added" : "changed")}",
            before: before
        );
        return field;
    }

    public static async Task<Outcome<CustomField>> Deactivate(CommandContext w, long id)
    {
        var field = (await CustomFieldStore.All(w.Db)).FirstOrDefault(f => f.Id == id);
        if (field is null || !await CustomFieldStore.Deactivate(w, id))
        {
            return Problem.Missing("This field");
        }

        w.Record(EventKinds.SetupFieldDeactivated, id, $"Field {field.Name} deactivated", before: field);
        return field;
    }
}
