using SteadyLark.Core.Documents;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.Documents;

public class DocumentRightsTests
{
    private static Access With(params Right[] rights) => new(rights.ToHashSet());

    [Theory]
    [InlineData(DocumentKind.Pod, true)]
    [InlineData(DocumentKind.Bol, true)]
    [InlineData(DocumentKind.LumperReceipt, true)]
    [InlineData(DocumentKind.RateConfirmation, false)]
    [InlineData(DocumentKind.CarrierBill, false)]
    public void Documents_that_show_a_carriers_pay_are_for_those_who_may_see_it(DocumentKind kind, bool seen)
    {
        Assert.Equal(seen, DocumentRights.MaySee(With(Right.DocumentsSee), kind));
        Assert.True(DocumentRights.MaySee(With(Right.DocumentsSee, Right.MarginsSee), kind));
        Assert.False(DocumentRights.MaySee(With(Right.MarginsSee), kind));
        EventKind[] events =
        [
            DocumentRights.Added(kind),
            DocumentRights.Received(kind),
            DocumentRights.Removed(kind),
            DocumentRights.Restored(kind),
        ];
        Assert.All(events, e => Assert.Equal(seen ? Right.DocumentsSee : Right.MarginsSee, e.Right));
        Assert.Equal(4, events.Distinct().Count());
    }

    [Theory]
    [InlineData(MailPurpose.Invoice, Right.BillingSee)]
    [InlineData(MailPurpose.Statement, Right.BillingSee)]
    [InlineData(MailPurpose.RateConfirmation, Right.MarginsSee)]
    [InlineData(MailPurpose.DocumentRequest, Right.DocumentsSee)]
    [InlineData(MailPurpose.Account, Right.UsersEdit)]
    [InlineData(MailPurpose.Other, Right.DocumentsSee)]
    public void Each_email_is_for_those_who_may_see_what_it_is_about(MailPurpose purpose, Right right)
    {
        Assert.True(DocumentRights.MaySee(With(right), purpose));
        Assert.False(DocumentRights.MaySee(new Access(Enum.GetValues<Right>().Where(r => r != right).ToHashSet()), purpose));
    }

    [Fact]
    public void Search_finds_what_may_be_seen()
    {
        Assert.Equal(["load", "invoice"], FoundKinds.Of(With(Right.LoadsSee, Right.BillingSee)));
        Assert.Equal(["load", "company", "place", "driver", "invoice"], FoundKinds.Of(new Access(Rights.Of(Role.Owner))));
        Assert.Empty(FoundKinds.Of(new Access(Rights.Of(Role.Driver))));
    }

    [Fact]
    public void Company_edits_follow_the_users_rights()
    {
        Assert.Empty(CompanyChanges.Refuses(_ => false, credit: false, authority: false));
        Assert.Equal(
            ["creditLimit", "carrier.usdot"],
            CompanyChanges.Refuses(_ => false, credit: true, authority: true).Select(p => p.Field)
        );
        Assert.Equal(
            ["carrier.usdot"],
            CompanyChanges.Refuses(r => r == Right.CreditEdit, credit: true, authority: true).Select(p => p.Field)
        );
    }
}
