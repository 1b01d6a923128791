namespace SteadyLark.Core.People;

/// <summary>What has to be read again after an event, for everything that is kept up to date by event instead of being computed for each
/// page.</summary>
public static class Freshness
{
    private static readonly HashSet<EventKind> Unbilled =
    [
        EventKinds.LoadBooked,
        EventKinds.LoadDrafted,
        EventKinds.LoadCovered,
        EventKinds.LoadUnassigned,
        EventKinds.LoadRateConfirmed,
        EventKinds.LoadTrackLink,
        EventKinds.LoadTrackRevoked,
        EventKinds.StopArrived,
        EventKinds.ReportDelay,
        EventKinds.ReportBreakdown,
        EventKinds.ReportNote,
        EventKinds.TenderSent,
        EventKinds.TenderDeclined,
        EventKinds.TenderExpired,
        EventKinds.TenderAccepted,
        EventKinds.RateConfirmationSigned,
        EventKinds.CarrierDispatched,
        EventKinds.TripAccepted,
        EventKinds.TripCostAdded,
        EventKinds.TripCostRemoved,
        EventKinds.TripMessage,
        EventKinds.TripMessagesRead,
        EventKinds.ExpenseReported,
        EventKinds.ExpenseApproved,
        EventKinds.ExpenseDeclined,
        EventKinds.ExpenseReopened,
        EventKinds.ExpenseRemoved,
        EventKinds.PlaceAdded,
        EventKinds.PlaceChanged,
        EventKinds.CompanyAdded,
    ];

    private static readonly HashSet<EventKind> OutsideTheWeek =
    [
        EventKinds.LoadDrafted,
        EventKinds.LoadRateConfirmed,
        EventKinds.LoadTrackLink,
        EventKinds.LoadTrackRevoked,
        EventKinds.ReportDelay,
        EventKinds.ReportBreakdown,
        EventKinds.ReportNote,
        EventKinds.TenderAccepted,
        EventKinds.RateConfirmationSigned,
        EventKinds.CarrierDispatched,
        EventKinds.TripAccepted,
        EventKinds.TripMessage,
        EventKinds.TripMessagesRead,
        EventKinds.TripCostAdded,
        EventKinds.TripCostRemoved,
        EventKinds.PlaceAdded,
        EventKinds.PlaceChanged,
        EventKinds.CompanyAdded,
    ];

    /// <summary>Whether an event that names no load can change any load: names, places, the fleet, settings.</summary>
    public static bool ChangesAllLoads(EventKind kind) =>
        Touches(kind, Topic.Fleet, Topic.Settings) || kind == EventKinds.CompanyChanged || kind == EventKinds.PlaceChanged;

    /// <summary>Whether an event can change what is ready to bill, waits for documents, or is past due.</summary>
    public static bool ChangesBilling(EventKind kind) =>
        !Unbilled.Contains(kind) && !IsOnly(kind, Topic.Users, Topic.Runs, Topic.Pay, Topic.Bills, Topic.Ledger) && !IsMail(kind);

    /// <summary>Whether an event can change which bills and settlements wait: deliveries do, too.</summary>
    public static bool ChangesPaying(EventKind kind) =>
        Touches(kind, Topic.Bills, Topic.Pay, Topic.Expenses, Topic.Fleet, Topic.Settings)
        || (IsStop(kind) && kind != EventKinds.StopArrived)
        || kind == EventKinds.LoadCancelled
        || kind == EventKinds.LoadHandedOver
        || kind == EventKinds.LoadHandoverUndone
        || kind == EventKinds.TransferLeft
        || kind == EventKinds.TransferUndone
        || kind == EventKinds.CompanyChanged;

    /// <summary>Whether an event can change the week's loads, revenue and margin.</summary>
    public static bool ChangesWeek(EventKind kind) =>
        !OutsideTheWeek.Contains(kind)
        && !IsStop(kind)
        && !IsMail(kind)
        && !IsOnly(kind, Topic.Users, Topic.Runs, Topic.Ledger, Topic.Pay)
        && !Touches(kind, Topic.Bills, Topic.Invoices, Topic.Payments, Topic.Documents);

    /// <summary>Whether an event can change how many deliveries were on time.</summary>
    public static bool ChangesDeliveries(EventKind kind) =>
        IsStop(kind) || kind == EventKinds.LoadChanged || kind == EventKinds.LoadStopAdded;

    /// <summary>Whether an event can change how long customers take to pay.</summary>
    public static bool ChangesDaysToPay(EventKind kind) => Touches(kind, Topic.Payments, Topic.Invoices);

    private static bool Touches(EventKind kind, params Topic[] topics) => kind.Topics.Any(topics.Contains);

    /// <summary>Whether it can change nothing on pages but these.</summary>
    private static bool IsOnly(EventKind kind, params Topic[] topics) => kind.Topics.All(topics.Contains);

    private static bool IsStop(EventKind kind) =>
        kind == EventKinds.StopArrived || kind == EventKinds.StopLeft || kind == EventKinds.StopDelivered || kind == EventKinds.StopUndone;

    private static bool IsMail(EventKind kind) => kind == EventKinds.MailSent || kind == EventKinds.MailDone;
}
