using System.Text.Json.Serialization;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.Ledger;

/// <summary>An asset with its loan.</summary>
/// <param name="Depreciated">What was posted of its depreciation.</param>
/// <param name="BookValue">Cost less depreciation; zero once it is sold.</param>
public sealed record AssetRow(
    long Id,
    string Name,
    long? TruckId,
    string? Truck,
    LocalDate InService,
    Money Cost,
    Money Salvage,
    int Months,
    LocalDate? SoldOn,
    Money? Proceeds,
    Money Depreciated,
    Money BookValue,
    LoanRow? Loan
)
{
    [JsonIgnore]
    public Asset Asset => new(Name, InService, Cost, Salvage, Months, SoldOn);
}

/// <param name="Next">The next payment by the schedule; null when it is paid back.</param>
public sealed record LoanRow(
    long Id,
    string Lender,
    Money Principal,
    decimal Percent,
    int Months,
    LocalDate FirstOn,
    Money Owed,
    LoanPayment? Next,
    IReadOnlyList<LoanPaymentRow> Payments
)
{
    [JsonIgnore]
    public Loan Loan => new(Lender, Principal, Percent, Months, FirstOn);
}

public sealed record LoanPaymentRow(
    long Id,
    int Number,
    LocalDate PaidOn,
    LocalDate PostedOn,
    string Method,
    string? Reference,
    Money Interest,
    Money Principal,
    bool Stands
);

/// <summary>Equipment, depreciation and loans.</summary>
public static class EquipmentStore
{
    public static Task<List<AssetRow>> All(NpgsqlConnection db) => Read(db, null);

    public static async Task<AssetRow?> Get(NpgsqlConnection db, long id, bool locked = false)
    {
        if (locked)
        {
            await db.Run("select 1 from assets where id = @id for update", ("id", id));
        }

        return (await Read(db, id)).FirstOrDefault();
    }

    /// <summary>The asset of a loan, or of a loan's payment; null when there is none.</summary>
    public static Task<long?> AssetOf(NpgsqlConnection db, long? loan, long? payment) =>
        db.One<long?>(
            "select asset_id from loans where id = coalesce(@loan, (select loan_id from loan_payments where id = @payment))",
            ("loan", loan),
            ("payment", payment)
        );

    public static async Task<long> Add(CommandContext w, Asset asset, long? truckId, Loan? loan)
    {
        var id = await w.Db.One<long>(
            """
            insert into assets (name, truck_id, in_service, cost, salvage, months) values (@name, @truck, @on, @cost, @salvage, @months)
            returning id
            """,
            ("name", asset.Name),
            ("truck", truckId),
            ("on", asset.InService),
            ("cost", asset.Cost),
            ("salvage", asset.Salvage),
            ("months", asset.Months)
        );
        if (loan is not null)
        {
            await w.Db.Run(
                """
                insert into loans (asset_id, lender, principal, percent, months, first_on) values (@asset, @lender, @principal, @percent,
                @months, @first)
                """,
                ("asset", id),
                ("lender", loan.Lender),
                ("principal", loan.Principal),
                ("percent", loan.Percent),
                ("months", loan.Months),
                ("first", loan.FirstOn)
            );
        }

        return id;
    }

    public static Task Sell(CommandContext w, long id, LocalDate on, Money proceeds) =>
        w.Db.Run("update assets set sold_on = @on, proceeds = @proceeds where id = @id", ("id", id), ("on", on), ("proceeds", proceeds));

    public static Task Unsell(CommandContext w, long id) =>
        w.Db.Run("update assets set sold_on = null, proceeds = null where id = @id", ("id", id));

    /// <param name="month">Its first day.</param>
    public static Task<long> Depreciate(CommandContext w, long assetId, LocalDate month, Money amount) =>
        w.Db.One<long>(
            "insert into asset_depreciation (asset_id, month, amount) values (@asset, @month, @amount) returning id",
            ("asset", assetId),
            ("month", month),
            ("amount", amount)
        );

