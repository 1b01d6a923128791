using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Ledger;

/// <summary>An account with its totals. A debit balance is positive.</summary>
public sealed record AccountBalance(string Code, string Name, AccountKind Kind, string? Parent, Money Debit, Money Credit, Money Balance);

/// <summary>A ledger line as its account shows it.</summary>
/// <param name="Own">Its amount in the document's currency, debits above zero; null in US dollars.</param>
public sealed record LedgerLine(
    long EntryId,
    int Seq,
    LocalDate PostedOn,
    string Memo,
    EntrySource Source,
    long SourceId,
    string Account,
    string AccountName,
    Money Debit,
    Money Credit,
    long? LoadId,
    string? LoadNumber,
    string? Customer,
    string? Carrier,
    string? Driver,
    string? Truck,
    long? ReversesId,
    bool Reversed,
    Money? Own
);

/// <summary>An entry without its lines.</summary>
public sealed record EntryHead(long Id, LocalDate PostedOn, string Memo, EntrySource Source, bool Reversed);

/// <summary>A month whose books are or were closed.</summary>
public sealed record ClosedMonth(
    LocalDate Month,
    Instant ClosedAt,
    string? ClosedBy,
    Instant? ReopenedAt,
    string? ReopenedBy,
    string? ReopenedWhy
);

/// <summary>Filters of a profit and loss report; null for all.</summary>
public sealed record ProfitFilter(
    long? CustomerId = null,
    long? CarrierId = null,
    long? DriverId = null,
    long? TruckId = null,
    string? Lane = null
);

/// <summary>The general ledger.</summary>
public static class LedgerStore
{
    public static async Task AddAccounts(NpgsqlConnection db)
    {
        foreach (var a in Accounts.All.Concat(Accounts.ToBeginWith))
        {
            await db.Run(
                "insert into accounts (code, name, kind, parent) values (@code, @name, @kind, @parent) on conflict (code) do nothing",
                ("code", a.Code),
                ("name", a.Name),
                ("kind", a.Kind),
                ("parent", a.Parent)
            );
        }
    }

    public static Task<List<Account>> Chart(NpgsqlConnection db) =>
        db.Rows("select code, name, kind, parent, retired_at is not null as retired from accounts order by code", r => new Account(
            r.Text("code"),
            r.Text("name"),
            r.Enum<AccountKind>("kind"),
            r.TextOrNull("parent"),
            r.Bool("retired")
        ));

    public static Task AddAccount(NpgsqlConnection db, Account a) =>
        db.Run(
            "insert into accounts (code, name, kind, parent) values (@code, @name, @kind, @parent)",
            ("code", a.Code),
            ("name", a.Name),
            ("kind", a.Kind),
            ("parent", a.Parent)
        );

    public static Task ChangeAccount(CommandContext w, Account a) =>
        w.Db.Run(
            "update accounts set name = @name, retired_at = case when @retired then coalesce(retired_at, @now) end where code = @code",
            ("code", a.Code),
            ("name", a.Name),
            ("retired", a.Inactive),
            ("now", w.Now)
        );

    /// <summary>The months closed now.</summary>
    public static async Task<BookPeriods> Periods(NpgsqlConnection db) =>
        new((await db.Rows("select month from closed_months where reopened_at is null", r => r.Date("month"))).ToHashSet());

    public static Task<List<ClosedMonth>> Closings(NpgsqlConnection db) =>
        db.Rows(
            """
            select m.*, a.name as closer, b.name as opener from closed_months m left join users a on a.id = m.closed_by left join users b on
            b.id = m.reopened_by order by m.month desc, m.id desc limit 200
            """,
            r => new ClosedMonth(
                r.Date("month"),
                r.Instant("closed_at"),
                r.TextOrNull("closer"),
                r.InstantOrNull("reopened_at"),
                r.TextOrNull("opener"),
                r.TextOrNull("reopened_why")
            )
        );

    /// <summary>The day of the oldest entry, or null when nothing was posted.</summary>
    public static async Task<LocalDate?> FirstDay(NpgsqlConnection db) =>
        (await db.Rows("select posted_on from entries order by posted_on limit 1", r => (LocalDate?)r.Date("posted_on"))).FirstOrDefault();

    /// <summary>Closes months, after waiting for postings in progress.</summary>
    public static async Task Close(CommandContext w, IReadOnlyList<LocalDate> months)
    {
        await Locks.Take(w, LockKey.ClosingBooks);
        await w.Db.Run(
            "insert into closed_months (month, closed_at, closed_by) select m, @now, @by from unnest(@months) m on conflict do nothing",
            ("months", months.ToArray()),
            ("now", w.Now),
            ("by", w.Actor.UserId)
        );
    }

