namespace SteadyLark.Core.Documents;

/// <summary>What a document is.</summary>
public enum DocumentKind
{
    Pod,
    Bol,
    RateConfirmation,
    CarrierBill,
    ScaleTicket,
    LumperReceipt,

    /// <summary>Of an expense on a trip.</summary>
    Receipt,
    Photo,
    Other,
}

public static class DocumentKinds
{
    public static string Format(this DocumentKind kind) =>
        kind switch
        {
            DocumentKind.Pod => "POD",
            DocumentKind.Bol => "BOL",
            DocumentKind.RateConfirmation => "rate confirmation",
            DocumentKind.CarrierBill => "carrier bill",
            DocumentKind.ScaleTicket => "scale ticket",
            DocumentKind.LumperReceipt => "lumper receipt",
            _ => kind.ToString().ToLowerInvariant(),
        };
}
