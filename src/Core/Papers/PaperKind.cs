namespace SteadyLark.Core.Papers;

/// <summary>What a document is.</summary>
public enum PaperKind
{
    Pod,
    Bol,
    RateConfirmation,
    CarrierBill,
    ScaleTicket,
    LumperReceipt,
    Photo,
    Other,
}

public static class PaperKinds
{
    public static string Said(this PaperKind kind) => kind switch
    {
        PaperKind.Pod => "POD",
        PaperKind.Bol => "BOL",
        PaperKind.RateConfirmation => "rate confirmation",
        PaperKind.CarrierBill => "carrier's bill",
        PaperKind.ScaleTicket => "scale ticket",
        PaperKind.LumperReceipt => "lumper receipt",
        _ => kind.ToString().ToLowerInvariant(),
    };
}
