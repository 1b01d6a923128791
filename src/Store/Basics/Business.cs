using NodaTime;
using Npgsql;
using SteadyLark.Core.Billing;

namespace SteadyLark.Store.Basics;

/// <summary>The company that runs this installation.</summary>
/// <param name="Zone">Its time zone, a tz database name.</param>
/// <param name="TwoPeople">Whether approval and payment need two people.</param>
/// <param name="McNumber">Docket number of its operating authority (49 CFR 365.101), digits.</param>
/// <param name="Logo">A PNG or JPEG for its documents.</param>
/// <param name="DemoFor">The day the demo was made for; null for a real business.</param>
public sealed record Business(
    string Name,
    string Zone,
    string Address,
    string Phone,
    string Email,
    string? Usdot,
    LocalDate? DemoFor,
    bool TwoPeople = true,
    string? McNumber = null,
    byte[]? Logo = null
)
{
    /// <summary>Where customers pay us.</summary>
    public PaymentDetails Payment { get; init; } = PaymentDetails.None;

    /// <summary>USDOT and MC numbers, for documents.</summary>
    public string Numbers =>
        string.Join(", ", new[] { $"USDOT {Usdot ?? "not on file"}", McNumber is null ? null : $"MC {McNumber}" }.OfType<string>());

    private const string Columns =
        "name, zone, address, phone, email, usdot, demo_for, two_person_approval, mc_number, remit_address, tax_id, bank_name, bank_routing, bank_account, gst_number";

    public static Task<Business?> Read(NpgsqlConnection db) => db.Row($"select {Columns}, null::bytea as logo from business", Of);

    /// <summary>With its logo, for documents.</summary>
    public static Task<Business?> ReadForPrint(NpgsqlConnection db) => db.Row($"select {Columns}, logo from business", Of);

    public static Task Write(NpgsqlConnection db, Business b) =>
        db.Run(
            """
            insert into business (name, zone, address, phone, email, usdot, demo_for, two_person_approval, mc_number, logo) values (@name,
            @zone, @address, @phone, @email, @usdot, @demo, @two, @mc, @logo)
            """,
            ("name", b.Name),
            ("zone", b.Zone),
            ("address", b.Address),
            ("phone", b.Phone),
            ("email", b.Email),
            ("usdot", b.Usdot),
            ("demo", b.DemoFor),
            ("two", b.TwoPeople),
            ("mc", b.McNumber),
            ("logo", b.Logo is null ? DBNull.Value : b.Logo)
        );

    /// <summary>Changes who the company is; its settings stay.</summary>
    public static Task Change(NpgsqlConnection db, Business b) =>
        db.Run(
            """
            update business set name = @name, zone = @zone, address = @address, phone = @phone, email = @email, usdot = @usdot, mc_number =
            @mc, logo = @logo
            """,
            ("name", b.Name),
            ("zone", b.Zone),
            ("address", b.Address),
            ("phone", b.Phone),
            ("email", b.Email),
            ("usdot", b.Usdot),
            ("mc", b.McNumber),
            ("logo", b.Logo is null ? DBNull.Value : b.Logo)
        );

    public static Task WritePayment(NpgsqlConnection db, PaymentDetails p) =>
        db.Run(
            """
            update business set remit_address = @address, tax_id = @tax, bank_name = @bank, bank_routing = @routing, bank_account = @account,
                gst_number = @gst
            """,
            ("address", p.RemitAddress),
            ("tax", p.TaxId),
            ("bank", p.BankName),
            ("routing", p.Routing),
            ("account", p.Account),
            ("gst", p.GstNumber)
        );

    private static Business Of(NpgsqlDataReader r) =>
        new(
            r.Text("name"),
            r.Text("zone"),
            r.Text("address"),
            r.Text("phone"),
            r.Text("email"),
            r.TextOrNull("usdot"),
            r.DateOrNull("demo_for"),
            r.Bool("two_person_approval"),
            r.TextOrNull("mc_number"),
            r.Null("logo") ? null : r.GetFieldValue<byte[]>(r.GetOrdinal("logo"))
        )
        {
            Payment = new PaymentDetails(
                r.TextOrNull("remit_address"),
                r.TextOrNull("tax_id"),
                r.TextOrNull("bank_name"),
                r.TextOrNull("bank_routing"),
                r.TextOrNull("bank_account")
            )
            {
                GstNumber = r.TextOrNull("gst_number"),
            },
        };
}
