using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;

namespace SteadyLark.Server.Tests;

/// <summary>A server in a process of its own, as it runs in production: to be killed, stopped and watched from outside.</summary>
internal sealed class ServerProcess : IDisposable
{
    private readonly Process _process;

    private ServerProcess(Process process, int port) => (_process, Port) = (process, port);

    public int Port { get; }

    public int Id => _process.Id;

    public int ExitCode => _process.ExitCode;

    /// <summary>What it wrote to its console, line by line.</summary>
    public ConcurrentQueue<string> Lines { get; } = new();

    /// <summary>Starts a server on the business's database and waits until it is ready.</summary>
    public static async Task<ServerProcess> Start(TestBusiness business, int? port = null, params (string Name, string Value)[] environment)
    {
        var at = port ?? FreePort();
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "SteadyLark.Server.dll"), "serve"])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        start.Environment["LARK_DATABASE"] = business.Db.AppConnectionString;
        start.Environment["LARK_DATA"] = Path.Combine(Path.GetTempPath(), $"lark-process-{at}");
        start.Environment["LARK_PORT"] = $"{at}";
        foreach (var (name, value) in environment)
        {
            start.Environment[name] = value;
        }

        var process = Process.Start(start)!;
        var server = new ServerProcess(process, at);
        process.OutputDataReceived += (_, line) => server.Keep(line.Data);
        process.ErrorDataReceived += (_, line) => server.Keep(line.Data);
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        await server.Ready();
        return server;
    }

    public void Kill() => _process.Kill(entireProcessTree: true);

    public Task Exited(CancellationToken cancel = default) => _process.WaitForExitAsync(cancel);

    public async Task<Caller> SignIn()
    {
        var caller = new Caller(
            new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() })
            {
                BaseAddress = new Uri($"http://127.0.0.1:{Port}"),
            }
        );
        caller.Token = (await caller.Post("session", new { login = EnumCodec.Of(Role.Owner), password = "steady-lark" })).Ok[
            "token"
        ]!.GetValue<string>();
        return caller;
    }

    public static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    public void Dispose()
    {
        if (!_process.HasExited)
        {
            Kill();
        }

        _process.Dispose();
    }

    private void Keep(string? line)
    {
        if (line is not null)
        {
            Lines.Enqueue(line);
        }
    }

    private async Task Ready()
    {
        using var http = new HttpClient();
        for (var i = 0; i < 300; i++)
        {
            try
            {
                using var answer = await http.GetAsync(new Uri($"http://127.0.0.1:{Port}/readyz"));
                if (answer.IsSuccessStatusCode)
                {
                    return;
                }
            }
            catch (HttpRequestException) when (!_process.HasExited)
            {
                // It is on its way.
            }

            await Task.Delay(100);
        }

        throw new Xunit.Sdk.XunitException($"The server did not start within half a minute: {string.Join(Environment.NewLine, Lines)}");
    }
}
