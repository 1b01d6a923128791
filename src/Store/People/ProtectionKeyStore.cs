using System.Xml.Linq;
using Npgsql;
using SteadyLark.Store.Basics;

namespace SteadyLark.Store.People;

/// <summary>Keys that protect cookies and tokens, as XML.</summary>
public static class ProtectionKeyStore
{
    public static Task<List<XElement>> All(NpgsqlConnection db) =>
        db.Rows("select xml from protection_keys", r => XElement.Parse(r.Text("xml")));

    public static Task Add(NpgsqlConnection db, string name, XElement key) =>
        db.Run(
            "insert into protection_keys (name, xml) values (@name, @xml) on conflict (name) do nothing",
            ("name", name),
            ("xml", key.ToString(SaveOptions.DisableFormatting))
        );
}
