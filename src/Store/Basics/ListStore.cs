using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;

namespace SteadyLark.Store.Basics;

/// <summary>A list: a database view with its columns.</summary>
/// <param name="View">The database view; it has the columns' ids, and <c>id</c>.</param>
/// <param name="Found">The kind of its rows in the search index (search_entries.kind).</param>
/// <param name="First">The default order.</param>
/// <param name="Needs">Columns that need a right beyond the list's own, and which.</param>
/// <param name="Zones">Time columns shown in a zone of their own, and the view's column with that zone.</param>
public sealed record ListSource(
    string Name,
    string Title,
    string View,
    string Found,
    ListSort First,
    IReadOnlyList<ListColumn> Columns,
    IReadOnlyDictionary<string, Right>? Needs = null,
    IReadOnlyDictionary<string, string>? Zones = null
)
{
    /// <summary>SQL for a time column's wall-clock time in its own zone, where it has one; null for a column in the company's
    /// zone.</summary>
    public string? Local(string column) => Zones?.GetValueOrDefault(column) is { } zone ? $"({column} at time zone {zone})" : null;

    /// <summary>The list as a user may see it: other columns do not exist for them, to show, filter, sort or export.</summary>
    public ListSource For(Access access) =>
        Needs is null
            ? this
            : this with
            {
                Columns = Columns.Where(c => !Needs.TryGetValue(c.Id, out var right) || access.Has(right)).ToList(),
            };
}

/// <summary>Lists of any length: first the keys of all rows in order, then the rows in view.</summary>
public static class ListStore
{
    /// <summary>The most keys of one list.</summary>
    public const int Max = 250_000;

