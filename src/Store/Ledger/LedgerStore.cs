using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Ledger;

/// <summary>An account with its sums. A debit balance is positive.</summary>
public sealed record AccountBalance(string Code, string Name, AccountKind Kind, Money Debit, Money Credit, Money Balance);

/// <summary>A line of an entry, seen from its account.</summary>
public sealed record LedgerLine(
    long EntryId, int Seq, LocalDate PostedOn, string Memo, EntrySource Source, long SourceId, string Account, string AccountName, Money Debit, Money Credit,
    long? LoadId, string? LoadNumber, string? Customer, string? Carrier, string? Driver, string? Truck);

/// <summary>An account's income or expense in a month. Income is positive, expense too.</summary>
public sealed record MonthFigure(string Month, string Code, string Name, AccountKind Kind, Money Amount);

/// <summary>An amount that somebody owes, by how long past due.</summary>
public sealed record AgedRow(long CompanyId, string Name, Money NotDue, Money Days1To30, Money Days31To60, Money Days61To90, Money Over90, Money Total);

public static class LedgerStore
{
    public static async Task AddAccounts(NpgsqlConnection db)
    {
        foreach (var a in Accounts.All)
        {
            await db.Run("insert into accounts (code, name, kind) values (@code, @name, @kind) on conflict (code) do nothing", ("code", a.Code), ("name", a.Name), ("kind", a.Kind));
        }
    }

    /// <summary>Posts an entry in the transaction of its cause.</summary>
    public static async Task<long> Post(Work w, Entry entry, long? reverses = null)
    {
        var id = await w.Db.One<long>(
            "insert into entries (posted_on, at, memo, source, source_id, reverses_id) values (@on, @at, @memo, @source, @id, @reverses) returning id",
            ("on", entry.PostedOn), ("at", w.Now), ("memo", entry.Memo), ("source", entry.Source), ("id", entry.SourceId), ("reverses", reverses));
        await w.Db.Run(
            """
            insert into entry_lines (entry_id, seq, account, debit, credit, load_id, customer_id, carrier_id, driver_id, truck_id)
            select @entry, x.* from unnest(@seq, @account, @debit, @credit, @load, @customer, @carrier, @driver, @truck) as x
            """,
            ("entry", id), ("seq", entry.Lines.Select((_, i) => i + 1).ToArray()), ("account", entry.Lines.Select(l => l.Account).ToArray()),
            ("debit", entry.Lines.Select(l => l.Debit).ToArray()), ("credit", entry.Lines.Select(l => l.Credit).ToArray()),
            ("load", entry.Lines.Select(l => l.For.LoadId).ToArray()), ("customer", entry.Lines.Select(l => l.For.CustomerId).ToArray()),
            ("carrier", entry.Lines.Select(l => l.For.CarrierId).ToArray()), ("driver", entry.Lines.Select(l => l.For.DriverId).ToArray()),
            ("truck", entry.Lines.Select(l => l.For.TruckId).ToArray()));
        return id;
    }

    /// <summary>Undoes what a source posted, by entries with the sides exchanged.</summary>
    public static async Task Reverse(Work w, EntrySource source, long sourceId, EntrySource reversal, string why)
    {
        var entries = await w.Db.Rows(
            "select e.id from entries e where e.source = @source and e.source_id = @id and not exists (select 1 from entries r where r.reverses_id = e.id)",
            r => r.Long("id"), ("source", source), ("id", sourceId));
        foreach (var id in entries)
        {
            var lines = await w.Db.Rows(
                "select * from entry_lines where entry_id = @id order by seq",
                r => new EntryLine(
                    r.Text("account"), r.Decimal("debit"), r.Decimal("credit"),
                    new Dimensions(r.LongOrNull("load_id"), r.LongOrNull("customer_id"), r.LongOrNull("carrier_id"), r.LongOrNull("driver_id"), r.LongOrNull("truck_id"))),
                ("id", id));
            await Post(w, Entry.Of(w.Today, why, source, sourceId, lines).Reversed(w.Today, why, reversal), id);
        }
    }

    /// <summary>Every account with what was posted up to and with a day. The balances sum to zero, always.</summary>
    public static Task<List<AccountBalance>> TrialBalance(NpgsqlConnection db, LocalDate upTo) =>
        db.Rows(
            """
            select a.code, a.name, a.kind, coalesce(sum(x.debit), 0) as debit, coalesce(sum(x.credit), 0) as credit
            from accounts a left join (select l.* from entry_lines l join entries e on e.id = l.entry_id where e.posted_on <= @upto) x on x.account = a.code
            group by a.code order by a.code
            """,
            r => new AccountBalance(r.Text("code"), r.Text("name"), r.Word<AccountKind>("kind"), r.Usd("debit"), r.Usd("credit"), Money.Usd(r.Decimal("debit") - r.Decimal("credit"))),
            ("upto", upTo));

