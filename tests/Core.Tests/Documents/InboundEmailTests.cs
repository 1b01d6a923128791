using SteadyLark.Core.Documents;
using Xunit;

namespace SteadyLark.Core.Tests.Documents;

public class InboundEmailTests
{
    private static readonly EmailLoad Open = new(1, "6145", false, ["dispatch@twoforks.example", "pay@snowberry.example"]);

    [Theory]
    [InlineData("POD for load 6145", "6145")]
    [InlineData("Load #6145 delivered", "6145")]
    [InlineData("re: LOAD NO. MT-7/2, thanks", "MT-7/2")]
    [InlineData("load number: 6145.", "6145")]
    [InlineData("load 6145 and load 6146", "6145,6146")]
    [InlineData("Invoice 6145", "")]
    [InlineData("6145", "")]
    [InlineData("Rates for 2026", "")]
    [InlineData("we unloaded 6145 cases", "")]
    [InlineData("load board access", "")]
    [InlineData("", "")]
    public void A_number_is_a_load_number_only_after_a_word_that_says_so(string subject, string numbers) =>
        Assert.Equal(numbers, string.Join(',', InboundEmail.LoadNumbers(subject)));

    [Fact]
    public void Attachments_are_filed_only_from_an_address_known_for_that_load()
    {
        Assert.Equal(1, InboundEmail.FiledTo(" Dispatch@TwoForks.example", [Open])!.LoadId);
        Assert.Null(InboundEmail.FiledTo("dispatch@twoforks.example.evil", [Open]));
        Assert.Null(InboundEmail.FiledTo("stranger@elsewhere.example", [Open]));
        Assert.Null(InboundEmail.FiledTo("", [Open with { Addresses = [] }]));
        Assert.Equal(2, InboundEmail.FiledTo("pay@snowberry.example", [Open with { IsClosed = true }, Open with { LoadId = 2 }])!.LoadId);
    }

    [Fact]
    public void Nothing_is_filed_to_a_load_that_is_billed_or_closed() =>
        Assert.Null(InboundEmail.FiledTo("dispatch@twoforks.example", [Open with { IsClosed = true }]));
}
