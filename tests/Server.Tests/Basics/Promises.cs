using System.Net;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using SteadyLark.Core.People;
using SteadyLark.Server.Basics;
using Xunit;

namespace SteadyLark.Server.Tests.Basics;

/// <summary>What holds for every endpoint.</summary>
public class Promises(TestBusiness business) : IClassFixture<TestBusiness>
{
    private IEnumerable<RouteEndpoint> Endpoints =>
        business.Servers[0].Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>();

    [Fact]
    public void Every_endpoint_states_its_right_or_why_it_is_open()
    {
        var silent = Endpoints
            .Where(e => e.Metadata.GetMetadata<NeedsRight>() is null && e.Metadata.GetMetadata<AllowsAnyone>() is null)
            .Select(e => e.DisplayName);
        Assert.Empty(silent);
        Assert.Equal(
            [
                "/api-reference/favicon.svg",
                "/api-reference/scalar.aspnetcore.js",
                "/api-reference/scalar.js",
                "/api-reference/{documentName?}",
                "/api/accept/{token}",
                "/api/accept/{token}",
                "/api/accept/{token}/decline",
                "/api/accept/{token}/dispatch",
                "/api/account-links/{token}",
                "/api/account-links/{token}/company",
                "/api/account-links/{token}/password",
                "/api/devices/{token}/positions",
                "/api/password-reset",
                "/api/session",
                "/api/track/{token}",
                "/api/upload/{token}",
                "/api/upload/{token}",
                "/healthz",
                "/openapi/{documentName}.json",
                "/readyz",
            ],
            Endpoints
                .Where(e => e.Metadata.GetMetadata<AllowsAnyone>() is not null)
                .Select(e => "/" + e.RoutePattern.RawText!.TrimStart('/'))
                .Order(StringComparer.Ordinal)
        );
    }

    [Fact]
    public async Task Every_endpoint_refuses_anonymous_callers_and_roles_without_its_right()
    {
        var tried = 0;
        foreach (var endpoint in Endpoints.Where(e => e.Metadata.GetMetadata<NeedsRight>() is not null).ToList())
        {
            var right = endpoint.Metadata.GetMetadata<NeedsRight>()!.Right;
            var method = new HttpMethod(endpoint.Metadata.GetMetadata<HttpMethodMetadata>()!.HttpMethods[0]);
            var path =
                "/"
                + System.Text.RegularExpressions.Regex.Replace(
                    endpoint.RoutePattern.RawText!.TrimStart('/').Replace("{id:guid}", $"{Guid.Empty}", StringComparison.Ordinal),
                    @"\{[^}]*\}",
                    "1"
                )
                + "?q=x&kind=pod";
            Assert.Equal(HttpStatusCode.Unauthorized, (await business.Nobody().Send(method, path, null)).Status);
            tried++;
        }

        foreach (var role in Enum.GetValues<Role>())
        {
            var caller = await business.As(role);
            foreach (
                var endpoint in Endpoints
                    .Where(e => e.Metadata.GetMetadata<NeedsRight>() is { } n && !n.IsMet(Rights.Of(role).Contains))
                    .ToList()
            )
            {
                var method = new HttpMethod(endpoint.Metadata.GetMetadata<HttpMethodMetadata>()!.HttpMethods[0]);
                var path =
                    "/"
                    + System.Text.RegularExpressions.Regex.Replace(
                        endpoint.RoutePattern.RawText!.TrimStart('/').Replace("{id:guid}", $"{Guid.Empty}", StringComparison.Ordinal),
                        @"\{[^}]*\}",
                        "1"
                    )
                    + "?q=x&kind=pod";
                Assert.True((await caller.Send(method, path, null)).Status == HttpStatusCode.Forbidden, $"{role} {method} {path}");
                tried++;
            }
        }

        Assert.True(tried > 150, $"only {tried} were tried");
    }

    [Fact]
    public async Task A_command_without_the_csrf_token_is_refused()
    {
        var owner = await business.As(Role.Owner);
        owner.Token = null;
        Assert.Equal("token", (await owner.Post("loads", business.Order())).Code);
        owner.Token = "something else";
        Assert.Equal("token", (await owner.Post("loads", business.Order())).Code);
    }

