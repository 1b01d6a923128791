using Npgsql;

namespace SteadyLark.Store.Basics;

/// <summary>Records that commands name by key.</summary>
public enum RecordKind
{
    Load,
    Company,
    Driver,
    Truck,
    Trip,
}

/// <summary>Whether a record that a command names exists.</summary>
public static class Records
{
    public static Task<bool> Exists(NpgsqlConnection db, RecordKind kind, long id) =>
        db.Has(
            kind switch
            {
                RecordKind.Load => "loads",
                RecordKind.Company => "companies",
                RecordKind.Driver => "drivers",
                RecordKind.Trip => "trips",
                _ => "trucks",
            },
            id
        );
}
