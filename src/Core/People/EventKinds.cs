namespace SteadyLark.Core.People;

/// <summary>What a page shows that an event can change. Pages reload by topic.</summary>
public enum Topic
{
    Loads,
    Documents,
    Mail,
    Companies,
    Places,
    Fleet,
    Invoices,
    Payments,
    BillingRuns,
    Bills,
    Claims,

    /// <summary>Driver settlements, pay rates and advances.</summary>
    Pay,
    Ledger,

    /// <summary>Expenses on trips.</summary>
    Expenses,

    /// <summary>Messages between dispatch and drivers.</summary>
    Messages,
    Runs,

    /// <summary>Users, roles, sessions and API tokens.</summary>
    Users,

    /// <summary>Company settings, accounts, custom fields, offices and driver groups.</summary>
    Settings,
}

/// <summary>A kind of event.</summary>
/// <param name="Name">As stored and sent: <c>load.booked</c>.</param>
/// <param name="Subject">What it is about, unless the event says otherwise: <c>load</c>.</param>
/// <param name="Right">The right needed to see it.</param>
/// <param name="Topics">What it can change on pages.</param>
public sealed record EventKind(string Name, string Subject, Right Right, IReadOnlyList<Topic> Topics)
{
    /// <summary>Whether both drivers of a team hear of it; what one of them is paid concerns that one only.</summary>
    public bool ForTeam => Right == Right.LoadsSee;
}

/// <summary>The catalog of event kinds. An event is added with one of these, never with a name made up on the spot.</summary>
public static class EventKinds
{
    private static readonly Dictionary<string, EventKind> ByName = [];

    /// <summary>What changes with a customer's payments, write-offs and refunds.</summary>
    private static readonly Topic[] OfPayments = [Topic.Payments, Topic.Invoices, Topic.Loads, Topic.Ledger, Topic.Companies];

    private static readonly Topic[] OfClaims = [Topic.Claims, Topic.Loads];

