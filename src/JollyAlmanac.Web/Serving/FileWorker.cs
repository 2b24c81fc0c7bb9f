using System.CommandLine;
using System.Diagnostics;
using System.Runtime.InteropServices;
using System.Text;
using JollyAlmanac.Application.Materials;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Reads files that came in, in a process of its own: anybody who may attach a file could have made one that never comes to an end, wants
/// all memory, or misuses a fault of what reads it. Then that process ends, and nothing else. It is told no secret, may open no file but
/// the one it was given, has no network (<see cref="Landlock"/>), and gives back words or a small picture.
/// </summary>
public sealed class FileWorker : IThumbnails, IDisposable
{
    /// <summary>How long one file may take.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromSeconds(20);

    private const string Name = "read-file";

    // The garbage collector is told this in hexadecimal bytes: 192 MB.
    private const string MostMemory = "0xC000000";

    // A small picture of 480 dots has a tenth of it.
    private const int LargestThumbnail = 1024 * 1024;

    // What .NET needs to know of the machine; all else, passwords among it, is not handed on.
    private static readonly string[] Handed =
    [
        "PATH",
        "LD_LIBRARY_PATH",
        "LANG",
        "TMPDIR",
        "DOTNET_SYSTEM_GLOBALIZATION_INVARIANT",
    ];

    // Where .NET, what it needs and the machine's own libraries lie. Of what the machine tells of processes, its own alone: that of the
    // almanac holds what it was started with.
    private static readonly string[] Readable =
    [
        AppContext.BaseDirectory,
        Root,
        "/usr",
        "/lib",
        "/lib64",
        "/proc/self",
        "/sys/fs/cgroup",
    ];

    // Pictures are asked for by people who wait, many at once: so many processes.
    private readonly SemaphoreSlim few = new(2);

    /// <summary>The words of the PDF or document at a path; empty where it has none, cannot be read, or took too much.</summary>
    /// <param name="path">The file.</param>
    /// <param name="longest">How long it may take.</param>
    /// <param name="stopping">Ends it.</param>
    /// <exception cref="OperationCanceledException">It was ended.</exception>
    public static async Task<string> Words(string path, TimeSpan longest, CancellationToken stopping) =>
        Encoding.UTF8.GetString(await Run("words", path, FileCheck.MostWords * 4, longest, stopping));

    /// <inheritdoc />
    public async Task<byte[]?> Of(string path, CancellationToken stopping)
    {
        await few.WaitAsync(stopping);
        try
        {
            return await Run("thumbnail", path, LargestThumbnail, Longest, stopping) is { Length: > 0 } picture
                ? picture
                : null;
        }
        finally
        {
            few.Release();
        }
    }

    /// <inheritdoc />
    public void Dispose() => few.Dispose();

    private static async Task<byte[]> Run(
        string what,
        string path,
        int most,
        TimeSpan longest,
        CancellationToken stopping
    )
    {
        using var late = CancellationTokenSource.CreateLinkedTokenSource(stopping);
        late.CancelAfter(longest);
        using var reader = new Process { StartInfo = Start(what, path) };
        reader.Start();
        // What it says as it dies is read away, or it would wait for that.
        reader.BeginErrorReadLine();
        try
        {
            reader.PriorityClass = ProcessPriorityClass.BelowNormal;
            var bytes = new byte[most];
            // It writes once it has all: who died before gave nothing.
            var length = await reader.StandardOutput.BaseStream.ReadAtLeastAsync(
                bytes,
                most,
                throwOnEndOfStream: false,
                late.Token
            );
            return bytes[..length];
        }
        catch (Exception end) when (end is InvalidOperationException or OperationCanceledException)
        {
            stopping.ThrowIfCancellationRequested();
            return [];
        }
        finally
        {
            if (!reader.HasExited)
                reader.Kill(entireProcessTree: true);
        }
    }

    /// <summary>What that process runs; of no use to people.</summary>
    internal static Command Verb()
    {
        var what = new Argument<string>("what").AcceptOnlyFromAmong("words", "thumbnail");
        var file = new Argument<FileInfo>("file");
        var command = new Command(Name, "Write the words of a file, or a small picture of it.") { what, file };
        command.Hidden = true;
        command.SetAction(call =>
        {
            // Where nobody is left to end it, it ends itself.
            using var late = new Timer(_ => Environment.Exit(1), null, Longest * 2, Timeout.InfiniteTimeSpan);
            using var bytes = call.GetValue(file)!.OpenRead();
            using var output = Console.OpenStandardOutput();
            Landlock.Restrict(Readable);
            output.Write(
                call.GetValue(what) == "words"
                    ? Encoding.UTF8.GetBytes(FileCheck.WordsIn(bytes))
                    : FileCheck.ThumbnailOf(bytes) ?? []
            );
            return 0;
        });
        return command;
    }

    private static string Root =>
        Path.GetFullPath(Path.Combine(RuntimeEnvironment.GetRuntimeDirectory(), "..", "..", ".."));

    internal static ProcessStartInfo Start(string what, string path)
    {
        // The same .NET that runs the almanac, however it was started.
        var start = new ProcessStartInfo(
            Path.Combine(Root, "dotnet"),
            ["exec", typeof(FileWorker).Assembly.Location, Name, what, path]
        )
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var secret in start.Environment.Keys.Except(Handed).ToList())
            start.Environment.Remove(secret);
        start.Environment["DOTNET_GCHeapHardLimit"] = MostMemory;
        start.Environment["DOTNET_EnableDiagnostics"] = "0";
        return start;
    }
}
