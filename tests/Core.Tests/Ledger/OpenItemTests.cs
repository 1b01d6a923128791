using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Ledger;

/// <summary>Open items on any day: nothing is ever less than nothing open, and no cent is lost when an amount is split.</summary>
public class OpenItemTests
{
    private static readonly LocalDate Nov1 = new(2026, 11, 1);

    private static LocalDate Nov(int day) => new(2026, 11, day);

    [Fact]
    public void A_payment_dated_before_its_invoice_waits_for_it()
    {
        ItemMove[] invoice = [new(Nov(5), 900)];
        Assert.Equal(Nov(5), OpenItems.FirstDay(invoice, Nov(2), 900));
        Assert.Equal(Nov(9), OpenItems.FirstDay(invoice, Nov(9), 900));
    }

    [Fact]
    public void A_payment_waits_for_the_reversal_of_the_one_it_replaces()
    {
        // Paid on Nov 5, bounced after October was closed; the new check is dated Nov 10, the reversal posted on Nov 28.
        ItemMove[] invoice = [new(Nov(1), 900), new(Nov(5), -900), new(Nov(28), 900)];
        Assert.Equal(Nov(28), OpenItems.FirstDay(invoice, Nov(10), 900));
        Assert.Throws<InvalidOperationException>(() => OpenItems.FirstDay(invoice, Nov(10), 900.01m));
    }

    [Fact]
    public void No_day_ever_shows_less_than_nothing_open_and_no_earlier_day_would_do() =>
        Gen.Select(Gen.Select(Gen.Int[0, 40], Gen.Int[1, 90_000]).List[1, 6], Gen.Select(Gen.Int[0, 40], Gen.Int[1, 100]).List[0, 6])
            .Sample(
                (opened, taken) =>
                {
                    var moves = opened.Select(o => new ItemMove(Nov1.PlusDays(o.Item1), o.Item2 / 100m)).ToList();
                    foreach (var (day, percent) in taken)
                    {
                        var amount = Math.Round(moves.Sum(m => m.Amount) * percent / 100, 2);
                        if (amount <= 0)
                        {
                            continue;
                        }

                        var from = Nov1.PlusDays(day);
                        var on = OpenItems.FirstDay(moves, from, amount);
                        if (on < from || (on > from && NeverBelowZero([.. moves, new ItemMove(on.PlusDays(-1), -amount)])))
                        {
                            return false;
                        }

                        moves.Add(new ItemMove(on, -amount));
                    }

                    return NeverBelowZero(moves);
                }
            );

    private static bool NeverBelowZero(List<ItemMove> moves) =>
        Enumerable.Range(-1, 45).All(d => moves.Where(m => m.On <= Nov1.PlusDays(d)).Sum(m => m.Amount) >= 0);

    [Fact]
    public void Documents_of_a_closed_month_post_in_the_next_open_one_and_reversals_where_what_they_reverse_stands()
    {
        var books = new BookPeriods(new HashSet<LocalDate> { new(2026, 9, 1), new(2026, 10, 1) });
        Assert.Equal(Nov(3), books.PostingDay(Nov(3)));
        Assert.Equal(Nov1, books.PostingDay(new LocalDate(2026, 9, 17)));
        Assert.Equal(new LocalDate(2026, 8, 31), books.PostingDay(new LocalDate(2026, 8, 31)));
        Assert.Equal(Nov(3), books.ReversalDay(Nov(3), Nov(28)));
        Assert.Equal(Nov(28), books.ReversalDay(new LocalDate(2026, 10, 31), Nov(28)));
    }

