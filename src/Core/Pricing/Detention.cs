using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;

namespace SteadyLark.Core.Pricing;

/// <summary>
/// What was agreed about waiting at a dock. Free time is not service time: how long a truck is expected to be at a place is planned from
/// the place, what is paid for longer waiting is agreed with each customer and offered to each carrier.
/// </summary>
/// <param name="FreeMinutes">Minutes at each stop that are not charged; 0 to 2,880.</param>
/// <param name="PerHour">Dollars per hour after that; null when detention is not charged.</param>
/// <param name="Cap">The most charged at one stop, in dollars; null for no limit.</param>
public sealed record DetentionTerms(int FreeMinutes = 120, Money? PerHour = null, Money? Cap = null)
{
    /// <summary>Terms agreed in US dollars, in another currency.</summary>
    /// <param name="rate">US dollars for one unit of it.</param>
    public DetentionTerms In(Currency currency, decimal rate) =>
        this with
        {
            PerHour = PerHour is { } hour ? Exchange.From(hour, currency, rate) : null,
            Cap = Cap is { } most ? Exchange.From(most, currency, rate) : null,
        };

    /// <summary>Two hours free, nothing charged.</summary>
    public static readonly DetentionTerms None = new();

    /// <summary>Checks terms as entered.</summary>
    /// <param name="prefix">Before the names of the fields.</param>
    public void Check(Validation validation, string prefix = "", Currency currency = Currency.USD)
    {
        if (FreeMinutes is < 0 or > 2880)
        {
            validation.Add("out.of.range", "Free time must be 0 to 2,880 minutes.", prefix + "freeMinutes");
        }

        validation.Dollars(PerHour, prefix + "perHour", "The detention rate per hour", required: false, currency: currency);
        validation.Dollars(Cap, prefix + "cap", "The most detention per stop", required: false, currency: currency);
        if (Cap is not null && PerHour is null)
        {
            validation.Add("missing", "Enter the detention rate per hour.", prefix + "perHour");
        }
    }

    /// <summary>In one sentence, as on a rate confirmation.</summary>
    /// <example>Detention: $60.00 per hour after 2 h free at each stop, from arrival or appointment, whichever is later; at most $300.00 per stop.</example>
    public string Format() =>
        PerHour is not { } rate
            ? "Detention is paid only if approved in writing in advance."
            : $"Detention: {rate.Formatted} per hour after {Duration.FromMinutes(FreeMinutes).Format()} free at each stop, from arrival or appointment, whichever is later{(Cap is { } most ? $"; at most {most.Formatted} per stop" : "")}.";
}

/// <summary>Waiting at a stop beyond free time.</summary>
/// <param name="From">When the clock started: arrival or appointment, whichever was later.</param>
/// <param name="Until">When the truck left, or now while it is there.</param>
/// <param name="Charged">Time charged, in full quarter hours.</param>
/// <param name="Amount">What it comes to.</param>
/// <param name="Running">Whether the truck is still there.</param>
/// <param name="ArrivedLate">Whether the truck came after its appointment: many shippers then refuse detention.</param>
public sealed record Detention(long StopId, Instant From, Instant Until, Duration Charged, Money Amount, bool Running, bool ArrivedLate)
{
    /// <summary>Detention is charged in quarter hours; a quarter that was begun is not.</summary>
    public static readonly Duration Step = Duration.FromMinutes(15);

    /// <summary>What waiting at a stop comes to; null when nothing is charged: within free time, not arrived, or no rate was agreed.</summary>
    public static Detention? At(PlannedStop stop, DetentionTerms terms, Instant now)
    {
        if (terms.PerHour is not { } rate || stop.Arrived is not { } arrived)
        {
            return null;
        }

        var from = Instant.Max(arrived, stop.Window.From);
        // Where the departure is not recorded, the truck was free once the freight was delivered.
        var end = stop.Left ?? stop.Delivered ?? stop.Refused;
        var until = end ?? now;
        var beyond = until - from - Duration.FromMinutes(terms.FreeMinutes);
        if (beyond < Step)
        {
            return null;
        }

        var charged = Duration.FromTicks(Math.Floor(beyond / Step) * Step.TotalTicks);
        var amount = (rate * ((decimal)charged.TotalMinutes / 60m)).ToCents();
        return new Detention(
            stop.Id,
            from,
            until,
            charged,
            terms.Cap is { } cap && cap < amount ? cap : amount,
            end is null,
            arrived > stop.Window.Until
        );
    }

    /// <summary>
    /// What waiting on a load comes to and is not charged yet. A stop is charged when a detention charge names its town; a detention charge
    /// that names none stands for one stop.
    /// </summary>
    /// <param name="stops">With their towns.</param>
    /// <param name="charged">The descriptions of the detention charges there are.</param>
    public static IReadOnlyList<Detention> NotCharged(
        IReadOnlyList<(PlannedStop Stop, string Town)> stops,
        DetentionTerms terms,
        IReadOnlyList<string?> charged,
        Instant now
    )
    {
        bool Names(string? description, string town) => description?.Contains(town, StringComparison.OrdinalIgnoreCase) == true;
        var waited = stops.Where(s => !charged.Any(c => Names(c, s.Town))).Select(s => At(s.Stop, terms, now)).OfType<Detention>().ToList();
        return waited.Skip(charged.Count(c => !stops.Any(s => Names(c, s.Town)))).ToList();
    }

    /// <summary>The charge's description: the evidence a customer asks for.</summary>
    /// <param name="town">Where.</param>
    /// <param name="zone">Of the place.</param>
    /// <example>Billings MT, Tue Nov 24 08:00 to 12:40, 2 h 30 after free time</example>
    public string Describe(string town, DateTimeZone zone) =>
        $"{town}, {From.Format(zone)} to {Until.InZone(zone).LocalDateTime:HH:mm}, {Charged.Format()} after free time";
}
