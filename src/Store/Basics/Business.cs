using NodaTime;
using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>The business that works here.</summary>
/// <param name="Zone">In which its days begin and end, a tz database name.</param>
/// <param name="TwoPeople">Whether what one approved another pays.</param>
/// <param name="DemoFor">The day the demo was made for; null for a real business.</param>
public sealed record Business(string Name, string Zone, string Address, string Phone, string Email, string? Usdot, LocalDate? DemoFor, bool TwoPeople = true)
{
    public static Task<Business?> Read(NpgsqlConnection db) =>
        db.Row("select * from business", r => new Business(
            r.Text("name"), r.Text("zone"), r.Text("address"), r.Text("phone"), r.Text("email"), r.TextOrNull("usdot"), r.DateOrNull("demo_for"), r.Bool("two_people")));

    public static Task Write(NpgsqlConnection db, Business b) =>
        db.Run(
            "insert into business (name, zone, address, phone, email, usdot, demo_for, two_people) values (@name, @zone, @address, @phone, @email, @usdot, @demo, @two)",
            ("name", b.Name), ("zone", b.Zone), ("address", b.Address), ("phone", b.Phone), ("email", b.Email), ("usdot", b.Usdot), ("demo", b.DemoFor), ("two", b.TwoPeople));
}