    public static readonly IReadOnlyList<ListSource> All =
    [
        new(
            "loads",
            "Loads",
            "load_list",
            "load",
            new ListSort("booked", true),
            [
                new("number", "Load", ColumnKind.Text),
                new("state", "State", ColumnKind.Choice),
                new("customer", "Customer", ColumnKind.Text),
                new("reference", "Reference", ColumnKind.Text, false),
                new("origin", "From", ColumnKind.Text),
                new("destination", "To", ColumnKind.Text),
                new("pickup", "Pickup", ColumnKind.Time),
                new("delivery", "Delivery", ColumnKind.Time, false),
                new("delivered", "Delivered", ColumnKind.Time, false),
                new("equipment", "Equipment", ColumnKind.Choice, false),
                new("freight", "Freight", ColumnKind.Text, false),
                new("weight", "Weight, lb", ColumnKind.Number, false),
                new("hazmat", "Hazmat", ColumnKind.YesNo, false),
                new("who", "Assigned to", ColumnKind.Text),
                new("miles", "Miles", ColumnKind.Number, false),
                new("revenue", "Revenue", ColumnKind.Money),
                new("per_mile", "Per mile", ColumnKind.Money, false),
                new("agreed", "Carrier pay", ColumnKind.Money, false),
                new("margin", "Margin", ColumnKind.Money, false),
                new("invoice", "Invoice", ColumnKind.Text, false),
                new("held", "On hold", ColumnKind.Text, false),
                new("booked_by", "Booked by", ColumnKind.Text, false),
                new("office", "Office", ColumnKind.Text, false),
                new("booked", "Booked", ColumnKind.Time, false),
            ],
            new Dictionary<string, Right>
            {
                ["revenue"] = Right.RatesSee,
                ["per_mile"] = Right.RatesSee,
                ["agreed"] = Right.MarginsSee,
                ["margin"] = Right.MarginsSee,
            },
            new Dictionary<string, string>
            {
                ["pickup"] = "pickup_zone",
                ["delivery"] = "delivery_zone",
                ["delivered"] = "delivery_zone",
            }
        ),
        new(
            "invoices",
            "Invoices",
            "invoice_list",
            "invoice",
            new ListSort("number", true),
            [
                new("number", "Invoice", ColumnKind.Text),
                new("state", "State", ColumnKind.Choice),
                new("customer", "Customer", ColumnKind.Text),
                new("loads", "Loads", ColumnKind.Text),
                new("issued", "Date", ColumnKind.Date),
                new("due", "Due", ColumnKind.Date),
                new("total", "Total", ColumnKind.Money),
                new("paid", "Paid", ColumnKind.Money),
                new("open", "Open", ColumnKind.Money),
                new("last_paid", "Last paid", ColumnKind.Date, false),
                new("mailed_to", "Emailed to", ColumnKind.Text, false),
            ]
        ),
        new(
            "bills",
            "Bills",
            "bill_list",
            "",
            new ListSort("billed", true),
            [
                new("number", "Bill", ColumnKind.Text),
                new("state", "State", ColumnKind.Choice),
                new("vendor", "From", ColumnKind.Text),
                new("load", "Load", ColumnKind.Text),
                new("accounts", "For", ColumnKind.Text, false),
                new("billed", "Date", ColumnKind.Date),
                new("due", "Due", ColumnKind.Date),
                new("agreed", "Agreed", ColumnKind.Money),
                new("amount", "Billed", ColumnKind.Money),
                new("approved", "Approved", ColumnKind.Money),
                new("paid", "Paid on", ColumnKind.Date),
            ]
        ),
        new(
            "companies",
            "Companies",
            "company_list",
            "company",
            new ListSort("name", false),
            [
                new("name", "Name", ColumnKind.Text),
                new("customer", "Customer", ColumnKind.YesNo),
                new("carrier", "Carrier", ColumnKind.YesNo),
                new("town", "Town", ColumnKind.Text),
                new("region", "State", ColumnKind.Text),
                new("phone", "Phone", ColumnKind.Text),
                new("email", "Email", ColumnKind.Text, false),
                new("terms", "Terms, days", ColumnKind.Number, false),
                new("credit_limit", "Credit limit", ColumnKind.Money, false),
                new("owes", "Owes us", ColumnKind.Money),
                new("usdot", "USDOT", ColumnKind.Text, false),
                new("cargo_until", "Cargo insurance expires", ColumnKind.Date, false),
                new("loads", "Loads", ColumnKind.Number),
            ],
            new Dictionary<string, Right> { ["owes"] = Right.BillingSee }
        ),
        new(
            "payments",
            "Payments",
            "payment_list",
            "",
            new ListSort("received", true),
            [
                new("received", "Received", ColumnKind.Date),
                new("customer", "From", ColumnKind.Text),
                new("method", "Method", ColumnKind.Choice),
                new("reference", "Number", ColumnKind.Text),
                new("state", "State", ColumnKind.Choice),
                new("amount", "Amount", ColumnKind.Money),
                new("applied", "Applied", ColumnKind.Money),
                new("credit", "Unapplied", ColumnKind.Money),
                new("invoices", "Invoices", ColumnKind.Text, false),
            ]
        ),
        new(
            "entries",
            "Entries",
            "entry_list",
            "",
            new ListSort("number", true),
            [
                new("number", "Entry", ColumnKind.Number),
                new("posted", "Date", ColumnKind.Date),
                new("source", "Source", ColumnKind.Choice),
                new("memo", "Description", ColumnKind.Text),
                new("accounts", "Accounts", ColumnKind.Text),
                new("amount", "Amount", ColumnKind.Money),
                new("loads", "Loads", ColumnKind.Text, false),
                new("reversed", "Reversed", ColumnKind.YesNo),
                new("reverses", "Reverses", ColumnKind.Number, false),
                new("entered", "Entered", ColumnKind.Time, false),
            ]
        ),
        new(
            "places",
            "Places",
            "place_list",
            "place",
            new ListSort("name", false),
            [
                new("name", "Name", ColumnKind.Text),
                new("address", "Street", ColumnKind.Text),
                new("town", "Town", ColumnKind.Text),
                new("region", "State", ColumnKind.Text),
                new("country", "Country", ColumnKind.Choice, false),
                new("stops", "Stops", ColumnKind.Number),
                new("last", "Last stop", ColumnKind.Time),
                new("zone", "Time zone", ColumnKind.Choice, false),
                new("note", "Note", ColumnKind.Text, false),
            ]
        ),
    ];

