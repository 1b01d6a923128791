using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Formats.Mail;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Companies;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

/// <param name="CallBack">Whom you called, at which number known before.</param>
public sealed record ConfirmRemitToRequest(string? CallBack);

/// <summary>Whom we pay for a vendor's bills. A change waits until another person has called the vendor back; meanwhile nothing is paid.</summary>
public static class RemitToCommands
{
    public static async Task<Outcome<List<RemitToRow>>> Propose(CommandContext w, long companyId, RemitToOrder request)
    {
        var validation = new Validation();
        if (await CompanyStore.Get(w.Db, companyId, locked: true) is not { } company)
        {
            return Problem.Missing("This company");
        }

        var remit = RemitTo.Check(request, Eml.IsAddress, validation);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        await RemitToStore.Propose(w, companyId, remit!);
        w.Record(
            EventKinds.RemitToProposed,
            companyId,
            $"Remit-to of {company.Name} entered: {remit!.Factor ?? "the carrier itself"}, {remit.Bank?.Masked ?? "by check"}; to be confirmed"
        );
        return await RemitToStore.Of(w.Db, companyId);
    }

    public static Task<Outcome<List<RemitToRow>>> Confirm(CommandContext w, long id, ConfirmRemitToRequest request) =>
        Decide(w, id, RemitToState.Confirmed, request.CallBack?.Trim(), async (row) =>
            RemitToChange.Confirm(row.State, row.ProposedById, w.Actor.UserId, request.CallBack, (await Business.Read(w.Db))!.TwoPeople)
        );

    public static Task<Outcome<List<RemitToRow>>> Decline(CommandContext w, long id) =>
        Decide(w, id, RemitToState.Declined, null, row =>
            Task.FromResult<Problems>(RemitToChange.DeclineRefusal(row.State) is { } no ? no : Problems.None)
        );

    private static async Task<Outcome<List<RemitToRow>>> Decide(
        CommandContext w,
        long id,
        RemitToState state,
        string? callBack,
        Func<RemitToRow, Task<Problems>> check
    )
    {
        if (await RemitToStore.Locked(w, id) is not { } found)
        {
            return Problem.Missing("This remit-to");
        }

        var problems = await check(found);
        if (problems.Any)
        {
            return problems;
        }

        await RemitToStore.Decide(w, id, state, callBack);
        var company = (await CompanyStore.Get(w.Db, found.CompanyId))!;
        w.Record(
            state == RemitToState.Confirmed ? EventKinds.RemitToConfirmed : EventKinds.RemitToDeclined,
            company.Id,
            state == RemitToState.Confirmed ? $"Remit-to of {company.Name} confirmed: {callBack}" : $"Remit-to of {company.Name} declined"
        );
        return await RemitToStore.Of(w.Db, company.Id);
    }
}
