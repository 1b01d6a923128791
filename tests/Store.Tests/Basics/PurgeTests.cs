using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Store.Basics;
using Xunit;

namespace SteadyLark.Store.Tests.Basics;

public class PurgeTests(Stocked s) : IClassFixture<Stocked>
{
    [Fact]
    public async Task Technical_records_go_after_their_time_and_not_before()
    {
        await using var w = await s.Begin();
        var user = await w.Db.One<long>(
            "insert into users (login, name, role_id, for_drivers) select 'purge', 'Purge Test', id, for_drivers from roles where standard = 'owner' returning id"
        );
        async Task Add(Duration age)
        {
            var at = Stocked.Now - age;
            await w.Db.Run(
                "insert into idempotency_keys (user_id, key, route, request_hash, at) values (@user, @key, 'POST /', '\\x00', @at)",
                ("user", user),
                ("key", $"key {age}"),
                ("at", at)
            );
            await w.Db.Run(
                "insert into sessions (id, user_id, started_at, ends_at, address, confirmed_at, last_seen_at) values (gen_random_uuid(), @user, @at - interval '1 day', @at, 'x', @at, @at)",
                ("user", user),
                ("at", at)
            );
            await w.Db.Run(
                "insert into account_links (token_hash, kind, user_id, created_at, ends_at) values (encode(sha256(@at::text::bytea), 'hex'), 'reset', @user, @at - interval '1 day', @at)",
                ("user", user),
                ("at", at)
            );
            await w.Db.Run("insert into sign_in_failures (login, address, at) values ('purge', 'x', @at)", ("at", at));
        }

        // As old as each may be, and a minute older.
        foreach (var kept in new[] { Retention.IdempotencyKeys, Retention.Sessions, Retention.SignInFailures })
        {
            await Add(kept);
            await Add(kept + Duration.FromMinutes(1));
        }

        Assert.True(await PurgeStore.Purge(w.Db, Stocked.Now) > 0);
        Assert.Equal(0, await PurgeStore.Purge(w.Db, Stocked.Now));
        foreach (
            var (table, column, kept) in new[]
            {
                ("idempotency_keys", "at", Retention.IdempotencyKeys),
                ("sessions", "ends_at", Retention.Sessions),
                ("account_links", "ends_at", Retention.AccountLinks),
                ("sign_in_failures", "at", Retention.SignInFailures),
            }
        )
        {
            Assert.Equal(Stocked.Now - kept, await w.Db.One<Instant>($"select min({column}) from {table}"));
        }
    }
}
