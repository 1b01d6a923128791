using System.Text.RegularExpressions;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;

namespace SteadyLark.Core.Billing;

/// <summary>Where customers pay us, printed on invoices; ACH files are drawn on the same account.</summary>
/// <param name="RemitAddress">Where checks go; our own address when null.</param>
/// <param name="TaxId">Employer identification number, nine digits (26 CFR 301.6109-1).</param>
public sealed partial record PaymentDetails(string? RemitAddress, string? TaxId, string? BankName, string? Routing, string? Account)
{
    /// <summary>Our GST/HST registration as <c>123456789RT0001</c>, printed on invoices in Canadian dollars: what a supplier's invoice shows so that
    /// the customer may claim the tax (Input Tax Credit Information (GST/HST) Regulations, SOR/91-45, s. 3).</summary>
    public string? GstNumber { get; init; }

    public static readonly PaymentDetails None = new(null, null, null, null, null);

    /// <summary>The tax ID as written: <c>12-3456789</c>.</summary>
    public string? TaxIdFormatted => TaxId is { Length: 9 } id ? $"{id[..2]}-{id[2..]}" : TaxId;

    /// <summary>Checks payment details as entered.</summary>
    /// <returns>Them without spaces and hyphens in the tax ID; valid only while <paramref name="validation"/> has no problems.</returns>
    public PaymentDetails Check(Validation validation)
    {
        var address = validation.Text(RemitAddress, "remitAddress", "The remit-to address", 300);
        var tax = validation.Text(TaxId, "taxId", "The tax ID", 12)?.Replace("-", "", StringComparison.Ordinal);
        if (tax is not null && (tax.Length != 9 || !tax.All(char.IsAsciiDigit)))
        {
            validation.Add("tax.id", "An employer identification number has nine digits, such as 12-3456789.", "taxId");
        }

        var gst = validation
            .Text(GstNumber, "gstNumber", "The GST/HST number", 20)
            ?.Replace(" ", "", StringComparison.Ordinal)
            .ToUpperInvariant();
        if (gst is not null && !GstForm().IsMatch(gst))
        {
            validation.Add("gst.number", "A GST/HST number is nine digits, RT and four digits, such as 123456789 RT0001.", "gstNumber");
        }

        var bank = BankAccount.Check(Routing, Account, BankAccountType.Checking, validation);
        var name = validation.Text(BankName, "bankName", "The bank's name", 60, required: bank is not null);
        if (name is not null && bank is null && validation.Ok)
        {
            validation.Add("missing", "Enter the bank's routing number and the account number, or leave all three empty.", "routing");
        }

        return new PaymentDetails(address, tax, name, bank?.Routing, bank?.Account) { GstNumber = gst };
    }

    [GeneratedRegex("^[0-9]{9}RT[0-9]{4}$")]
    private static partial Regex GstForm();
}
