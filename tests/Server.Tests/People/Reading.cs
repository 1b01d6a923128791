using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.People;

/// <summary>Asks every endpoint that answers something, to look for what must not be in the answers.</summary>
internal static class Reading
{
    /// <summary>Everything that can be read, asked for by one caller: the answers' bodies by path.</summary>
    /// <param name="ids">What stands for <c>{id}</c> in an address: each is tried with each address.</param>
    public static async Task<Dictionary<string, string>> Everything(
        TestBusiness business,
        Caller caller,
        IReadOnlyList<long> ids,
        IEnumerable<long> documents,
        IEnumerable<long> emails,
        string driver = "lena",
        string text = "trimmed"
    )
    {
        var answers = new Dictionary<string, string>();
        async Task Read(string path, object? post = null)
        {
            using var request = new HttpRequestMessage(post is null ? HttpMethod.Get : HttpMethod.Post, $"/api/{path}")
            {
                Content = post is null ? null : System.Net.Http.Json.JsonContent.Create(post),
            };
            request.Headers.Add("X-Lark-Token", caller.Token);
            using var answer = await caller.Http.SendAsync(request);
            Assert.True((int)answer.StatusCode < 500, $"{path}: {answer.StatusCode}");
            if (answer.IsSuccessStatusCode)
            {
                answers[path] = answer.Content.Headers.ContentType?.MediaType is "application/pdf"
                    ? "PDF"
                    : await answer.Content.ReadAsStringAsync();
            }
        }

        var paths = business
            .Servers[0]
            .Services.GetRequiredService<EndpointDataSource>()
            .Endpoints.OfType<RouteEndpoint>()
            .Where(e => e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods.Contains("GET") == true)
            .Select(e => e.RoutePattern.RawText!.TrimStart('/'))
            .Where(p =>
                p.StartsWith("api/", StringComparison.Ordinal)
                && !p.Contains("stream", StringComparison.Ordinal)
                && !p.Contains("{token}", StringComparison.Ordinal)
            )
            .Select(p => p[4..])
            .ToList();
        foreach (var path in paths)
        {
            foreach (var id in ids.Distinct())
            {
                var filled = path.Replace("{driverId:long}", $"{business.Ids[driver]}", StringComparison.Ordinal)
                    .Replace("{monday}", "2026-11-16", StringComparison.Ordinal);
                filled = Regex.Replace(filled, @"\{[^}]*\}", $"{id}");
                await Read(
                    $"{filled}?q={text}&from=2026-11-01&until=2026-11-30&kind=load&text=&placeId={business.Ids["from"]}&reference=PO&monday=2026-11-16"
                );
                if (!path.Contains('{', StringComparison.Ordinal))
                {
                    await Read($"{filled}?q={text}&customerId={business.Ids["customer"]}");
                    break;
                }
            }
        }

        foreach (var id in documents)
        {
            await Read($"documents/{id}/file");
        }

        foreach (var id in emails)
        {
            await Read($"emails/{id}");
        }

        foreach (var list in ListCatalog.All)
        {
            var columns = list.Columns.Select(c => c.Id).ToList();
            var query = new { groups = new[] { new { column = columns[0] } } };
            await Read($"lists/{list.Name}/keys", new { query, count = 50 });
            await Read(
                $"lists/{list.Name}/rows",
                new
                {
                    query,
                    count = 50,
                    columns,
                }
            );
            await Read($"lists/{list.Name}/totals", new { query, columns });
            await Read($"lists/{list.Name}/export", new { columns, format = "csv" });
        }

        return answers;
    }

    /// <summary>The addresses whose answers contain one of these texts.</summary>
    public static IEnumerable<string> Holding(Dictionary<string, string> answers, params string[] texts) =>
        answers.Where(a => texts.Any(t => a.Value.Contains(t, StringComparison.Ordinal))).Select(a => a.Key.Split('?')[0]).Distinct();
}
