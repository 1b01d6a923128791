using CsCheck;
using NodaTime;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class BillStateTests
{
    private static readonly LocalDate Day = new(2026, 11, 23);

    private static BillState Bill(BillStatus status, bool expense = false) =>
        new(
            "A-77",
            status is BillStatus.Approved or BillStatus.PartlyPaid or BillStatus.Paid || expense,
            status == BillStatus.Paid || expense ? Day : null,
            status == BillStatus.Void,
            expense,
            status == BillStatus.PartlyPaid
        );

    [Theory]
    [InlineData(BillStatus.Entered, "approve void")]
    [InlineData(BillStatus.Approved, "unapprove pay")]
    [InlineData(BillStatus.PartlyPaid, "pay")]
    [InlineData(BillStatus.Paid, "")]
    [InlineData(BillStatus.Void, "")]
    public void A_bill_takes_its_steps_in_turn(BillStatus status, string allowed) =>
        Assert.Equal(allowed, string.Join(' ', Allowed(Bill(status))));

    [Fact]
    public void An_expense_can_only_be_voided() => Assert.Equal(["void"], Allowed(Bill(BillStatus.Paid, expense: true)));

    [Fact]
    public void Refusals_say_what_to_do_first()
    {
        Assert.Equal("Bill A-77 is paid: reverse the payment first.", Bill(BillStatus.Paid).UnapproveRefusal!.Message);
        Assert.Equal("Bill A-77 was already paid on Nov 23.", Bill(BillStatus.Paid).PayRefusal!.Message);
        Assert.Equal("Bill A-77 is approved: reverse the approval first.", Bill(BillStatus.Approved).VoidRefusal!.Message);
        Assert.Equal("Bill A-77 is partly paid: reverse the payment first.", Bill(BillStatus.PartlyPaid).UnapproveRefusal!.Message);
        Assert.Equal("Bill A-77 is partly paid: reverse the payment first.", Bill(BillStatus.PartlyPaid).VoidRefusal!.Message);
        Assert.All(
            new[] { Bill(BillStatus.Void), Bill(BillStatus.Paid) }.SelectMany(b =>
                new[] { b.ApproveRefusal, b.UnapproveRefusal, b.PayRefusal, b.VoidRefusal }
            ),
            p => Assert.Equal("bill.state", p!.Code)
        );
    }

    /// <summary>Whatever is tried in whatever order: paid means approved, a void bill stays void, and from any other state one gets back to
    /// entered.</summary>
    [Fact]
    public void No_sequence_of_steps_leaves_the_path() =>
        Gen.Int[0, 4]
            .List[0, 30]
            .Sample(steps =>
            {
                var bill = Bill(BillStatus.Entered);
                foreach (var step in steps)
                {
                    bill = Step(bill, step);
                    Assert.True(bill.PaidOn is null || bill.IsApproved);
                    Assert.True(!bill.IsVoid || !bill.IsApproved);
                }

                var back = Step(Step(bill, 3), 1);
                Assert.Equal(bill.IsVoid ? BillStatus.Void : BillStatus.Entered, back.Status);
            });

    private static BillState Step(BillState b, int step) =>
        step switch
        {
            0 when b.ApproveRefusal is null => b with { IsApproved = true },
            1 when b.UnapproveRefusal is null => b with { IsApproved = false },
            2 when b.PayRefusal is null => b with { PaidOn = Day },
            3 when b.PaidOn is not null => b with { PaidOn = null },
            4 when b.VoidRefusal is null => b with { IsVoid = true },
            _ => b,
        };

    private static IEnumerable<string> Allowed(BillState b) =>
        new[] { ("approve", b.ApproveRefusal), ("unapprove", b.UnapproveRefusal), ("pay", b.PayRefusal), ("void", b.VoidRefusal) }
            .Where(x => x.Item2 is null)
            .Select(x => x.Item1);
}
