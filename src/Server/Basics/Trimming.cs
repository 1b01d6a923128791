using System.Text.Json.Serialization.Metadata;
using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Documents;

namespace SteadyLark.Server.Basics;

/// <summary>Omits from every response what its reader may not see. Records mark it (<see cref="SeenWithAttribute"/>) and Core
/// decides.</summary>
public static class Trimming
{
    private static readonly AsyncLocal<Access?> Current = new();

    /// <summary>The reader of the current response; null outside requests and for open endpoints, whose responses are not
    /// trimmed.</summary>
    public static Access? Reader
    {
        get => Current.Value;
        set => Current.Value = value;
    }

    /// <summary>Adds trimming to a type's properties.</summary>
    public static void Modify(JsonTypeInfo type)
    {
        foreach (var property in type.Properties)
        {
            if (Of<SeenWithAttribute>(property) is { } seen)
            {
                property.ShouldSerialize = (_, _) => Reader is not { } reader || seen.Allows(reader);
                property.IsRequired = false;
            }

            if (property.Get is not { } get)
            {
                continue;
            }

            if (Of<HoldsAmountsAttribute>(property) is not null)
            {
                property.Get = o =>
                    get(o) switch
                    {
                        string sentence when Reader is { } reader => Amounts.Trim(reader, sentence),
                        IReadOnlyList<string> sentences when Reader is { } reader => sentences
                            .Select(s => Amounts.Trim(reader, s))
                            .ToList(),
                        var other => other,
                    };
            }
            else if (property.PropertyType == typeof(IReadOnlyList<EventRow>))
            {
                property.Get = o => Seen((IReadOnlyList<EventRow>?)get(o));
            }
            else if (property.PropertyType == typeof(IReadOnlyList<MailRow>))
            {
                property.Get = o => Seen((IReadOnlyList<MailRow>?)get(o));
            }
            else if (property.PropertyType == typeof(IReadOnlyList<DocumentRow>))
            {
                property.Get = o => Seen((IReadOnlyList<DocumentRow>?)get(o));
            }
        }
    }

    public static IReadOnlyList<EventRow>? Seen(IReadOnlyList<EventRow>? events) =>
        Reader is not { } reader
            ? events
            : events
                ?.Where(e => EventRights.MayHear(reader, e.Kind))
                .Select(e => e with { Summary = EventRights.Trim(reader, e.Kind, e.Summary) })
                .ToList();

    public static IReadOnlyList<MailRow>? Seen(IReadOnlyList<MailRow>? emails) =>
        Reader is not { } reader ? emails : emails?.Where(m => DocumentRights.MaySee(reader, m.Purpose)).ToList();

    public static IReadOnlyList<DocumentRow>? Seen(IReadOnlyList<DocumentRow>? documents) =>
        Reader is not { } reader ? documents : documents?.Where(d => DocumentRights.MaySee(reader, d.Kind)).ToList();

    /// <summary>An attribute of a property, or of the record constructor parameter behind it.</summary>
    public static T? Of<T>(JsonPropertyInfo property)
        where T : Attribute => property.AttributeProvider?.GetCustomAttributes(typeof(T), true).OfType<T>().FirstOrDefault();
}
