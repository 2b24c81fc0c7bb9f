using System.Buffers.Binary;
using System.Net;
using System.Net.Sockets;
using System.Text;
using JollyAlmanac.Application.Materials;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Asks a ClamAV daemon, over TCP or its Unix socket, by the command INSTREAM (clamd(8), "Commands"): the file goes in chunks, each
/// behind its length as four bytes in network order; a length of zero ends it; the answer ends with a zero byte.
/// </summary>
/// <param name="daemon">Where it listens.</param>
/// <param name="timeout">How long a step of the conversation may take.</param>
public sealed class ClamdScanner(EndPoint daemon, TimeSpan timeout) : IFileScanner
{
    private const int ChunkSize = 64 * 1024;

    private const int LongestAnswer = 4096;

    /// <summary>Reads where a daemon listens.</summary>
    /// <param name="text">host:port, or the path of a socket, which begins with a slash.</param>
    /// <returns>Null where it is neither.</returns>
    public static EndPoint? ReadAddress(string text) =>
        text.StartsWith('/') ? new UnixDomainSocketEndPoint(text)
        : text.LastIndexOf(':') is > 0 and var colon
        && int.TryParse(text.AsSpan(colon + 1), out var port)
        && port is > 0 and < 65536
            ? new DnsEndPoint(text[..colon].Trim('[', ']'), port)
        : null;

    /// <inheritdoc />
    public string? Find(Stream bytes)
    {
        try
        {
            using var socket =
                daemon is UnixDomainSocketEndPoint
                    ? new Socket(AddressFamily.Unix, SocketType.Stream, ProtocolType.Unspecified)
                    : new Socket(SocketType.Stream, ProtocolType.Tcp);
            socket.SendTimeout = socket.ReceiveTimeout = (int)timeout.TotalMilliseconds;
            socket.Connect(daemon);
            using var stream = new NetworkStream(socket);
            try
            {
                Send(stream, bytes);
            }
            // A daemon that has had enough answers and hangs up before the file's end.
            catch (IOException) when (socket.Available > 0) { }

            return Found(Answer(stream));
        }
        catch (Exception failure) when (failure is SocketException or IOException)
        {
            throw new FileScannerException("The school’s virus scanner does not answer.", failure);
        }
    }

    private static void Send(NetworkStream stream, Stream bytes)
    {
        stream.Write("zINSTREAM\0"u8);
        var chunk = new byte[sizeof(int) + ChunkSize];
        int read;
        do
        {
            read = bytes.ReadAtLeast(chunk.AsSpan(sizeof(int)), ChunkSize, throwOnEndOfStream: false);
            BinaryPrimitives.WriteInt32BigEndian(chunk, read);
            stream.Write(chunk, 0, sizeof(int) + read);
        } while (read > 0);
    }

    private static string Answer(NetworkStream stream)
    {
        var answer = new StringBuilder();
        while (stream.ReadByte() is > 0 and var letter && answer.Length < LongestAnswer)
            answer.Append((char)letter);
        return answer.ToString();
    }

    // "stream: OK", "stream: Eicar-Signature FOUND", "INSTREAM size limit exceeded. ERROR".
    private static string? Found(string answer) =>
        answer == "stream: OK" ? null
        : answer.StartsWith("stream: ", StringComparison.Ordinal) && answer.EndsWith(" FOUND", StringComparison.Ordinal)
            ? $"a scanner found {answer["stream: ".Length..^" FOUND".Length]} in it"
        : answer.Contains("size limit", StringComparison.Ordinal)
            ? throw new FileScannerException("It is larger than the school’s virus scanner looks at.")
        : throw new FileScannerException("The school’s virus scanner could not look at it.");
}
