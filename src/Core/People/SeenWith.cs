using System.Text.RegularExpressions;

namespace SteadyLark.Core.People;

/// <summary>Marks what only those see who have one of some rights. It is left out of every answer to anyone else.</summary>
[AttributeUsage(AttributeTargets.Property | AttributeTargets.Parameter)]
public sealed class SeenWithAttribute(params Right[] any) : Attribute
{
    /// <summary>One of them is enough.</summary>
    public IReadOnlyList<Right> Any => any;

    public bool Allows(Access access) => any.Any(access.Has);
}

/// <summary>Marks a sentence in which dollar amounts are rates or costs: they are left out for whoever may not see both.</summary>
[AttributeUsage(AttributeTargets.Property)]
public sealed class HoldsAmountsAttribute : Attribute;

/// <summary>Sentences without their amounts.</summary>
public static partial class Amounts
{
    /// <summary>The sentence, with <c>$–</c> for each amount where its reader may not see rates and margins.</summary>
    public static string Trim(Access access, string sentence) =>
        access.Has(Right.TripsOwn) || (access.Has(Right.RatesSee) && access.Has(Right.MarginsSee)) ? sentence : Remove(sentence);

    /// <summary>The sentence with <c>$–</c> for each amount.</summary>
    public static string Remove(string sentence) => Dollars().Replace(sentence, "$–");

    [GeneratedRegex(@"\$\s?-?[\d,]*\d(\.\d+)?")]
    private static partial Regex Dollars();
}
