using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Ledger;

/// <summary>A rate with where it comes from.</summary>
public sealed record ExchangeRateRow(Currency Currency, LocalDate On, decimal Usd, string Source);

/// <summary>Exchange rates, and what the books carry in another currency.</summary>
public static class ExchangeStore
{
    /// <summary>A line's amount in its document's currency, debits above zero, for lines named <c>l</c>.</summary>
    public const string Own = "coalesce(l.in_currency, l.debit - l.credit)";

    /// <summary>US dollars for one unit on a day: of the last rate through it, or of the first one.</summary>
    /// <exception cref="InvalidOperationException">No rate was ever entered: then no company trades in the currency.</exception>
    public static async Task<decimal> Rate(NpgsqlConnection db, Currency currency, LocalDate day) =>
        currency == Currency.USD
            ? 1m
            : (
                await db.Rows("select rate_on(@currency, @day) as rate", r => r.DecimalOrNull("rate"), ("currency", currency), ("day", day))
            )[0]
                ?? throw new InvalidOperationException($"No exchange rate of {currency} was entered, and a company trades in it.");

    /// <summary>Whether a rate was ever entered, so that companies may trade in a currency.</summary>
    public static async Task<bool> HasRate(NpgsqlConnection db, Currency currency) =>
        currency == Currency.USD
        || await db.One<bool>("select exists (select 1 from exchange_rates where currency = @currency)", ("currency", currency));

    /// <summary>An amount in US dollars at a day's rate.</summary>
    public static async Task<Money> InBooks(NpgsqlConnection db, Money amount, LocalDate day) =>
        amount.Currency == Currency.USD ? amount : Exchange.InBooks(amount, await Rate(db, amount.Currency, day));

    /// <summary>An amount of US dollars in another currency at a day's rate.</summary>
    public static async Task<Money?> From(NpgsqlConnection db, Money? usd, Currency currency, LocalDate day) =>
        usd is { } amount && currency != Currency.USD ? Exchange.From(amount, currency, await Rate(db, currency, day)) : usd;

    /// <summary>The newest rates first.</summary>
    public static Task<List<ExchangeRateRow>> Rates(NpgsqlConnection db, int limit = 60) =>
        db.Rows(
            "select * from exchange_rates order by posted_on desc limit @limit",
            r => new ExchangeRateRow(r.Currency(), r.Date("posted_on"), r.Decimal("usd"), r.Text("source")),
            ("limit", limit)
        );

    /// <summary>Enters a day's rate, or corrects it: what is posted keeps the rate it was posted at.</summary>
    public static Task Set(CommandContext w, ExchangeRate rate, string source) =>
        w.Db.Run(
            """
            insert into exchange_rates (currency, posted_on, usd, source, entered_at) values (@currency, @on, @usd, @source, @now)
            on conflict (currency, posted_on) do update set usd = excluded.usd, source = excluded.source, entered_at = excluded.entered_at
            """,
            ("currency", rate.Currency),
            ("on", rate.On),
            ("usd", rate.Usd),
            ("source", source),
            ("now", w.Now)
        );

    /// <summary>What is open of the items that an entry posts to.</summary>
    internal static Task<List<Carried>> Of(NpgsqlConnection db, Entry entry)
    {
        var items = entry.Lines.Where(l => l.ItemId is not null).Select(l => (l.Account, Item: l.ItemId!.Value)).Distinct().ToList();
        return db.Rows(
            $"""
            select l.account, l.item_id, sum({Own}) as own, sum(l.debit - l.credit) as booked
            from unnest(@accounts, @items) as x (account, item) join entry_lines l on l.account = x.account and l.item_id = x.item
            group by l.account, l.item_id
            """,
            r => new Carried(r.Text("account"), r.Long("item_id"), r.Decimal("own"), r.Decimal("booked"), Dimensions.None),
            ("accounts", items.Select(i => i.Account).ToArray()),
            ("items", items.Select(i => i.Item).ToArray())
        );
    }

    /// <summary>What is open and held in Canadian dollars at the end of a day.</summary>
    public static Task<List<Carried>> InCanadian(NpgsqlConnection db, LocalDate on) =>
        db.Rows(
            """
            select l.account, l.item_id, max(l.customer_id) as customer, max(l.carrier_id) as carrier, max(l.vendor_id) as vendor,
                sum(l.in_currency) as own, sum(l.debit - l.credit) as booked
            from entry_lines l join entries e on e.id = l.entry_id
            where l.currency = 'CAD' and (l.item_id is not null or l.account = @bank) and e.posted_on <= @on
            group by l.account, l.item_id having sum(l.in_currency) <> 0 or sum(l.debit - l.credit) <> 0
            order by l.account, l.item_id
            """,
            r => new Carried(
                r.Text("account"),
                r.LongOrNull("item_id"),
                r.Decimal("own"),
                r.Decimal("booked"),
                new Dimensions(CustomerId: r.LongOrNull("customer"), CarrierId: r.LongOrNull("carrier"), VendorId: r.LongOrNull("vendor"))
            ),
            ("bank", Accounts.BankCad.Code),
            ("on", on)
        );
}