    /// <summary>Marks the depreciation of a month as reversed, when it is reopened.</summary>
    public static Task Undepreciate(CommandContext w, LocalDate month) =>
        w.Db.Run("update asset_depreciation set standing = false where month = @month and standing", ("month", month));

    /// <summary>Marks one depreciation as reversed: that of a sale.</summary>
    public static Task UndepreciateSale(CommandContext w, long assetId, LocalDate soldOn) =>
        w.Db.Run(
            "update asset_depreciation set standing = false where asset_id = @asset and month = @month and standing",
            ("asset", assetId),
            ("month", BookPeriods.MonthOf(soldOn))
        );

    public static Task<long> AddPayment(CommandContext w, long loanId, LoanPayment payment, Payout payout, LocalDate postedOn) =>
        w.Db.One<long>(
            """
            insert into loan_payments (loan_id, number, paid_on, posted_on, method, reference, interest, principal, paid_by)
            values (@loan, @number, @on, @posted, @method, @reference, @interest, @principal, @by) returning id
            """,
            ("loan", loanId),
            ("number", payment.Number),
            ("on", payout.On),
            ("posted", postedOn),
            ("method", payout.Method),
            ("reference", payout.Reference),
            ("interest", payment.Interest),
            ("principal", payment.Principal),
            ("by", w.Actor.UserId)
        );

    public static Task ReversePayment(CommandContext w, long id) =>
        w.Db.Run("update loan_payments set standing = false where id = @id", ("id", id));

    private static async Task<List<AssetRow>> Read(NpgsqlConnection db, long? only)
    {
        var payments = (
            await db.Rows(
                """
                select p.* from loan_payments p join loans l on l.id = p.loan_id where @id::bigint is null or l.asset_id = @id order by p.id
                """,
                r =>
                    (
                        Loan: r.Long("loan_id"),
                        Payment: new LoanPaymentRow(
                            r.Long("id"),
                            r.Int("number"),
                            r.Date("paid_on"),
                            r.Date("posted_on"),
                            r.Text("method"),
                            r.TextOrNull("reference"),
                            r.Usd("interest"),
                            r.Usd("principal"),
                            r.Bool("standing")
                        )
                    ),
                ("id", only)
            )
        ).ToLookup(p => p.Loan, p => p.Payment);
        return await db.Rows(
            """
            select a.*, t.unit, l.id as loan_id, l.lender, l.principal, l.percent, l.months as loan_months, l.first_on, l.paid,
                   (select coalesce(sum(d.amount), 0) from asset_depreciation d where d.asset_id = a.id and d.standing) as depreciated
            from assets a left join trucks t on t.id = a.truck_id left join loans l on l.asset_id = a.id
            where @id::bigint is null or a.id = @id order by a.sold_on nulls first, a.in_service desc, a.id desc
            """,
            r =>
            {
                LoanRow? loan = null;
                if (r.LongOrNull("loan_id") is { } id)
                {
                    var terms = new Loan(
                        r.Text("lender"),
                        r.Usd("principal"),
                        r.Decimal("percent"),
                        r.Int("loan_months"),
                        r.Date("first_on")
                    );
                    var made = payments[id].Where(p => p.Stands).Select(p => p.Number).DefaultIfEmpty(0).Max();
                    loan = new LoanRow(
                        id,
                        terms.Lender,
                        terms.Principal,
                        terms.Percent,
                        terms.Months,
                        terms.FirstOn,
                        terms.Principal - r.Usd("paid"),
                        terms.Schedule().FirstOrDefault(p => p.Number > made),
                        payments[id].ToList()
                    );
                }

                return new AssetRow(
                    r.Long("id"),
                    r.Text("name"),
                    r.LongOrNull("truck_id"),
                    r.TextOrNull("unit"),
                    r.Date("in_service"),
                    r.Usd("cost"),
                    r.Usd("salvage"),
                    r.Int("months"),
                    r.DateOrNull("sold_on"),
                    r.UsdOrNull("proceeds"),
                    r.Usd("depreciated"),
                    r.DateOrNull("sold_on") is null ? r.Usd("cost") - r.Usd("depreciated") : Money.Zero(),
                    loan
                );
            },
            ("id", only)
        );
    }
}
