using NodaTime;

namespace SteadyLark.Core.Basics;

/// <summary>Collects problems while a command is validated, so that all are reported at once.</summary>
public sealed class Validation
{
    private readonly List<Problem> _problems = [];

    public Problems Problems => new(_problems);

    public bool Ok => _problems.Count == 0;

    public void Add(string code, string message, string? field = null) => _problems.Add(new Problem(code, message, field));

    /// <param name="prefix">Before the names of the problems' fields, such as <c>carrier.</c></param>
    public void AddRange(IEnumerable<Problem> problems, string prefix = "") =>
        _problems.AddRange(prefix.Length == 0 ? problems : problems.Select(p => p.Field is null ? p : p with { Field = prefix + p.Field }));

    /// <summary>A trimmed text of at most <paramref name="max"/> characters, or null when empty.</summary>
    public string? Text(string? value, string field, string name, int max = 200, bool required = false)
    {
        var text = value?.Trim();
        if (string.IsNullOrEmpty(text))
        {
            if (required)
            {
                Add("missing", $"{name} is required.", field);
            }

            return null;
        }

        if (text.Length > max)
        {
            Add("too.long", $"{name} has {text.Length} characters; the limit is {max}.", field);
        }

        if (text.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t')))
        {
            Add("bad.character", $"{name} contains a character that cannot be stored; retype it.", field);
        }

        return text;
    }

    /// <summary>A number that a person chose for a load or trip, of at most 20 characters, or null when empty.</summary>
    public string? Number(string? value, string field, string name)
    {
        var number = Text(value, field, name, 20);
        if (number is not null && !number.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '/' or '.'))
        {
            Add("number", $"{name} can contain letters, digits, hyphens, periods and slashes only.", field);
        }

        return number;
    }

    /// <summary>The currency of the document that is checked.</summary>
    public Currency Currency { get; init; }

    /// <summary>An amount in the document's currency, in whole cents between zero and <see cref="Money.Limit"/>.</summary>
    /// <param name="currency">When it is not the document's.</param>
    public void Dollars(Money? money, string field, string name, bool required = true, bool above = true, Currency? currency = null)
    {
        var wanted = currency ?? Currency;
        if (money is { Amount: not 0 } other && other.Currency != wanted)
        {
            Add("currency", $"{name} is in {other.Currency.Format()}; enter it in {wanted.Format()}.", field);
        }
        else
        {
            Amount(money?.Amount, field, name, required, above);
        }
    }

    /// <summary>An amount in whole cents between zero and <see cref="Money.Limit"/>.</summary>
    public void Amount(decimal? amount, string field, string name, bool required = true, bool above = true)
    {
        if (amount is null)
        {
            if (required)
            {
                Add("missing", $"{name} is required: enter an amount such as 1850 or 1,850.00.", field);
            }

            return;
        }

        if (amount < 0 || (above && amount == 0))
        {
            Add("not.positive", $"{name} must be {(above ? "more than zero" : "zero or more")}.", field);
        }
        else if (amount > Money.Limit)
        {
            Add("too.large", $"{name} is more than {Money.Usd(Money.Limit).Formatted}; check the amount.", field);
        }
        else if (decimal.Round(amount.Value, 2) != amount.Value)
        {
            Add("not.cents", $"{name} has more than two decimal places; round it to cents.", field);
        }
    }

    /// <summary>A whole number within bounds, if there is one.</summary>
    public void Between(int? number, int min, int max, string field, string name)
    {
        if (number < min || number > max)
        {
            Add("out.of.range", $"{name} must be between {min:#,##0} and {max:#,##0}.", field);
        }
    }

    /// <summary>A time, if there is one, between ten years before and five years after <paramref name="now"/>.</summary>
    public void Time(Instant? at, Instant now, string field, string name)
    {
        if (at is { } time && (time < now - Duration.FromDays(3653) || time > now + Duration.FromDays(1827)))
        {
            Add("out.of.range", $"{name} is more than ten years ago or five years ahead.", field);
        }
    }

    /// <summary>A date between ten years before and five years after <paramref name="today"/>.</summary>
    public void Date(LocalDate? date, LocalDate today, string field, string name, bool required = true)
    {
        if (date is null)
        {
            if (required)
            {
                Add("missing", $"{name} is required: enter a date.", field);
            }

            return;
        }

        if (date < today.PlusYears(-10) || date > today.PlusYears(5))
        {
            Add("date.far", $"{name} {date.Value:uuuu-MM-dd} is too far from today; check the year.", field);
        }
    }
}
