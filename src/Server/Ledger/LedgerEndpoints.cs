using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.People;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Ledger;

namespace SteadyLark.Server.Ledger;

/// <param name="Zero">The sum of all balances; anything but 0.00 would be a bug.</param>
public sealed record TrialBalanceView(LocalDate UpTo, IReadOnlyList<AccountBalance> Accounts, Money Debit, Money Credit, Money Zero);

/// <summary>What is owed at the end of a day, with the balances of its accounts, which the totals equal.</summary>
public sealed record AgingView(
    LocalDate On,
    IReadOnlyList<AgingRow> Receivables,
    IReadOnlyList<AgingRow> Payables,
    Money ReceivableBalance,
    Money PayableBalance
);

/// <summary>Profit and loss: its groups in order, and each account's amount in each group.</summary>
public sealed record ProfitView(
    ProfitBy By,
    LocalDate From,
    LocalDate Until,
    IReadOnlyList<ProfitGroup> Groups,
    IReadOnlyList<ProfitCell> Cells
);

/// <param name="FirstDay">Of the oldest entry, or null when nothing was posted.</param>
/// <param name="Closings">Months that are or were closed, newest first.</param>
public sealed record PeriodsView(LocalDate? FirstDay, IReadOnlyList<ClosedMonth> Closings);

public static class LedgerEndpoints
{
    public static void MapLedger(this RouteGroupBuilder api)
    {
        Reading(api);
        Writing(api);
    }

    private static void Reading(RouteGroupBuilder api)
    {
        api.MapGet(
                "/ledger/trial-balance",
                async Task<IResult> (QueryDay? upTo, string? format, CallerReads reads, IClock clock, BusinessZone zone) =>
                {
                    var day = upTo?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
                    await using var db = format is null ? await reads.Open() : await reads.OpenLate();
                    var accounts = await LedgerStore.TrialBalance(db, day);
                    return format is null
                        ? TypedResults.Ok(
                            new TrialBalanceView(
                                day,
                                accounts,
                                Money.Sum(accounts.Select(a => a.Debit)),
                                Money.Sum(accounts.Select(a => a.Credit)),
                                Money.Sum(accounts.Select(a => a.Balance))
                            )
                        )
                        : new Table(
                            ["Account", "Name", "Parent", "Kind", "Debit", "Credit", "Balance"],
                            accounts
                                .Select(a =>
                                    (IReadOnlyList<object?>)
                                        [a.Code, a.Name, a.Parent, a.Kind.ToString(), a.Debit.Amount, a.Credit.Amount, a.Balance.Amount]
                                )
                                .ToList()
                        ).File(format, $"trial-balance-{day:uuuu-MM-dd}", "Trial balance");
                }
            )
            .Needs(Right.LedgerSee)
            .Produces<TrialBalanceView>()
            .ProducesProblem(422)
            .WithName("getTrialBalance")
            .Exports("the trial balance");

        api.MapGet(
                "/ledger/profit",
                async Task<IResult> (
                    QueryEnum<ProfitBy>? by,
                    QueryDay? from,
                    QueryDay? until,
                    long? customerId,
                    long? carrierId,
                    long? driverId,
                    long? truckId,
                    string? lane,
                    string? format,
                    CallerReads reads,
                    IClock clock,
                    BusinessZone zone
                ) =>
                {
                    var kind = by?.Value ?? ProfitBy.Month;
                    var last = until?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
                    var first = from?.Value
                        ?? Profit.From(
                            kind,
                            last,
                            kind is ProfitBy.Month ? 6
                                : kind is ProfitBy.Week ? 8
                                : 3
                        );
                    await using var db = await reads.OpenLate();
                    var (cells, work) = await LedgerStore.Profit(
                        db,
                        kind,
                        first,
                        last,
                        new ProfitFilter(customerId, carrierId, driverId, truckId, string.IsNullOrWhiteSpace(lane) ? null : lane)
                    );
                    var view = new ProfitView(kind, first, last, Profit.Groups(kind, cells, work), cells);
                    return format is null
                        ? TypedResults.Ok(view)
                        : Pivot(view).File(format, $"profit-by-{kind.ToString().ToLowerInvariant()}", "Profit and loss");
                }
            )
            .Needs(Right.LedgerSee)
            .Produces<ProfitView>()
            .ProducesProblem(422)
            .WithName("getProfit")
            .Exports("profit and loss");

        api.MapGet(
                "/ledger/lines",
                async Task<IResult> (
                    string? account,
                    string? month,
                    long? entryId,
                    long? loadId,
                    long? companyId,
                    string? after,
                    int? limit,
                    string? format,
                    CallerReads reads
                ) =>
                {
                    var max = format is null ? Math.Clamp(limit ?? 200, 1, 1000) : 250_000;
                    await using var db = format is null ? await reads.Open() : await reads.OpenLate();
                    var parts = (after ?? "").Split('_');
                    (LocalDate, long, int)? cursor =
                        parts.Length == 3
                        && NodaTime.Text.LocalDatePattern.Iso.Parse(parts[0]) is { Success: true } on
                        && long.TryParse(parts[1], out var entry)
                        && int.TryParse(parts[2], out var seq)
                            ? (on.Value, entry, seq)
                            : null;
                    var rows = await LedgerStore.Lines(db, account, month, entryId, loadId, companyId, cursor, max);
                    return format is null
                        ? TypedResults.Ok(
                            new Page<LedgerLine>(
                                rows,
                                rows.Count == max ? $"{rows[^1].PostedOn:uuuu-MM-dd}_{rows[^1].EntryId}_{rows[^1].Seq}" : null
                            )
                        )
                        : new Table(
                            [
                                "Posted",
                                "Entry",
                                "Line",
                                "What",
                                "Account",
                                "Account name",
                                "Load",
                                "Customer",
                                "Carrier or vendor",
                                "Driver",
                                "Truck",
                                "Debit",
                                "Credit",
                            ],
                            rows.Select(l =>
                                    (IReadOnlyList<object?>)
                                        [
                                            l.PostedOn.ToDateTimeUnspecified(),
                                            (decimal)l.EntryId,
                                            (decimal)l.Seq,
                                            l.Memo,
                                            l.Account,
                                            l.AccountName,
                                            l.LoadNumber,
                                            l.Customer,
                                            l.Carrier,
                                            l.Driver,
                                            l.Truck,
                                            l.Debit.Amount,
                                            l.Credit.Amount,
                                        ]
                                )
                                .ToList()
                        ).File(format, "journal", "Journal");
                }
            )
            .Needs(Right.LedgerSee)
            .Produces<Page<LedgerLine>>()
            .ProducesProblem(422)
            .WithName("listLedgerLines")
            .Exports("the journal");

        api.MapGet("/ledger/aging", async (QueryDay? on, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                var day = on?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
                await using var db = await reads.Open();
                var balances = (await LedgerStore.TrialBalance(db, day)).ToDictionary(a => a.Code, a => a.Balance);
                return new AgingView(
                    day,
                    await OpenItemStore.Receivables(db, day),
                    await OpenItemStore.Payables(db, day),
                    balances[Accounts.Receivable.Code],
                    -balances[Accounts.Payable.Code]
                );
            })
            .Needs(Right.LedgerSee)
            .WithName("getAging");

        api.MapGet("/ledger/balance-sheet", async (QueryDay? on, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                var day = on?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
                await using var db = await reads.OpenLate();
                return BalanceSheet.Of(
                    day,
                    await LedgerStore.Balances(db, day),
                    await LedgerStore.Balances(db, BalanceSheet.YearBefore(day))
                );
            })
            .Needs(Right.LedgerSee)
            .WithName("getBalanceSheet");

        api.MapGet("/ledger/cash-flow", async (QueryDay? from, QueryDay? until, CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                var last = until?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
                var first = from?.Value ?? new LocalDate(last.Year, 1, 1);
                await using var db = await reads.OpenLate();
                return CashFlow.Of(first, last, await LedgerStore.Balances(db, first.PlusDays(-1)), await LedgerStore.Balances(db, last));
            })
            .Needs(Right.LedgerSee)
            .WithName("getCashFlow");

        api.MapGet("/accounts", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await LedgerStore.Chart(db);
            })
            .Needs(Right.PayingSee)
            .WithName("listAccounts");

