using System.Text.RegularExpressions;

namespace SteadyLark.Core.People;

/// <summary>Marks a property that needs one of some rights to be seen. It is omitted from answers to anyone else.</summary>
[AttributeUsage(AttributeTargets.Property | AttributeTargets.Parameter)]
public sealed class SeenWithAttribute(params Right[] any) : Attribute
{
    /// <summary>Whether a user has one of the rights.</summary>
    public bool Allows(Access access) => any.Any(access.Has);
}

/// <summary>Marks a sentence whose dollar amounts are rates or costs: they are masked for users who may not see both.</summary>
[AttributeUsage(AttributeTargets.Property)]
public sealed class HoldsAmountsAttribute : Attribute;

/// <summary>Masks amounts in sentences.</summary>
public static partial class Amounts
{
    /// <summary>The sentence, with <c>$–</c> for each amount unless its reader may see rates and margins.</summary>
    public static string Trim(Access access, string sentence) => ShownTo(access) ? sentence : Remove(sentence);

    /// <summary>Whether amounts that may be a rate or a cost are shown. A driver's sentences are about their own pay.</summary>
    public static bool ShownTo(Access access) => access.Has(Right.TripsOwn) || (access.Has(Right.RatesSee) && access.Has(Right.MarginsSee));

    /// <summary>The sentence with <c>$–</c> for each amount.</summary>
    public static string Remove(string sentence) => Dollars().Replace(sentence, "$–");

    [GeneratedRegex(@"\$\s?-?[\d,]*\d(\.\d+)?")]
    private static partial Regex Dollars();
}
