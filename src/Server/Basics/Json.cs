using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using SteadyLark.Core.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>JSON conventions of the API: camelCase, enums in snake_case, times as RFC 3339, money as an amount and a currency.</summary>
public static class Json
{
    public static readonly JsonSerializerOptions Options = Set(new JsonSerializerOptions(JsonSerializerDefaults.Web));

    public static JsonSerializerOptions Set(JsonSerializerOptions options)
    {
        options.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);
        options.Converters.Add(new MoneyJson());
        options.Converters.Add(new DurationMinutesJson());
        options.Converters.Add(new JsonStringEnumConverter<Currency>(allowIntegerValues: false));
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.SnakeCaseLower, allowIntegerValues: false));
        options.NumberHandling = JsonNumberHandling.Strict;
        options.MaxDepth = 32;
        options.TypeInfoResolver = (options.TypeInfoResolver ?? new DefaultJsonTypeInfoResolver())
            .WithAddedModifier(NoHoles)
            .WithAddedModifier(Trimming.Modify);

        // Durations are minutes everywhere in the API, instead of the library's round-trip format.
        options.Converters.Remove(options.Converters.First(c => c.CanConvert(typeof(Duration)) && c is not DurationMinutesJson));
        return options;
    }

    /// <summary>Lists never contain null and numbers are finite (1e400 is refused): commands need not check.</summary>
    private static void NoHoles(JsonTypeInfo type)
    {
        var lists =
            type.Kind == JsonTypeInfoKind.Object
                ? type
                    .Properties.Where(p =>
                        p.Get is not null
                        && p.PropertyType != typeof(string)
                        && typeof(System.Collections.IEnumerable).IsAssignableFrom(p.PropertyType)
                    )
                    .ToList()
                : [];
        var numbers =
            type.Kind == JsonTypeInfoKind.Object
                ? type
                    .Properties.Where(p => p.Get is not null && (p.PropertyType == typeof(double) || p.PropertyType == typeof(double?)))
                    .ToList()
                : [];
        if (lists.Count + numbers.Count == 0 || type.OnDeserialized is not null)
        {
            return;
        }

        type.OnDeserialized = read =>
        {
            foreach (var number in numbers)
            {
                if (number.Get!(read) is double d && !double.IsFinite(d))
                {
                    throw new JsonException("must be a number", $"$.{number.Name}", null, null);
                }
            }

            foreach (var list in lists)
            {
                var at = (list.Get!(read) as System.Collections.IEnumerable)?.Cast<object?>().TakeWhile(item => item is not null).Count()
                    ?? 0;
                if (list.Get!(read) is System.Collections.ICollection all && at < all.Count)
                {
                    throw new JsonException("it must not be null; leave it out", $"$.{list.Name}[{at}]", null, null);
                }
            }
        };
    }

    /// <summary>Describes converted types to OpenAPI.</summary>
    public static Task Describe(OpenApiSchema schema, OpenApiSchemaTransformerContext context, CancellationToken cancel)
    {
        var type = Nullable.GetUnderlyingType(context.JsonTypeInfo.Type) ?? context.JsonTypeInfo.Type;
        if (type == typeof(Instant))
        {
            Text(schema, "date-time", "An instant, RFC 3339.");
        }
        else if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(QueryEnum<>))
        {
            schema.Type = JsonSchemaType.String;
            schema.Properties?.Clear();
            schema.Enum = Enum.GetValues(type.GetGenericArguments()[0])
                .Cast<Enum>()
                .Select(v => (JsonNode)JsonValue.Create(Store.Basics.EnumCodec.Of(v)))
                .ToList();
        }
        else if (type == typeof(LocalDate) || type == typeof(QueryDay))
        {
            Text(schema, "date", "A day, ISO 8601.");
        }
        else if (type == typeof(LocalDateTime))
        {
            Text(schema, "local-date-time", "Wall-clock time at the place: 2026-11-24T14:30:00.");
        }
        else if (type == typeof(Duration))
        {
            schema.Type = JsonSchemaType.Number;
            schema.Format = null;
            schema.Properties?.Clear();
            schema.Description = "Minutes.";
        }
        else if (type == typeof(Money))
        {
            schema.Type = JsonSchemaType.Object;
            schema.Properties = new Dictionary<string, IOpenApiSchema>
            {
                ["amount"] = new OpenApiSchema { Type = JsonSchemaType.String, Pattern = @"^-?\d+(\.\d{1,2})?$" },
                ["currency"] = new OpenApiSchema
                {
                    Type = JsonSchemaType.String,
                    Enum = [JsonValue.Create("USD"), JsonValue.Create("CAD")],
                },
            };
            schema.Required = new HashSet<string> { "amount", "currency" };
        }

        // Properties not everyone may see can be absent.
        if (schema.Required is { Count: > 0 } required && context.JsonTypeInfo.Kind == JsonTypeInfoKind.Object)
        {
            foreach (var property in context.JsonTypeInfo.Properties.Where(p => Trimming.Of<Core.People.SeenWithAttribute>(p) is not null))
            {
                required.Remove(property.Name);
            }
        }

        return Task.CompletedTask;

        static void Text(OpenApiSchema schema, string format, string description)
        {
            schema.Type = JsonSchemaType.String;
            schema.Format = format;
            schema.Properties?.Clear();
            schema.Required?.Clear();
            schema.Description = description;
        }
    }

    private sealed class MoneyJson : JsonConverter<Money>
    {
        public override Money Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
        {
            var node =
                JsonNode.Parse(ref reader) as JsonObject
                ?? throw new JsonException("Write money as {\"amount\":\"1850.00\",\"currency\":\"USD\"}.");
            if (
                node["amount"] is not JsonValue value
                || !value.TryGetValue<string>(out var text)
                || !decimal.TryParse(
                    text,
                    System.Globalization.NumberStyles.AllowLeadingSign | System.Globalization.NumberStyles.AllowDecimalPoint,
                    null,
                    out var amount
                )
            )
            {
                throw new JsonException("Write the amount as a string of digits, such as \"1850.00\".");
            }

            return (node["currency"]?.GetValueKind() == JsonValueKind.String ? node["currency"]!.GetValue<string>() : "") switch
            {
                "USD" => new Money(amount, Currency.USD),
                "CAD" => new Money(amount, Currency.CAD),
                _ => throw new JsonException("The currency is USD or CAD."),
            };
        }

        public override void Write(Utf8JsonWriter writer, Money value, JsonSerializerOptions options)
        {
            writer.WriteStartObject();
            writer.WriteString("amount", value.Amount.ToString("0.00##"));
            writer.WriteString("currency", value.Currency.ToString());
            writer.WriteEndObject();
        }
    }

    private sealed class DurationMinutesJson : JsonConverter<Duration>
    {
        public override Duration Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            Duration.FromMinutes(reader.GetDouble());

        public override void Write(Utf8JsonWriter writer, Duration value, JsonSerializerOptions options) =>
            writer.WriteNumberValue(Math.Round(value.TotalMinutes, 1));
    }
}
