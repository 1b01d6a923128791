using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Companies;

/// <summary>A carrier's file.</summary>
/// <param name="LiabilityUntil">Last day of its liability insurance.</param>
/// <param name="CargoUntil">Last day of its cargo insurance.</param>
/// <param name="Liability">Limit of its liability insurance, in dollars.</param>
/// <param name="Cargo">Limit of its cargo insurance, in dollars.</param>
/// <param name="AgreementOn">When it signed our broker-carrier agreement.</param>
public sealed record CarrierFile(
    string? Usdot,
    bool AuthorityActive,
    LocalDate? LiabilityUntil,
    LocalDate? CargoUntil,
    string? DoNotUse,
    Money? Liability = null,
    Money? Cargo = null,
    SafetyRating Safety = SafetyRating.None,
    LocalDate? AgreementOn = null
)
{
    /// <summary>For a company that is not a carrier, or about which nothing is known.</summary>
    public static readonly CarrierFile None = new(null, false, null, null, null);

    /// <summary>In a few words, why it cannot have a load today; null when it can, and where it was not asked.</summary>
    public string? Unfit { get; init; }
}

/// <param name="TermsDays">Days from an invoice to its due date.</param>
/// <param name="IsVendor">Whether it is a vendor other than a carrier.</param>
/// <param name="PayDays">Days from its bill to the due date.</param>
/// <param name="QuickPayPercent">What it gives up to be paid early; null when it offers no quick pay.</param>
/// <param name="QuickPayDays">Days from the approval in which quick pay is paid.</param>
/// <param name="PayWhenPaid">Whether its bills are paid once the customer has paid.</param>
/// <param name="CreditLimit">The most the customer may owe; null for no limit.</param>
/// <param name="Carrier">Null for a company that is not a carrier.</param>
public sealed record CompanyRow(
    long Id,
    string Name,
    string? Phone,
    string? Email,
    string? Address,
    string? Town,
    string? Region,
    bool IsCustomer,
    bool IsCarrier,
    int TermsDays,
    string? Note,
    int Version,
    CarrierFile? Carrier,
    Money? CreditLimit = null,
    bool IsVendor = false,
    int PayDays = 30,
    decimal? QuickPayPercent = null,
    int QuickPayDays = 1,
    bool PayWhenPaid = false,
    Currency Currency = Currency.USD
)
{
    /// <summary>How it is paid.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public VendorTerms Terms => new(PayDays, QuickPayPercent, QuickPayDays, PayWhenPaid);
}

/// <summary>A company's balances, for its sheet.</summary>
public sealed record CompanyBalances(
    int Loads,
    int LoadsOpen,
    [property: SeenWith(Right.BillingSee)] Money OwesUs,
    [property: SeenWith(Right.BillingSee)] Money OverdueToUs,
    [property: SeenWith(Right.PayingSee)] Money WeOwe
);

public static class CompanyStore
{
    private const string Select = """
        select c.*, k.company_id as carrier_id, k.usdot, k.authority_active, k.liability_until, k.cargo_until, k.do_not_use,
            k.liability_limit, k.cargo_limit, k.safety_rating, k.agreement_on
        from companies c left join carriers k on k.company_id = c.id
        """;

    /// <param name="locked">One command at a time for this company.</param>
    public static async Task<CompanyRow?> Get(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from companies where id = @id for update", ("id", id));
        }

