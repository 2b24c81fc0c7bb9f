using System.IO.Compression;
using System.Text;
using JollyAlmanac.Demo;
using JollyAlmanac.Web.Serving;
using JollyAlmanac.Web.Serving.Jobs;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace JollyAlmanac.Web.Tests;

/// <summary>What is in files is read in a process of its own; whatever is in them, the almanac goes on.</summary>
public sealed class FileWorkerTests(DemoServer server) : IClassFixture<DemoServer>, IDisposable
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly string directory = Directory.CreateTempSubdirectory("almanac-pdf-").FullName;

    public void Dispose() => Directory.Delete(directory, recursive: true);

    // Shapes of ISO 32000-2: text operators (9.4), the standard encoding with its ligatures (annex D), page trees (7.7.3), forms
    // (8.10) and filters (7.4). What is expected is what a person reads on the page.
    public static TheoryData<string, string> Files =>
        new()
        {
            { "words", "Zostera beds in the estuary at low water, 5- Kelp flow first" },
            { "packed", "Zostera beds" },
            { "nothing on it", "" },
            { "a page tree that is its own leaf", "" },
            { "a form within itself", "" },
            { "two gigabytes of spaces in a nutshell", "" },
            { "a million brackets", "" },
            { "torn off", "" },
            { "no PDF at all", "" },
            { "not there", "" },
        };

    [Theory]
    [MemberData(nameof(Files))]
    public async Task Words_are_read_or_there_are_none(string what, string words)
    {
        var path = Path.Combine(directory, "file");
        if (what != "not there")
            await File.WriteAllBytesAsync(path, Bytes(what), Stop);
        Assert.Equal(words, await FileWorker.Words(path, FileWorker.Longest, Stop));
    }

    [Fact]
    public async Task It_ends_in_time_and_is_told_no_secret()
    {
        var path = Path.Combine(directory, "file");
        await File.WriteAllBytesAsync(path, Bytes("words"), Stop);
        Assert.Equal("", await FileWorker.Words(path, TimeSpan.Zero, Stop));
        using (var stopped = new CancellationTokenSource())
        {
            await stopped.CancelAsync();
            await Assert.ThrowsAnyAsync<OperationCanceledException>(() =>
                FileWorker.Words(path, FileWorker.Longest, stopped.Token)
            );
        }

        Environment.SetEnvironmentVariable("ALMANAC_SMTP_PASSWORD", "kept to myself");
        var told = FileWorker.Start("words", path).Environment;
        Assert.DoesNotContain(told, one =>
            one.Key.StartsWith("ALMANAC", StringComparison.Ordinal) || one.Value == "kept to myself"
        );
        Assert.Equal("0xC000000", told["DOTNET_GCHeapHardLimit"]);
    }

    // No file but its own, none to write, no network; what it has open stays so (landlock(7)). A kernel without it restricts nothing.
    [Fact]
    public void Who_reads_a_file_opens_no_other()
    {
        if (!Directory.Exists("/proc/self"))
            Assert.Skip("No Linux.");
        var (mine, other) = (Path.Combine(directory, "mine"), Path.Combine(directory, "other"));
        File.WriteAllText(mine, "mine");
        File.WriteAllText(other, "other");
        using var listener = new System.Net.Sockets.TcpListener(System.Net.IPAddress.Loopback, 0);
        listener.Start();
        var (isRestricted, read) = (false, "");
        var refused = new List<string>();
        // Of a thread that ends with this test alone.
        var thread = new Thread(() =>
        {
            using var open = File.OpenText(mine);
            using var socket = new System.Net.Sockets.Socket(
                System.Net.Sockets.AddressFamily.InterNetwork,
                System.Net.Sockets.SocketType.Stream,
                System.Net.Sockets.ProtocolType.Tcp
            );
            isRestricted = Landlock.Restrict(["/usr"]);
            read = open.ReadToEnd() + (Directory.Exists("/usr/lib") ? " and libraries" : "");
            foreach (
                var (what, act) in new (string, Action)[]
                {
                    ("read", () => File.ReadAllText(other)),
                    ("write", () => File.WriteAllText(Path.Combine(directory, "new"), "x")),
                    ("delete", () => File.Delete(other)),
                    ("connect", () => socket.Connect(listener.LocalEndpoint)),
                }
            )
                try
                {
                    act();
                }
                catch (Exception failure)
                    when (failure is UnauthorizedAccessException or System.Net.Sockets.SocketException)
                {
                    refused.Add(what);
                }
        });
        thread.Start();
        thread.Join();
        if (!isRestricted)
            Assert.Skip("This kernel has no Landlock.");
        Assert.Equal("mine and libraries", read);
        Assert.Equal(["read", "write", "delete", "connect"], refused);
        Assert.True(File.Exists(other));
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_small_picture_is_made_or_there_is_none(bool isWhole)
    {
        var path = Path.Combine(directory, "picture");
        using (var bitmap = new SkiaSharp.SKBitmap(1200, 600))
        using (var image = SkiaSharp.SKImage.FromBitmap(bitmap))
        using (var data = image.Encode(SkiaSharp.SKEncodedImageFormat.Png, 100))
            await File.WriteAllBytesAsync(path, isWhole ? data.ToArray() : data.ToArray()[..20], Stop);
        using var worker = new FileWorker();
        var small = await worker.Of(path, Stop);
        using var read = small is null ? null : SkiaSharp.SKBitmap.Decode(small);
        Assert.Equal(isWhole ? "480 x 240" : "none", read is null ? "none" : $"{read.Width} x {read.Height}");
        Assert.Null(await worker.Of(path + "-not-there", Stop));
    }

    // From the sheet that the almanac itself makes to the search of somebody who may see it.
    [Fact]
    public async Task A_sheet_that_was_attached_is_found_by_what_is_on_it()
    {
        using var teacher = await server.SignedInAnew(DemoServer.Teacher);
        var sheet = await teacher.GetByteArrayAsync($"/c/{DemoServer.Class}/term.pdf", Stop);
        var at = $"/calendars/{DemoServer.Class}/materials";
        using (
            var form = new MultipartFormDataContent
            {
                {
                    new StringContent(DemoServer.TokenOf(await teacher.GetStringAsync(at, Stop))),
                    "__RequestVerificationToken"
                },
                { new StringContent("all"), "place" },
                { new ByteArrayContent(sheet), "Files", "plan.pdf" },
            }
        )
        using (await teacher.PostAsync(new Uri($"{at}?handler=Attach", UriKind.Relative), form, Stop)) { }
        // As the server does by itself every few seconds.
        await server.Services.GetServices<IHostedService>().OfType<DocumentTextJob>().Single().Read(Stop);
        Assert.Contains(
            "plan.pdf",
            await teacher.GetStringAsync("/find?q=tidepool+biology+9a+thanksgiving", Stop),
            StringComparison.Ordinal
        );
    }

    private static byte[] Bytes(string what) =>
        what switch
        {
            "words" => Page(
                "BT /F1 12 Tf 50 700 Td (Zostera beds in the estu-) Tj 0 -20 Td (ary at low water, 5-) Tj 0 -20 Td (Kelp \\257ow \\256rst) Tj ET"
            ),
            "packed" => Packed(Encoding.ASCII.GetBytes("BT /F1 12 Tf 50 700 Td (Zostera beds) Tj ET")),
            "nothing on it" => Page(""),
            "a page tree that is its own leaf" => DemoPaper.Document(
                "<</Type/Catalog/Pages 2 0 R>>",
                "<</Type/Pages/Kids[2 0 R 2 0 R]/Count 2>>"
            ),
            "a form within itself" => DemoPaper.Document(
                "<</Type/Catalog/Pages 2 0 R>>",
                "<</Type/Pages/Kids[3 0 R]/Count 1>>",
                "<</Type/Page/Parent 2 0 R/MediaBox[0 0 612 792]/Contents 4 0 R/Resources<</XObject<</X 5 0 R>>>>>>",
                "<</Length 5>>stream\n/X Do\nendstream",
                "<</Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<</XObject<</X 5 0 R>>>>/Length 11>>stream\n/X Do /X Do\nendstream"
            ),
            "two gigabytes of spaces in a nutshell" => Packed(Zip(Zip(2_000)), "[/FlateDecode/FlateDecode]"),
            "a million brackets" => Page(new string('[', 1_000_000)),
            "torn off" => Page("BT /F1 12 Tf 50 700 Td (Zostera beds) Tj ET")[..120],
            _ => Encoding.ASCII.GetBytes("%PDF-1.7 and nothing more"),
        };

    private static byte[] Page(string content) =>
        DemoPaper.Document([.. Tree, $"<</Length {content.Length}>>stream\n{content}\nendstream"]);

    private static readonly string[] Tree =
    [
        "<</Type/Catalog/Pages 2 0 R>>",
        "<</Type/Pages/Kids[3 0 R]/Count 1>>",
        "<</Type/Page/Parent 2 0 R/MediaBox[0 0 612 792]/Contents 5 0 R/Resources<</Font<</F1 4 0 R>>>>>>",
        "<</Type/Font/Subtype/Type1/BaseFont/Helvetica/Encoding/StandardEncoding>>",
    ];

    private static byte[] Packed(byte[] content) => Packed(Zip(content), "/FlateDecode");

    private static byte[] Packed(byte[] packed, string filter) =>
        DemoPaper.Document([
            .. Tree,
            $"<</Length {packed.Length}/Filter{filter}>>stream\n{Encoding.Latin1.GetString(packed)}\nendstream",
        ]);

    private static byte[] Zip(byte[] bytes)
    {
        using var zipped = new MemoryStream();
        using (var zip = new ZLibStream(zipped, CompressionLevel.Optimal, leaveOpen: true))
            zip.Write(bytes);
        return zipped.ToArray();
    }

    // So many megabytes of spaces.
    private static byte[] Zip(int megabytes)
    {
        var one = new byte[1024 * 1024];
        one.AsSpan().Fill((byte)' ');
        using var zipped = new MemoryStream();
        using (var zip = new ZLibStream(zipped, CompressionLevel.Fastest, leaveOpen: true))
            for (var at = 0; at < megabytes; at++)
                zip.Write(one);
        return zipped.ToArray();
    }
}
