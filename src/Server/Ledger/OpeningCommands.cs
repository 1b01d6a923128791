using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Documents;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Fleet;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Ledger;

/// <param name="On">The last day of the old books; everything is posted on it.</param>
/// <param name="Lines">Balances of accounts other than control accounts.</param>
/// <param name="Items">Open invoices, bills, advances and credits.</param>
public sealed record OpeningRequest(LocalDate? On, IReadOnlyList<JournalLineRequest>? Lines, IReadOnlyList<OpeningOrder>? Items);

/// <summary>What was entered, and what account 3900 is left with.</summary>
/// <param name="Left">Debit less credit on account 3900: zero when the whole trial balance is entered.</param>
public sealed record OpeningResult(int Items, int Lines, [property: SeenWith(Right.LedgerSee)] Money Left);

/// <summary>A row of a file of open items with the party it names.</summary>
/// <param name="PartyId">Null when no company or driver has that name.</param>
public sealed record OpeningRowView(OpeningKind Kind, long? PartyId, [property: SeenWith(Right.LedgerSee)] OpeningRow Read);

/// <summary>Opening balances.</summary>
public static class OpeningCommands
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/ledger/opening", async (CallerReads reads) =>
            {
                await using var db = await reads.Open();
                return new OpeningResult(0, 0, await LedgerStore.BalanceOf(db, Accounts.OpeningBalances.Code));
            })
            .Needs(Right.LedgerSee)
            .WithName("getOpeningBalances");

        api.MapPost("/ledger/opening", (OpeningRequest request, HttpContext http, Commands commands) =>
                commands.Money(http, request, w => Enter(w, request))
            )
            .Needs(Right.LedgerPost)
            .WithName("enterOpeningBalances");

        api.MapPost("/ledger/opening/read", async Task<IResult> (string kind, HttpRequest request, CallerReads reads) =>
            {
                if (!Enum.TryParse<OpeningKind>(kind, ignoreCase: true, out var of) || !Enum.IsDefined(of))
                {
                    return Answers.Refused([new Problem("unknown", "The kind is invoice, bill, advance or credit.", "kind")]);
                }

                await using var db = await reads.Open();
                var rows = await Read(db, of, await DocumentEndpoints.Body(request));
                return rows.Ok ? TypedResults.Ok(rows.Value) : Answers.Refused(rows.Problems);
            })
            .Needs(Right.LedgerPost)
            .TakesFile()
            .Produces<IReadOnlyList<OpeningRowView>>()
            .ProducesProblem(422)
            .WithName("readOpeningItems");
    }

    private static async Task<Outcome<IReadOnlyList<OpeningRowView>>> Read(Npgsql.NpgsqlConnection db, OpeningKind kind, byte[] file)
    {
        var table = TableReader.Read(file);
        var rows = table.Ok ? OpeningTable.Read(table.Value) : table.Problems;
        if (!rows.Ok)
        {
            return rows.Problems;
        }

        var names =
            kind == OpeningKind.Advance
                ? (await FleetStore.Drivers(db)).GroupBy(d => d.Name.ToLowerInvariant()).ToDictionary(g => g.Key, g => g.First().Id)
                : await CompanyStore.ByNames(db, rows.Value.Select(r => r.Party));
        return rows
            .Value.Select(r => new OpeningRowView(kind, names.TryGetValue(r.Party.ToLowerInvariant(), out var id) ? id : null, r))
            .ToList();
    }

    private static async Task<Outcome<OpeningResult>> Enter(CommandContext w, OpeningRequest request)
    {
        if (w.Actor.Access?.Limits.IsLimited == true)
        {
            return new Problem("view.limited", "Opening balances are entered by someone whose view is not limited.");
        }

        var validation = new Validation();
        validation.Date(request.On, w.Today, "on", "The opening date");
        if (request.On > w.Today)
        {
            validation.Add("date.future", "The opening date cannot be in the future.", "on");
        }

        var (orders, lines) = (request.Items ?? [], request.Lines ?? []);
        if (orders.Count == 0 && lines.Count == 0)
        {
            validation.Add("empty", "Enter at least one balance or open item.", "items");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var on = request.On!.Value;
        await LedgerStore.CheckOpen(w.Db, on, validation, "on");
        var items = await Check(w, on, orders, validation);
        Entry? entry = null;
        if (lines.Count > 0)
        {
            var typed = lines.Select(l => new JournalLine(l?.Account, l?.Debit, l?.Credit, new Dimensions())).ToList();
            var drafted = Journal.Draft(on, "Opening balances", OpeningBalances.Balanced(typed), await LedgerStore.Chart(w.Db));
            validation.AddRange(drafted.Problems);
            entry = drafted.Ok ? drafted.Value : null;
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        foreach (var item in items)
        {
            await LedgerStore.Post(w, Postings.Opening(on, item, await Add(w, on, item)));
        }

        var posted = entry is null ? 0 : await LedgerStore.Post(w, entry);
        var parts = new[] { Counted(items.Count, "open item"), Counted(lines.Count, "account balance") }.OfType<string>();
        w.Record(EventKinds.OpeningEntered, posted, $"Opening balances of {on:MMM d, uuuu}: {string.Join(", ", parts)}");
        return new OpeningResult(items.Count, lines.Count, await LedgerStore.BalanceOf(w.Db, Accounts.OpeningBalances.Code));
    }

    private static async Task<IReadOnlyList<OpeningItem>> Check(
        CommandContext w,
        LocalDate on,
        IReadOnlyList<OpeningOrder> orders,
        Validation validation
    )
    {
        var companies = await CompanyStore.ByIds(w.Db, orders.Where(o => o.Kind != OpeningKind.Advance).Select(o => o.PartyId ?? 0));
        var drivers = (await FleetStore.Drivers(w.Db)).ToDictionary(d => d.Id, d => d.Name);
        var numbers = orders.Where(o => o.Number is not null).ToList();
        var invoices = await BillingStore.NumbersTaken(
            w.Db,
            numbers.Where(o => o.Kind == OpeningKind.Invoice).Select(o => o.Number!.Trim())
        );
        var bills = await BillStore.NumbersTaken(
            w.Db,
            numbers.Where(o => o.Kind == OpeningKind.Bill).Select(o => (o.PartyId ?? 0, o.Number!.Trim()))
        );
        return OpeningBalances.Check(
            on,
            orders,
            (kind, id) =>
                kind == OpeningKind.Advance ? (drivers.TryGetValue(id, out var driver) ? new OpeningParty(driver) : null)
                : companies.TryGetValue(id, out var c) && (kind == OpeningKind.Bill ? c.IsVendor || c.IsCarrier : c.IsCustomer)
                    ? new OpeningParty(c.Name, c.IsCarrier, c.Currency)
                : null,
            (kind, whose, number) =>
                kind == OpeningKind.Invoice
                    ? invoices.Contains(number.ToLowerInvariant())
                    : bills.Contains((whose, number.ToLowerInvariant())),
            validation
        );
    }

    private static async Task<long> Add(CommandContext w, LocalDate on, OpeningItem item)
    {
        switch (item.Kind)
        {
            case OpeningKind.Invoice:
                var invoice = await BillingStore.AddOpening(w, item, on);
                await BillingStore.Find(w.Db, invoice);
                return invoice;
            case OpeningKind.Bill:
                var line = new BillLine(Accounts.OpeningBalances.Code, "opening balance", item.Amount, null, null, null);
                var bill = await BillStore.Add(
                    w,
                    item.PartyId,
                    null,
                    new EnteredBill(item.Number!, item.On, item.DueOn, item.Amount, [line], "Opening balance"),
                    on
                );
                w.Record(
                    EventKinds.BillEntered,
                    bill,
                    $"Bill {item.Number} from {item.Party} for {item.Amount.Formatted}, an opening balance"
                );
                return bill;
            case OpeningKind.Advance:
                return await SettlementStore.AddAdvance(w, item.PartyId, on, item.Amount, item.Number ?? "opening balance");
            default:
                return await BillingStore.AddPayment(w, item.PartyId, on, on, PaymentMethods.OpeningBalance, item.Number, item.Amount);
        }
    }

    private static string? Counted(int n, string one) =>
        n switch
        {
            0 => null,
            1 => $"1 {one}",
            _ => $"{n:#,##0} {one}s",
        };
}
