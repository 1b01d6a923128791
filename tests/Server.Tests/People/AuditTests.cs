using System.Text.Json.Nodes;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;
using Xunit;

namespace SteadyLark.Server.Tests.People;

/// <summary>The audit log: what is in it, who cannot change it, and that a change is found.</summary>
public sealed class AuditTests : IAsyncLifetime
{
    private readonly TestBusiness _business = new();

    public Task InitializeAsync() => _business.InitializeAsync();

    public Task DisposeAsync() => _business.DisposeAsync();

    private static List<JsonNode> Entries(JsonNode found, string kind) =>
        found.AsArray().Where(e => e!["kind"]!.GetValue<string>() == kind).Select(e => e!).ToList();

    [Fact]
    public async Task It_records_who_did_what_from_where_with_before_and_after()
    {
        var owner = await _business.As(Role.Owner);
        Assert.Equal("sign.in.wrong", (await _business.Nobody().Post("session", new { login = "broker", password = "a guess" })).Code);
        _ = (await owner.Put("company-settings", new { rateStep = 50 })).Ok;
        var load = (await owner.Post("loads", _business.Order(5, "PO audited"))).Id;
        _ = (await owner.Post($"loads/{load}/cancel", new { why = "by mistake" })).Ok;
        using var export = await Export(owner);
        Assert.True(export.IsSuccessStatusCode);
        var all = (await owner.Get("audit")).Ok;
        Assert.Equal("127.0.0.1", Assert.Single(Entries(all, "session.failed"))["address"]!.GetValue<string>());
        Assert.Contains(Entries(all, "session.began"), e => e["who"]!.GetValue<string>() == "The owner");
        var changed = Assert.Single(Entries(all, "setup.company_changed"));
        Assert.Equal(50, JsonNode.Parse(changed["after"]!.GetValue<string>())!["rateStep"]!.GetValue<decimal>());
        Assert.NotEqual(50, JsonNode.Parse(changed["before"]!.GetValue<string>())!["rateStep"]!.GetValue<decimal>());
        Assert.Contains(
            "list of loads",
            Assert.Single(Entries(all, "export.made"))["summary"]!.GetValue<string>(),
            StringComparison.Ordinal
        );

        // Found by person, record, time and text.
        var number = (await owner.Get($"loads/{load}")).Ok["sheet"]!["load"]!["number"]!.GetValue<string>();
        Assert.Equal(
            ["load.cancelled", "load.booked"],
            (await owner.Get($"audit?load={number}")).Ok.AsArray().Select(e => e!["kind"]!.GetValue<string>())
        );
        var broker = await _business.As(Role.Broker);
        var brokerId = (await broker.Get("session")).Ok["userId"]!.GetValue<long>();
        Assert.All((await owner.Get($"audit?userId={brokerId}")).Ok.AsArray(), e =>
            Assert.Equal("The broker", e!["who"]!.GetValue<string>())
        );
        Assert.Empty((await owner.Get("audit?until=2026-11-01")).Ok.AsArray());
        Assert.NotEmpty((await owner.Get("audit?text=by mistake&from=2026-11-23&until=2026-11-23")).Ok.AsArray());
        Assert.Equal("no.right", (await broker.Get("audit")).Code);
    }

    private static async Task<HttpResponseMessage> Export(Caller caller)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/lists/loads/export")
        {
            Content = System.Net.Http.Json.JsonContent.Create(new { format = "csv" }),
        };
        request.Headers.Add("X-Lark-Token", caller.Token);
        return await caller.Http.SendAsync(request);
    }

    [Fact]
    public async Task The_applications_role_cannot_change_it_or_gain_rights_to()
    {
        await using var source = Database.Open(_business.Db.AppConnectionString);
        await using var db = await source.OpenConnectionAsync();
        Assert.False(await db.One<bool>("select rolsuper or rolcreaterole or rolcreatedb from pg_roles where rolname = current_user"));
        foreach (
            var sql in new[]
            {
                "update events set summary = 'x'",
                "delete from events",
                "truncate events",
                "truncate events cascade",
                "alter table events disable trigger all",
                "drop table event_chain",
                "insert into event_chain values (1, 1, sha256(''))",
                "update event_chain set hash = sha256('')",
                "create or replace function refuse_change() returns trigger language plpgsql as $$ begin return new; end $$",
                "set session_replication_role = replica",
                "set role lark",
                "delete from entries",
                "update entries set memo = 'x'",
                "truncate entry_lines",
                "create table mine (n int)",
                "copy (select 1) to program 'true'",
            }
        )
        {
            await using var tx = await db.BeginTransactionAsync();
            Assert.True(await Refused(db, sql), sql);
        }
    }

    private static async Task<bool> Refused(NpgsqlConnection db, string sql)
    {
        try
        {
            await db.Run(sql);
            return false;
        }
        catch (PostgresException e)
        {
            // Insufficient privilege, or refused by our own trigger.
            return e.SqlState is "42501" or "LK001";
        }
    }

    [Fact]
    public async Task A_change_by_the_databases_owner_is_detected()
    {
        var caller = await _business.As(Role.Owner);
        for (var i = 0; i < 5; i++)
        {
            _ = (await caller.Post("loads", _business.Order(5 + i, $"PO chain {i}"))).Ok;
        }

        await using var db = await _business.Db.Source.OpenConnectionAsync();
        while (await AuditStore.Seal(db) > 0) { }

        var before = await AuditStore.Verify(db);
        Assert.Empty(before.Broken);
        Assert.True(before.Entries >= 6);
        _ = (await caller.Post("loads", _business.Order(4, "PO later"))).Ok;
        await AuditStore.Seal(db);
        Assert.Empty((await AuditStore.Verify(db, before.Head)).Broken);

        // Each in a transaction that is rolled back.
        Assert.Contains(
            "was changed",
            await After(db, "update events set summary = 'nothing' where id = (select max(id) - 2 from events)"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "was changed",
            await After(db, "update events set user_id = null where id = (select min(id) from events where user_id is not null)"),
            StringComparison.Ordinal
        );
        Assert.Contains("was changed", await After(db, "update event_chain set hash = sha256('x') where n = 2"), StringComparison.Ordinal);
        Assert.Contains("missing", await After(db, "delete from event_chain where n = 3"), StringComparison.Ordinal);
        // One who makes the whole chain anew is found by a head that was noted before.
        Assert.Contains(
            "head",
            await After(
                db,
                "update events set summary = 'nothing' where id = (select min(id) from events); delete from event_chain; select seal_events(100000, 100000)",
                before.Head
            ),
            StringComparison.Ordinal
        );
        Assert.Empty((await AuditStore.Verify(db)).Broken);
    }

    private static async Task<string> After(NpgsqlConnection db, string tampering, string? knownHead = null)
    {
        await db.Run("alter table events disable trigger user; alter table event_chain disable trigger user");
        await db.Run("create table kept_events as select * from events; create table kept_chain as select * from event_chain");
        await db.Run(tampering);
        var report = await AuditStore.Verify(db, knownHead);
        await db.Run(
            "delete from event_chain; update events e set summary = k.summary, user_id = k.user_id from kept_events k where k.id = e.id and (k.summary, k.user_id) is distinct from (e.summary, e.user_id); insert into event_chain select * from kept_chain"
        );
        await db.Run(
            "drop table kept_events, kept_chain; alter table events enable trigger user; alter table event_chain enable trigger user"
        );
        return string.Join(' ', report.Broken);
    }
}
