using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

public class BillingSettingsTests
{
    private static IReadOnlyList<Problem> Check(BillingSettings settings) =>
        settings.Check(new HashSet<long> { 7 }, a => a.Contains('@', StringComparison.Ordinal));

    [Fact]
    public void The_default_is_valid() => Assert.Empty(Check(BillingSettings.Default));

    public static TheoryData<BillingSettings, string> Wrong =>
        new()
        {
            { BillingSettings.Default with { Columns = ["reference", "reference"] }, "columns" },
            {
                BillingSettings.Default with
                {
                    Columns = ["origin", "destination", "freight", "pieces", "pallets", "weight", "miles"],
                },
                "columns"
            },
            { BillingSettings.Default with { Columns = ["shoe_size"] }, "columns" },
            { BillingSettings.Default with { Columns = ["custom:8"] }, "columns" },
            { BillingSettings.Default with { Documents = [DocumentKind.Pod, DocumentKind.RateConfirmation] }, "documents" },
            { BillingSettings.Default with { Documents = [DocumentKind.Pod, DocumentKind.Pod] }, "documents" },
            { BillingSettings.Default with { RequiredDocuments = [DocumentKind.CarrierBill] }, "requiredDocuments" },
            { BillingSettings.Default with { Recipients = "ap@snowberry.example, nobody" }, "recipients" },
            { BillingSettings.Default with { Subject = "Invoice {number}" }, "subject" },
            { BillingSettings.Default with { Message = "Pay {totl}" }, "message" },
        };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void Errors_name_their_field(BillingSettings settings, string field)
    {
        Assert.Equal(field, Check(settings).Single().Field);
        // What we agreed with a carrier never goes to a customer.
        Assert.DoesNotContain(DocumentKind.RateConfirmation, BillingSettings.MayGo);
        Assert.DoesNotContain(DocumentKind.CarrierBill, BillingSettings.MayGo);
    }

    [Fact]
    public void A_custom_field_may_be_a_column() =>
        Assert.Empty(Check(BillingSettings.Default with { Columns = ["custom:7", "reference"] }));

    [Fact]
    public void Invoice_lines_add_up_to_the_total_in_any_layout() =>
        Gen.Select(Gen.Int[1, 400_000].List[1, 5].List[1, 6], Gen.Bool)
            .Sample(
                (cents, byLoad) =>
                {
                    var loads = cents
                        .Select(
                            (c, i) =>
                                new InvoiceTableLoad(
                                    i + 1,
                                    $"60{i:00}",
                                    new Dictionary<string, string> { ["reference"] = $"PO {i}" },
                                    c.Select((x, k) => ($"charge {k}", Money.Usd(x / 100m))).ToList()
                                )
                        )
                        .ToList();
                    var table = InvoiceTable.Build(
                        BillingSettings.Default with
                        {
                            ByLoad = byLoad,
                            Columns = ["reference", "miles"],
                        },
                        loads,
                        new Dictionary<string, string> { ["reference"] = "Your reference" }
                    );
                    return Money.Sum(table.Rows.Select(r => r.Amount)).Amount == cents.Sum(c => c.Sum()) / 100m
                        && table.Titles.SequenceEqual(["Load", "Your reference", "miles", "For"])
                        && table.Rows.All(r => r.Cells.Count == table.Titles.Count)
                        && table.Rows.Count == (byLoad ? cents.Count : cents.Sum(c => c.Count))
                        && loads.All(l => table.Rows.Count(r => r.Cells[0] == l.Number) == 1);
                }
            );
}

public class MailTemplateTests
{
    [Fact]
    public void Known_names_in_braces_are_filled_and_others_stay()
    {
        var values = new Dictionary<string, string>
        {
            ["invoice"] = "I-5192",
            ["total"] = "$1,963.38",
            ["customer"] = "{invoice}",
        };
        Assert.Equal("I-5192 for $1,963.38, {due} {}", MailTemplate.Fill("{Invoice} for {TOTAL}, {due} {}", values));
        // What is filled in is not filled again.
        Assert.Equal("{invoice}", MailTemplate.Fill("{customer}", values));
        Assert.Equal(
            ["{number} is not a placeholder; use {invoice}, {total}, {due}, {loads}, {references}, {customer}, {business}, {phone}."],
            MailTemplate.Unknown("{number} {invoice} {number}", "subject").Select(p => p.Message)
        );
        Assert.Empty(MailTemplate.Unknown(null, "subject"));
    }

