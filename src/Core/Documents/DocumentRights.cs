using SteadyLark.Core.People;

namespace SteadyLark.Core.Documents;

/// <summary>The purpose of an email we send.</summary>
public enum MailPurpose
{
    Other,
    RateConfirmation,
    Invoice,
    Statement,
    DocumentRequest,
    Claim,
    RemittanceAdvice,

    /// <summary>Invitations, password resets, changes to an account.</summary>
    Account,
}

/// <summary>Who may open which documents and emails.</summary>
public static class DocumentRights
{
    /// <summary>Whether a user may open documents of a kind.</summary>
    public static bool MaySee(Access access, DocumentKind kind) =>
        ShowsCosts(kind)
            ? access.Has(Right.DocumentsSee) && (access.Has(Right.MarginsSee) || access.Has(Right.PayingSee))
            : access.Has(Right.DocumentsSee) || access.Has(Right.TripsOwn);

    /// <summary>The event kind for a change to a document, which depends on whether it shows what we pay.</summary>
    public static EventKind Added(DocumentKind kind) => ShowsCosts(kind) ? EventKinds.DocumentCostAdded : EventKinds.DocumentAdded;

    /// <inheritdoc cref="Added"/>
    public static EventKind Received(DocumentKind kind) => ShowsCosts(kind) ? EventKinds.DocumentCostReceived : EventKinds.DocumentReceived;

    /// <inheritdoc cref="Added"/>
    public static EventKind Removed(DocumentKind kind) => ShowsCosts(kind) ? EventKinds.DocumentCostRemoved : EventKinds.DocumentRemoved;

    /// <inheritdoc cref="Added"/>
    public static EventKind Restored(DocumentKind kind) => ShowsCosts(kind) ? EventKinds.DocumentCostRestored : EventKinds.DocumentRestored;

    public static bool MaySee(Access access, MailPurpose purpose) =>
        access.Has(
            purpose switch
            {
                MailPurpose.RateConfirmation => Right.MarginsSee,
                MailPurpose.Invoice or MailPurpose.Statement or MailPurpose.Claim => Right.BillingSee,
                MailPurpose.RemittanceAdvice => Right.PayingSee,
                MailPurpose.Account => Right.UsersEdit,
                _ => Right.DocumentsSee,
            }
        );

    private static bool ShowsCosts(DocumentKind kind) =>
        kind is DocumentKind.RateConfirmation or DocumentKind.CarrierBill or DocumentKind.Receipt;
}
