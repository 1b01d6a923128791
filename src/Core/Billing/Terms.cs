using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>When something is to be paid: a number of days after its date. Zero is on receipt.</summary>
public static class Terms
{
    public const int MostDays = 120;

    public static LocalDate DueOn(LocalDate date, int days) => date.PlusDays(days);

    public static string Said(int days) => days == 0 ? "on receipt" : $"net {days}";

    public static void Check(int? days, Checks checks, string field)
    {
        if (days is < 0 or > MostDays)
        {
            checks.Add("out.of.range", $"Terms must be between 0 and {MostDays} days.", field);
        }
    }
}
