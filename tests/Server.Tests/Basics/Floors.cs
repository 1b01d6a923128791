using System.Reflection;
using NetArchTest.Rules;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>Dependencies point down, and Core knows neither the world nor the time.</summary>
public class Floors
{
    private static readonly Assembly Core = typeof(SteadyLark.Core.Basics.Money).Assembly;
    private static readonly Assembly Formats = typeof(SteadyLark.Formats.Mail.Eml).Assembly;
    private static readonly Assembly Store = typeof(SteadyLark.Store.Basics.Sql).Assembly;
    private static readonly Assembly Outside = typeof(SteadyLark.Outside.Mail.Mailbox).Assembly;

    private static void Uses(Assembly assembly, params string[] never)
    {
        var result = Types.InAssembly(assembly).ShouldNot().HaveDependencyOnAny(never).GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void Dependencies_point_down()
    {
        Uses(Core, "SteadyLark.Formats", "SteadyLark.Store", "SteadyLark.Outside", "SteadyLark.Server");
        Uses(Formats, "SteadyLark.Store", "SteadyLark.Outside", "SteadyLark.Server");
        Uses(Store, "SteadyLark.Formats", "SteadyLark.Outside", "SteadyLark.Server");
        Uses(Outside, "SteadyLark.Store", "SteadyLark.Server");
    }

    [Fact]
    public void Core_touches_no_file_no_net_no_database_no_json_and_no_clock()
    {
        Uses(
            Core,
            "System.IO.File",
            "System.IO.Directory",
            "System.IO.Stream",
            "System.Net",
            "System.Data",
            "Npgsql",
            "System.Text.Json",
            "Microsoft",
            "NodaTime.SystemClock",
            "System.Diagnostics.Process",
            "System.TimeProvider"
        );
        // The clock's own getters hide in types that Core may use otherwise.
        var clocks = Core.GetTypes()
            .SelectMany(t =>
                t.GetMethods(
                    BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.Static | BindingFlags.Instance | BindingFlags.DeclaredOnly
                )
            )
            .Where(m =>
                m.GetMethodBody() is { } body
                && Called(m, body)
                    .Any(c =>
                        (c.DeclaringType == typeof(DateTime) || c.DeclaringType == typeof(DateTimeOffset))
                        && c.Name is "get_Now" or "get_UtcNow" or "get_Today"
                    )
            );
        Assert.Empty(clocks);
    }

    [Fact]
    public void Tables_are_accessed_without_an_orm()
    {
        var referenced = Store.GetReferencedAssemblies().Concat(typeof(LarkApp).Assembly.GetReferencedAssemblies()).Select(a => a.Name!);
        Assert.DoesNotContain(referenced, n =>
            n.Contains("EntityFramework", StringComparison.Ordinal)
            || n.Contains("Dapper", StringComparison.Ordinal)
            || n.Contains("linq2db", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void Sql_is_written_in_Store_only()
    {
        Assert.False(typeof(SteadyLark.Store.Basics.Sql).IsPublic);
        var above = new[] { Formats, Outside, typeof(LarkApp).Assembly }
            .SelectMany(a => a.GetTypes())
            .SelectMany(t =>
                t.GetMethods(
                    BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.Static | BindingFlags.Instance | BindingFlags.DeclaredOnly
                )
            )
            .Where(m =>
                m.GetMethodBody() is { } body
                && Called(m, body)
                    .Any(c =>
                        c.DeclaringType == typeof(Npgsql.NpgsqlCommand)
                        || c.Name is "CreateCommand" or "CreateBatch" or "BeginBinaryImportAsync" or "BeginTextImportAsync"
                    )
            );
        Assert.Empty(above.Select(m => $"{m.DeclaringType}.{m.Name}"));
    }

    private static IEnumerable<MethodBase> Called(MethodInfo method, MethodBody body)
    {
        var il = body.GetILAsByteArray() ?? [];
        for (var i = 0; i + 4 < il.Length; i++)
        {
            // call, callvirt and newobj: ECMA-335 III.3.19, III.4.2 and III.4.21.
            if (il[i] is 0x28 or 0x6F or 0x73)
            {
                MethodBase? target = null;
                try
                {
                    target = method.Module.ResolveMethod(
                        BitConverter.ToInt32(il, i + 1),
                        method.DeclaringType?.GetGenericArguments(),
                        method.IsGenericMethod ? method.GetGenericArguments() : null
                    );
                }
                catch (Exception e) when (e is ArgumentException or BadImageFormatException)
                {
                    // These four bytes were not a method after all.
                }

                if (target is not null)
                {
                    yield return target;
                }
            }
        }
    }
}
