using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Covering;
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

public class OfferTests
{
    private static readonly Offer Sent = new(Some.Now, null, null, null);

    [Fact]
    public void A_tender_is_open_for_fourteen_days_until_accepted_or_withdrawn()
    {
        Assert.Null(Sent.Closed(Some.Now));
        Assert.Null(Sent.Closed(Some.Now + Offer.ValidFor));
        Assert.Equal("tender.expired", Sent.Closed(Some.Now + Offer.ValidFor + Duration.FromSeconds(1))?.Code);
        Assert.Equal("tender.accepted", (Sent with { AcceptedAt = Some.Now, AcceptedBy = "Jo Ferro" }).Closed(Some.Now)?.Code);
        Assert.Contains(
            "Jo Ferro",
            (Sent with { AcceptedAt = Some.Now, AcceptedBy = "Jo Ferro" }).Closed(Some.Now)!.Message,
            StringComparison.Ordinal
        );
        Assert.Equal("tender.withdrawn", (Sent with { WithdrawnAt = Some.Now, AcceptedAt = Some.Now }).Closed(Some.Now)?.Code);
    }
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
            Money.Usd((decimal)limit),
            Money.Usd((decimal)owed),
            Money.Usd((decimal)unbilled),
            Money.Usd((decimal)load)
        );
        Assert.Equal(held, reason is not null);
        if (held)
        {
            Assert.Contains(Money.Usd((decimal)(owed + unbilled + load)).Formatted, reason, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void Without_a_limit_nothing_is_held() =>
        Gen.Select(Gen.Int[0, 90_000_000], Gen.Int[0, 90_000_000])
            .Sample((owed, load) => Credit.Hold("x", null, Money.Usd(owed / 100m), Money.Zero(), Money.Usd(load / 100m)) is null);

    /// <summary>Once held, more debt never releases a load.</summary>
    [Fact]
    public void More_debt_never_helps() =>
        Gen.Select(Gen.Int[0, 1_000_000], Gen.Int[0, 1_000_000], Gen.Int[0, 1_000_000], Gen.Int[0, 1_000_000])
            .Sample(
                (limit, owed, load, more) =>
                    Credit.Hold("x", Money.Usd(limit), Money.Usd(owed), Money.Zero(), Money.Usd(load)) is null
                    || Credit.Hold("x", Money.Usd(limit), Money.Usd(owed + more), Money.Zero(), Money.Usd(load)) is not null
            );
}
