namespace SteadyLark.Core.Trips;

/// <summary>Whether two hazard classes may ride on one vehicle.</summary>
public enum Segregated
{
    Together,

    /// <summary>Only so separated that they cannot mix if packages leak (49 CFR 177.848(e)(3)).</summary>
    Apart,

    /// <summary>Not on the same vehicle (49 CFR 177.848(e)(2)).</summary>
    Never,
}

/// <summary>
/// The segregation table for hazardous materials, 49 CFR 177.848(d). Packing group I of division 6.1 counts as its zone A liquids and all of
/// division 2.3 as zone A, the stricter readings, as loads do not name the inhalation zone. Explosives among each other follow the compatibility
/// table of 177.848(f), which is not here: they count as not to be loaded together.
/// </summary>
public static class Segregation
{
    private static readonly string[] Classes =
    [
        "1.1",
        "1.3",
        "1.4",
        "1.5",
        "1.6",
        "2.1",
        "2.2",
        "2.3",
        "3",
        "4.1",
        "4.2",
        "4.3",
        "5.1",
        "5.2",
        "6.1",
        "7",
        "8",
    ];

    /// <summary>A row for each of <see cref="Classes"/>: X never, O apart, a space together. Row 1.1 is of 1.1 and 1.2.</summary>
    private static readonly string[] Table =
    [
        "XXXXXXXXXXXXXXXXX",
        "XXXXXX XX XXXXX X",
        "XXXXXO OO O   O O",
        "XXXXXXXXXXXXXXXXX",
        "XXXXX            ",
        "XXOX   X      OO ",
        "X  X             ",
        "XXOX X  XXXXXX  X",
        "XXOX   X    O X  ",
        "X  X   X      X O",
        "XXOX   X      X X",
        "XX X   X      X O",
        "XX X   XO     X O",
        "XX X   X      X O",
        "XXOX O  XXXXXX  X",
        "X  X O           ",
        "XXOX   X OXOOOX  ",
    ];

    /// <param name="a">Hazard class or division with its subsidiary ones, as on a shipping paper: <c>3</c>, <c>6.1 (3)</c>, <c>1.4S</c>.</param>
    /// <param name="aGroup">Packing group: I, II, III or null; as are <paramref name="b"/> and <paramref name="bGroup"/>.</param>
    /// <returns>By the strictest of the primary and subsidiary classes (177.848(e)(6)); <see cref="Segregated.Together"/> when one is not
    /// in the table.</returns>
    public static Segregated Between(string? a, string? aGroup, string? b, string? bGroup) =>
        (from x in Rows(a, aGroup) from y in Rows(b, bGroup) select Cell(x, y))
            .DefaultIfEmpty(Segregated.Together)
            .Max();

    private static Segregated Cell(int row, int column) =>
        Table[row][column] switch
        {
            'X' => Segregated.Never,
            'O' => Segregated.Apart,
            _ => Segregated.Together,
        };

    /// <summary>The rows of a class and its subsidiary ones.</summary>
    private static IEnumerable<int> Rows(string? hazard, string? group) =>
        (hazard ?? "")
            .Split([' ', '(', ')', ','], StringSplitOptions.RemoveEmptyEntries)
            .Select(part =>
                part.TrimEnd("ABCDEFGHJKLNS".ToCharArray()) switch
                {
                    "1.2" => 0,
                    // Other packing groups of 6.1 are not in the table.
                    "6.1" when group is "II" or "III" => -1,
                    var division => Array.IndexOf(Classes, division),
                }
            )
            .Where(row => row >= 0);
}
