using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Claims;
using SteadyLark.Core.Documents;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Server.Billing;
using SteadyLark.Server.Documents;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Billing;
using SteadyLark.Store.Claims;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Claims;

/// <param name="LegId">The carrier's leg on which it happened, when several carriers moved the load; the last when omitted.</param>
public sealed record OpenClaimRequest(ClaimKind? Kind, string? Description, long? LegId = null);

/// <param name="FiledOn">When the claim in writing reached us; today when omitted.</param>
public sealed record FileClaimRequest(LocalDate? FiledOn, Money? Amount);

/// <param name="Amount">For a settled claim.</param>
public sealed record DecideClaimRequest(ClaimOutcome? Outcome, Money? Amount, string? Why);

/// <param name="Amount">The customer's claim when omitted.</param>
public sealed record CarrierClaimRequest(LocalDate? FiledOn, Money? Amount);

public sealed record ReleaseClaimRequest(string? Why);

/// <summary>What the carrier paid for a claim, in money.</summary>
public sealed record RecoveryRequest(Money? Amount, LocalDate? PaidOn, string? Method, string? Reference);

/// <summary>A claim as shown.</summary>
/// <param name="Next">What has to be done next, and by when.</param>
/// <param name="Bills">The carrier's bills for the leg.</param>
public sealed record ClaimView(
    ClaimRow Claim,
    ClaimDeadline? Next,
    IReadOnlyList<RecoveryRow> Recoveries,
    IReadOnlyList<BillRow> Bills,
    IReadOnlyList<EventRow> Events
);

/// <summary>Cargo claims: from the report that freight is short or damaged to the customer's credit and the carrier's debit.</summary>
public sealed class ClaimCommands(Mailer mailer)
{
    public static async Task<ClaimView?> View(NpgsqlConnection db, long id, LocalDate today) =>
        await ClaimStore.Get(db, id) is { } claim
            ? new ClaimView(
                claim,
                claim.Facts().Next(today),
                await ClaimStore.Recoveries(db, id),
                claim.LegId is { } leg ? await BillStore.OfLeg(db, leg) : [],
                await Events.Of(db, "claim", id)
            )
            : null;