        api.MapGet("/ledger/periods", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return new PeriodsView(await LedgerStore.FirstDay(db), await LedgerStore.Closings(db));
            })
            .Needs(Right.LedgerSee)
            .WithName("listPeriods");
    }

    private static void Writing(RouteGroupBuilder api)
    {
        api.MapPost("/ledger/entries", (JournalRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => LedgerCommands.Post(w, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("postEntry");

        OpeningCommands.Map(api);
        api.MapGet("/ledger/exchange-rates", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return await ExchangeStore.Rates(db);
            })
            .Needs(Right.LedgerSee)
            .WithName("listExchangeRates");

        api.MapPost("/ledger/exchange-rates", (ExchangeRateRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => ExchangeCommands.Set(w, request, $"entered by {w.Actor.Name}"))
            )
            .Needs(Right.LedgerPost)
            .WithName("setExchangeRate");

        api.MapPost("/ledger/entries/{id:long}/reverse", (long id, ReverseRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => LedgerCommands.Reverse(w, id, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("reverseEntry");

        api.MapPost("/ledger/periods/close", (CloseMonthRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => LedgerCommands.Close(w, request))
            )
            .Needs(Right.LedgerClose)
            .WithName("closeMonth");

        api.MapPost("/ledger/periods/reopen", (ReopenMonthRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => LedgerCommands.Reopen(w, request))
            )
            .Needs(Right.LedgerClose)
            .WithName("reopenMonth");

        api.MapPost("/accounts", (AccountRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => LedgerCommands.AddAccount(w, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("addAccount");

        api.MapPut("/accounts/{code}", (string code, ChangeAccountRequest request, HttpContext http, Commands commands) =>
                commands.Run(http, w => LedgerCommands.ChangeAccount(w, code, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("changeAccount");
    }

    /// <summary>Months and weeks are columns next to the accounts; other groups are rows with their figures.</summary>
    private static Table Pivot(ProfitView view)
    {
        var accounts = view.Cells.Select(c => (c.Code, c.Kind)).Distinct().OrderBy(a => a.Code, StringComparer.Ordinal).ToList();
        var amounts = view.Cells.ToDictionary(c => (c.Key, c.Code), c => c.Amount.Amount);
        return new Table(
            [
                view.By.ToString(),
                .. accounts.Select(a => a.Code),
                "Income",
                "Expenses",
                "Net profit",
                "Loads",
                "Miles",
                "Net profit per mile",
            ],
            view.Groups.Select(g =>
                    (IReadOnlyList<object?>)
                        [
                            g.Name,
                            .. accounts.Select(a => (object?)amounts.GetValueOrDefault((g.Key, a.Code))),
                            g.Income.Amount,
                            g.Expense.Amount,
                            g.Left.Amount,
                            (decimal)g.Loads,
                            (decimal)g.Miles,
                            g.LeftPerMile,
                        ]
                )
                .ToList()
        );
    }
}
