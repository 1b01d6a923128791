using System.Collections.ObjectModel;

namespace SteadyLark.Core.Basics;

/// <summary>Something the user can fix, in plain words, with the field it is about.</summary>
/// <param name="Code">Stable machine-readable code, lower case with dots, such as <c>load.pickup.missing</c>.</param>
/// <param name="Message">One plain sentence that says what is wrong and what to do.</param>
/// <param name="Field">The command's field in camelCase (<c>stops[1].from</c>), or null when it concerns the whole command.</param>
public sealed record Problem(string Code, string Message, string? Field = null)
{
    /// <summary>The code of <see cref="Missing"/>; answered as 404.</summary>
    public const string NotFound = "not.found";

    /// <param name="what">The subject of the sentence, such as <c>This bill</c>.</param>
    public static Problem Missing(string what, string? field = null) => new(NotFound, $"{what} was not found.", field);
}

/// <summary>What is wrong with a command, in the order it was found; empty when nothing is.</summary>
public sealed class Problems(IEnumerable<Problem> problems) : ReadOnlyCollection<Problem>(problems.ToList())
{
    public static readonly Problems None = new([]);

    public bool Any => Count > 0;

    public static implicit operator Problems(Problem problem) => new([problem]);
}

/// <summary>The outcome of a decision: a value, or at least one <see cref="Problem"/>. Core never throws for what a user can
/// cause.</summary>
public sealed class Outcome<T>
{
    private readonly T? _value;

    private Outcome(T? value, Problems problems)
    {
        _value = value;
        Problems = problems;
    }

    /// <summary>Empty when the decision succeeded.</summary>
    public Problems Problems { get; }

    public bool Ok => Problems.Count == 0;

    /// <summary>The value. Throws <see cref="InvalidOperationException"/> when there are problems, which is a programming error.</summary>
    public T Value => Ok ? _value! : throw new InvalidOperationException($"No value: {Problems[0].Code}");

    /// <summary>Maps the value; problems are kept.</summary>
    public Outcome<TNext> Then<TNext>(Func<T, TNext> next) => Ok ? next(_value!) : Problems;

    public static implicit operator Outcome<T>(T value) => new(value, Problems.None);

    public static implicit operator Outcome<T>(Problem problem) => new(default, problem);

    public static implicit operator Outcome<T>(Problems problems) =>
        problems.Any
            ? new(default, problems)
            : throw new ArgumentException("An outcome without a value needs a problem.", nameof(problems));
}
