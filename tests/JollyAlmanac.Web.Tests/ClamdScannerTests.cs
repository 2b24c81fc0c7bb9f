using System.Buffers.Binary;
using System.Net;
using System.Net.Sockets;
using System.Text;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Web.Serving;

namespace JollyAlmanac.Web.Tests;

/// <summary>Files are scanned by a ClamAV daemon: the conversation of INSTREAM as clamd(8) tells it, with one that answers as told.</summary>
public sealed class ClamdScannerTests
{
    [Theory]
    [InlineData("stream: OK", null)]
    [InlineData("stream: Win.Test.EICAR_HDB-1 FOUND", "a scanner found Win.Test.EICAR_HDB-1 in it")]
    public async Task A_file_is_sent_in_chunks_and_its_answer_is_read(string answer, string? found)
    {
        // More than two chunks, the last one not full.
        var file = new byte[150_000];
        new Random(7).NextBytes(file);
        var (scanner, received) = Daemon(answer);
        Assert.Equal(found, scanner.Find(new MemoryStream(file)));
        Assert.Equal(file, await received);
    }

    [Theory]
    [InlineData("INSTREAM size limit exceeded. ERROR", "larger")]
    [InlineData("stream: Can't allocate memory ERROR", "could not look")]
    [InlineData("", "could not look")]
    [InlineData("stream: FOUND OK", "could not look")]
    public void What_could_not_be_scanned_is_not_taken(string answer, string says)
    {
        var taken = new FileCheck(Daemon(answer).Scanner).Of(new MemoryStream("Tides\n"u8.ToArray()), "tides.txt");
        Assert.Null(taken.Kind);
        Assert.Contains(says, taken.Reason, StringComparison.Ordinal);
    }

    [Fact]
    public void A_scanner_that_is_not_there_lets_nothing_in()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        listener.Stop();
        var taken = new FileCheck(
            new ClamdScanner(new IPEndPoint(IPAddress.Loopback, port), TimeSpan.FromSeconds(5))
        ).Of(new MemoryStream("Tides\n"u8.ToArray()), "tides.txt");
        Assert.Null(taken.Kind);
        Assert.Contains("does not answer", taken.Reason, StringComparison.Ordinal);
    }

    [Fact]
    public void Without_a_scanner_files_are_taken_by_what_they_are() =>
        Assert.NotNull(new FileCheck().Of(new MemoryStream("Tides\n"u8.ToArray()), "tides.txt").Kind);

    [Theory]
    [InlineData("127.0.0.1:3310", "Unspecified/127.0.0.1:3310")]
    [InlineData("scanner.school.example:3310", "Unspecified/scanner.school.example:3310")]
    [InlineData("[::1]:3310", "Unspecified/::1:3310")]
    [InlineData("/run/clamav/clamd.ctl", "/run/clamav/clamd.ctl")]
    [InlineData("3310", null)]
    [InlineData("host:", null)]
    [InlineData("host:0", null)]
    [InlineData("host:70000", null)]
    public void Where_one_listens_is_read(string text, string? address) =>
        Assert.Equal(address, ClamdScanner.ReadAddress(text)?.ToString());

    // Answers one conversation; what it received is the file.
    private static (ClamdScanner Scanner, Task<byte[]> Received) Daemon(string answer)
    {
        var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return (
            new ClamdScanner(listener.LocalEndpoint, TimeSpan.FromSeconds(30)),
            Task.Run(async () =>
            {
                using var client = await listener.AcceptTcpClientAsync();
                listener.Stop();
                await using var stream = client.GetStream();
                var command = new byte["zINSTREAM\0".Length];
                await stream.ReadExactlyAsync(command);
                Assert.Equal("zINSTREAM\0", Encoding.ASCII.GetString(command));
                var file = new MemoryStream();
                var length = new byte[4];
                while (true)
                {
                    await stream.ReadExactlyAsync(length);
                    if (BinaryPrimitives.ReadInt32BigEndian(length) is 0)
                        break;
                    var chunk = new byte[BinaryPrimitives.ReadInt32BigEndian(length)];
                    await stream.ReadExactlyAsync(chunk);
                    file.Write(chunk);
                }

                await stream.WriteAsync(Encoding.ASCII.GetBytes(answer + "\0"));
                return file.ToArray();
            })
        );
    }
}
