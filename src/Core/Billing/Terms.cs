using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Billing;

/// <summary>Payment terms: days from the document date to the due date. Zero is due on receipt.</summary>
public static class Terms
{
    public const int MaxDays = 120;

    public static LocalDate DueOn(LocalDate date, int days) => date.PlusDays(days);

    public static string Format(int days) => days == 0 ? "due on receipt" : $"net {days}";

    public static void Check(int? days, Validation validation, string field)
    {
        if (days is < 0 or > MaxDays)
        {
            validation.Add("out.of.range", $"Terms must be between 0 and {MaxDays} days.", field);
        }
    }
}
