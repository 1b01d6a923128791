using Microsoft.AspNetCore.Http.HttpResults;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Formats.Tables;

namespace SteadyLark.Server.Basics;

/// <summary>Problems as RFC 9457 problem details, each with its field where there is one.</summary>
public static class Answers
{
    /// <param name="status">By the first problem's code when omitted.</param>
    /// <param name="newest">The record as it is now, when the request was based on an older version.</param>
    public static ProblemHttpResult Refused(IReadOnlyList<Problem> problems, int? status = null, object? newest = null)
    {
        var extensions = new Dictionary<string, object?> { ["errors"] = problems };
        if (newest is not null)
        {
            extensions["newest"] = newest;
        }

        return TypedResults.Problem(
            detail: string.Join(' ', problems.Select(p => p.Message)),
            title: problems[0].Message,
            statusCode: status ?? Status(problems[0]),
            type: "about:blank",
            extensions: extensions
        );
    }

    public static ProblemHttpResult NotFound(string what) => Refused([Problem.Missing(what)]);

    private static int Status(Problem problem) =>
        problem.Code switch
        {
            Problem.NotFound => StatusCodes.Status404NotFound,
            Versions.Stale => StatusCodes.Status409Conflict,
            _ => StatusCodes.Status422UnprocessableEntity,
        };

    /// <summary>A table as a download: csv or xlsx. It is written to a temporary file first, so that a failure is still answered as one.</summary>
    public static IResult File(this Table table, string format, string name, string title)
    {
        if (format is not ("csv" or "xlsx"))
        {
            return Refused([new Problem("missing", "Choose csv or xlsx.", "format")]);
        }

        // Only the server's own user can read it.
        var file = new FileStream(
            Path.GetTempFileName(),
            new FileStreamOptions
            {
                Access = FileAccess.ReadWrite,
                Mode = FileMode.Open,
                Options = FileOptions.DeleteOnClose | FileOptions.Asynchronous,
            }
        );
        try
        {
            if (format == "csv")
            {
                table.WriteCsv(file);
            }
            else
            {
                table.WriteXlsx(file, title);
            }

            file.Position = 0;
            return format == "csv"
                ? TypedResults.File(file, "text/csv; charset=utf-8", $"{name}.csv")
                : TypedResults.File(file, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", $"{name}.xlsx");
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }

    /// <summary>The explanation of a database refusal; null when it is our own bug.</summary>
    public static Problem? Of(PostgresException e) =>
        e.ConstraintName switch
        {
            "driver_scheduled_once" => new Problem(
                "driver.busy",
                "This driver was just assigned to another trip. Choose another driver.",
                "driverId"
            ),
            "trip_closed" => new Problem("trip.closed", "This trip is closed: reopen it before its expenses change."),
            "truck_scheduled_once" => new Problem(
                "truck.busy",
                "This truck was just assigned to another trip. Choose another truck.",
                "truckId"
            ),
            "trailer_scheduled_once" => new Problem(
                "trailer.busy",
                "This trailer was just assigned to another trip. Choose another trailer.",
                "trailerId"
            ),
            "driver_under_way_once" => new Problem(
                "driver.under.way",
                "This driver's previous trip is still open: record its last delivery first."
            ),
            "truck_under_way_once" => new Problem(
                "truck.under.way",
                "This truck's previous trip is still open: record its last delivery first."
            ),
            "trailer_under_way_once" => new Problem(
                "trailer.under.way",
                "This trailer's previous trip is still open: record its last delivery first."
            ),
            "load_on_one_invoice" => new Problem("load.billed", "One of these loads is already on another invoice.", "loadIds"),
            "bill_number_once" => new Problem("bill.twice", "A bill with this number from this vendor was already entered.", "number"),
            "leg_billed_once" => new Problem("leg.billed", "A bill for this load was already entered.", "legId"),
            "companies_name" => new Problem("name.taken", "A company with this name is already in the address book.", "name"),
            "places_name" => new Problem("name.taken", "This place is already in the address book.", "name"),
            "trucks_unit_key" or "trailers_unit_key" => new Problem("unit.taken", "This number is taken: choose another.", "unit"),
            "users_login" => new Problem("login.taken", "This username is taken: choose another.", "login"),
            "users_email" => new Problem("email.taken", "Another user has this email address.", "email"),
            "users_of_driver" => new Problem("user.driver", "This driver has a username already.", "driverId"),
            "roles_name" => new Problem("name.taken", "There is a role with this name already.", "name"),
            "loads_number_key" => new Problem("number.taken", "This load number is taken.", "number"),
            "settlements_week_once" => new Problem("settlement.approved", "This settlement is already approved."),
            _ => e.SqlState switch
            {
                "LK004" => new Problem("period.closed", $"{e.MessageText}: use a later date or reopen the month."),
                "LK005" => new Problem("pay.same.person", "You approved this, so another person must pay it."),
                "LK009" => new Problem("stop.elsewhere", "The trailer is not there: check where it is, and hook it there.", "placeId"),
                "LK010" => new Problem("shares.sum", "The shares of the legs have to make 100 %.", "shares"),
                "LK006" => new Problem("user.last.owner", "This is the only owner: make another user an owner first."),
                _ => null,
            },
        };
}
