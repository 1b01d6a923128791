using System.Collections;
using System.Reflection;
using SteadyLark.Server.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.People;

/// <summary>
/// Refuses a limited user's request that names a record outside their view, before anything is done: in the address, the query or the body.
/// A hidden record is answered like one that does not exist.
/// </summary>
public sealed class ViewFilter(CallerReads reads) : IEndpointFilter
{
    /// <summary>The path segment before <c>{id}</c>, and its table.</summary>
    private static readonly Dictionary<string, string> BySegment = new()
    {
        ["loads"] = "loads",
        ["trips"] = "trips",
        ["documents"] = "documents",
        ["emails"] = "emails",
        ["companies"] = "companies",
        ["drivers"] = "drivers",
        ["invoices"] = "invoices",
        ["payments"] = "payments",
        ["claims"] = "claims",
        ["claim-recoveries"] = "claim_recoveries",
        ["bills"] = "bills",
        ["vendor-payments"] = "vendor_payments",
        ["payment-batches"] = "payment_batches",
        ["remit-tos"] = "remit_tos",
        ["settlements"] = "settlements",
        ["pay-items"] = "pay_items",
        ["expenses"] = "trip_expenses",
        ["runs"] = "run_plans",
        ["billing-runs"] = "billing_runs",
    };

    /// <summary>Names of keys in queries and bodies, and their tables.</summary>
    private static readonly Dictionary<string, string> ByName = new(StringComparer.OrdinalIgnoreCase)
    {
        ["loadId"] = "loads",
        ["loadIds"] = "loads",
        ["swapWithLoadId"] = "loads",
        ["tripId"] = "trips",
        ["customerId"] = "companies",
        ["billToId"] = "companies",
        ["vendorId"] = "companies",
        ["carrierId"] = "companies",
        ["driverId"] = "drivers",
        ["invoiceId"] = "invoices",
        ["billId"] = "bills",
        ["claimId"] = "claims",
        ["legId"] = "legs",
        ["legIds"] = "legs",
        ["joinTransferId"] = "transfers",
        ["wasDriverId"] = "drivers",
        ["documentId"] = "documents",
    };

    /// <summary>Keys of what is hidden from nobody, or only together with the load, driver or user in the address.</summary>
    private static readonly HashSet<string> Free = new(StringComparer.OrdinalIgnoreCase)
    {
        "stopId",
        "placeId",
        "truckId",
        "trailerId",
        "townId",
        "homeTownId",
        "fromPlaceId",
        "fromTownId",
        "toPlaceId",
        "toTownId",
        "fieldId",
        "productId",
        "classRatesId",
        "roleId",
        "officeId",
        "groupId",
        // Of opening balances, which nobody with a limited view enters.
        "partyId",
    };

    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var access = context.HttpContext.User.Access();
        if (access.Limits.IsLimited && Named(context) is { Count: > 0 } named)
        {
            await using var db = await reads.Open(access);
            foreach (var group in named.GroupBy(n => n.Table, n => n.Id))
            {
                if (!await Reads.SeesAll(db, group.Key, group.ToList()))
                {
                    return Answers.NotFound("This record");
                }
            }
        }

        return await next(context);
    }

    /// <summary>The table that a key of this name refers to; null for one that needs no check.</summary>
    /// <exception cref="ArgumentException">It is unknown whether the key needs a check.</exception>
    public static string? TableOf(string name) =>
        ByName.TryGetValue(name, out var table) ? table
        : Free.Contains(name) ? null
        : throw new ArgumentException($"Add {name} to the keys that ViewFilter knows.", nameof(name));

    /// <summary>Whether a property of a request is a key.</summary>
    public static bool IsKey(PropertyInfo property) =>
        (property.Name.EndsWith("Id", StringComparison.Ordinal) || property.Name.EndsWith("Ids", StringComparison.Ordinal))
        && (
            property.PropertyType == typeof(long)
            || property.PropertyType == typeof(long?)
            || property.PropertyType.IsAssignableTo(typeof(IEnumerable<long>))
        );

    private static List<(string Table, long Id)> Named(EndpointFilterInvocationContext context)
    {
        var named = new List<(string, long)>();
        var pattern = (context.HttpContext.GetEndpoint() as RouteEndpoint)?.RoutePattern;
        for (var i = 1; i < pattern?.PathSegments.Count; i++)
        {
            if (
                pattern.PathSegments[i].Parts is [Microsoft.AspNetCore.Routing.Patterns.RoutePatternParameterPart { Name: var name }]
                && long.TryParse(context.HttpContext.Request.RouteValues[name]?.ToString(), out var id)
                && (
                    name == "id"
                        ? pattern.PathSegments[i - 1].Parts is [Microsoft.AspNetCore.Routing.Patterns.RoutePatternLiteralPart before]
                            ? BySegment.GetValueOrDefault(before.Content)
                            : null
                        : ByName.GetValueOrDefault(name)
                )
                    is { } table
            )
            {
                named.Add((table, id));
            }
        }

        foreach (var (name, values) in context.HttpContext.Request.Query)
        {
            if (ByName.TryGetValue(name, out var table) && long.TryParse(values, out var id))
            {
                named.Add((table, id));
            }
        }

        foreach (var argument in context.Arguments)
        {
            Add(named, argument, 0);
        }

        return named;
    }

    /// <summary>Collects the keys in a request and in its parts.</summary>
    private static void Add(List<(string, long)> named, object? value, int depth)
    {
        if (value is null || depth > 4 || !IsRequest(value.GetType()))
        {
            return;
        }

        foreach (var property in value.GetType().GetProperties().Where(p => p.GetIndexParameters().Length == 0))
        {
            var held = property.GetValue(value);
            if (IsKey(property))
            {
                if (TableOf(property.Name) is { } table)
                {
                    named.AddRange(
                        (
                            held is IEnumerable<long> many ? many
                            : held is long one ? [one]
                            : []
                        ).Select(id => (table, id))
                    );
                }
            }
            else if (held is IEnumerable list and not string)
            {
                foreach (var item in list)
                {
                    Add(named, item, depth + 1);
                }
            }
            else
            {
                Add(named, held, depth + 1);
            }
        }
    }

    /// <summary>Whether a type is one of our requests, or part of one: records of the server, not its services.</summary>
    public static bool IsRequest(Type type) =>
        type is { IsClass: true, Namespace: { } space }
        && space.StartsWith("SteadyLark.", StringComparison.Ordinal)
        && type.GetMethod("<Clone>$") is not null;
}
