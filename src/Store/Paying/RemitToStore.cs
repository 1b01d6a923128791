using NodaTime;
using Npgsql;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Paying;

/// <summary>A vendor's remit-to, as confirmed or proposed. The bank account is shown by its last digits.</summary>
public sealed record RemitToRow(
    long Id,
    long CompanyId,
    string? Factor,
    string? Address,
    string? Bank,
    string? Notice,
    string? Email,
    RemitToState State,
    string? ProposedBy,
    long? ProposedById,
    Instant ProposedAt,
    string? DecidedBy,
    Instant? DecidedAt,
    string? CallBack
);

/// <summary>Whom we pay for a vendor's bills.</summary>
public static class RemitToStore
{
    /// <summary>The key of a vendor's remit-to in force: the one confirmed last. The vendor is <c>c</c>.</summary>
    internal const string Current =
        "(select r.id from remit_tos r where r.company_id = c.id and r.state = 'confirmed' order by r.decided_at desc, r.id desc limit 1)";

    /// <summary>The factor that is paid for a carrier, by its remit-to in force; null when the carrier itself is paid.</summary>
    public static Task<string?> Factor(NpgsqlConnection db, long companyId) =>
        db.One<string>($"select r.factor from companies c join remit_tos r on r.id = {Current} where c.id = @id", ("id", companyId));

    /// <summary>Where remittance advice for a vendor goes: to its remit-to in force, else to the vendor; null without an address.</summary>
    public static Task<string?> AdviceTo(NpgsqlConnection db, long companyId) =>
        db.One<string>(
            $"""
            select case when r.factor is not null then r.email else coalesce(r.email, c.email) end
            from companies c left join remit_tos r on r.id = {Current} where c.id = @id
            """,
            ("id", companyId)
        );

    /// <summary>A vendor's remit-tos, newest first.</summary>
    public static Task<List<RemitToRow>> Of(NpgsqlConnection db, long companyId) =>
        db.Rows(
            """
            select r.*, p.name as proposer, d.name as decider from remit_tos r left join users p on p.id = r.proposed_by left join users d on
                d.id = r.decided_by where r.company_id = @id order by r.id desc limit 50
            """,
            Read,
            ("id", companyId)
        );

    /// <summary>One that was proposed, locked; null when there is none by this key.</summary>
    public static Task<RemitToRow?> Locked(CommandContext w, long id) =>
        w.Db.Row(
            """
            select r.*, p.name as proposer, d.name as decider from remit_tos r left join users p on p.id = r.proposed_by left join users d on
                d.id = r.decided_by where r.id = @id for update of r
            """,
            Read,
            ("id", id)
        );

    /// <summary>Proposes a change; one proposed before and not decided is declined.</summary>
    public static async Task<long> Propose(CommandContext w, long companyId, RemitTo r)
    {
        await w.Db.Run(
            "update remit_tos set state = 'declined', decided_by = @by, decided_at = @now where company_id = @id and state = 'proposed'",
            ("id", companyId),
            ("by", w.Actor.UserId),
            ("now", w.Now)
        );
        return await w.Db.One<long>(
            """
            insert into remit_tos (company_id, factor, address, routing, account, account_type, notice, email, proposed_by, proposed_at)
            values (@id, @factor, @address, @routing, @account, @type, @notice, @email, @by, @now) returning id
            """,
            ("id", companyId),
            ("factor", r.Factor),
            ("address", r.Address),
            ("routing", r.Bank?.Routing),
            ("account", r.Bank?.Account),
            ("type", r.Bank?.Type ?? BankAccountType.Checking),
            ("notice", r.Notice),
            ("email", r.Email),
            ("by", w.Actor.UserId),
            ("now", w.Now)
        );
    }

    public static Task Decide(CommandContext w, long id, RemitToState state, string? callBack) =>
        w.Db.Run(
            "update remit_tos set state = @state, decided_by = @by, decided_at = @now, call_back = @note where id = @id",
            ("id", id),
            ("state", state),
            ("by", w.Actor.UserId),
            ("now", w.Now),
            ("note", callBack)
        );

    /// <summary>The bank accounts of vendors, for an ACH file; vendors without one are left out.</summary>
    public static async Task<IReadOnlyDictionary<long, BankAccount>> Banks(NpgsqlConnection db, IEnumerable<long> vendors) =>
        (
            await db.Rows(
                $"select c.id, x.* from companies c join remit_tos x on x.id = {Current} where c.id = any(@ids) and x.routing is not null",
                r =>
                    (
                        Id: r.Long("company_id"),
                        Bank: new BankAccount(r.Text("routing"), r.Text("account"), r.Enum<BankAccountType>("account_type"))
                    ),
                ("ids", vendors.ToArray())
            )
        ).ToDictionary(x => x.Id, x => x.Bank);

    private static RemitToRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Long("company_id"),
            r.TextOrNull("factor"),
            r.TextOrNull("address"),
            r.Null("routing")
                ? null
                : new BankAccount(r.Text("routing"), r.Text("account"), r.Enum<BankAccountType>("account_type")).Masked,
            r.TextOrNull("notice"),
            r.TextOrNull("email"),
            r.Enum<RemitToState>("state"),
            r.TextOrNull("proposer"),
            r.LongOrNull("proposed_by"),
            r.Instant("proposed_at"),
            r.TextOrNull("decider"),
            r.InstantOrNull("decided_at"),
            r.TextOrNull("call_back")
        );
}
