using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>Asking lists.</summary>
internal static class ListCalls
{
    public static object Filter(string column, string op, params string[] values) =>
        new
        {
            column,
            op,
            values,
        };

    /// <summary>A query with one filter.</summary>
    public static object Where(string column, string op, params string[] values) => new { filters = new[] { Filter(column, op, values) } };

    /// <summary>The answer to a question about the first rows' keys.</summary>
    public static Task<Answer> Keys(this Caller c, string list, object? query = null) =>
        c.Post($"lists/{list}/keys", new { query, count = 1000 });

    /// <summary>The keys of the first rows.</summary>
    public static async Task<List<long>> KeysOf(this Caller c, string list, object? query = null) =>
        (await c.Keys(list, query)).Ok["keys"]!.AsArray().Select(k => k!.GetValue<long>()).ToList();

    /// <summary>Rows by position.</summary>
    public static async Task<List<JsonNode>> RowsOf(
        this Caller c,
        string list,
        object? query,
        string[] columns,
        int from = 0,
        int count = 500
    ) => (
            await c.Post(
                $"lists/{list}/rows",
                new
                {
                    query,
                    from,
                    count,
                    columns,
                }
            )
        ).Ok["rows"]!.AsArray().Select(r => r!).ToList();

    /// <summary>The totals of a query.</summary>
    public static async Task<JsonNode> TotalsOf(this Caller c, string list, object? query, params string[] columns) =>
        (await c.Post($"lists/{list}/totals", new { query, columns })).Ok;

    /// <summary>The exported file.</summary>
    public static async Task<byte[]> ExportOf(this Caller c, string list, object? query, string format, params string[] columns)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/api/lists/{list}/export")
        {
            Content = JsonContent.Create(
                new
                {
                    query,
                    columns,
                    format,
                }
            ),
        };
        request.Headers.Add("X-Lark-Token", c.Token);
        using var answer = await c.Http.SendAsync(request);
        Assert.Equal(System.Net.HttpStatusCode.OK, answer.StatusCode);
        return await answer.Content.ReadAsByteArrayAsync();
    }
}