    /// <summary>Opens a claim on a locked load.</summary>
    public static async Task<Outcome<ClaimRow>> Open(CommandContext w, long loadId, OpenClaimRequest request)
    {
        var validation = new Validation();
        var description = validation.Text(request.Description, "description", "The description", 1000, required: true);
        if (request.Kind is null)
        {
            validation.Add("missing", "Choose what happened: shortage, damage, refused, loss or delay.", "kind");
        }

        if (request.LegId is { } wanted && (await LoadReads.Legs(w.Db, loadId)).All(l => l.Id != wanted || l.CarrierId is null))
        {
            validation.Add("unknown", "Choose one of the carriers that moved this load.", "legId");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var claim = await Add(w, loadId, request.Kind!.Value, description!, null, request.LegId);
        await LoadWrites.Settle(w, loadId);
        return claim;
    }

    /// <summary>Adds a claim, and holds the carrier's pay; the customer's invoice only where its terms say so.</summary>
    /// <param name="legId">The carrier's leg; the last of the load when null.</param>
    internal static async Task<ClaimRow> Add(
        CommandContext w,
        long loadId,
        ClaimKind kind,
        string description,
        long? reportId,
        long? legId = null
    )
    {
        var leg = legId ?? await ClaimStore.CarrierLeg(w.Db, loadId);
        var id = await ClaimStore.Add(w, loadId, leg, kind, description, reportId);
        var claim = (await ClaimStore.Get(w.Db, id))!;
        if (claim.CustomerId is { } customer && (await BillingSettingsStore.Of(w.Db, customer)).Settings.HoldForClaims)
        {
            await HoldStore.Place(w, loadId, HoldKind.Dispute, claim.Facts().HoldReason(description));
        }

        w.Record(
            EventKinds.ClaimOpened,
            id,
            $"Claim {claim.Number} opened on {claim.LoadNumber}, {kind.Format().ToLowerInvariant()}: {description}",
            loadId: loadId
        );
        return claim;
    }

    /// <summary>Withdraws the claim that a report opened, when the report is undone.</summary>
    /// <returns>Why it cannot: the claim was filed since.</returns>
    internal static async Task<Problem?> WithdrawWith(CommandContext w, long loadId, long reportId)
    {
        if ((await ClaimStore.OfLoad(w.Db, loadId)).FirstOrDefault(c => c.ReportId == reportId && c.Outcome is null) is not { } claim)
        {
            return null;
        }

        if (claim.Facts().UndoRefusal is { } refused)
        {
            return refused;
        }

        await ClaimStore.Decide(w, claim.Id, ClaimOutcome.Withdrawn, Money.Zero(), "the report was undone");
        w.Record(EventKinds.ClaimChanged, claim.Id, $"Claim {claim.Number} withdrawn: the report was undone", loadId: loadId);
        return null;
    }

    /// <summary>Records the customer's claim in writing.</summary>
    public static Task<Outcome<ClaimRow>> File(CommandContext w, long id, FileClaimRequest request) =>
        Step(
            w,
            id,
            c => c.File(request.FiledOn, request.Amount, w.Today),
            async (claim, filed) =>
            {
                await ClaimStore.File(w, id, filed.On, filed.Amount);
                return $"filed by {claim.Customer} for {filed.Amount.Formatted}";
            }
        );

    /// <summary>Acknowledges a claim in writing, to the recipient of the load's invoices.</summary>
    public Task<Outcome<ClaimRow>> Acknowledge(CommandContext w, long id) =>
        Step(
            w,
            id,
            c => Unless(c.AcknowledgeRefusal),
            async (claim, _) =>
            {
                await ClaimStore.Acknowledge(w, id);
                var customer = (await CompanyStore.Get(w.Db, claim.CustomerId!.Value))!;
                await Mail(
                    w,
                    claim,
                    customer,
                    $"Your claim {claim.Number} on load {claim.LoadNumber}",
                    $"""
                    We received your claim of {claim.FiledOn:MMM d, uuuu} for {claim.Claimed!.Value.Formatted} on load {claim.LoadNumber}, and are investigating it under our claim number {claim.Number}. Please quote that number and send us the invoice value of the freight, photos and the signed delivery receipt, unless you have already.
                    """
                );
                return customer.Email is null ? "acknowledged; there is no email address to send it to" : "acknowledged";
            }
        );

    /// <summary>Decides a claim; what is allowed is credited on the load's invoice, at once or when it is issued.</summary>
    public Task<Outcome<ClaimRow>> Decide(CommandContext w, long id, DecideClaimRequest request) =>
        Step(
            w,
            id,
            c => c.Decide(request.Outcome, request.Amount, request.Why),
            async (claim, decided) =>
            {
                await ClaimStore.Decide(w, id, decided.Outcome, decided.Allowed, decided.Why);
                if (
                    (await ClaimStore.OfLoad(w.Db, claim.LoadId)).All(c => c.Outcome is not null)
                    && await HoldStore.Release(w, claim.LoadId, HoldKind.Dispute, $"claim {claim.Number} was decided", passed: false)
                )
                {
                    await LoadWrites.Settle(w, claim.LoadId);
                }

                var said = $"{decided.Outcome.ToString().ToLowerInvariant()}";
                if (decided.Allowed.Amount == 0)
                {
                    return $"{said}: {decided.Why}";
                }

                if ((await LoadReads.Sheet(w.Db, claim.LoadId))!.Invoice is not { } invoice)
                {
                    return $"{said}, {decided.Allowed.Formatted} to be credited with its invoice: {decided.Why}";
                }

                var credited = await Credit(w, mailer, invoice.Id, claim, decided.Allowed, decided.Why);
                return credited.Any ? credited : $"{said}, {decided.Allowed.Formatted} credited: {decided.Why}";
            }
        );

    /// <summary>Credits the decided claims of an invoice's loads that had no invoice yet.</summary>
    internal static async Task<Problems> CreditDecided(CommandContext w, Mailer mailer, long invoiceId, IEnumerable<long> loadIds)
    {
        foreach (var load in loadIds)
        {
            foreach (var claim in (await ClaimStore.OfLoad(w.Db, load)).Where(c => c.Allowed.Amount > 0 && c.Memo is null))
            {
                var credited = await Credit(w, mailer, invoiceId, claim, claim.Allowed, claim.DecidedWhy!);
                if (credited.Any)
                {
                    return credited;
                }
            }
        }

        return Problems.None;
    }

    private static async Task<Problems> Credit(CommandContext w, Mailer mailer, long invoiceId, ClaimRow claim, Money allowed, string why)
    {
        var memo = await BillingCorrections.AddCreditMemo(
            w,
            mailer,
            invoiceId,
            new CreditMemoRequest(allowed, CreditReason.Claim, claim.Facts().MemoText(why))
        );
        if (!memo.Ok)
        {
            return memo.Problems;
        }

        await ClaimStore.SetMemo(w, claim.Id, memo.Value.Id);
        return Problems.None;
    }

    /// <summary>Reopens a decided claim, once its credit memo is reversed.</summary>
    public static Task<Outcome<ClaimRow>> Reopen(CommandContext w, long id) =>
        Step(
            w,
            id,
            (claim, c) => Unless(c.ReopenRefusal(claim.Memo)),
            async (_, _) =>
            {
                await ClaimStore.Reopen(w, id);
                return "reopened";
            }
        );

    /// <summary>Files our claim with the carrier, by email.</summary>
    public Task<Outcome<ClaimRow>> FileWithCarrier(CommandContext w, long id, CarrierClaimRequest request) =>
        Step(
            w,
            id,
            c => c.FileWithCarrier(request.FiledOn, request.Amount, w.Today),
            async (claim, filed) =>
            {
                await ClaimStore.FileWithCarrier(w, id, filed.On, filed.Amount);
                var carrier = (await CompanyStore.Get(w.Db, claim.CarrierId!.Value))!;
                await Mail(
                    w,
                    claim,
                    carrier,
                    $"Claim {claim.Number} on load {claim.LoadNumber}",
                    $"""
                    We claim {filed.Amount.Formatted} from you for load {claim.LoadNumber}: {claim.Description}. Please acknowledge this claim within 30 days and pay, decline or settle it within 120 days of receiving it (49 CFR 370.5 and 370.9). Our claim number is {claim.Number}. Your pay for this load is on hold until then.
                    """
                );
                return $"filed with {carrier.Name} for {filed.Amount.Formatted}";
            }
        );

    /// <summary>Releases the carrier's pay although the claim goes on.</summary>
    public static Task<Outcome<ClaimRow>> Release(CommandContext w, long id, ReleaseClaimRequest request) =>
        Step<string>(
            w,
            id,
            c =>
            {
                var validation = new Validation();
                var why = validation.Text(request.Why, "why", "The reason", 400, required: true);
                return c.ReleaseRefusal is { } no ? no
                    : validation.Ok ? why!
                    : validation.Problems;
            },
            async (claim, why) =>
            {
                await ClaimStore.Release(w, id, why);
                return $"pay of {claim.Carrier} released: {why}";
            }
        );

    /// <summary>Records what the carrier paid for a claim.</summary>
    public static Task<Outcome<ClaimRow>> Recover(CommandContext w, long id, RecoveryRequest request) =>
        Step<Payout>(
            w,
            id,
            c =>
            {
                var validation = new Validation { Currency = c.Recovered.Currency };
                validation.Dollars(request.Amount, "amount", "The amount received");
                var receipt = Payout.Check(request.PaidOn, request.Method, request.Reference, w.Today, validation);
                if (receipt.On > w.Today)
                {
                    validation.Add("date.future", "The date received cannot be in the future.", "paidOn");
                }

                if (!c.ByCarrier)
                {
                    validation.Add("claim.own", "Our own truck moved this load: nobody pays us for the claim.");
                }

                return validation.Ok ? receipt : validation.Problems;
            },
            async (claim, receipt) =>
            {
                var on = await LedgerStore.PostingDay(w, receipt.On);
                var recovery = await ClaimStore.AddRecovery(w, id, receipt, on, request.Amount!.Value, null);
                await LedgerStore.Post(
                    w,
                    Postings.ClaimRecovered(on, claim.Number, recovery, claim.CarrierId!.Value, claim.LoadId, request.Amount.Value)
                );
                return $"{request.Amount.Value.Formatted} received from {claim.Carrier}";
            }
        );

    /// <summary>Reverses a receipt that was entered by mistake or returned. A debit memo is reversed as a payment of its bill.</summary>
    public static async Task<Outcome<ClaimRow>> ReverseRecovery(CommandContext w, long recoveryId)
    {
        if (await ClaimStore.ReverseRecovery(w, recoveryId) is not { } recovery)
        {
            return new Problem("not.found", "This receipt was not found, or it was already reversed.");
        }

        return await Step(
            w,
            recovery.ClaimId,
            _ => Unless(null),
            async (claim, _) =>
            {
                await LedgerStore.Reverse(
                    w,
                    EntrySource.ClaimRecovery,
                    recoveryId,
                    EntrySource.ClaimRecovery,
                    $"Receipt for claim {claim.Number} reversed"
                );
                return $"receipt of {recovery.Amount.Formatted} reversed";
            }
        );
    }

    private static Outcome<bool> Unless(Problem? refused) => refused is { } no ? no : true;

    private static Task<Outcome<ClaimRow>> Step<T>(
        CommandContext w,
        long id,
        Func<Claim, Outcome<T>> decide,
        Func<ClaimRow, T, Task<Outcome<string>>> act
    ) => Step(w, id, (_, claim) => decide(claim), act);

    /// <summary>A step in a claim's life: locks it, asks Core, does it, and records what was done.</summary>
    /// <param name="act">Does it, and says what was done, or why it cannot be.</param>
    private static async Task<Outcome<ClaimRow>> Step<T>(
        CommandContext w,
        long id,
        Func<ClaimRow, Claim, Outcome<T>> decide,
        Func<ClaimRow, T, Task<Outcome<string>>> act
    )
    {
        if (await ClaimStore.Get(w.Db, id, locked: true) is not { } claim)
        {
            return Problem.Missing("This claim");
        }

        var decided = decide(claim, claim.Facts());
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        var done = await act(claim, decided.Value);
        if (!done.Ok)
        {
            return done.Problems;
        }

        w.Record(EventKinds.ClaimChanged, id, $"Claim {claim.Number} {done.Value}", loadId: claim.LoadId);
        return (await ClaimStore.Get(w.Db, id))!;
    }

    private async Task Mail(CommandContext w, ClaimRow claim, CompanyRow to, string subject, string text)
    {
        if (to.Email is { } address)
        {
            var business = (await Business.Read(w.Db))!;
            await mailer.Send(
                w,
                MailPurpose.Claim,
                address,
                subject,
                $"{to.Name},\n\n{text}\n\n{business.Name}\n{business.Phone}\n",
                [],
                claim.LoadId
            );
        }
    }
}