    public static Task Reopen(CommandContext w, IReadOnlyList<LocalDate> months, string why) =>
        w.Db.Run(
            """
            update closed_months set reopened_at = @now, reopened_by = @by, reopened_why = @why where month = any(@months) and reopened_at
            is null
            """,
            ("months", months.ToArray()),
            ("now", w.Now),
            ("by", w.Actor.UserId),
            ("why", why)
        );

    /// <summary>Reports a date in a closed month by its field, before anything is posted.</summary>
    public static async Task CheckOpen(NpgsqlConnection db, LocalDate on, Validation validation, string? field)
    {
        if ((await Periods(db)).Refuses(on, field) is { } closed)
        {
            validation.AddRange([closed]);
        }
    }

    /// <summary>Posts an entry in the transaction of its cause.</summary>
    public static async Task<long> Post(CommandContext w, Entry entry, long? reverses = null)
    {
        if (entry.NeedsRate)
        {
            var currency = entry.Lines.First(l => l.Currency != Currency.USD).Currency;
            var rate = await ExchangeStore.Rate(w.Db, currency, entry.PostedOn);
            entry = Exchange.Translate(entry, rate, await ExchangeStore.Of(w.Db, entry));
        }

        var id = await w.Db.One<long>(
            """
            insert into entries (posted_on, at, memo, source, source_id, reverses_id) values (@on, @at, @memo, @source, @id, @reverses)
            returning id
            """,
            ("on", entry.PostedOn),
            ("at", w.Now),
            ("memo", entry.Memo),
            ("source", entry.Source),
            ("id", entry.SourceId),
            ("reverses", reverses)
        );
        await w.Db.Run(
            """
            insert into entry_lines (entry_id, seq, account, debit, credit, load_id, customer_id, carrier_id, driver_id, truck_id,
                vendor_id, item_id, currency, in_currency, trip_id)
            select @entry, x.* from unnest(@seq, @account, @debit, @credit, @load, @customer, @carrier, @driver, @truck, @vendor, @item,
                @currency, @own, @trip) as x
            """,
            ("entry", id),
            ("seq", entry.Lines.Select((_, i) => i + 1).ToArray()),
            ("account", entry.Lines.Select(l => l.Account).ToArray()),
            ("debit", entry.Lines.Select(l => Math.Max(0, l.Booked)).ToArray()),
            ("credit", entry.Lines.Select(l => Math.Max(0, -l.Booked)).ToArray()),
            ("load", entry.Lines.Select(l => l.For.LoadId).ToArray()),
            ("customer", entry.Lines.Select(l => l.For.CustomerId).ToArray()),
            ("carrier", entry.Lines.Select(l => l.For.CarrierId).ToArray()),
            ("driver", entry.Lines.Select(l => l.For.DriverId).ToArray()),
            ("truck", entry.Lines.Select(l => l.For.TruckId).ToArray()),
            ("vendor", entry.Lines.Select(l => l.For.VendorId).ToArray()),
            ("item", entry.Lines.Select(l => l.ItemId).ToArray()),
            ("currency", entry.Lines.Select(l => l.Currency.ToString()).ToArray()),
            ("own", entry.Lines.Select(l => l.Currency == Currency.USD ? (decimal?)null : l.Signed).ToArray()),
            ("trip", entry.Lines.Select(l => l.For.TripId).ToArray())
        );
        return id;
    }

    /// <summary>The day on which a document posts.</summary>
    public static async Task<LocalDate> PostingDay(CommandContext w, LocalDate document) => (await Periods(w.Db)).PostingDay(document);

    /// <summary>Posts several entries.</summary>
    public static async Task Post(CommandContext w, IEnumerable<Entry> entries)
    {
        foreach (var entry in entries)
        {
            await Post(w, entry);
        }
    }

    /// <summary>Reverses everything a source posted, each entry on its own day while that month is open, else today.</summary>
    public static async Task Reverse(CommandContext w, EntrySource source, long sourceId, EntrySource reversal, string why)
    {
        var periods = await Periods(w.Db);
        var entries = await w.Db.Rows(
            """
            select e.id, e.posted_on from entries e where e.source = @source and e.source_id = @id and e.reverses_id is null and not exists (select 1
            from entries r where r.reverses_id = e.id)
            """,
            r => (Id: r.Long("id"), On: r.Date("posted_on")),
            ("source", source),
            ("id", sourceId)
        );
        foreach (var (id, on) in entries)
        {
            await Reverse(w, id, source, sourceId, reversal, periods.ReversalDay(on, w.Today), why);
        }
    }