    [Fact]
    public async Task An_idempotency_key_acts_once_and_repeats_the_answer()
    {
        var owner = await business.As(Role.Owner);
        var draw = new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(75m) };
        var all = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => owner.Post("advances", draw, "the-same-key-1")));
        Assert.Single(all.Select(a => a.Ok.ToJsonString()).Distinct());
        Assert.Equal(
            "idempotency.reused",
            (await owner.Post("advances", new { driverId = business.Ids["lena"], amount = TestBusiness.Usd(80m) }, "the-same-key-1")).Code
        );
        Assert.Equal("idempotency.key", (await owner.Post("advances", draw)).Code);
        var lines = (await owner.Get("ledger/lines?account=1300")).Ok["rows"]!.AsArray();
        Assert.Single(lines, l => l!["driver"]?.GetValue<string>() == "L. Haugen");
    }

    [Fact]
    public async Task A_stale_version_gets_409_with_the_current_one()
    {
        var (one, other) = (await business.As(Role.Broker), await business.As(Role.Dispatcher, 1));
        var load = (await one.Post("loads", business.Order(3, "PO stale"))).Id;
        var version = (await one.Get($"loads/{load}")).Ok["sheet"]!["load"]!["version"]!.GetValue<int>();
        _ = (await other.Put($"loads/{load}", business.Order(3, "PO newer"), version)).Ok;
        var stale = await one.Put($"loads/{load}", business.Order(3, "PO mine"), version);
        Assert.Equal((HttpStatusCode.Conflict, "stale"), (stale.Status, stale.Code));
        Assert.Equal("PO newer", stale.Body!["newest"]!["sheet"]!["load"]!["reference"]!.GetValue<string>());
    }

    [Fact]
    public async Task Of_two_concurrent_assignments_of_a_driver_one_succeeds()
    {
        var owner = await business.As(Role.Owner);
        var loads = new List<long>();
        for (var i = 0; i < 4; i++)
        {
            loads.Add((await owner.Post("loads", business.Order(7, $"PO race {i}"))).Id);
        }

        var body = new
        {
            driverId = business.Ids["lena"],
            truckId = business.Ids["lena truck"],
            trailerId = business.Ids["lena trailer"],
        };
        var answers = await Task.WhenAll(loads.Select(l => owner.Post($"loads/{l}/cover/driver", body)));
        Assert.Single(answers, a => a.Status == HttpStatusCode.OK);
        Assert.All(answers.Where(a => a.Status != HttpStatusCode.OK), a => Assert.Contains("busy", a.Code, StringComparison.Ordinal));
    }

    [Fact]
    public async Task Password_guessing_is_limited_for_a_while()
    {
        var nobody = business.Nobody();
        for (var i = 0; i < SignInLimits.MaxBoth; i++)
        {
            Assert.Equal(
                HttpStatusCode.Unauthorized,
                (await nobody.Post("session", new { login = "read_only", password = "wrong" })).Status
            );
        }

        Assert.Equal(
            HttpStatusCode.TooManyRequests,
            (await nobody.Post("session", new { login = "read_only", password = "steady-lark" })).Status
        );
        business.Clock.Now += SignInLimits.Window + Duration.FromSeconds(1);
        Assert.Equal(HttpStatusCode.OK, (await nobody.Post("session", new { login = "read_only", password = "steady-lark" })).Status);
        business.Clock.Now = Instant.FromUtc(2026, 11, 23, 16, 42);
    }

    [Fact]
    public async Task Signing_out_ends_the_session_on_every_server()
    {
        var owner = await business.As(Role.Owner);
        var cookie = owner.Http;
        using var elsewhere = new HttpRequestMessage(HttpMethod.Get, new Uri(new Uri(business.Servers[1].Urls.First()), "/api/today"));
        Assert.Equal(HttpStatusCode.OK, (await cookie.SendAsync(elsewhere)).StatusCode);
        _ = await owner.Send(HttpMethod.Delete, "session", null);
        using var again = new HttpRequestMessage(HttpMethod.Get, new Uri(new Uri(business.Servers[1].Urls.First()), "/api/today"));
        Assert.Equal(HttpStatusCode.Unauthorized, (await cookie.SendAsync(again)).StatusCode);
    }

    [Fact]
    public async Task A_driver_sees_nothing_of_another_drivers_load()
    {
        var (owner, driver) = (await business.As(Role.Owner), await business.As(Role.Driver));
        var load = (await owner.Post("loads", business.Order(2, "PO not his"))).Id;
        var stop = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["stops"]![0]!["id"]!.GetValue<long>();
        Assert.Equal(HttpStatusCode.NotFound, (await driver.Post($"mine/loads/{load}/stops/{stop}", new { @event = "arrived" })).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await driver.Upload($"mine/loads/{load}/documents?kind=pod&name=x.pdf", [1])).Status);
        Assert.DoesNotContain((await driver.Get("mine/loads")).Ok.AsArray(), l => l!["id"]!.GetValue<long>() == load);
    }

    [Theory]
    [InlineData("loads", """{"customerId":"seven"}""", "customerId")]
    [InlineData("loads", """{"charges":[{"kind":"line_haul","amount":{"amount":"ten","currency":"USD"}}]}""", "charges[0].amount")]
    [InlineData("loads", """{"stops":[{"kind":"sideways"}]}""", "stops[0].kind")]
    [InlineData("loads", """{"stops":[{"from":"2026-13-45T99:00:00"}]}""", "stops[0].from")]
    [InlineData("loads", "not json", null)]
    public async Task Unreadable_input_names_its_field_and_is_never_a_server_error(string path, string json, string? field)
    {
        var owner = await business.As(Role.Owner);
        var answer = await owner.Send(HttpMethod.Post, path, new StringContent(json, System.Text.Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.BadRequest, answer.Status);
        Assert.Equal(field, answer.Fields.Single());
    }

    [Fact]
    public async Task Paging_by_key_returns_every_load_once()
    {
        var owner = await business.As(Role.Owner);
        for (var i = 0; i < 5; i++)
        {
            _ = (await owner.Post("loads", business.Order(6, $"PO page {i}"))).Ok;
        }

        var whole = (await owner.Get("loads?view=open&limit=500")).Ok["rows"]!.AsArray().Select(Id).ToList();
        var paged = new List<long>();
        string? after = null;
        do
        {
            var page = (await owner.Get($"loads?view=open&limit=2{(after is null ? "" : $"&after={after}")}")).Ok;
            paged.AddRange(page["rows"]!.AsArray().Select(Id));
            after = page["next"]?.GetValue<string>();
        } while (after is not null);
        Assert.Equal(whole, paged);

        static long Id(JsonNode? row) => row!["load"]!["id"]!.GetValue<long>();
    }

    [Fact]
    public async Task Pages_allow_nothing_from_elsewhere()
    {
        using var response = await business.Nobody().Http.GetAsync(new Uri("/readyz", UriKind.Relative));
        var policy = response.Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("default-src 'none'", policy, StringComparison.Ordinal);
        Assert.DoesNotContain("unsafe-inline", policy, StringComparison.Ordinal);
        Assert.DoesNotContain("http", policy, StringComparison.Ordinal);
    }
}
