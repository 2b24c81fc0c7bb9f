using System.CommandLine;
using System.Diagnostics;
using System.Runtime.InteropServices;
using System.Text;
using JollyAlmanac.Application.Materials;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Reads the words of PDFs in a process of its own, as anybody who may attach a file could have made one that never comes to an end or
/// wants all memory: then that process ends, and nothing else. It is told no secret and gives back text alone.
/// </summary>
public static class PdfWords
{
    /// <summary>How long one file may take.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromSeconds(20);

    private const string Name = "words-of-pdf";

    // The garbage collector is told this in hexadecimal bytes: 192 MB.
    private const string MostMemory = "0xC000000";

    // What .NET needs to know of the machine; all else, passwords among it, is not handed on.
    private static readonly string[] Handed = ["PATH", "LD_LIBRARY_PATH", "LANG", "TMPDIR", "DOTNET_SYSTEM_GLOBALIZATION_INVARIANT"];

    /// <summary>The words of the PDF at a path; empty where it has none, cannot be read, or took too much.</summary>
    /// <param name="path">The file.</param>
    /// <param name="longest">How long it may take.</param>
    /// <param name="stopping">Ends it.</param>
    /// <exception cref="OperationCanceledException">It was ended.</exception>
    public static async Task<string> Of(string path, TimeSpan longest, CancellationToken stopping)
    {
        using var late = CancellationTokenSource.CreateLinkedTokenSource(stopping);
        late.CancelAfter(longest);
        using var reader = new Process { StartInfo = Start(path) };
        reader.Start();
        // What it says as it dies is read away, or it would wait for that.
        reader.BeginErrorReadLine();
        try
        {
            reader.PriorityClass = ProcessPriorityClass.BelowNormal;
            var text = new char[FileCheck.MostWords];
            var length = await reader.StandardOutput.ReadBlockAsync(text.AsMemory(), late.Token);
            // It writes once it has all: who died before gave nothing.
            return new string(text, 0, length);
        }
        catch (Exception end) when (end is InvalidOperationException or OperationCanceledException)
        {
            stopping.ThrowIfCancellationRequested();
            return "";
        }
        finally
        {
            if (!reader.HasExited) reader.Kill(entireProcessTree: true);
        }
    }

    /// <summary>What that process runs; of no use to people.</summary>
    internal static Command Verb()
    {
        var file = new Argument<FileInfo>("file");
        var command = new Command(Name, "Write the words of a PDF.") { file };
        command.Hidden = true;
        command.SetAction(call =>
        {
            // Where nobody is left to end it, it ends itself.
            using var late = new Timer(_ => Environment.Exit(1), null, Longest * 2, Timeout.InfiniteTimeSpan);
            using var output = Console.OpenStandardOutput();
            output.Write(Encoding.UTF8.GetBytes(FileCheck.WordsOfPdf(call.GetValue(file)!.FullName)));
            return 0;
        });
        return command;
    }

    internal static ProcessStartInfo Start(string path)
    {
        // The same .NET that runs the almanac, however it was started.
        var dotnet = Path.Combine(RuntimeEnvironment.GetRuntimeDirectory(), "..", "..", "..", "dotnet");
        var start = new ProcessStartInfo(Path.GetFullPath(dotnet), ["exec", typeof(PdfWords).Assembly.Location, Name, path])
        {
            RedirectStandardOutput = true, RedirectStandardError = true, StandardOutputEncoding = Encoding.UTF8,
        };
        foreach (var secret in start.Environment.Keys.Except(Handed).ToList()) start.Environment.Remove(secret);
        start.Environment["DOTNET_GCHeapHardLimit"] = MostMemory;
        start.Environment["DOTNET_EnableDiagnostics"] = "0";
        return start;
    }
}

/// <summary>Looks every few seconds for PDFs whose words are still to be read.</summary>
public sealed partial class PdfKeeper(SendFiles files, ILogger<PdfKeeper> log) : Rounds(TimeSpan.FromSeconds(5))
{
    [LoggerMessage(LogLevel.Warning, "The words of PDFs could not be read: {Reason}")]
    private static partial void NotRead(ILogger log, string reason);

    /// <inheritdoc />
    protected override Task Go(CancellationToken stopping) => Read(stopping);

    /// <summary>Reads all that are there to be read.</summary>
    public Task Read(CancellationToken stopping) =>
        files.ReadPdfs((path, ending) => PdfWords.Of(path, PdfWords.Longest, ending), stopping);

    private string? told;

    // No name of a file is told; and the same thing not every few seconds.
    /// <inheritdoc />
    protected override void Failed(Exception failure)
    {
        if (told == failure.GetType().Name) return;
        told = failure.GetType().Name;
        NotRead(log, told);
    }
}
