using NodaTime;

namespace SteadyLark.Core.Basics;

/// <summary>Gathers problems while a command is read, so that all of them are told at once.</summary>
public sealed class Checks
{
    private readonly List<Problem> _problems = [];

    public IReadOnlyList<Problem> Problems => _problems;

    public bool Ok => _problems.Count == 0;

    public void Add(string code, string message, string? field = null) => _problems.Add(new Problem(code, message, field));

    public void AddRange(IEnumerable<Problem> problems) => _problems.AddRange(problems);

    /// <summary>A trimmed text of at most <paramref name="most"/> characters, or null when nothing was written.</summary>
    public string? Text(string? value, string field, string name, int most = 200, bool required = false)
    {
        var text = value?.Trim();
        if (string.IsNullOrEmpty(text))
        {
            if (required)
            {
                Add("missing", $"{name} is missing: write it in.", field);
            }

            return null;
        }

        if (text.Length > most)
        {
            Add("too.long", $"{name} has {text.Length} characters; shorten it to {most}.", field);
        }

        if (text.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t')))
        {
            Add("bad.character", $"{name} holds a control character; type it again.", field);
        }

        return text;
    }

    /// <summary>An amount in whole cents between zero and <see cref="Money.Most"/>.</summary>
    public void Amount(decimal? amount, string field, string name, bool required = true, bool above = true)
    {
        if (amount is null)
        {
            if (required)
            {
                Add("missing", $"{name} is missing: write an amount such as 1850 or 1,850.00.", field);
            }

            return;
        }

        if (amount < 0 || (above && amount == 0))
        {
            Add("not.positive", $"{name} must be {(above ? "more than zero" : "zero or more")}.", field);
        }
        else if (amount > Money.Most)
        {
            Add("too.large", $"{name} is more than {Money.Usd(Money.Most).Said}; look at the figure again.", field);
        }
        else if (decimal.Round(amount.Value, 2) != amount.Value)
        {
            Add("not.cents", $"{name} has more than two places behind the point; round it to cents.", field);
        }
    }

    /// <summary>A date between ten years before and five years after <paramref name="today"/>.</summary>
    public void Date(LocalDate? date, LocalDate today, string field, string name, bool required = true)
    {
        if (date is null)
        {
            if (required)
            {
                Add("missing", $"{name} is missing: write a date.", field);
            }

            return;
        }

        if (date < today.PlusYears(-10) || date > today.PlusYears(5))
        {
            Add("date.far", $"{name} {date.Value:uuuu-MM-dd} is too far from today; look at the year.", field);
        }
    }
}
