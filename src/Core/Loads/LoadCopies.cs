namespace SteadyLark.Core.Loads;

/// <summary>Copies of loads.</summary>
public static class LoadCopies
{
    /// <summary>References that are of one load: a copy has its own.</summary>
    private static readonly HashSet<ReferenceKind?> OfOneLoad = [ReferenceKind.Seal, ReferenceKind.Appointment, ReferenceKind.CustomsEntry];

    /// <summary>An order to be booked again so many days later, at the same times: without its number, the customer's reference, seal,
    /// appointment and customs entry, VINs, and who authorized its charges.</summary>
    public static LoadOrder Copy(LoadOrder order, int days) =>
        order with
        {
            Number = null,
            Reference = null,
            Draft = false,
            Stops = order.Stops.Select(s => s with { From = s.From?.PlusDays(days), Until = s.Until?.PlusDays(days) }).ToList(),
            Freight = order.Freight.Select(f => f.Vehicle is { } v ? f with { Vehicle = v with { Vin = null } } : f).ToList(),
            Charges = order.Charges.Select(c => c with { Authorization = null }).ToList(),
            References = order.References.Where(r => !OfOneLoad.Contains(r.Kind)).ToList(),
        };
}