    /// <summary>Reverses one entry.</summary>
    /// <returns>The new entry's key.</returns>
    public static async Task<long> Reverse(
        CommandContext w,
        long entryId,
        EntrySource source,
        long sourceId,
        EntrySource reversal,
        LocalDate on,
        string why
    )
    {
        var lines = await w.Db.Rows(
            "select * from entry_lines where entry_id = @id order by seq",
            r => new EntryLine(
                r.Text("account"),
                Math.Max(0, r.DecimalOrNull("in_currency") ?? r.Decimal("debit")),
                Math.Max(0, -r.DecimalOrNull("in_currency") ?? r.Decimal("credit")),
                new Dimensions(
                    r.LongOrNull("load_id"),
                    r.LongOrNull("customer_id"),
                    r.LongOrNull("carrier_id"),
                    r.LongOrNull("driver_id"),
                    r.LongOrNull("truck_id"),
                    r.LongOrNull("vendor_id"),
                    r.LongOrNull("trip_id")
                ),
                r.LongOrNull("item_id"),
                r.Currency(),
                r.Null("in_currency") ? null : r.Decimal("debit") - r.Decimal("credit")
            ),
            ("id", entryId)
        );
        return await Post(w, Entry.Of(on, why, source, sourceId, lines).Reversed(on, why, reversal), entryId);
    }

    /// <summary>One command at a time changes the chart of accounts.</summary>
    public static Task LockChart(CommandContext w) => w.Db.Run("lock table accounts in share row exclusive mode");

    /// <summary>An entry by its key: its source, and whether it is reversed.</summary>
    /// <param name="locked">One command at a time for this entry.</param>
    public static async Task<EntryHead?> Head(NpgsqlConnection db, long entryId, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from entries where id = @id for share", ("id", entryId));
        }