    [Fact]
    public void A_split_adds_up_to_the_whole()
    {
        Assert.Equal([33.33m, 33.34m, 33.33m], Money.Usd(100).Split([1, 1, 1]).Select(m => m.Amount));
        Assert.Equal([0m, 10m], Money.Usd(10).Split([0, 5]).Select(m => m.Amount));
        Assert.Equal([2.5m, 2.5m], Money.Usd(5).Split([0, 0]).Select(m => m.Amount));
        Gen.Select(Gen.Int[-9_000_000, 9_000_000], Gen.Int[0, 900].List[1, 12])
            .Sample(
                (cents, weights) =>
                {
                    var whole = Money.Usd(cents / 100m);
                    var shares = whole.Split(weights.Select(w => (decimal)w).ToList());
                    return shares.Count == weights.Count
                        && Money.Sum(shares) == whole
                        && shares.All(s => s.IsWholeCents && (s.Amount == 0 || s.Amount > 0 == whole.Amount > 0));
                }
            );
    }
}

/// <summary>Revenue and carrier costs are in the books from the day of delivery, whatever happens afterwards.</summary>
public class AccrualTests
{
    private static readonly BookPeriods AllOpen = new(new HashSet<LocalDate>());
    private static readonly LocalDate Today = new(2026, 11, 28);

    private static LocalDate Nov(int day) => new(2026, 11, day);

    private static AccruableLoad Load(LocalDate on, decimal haul = 1850, decimal fuel = 240, bool billed = false, LocalDate? bill = null) =>
        new(
            6,
            "6138",
            7,
            on,
            billed,
            [(ChargeKind.LineHaul, Money.Usd(haul)), (ChargeKind.FuelSurcharge, Money.Usd(fuel))],
            [new AccruableLeg(4, 9, Money.Usd(1500), bill)]
        );

    /// <summary>A ledger of one load: asks Core for each change and keeps what it posts.</summary>
    private sealed class Books
    {
        public List<Entry> Entries { get; } = [];

        public IReadOnlyList<Entry> Change(AccruableLoad? load, BookPeriods? periods = null, LocalDate? today = null)
        {
            var lines = Entries.SelectMany(e => e.Lines.Select(l => (Line: l, e.PostedOn))).ToList();
            var revenue = lines
                .Where(l => Accruals.RevenueCodes.Contains(l.Line.Account))
                .GroupBy(l => (l.Line.Account, l.Line.For.CustomerId!.Value))
                .Select(g => new PostedRevenue(g.Key.Account, g.Key.Value, Money.Usd(-g.Sum(l => l.Line.Signed)), g.Max(l => l.PostedOn)))
                .Where(r => r.Amount.Amount != 0)
                .ToList();
            var pay = lines
                .Where(l => l.Line.Account == Accounts.AccruedCarrierPay.Code)
                .Select(l => new PostedCarrierPay(l.Line.ItemId!.Value, l.Line.For.CarrierId!.Value, Money.Usd(-l.Line.Signed), l.PostedOn))
                .ToList();
            var entries = Accruals.Change(6, "6138", load, revenue, pay, periods ?? AllOpen, today ?? Today);
            Entries.AddRange(entries);
            return entries;
        }

        public decimal Balance(Account account, LocalDate? on = null) =>
            Entries
                .Where(e => on is null || e.PostedOn <= on)
                .SelectMany(e => e.Lines)
                .Where(l => l.Account == account.Code)
                .Sum(l => l.Debit - l.Credit);
    }

    [Fact]
    public void A_delivered_load_is_unbilled_revenue_and_accrued_carrier_pay_on_its_day_and_only_once()
    {
        var books = new Books();
        var entry = Assert.Single(books.Change(Load(Nov(24))));
        Assert.Equal((Nov(24), EntrySource.Accrual, 6L), (entry.PostedOn, entry.Source, entry.SourceId));
        Assert.Equal(
            (2090m, -1850m, -240m, 1500m, -1500m),
            (
                books.Balance(Accounts.Unbilled),
                books.Balance(Accounts.LineHaul),
                books.Balance(Accounts.FuelSurcharge),
                books.Balance(Accounts.PurchasedTransportation),
                books.Balance(Accounts.AccruedCarrierPay)
            )
        );
        Assert.Empty(books.Change(Load(Nov(24))));
        Assert.Empty(books.Change(Load(Nov(24), billed: true)));
    }

