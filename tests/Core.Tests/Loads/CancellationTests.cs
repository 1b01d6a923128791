using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Loads;

public class CancellationTests
{
    private static Outcome<Cancellation> Cancel(
        LoadState state,
        decimal? customer = null,
        decimal? carrier = null,
        bool accepted = true,
        bool loaded = false,
        string? why = "plant closed"
    ) =>
        Cancellation.Decide(
            new LoadWork(state, "6151", "Two Forks Trucking"),
            loaded,
            accepted,
            new CancelOrder(
                why,
                customer is { } c ? Money.Usd(c) : null,
                carrier is { } p ? Money.Usd(p) : null,
                new ChargeAuthorization("R. Dahl", Some.Today, null)
            ),
            Some.Today
        );

    [Fact]
    public void A_truck_that_was_ordered_and_not_used_is_charged_and_paid()
    {
        var canceled = Cancel(LoadState.Covered, 250, 200).Value;
        Assert.Equal((ChargeKind.TruckOrderedNotUsed, Money.Usd(250)), (canceled.Customer!.Kind, canceled.Customer.Amount));
        Assert.Equal("R. Dahl", canceled.Customer.Authorization!.By);
        Assert.Equal((ChargeKind.TruckOrderedNotUsed, Money.Usd(200)), (canceled.Carrier!.Kind, canceled.Carrier.Amount));
        Assert.Equal("canceled: plant closed; $250.00 to the customer, $200.00 to the carrier for the truck not used", canceled.Summary());
        Assert.Equal("canceled: plant closed", Cancel(LoadState.Booked).Value.Summary());
    }

    [Fact]
    public void Only_a_carrier_that_accepted_is_paid_and_a_draft_charges_nobody()
    {
        Assert.Equal("carrierCharge", Cancel(LoadState.Tendered, 250, 200, accepted: false).Problems.Single().Field);
        Assert.Equal("customerCharge", Cancel(LoadState.Draft, 250, accepted: false).Problems.Single().Field);
        Assert.Equal(["why", "customerCharge"], Cancel(LoadState.Booked, -1, why: " ").Problems.Select(p => p.Field));
    }

    [Theory]
    [InlineData(LoadState.Covered, true)]
    [InlineData(LoadState.Rolling, true)]
    [InlineData(LoadState.Delivered, true)]
    [InlineData(LoadState.Billed, true)]
    [InlineData(LoadState.Cancelled, false)]
    public void Freight_on_board_is_not_canceled(LoadState state, bool loaded) =>
        Assert.Equal("load.state", Cancel(state, loaded: loaded).Problems.Single().Code);

    [Fact]
    public void A_canceled_load_is_billed_for_its_truck_only_and_without_a_pod()
    {
        BillableLoad Load(ChargeKind kind) =>
            new(
                1,
                "6151",
                7,
                "Snowberry Creamery",
                LoadState.Cancelled,
                false,
                [],
                [new(1, kind, null, Money.Usd(250))],
                null,
                [DocumentKind.Pod]
            );
        Assert.Empty(Invoicing.Missing(Load(ChargeKind.TruckOrderedNotUsed)));
        Assert.Equal("load.canceled", Invoicing.Missing(Load(ChargeKind.LineHaul)).Single().Code);
    }
}
