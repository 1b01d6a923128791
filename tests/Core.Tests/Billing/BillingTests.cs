using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

public class InvoicingTests
{
    private static BillableLoad Load(
        long id = 1,
        long customer = 7,
        LoadState state = LoadState.Delivered,
        bool onInvoice = false,
        bool pod = true
    ) =>
        new(
            id,
            $"20{id:00}",
            customer,
            "Snowberry Creamery",
            state,
            onInvoice,
            pod ? [DocumentKind.Pod] : [DocumentKind.Bol],
            [
                new BillableCharge(10 + id, ChargeKind.LineHaul, null, Money.Usd(1100.50m)),
                new BillableCharge(20 + id, ChargeKind.FuelSurcharge, null, Money.Usd(198.09m)),
            ]
        );

    [Fact]
    public void A_delivered_load_with_its_pod_is_billed_on_terms()
    {
        var draft = Invoicing.Draft([Load()], 30, Some.Today).Value;
        Assert.Equal(Money.Usd(1298.59m), draft.Total);
        Assert.Equal(new NodaTime.LocalDate(2026, 12, 23), draft.DueOn);
        Assert.Equal(["Line haul", "Fuel surcharge"], draft.Lines.Select(l => l.Description));
    }

    [Fact]
    public void A_load_that_is_not_ready_says_why()
    {
        Assert.Equal("load.pod.missing", Invoicing.Draft([Load(pod: false)], 30, Some.Today).Problems[0].Code);
        Assert.Equal("load.not.delivered", Invoicing.Draft([Load(state: LoadState.Rolling)], 30, Some.Today).Problems[0].Code);
        var billed = Load(state: LoadState.Billed, onInvoice: true);
        Assert.Equal("load.billed", Invoicing.Draft([billed with { Charges = [] }], 30, Some.Today).Problems[0].Code);
        Assert.Equal("customers.differ", Invoicing.Draft([Load(), Load(2, 8)], 30, Some.Today).Problems[0].Code);
        Assert.Equal("loadIds", Invoicing.Draft([], 30, Some.Today).Problems[0].Field);
    }

    [Fact]
    public void Late_charges_of_a_billed_load_go_on_a_supplemental_invoice_together_with_other_loads()
    {
        var late = new BillableCharge(99, ChargeKind.Detention, "2 hours", Money.Usd(150));
        var draft = Invoicing
            .Draft([Load(state: LoadState.Closed, onInvoice: true) with { Charges = [late] }, Load(2)], 30, Some.Today)
            .Value;
        Assert.Equal([1L], draft.Supplements);
        Assert.Equal(Money.Usd(150m + 1298.59m), draft.Total);
        Assert.Equal("Detention, 2 hours", draft.Lines[0].Description);
    }
}

public class CashInTests
{
    private static readonly Gen<List<OpenInvoice>> Open = Gen.Int[1, 500_000]
        .List[0, 12]
        .Select(list => list.Select((c, i) => new OpenInvoice(i + 1, $"I-{i}", 7, Money.Usd(c / 100m))).ToList());

    [Fact]
    public void Applying_never_exceeds_the_payment_or_the_open_amounts_and_leaves_nothing_applicable() =>
        Gen.Select(Gen.Int[1, 2_000_000], Open)
            .Sample(
                (cents, open) =>
                {
                    var amount = Money.Usd(cents / 100m);
                    var spread = PaymentApplication.Spread(amount, open);
                    var checkedAgain = PaymentApplication.Apply(7, amount, spread.Applications, open.ToDictionary(o => o.InvoiceId));
                    var openTotal = Money.Sum(open.Select(o => o.Open));
                    return checkedAgain.Ok && spread.Applied == Money.Min(amount, openTotal) && spread.Unapplied + spread.Applied == amount;
                }
            );

    [Fact]
    public void The_oldest_is_paid_first()
    {
        var spread = PaymentApplication.Spread(Money.Usd(150), [new(1, "I-1", 7, Money.Usd(100)), new(2, "I-2", 7, Money.Usd(100))]);
        Assert.Equal([new Application(1, Money.Usd(100)), new Application(2, Money.Usd(50))], spread.Applications);
    }

    [Fact]
    public void A_write_off_says_what_kind_it_is_and_why()
    {
        var open = new Dictionary<long, OpenInvoice> { [1] = new(1, "I-1", 7, Money.Usd(100)) };
        List<string?> Wrong(ShortPayReason? kind, string? reason) =>
            PaymentApplication
                .Apply(7, Money.Usd(90), [new Application(1, Money.Usd(90), Money.Usd(10), reason, kind)], open)
                .Problems.Select(p => p.Field)
                .ToList();
        Assert.Equal(["applications[0].kind", "applications[0].reason"], Wrong(null, null));
        Assert.Equal(["applications[0].kind"], Wrong(null, "two cases short"));
        Assert.Equal(["applications[0].reason"], Wrong(ShortPayReason.Claim, " "));
        Assert.Empty(Wrong(ShortPayReason.Claim, "two cases short"));
    }

    [Theory]
    [InlineData(100, 1, 100.01, "over.open")]
    [InlineData(50, 1, 60, "over.payment")]
    [InlineData(100, 9, 10, "unknown")]
    [InlineData(100, 2, 10, "unknown")]
    public void What_cannot_be_applied_is_refused(decimal amount, long invoice, decimal part, string code)
    {
        var open = new Dictionary<long, OpenInvoice> { [1] = new(1, "I-1", 7, Money.Usd(100)), [2] = new(2, "I-2", 8, Money.Usd(100)) };
        Assert.Contains(PaymentApplication.Apply(7, Money.Usd(amount), [new Application(invoice, Money.Usd(part))], open).Problems, p =>
            p.Code == code
        );
    }
}

public class PaperIntakeTests
{
    [Fact]
    public void File_types_follow_the_bytes_and_never_the_name()
    {
        Assert.Equal("application/pdf", DocumentIntake.MediaType("%PDF-1.7"u8).Value);
        Assert.Equal("image/jpeg", DocumentIntake.MediaType([0xFF, 0xD8, 0xFF, 0xE0]).Value);
        Assert.Equal("image/png", DocumentIntake.MediaType([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]).Value);
        Assert.Equal("file.kind", DocumentIntake.MediaType("MZ not a picture"u8).Problems[0].Code);
        Assert.Equal("file.empty", DocumentIntake.MediaType([]).Problems[0].Code);
        Assert.Equal("file.large", DocumentIntake.MediaType(new byte[DocumentIntake.MaxBytes + 1]).Problems[0].Code);
    }
}
