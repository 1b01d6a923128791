using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Pricing;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Covering;
using Xunit;

namespace SteadyLark.Store.Tests.Covering;

/// <summary>What the database refuses about tenders, carrier pay and a carrier's driver, whatever the code does.</summary>
public class TenderPromises(Stocked s) : IClassFixture<Stocked>
{
    private static readonly FlatCharge Haul = new(ChargeKind.LineHaul, null, Money.Usd(500));

    private async Task<long> Leg(CommandContext w, string number)
    {
        var load = await s.Load(w, number, 800);
        return await w.Db.One<long>("insert into legs (load_id, seq, miles) values (@l, 1, 100) returning id", ("l", load));
    }

    private async Task<long> Tendered(CommandContext w, string number, string? acceptedBy = null)
    {
        var leg = await Leg(w, number);
        await CoverStore.AssignCarrier(w.Db, leg, s.Carrier, [Haul]);
        await CoverStore.AddTender(w, leg, s.Carrier, Haul.Amount, $"token {number}", w.Now + NodaTime.Duration.FromHours(4), acceptedBy);
        return leg;
    }

    [Fact]
    public async Task Carrier_pay_equals_its_lines()
    {
        long leg = 0;
        Assert.Null(await s.Refusal(async w => leg = await Tendered(w, "T1")));
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run("update legs set agreed = 501 where id = @id", ("id", leg))));
        Assert.Equal("LK002", await s.Refusal(w => w.Db.Run("delete from carrier_charges where leg_id = @id", ("id", leg))));
        Assert.Equal(
            "carrier_charge_sign",
            await s.Refusal(w =>
                w.Db.Run("insert into carrier_charges (leg_id, seq, kind, amount) values (@id, 2, 'discount', 5)", ("id", leg))
            )
        );
        Assert.Null(
            await s.Refusal(w => CoverStore.ChangeCharges(w.Db, leg, [Haul, new FlatCharge(ChargeKind.Discount, "late", Money.Usd(-40))]))
        );
        Assert.Null(await s.Refusal(w => CoverStore.Undo(w, leg, TenderEnd.Declined, "Jo", "no truck")));
    }

    [Fact]
    public async Task A_leg_has_one_open_tender_and_an_accepted_one_neither_expires_nor_is_declined()
    {
        long leg = 0;
        Assert.Null(await s.Refusal(async w => leg = await Tendered(w, "T2", "Jo Ferro")));
        Assert.Equal(
            "tender_standing_once",
            await s.Refusal(w => CoverStore.AddTender(w, leg, s.Carrier, Haul.Amount, "another", null, null))
        );
        foreach (var end in new[] { TenderEnd.Expired, TenderEnd.Declined })
        {
            Assert.Equal("tender_ended_unaccepted", await s.Refusal(w => CoverStore.Undo(w, leg, end)));
        }

        Assert.Null(await s.Refusal(w => CoverStore.Revise(w, leg, "revised")));
        Assert.Null(await s.Refusal(w => CoverStore.Undo(w, leg, TenderEnd.Withdrawn)));
    }

    [Fact]
    public async Task Only_a_carriers_leg_has_a_carriers_driver_with_phone_and_truck()
    {
        long leg = 0;
        var ray = new CarrierDispatch("Ray Ostrander", "509-555-0142", "118", null);
        Assert.Null(await s.Refusal(async w => leg = await Leg(w, "T3")));
        Assert.Equal("carrier_driver_of_carrier", await s.Refusal(w => CoverStore.Dispatch(w.Db, leg, ray)));
        Assert.Null(await s.Refusal(async w => leg = await Tendered(w, "T4")));
        Assert.Equal("carrier_driver_complete", await s.Refusal(w => CoverStore.Dispatch(w.Db, leg, ray with { Truck = null })));
        Assert.Null(await s.Refusal(w => CoverStore.Dispatch(w.Db, leg, ray)));
    }
}
