using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Loads;

/// <summary>A liquid the company hauls, as its users edit the list.</summary>
/// <param name="ProductId">Null for a new one.</param>
/// <param name="LbPerGallon">Its density in pounds per US gallon.</param>
/// <param name="TemperatureF">What it is hauled at; null when that does not matter.</param>
/// <param name="OwnCompartments">Whether it never shares a compartment with another order.</param>
/// <param name="Apart">Names of products that may not ride on one trailer with it.</param>
/// <param name="NotAfter">Names of products that it may not follow in a compartment without a wash.</param>
public sealed record ProductOrder(
    long? ProductId,
    string? Name,
    decimal? LbPerGallon,
    int? TemperatureF = null,
    bool OwnCompartments = false,
    IReadOnlyList<string?>? Apart = null,
    IReadOnlyList<string?>? NotAfter = null
);

/// <summary>A product of the company's list.</summary>
/// <param name="Loads">How many loads of it are not delivered.</param>
public sealed record Product(
    long Id,
    string Name,
    decimal LbPerGallon,
    int? TemperatureF,
    bool OwnCompartments,
    IReadOnlyList<string> Apart,
    IReadOnlyList<string> NotAfter,
    int Loads = 0
);

/// <summary>Liquid freight: so much of a product.</summary>
/// <param name="OwnCompartments">Whether it shares no compartment, as the order or the product asks.</param>
/// <param name="Apart">Products that may not ride on one trailer with it.</param>
/// <param name="NotAfter">Products that it may not follow in a compartment without a wash.</param>
public sealed record BulkFreight(
    long ProductId,
    string Product,
    decimal Gallons,
    bool OwnCompartments,
    IReadOnlyList<long> Apart,
    IReadOnlyList<long> NotAfter
);

/// <summary>The company's list of products.</summary>
public static class Products
{
    /// <summary>The most products a company lists.</summary>
    public const int Most = 200;

    /// <summary>The most characters of a name.</summary>
    public const int MaxName = 60;

    /// <summary>Checks the list as edited: names are unique, rules name products of the list, and one that is left out is not on a load.</summary>
    /// <returns>The list; <see cref="Product.Id"/> is 0 for a new one.</returns>
    public static Outcome<IReadOnlyList<Product>> CheckList(IReadOnlyList<ProductOrder?>? products, IReadOnlyList<Product> now)
    {
        var rows = products ?? [];
        if (rows.Count > Most)
        {
            return new Problem("too.many", $"At most {Most} products can be listed.", "products");
        }

        var validation = new Validation();
        var names = rows.Select(
                (r, i) => validation.Text(r?.Name, $"products[{i}].name", "The name of the product", MaxName, required: true)
            )
            .ToList();
        var list = rows.Select((r, i) => Read(r, i, names, now, validation)).ToList();
        for (var i = 0; i < list.Count; i++)
        {
            if (names[i] is { } name && names.Take(i).Any(n => Same(n, name)))
            {
                validation.Add("name.taken", $"There are two products named {name}.", $"products[{i}].name");
            }
        }

        foreach (var gone in now.Where(p => p.Loads > 0 && list.All(l => l.Id != p.Id)))
        {
            validation.Add(
                "product.used",
                $"{gone.Name.Capitalized()} cannot be removed: {(gone.Loads == 1 ? "a load" : $"{gone.Loads} loads")} of it {(gone.Loads == 1 ? "is" : "are")} not delivered.",
                "products"
            );
        }

        return validation.Ok ? list : validation.Problems;
    }

    private static Product Read(ProductOrder? r, int i, List<string?> names, IReadOnlyList<Product> now, Validation validation)
    {
        var at = $"products[{i}]";
        if (r?.ProductId is { } id && now.All(p => p.Id != id))
        {
            validation.Add("unknown", "This product is no longer on the list: reload the page.", $"{at}.name");
        }

        if (r?.LbPerGallon is not { } density)
        {
            validation.Add("missing", "Enter what a gallon weighs, in pounds.", $"{at}.lbPerGallon");
        }
        else if (density is < 4 or > 25 || decimal.Round(density, 3) != density)
        {
            validation.Add("out.of.range", "A gallon weighs 4 to 25 pounds; enter up to three decimals.", $"{at}.lbPerGallon");
        }

        validation.Between(r?.TemperatureF, -60, 400, $"{at}.temperatureF", "The temperature in °F");
        return new Product(
            r?.ProductId ?? 0,
            names[i] ?? "",
            r?.LbPerGallon ?? 0,
            r?.TemperatureF,
            r?.OwnCompartments == true,
            Others(r?.Apart, $"{at}.apart"),
            Others(r?.NotAfter, $"{at}.notAfter")
        );

        IReadOnlyList<string> Others(IReadOnlyList<string?>? given, string field)
        {
            var found = new List<string>();
            foreach (var name in (given ?? []).Select(n => n?.Trim() ?? "").Where(n => n.Length > 0))
            {
                if (names.FirstOrDefault(n => Same(n, name)) is not { } known)
                {
                    validation.Add("unknown", $"{name.Shortened(MaxName)} is not on the list: choose one of its products.", field);
                }
                else if (Same(known, names[i]))
                {
                    validation.Add("itself", $"{known.Capitalized()}: choose another product than itself.", field);
                }
                else if (!found.Contains(known))
                {
                    found.Add(known);
                }
            }

            return found;
        }
    }

    private static bool Same(string? a, string? b) => string.Equals(a, b, StringComparison.OrdinalIgnoreCase);
}

/// <summary>Liquid freight as ordered: a product with gallons or liters.</summary>
/// <param name="Unit">US gallons when null.</param>
/// <param name="OwnCompartments">Whether the order asks for compartments of its own.</param>
public sealed record BulkOrder(long? ProductId, decimal? Volume, VolumeUnit? Unit = null, bool OwnCompartments = false)
{
    /// <summary>More than any tank trailer holds, in US gallons.</summary>
    public const decimal MostGallons = 20_000;

    /// <summary>Reads an order, or says what is wrong with it.</summary>
    /// <param name="products">The company's list.</param>
    /// <param name="at">The path of its fields.</param>
    /// <returns>Its product and gallons; null with problems.</returns>
    public (Product Product, decimal Gallons)? Read(IReadOnlyList<Product> products, string at, string line, Validation validation)
    {
        var product = products.FirstOrDefault(p => p.Id == ProductId);
        if (product is null)
        {
            validation.Add("missing", $"{line}: choose the product from the list.", $"{at}.productId");
        }

        var unit = Unit ?? VolumeUnit.Gallons;
        decimal? gallons = Volume is > 0 and <= 1_000_000 ? Basics.Volume.Gallons(Volume.Value, unit) : null;
        if (gallons is null or <= 0 or > MostGallons)
        {
            validation.Add(
                "out.of.range",
                $"{line}: enter the {(unit == VolumeUnit.Gallons ? "gallons" : "liters")}, more than 0 and at most {MostGallons * (unit == VolumeUnit.Gallons ? 1 : Basics.Volume.LitersPerGallon):#,##0}.",
                $"{at}.volume"
            );
            return null;
        }

        return product is null ? null : (product, gallons.Value);
    }
}
