using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Claims;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Claims;
using SteadyLark.Store.Ledger;
using Xunit;

namespace SteadyLark.Store.Tests.Billing;

/// <summary>What the database refuses about memos, late charges, claims, equipment and loans, whatever the code does.</summary>
public class CorrectionPromises(Stocked s) : IClassFixture<Stocked>
{
    private async Task<long> Invoice(CommandContext w, decimal total, string load, bool supplement = false)
    {
        var loadId = supplement
            ? await w.Db.One<long>("select id from loads where number = @n", ("n", load))
            : await s.Load(w, load, total);
        var charge = await w.Db.One<long>("select id from charges where load_id = @l order by seq desc limit 1", ("l", loadId));
        var (id, _) = await BillingStore.AddInvoice(
            w,
            new InvoiceDraft(
                s.Customer,
                w.Today,
                w.Today.PlusDays(30),
                Money.Usd(total),
                [new InvoiceLine(loadId, charge, "x", Money.Usd(total))],
                supplement ? [loadId] : [],
                []
            ),
            w.Today,
            null,
            BillingSettings.Default.Documents
        );
        return id;
    }

    private Task Memo(CommandContext w, long invoice, decimal amount, CreditReason reason, long? customer = null) =>
        CorrectionStore.AddMemo(
            w,
            invoice,
            customer ?? s.Customer,
            w.Today,
            new CreditMemo(Money.Usd(amount), Money.Zero(), reason, "x", w.Today, ChargeKind.LineHaul),
            Money.Zero()
        );

    [Fact]
    public async Task Credit_memos_never_exceed_their_invoice_but_for_claims_and_go_to_its_customer()
    {
        long invoice = 0;
        Assert.Null(await s.Refusal(async w => invoice = await Invoice(w, 100, "M1")));
        Assert.Equal("LK003", await s.Refusal(w => Memo(w, invoice, 100.01m, CreditReason.Concession)));
        Assert.Equal("LK003", await s.Refusal(w => Memo(w, invoice, 1, CreditReason.Concession, s.Carrier)));
        Assert.Null(await s.Refusal(w => Memo(w, invoice, 60, CreditReason.Concession)));
        Assert.Equal("LK003", await s.Refusal(w => Memo(w, invoice, 40.01m, CreditReason.BillingError)));
        Assert.Null(await s.Refusal(w => Memo(w, invoice, 5_000, CreditReason.Claim)));
        // A memo that is reversed makes room again, and only until it stands again.
        Assert.Null(
            await s.Refusal(async w =>
            {
                await w.Db.Run("update payments set reversed_at = now() where memo_invoice_id = @i and amount = 60", ("i", invoice));
                await Memo(w, invoice, 100, CreditReason.Concession);
            })
        );
        Assert.Equal(
            "LK003",
            await s.Refusal(w =>
                w.Db.Run("update payments set reversed_at = null where memo_invoice_id = @i and amount = 60", ("i", invoice))
            )
        );
        Assert.Equal(
            "payments_memo",
            await s.Refusal(w =>
                w.Db.Run("update payments set memo_why = null where memo_invoice_id = @i and memo_reason = 'claim'", ("i", invoice))
            )
        );
    }

    [Fact]
    public async Task A_charge_is_billed_once_and_a_load_has_one_invoice_besides_those_of_its_late_charges()
    {
        Assert.Null(await s.Refusal(w => Invoice(w, 100, "S1")));
        Assert.Equal("charge_billed_once", await s.Refusal(w => Invoice(w, 100, "S1", supplement: true)));
        Assert.Null(
            await s.Refusal(async w =>
            {
                await w.Db.Run(
                    """
                    insert into charges (load_id, seq, kind, amount) select id, 2, 'detention', 75 from loads where number = 'S1';
                    update loads set revenue = 175 where number = 'S1'
                    """
                );
                await Invoice(w, 75, "S1", supplement: true);
            })
        );
        Assert.Equal("load_on_one_invoice", await s.Refusal(w => w.Db.Run("update invoice_loads set supplement = false where supplement")));
    }

    [Theory]
    [InlineData("insert into charges (load_id, seq, kind, amount) select id, 9, 'discount', 1 from loads limit 1", "charges_amount_check")]
    [InlineData("insert into charges (load_id, seq, kind, amount) select id, 9, 'tarp', -1 from loads limit 1", "charges_amount_check")]
    [InlineData(
        "insert into charges (load_id, seq, kind, amount, authorized_on) select id, 9, 'tarp', 0, current_date from loads limit 1",
        "charges_authorized"
    )]
    public async Task A_charge_is_what_its_kind_says(string sql, string constraint)
    {
        Assert.Null(await s.Refusal(async w => await s.Load(w, "K" + sql.GetHashCode(StringComparison.Ordinal))));
        Assert.Equal(constraint, await s.Refusal(w => w.Db.Run(sql)));
    }

