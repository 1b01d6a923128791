using System.Text.Json;
using System.Threading.Channels;
using Npgsql;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Basics;

/// <summary>
/// Sends events on to open pages as server-sent events (WHATWG HTML § 9.2). One connection listens for the database's
/// NOTIFY; what is settled is read once and handed to every page. A page that was away names the last event it saw.
/// </summary>
public sealed class Live(NpgsqlDataSource source, ILogger<Live> log) : BackgroundService
{
    private readonly Lock _lock = new();
    private readonly HashSet<Channel<EventRow>> _pages = [];
    private EventCursor _at;

    public async Task Stream(HttpContext http)
    {
        var driver = http.User.Role() == Role.Driver ? http.User.DriverId() : null;
        var cancel = http.RequestAborted;
        http.Response.ContentType = "text/event-stream";
        http.Response.Headers.CacheControl = "no-store";
        http.Features.Get<Microsoft.AspNetCore.Http.Features.IHttpResponseBodyFeature>()?.DisableBuffering();
        var channel = Channel.CreateBounded<EventRow>(new BoundedChannelOptions(1000) { FullMode = BoundedChannelFullMode.DropWrite });
        EventCursor upTo;
        lock (_lock)
        {
            _pages.Add(channel);
            upTo = _at;
        }

        try
        {
            var since = EventCursor.Parse(http.Request.Headers["Last-Event-ID"].ToString() is { Length: > 0 } header ? header : http.Request.Query["after"].ToString());
            await http.Response.WriteAsync($"retry: 2000\nid: {since ?? upTo}\nevent: hello\ndata: {{}}\n\n", cancel);
            if (since is { } from)
            {
                await using var db = await source.OpenConnectionAsync(cancel);
                for (var missed = await Events.After(db, from, 500, driver); missed.Count > 0; missed = await Events.After(db, from, 500, driver))
                {
                    foreach (var e in missed)
                    {
                        from = EventCursor.Parse(e.Cursor)!.Value;
                        if (!IsAfter(from, upTo))
                        {
                            await Write(http, e, cancel);
                        }
                    }

                    if (IsAfter(from, upTo))
                    {
                        break;
                    }
                }
            }

            await http.Response.Body.FlushAsync(cancel);
            while (!cancel.IsCancellationRequested)
            {
                using var beat = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                beat.CancelAfter(TimeSpan.FromSeconds(20));
                try
                {
                    var e = await channel.Reader.ReadAsync(beat.Token);
                    if (driver is null || e.DriverId == driver)
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
            }
        }
        catch (OperationCanceledException)
        {
            // The page went away.
        }
        finally
        {
            lock (_lock)
            {
                _pages.Remove(channel);
            }
        }
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
                // Also a wait that was broken off: whatever it is, who listens goes on listening.
                log.LogWarning("Listening for database events failed ({Reason}); retrying", e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
            }
        }
    }

    private static bool IsAfter(EventCursor a, EventCursor b) => a.Xid > b.Xid || (a.Xid == b.Xid && a.Id > b.Id);

    private static Task Write(HttpContext http, EventRow e, CancellationToken cancel) =>
        http.Response.WriteAsync($"id: {e.Cursor}\nevent: done\ndata: {JsonSerializer.Serialize(e, Json.Options)}\n\n", cancel);

    private async Task Listen(CancellationToken cancel)
    {
        await using var listener = await source.OpenConnectionAsync(cancel);
        await listener.Run("listen lark_events");
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
            // Something written but not settled yet (an older transaction still runs) is asked for again soon.
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
                        page.Writer.TryWrite(e);
                    }
                }
            }
        }
        while (events.Count == 500);
    }
}
