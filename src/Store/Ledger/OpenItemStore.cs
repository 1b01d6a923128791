using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Ledger;

/// <summary>An amount someone owes, by days past due.</summary>
public sealed record AgingRow(
    long CompanyId,
    string Name,
    Money NotDue,
    Money Days1To30,
    Money Days31To60,
    Money Days61To90,
    Money Over90,
    Money Total
);

/// <summary>Open items on a day, from the ledger: what was posted to them through it.</summary>
public static class OpenItemStore
{
    /// <summary>Everything posted to open items of a control account, by item; what opens it is positive.</summary>
    public static async Task<ILookup<long, ItemMove>> Moves(NpgsqlConnection db, Account account, IEnumerable<long> items) =>
        (
            await db.Rows(
                $"""
                select l.item_id, e.posted_on, sum({ExchangeStore.Own}) as amount from entry_lines l join entries e on e.id = l.entry_id
                where l.account = @account and l.item_id = any(@items) group by l.item_id, e.posted_on
                """,
                r => (Item: r.Long("item_id"), Move: new ItemMove(r.Date("posted_on"), r.Decimal("amount") * Sign(account))),
                ("account", account.Code),
                ("items", items.ToArray())
            )
        ).ToLookup(m => m.Item, m => m.Move);

    /// <summary>The first day, on or after the posting day of a document, on which an amount can be taken from an open item.</summary>
    /// <param name="document">The date of the payment, refund or write-off.</param>
    public static async Task<LocalDate> FirstDay(CommandContext w, Account account, long item, LocalDate document, Money amount) =>
        OpenItems.FirstDay((await Moves(w.Db, account, [item]))[item], await LedgerStore.PostingDay(w, document), amount.Amount);

    /// <summary>A/R aging at the end of a day.</summary>
    public static Task<List<AgingRow>> Receivables(NpgsqlConnection db, LocalDate on) =>
        Aged(db, Accounts.Receivable, "invoices", "customer_id", on);

    /// <summary>A/P aging at the end of a day; drivers are in wages payable.</summary>
    public static Task<List<AgingRow>> Payables(NpgsqlConnection db, LocalDate on) => Aged(db, Accounts.Payable, "bills", "vendor_id", on);

    /// <param name="documents">The table of the account's open items</param>
    /// <param name="company">and its column of the company.</param>
    private static async Task<List<AgingRow>> Aged(NpgsqlConnection db, Account account, string documents, string company, LocalDate on) =>
        Age(
            await db.Rows(
                $"""
                with open as (
                    select l.item_id, sum(l.debit - l.credit) * @sign as open from entry_lines l join entries e on e.id = l.entry_id
                    where l.account = @account and e.posted_on <= @on group by l.item_id having sum(l.debit - l.credit) <> 0)
                select d.{company} as id, c.name, d.due_on, o.open from open o join {documents} d on d.id = o.item_id join companies c on
                    c.id = d.{company}
                """,
                ReadOwed,
                ("account", account.Code),
                ("sign", Sign(account)),
                ("on", on)
            ),
            on
        );

    /// <summary>A debit opens an asset's item, a credit a liability's.</summary>
    private static int Sign(Account account) => account.Kind == AccountKind.Asset ? 1 : -1;

    /// <summary>A customer's invoices with something open at the end of a day.</summary>
    public static Task<List<OwedInvoice>> Invoices(NpgsqlConnection db, long customerId, LocalDate on) =>
        db.Rows(
            $"""
            select i.number, i.issued_on, i.due_on, i.total, i.currency, sum({ExchangeStore.Own}) as open
            from invoices i join entry_lines l on l.item_id = i.id and l.account = @account join entries e on e.id = l.entry_id
            where i.customer_id = @customer and e.posted_on <= @on group by i.id having sum({ExchangeStore.Own}) <> 0 order by i.due_on, i.id
            """,
            r => new OwedInvoice(r.Text("number"), r.Date("issued_on"), r.Date("due_on"), r.Money("total"), r.Money("open")),
            ("account", Accounts.Receivable.Code),
            ("customer", customerId),
            ("on", on)
        );

    /// <summary>A customer's unapplied credit at the end of a day.</summary>
    public static async Task<Money> Credit(NpgsqlConnection db, long customerId, LocalDate on) =>
        (
            await db.Rows(
                $"""
                select c.currency, (select coalesce(-sum({ExchangeStore.Own}), 0) from payments p join entry_lines l on l.item_id = p.id and
                    l.account = @account join entries e on e.id = l.entry_id where p.customer_id = c.id and e.posted_on <= @on) as credit
                from companies c where c.id = @customer
                """,
                r => r.Money("credit"),
                ("account", Accounts.UnappliedReceipts.Code),
                ("customer", customerId),
                ("on", on)
            )
        )[0];

    /// <summary>What was posted to a customer's account: receivables less unapplied credit, by entry, in the customer's currency.</summary>
    public static Task<List<AccountMove>> OfCustomer(NpgsqlConnection db, long customerId) =>
        db.Rows(
            $"""
            select e.posted_on, e.memo, sum({ExchangeStore.Own}) as amount, max(l.currency) as currency from entry_lines l join entries e on
                e.id = l.entry_id
            where l.account = any(@accounts) and l.customer_id = @customer group by e.id having sum({ExchangeStore.Own}) <> 0
            order by e.posted_on, e.id
            """,
            r => new AccountMove(r.Date("posted_on"), r.Text("memo"), r.Money("amount")),
            ("accounts", new[] { Accounts.Receivable.Code, Accounts.UnappliedReceipts.Code }),
            ("customer", customerId)
        );

    private static (long Id, string Name, LocalDate Due, Money Open) ReadOwed(NpgsqlDataReader r) =>
        (r.Long("id"), r.Text("name"), r.Date("due_on"), r.Usd("open"));

    private static List<AgingRow> Age(IEnumerable<(long Id, string Name, LocalDate Due, Money Open)> owed, LocalDate on) =>
        owed.GroupBy(o => (o.Id, o.Name))
            .OrderBy(g => g.Key.Name, StringComparer.OrdinalIgnoreCase)
            .Select(g =>
            {
                Money In(AgingBucket bucket) => Money.Sum(g.Where(o => Aging.Bucket(o.Due, on) == bucket).Select(o => o.Open));
                return new AgingRow(
                    g.Key.Id,
                    g.Key.Name,
                    In(AgingBucket.NotDue),
                    In(AgingBucket.Days1To30),
                    In(AgingBucket.Days31To60),
                    In(AgingBucket.Days61To90),
                    In(AgingBucket.Over90),
                    Money.Sum(g.Select(o => o.Open))
                );
            })
            .ToList();
}