    [Fact]
    public async Task A_claim_allows_at_most_what_was_claimed_and_keeps_what_was_recovered()
    {
        long claim = 0;
        var receipt = new Payout(Stocked.Now.InZone(Stocked.Zone).Date, "check", "88");
        Assert.Null(
            await s.Refusal(async w =>
                claim = await ClaimStore.Add(w, await s.Load(w, "C1"), null, ClaimKind.Damage, "one pallet crushed", null)
            )
        );
        Assert.StartsWith(
            "claims_check",
            await s.Refusal(w => ClaimStore.Decide(w, claim, ClaimOutcome.Declined, Money.Zero(), "not filed"))
        );
        Assert.Null(await s.Refusal(w => ClaimStore.File(w, claim, w.Today, Money.Usd(420))));
        Assert.StartsWith(
            "claims_check",
            await s.Refusal(w => ClaimStore.Decide(w, claim, ClaimOutcome.Paid, Money.Usd(420.01m), "too much"))
        );
        Assert.StartsWith(
            "claims_check",
            await s.Refusal(w => ClaimStore.Decide(w, claim, ClaimOutcome.Declined, Money.Usd(1), "declined pays nothing"))
        );
        Assert.Null(await s.Refusal(w => ClaimStore.Decide(w, claim, ClaimOutcome.Settled, Money.Usd(300), "salvage")));
        Assert.Null(await s.Refusal(w => ClaimStore.AddRecovery(w, claim, receipt, w.Today, Money.Usd(120), null)));
        Assert.Null(await s.Refusal(w => ClaimStore.AddRecovery(w, claim, receipt, w.Today, Money.Usd(80), null)));
        async Task<decimal> Recovered()
        {
            await using var w = await s.Begin();
            return (await ClaimStore.Get(w.Db, claim))!.Recovered.Amount;
        }

        Assert.Equal(200, await Recovered());
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("update claim_recoveries set amount = 1")));
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("delete from claim_recoveries")));
        Assert.Null(await s.Refusal(w => w.Db.Run("update claim_recoveries set standing = false where amount = 80")));
        Assert.Equal(120, await Recovered());
    }

    [Fact]
    public async Task Equipment_is_never_depreciated_below_its_salvage_and_a_loan_never_paid_back_beyond_it()
    {
        var asset = new Asset("Truck 118", new LocalDate(2026, 9, 14), Money.Usd(1_000), Money.Usd(400), 6);
        var loan = new Loan("Clark Fork Bank", Money.Usd(500), 8, 5, new LocalDate(2026, 10, 1));
        var payout = new Payout(new LocalDate(2026, 11, 2), "ach", null);
        long id = 0;
        Assert.Null(await s.Refusal(async w => id = await EquipmentStore.Add(w, asset, s.Trucks[0], loan)));
        Assert.Null(await s.Refusal(w => EquipmentStore.Depreciate(w, id, new LocalDate(2026, 9, 1), Money.Usd(600))));
        Assert.Equal("LK002", await s.Refusal(w => EquipmentStore.Depreciate(w, id, new LocalDate(2026, 10, 1), Money.Usd(0.01m))));
        Assert.Equal("LK002", await s.Refusal(w => EquipmentStore.Depreciate(w, id, new LocalDate(2026, 10, 1), Money.Usd(-600.01m))));

        async Task<AssetRow> Row()
        {
            await using var w = await s.Begin();
            return (await EquipmentStore.Get(w.Db, id))!;
        }

        var key = (await Row()).Loan!.Id;
        var first = loan.Schedule()[0];
        Assert.Null(await s.Refusal(w => EquipmentStore.AddPayment(w, key, first, payout, w.Today)));
        Assert.Equal(Money.Usd(500) - first.Principal, (await Row()).Loan!.Owed);
        Assert.Equal(2, (await Row()).Loan!.Next!.Number);
        Assert.Equal("loan_payment_once", await s.Refusal(w => EquipmentStore.AddPayment(w, key, first, payout, w.Today)));
        Assert.Equal(
            "loans_check",
            await s.Refusal(w => EquipmentStore.AddPayment(w, key, first with { Number = 2, Principal = Money.Usd(500) }, payout, w.Today))
        );
        Assert.Equal("LK001", await s.Refusal(w => w.Db.Run("update loan_payments set principal = 1")));
        Assert.Null(await s.Refusal(w => EquipmentStore.Sell(w, id, new LocalDate(2026, 11, 20), Money.Usd(450))));
        var sold = await Row();
        Assert.Equal((Money.Zero(), Money.Usd(600)), (sold.BookValue, sold.Depreciated));
    }
}
