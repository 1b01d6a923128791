namespace SteadyLark.Store.Basics;

/// <summary>The request that used an idempotency key, and its answer as JSON.</summary>
public sealed record KnownRequest(string Route, byte[] Hash, string Answer);

/// <summary>Idempotency keys: each is used for one request of one user.</summary>
public static class IdempotencyStore
{
    /// <summary>Takes a key. Null when it is new; otherwise what it was used for. A second call waits here until the first commits or rolls
    /// back.</summary>
    public static async Task<KnownRequest?> Take(CommandContext w, string key, string route, byte[] hash)
    {
        var isNew =
            await w.Db.Run(
                """
                insert into idempotency_keys (user_id, key, route, request_hash, at) values (@user, @key, @route, @hash, @now) on conflict
                do nothing
                """,
                ("user", w.Actor.UserId),
                ("key", key),
                ("route", route),
                ("hash", hash),
                ("now", w.Now)
            ) == 1;
        return isNew
            ? null
            : await w.Db.Row(
                "select route, request_hash, answer from idempotency_keys where user_id = @user and key = @key",
                r => new KnownRequest(r.Text("route"), r.GetFieldValue<byte[]>(1), r.Text("answer")),
                ("user", w.Actor.UserId),
                ("key", key)
            );
    }

    /// <summary>Keeps the answer, for the next time the key is sent.</summary>
    public static Task Keep(CommandContext w, string key, string answer) =>
        w.Db.Run(
            "update idempotency_keys set answer = @answer::jsonb where user_id = @user and key = @key",
            ("answer", answer),
            ("user", w.Actor.UserId),
            ("key", key)
        );
}