        return await db.Row($"{Select} where c.id = @id", Read, ("id", id));
    }

    /// <summary>Companies by name, after a given name, of one kind or all.</summary>
    public static Task<List<CompanyRow>> List(
        NpgsqlConnection db,
        bool? customers,
        bool? carriers,
        string? after,
        int max,
        bool? vendors = null
    ) =>
        db.Rows(
            $"""
            {Select} where (@customers::boolean is null or c.is_customer = @customers) and (@carriers::boolean is null or c.is_carrier =
                @carriers) and (@vendors::boolean is null or c.is_vendor = @vendors)
              and (@after::text is null or lower(c.name) > lower(@after))
            order by lower(c.name) limit @most
            """,
            Read,
            ("customers", customers),
            ("carriers", carriers),
            ("vendors", vendors),
            ("after", after),
            ("most", max)
        );

    public static Task<List<CompanyRow>> Like(
        NpgsqlConnection db,
        string text,
        bool? customers,
        bool? carriers,
        int max,
        bool? vendors = null
    ) =>
        db.Rows(
            $"""
            {Select} join search_entries f on f.kind = 'company' and f.ref_id = c.id
            where (@customers::boolean is null or c.is_customer = @customers) and (@carriers::boolean is null or c.is_carrier = @carriers)
                and (@vendors::boolean is null or c.is_vendor = @vendors)
              and (f.words ilike '%' || @like || '%' or @text <% f.words)
            order by (c.name ilike @like || '%') desc, (f.words ilike '%' || @like || '%') desc, word_similarity(@text, f.words) desc,
                c.name limit @most
            """,
            Read,
            ("text", text.ToLowerInvariant()),
            ("like", Find.Escape(text)),
            ("customers", customers),
            ("carriers", carriers),
            ("vendors", vendors),
            ("most", max)
        );

    public static async Task<Dictionary<long, CompanyRow>> ByIds(NpgsqlConnection db, IEnumerable<long> ids) =>
        (await db.Rows($"{Select} where c.id = any(@ids)", Read, ("ids", ids.Distinct().ToArray()))).ToDictionary(c => c.Id);

    /// <summary>The keys of companies by their names in lower case; names that no company has are left out.</summary>
    public static async Task<Dictionary<string, long>> ByNames(NpgsqlConnection db, IEnumerable<string> names) =>
        (
            await db.Rows(
                "select min(id) as id, lower(name) as name from companies where lower(name) = any(@names) group by lower(name)",
                r => (Name: r.Text("name"), Id: r.Long("id")),
                ("names", names.Select(n => n.ToLowerInvariant()).Distinct().ToArray())
            )
        ).ToDictionary(c => c.Name, c => c.Id);

    public static Task<bool> NameTaken(NpgsqlConnection db, string name, long? except = null) =>
        db.One<bool>(
            "select exists (select 1 from companies where lower(name) = lower(@name) and id <> coalesce(@except::bigint, -1))",
            ("name", name),
            ("except", except)
        );

    /// <summary>The user who created a company; null when none did.</summary>
    public static async Task<long?> AddedBy(NpgsqlConnection db, long id) =>
        await db.One<long>(
            "select user_id from events where subject = 'company' and subject_id = @id and kind = 'company.added' order by id limit 1",
            ("id", id)
        )
            is > 0
                and var user
            ? user
            : null;

    public static async Task<long> Add(NpgsqlConnection db, CompanyRow c)
    {
        var id = await db.One<long>(
            """
            insert into companies (name, phone, email, address, town, region, is_customer, is_carrier, is_vendor, terms_days, pay_days,
                note, credit_limit, quick_pay_percent, quick_pay_days, pay_when_paid, currency)
            values (@name, @phone, @email, @address, @town, @region, @customer, @carrier, @vendor, @terms, @pay, @note, @limit, @quick,
                @quickDays, @whenPaid, @currency) returning id
            """,
            Parameters(c)
        );
        await WriteCarrier(db, id, c);
        return id;
    }

    /// <summary>Whether anything with an amount was made for a company.</summary>
    public static Task<bool> HasDocuments(NpgsqlConnection db, long id) =>
        db.One<bool>(
            """
            select exists (select 1 from loads where payer_id = @id) or exists (select 1 from legs where carrier_id = @id)
                or exists (select 1 from invoices where customer_id = @id) or exists (select 1 from payments where customer_id = @id)
                or exists (select 1 from bills where vendor_id = @id)
            """,
            ("id", id)
        );

    /// <summary>Edits a company if it still has the version that was read.</summary>
    /// <returns>False when someone else changed it.</returns>
    public static async Task<bool> Change(NpgsqlConnection db, CompanyRow c)
    {
        var changed = await db.Run(
            """
            update companies set name = @name, phone = @phone, email = @email, address = @address, town = @town, region = @region,
                is_customer = @customer, is_carrier = @carrier, is_vendor = @vendor, terms_days = @terms, pay_days = @pay, note = @note,
                    credit_limit = @limit, quick_pay_percent = @quick, quick_pay_days = @quickDays, pay_when_paid = @whenPaid,
                    currency = @currency, version = version + 1
            where id = @id and version = @version
            """,
            [.. Parameters(c), ("id", c.Id), ("version", c.Version)]
        );
        if (changed == 1)
        {
            await WriteCarrier(db, c.Id, c);
        }

        return changed == 1;
    }

    public static async Task<CompanyBalances> Balances(NpgsqlConnection db, long id, LocalDate today) =>
        (
            await db.Row(
                """
                select (select currency from companies where id = @id) as currency,
                  (select count(*)::int from loads where customer_id = @id) + (select count(*)::int from legs where carrier_id = @id) as
                      loads,
                  (select count(*)::int from loads where customer_id = @id and state in ('booked', 'tendered', 'covered', 'rolling', 'delivered'))
                    + (select count(*)::int from legs g join loads l on l.id = g.load_id where g.carrier_id = @id and l.state in ('tendered', 'covered',
                        'rolling')) as open,
                  (select coalesce(sum(total - paid), 0) from invoices where customer_id = @id and voided_at is null and paid < total) as owes,
                  (select coalesce(sum(total - paid), 0) from invoices where customer_id = @id and voided_at is null and paid < total and due_on < @today) as
                      overdue,
                  (select coalesce(sum(coalesce(approved, amount) - paid), 0) from bills where vendor_id = @id and voided_at is null and paid_on is
                      null) as we_owe
                """,
                r => new CompanyBalances(r.Int("loads"), r.Int("open"), r.Money("owes"), r.Money("overdue"), r.Money("we_owe")),
                ("id", id),
                ("today", today)
            )
        )!;

    /// <summary>With what keeps its carriers from having a load today.</summary>
    public static CompanyRow Judged(CompanyRow c, CarrierRequirements requirements, LocalDate today) =>
        c.Carrier is { } file ? c with { Carrier = file with { Unfit = CarrierFitness.Summary(Record(c), requirements, today) } } : c;

    public static CarrierRecord Record(CompanyRow c) =>
        new(
            c.Name,
            c.Carrier!.AuthorityActive,
            c.Carrier.LiabilityUntil,
            c.Carrier.CargoUntil,
            c.Carrier.DoNotUse,
            c.Carrier.Liability,
            c.Carrier.Cargo,
            c.Carrier.Safety,
            c.Carrier.AgreementOn
        );

    private static async Task WriteCarrier(NpgsqlConnection db, long id, CompanyRow c)
    {
        if (c.Carrier is { } k)
        {
            await db.Run(
                """
                insert into carriers (company_id, usdot, authority_active, liability_until, cargo_until, do_not_use, liability_limit,
                    cargo_limit, safety_rating, agreement_on)
                values (@id, @usdot, @authority, @liability, @cargo, @not, @liabilityLimit, @cargoLimit, @safety, @agreement)
                on conflict (company_id) do update set usdot = @usdot, authority_active = @authority, liability_until = @liability,
                    cargo_until = @cargo, do_not_use = @not, liability_limit = @liabilityLimit, cargo_limit = @cargoLimit,
                    safety_rating = @safety, agreement_on = @agreement
                """,
                ("id", id),
                ("usdot", k.Usdot),
                ("authority", k.AuthorityActive),
                ("liability", k.LiabilityUntil),
                ("cargo", k.CargoUntil),
                ("not", k.DoNotUse),
                ("liabilityLimit", k.Liability),
                ("cargoLimit", k.Cargo),
                ("safety", k.Safety),
                ("agreement", k.AgreementOn)
            );
        }

        await db.Run("select find_company(@id)", ("id", id));
    }

    private static (string, object?)[] Parameters(CompanyRow c) =>
        [
            ("name", c.Name),
            ("phone", c.Phone),
            ("email", c.Email),
            ("address", c.Address),
            ("town", c.Town),
            ("region", c.Region),
            ("customer", c.IsCustomer),
            ("carrier", c.IsCarrier),
            ("vendor", c.IsVendor),
            ("terms", c.TermsDays),
            ("pay", c.PayDays),
            ("note", c.Note),
            ("limit", c.CreditLimit),
            ("quick", c.QuickPayPercent),
            ("quickDays", c.QuickPayDays),
            ("whenPaid", c.PayWhenPaid),
            ("currency", c.Currency),
        ];

    private static CompanyRow Read(NpgsqlDataReader r) =>
        new(
            r.Long("id"),
            r.Text("name"),
            r.TextOrNull("phone"),
            r.TextOrNull("email"),
            r.TextOrNull("address"),
            r.TextOrNull("town"),
            r.TextOrNull("region"),
            r.Bool("is_customer"),
            r.Bool("is_carrier"),
            r.Int("terms_days"),
            r.TextOrNull("note"),
            r.Int("version"),
            r.Null("carrier_id")
                ? null
                : new CarrierFile(
                    r.TextOrNull("usdot"),
                    r.Bool("authority_active"),
                    r.DateOrNull("liability_until"),
                    r.DateOrNull("cargo_until"),
                    r.TextOrNull("do_not_use"),
                    r.UsdOrNull("liability_limit"),
                    r.UsdOrNull("cargo_limit"),
                    r.Enum<SafetyRating>("safety_rating"),
                    r.DateOrNull("agreement_on")
                ),
            r.MoneyOrNull("credit_limit"),
            r.Bool("is_vendor"),
            r.Int("pay_days"),
            r.DecimalOrNull("quick_pay_percent"),
            r.Int("quick_pay_days"),
            r.Bool("pay_when_paid"),
            r.Currency()
        );
}
