using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Store.Ledger;

namespace SteadyLark.Server.Ledger;

/// <param name="Zero">The sum of all balances; anything but 0.00 would be a fault.</param>
public sealed record TrialBalanceView(LocalDate UpTo, IReadOnlyList<AccountBalance> Accounts, Money Debit, Money Credit, Money Zero);

public sealed record AgesView(LocalDate On, IReadOnlyList<AgedRow> OwedToUs, IReadOnlyList<AgedRow> OwedByUs);

public static class LedgerEndpoints
{
    public static void MapLedger(this RouteGroupBuilder api)
    {
        api.MapGet("/ledger/trial-balance", async (QueryDay? upTo, NpgsqlDataSource source, IClock clock, BusinessZone zone) =>
        {
            var day = upTo?.Value ?? clock.GetCurrentInstant().InZone(zone.Zone).Date;
            await using var db = await source.OpenConnectionAsync();
            var accounts = await LedgerStore.TrialBalance(db, day);
            return new TrialBalanceView(day, accounts, Money.Sum(accounts.Select(a => a.Debit)), Money.Sum(accounts.Select(a => a.Credit)), Money.Sum(accounts.Select(a => a.Balance)));
        }).Needs(Right.LedgerSee).WithName("getTrialBalance");

        api.MapGet("/ledger/months", async (int? months, NpgsqlDataSource source, IClock clock, BusinessZone zone) =>
        {
            var today = clock.GetCurrentInstant().InZone(zone.Zone).Date;
            var from = today.With(DateAdjusters.StartOfMonth).PlusMonths(1 - Math.Clamp(months ?? 6, 1, 60));
            await using var db = await source.OpenConnectionAsync();
            return await LedgerStore.ByMonth(db, from, today.With(DateAdjusters.EndOfMonth));
        }).Needs(Right.LedgerSee).WithName("getMonths");

        api.MapGet("/ledger/lines", async (string? account, string? month, long? entryId, long? loadId, long? companyId, string? after, int? limit, NpgsqlDataSource source) =>
        {
            var most = Math.Clamp(limit ?? 200, 1, 1000);
            await using var db = await source.OpenConnectionAsync();
            var parts = (after ?? "").Split('_');
            (LocalDate, long, int)? cursor = parts.Length == 3 && NodaTime.Text.LocalDatePattern.Iso.Parse(parts[0]) is { Success: true } on && long.TryParse(parts[1], out var entry) && int.TryParse(parts[2], out var seq)
                ? (on.Value, entry, seq) : null;
            var rows = await LedgerStore.Lines(db, account, month, entryId, loadId, companyId, cursor, most);
            return new Page<LedgerLine>(rows, rows.Count == most ? $"{rows[^1].PostedOn:uuuu-MM-dd}_{rows[^1].EntryId}_{rows[^1].Seq}" : null);
        }).Needs(Right.LedgerSee).WithName("listLedgerLines");

        api.MapGet("/ledger/ages", async (NpgsqlDataSource source, IClock clock, BusinessZone zone) =>
        {
            var today = clock.GetCurrentInstant().InZone(zone.Zone).Date;
            await using var db = await source.OpenConnectionAsync();
            return new AgesView(today, await LedgerStore.OwedToUs(db, today), await LedgerStore.OwedByUs(db, today));
        }).Needs(Right.LedgerSee).WithName("getAges");
    }
}
