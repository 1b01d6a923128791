using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Formats.Tables;
using SteadyLark.Server.Places;

namespace SteadyLark.Server.Trips.Runs;

/// <summary>Whether an address was found.</summary>
public enum AddressFound
{
    Found,

    /// <summary>Ambiguous or misspelled: the user must choose.</summary>
    Doubtful,
    NotFound,
}

/// <summary>A line of an address list and what it means.</summary>
/// <param name="Row">Of the list, from 1.</param>
/// <param name="Service">Minutes, or null when not given.</param>
/// <param name="Opens">Minutes from midnight, as is <paramref name="Closes"/>.</param>
/// <param name="Choices">What it may mean, most likely first; when found, the first is meant.</param>
/// <param name="Why">Why it is ambiguous or not found, or what is wrong besides the address; null when nothing is.</param>
public sealed record AddressView(
    int Row,
    string Address,
    string? Name,
    double? Service,
    double? Opens,
    double? Closes,
    long? Demand,
    AddressFound Found,
    IReadOnlyList<Candidate> Choices,
    string? Why
);

/// <summary>An address list, resolved line by line.</summary>
public sealed record AddressList(int Found, int Doubtful, int NotFound, IReadOnlyList<AddressView> Lines);

public static class Addresses
{
    /// <summary>The most lines of one list.</summary>
    public const int Max = 5_000;

    /// <summary>Reads a file or pasted lines, and resolves each address; equal ones once.</summary>
    public static Outcome<AddressList> Read(byte[] file)
    {
        var table = TableReader.Read(file);
        if (!table.Ok)
        {
            return table.Problems;
        }

        var lines = AddressLines.Read(table.Value);
        if (lines.Count > Max)
        {
            return new Problem("too.many", $"A list can have at most {Max:#,##0} addresses.", "file");
        }

        if (lines.Count == 0)
        {
            return new Problem("empty", "This list has a header but no addresses.", "file");
        }

        var known = lines
            .Select(l => l.Address)
            .Where(a => a.Length > 0)
            .Distinct()
            .AsParallel()
            .ToDictionary(a => a, a => Routing.Gazetteer.Resolve(a));
        // Without a header, a name and an address without a state look alike: the one that is a place is the address.
        lines = lines
            .Select(l =>
                l is { Name: { Length: > 0 } name }
                && l.Address.Length > 0
                && known[l.Address].Candidates.Count == 0
                && Routing.Gazetteer.Resolve(name).Candidates.Count > 0
                    ? l with
                    {
                        Address = name,
                        Name = l.Address,
                    }
                    : l
            )
            .ToList();
        foreach (var l in lines.Where(l => l.Address.Length > 0 && !known.ContainsKey(l.Address)))
        {
            known[l.Address] = Routing.Gazetteer.Resolve(l.Address);
        }

        var views = lines
            .Select(l =>
            {
                var answer = l.Address.Length > 0 ? known[l.Address] : new Resolution([], null);
                var found =
                    answer.Sure is not null ? AddressFound.Found
                    : answer.Candidates.Count > 0 ? AddressFound.Doubtful
                    : AddressFound.NotFound;
                var why = string.Join("; ", new[] { answer.Why }.Concat(l.Faults).Where(t => t is { Length: > 0 }));
                if (answer.Sure is { } sure && Routing.Router.Unreached(sure.Point) is { } unreached)
                {
                    (found, why) = (AddressFound.NotFound, $"{sure.Label} {unreached}");
                }

                return new AddressView(
                    l.Row,
                    l.Address,
                    l.Name,
                    l.Service,
                    l.Opens,
                    l.Closes,
                    l.Demand,
                    l.Faults.Count > 0 && found == AddressFound.Found ? AddressFound.Doubtful : found,
                    answer.Candidates,
                    why.Length > 0 ? why : null
                );
            })
            .ToList();
        return new AddressList(
            views.Count(v => v.Found == AddressFound.Found),
            views.Count(v => v.Found == AddressFound.Doubtful),
            views.Count(v => v.Found == AddressFound.NotFound),
            views
        );
    }
}
