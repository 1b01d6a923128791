using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <summary>A customer with invoices past due.</summary>
/// <param name="Due">The earliest due date.</param>
/// <param name="InvoiceId">The first of them.</param>
public sealed record OverdueCustomer(string Name, Money Open, LocalDate Due, int Invoices, long InvoiceId);

/// <summary>An unpaid bill, short.</summary>
/// <param name="Difference">Billed less agreed; zero when nothing was agreed.</param>
/// <param name="Amount">What is approved, else what is billed.</param>
public sealed record UnpaidBill(long Id, string Number, string Vendor, Money Difference, bool IsApproved, LocalDate DueOn, Money Amount);

/// <summary>A leg of a load that is picked up in a week.</summary>
/// <param name="Cost">Null while it is not known.</param>
public sealed record WeekLeg(long LoadId, LocalDate On, Money Revenue, Money? Cost);

/// <summary>Figures and lists of Today that no other room has.</summary>
public static class TodayStore
{
    public static Task<int> Drafts(NpgsqlConnection db) => db.One<int>("select count(*)::int from loads where state = 'draft'");

    public static Task<List<OverdueCustomer>> Overdue(NpgsqlConnection db, LocalDate today) =>
        db.Rows(
            """
            select c.id, c.name, c.currency, sum(i.total - i.paid) as open, min(i.due_on) as due, count(*)::int as invoices, min(i.id) as invoice
            from invoices i join companies c on c.id = i.customer_id where i.voided_at is null and i.paid < i.total and i.due_on < @today
                group by c.id, c.name order by min(i.due_on)
            """,
            r => new OverdueCustomer(r.Text("name"), r.Money("open"), r.Date("due"), r.Int("invoices"), r.Long("invoice")),
            ("today", today)
        );

    public static Task<List<UnpaidBill>> UnpaidBills(NpgsqlConnection db) =>
        db.Rows(
            """
            select b.id, b.number, b.currency, c.name, coalesce(b.amount - b.agreed, 0) as difference, b.approved is not null as approved, b.due_on,
                coalesce(b.approved, b.amount) as amount
            from bills b join companies c on c.id = b.vendor_id where b.voided_at is null and b.paid_on is null order by b.due_on, b.id
            """,
            r => new UnpaidBill(
                r.Long("id"),
                r.Text("number"),
                r.Text("name"),
                r.Money("difference"),
                r.Bool("approved"),
                r.Date("due_on"),
                r.Money("amount")
            )
        );

    public static Task<int> UnpaidSettlements(NpgsqlConnection db) =>
        db.One<int>("select count(*)::int from settlements where paid_on is null and reversed_at is null");

    /// <summary>Drivers who completed a leg in a week without an approved settlement.</summary>
    public static Task<int> DriversToSettle(NpgsqlConnection db, LocalDate monday, DateTimeZone zone) =>
        db.One<int>(
            """
            select count(distinct t.driver_id)::int from legs g join trip_crew t on t.trip_id = g.trip_id join loads l on l.id = g.load_id
            where l.delivered_at >= @from and l.delivered_at < @until and not exists (select 1 from settlements s where s.driver_id =
                t.driver_id and s.monday = @monday and s.reversed_at is null)
            """,
            ("from", zone.AtStartOfDay(monday).ToInstant()),
            ("until", zone.AtStartOfDay(monday.PlusDays(7)).ToInstant()),
            ("monday", monday)
        );

    /// <summary>Covered legs of loads picked up from one day to another, not including it.</summary>
    public static Task<List<WeekLeg>> Legs(NpgsqlConnection db, LocalDate from, LocalDate until, DateTimeZone zone) =>
        db.Rows(
            """
            select l.id, (l.first_at at time zone @zone)::date as on_day, round(l.revenue * rate_of(l.currency, l.first_at), 2) as revenue, k.cost
            from loads l join legs g on g.load_id = l.id join leg_costs k on k.leg_id = g.id
            where l.state not in ('draft', 'cancelled') and l.first_at >= @from and l.first_at < @until and (g.trip_id is not null or
                g.carrier_id is not null)
            """,
            r => new WeekLeg(r.Long("id"), r.Date("on_day"), r.Usd("revenue"), r.UsdOrNull("cost")),
            ("zone", zone.Id),
            ("from", zone.AtStartOfDay(from).ToInstant()),
            ("until", zone.AtStartOfDay(until).ToInstant())
        );

    /// <summary>Deliveries from one day through another, and how many arrived by their appointment.</summary>
    public static async Task<(int Delivered, int OnTime)> Deliveries(
        NpgsqlConnection db,
        LocalDate from,
        LocalDate through,
        DateTimeZone zone
    )
    {
        var kept = (
            await db.Row(
                """
                select count(*)::int as delivered, count(*) filter (where s.arrived_at <= s.until_at)::int as on_time from stops s
                where s.kind = 'delivery' and s.arrived_at >= @from and s.arrived_at < @until
                """,
                r => Tuple.Create(r.Int("delivered"), r.Int("on_time")),
                ("from", zone.AtStartOfDay(from).ToInstant()),
                ("until", zone.AtStartOfDay(through.PlusDays(1)).ToInstant())
            )
        )!;
        return (kept.Item1, kept.Item2);
    }

    /// <summary>Days from invoice to payment since a day, weighted by amount; null without payments.</summary>
    public static Task<decimal?> DaysToPay(NpgsqlConnection db, LocalDate since) =>
        db.One<decimal?>(
            """
            select round(sum((p.received_on - i.issued_on) * a.amount) / nullif(sum(a.amount), 0), 1)
            from payment_applications a join payments p on p.id = a.payment_id join invoices i on i.id = a.invoice_id where a.standing and
                p.method <> 'credit_memo' and p.received_on > @since
            """,
            ("since", since)
        );
}