    /// <summary>The keys of all rows, in order. The query is already validated.</summary>
    /// <param name="zone">The company's zone; <paramref name="today"/> in it, for periods such as last month.</param>
    public static Task<List<long>> Keys(NpgsqlConnection db, ListSource list, ListQuery query, DateTimeZone zone, LocalDate today)
    {
        var parameters = new List<(string, object?)>();
        var where = new List<string>();
        var words = (query.Text ?? "").ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(8).ToList();
        for (var i = 0; i < words.Count; i++)
        {
            parameters.Add(($"w{i}", $"%{Find.Escape(words[i])}%"));
        }

        if (words.Count > 0 && list.Found.Length > 0)
        {
            where.Add(
                $"id in (select ref_id from search_entries where kind = '{list.Found}' and {string.Join(" and ", words.Select((_, i) => $"words like @w{i}"))})"
            );
        }
        else if (words.Count > 0)
        {
            var texts = list.Columns.Where(c => c.Kind is ColumnKind.Text or ColumnKind.Choice).Select(c => c.Id);
            where.AddRange(words.Select((_, i) => $"({string.Join(" or ", texts.Select(t => $"{t} ilike @w{i}"))})"));
        }

        for (var i = 0; i < query.Filters.Count; i++)
        {
            where.Add(
                Where(list, list.Columns.First(c => c.Id == query.Filters[i].Column), query.Filters[i], $"f{i}", zone, today, parameters)
            );
        }

        var sorts = query.Sorts.Count > 0 ? query.Sorts : [list.First];
        var order = string.Join(
            ", ",
            sorts
                .Select(s => $"{s.Column} {(s.Descending ? "desc" : "asc")} nulls last")
                .Append($"id {(sorts[0].Descending ? "desc" : "asc")}")
        );
        return db.Rows(
            $"select id from {list.View} {(where.Count == 0 ? "" : $"where {string.Join(" and ", where)}")} order by {order} limit {Max}",
            r => r.GetInt64(0),
            [.. parameters]
        );
    }

    /// <summary>Rows by key, as JSON objects of the requested columns and the key; in the order of the keys. Times are instants with an
    /// offset, or wall-clock times without one where a column has a zone of its own.</summary>
    public static async Task<List<JsonObject>> Rows(
        NpgsqlConnection db,
        ListSource list,
        IReadOnlyList<long> keys,
        IReadOnlyList<string> columns
    )
    {
        var wanted = list
            .Columns.Where(c => columns.Contains(c.Id))
            .Select(c => list.Local(c.Id) is { } local ? $"{local} as {c.Id}" : c.Id)
            .Prepend("id")
            .Distinct();
        return (
            await db.Rows(
                $"select to_jsonb(v)::text as row from (select {string.Join(", ", wanted)} from {list.View} where id = any(@keys)) v join unnest(@keys) with ordinality as k(id, at) on k.id = v.id order by k.at",
                r => r.GetString(0),
                ("keys", keys.ToArray())
            )
        )
            .Select(t => JsonNode.Parse(t)!.AsObject())
            .ToList();
    }

    /// <summary>The values of a column with a fixed set.</summary>
    public static Task<List<string>> Options(NpgsqlConnection db, ListSource list, string column) =>
        db.Rows(
            $"""
            select distinct {list.Columns.First(c => c.Id == column).Id} as word from {list.View} where {column} is not null order by 1
            limit 60
            """,
            r => r.GetString(0)
        );

    public static Task<List<SavedView>> Views(NpgsqlConnection db, long user, string list) =>
        db.Rows(
            "select * from list_views where user_id = @user and list = @list order by lower(name)",
            r => new SavedView(r.Long("id"), r.Text("name"), JsonNode.Parse(r.Text("definition"))!.AsObject()),
            ("user", user),
            ("list", list)
        );