    [Fact]
    public void A_charge_added_after_delivery_is_earned_on_the_day_of_delivery()
    {
        var books = new Books();
        books.Change(Load(Nov(24)));
        var entry = Assert.Single(books.Change(Load(Nov(24), haul: 1925)));
        Assert.Equal((Nov(24), 75m), (entry.PostedOn, entry.Total));
        Assert.Equal(-1925m, books.Balance(Accounts.LineHaul));
    }

    [Fact]
    public void A_delivery_that_is_undone_leaves_nothing()
    {
        var books = new Books();
        books.Change(Load(Nov(24)));
        Assert.Equal(Nov(24), Assert.Single(books.Change(null)).PostedOn);
        Assert.All(Accounts.All, a => Assert.Equal(0, books.Balance(a)));
        Assert.Empty(books.Change(null));
    }

    [Fact]
    public void A_delivery_corrected_to_another_month_moves_its_revenue_there()
    {
        // Reported at first for 18:30 on October 31, really delivered on November 2.
        var books = new Books();
        books.Change(Load(new LocalDate(2026, 10, 31)));
        books.Change(Load(Nov(2)));
        Assert.Equal(0, books.Balance(Accounts.LineHaul, Nov(1)));
        Assert.Equal(-1850m, books.Balance(Accounts.LineHaul, Nov(2)));
    }

    [Fact]
    public void A_delivery_reported_after_its_month_was_closed_is_earned_in_the_next()
    {
        var october = new BookPeriods(new HashSet<LocalDate> { new(2026, 10, 1) });
        var books = new Books();
        Assert.Equal(Nov(1), Assert.Single(books.Change(Load(new LocalDate(2026, 10, 30)), october)).PostedOn);
    }

    [Fact]
    public void The_carriers_bill_replaces_what_was_accrued_on_the_day_it_posts_and_a_void_bill_restores_it()
    {
        var books = new Books();
        books.Change(Load(Nov(20)));
        Assert.Equal(Nov(25), Assert.Single(books.Change(Load(Nov(20), bill: Nov(25)))).PostedOn);
        Assert.Equal(
            (-1500m, 0m),
            (books.Balance(Accounts.AccruedCarrierPay, Nov(24)), books.Balance(Accounts.AccruedCarrierPay, Nov(25)))
        );
        Assert.Equal(Nov(25), Assert.Single(books.Change(Load(Nov(20)))).PostedOn);
        Assert.All(Enumerable.Range(20, 8), d => Assert.Equal(-1500m, books.Balance(Accounts.AccruedCarrierPay, Nov(d))));
    }

    [Fact]
    public void A_bill_dated_before_the_delivery_never_turns_accrued_pay_around()
    {
        var books = new Books();
        books.Change(Load(Nov(20), bill: Nov(18)));
        Assert.Equal(0, books.Balance(Accounts.AccruedCarrierPay));
        books = new Books();
        books.Change(Load(Nov(20)));
        books.Change(Load(Nov(20), bill: Nov(18)));
        Assert.All(Enumerable.Range(15, 14), d => Assert.True(books.Balance(Accounts.AccruedCarrierPay, Nov(d)) <= 0));
        Assert.Equal(0, books.Balance(Accounts.AccruedCarrierPay));
    }

