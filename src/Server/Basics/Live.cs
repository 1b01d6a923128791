using System.Text.Json;
using System.Threading.Channels;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Server.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>
/// Pushes events to open pages as server-sent events (WHATWG HTML § 9.2). One connection listens for the database's
/// NOTIFY; settled events are read once and passed to every page. A page that reconnects names the last event it saw.
/// </summary>
public sealed class Live(NpgsqlDataSource source, CallerReads reads, IHostApplicationLifetime lifetime, ILogger<Live> log)
    : BackgroundService
{
    private readonly Lock _lock = new();
    private readonly HashSet<OpenPage> _pages = [];
    private EventCursor _at;

    /// <summary>The most events replayed to a page that reconnects; beyond that it is told to reload its data.</summary>
    public const int MaxReplay = 2000;

    /// <summary>How often a stream checks that its session is still valid.</summary>
    public static readonly TimeSpan Beat = TimeSpan.FromSeconds(15);

    public async Task Stream(HttpContext http)
    {
        var access = http.User.Access();
        var driver = access.DriverId;
        // A server that stops ends its streams; pages reconnect, to another server if there is one.
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted, lifetime.ApplicationStopping);
        var cancel = ends.Token;
        http.Response.ContentType = "text/event-stream";
        http.Response.Headers.CacheControl = "no-store";
        http.Features.Get<Microsoft.AspNetCore.Http.Features.IHttpResponseBodyFeature>()?.DisableBuffering();
        var page = new OpenPage();
        EventCursor upTo;
        lock (_lock)
        {
            _pages.Add(page);
            upTo = _at;
        }

        try
        {
            var since = EventCursor.Parse(
                http.Request.Headers["Last-Event-ID"].ToString() is { Length: > 0 } header ? header : http.Request.Query["after"].ToString()
            );
            await http.Response.WriteAsync($"retry: 2000\nid: {since ?? upTo}\nevent: hello\ndata: {{}}\n\n", cancel);
            if (since is { } from && !await Replay(http, from, upTo, driver, cancel))
            {
                await Reload(http, upTo, cancel);
            }

            await http.Response.Body.FlushAsync(cancel);
            while (!cancel.IsCancellationRequested)
            {
                using var beat = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                beat.CancelAfter(Beat);
                try
                {
                    var e = await page.Events.Reader.ReadAsync(beat.Token);
                    if (
                        (driver is null ? EventRights.MayHear(access, e.Kind) : driver == e.DriverId || driver == e.CodriverId)
                        && await IsInView(access, e, cancel)
                    )
                    {
                        await Write(http, e, cancel);
                        await http.Response.Body.FlushAsync(cancel);
                    }
                }
                catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
                {
                    await http.Response.WriteAsync(": still here\n\n", cancel);
                    await http.Response.Body.FlushAsync(cancel);
                }

                if (page.FellBehind)
                {
                    // The page could not keep up, so its data may be stale. It starts over from now.
                    page.FellBehind = false;
                    EventCursor at;
                    lock (_lock)
                    {
                        while (page.Events.Reader.TryRead(out _)) { }

                        at = _at;
                    }

                    await Reload(http, at, cancel);
                    await http.Response.Body.FlushAsync(cancel);
                }

                if (page.LastLooked.Elapsed >= Beat)
                {
                    page.LastLooked.Restart();
                    if (!await People.Sessions.Stands(http))
                    {
                        return;
                    }
                }
            }
        }
        catch (OperationCanceledException)
        {
            // The page disconnected.
        }
        finally
        {
            lock (_lock)
            {
                _pages.Remove(page);
            }
        }
    }

    /// <summary>Sends the events a page missed. The connection is returned before anything is written, so a slow reader holds none. False
    /// when it missed too many.</summary>
    private async Task<bool> Replay(HttpContext http, EventCursor from, EventCursor upTo, long? driver, CancellationToken cancel)
    {
        for (var sent = 0; ; )
        {
            List<EventRow> missed;
            await using (var db = await reads.Open(http.User.Access(), cancel))
            {
                missed = await Events.After(db, from, 500, driver);
            }

            foreach (var e in missed)
            {
                from = EventCursor.Parse(e.Cursor)!.Value;
                if (from.IsAfter(upTo))
                {
                    return true;
                }

                if (++sent > MaxReplay)
                {
                    return false;
                }

                if (EventRights.MayHear(http.User.Access(), e.Kind))
                {
                    await Write(http, e, cancel);
                }
            }

            if (missed.Count < 500)
            {
                return true;
            }
        }
    }

    /// <summary>Whether an event is about something a limited user may see.</summary>
    private async Task<bool> IsInView(Access access, EventRow e, CancellationToken cancel)
    {
        if (!access.Limits.IsLimited)
        {
            return true;
        }

        await using var db = await reads.Open(access, cancel);
        return await Reads.SeesAll(db, "events", [e.Id]);
    }

    private static Task Reload(HttpContext http, EventCursor at, CancellationToken cancel) =>
        http.Response.WriteAsync($"id: {at}\nevent: reload\ndata: {{}}\n\n", cancel);

    /// <summary>A connected page.</summary>
    private sealed class OpenPage
    {
        public Channel<EventRow> Events { get; } =
            Channel.CreateBounded<EventRow>(new BoundedChannelOptions(1000) { FullMode = BoundedChannelFullMode.Wait });

        /// <summary>Whether an event did not fit in its queue.</summary>
        public volatile bool FellBehind;

        public System.Diagnostics.Stopwatch LastLooked { get; } = System.Diagnostics.Stopwatch.StartNew();
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await Listen(stoppingToken);
            }
            catch (Exception) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                // Including a canceled wait: in any case, keep listening.
                log.LogWarning("Listening for database events failed ({Reason}); retrying", e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
            }
        }
    }

    private static Task Write(HttpContext http, EventRow e, CancellationToken cancel) =>
        http.Response.WriteAsync(
            $"id: {e.Cursor}\nevent: done\ndata: {JsonSerializer.Serialize(e with { Summary = EventRights.Trim(http.User.Access(), e.Kind, e.Summary) }, Json.Options)}\n\n",
            cancel
        );

    private async Task Listen(CancellationToken cancel)
    {
        await using var listener = await source.OpenConnectionAsync(cancel);
        await Events.Listen(listener);
        await using var reader = await source.OpenConnectionAsync(cancel);
        if (_at == default)
        {
            var newest = await Events.Newest(reader);
            lock (_lock)
            {
                _at = newest;
            }
        }

        while (true)
        {
            await HandOn(reader);
            // If something is written but not settled yet (an older transaction is still running), check again soon.
            await listener.WaitAsync(await Events.Unsettled(reader, _at) ? 100 : 30_000, cancel);
        }
    }

    private async Task HandOn(NpgsqlConnection reader)
    {
        List<EventRow> events;
        do
        {
            events = await Events.After(reader, _at, 500);
            lock (_lock)
            {
                foreach (var e in events)
                {
                    _at = EventCursor.Parse(e.Cursor)!.Value;
                    foreach (var page in _pages)
                    {
                        if (!page.Events.Writer.TryWrite(e))
                        {
                            page.FellBehind = true;
                        }
                    }
                }
            }
        } while (events.Count == 500);
    }
}