    [Fact]
    public void Addresses_are_separated_by_commas_semicolons_and_lines() =>
        Assert.Equal(
            ["a@x.example", "b@x.example", "c@x.example"],
            MailTemplate.Addresses("a@x.example; b@x.example,\n c@x.example, A@x.example")
        );
}

public class CreditTests
{
    [Theory]
    [InlineData(10_000, 4_000, 5_000, 1_000, false)]
    [InlineData(10_000, 4_000, 5_000, 1_000.01, true)]
    [InlineData(0, 0, 0, 0.01, true)]
    [InlineData(0, 0, 0, 0, false)]
    public void A_load_is_held_when_the_customer_would_owe_more_than_the_limit(
        double limit,
        double owed,
        double unbilled,
        double load,
        bool held
    )
    {
        var reason = Credit.Hold(
            "Snowberry Creamery",
            new CreditTerms(Money.Usd((decimal)limit)),
            new CreditExposure(Money.Usd((decimal)owed), Money.Usd((decimal)unbilled)),
            Money.Usd((decimal)load)
        );
        Assert.Equal(held, reason is not null);
        if (held)
        {
            Assert.Contains(Money.Usd((decimal)(owed + unbilled + load)).Formatted, reason, StringComparison.Ordinal);
        }
    }

    private static string? Hold(decimal? limit, decimal owed, decimal load) =>
        Credit.Hold(
            "x",
            new CreditTerms(limit is { } l ? Money.Usd(l) : null),
            new CreditExposure(Money.Usd(owed), Money.Zero()),
            Money.Usd(load)
        );

    [Theory]
    [InlineData(null, 5000, 4000, "the company's credit limit is $5,000.00")]
    [InlineData(9000, 5000, 4000, null)]
    [InlineData(3000, 5000, 4000, "the credit limit is $3,000.00")]
    [InlineData(null, null, 4000, null)]
    public void A_customer_without_a_limit_has_the_companys(int? own, int? company, int owed, string? reason)
    {
        var terms = new CreditTerms(own is { } o ? Money.Usd(o) : null, company is { } c ? Money.Usd(c) : null);
        var hold = Credit.Hold("x", terms, new CreditExposure(Money.Usd(owed), Money.Zero()), Money.Usd(1500));
        Assert.Equal(reason is null, hold is null);
        Assert.Contains(reason ?? "", hold ?? "", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(30, 30, false)]
    [InlineData(30, 31, true)]
    [InlineData(null, 400, false)]
    public void An_invoice_past_due_for_too_long_holds_new_loads(int? after, int days, bool held) =>
        Assert.Equal(
            held,
            Credit.Hold("x", new CreditTerms(null, null, after), new CreditExposure(Money.Usd(10), Money.Zero(), days), Money.Usd(1500))
                is not null
        );

    [Fact]
    public void A_credit_hold_never_keeps_a_delivered_load_from_being_billed() =>
        Assert.Equal([HoldKind.Document, HoldKind.Dispute, HoldKind.Billing], Credit.BillingHolds);

    [Fact]
    public void Without_a_limit_nothing_is_held() =>
        Gen.Select(Gen.Int[0, 90_000_000], Gen.Int[0, 90_000_000]).Sample((owed, load) => Hold(null, owed / 100m, load / 100m) is null);

    /// <summary>Once held, more debt never releases a load.</summary>
    [Fact]
    public void More_debt_never_helps() =>
        Gen.Select(Gen.Int[0, 1_000_000], Gen.Int[0, 1_000_000], Gen.Int[0, 1_000_000], Gen.Int[0, 1_000_000])
            .Sample((limit, owed, load, more) => Hold(limit, owed, load) is null || Hold(limit, owed + more, load) is not null);
}