    [Fact]
    public void After_any_history_the_books_show_what_stands_and_no_day_shows_the_opposite() =>
        Gen.Select(Gen.Int[0, 4], Gen.Int[1, 27], Gen.Int[0, 5], Gen.Int[1, 27])
            .List[1, 12]
            .Sample(steps =>
            {
                var books = new Books();
                AccruableLoad? load = null;
                foreach (var (what, day, more, billDay) in steps)
                {
                    load = what switch
                    {
                        0 => null,
                        1 => Load(Nov(day), haul: 1000 + (more * 25)),
                        2 when load is not null => load with { DeliveredOn = Nov(day) },
                        3 when load is not null => load with { Legs = [load.Legs[0] with { BillPostedOn = Nov(billDay) }] },
                        4 when load is not null => load with { Legs = [load.Legs[0] with { BillPostedOn = null }] },
                        _ => load,
                    };
                    books.Change(load);
                }

                var earned = load?.Charges.Sum(c => c.Amount.Amount) ?? 0;
                var owed = load?.Legs.Sum(l => l.BillPostedOn is null ? l.Agreed.Amount : 0) ?? 0;
                return books.Balance(Accounts.Unbilled) == earned
                    && books.Balance(Accounts.AccruedCarrierPay) == -owed
                    && Enumerable
                        .Range(1, 30)
                        .All(d => books.Balance(Accounts.Unbilled, Nov(d)) >= 0 && books.Balance(Accounts.AccruedCarrierPay, Nov(d)) <= 0);
            });
}

public class BalanceSheetTests
{
    private static readonly LocalDate On = new(2026, 11, 24);

    [Fact]
    public void Profit_of_earlier_years_is_retained_and_that_of_this_year_stands_apart()
    {
        Balance[] before =
        [
            new(Accounts.Bank, Money.Usd(1500)),
            new(Accounts.OwnersEquity, Money.Usd(-1000)),
            new(Accounts.LineHaul, Money.Usd(-500)),
        ];
        Balance[] now =
        [
            new(Accounts.Bank, Money.Usd(1300)),
            new(Accounts.Receivable, Money.Usd(900)),
            new(Accounts.Payable, Money.Usd(-400)),
            new(Accounts.OwnersEquity, Money.Usd(-1000)),
            new(Accounts.LineHaul, Money.Usd(-1400)),
            new(Accounts.DriverWages, Money.Usd(600)),
        ];
        var sheet = BalanceSheet.Of(On, now, before);
        Assert.Equal(["1000", "1200"], sheet.Assets.Select(l => l.Code));
        Assert.Equal([("Accounts payable", 400m)], sheet.Liabilities.Select(l => (l.Name, l.Amount.Amount)));
        Assert.Equal(
            [("Owner's equity", 1000m), ("Retained earnings", 500m), ("Net profit of 2026", 300m)],
            sheet.Equity.Select(l => (l.Name, l.Amount.Amount))
        );
        Assert.Equal((2200m, 400m, 1800m), (sheet.TotalAssets.Amount, sheet.TotalLiabilities.Amount, sheet.TotalEquity.Amount));
        Assert.Equal(new LocalDate(2025, 12, 31), BalanceSheet.YearBefore(On));
    }

    [Fact]
    public void Whatever_was_posted_assets_equal_liabilities_and_equity() =>
        Gen.Select(
                Gen.Select(Gen.Int[0, Accounts.All.Count - 1], Gen.Int[0, Accounts.All.Count - 1], Gen.Int[-900_000, 900_000]).List[0, 30],
                Gen.Int[0, 30]
            )
            .Sample(
                (entries, split) =>
                {
                    List<Balance> Sum(int count) =>
                        Accounts
                            .All.Select(
                                (a, i) =>
                                    new Balance(
                                        a,
                                        Money.Usd(
                                            entries
                                                .Take(count)
                                                .Sum(e => ((e.Item1 == i ? e.Item3 : 0) - (e.Item2 == i ? e.Item3 : 0)) / 100m)
                                        )
                                    )
                            )
                            .ToList();
                    var sheet = BalanceSheet.Of(On, Sum(entries.Count), Sum(Math.Min(split, entries.Count)));
                    return sheet.TotalAssets == sheet.TotalLiabilities + sheet.TotalEquity;
                }
            );
}
