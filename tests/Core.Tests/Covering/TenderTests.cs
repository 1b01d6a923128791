using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Covering;

public class TenderTests
{
    private static readonly Tender Sent = new(Some.Now, Some.Now + Duration.FromHours(4));
    private static readonly Tender ByPhone = Sent with { ExpiresAt = null, AcceptedAt = Some.Now, AcceptedBy = "Jo Ferro" };
    private static readonly Instant End = Some.Now + Duration.FromHours(4);

    [Fact]
    public void It_is_open_until_its_expiry_and_not_at_it()
    {
        Assert.Null(Sent.LinkRefusal(End - Duration.FromSeconds(1)));
        Assert.False(Sent.Expires(End - Duration.FromSeconds(1)));
        Assert.Equal("tender.expired", Sent.LinkRefusal(End)!.Code);
        Assert.True(Sent.Expires(End));
        // One without an expiry is from before there were any.
        Assert.Equal("tender.expired", (Sent with { ExpiresAt = null }).LinkRefusal(Some.Now + Tender.LinkLifetime)!.Code);
    }

    [Fact]
    public void What_was_accepted_in_time_never_expires()
    {
        Assert.False((Sent with { AcceptedAt = Some.Now }).Expires(End + Duration.FromDays(1)));
        Assert.Null((Sent with { AcceptedAt = Some.Now }).LinkRefusal(End + Duration.FromDays(1)));
        Assert.Equal("tender.expired", ByPhone.LinkRefusal(Some.Now + Tender.LinkLifetime)!.Code);
    }

    [Fact]
    public void Accepted_by_phone_it_is_signed_on_the_link_and_can_no_longer_be_declined()
    {
        Assert.Null(ByPhone.LinkRefusal(Some.Now));
        Assert.Contains("Jo Ferro", ByPhone.DeclineRefusal(Some.Now)!.Message, StringComparison.Ordinal);
        Assert.Equal("tender.accepted", (ByPhone with { SignedAt = Some.Now }).LinkRefusal(Some.Now)!.Code);
        Assert.Null(ByPhone.DispatchRefusal);
        Assert.Equal("tender.open", Sent.DispatchRefusal!.Code);
    }

    [Theory]
    [InlineData(TenderEnd.Withdrawn, "tender.withdrawn")]
    [InlineData(TenderEnd.Declined, "tender.declined")]
    [InlineData(TenderEnd.Expired, "tender.expired")]
    [InlineData(TenderEnd.Replaced, "tender.replaced")]
    public void An_ended_tender_says_how_it_ended(TenderEnd end, string code)
    {
        var ended = ByPhone with { Ended = end };
        Assert.Equal(code, ended.LinkRefusal(Some.Now)!.Code);
        Assert.Equal("tender.ended", ended.DispatchRefusal!.Code);
        Assert.False((Sent with { Ended = end }).Expires(End));
    }

    [Fact]
    public void The_time_to_answer_ends_when_the_pickup_closes_and_is_never_under_a_quarter_hour() =>
        Gen.Select(Gen.Int[1, 168], Gen.Int[-48, 300])
            .Sample(
                (hours, closes) =>
                {
                    var end = Tender.DefaultExpiry(Some.Now, hours, Some.In(closes));
                    Assert.True(end >= Some.Now + Tender.Shortest && end <= Some.Now + Duration.FromHours(hours));
                    Assert.True(end <= Some.In(closes) || end == Some.Now + Tender.Shortest);
                    var validation = new Validation();
                    Tender.CheckExpiry(validation, end, Some.Now, "expiresAt");
                    Assert.True(validation.Ok);
                }
            );

    [Fact]
    public void A_time_to_answer_that_is_over_or_weeks_away_is_refused()
    {
        foreach (var end in new[] { Some.Now, Some.Now + Duration.FromMinutes(14), Some.Now + Duration.FromDays(8) })
        {
            var validation = new Validation();
            Tender.CheckExpiry(validation, end, Some.Now, "expiresAt");
            Assert.Equal("expiresAt", validation.Problems.Single().Field);
        }
    }

    [Fact]
    public void Who_comes_needs_a_name_a_phone_and_a_truck_and_no_trailer()
    {
        var validation = new Validation();
        _ = new CarrierDispatch(" ", null, "", null).Check(validation, "dispatch.");
        Assert.Equal(["dispatch.driver", "dispatch.phone", "dispatch.truck"], validation.Problems.Select(p => p.Field));
        validation = new Validation();
        var box = new CarrierDispatch(" Ray Ostrander ", "509-555-0142", "118", " ").Check(validation);
        Assert.True(validation.Ok);
        Assert.Equal("Ray Ostrander, 509-555-0142, truck 118", box.Summary);
    }
}

public class CarrierPayTests
{
    private static IReadOnlyList<FlatCharge> Check(Validation validation, params FlatChargeOrder[] orders) =>
        CarrierPay.Check(orders, Some.Today, validation);

    [Fact]
    public void It_is_the_sum_of_its_lines_to_the_cent_and_above_zero() =>
        Gen.Select(Gen.Int[1, 900_000], Gen.Enum<ChargeKind>())
            .Array[1, 12]
            .Sample(lines =>
            {
                var validation = new Validation();
                var charges = Check(validation, [.. lines.Select(l => new FlatChargeOrder(l.Item2, "x", Money.Usd(l.Item1 / 100m)))]);
                var sum = lines.Sum(l => l.Item2 == ChargeKind.Discount ? -l.Item1 : l.Item1);
                Assert.Equal(sum > 0, validation.Ok);
                Assert.Equal(sum / 100m, CarrierPay.Sum(charges).Amount);
            });

    [Fact]
    public void Lines_are_checked_by_name()
    {
        var validation = new Validation();
        Check(
            validation,
            new(ChargeKind.LineHaul, null, Money.Usd(700)),
            new(ChargeKind.Other, null, Money.Usd(-1)),
            new(null, null, null, new ChargeAuthorization(null, Some.Today, null))
        );
        Assert.Equal(
            ["charges[1].amount", "charges[1].description", "charges[2].kind", "charges[2].amount", "charges[2].authorization.by"],
            validation.Problems.Select(p => p.Field)
        );
        validation = new Validation();
        Check(validation);
        Assert.Equal("charges", validation.Problems.Single().Field);
    }

    [Fact]
    public void It_changes_until_the_bill_is_entered()
    {
        foreach (var state in Enum.GetValues<LoadState>())
        {
            var open = state is LoadState.Covered or LoadState.Rolling or LoadState.Delivered or LoadState.Billed or LoadState.Closed;
            Assert.Equal(open, CarrierPay.ChangeRefusal(state, "6151", "Two Forks", null) is null);
            Assert.Equal("bill.entered", CarrierPay.ChangeRefusal(state, "6151", "Two Forks", "B-1")!.Code);
            Assert.Equal("load.state", CarrierPay.ChangeRefusal(state, "6151", null, null)!.Code);
        }
    }

    [Fact]
    public void A_change_names_what_was_added_and_removed()
    {
        FlatCharge haul = new(ChargeKind.LineHaul, null, Money.Usd(700));
        Assert.Equal(
            "from $700.00 to $760.00: detention $60.00 added",
            CarrierPay.Describe([haul], [haul, new(ChargeKind.Detention, "2 h", Money.Usd(60))])
        );
        Assert.Equal(
            "from $700.00 to $650.00: line haul $650.00 added; line haul $700.00 removed",
            CarrierPay.Describe([haul], [haul with { Amount = Money.Usd(650) }])
        );
    }
}