    /// <summary>Saves a view under a name, replacing one of the same name.</summary>
    public static Task<long> SaveView(CommandContext w, string list, string name, JsonObject definition) =>
        w.Db.One<long>(
            """
            insert into list_views (user_id, list, name, definition, saved_at) values (@user, @list, @name, @definition::jsonb, @now)
            on conflict (user_id, list, lower(name)) do update set name = excluded.name, definition = excluded.definition, saved_at =
                excluded.saved_at returning id
            """,
            ("user", w.Actor.UserId),
            ("list", list),
            ("name", name),
            ("definition", definition.ToJsonString()),
            ("now", w.Now)
        );

    public static async Task<bool> DropView(CommandContext w, string list, long id) =>
        await w.Db.Run(
            "delete from list_views where id = @id and list = @list and user_id = @user",
            ("id", id),
            ("list", list),
            ("user", w.Actor.UserId)
        ) == 1;

    private static string Where(
        ListSource list,
        ListColumn column,
        ListFilter filter,
        string name,
        DateTimeZone zone,
        LocalDate today,
        List<(string, object?)> parameters
    )
    {
        var value = filter.Value?.Trim() ?? "";
        var not = filter.Op == FilterOp.Not;
        if (filter.Op is FilterOp.Empty or FilterOp.Filled)
        {
            return $"{column.Id} is {(filter.Op == FilterOp.Empty ? "" : "not ")}null";
        }

        switch (column.Kind)
        {
            case ColumnKind.Number or ColumnKind.Money:
                parameters.Add((name, decimal.Parse(value, NumberStyles.Number, CultureInfo.InvariantCulture)));
                return $"{column.Id} {filter.Op switch { FilterOp.From => ">=", FilterOp.Until => "<=", FilterOp.Not => "<>", _ => "=" }} @{name}";
            case ColumnKind.Date or ColumnKind.Time:
                return During(list, column, filter.Op ?? FilterOp.Is, DateSpan.Parse(value, today)!, name, zone, parameters);
            case ColumnKind.YesNo:
                return $"{column.Id} is {(not ? "not " : "")}{(value == "yes" ? "true" : "false")}";
            default:
                parameters.Add(
                    (
                        name,
                        filter.Op == FilterOp.Has
                            ? $"%{Find.Escape(value)}%"
                            : value.ToLowerInvariant().Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                    )
                );
                return filter.Op == FilterOp.Has
                    ? $"{column.Id} ilike @{name}"
                    : $"{(not ? "not " : "")}coalesce(lower({column.Id}), '') = any(@{name})";
        }
    }

    /// <summary>The condition that a day or time is in a span of days.</summary>
    private static string During(
        ListSource list,
        ListColumn column,
        FilterOp op,
        DateSpan span,
        string name,
        DateTimeZone zone,
        List<(string, object?)> parameters
    )
    {
        var (from, until) = (op == FilterOp.Until ? null : span.From, op == FilterOp.From ? null : span.Until);
        var local = list.Local(column.Id);
        var parts = new List<string>();
        if (from is { } first)
        {
            parameters.Add((name, column.Kind == ColumnKind.Date ? first : zone.AtStartOfDay(first).ToInstant()));
            // Wall-clock days; the instants a day around them let the index help.
            parts.Add(local is null ? $"{column.Id} >= @{name}" : $"{column.Id} >= @{name} - interval '1 day' and {local} >= @{name}d");
            parameters.AddRange(local is null ? [] : [($"{name}d", first)]);
        }

        if (until is { } last)
        {
            parameters.Add(($"{name}b", column.Kind == ColumnKind.Date ? last : zone.AtStartOfDay(last.PlusDays(1)).ToInstant()));
            parts.Add(
                column.Kind == ColumnKind.Date ? $"{column.Id} <= @{name}b"
                : local is null ? $"{column.Id} < @{name}b"
                : $"{column.Id} < @{name}b + interval '1 day' and {local} < @{name}e + 1"
            );
            parameters.AddRange(local is null ? [] : [($"{name}e", last)]);
        }

        return $"{(op == FilterOp.Not ? "not " : "")}({string.Join(" and ", parts)})";
    }
}

/// <summary>A user's saved views.</summary>
public sealed record SavedView(long Id, string Name, JsonObject Definition);
