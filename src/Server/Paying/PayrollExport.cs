using System.Globalization;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Paying;
using SteadyLark.Formats.Tables;
using SteadyLark.Store.Fleet;

namespace SteadyLark.Server.Paying;

/// <summary>A week's settlements for the payroll service, which withholds taxes.</summary>
public static class PayrollExport
{
    /// <param name="day">A day of the week; of last week when null.</param>
    public static async Task<(LocalDate Monday, Table Table)> Of(NpgsqlConnection db, LocalDate? day, Instant now, DateTimeZone zone)
    {
        var monday = DriverSettlement.MondayOf(day ?? now.InZone(zone).Date.PlusDays(-7));
        var weeks = new List<(PayrollLine Line, SettlementStatement Week, bool Approved)>();
        foreach (var driver in await FleetStore.Drivers(db))
        {
            var (settlement, week) = await SettlementCommands.Statement(db, driver.Id, monday, now, zone);
            if (!week.IsEmpty)
            {
                weeks.Add((PayrollLine.Of(driver.Name, driver.Worker, week), week, settlement is not null));
            }
        }

        // A column for each account that something is withheld for.
        var accounts = weeks.SelectMany(w => w.Week.Deductions).Select(d => d.Account).Distinct().Order(StringComparer.Ordinal).ToList();
        return (
            monday,
            new Table(
                [
                    "Driver",
                    "Worker",
                    "Week of",
                    "Pay date",
                    "Approved",
                    "Hours",
                    "Miles",
                    "Wages",
                    "Per diem",
                    "Reimbursements",
                    .. accounts.Select(a => $"Deductions {a}"),
                    "Carried over",
                    "Net before tax",
                    "Employer tax",
                ],
                weeks.Select(w =>
                    (IReadOnlyList<object?>)
                        [
                            w.Line.Driver,
                            Workers[w.Line.Worker],
                            w.Week.Monday.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
                            w.Week.PayDay.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
                            w.Approved ? "yes" : "no",
                            w.Line.Hours,
                            w.Line.Miles,
                            w.Line.Wages.Amount,
                            w.Line.PerDiem.Amount,
                            w.Line.Reimbursed.Amount,
                            .. accounts.Select(a => (object?)w.Week.Deductions.Where(d => d.Account == a).Sum(d => d.Amount.Amount)),
                            w.Line.CarriedOver.Amount,
                            w.Line.BeforeTax.Amount,
                            w.Line.EmployerTax.Amount,
                        ]
                )
            )
        );
    }

    private static readonly Dictionary<WorkerKind, string> Workers = new()
    {
        [WorkerKind.Employee] = "employee",
        [WorkerKind.Contractor] = "contractor",
        [WorkerKind.OwnerOperator] = "owner-operator",
    };
}