        return await db.Row(
            "select e.*, exists (select 1 from entries r where r.reverses_id = e.id) as reversed from entries e where e.id = @id",
            r => new EntryHead(r.Long("id"), r.Date("posted_on"), r.Text("memo"), r.Enum<EntrySource>("source"), r.Bool("reversed")),
            ("id", entryId)
        );
    }

    /// <summary>Every account with what was posted through a day. The balances always sum to zero.</summary>
    public static Task<List<AccountBalance>> TrialBalance(NpgsqlConnection db, LocalDate upTo) =>
        db.Rows(
            """
            select a.code, a.name, a.kind, a.parent, coalesce(sum(x.debit), 0) as debit, coalesce(sum(x.credit), 0) as credit
            from accounts a left join (select l.* from entry_lines l join entries e on e.id = l.entry_id where e.posted_on <= @upto) x on
                x.account = a.code
            group by a.code order by a.code
            """,
            r => new AccountBalance(
                r.Text("code"),
                r.Text("name"),
                r.Enum<AccountKind>("kind"),
                r.TextOrNull("parent"),
                r.Usd("debit"),
                r.Usd("credit"),
                Money.Usd(r.Decimal("debit") - r.Decimal("credit"))
            ),
            ("upto", upTo)
        );

    /// <summary>Every account's balance at the end of a day.</summary>
    public static async Task<List<Balance>> Balances(NpgsqlConnection db, LocalDate on) =>
        (await TrialBalance(db, on)).Select(a => new Balance(new Account(a.Code, a.Name, a.Kind, a.Parent), a.Balance)).ToList();

    /// <summary>Income and expense between two days, inclusive, by the requested grouping, with loads and miles.</summary>
    /// <summary>What was ever posted to an account, debit less credit.</summary>
    public static async Task<Money> BalanceOf(NpgsqlConnection db, string account) =>
        Money.Usd(
            await db.One<decimal>("select coalesce(sum(debit - credit), 0) from entry_lines where account = @account", ("account", account))
        );

    public static async Task<(List<ProfitCell> Cells, Dictionary<string, (int Loads, int Miles)> CommandContext)> Profit(
        NpgsqlConnection db,
        ProfitBy by,
        LocalDate from,
        LocalDate until,
        ProfitFilter filter
    )
    {
        var (key, name) = by switch
        {
            ProfitBy.Month => ("to_char(x.posted_on, 'YYYY-MM')", "to_char(x.posted_on, 'YYYY-MM')"),
            ProfitBy.Week => (
                "to_char(date_trunc('week', x.posted_on), 'YYYY-MM-DD')",
                "to_char(date_trunc('week', x.posted_on), 'YYYY-MM-DD')"
            ),
            ProfitBy.Customer => ("x.customer_id::text", "(select c.name from companies c where c.id = x.customer_id)"),
            ProfitBy.Carrier => ("x.carrier_id::text", "(select c.name from companies c where c.id = x.carrier_id)"),
            ProfitBy.Driver => ("x.driver_id::text", "(select d.name from drivers d where d.id = x.driver_id)"),
            ProfitBy.Truck => ("x.truck_id::text", "(select 'Truck ' || t.unit from trucks t where t.id = x.truck_id)"),
            _ => ("x.lane", "x.lane"),
        };
        var lines = $"""
            lines as (
                select x.*, (select l.lane from loads l where l.id = x.load_id) as lane from profit_lines x
                where x.posted_on between @from and @until
                  and (@customer::bigint is null or x.customer_id = @customer) and (@carrier::bigint is null or x.carrier_id = @carrier)
                  and (@driver::bigint is null or x.driver_id = @driver) and (@truck::bigint is null or x.truck_id = @truck)),
            kept as (select x.*, coalesce({key}, '') as key, coalesce({name}, 'not assigned') as name from lines x where @lane::text is null
                or x.lane = @lane)
            """;
        (string, object?)[] parameters =
        [
            ("from", from),
            ("until", until),
            ("customer", filter.CustomerId),
            ("carrier", filter.CarrierId),
            ("driver", filter.DriverId),
            ("truck", filter.TruckId),
            ("lane", filter.Lane),
        ];
        var cells = await db.Rows(
            $"""
            with {lines} select key, min(name) as name, account, account_name, kind, sum(amount) as amount from kept group by key, account,
            account_name, kind having sum(amount) <> 0 order by key, account
            """,
            r => new ProfitCell(r.Text("key"), r.Text("name"), r.Text("account"), r.Enum<AccountKind>("kind"), r.Usd("amount")),
            parameters
        );
        var work = await db.Rows(
            $"""
            with {lines}, loads_of as (select distinct key, load_id from kept where load_id is not null) select o.key, count(*)::int as
            loads, coalesce(sum(l.miles), 0)::int as miles from loads_of o join loads l on l.id = o.load_id group by o.key
            """,
            r => (Key: r.Text("key"), Loads: r.Int("loads"), Miles: r.Int("miles")),
            parameters
        );
        return (cells, work.ToDictionary(x => x.Key, x => (x.Loads, x.Miles)));
    }

    /// <summary>Lines of one account, one entry or one load, newest first, before a key.</summary>
    public static Task<List<LedgerLine>> Lines(
        NpgsqlConnection db,
        string? account,
        string? month,
        long? entryId,
        long? loadId,
        long? companyId,
        (LocalDate On, long Entry, int Seq)? after,
        int max
    ) =>
        db.Rows(
            """
            select e.id, e.posted_on, e.memo, e.source, e.source_id, l.seq, l.account, a.name as account_name, l.debit, l.credit, l.currency, l.in_currency,
                   l.load_id, lo.number, cu.name as customer, coalesce(ca.name, ve.name) as carrier, d.short_name as driver, t.unit as
                       truck, e.reverses_id,
                   exists (select 1 from entries r where r.reverses_id = e.id) as reversed
            from entry_lines l join entries e on e.id = l.entry_id join accounts a on a.code = l.account
            left join loads lo on lo.id = l.load_id left join companies cu on cu.id = l.customer_id left join companies ca on ca.id =
                l.carrier_id left join companies ve on ve.id = l.vendor_id
            left join drivers d on d.id = l.driver_id left join trucks t on t.id = l.truck_id
            where (@account::text is null or l.account = @account) and (@month::text is null or to_char(e.posted_on, 'YYYY-MM') = @month)
              and (@entry::bigint is null or l.entry_id = @entry) and (@load::bigint is null or l.load_id = @load or l.entry_id in (select
                  entry_id from entry_lines where load_id = @load))
              and (@company::bigint is null or l.customer_id = @company or l.carrier_id = @company or l.vendor_id = @company)
              and (@on::date is null or (e.posted_on, e.id, l.seq) < (@on, @after, @seq))
            order by e.posted_on desc, e.id desc, l.seq desc limit @most
            """,
            r => new LedgerLine(
                r.Long("id"),
                r.Int("seq"),
                r.Date("posted_on"),
                r.Text("memo"),
                r.Enum<EntrySource>("source"),
                r.Long("source_id"),
                r.Text("account"),
                r.Text("account_name"),
                r.Usd("debit"),
                r.Usd("credit"),
                r.LongOrNull("load_id"),
                r.TextOrNull("number"),
                r.TextOrNull("customer"),
                r.TextOrNull("carrier"),
                r.TextOrNull("driver"),
                r.TextOrNull("truck"),
                r.LongOrNull("reverses_id"),
                r.Bool("reversed"),
                r.MoneyOrNull("in_currency")
            ),
            ("account", account),
            ("month", month),
            ("entry", entryId),
            ("load", loadId),
            ("company", companyId),
            ("on", after?.On),
            ("after", after?.Entry ?? 0),
            ("seq", after?.Seq ?? 0),
            ("most", max)
        );
}