    /// <summary>Income and expense by month, the newest month first.</summary>
    public static Task<List<MonthFigure>> ByMonth(NpgsqlConnection db, LocalDate from, LocalDate until) =>
        db.Rows(
            """
            select to_char(e.posted_on, 'YYYY-MM') as month, a.code, a.name, a.kind,
                   case a.kind when 'income' then sum(l.credit - l.debit) else sum(l.debit - l.credit) end as amount
            from entry_lines l join entries e on e.id = l.entry_id join accounts a on a.code = l.account
            where a.kind in ('income', 'expense') and e.posted_on between @from and @until
            group by 1, 2, 3, 4 order by 1 desc, 2
            """,
            r => new MonthFigure(r.Text("month"), r.Text("code"), r.Text("name"), r.Word<AccountKind>("kind"), r.Usd("amount")), ("from", from), ("until", until));

    /// <summary>Lines of one account, of one entry or of one load, the newest first, before a key.</summary>
    public static Task<List<LedgerLine>> Lines(NpgsqlConnection db, string? account, string? month, long? entryId, long? loadId, long? companyId, (LocalDate On, long Entry, int Seq)? after, int most) =>
        db.Rows(
            """
            select e.id, e.posted_on, e.memo, e.source, e.source_id, l.seq, l.account, a.name as account_name, l.debit, l.credit,
                   l.load_id, lo.number, cu.name as customer, ca.name as carrier, d.short_name as driver, t.unit as truck
            from entry_lines l join entries e on e.id = l.entry_id join accounts a on a.code = l.account
            left join loads lo on lo.id = l.load_id left join companies cu on cu.id = l.customer_id left join companies ca on ca.id = l.carrier_id
            left join drivers d on d.id = l.driver_id left join trucks t on t.id = l.truck_id
            where (@account::text is null or l.account = @account) and (@month::text is null or to_char(e.posted_on, 'YYYY-MM') = @month)
              and (@entry::bigint is null or l.entry_id = @entry) and (@load::bigint is null or l.load_id = @load or l.entry_id in (select entry_id from entry_lines where load_id = @load))
              and (@company::bigint is null or l.customer_id = @company or l.carrier_id = @company)
              and (@on::date is null or (e.posted_on, e.id, l.seq) < (@on, @after, @seq))
            order by e.posted_on desc, e.id desc, l.seq desc limit @most
            """,
            r => new LedgerLine(
                r.Long("id"), r.Int("seq"), r.Date("posted_on"), r.Text("memo"), r.Word<EntrySource>("source"), r.Long("source_id"), r.Text("account"), r.Text("account_name"), r.Usd("debit"), r.Usd("credit"),
                r.LongOrNull("load_id"), r.TextOrNull("number"), r.TextOrNull("customer"), r.TextOrNull("carrier"), r.TextOrNull("driver"), r.TextOrNull("truck")),
            ("account", account), ("month", month), ("entry", entryId), ("load", loadId), ("company", companyId),
            ("on", after?.On), ("after", after?.Entry ?? 0), ("seq", after?.Seq ?? 0), ("most", most));

    /// <summary>Who owes us, by age past due.</summary>
    public static async Task<List<AgedRow>> OwedToUs(NpgsqlConnection db, LocalDate today) =>
        Age(await db.Rows(
            "select i.customer_id as id, c.name, i.due_on, i.total - i.paid as open from invoices i join companies c on c.id = i.customer_id where i.voided_at is null and i.paid < i.total",
            ReadOwed), today);

    /// <summary>Whom we owe, by age past due. Carriers only; drivers stand in wages payable.</summary>
    public static async Task<List<AgedRow>> OwedByUs(NpgsqlConnection db, LocalDate today) =>
        Age(await db.Rows(
            "select b.carrier_id as id, c.name, b.due_on, coalesce(b.approved, b.amount) as open from bills b join companies c on c.id = b.carrier_id where b.voided_at is null and b.paid_on is null",
            ReadOwed), today);

    private static (long Id, string Name, LocalDate Due, Money Open) ReadOwed(NpgsqlDataReader r) => (r.Long("id"), r.Text("name"), r.Date("due_on"), r.Usd("open"));

    private static List<AgedRow> Age(IEnumerable<(long Id, string Name, LocalDate Due, Money Open)> owed, LocalDate today) =>
        owed.GroupBy(o => (o.Id, o.Name)).OrderBy(g => g.Key.Name, StringComparer.OrdinalIgnoreCase).Select(g =>
        {
            Money In(AgeBucket bucket) => Money.Sum(g.Where(o => Aging.Bucket(o.Due, today) == bucket).Select(o => o.Open));
            return new AgedRow(
                g.Key.Id, g.Key.Name, In(AgeBucket.NotDue), In(AgeBucket.Days1To30), In(AgeBucket.Days31To60), In(AgeBucket.Days61To90), In(AgeBucket.Over90),
                Money.Sum(g.Select(o => o.Open)));
        }).ToList();
}