    public static readonly EventKind LoadBooked = Add("load.booked", "load", Right.LoadsSee, Topic.Loads, Topic.Companies, Topic.Places);
    public static readonly EventKind LoadDrafted = Add("load.drafted", "load", Right.LoadsSee, Topic.Loads, Topic.Companies, Topic.Places);
    public static readonly EventKind LoadChanged = Add("load.changed", "load", Right.LoadsSee, Topic.Loads, Topic.Companies, Topic.Places);
    public static readonly EventKind LoadCancelled = Add(
        "load.cancelled",
        "load",
        Right.LoadsSee,
        Topic.Loads,
        Topic.Companies,
        Topic.Places
    );
    public static readonly EventKind LoadCovered = Add("load.covered", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadRateConfirmed = Add(
        "load.rate_confirmed",
        "load",
        Right.LoadsSee,
        Topic.Loads,
        Topic.Documents,
        Topic.Mail
    );
    public static readonly EventKind LoadUnassigned = Add("load.unassigned", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadHandedOver = Add("load.handed_over", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadDivided = Add("load.divided", "load", Right.LoadsSee, Topic.Loads, Topic.Companies, Topic.Places);
    public static readonly EventKind LoadCombined = Add(
        "load.combined",
        "load",
        Right.LoadsSee,
        Topic.Loads,
        Topic.Companies,
        Topic.Places
    );
    public static readonly EventKind LoadRestored = Add(
        "load.restored",
        "load",
        Right.LoadsSee,
        Topic.Loads,
        Topic.Companies,
        Topic.Places
    );
    public static readonly EventKind LoadSplit = Add("load.split", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadJoined = Add("load.joined", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TransferMoved = Add("transfer.moved", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TransferLeft = Add("transfer.left", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TransferTaken = Add("transfer.taken", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind SharesSet = Add("load.shares_set", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TransferUndone = Add("transfer.undone", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadHandoverUndone = Add("load.handover_undone", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadHoldOverridden = Add("load.hold_overridden", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadReturned = Add("load.returned", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadReturnResolved = Add("load.return_resolved", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadRouteSet = Add("load.route_set", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind CodCollected = Add("load.cod_collected", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadStopAdded = Add("load.stop_added", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadTrackLink = Add("load.track_link", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind LoadTrackRevoked = Add("load.track_revoked", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind StopArrived = Add("stop.arrived", "load", Right.LoadsSee, Topic.Loads, Topic.Places);
    public static readonly EventKind StopLeft = Add("stop.left", "load", Right.LoadsSee, Topic.Loads, Topic.Places);
    public static readonly EventKind StopDelivered = Add("stop.delivered", "load", Right.LoadsSee, Topic.Loads, Topic.Places);
    public static readonly EventKind StopUndone = Add("stop.undone", "load", Right.LoadsSee, Topic.Loads, Topic.Places);
    public static readonly EventKind ReportDelay = Add("report.delay", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ReportBreakdown = Add("report.breakdown", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ReportRefused = Add("report.refused", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ReportShort = Add("report.short", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ReportDamaged = Add("report.damaged", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ReportNote = Add("report.note", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ReportUndone = Add("report.undone", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TenderSent = Add("tender.sent", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TenderDeclined = Add("tender.declined", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TenderExpired = Add("tender.expired", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind CarrierDispatched = Add("carrier.dispatched", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind CarrierPayChanged = Add("carrier.pay_changed", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind RateConfirmationSigned = Add("tender.signed", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TenderAccepted = Add("tender.accepted", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripAccepted = Add("trip.accepted", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripOrdered = Add("trip.ordered", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripMessage = Add("trip.message", "load", Right.LoadsSee, Topic.Messages);
    public static readonly EventKind TripMessagesRead = Add("trip.messages_read", "trip", Right.LoadsSee, Topic.Messages);
    public static readonly EventKind TripNamed = Add("trip.named", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripClosed = Add("trip.closed", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripCrewChanged = Add("trip.crew_changed", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripStopAdded = Add("trip.stop_added", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripStopRemoved = Add("trip.stop_removed", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripStopReached = Add("trip.stop_reached", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripRescheduled = Add("trip.rescheduled", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripStopUndone = Add("trip.stop_undone", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripCostAdded = Add("trip.cost_added", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind TripCostRemoved = Add("trip.cost_removed", "load", Right.LoadsSee, Topic.Loads);
    public static readonly EventKind ExpenseReported = Add("expense.reported", "load", Right.MarginsSee, Topic.Loads, Topic.Expenses);
    public static readonly EventKind ExpenseApproved = Add(
        "expense.approved",
        "load",
        Right.MarginsSee,
        Topic.Loads,
        Topic.Expenses,
        Topic.Ledger
    );
    public static readonly EventKind ExpenseDeclined = Add("expense.declined", "load", Right.MarginsSee, Topic.Loads, Topic.Expenses);
    public static readonly EventKind ExpenseReopened = Add(
        "expense.reopened",
        "load",
        Right.MarginsSee,
        Topic.Loads,
        Topic.Expenses,
        Topic.Ledger
    );
    public static readonly EventKind ExpenseRemoved = Add(
        "expense.removed",
        "load",
        Right.MarginsSee,
        Topic.Loads,
        Topic.Expenses,
        Topic.Ledger
    );
    public static readonly EventKind DocumentAdded = Add("document.added", "load", Right.DocumentsSee, Topic.Documents, Topic.Loads);
    public static readonly EventKind DocumentCostAdded = Add("document.cost.added", "load", Right.MarginsSee, Topic.Documents, Topic.Loads);
    public static readonly EventKind DocumentReceived = Add("document.received", "load", Right.DocumentsSee, Topic.Documents, Topic.Loads);
    public static readonly EventKind DocumentCostReceived = Add(
        "document.cost.received",
        "load",
        Right.MarginsSee,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind DocumentRemoved = Add("document.removed", "load", Right.DocumentsSee, Topic.Documents, Topic.Loads);
    public static readonly EventKind DocumentCostRemoved = Add(
        "document.cost.removed",
        "load",
        Right.MarginsSee,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind DocumentRestored = Add("document.restored", "load", Right.DocumentsSee, Topic.Documents, Topic.Loads);
    public static readonly EventKind DocumentCostRestored = Add(
        "document.cost.restored",
        "load",
        Right.MarginsSee,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind DocumentRequested = Add(
        "document.requested",
        "load",
        Right.DocumentsSee,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind MailReceived = Add(
        "mail.received",
        "mail",
        Right.DocumentsSee,
        Topic.Mail,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind MailSent = Add("mail.sent", "mail", Right.DocumentsSee, Topic.Mail, Topic.Documents, Topic.Loads);
    public static readonly EventKind MailDone = Add("mail.done", "mail", Right.DocumentsSee, Topic.Mail, Topic.Documents, Topic.Loads);
    public static readonly EventKind MailQuarantined = Add(
        "mail.quarantined",
        "mail",
        Right.DocumentsSee,
        Topic.Mail,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind InvoiceIssued = Add(
        "invoice.issued",
        "invoice",
        Right.BillingSee,
        Topic.Invoices,
        Topic.Loads,
        Topic.Ledger,
        Topic.Companies
    );
    public static readonly EventKind InvoiceSentAgain = Add(
        "invoice.sent_again",
        "invoice",
        Right.BillingSee,
        Topic.Invoices,
        Topic.Loads,
        Topic.Ledger,
        Topic.Companies
    );
    public static readonly EventKind InvoiceVoid = Add(
        "invoice.void",
        "invoice",
        Right.BillingSee,
        Topic.Invoices,
        Topic.Loads,
        Topic.Ledger,
        Topic.Companies
    );
    public static readonly EventKind PaymentReceived = Add("payment.received", "payment", Right.BillingSee, OfPayments);
    public static readonly EventKind PaymentReversed = Add("payment.reversed", "payment", Right.BillingSee, OfPayments);
    public static readonly EventKind PaymentCreditUsed = Add("payment.credit_used", "payment", Right.BillingSee, OfPayments);
    public static readonly EventKind InvoiceWrittenOff = Add("invoice.written_off", "invoice", Right.BillingSee, OfPayments);
    public static readonly EventKind InvoiceWriteOffReversed = Add("invoice.write_off_reversed", "invoice", Right.BillingSee, OfPayments);
    public static readonly EventKind InvoiceCredited = Add("invoice.credited", "invoice", Right.BillingSee, OfPayments);
    public static readonly EventKind LoadLateCharges = Add(
        "load.late_charges",
        "load",
        Right.BillingSee,
        Topic.Loads,
        Topic.Invoices,
        Topic.Ledger
    );
    public static readonly EventKind ClaimOpened = Add("claim.opened", "claim", Right.LoadsSee, OfClaims);
    public static readonly EventKind ClaimChanged = Add("claim.changed", "claim", Right.BillingSee, OfClaims);
    public static readonly EventKind BillDebited = Add("bill.debited", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind PaymentRefunded = Add("payment.refunded", "payment", Right.BillingSee, OfPayments);
    public static readonly EventKind PaymentRefundReversed = Add("payment.refund_reversed", "payment", Right.BillingSee, OfPayments);
    public static readonly EventKind BillingRunStarted = Add(
        "billing_run.started",
        "billing_run",
        Right.BillingSee,
        Topic.BillingRuns,
        Topic.Invoices
    );
    public static readonly EventKind BillingRunPart = Add(
        "billing_run.part",
        "billing_run",
        Right.BillingSee,
        Topic.BillingRuns,
        Topic.Invoices
    );
    public static readonly EventKind BillEntered = Add("bill.entered", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind BillExpensed = Add("bill.expensed", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind BillApproved = Add("bill.approved", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind BillApprovalReversed = Add(
        "bill.approval_reversed",
        "bill",
        Right.PayingSee,
        Topic.Bills,
        Topic.Loads,
        Topic.Ledger
    );
    public static readonly EventKind BillPaid = Add("bill.paid", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind BillPaymentReversed = Add(
        "bill.payment_reversed",
        "bill",
        Right.PayingSee,
        Topic.Bills,
        Topic.Loads,
        Topic.Ledger
    );
    public static readonly EventKind BillVoid = Add("bill.void", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind BillAttached = Add("bill.attached", "bill", Right.PayingSee, Topic.Bills, Topic.Loads, Topic.Ledger);
    public static readonly EventKind SettlementApproved = Add("settlement.approved", "settlement", Right.WagesSee, Topic.Pay, Topic.Ledger);
    public static readonly EventKind SettlementApprovalReversed = Add(
        "settlement.approval_reversed",
        "settlement",
        Right.WagesSee,
        Topic.Pay,
        Topic.Ledger
    );
    public static readonly EventKind SettlementPaid = Add("settlement.paid", "settlement", Right.WagesSee, Topic.Pay, Topic.Ledger);
    public static readonly EventKind SettlementPaymentReversed = Add(
        "settlement.payment_reversed",
        "settlement",
        Right.WagesSee,
        Topic.Pay,
        Topic.Ledger
    );
    public static readonly EventKind SettlementAcknowledged = Add(
        "settlement.acknowledged",
        "settlement",
        Right.WagesSee,
        Topic.Pay,
        Topic.Ledger
    );
    public static readonly EventKind ExpenseConfirmed = Add("expense.confirmed", "bill", Right.PayingSee, Topic.Bills);
    public static readonly EventKind AdvanceConfirmed = Add("advance.confirmed", "driver", Right.WagesSee, Topic.Pay);
    public static readonly EventKind AdvanceIssued = Add("advance.issued", "driver", Right.WagesSee, Topic.Pay, Topic.Ledger);
    public static readonly EventKind AdvanceVoid = Add("advance.void", "driver", Right.WagesSee, Topic.Pay, Topic.Ledger);
    public static readonly EventKind PayRateSet = Add("pay.rate_set", "driver", Right.WagesSee, Topic.Pay, Topic.Loads);
    public static readonly EventKind PayItemAdded = Add("pay.item_added", "driver", Right.WagesSee, Topic.Pay);
    public static readonly EventKind PayItemRemoved = Add("pay.item_removed", "driver", Right.WagesSee, Topic.Pay);
    public static readonly EventKind PayDeductionSet = Add("pay.deduction_set", "driver", Right.WagesSee, Topic.Pay);
    public static readonly EventKind PayDeductionEnded = Add("pay.deduction_ended", "driver", Right.WagesSee, Topic.Pay);
    public static readonly EventKind EntryPosted = Add("entry.posted", "entry", Right.LedgerSee, Topic.Ledger);
    public static readonly EventKind OpeningEntered = Add(
        "opening.entered",
        "entry",
        Right.LedgerSee,
        Topic.Ledger,
        Topic.Invoices,
        Topic.Companies
    );
    public static readonly EventKind ExchangeRateSet = Add("exchange_rate.set", "exchange_rate", Right.LedgerSee, Topic.Ledger);
    public static readonly EventKind EntryReversed = Add("entry.reversed", "entry", Right.LedgerSee, Topic.Ledger);
    public static readonly EventKind AssetChanged = Add("asset.changed", "asset", Right.LedgerSee, Topic.Ledger);
    public static readonly EventKind PeriodClosed = Add("period.closed", "period", Right.LedgerSee, Topic.Ledger);
    public static readonly EventKind PeriodReopened = Add("period.reopened", "period", Right.LedgerSee, Topic.Ledger);
    public static readonly EventKind CompanyAdded = Add("company.added", "company", Right.CompaniesSee, Topic.Companies, Topic.Loads);
    public static readonly EventKind CompanyChanged = Add("company.changed", "company", Right.CompaniesSee, Topic.Companies, Topic.Loads);
    public static readonly EventKind RemitToProposed = Add(
        "company.remit_to_proposed",
        "company",
        Right.PayingSee,
        Topic.Companies,
        Topic.Bills
    );
    public static readonly EventKind RemitToConfirmed = Add(
        "company.remit_to_confirmed",
        "company",
        Right.PayingSee,
        Topic.Companies,
        Topic.Bills
    );
    public static readonly EventKind RemitToDeclined = Add(
        "company.remit_to_declined",
        "company",
        Right.PayingSee,
        Topic.Companies,
        Topic.Bills
    );
    public static readonly EventKind CompanyBillingChanged = Add(
        "company.billing_changed",
        "company",
        Right.BillingSee,
        Topic.Companies,
        Topic.Documents,
        Topic.Loads
    );
    public static readonly EventKind CompanyStatement = Add("company.statement", "company", Right.BillingSee, Topic.Companies);
    public static readonly EventKind PlaceAdded = Add("place.added", "place", Right.CompaniesSee, Topic.Places, Topic.Loads);
    public static readonly EventKind PlaceChanged = Add("place.changed", "place", Right.CompaniesSee, Topic.Places, Topic.Loads);
    public static readonly EventKind DriverAdded = Add("driver.added", "driver", Right.FleetSee, Topic.Fleet, Topic.Loads);
    public static readonly EventKind DriverChanged = Add("driver.changed", "driver", Right.FleetSee, Topic.Fleet, Topic.Loads);
    public static readonly EventKind TruckAdded = Add("truck.added", "truck", Right.FleetSee, Topic.Fleet);
    public static readonly EventKind TruckChanged = Add("truck.changed", "truck", Right.FleetSee, Topic.Fleet);
    public static readonly EventKind TrailerAdded = Add("trailer.added", "trailer", Right.FleetSee, Topic.Fleet);
    public static readonly EventKind TrailerChanged = Add("trailer.changed", "trailer", Right.FleetSee, Topic.Fleet);
    public static readonly EventKind TruckDeviceIssued = Add("truck.device_issued", "truck", Right.FleetSee, Topic.Fleet);
    public static readonly EventKind TruckDeviceRevoked = Add("truck.device_revoked", "truck", Right.FleetSee, Topic.Fleet);
    public static readonly EventKind RunsPlanned = Add("runs.planned", "run", Right.LoadsSee, Topic.Runs);
    public static readonly EventKind RunsChanged = Add("runs.changed", "run", Right.LoadsSee, Topic.Runs);
    public static readonly EventKind RunsMarked = Add("runs.marked", "run", Right.LoadsSee, Topic.Runs);
    public static readonly EventKind SetupAccountAdded = Add(
        "setup.account_added",
        "account",
        Right.LedgerSee,
        Topic.Settings,
        Topic.Ledger
    );
    public static readonly EventKind SetupAccountChanged = Add(
        "setup.account_changed",
        "account",
        Right.LedgerSee,
        Topic.Settings,
        Topic.Ledger
    );
    public static readonly EventKind SetupCompanyCreated = Add("setup.company_created", "business", Right.CompaniesSee, Topic.Settings);
    public static readonly EventKind SetupCompanyChanged = Add("setup.company_changed", "business", Right.CompaniesSee, Topic.Settings);
    public static readonly EventKind SetupPaymentChanged = Add("setup.payment_changed", "business", Right.SetupEdit, Topic.Settings);
    public static readonly EventKind SetupFieldAdded = Add(
        "setup.field_added",
        "custom_field",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Loads
    );
    public static readonly EventKind SetupFieldChanged = Add(
        "setup.field_changed",
        "custom_field",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Loads
    );
    public static readonly EventKind SetupFieldDeactivated = Add(
        "setup.field_deactivated",
        "custom_field",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Loads
    );
    public static readonly EventKind SetupOfficeAdded = Add(
        "setup.office_added",
        "office",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Fleet
    );
    public static readonly EventKind SetupOfficeChanged = Add(
        "setup.office_changed",
        "office",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Fleet
    );
    public static readonly EventKind SetupDriverGroupAdded = Add(
        "setup.driver_group_added",
        "driver_group",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Fleet
    );
    public static readonly EventKind SetupDriverGroupChanged = Add(
        "setup.driver_group_changed",
        "driver_group",
        Right.CompaniesSee,
        Topic.Settings,
        Topic.Fleet
    );
    public static readonly EventKind UserInvited = Add("user.invited", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserJoined = Add("user.joined", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserChanged = Add("user.changed", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserDeactivated = Add("user.deactivated", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserReactivated = Add("user.reactivated", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserSignedOut = Add("user.signed_out", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserPasswordChanged = Add("user.password_changed", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserPasswordReset = Add("user.password_reset", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserResetRequested = Add("user.reset_requested", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserResetSent = Add("user.reset_sent", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserSecondFactorOn = Add("user.second_factor_on", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind UserSecondFactorRemoved = Add("user.second_factor_removed", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind SessionBegan = Add("session.began", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind SessionEnded = Add("session.ended", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind SessionFailed = Add("session.failed", "user", Right.AuditSee, Topic.Users);
    public static readonly EventKind RoleAdded = Add("role.added", "role", Right.AuditSee, Topic.Users);
    public static readonly EventKind RoleChanged = Add("role.changed", "role", Right.AuditSee, Topic.Users);
    public static readonly EventKind RoleRemoved = Add("role.removed", "role", Right.AuditSee, Topic.Users);
    public static readonly EventKind TokenAdded = Add("token.added", "token", Right.AuditSee, Topic.Users);
    public static readonly EventKind TokenRevoked = Add("token.revoked", "token", Right.AuditSee, Topic.Users);
    public static readonly EventKind ExportMade = Add("export.made", "export", Right.AuditSee, Topic.Users);

    /// <summary>All kinds, in the order of the catalog.</summary>
    public static IReadOnlyCollection<EventKind> All => ByName.Values;

    /// <summary>
    /// The kind of a stored name. A name that is not in the catalog, from an older version, is seen only with the right to the audit log,
    /// and may have changed anything.
    /// </summary>
    public static EventKind Of(string name) =>
        ByName.GetValueOrDefault(name) ?? new EventKind(name, "", Right.AuditSee, Enum.GetValues<Topic>());

    /// <summary>The kind of a stop event: <c>stop.arrived</c>.</summary>
    public static EventKind Of(Trips.StopEvent what) =>
        what switch
        {
            Trips.StopEvent.Arrived => StopArrived,
            Trips.StopEvent.Left => StopLeft,
            _ => StopDelivered,
        };

    /// <summary>The kind of a report: <c>report.delay</c>.</summary>
    public static EventKind Of(Trips.ReportKind what) =>
        what switch
        {
            Trips.ReportKind.Delay => ReportDelay,
            Trips.ReportKind.Breakdown => ReportBreakdown,
            Trips.ReportKind.Refused => ReportRefused,
            Trips.ReportKind.Short => ReportShort,
            Trips.ReportKind.Damaged => ReportDamaged,
            _ => ReportNote,
        };

    private static EventKind Add(string name, string subject, Right right, params Topic[] topics) =>
        ByName[name] = new EventKind(name, subject, right, topics);
}
