using NodaTime;
using SteadyLark.Core.Documents;
using Xunit;

namespace SteadyLark.Core.Tests.Documents;

/// <summary>What an unsorted document may be, and when missing documents are asked for.</summary>
public class PapersTests
{
    private static readonly TrayLoad[] Loads =
    [
        new(1, "6145", ["6145", "PO 100758", "PU8295"]),
        new(2, "6146", ["6146", "100779", "SEAL-44117"]),
        new(3, "6147", ["6147", "100779", "12"]),
    ];

    [Theory]
    [InlineData("scan_6145.pdf", "", 1L, null)]
    [InlineData("scan.pdf", "Pickup number PU8295. PROOF OF DELIVERY", 1L, DocumentKind.Pod)]
    [InlineData("IMG_0001.jpg", "seal seal-44117 intact, straight bill of lading", 2L, DocumentKind.Bol)]
    [InlineData("lumper.pdf", "Unloading receipt 6147", 3L, DocumentKind.LumperReceipt)]
    [InlineData("a.pdf", "CAT Scale, weighmaster certificate 6146", 2L, DocumentKind.ScaleTicket)]
    [InlineData("b.pdf", "100779", null, null)]
    [InlineData("c.pdf", "12 pallets, remit to Box 9", null, DocumentKind.CarrierBill)]
    [InlineData("d.pdf", "Our load 6146 on your number PU8295", 2L, null)]
    public void A_document_belongs_to_the_load_whose_number_is_on_it(string name, string text, long? load, DocumentKind? kind)
    {
        var suggestion = Tray.Suggest(name, text, Loads);
        Assert.Equal((load, kind), (suggestion.LoadId, suggestion.Kind));
        Assert.True(load is null || suggestion.Why!.StartsWith("it shows ", StringComparison.Ordinal));
    }

    [Fact]
    public void An_ambiguous_number_is_reported_and_not_guessed() =>
        Assert.Equal("100779 is on both 6146 and 6147", Tray.Suggest("x.pdf", "no. 100779", Loads).Why);

    [Fact]
    public void Numbers_are_words_with_a_digit_without_punctuation() =>
        Assert.Equal(["100758", "A-12", "MT/59801"], Tray.Numbers("PO: 100758. ref (a-12), 7 of 9, mt/59801/ thanks").Order());

    [Theory]
    [InlineData(24, null, 0, 23, false)]
    [InlineData(24, null, 0, 24, true)]
    [InlineData(0, null, 0, 1000, false)]
    [InlineData(24, 30, 1, 77, false)]
    [InlineData(24, 30, 1, 78, true)]
    [InlineData(24, 126, 3, 1000, false)]
    public void Missing_documents_are_requested_after_some_hours_then_every_two_days_up_to_three_times(
        int after,
        int? askedAt,
        int asked,
        int now,
        bool due
    )
    {
        var delivered = Instant.FromUtc(2026, 11, 20, 12, 0);
        Assert.Equal(
            due,
            DocumentRequestPolicy.IsDue(
                delivered,
                askedAt is { } h ? delivered + Duration.FromHours(h) : null,
                asked,
                after,
                delivered + Duration.FromHours(now)
            )
        );
    }
}
