using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Covering;

/// <summary>Who comes for the freight: the carrier's driver and equipment, recorded before pickup. Shippers ask for it at the gate, and a
/// truck of another carrier is how a load is stolen or re-brokered.</summary>
/// <param name="Driver">The driver's name.</param>
/// <param name="Phone">The driver's phone number.</param>
/// <param name="Truck">Truck number or plate.</param>
/// <param name="Trailer">Trailer number; null for a truck without one.</param>
public sealed record CarrierDispatch(string? Driver, string? Phone, string? Truck, string? Trailer)
{
    /// <summary>The trimmed details; valid only while <paramref name="validation"/> has no problems.</summary>
    /// <param name="prefix">Before the names of the fields, such as <c>dispatch.</c></param>
    public CarrierDispatch Check(Validation validation, string prefix = "") =>
        new(
            validation.Text(Driver, prefix + "driver", "The driver’s name", 80, required: true),
            validation.Text(Phone, prefix + "phone", "The driver’s phone number", 40, required: true),
            validation.Text(Truck, prefix + "truck", "The truck number", 20, required: true),
            validation.Text(Trailer, prefix + "trailer", "The trailer number", 20)
        );

    /// <summary>In one line.</summary>
    /// <example>Ray Ortiz, 406-555-0147, truck 118, trailer 5302</example>
    public string Summary => $"{Driver}, {Phone}, truck {Truck}{(Trailer is null ? "" : $", trailer {Trailer}")}";
}
