using System.Net;
using System.Net.Http.Headers;

namespace JollyAlmanac.Application.Importing;

/// <summary>A file as its host gave it.</summary>
/// <param name="Content">Its bytes; null where it is as it was before.</param>
/// <param name="ETag">What its host knows this state by, as the header has it; empty for nothing.</param>
/// <param name="LastModified">When it was changed, as the header has it; empty for nothing.</param>
public sealed record FetchedFile(byte[]? Content, string ETag, string LastModified);

/// <summary>A file could not be fetched.</summary>
/// <param name="message">Why, in a sentence for people, without the whole address: that may be a key.</param>
public sealed class FileSourceException(string message) : Exception(message);

/// <summary>Fetches files by their address: over the network, or the stand-in that ships with the demo.</summary>
public interface IFileSource
{
    /// <summary>Fetches a file of <see cref="ImportFile.Largest"/> bytes at most. Never called within a reading or writing.</summary>
    /// <param name="address">Starts with https://, and names an outside host at the usual port.</param>
    /// <param name="before">What is known of it from before; null for nothing.</param>
    /// <param name="cancellation">Ends the waiting.</param>
    /// <exception cref="FileSourceException">It could not be fetched.</exception>
    Task<FetchedFile> Fetch(Uri address, FetchedFile? before, CancellationToken cancellation);
}

/// <summary>
/// Fetches files over the network, from outside hosts alone (<see cref="OutsideHosts"/>): a few redirects are followed, each looked at
/// like the first address; what is larger than a file may be is not read on, also not where it was packed small.
/// </summary>
public sealed class HttpFileSource : IFileSource, IDisposable
{
    private const int MostRedirects = 4;
    private const int LongestMark = 200;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(15);
    private readonly HttpClient client;

    // Four files at most are in memory at a time.
    private readonly SemaphoreSlim places = new(4);

    /// <summary>A source over the network.</summary>
    public HttpFileSource()
        : this(Outside()) { }

    /// <summary>A source over a handler that follows no redirects.</summary>
    public HttpFileSource(HttpMessageHandler handler) => client = new HttpClient(handler) { Timeout = Patience };

    private static SocketsHttpHandler Outside()
    {
        var handler = OutsideHosts.Handler(TimeSpan.FromSeconds(5));
        handler.AutomaticDecompression = DecompressionMethods.GZip | DecompressionMethods.Brotli;
        return handler;
    }

    /// <inheritdoc />
    public async Task<FetchedFile> Fetch(Uri address, FetchedFile? before, CancellationToken cancellation)
    {
        if (!await places.WaitAsync(Patience, cancellation))
            throw new FileSourceException("Several files are being fetched just now. Try again in a minute.");
        try
        {
            using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancellation);
            ends.CancelAfter(Patience);
            return await Follow(address, before, ends.Token);
        }
        catch (Exception failure) when (OutsideHosts.IsInside(failure))
        {
            throw new FileSourceException("Its host leads inside the almanac’s own network, where nothing is fetched.");
        }
        catch (Exception failure)
            when (failure is HttpRequestException or OperationCanceledException or IOException
                && !cancellation.IsCancellationRequested
            )
        {
            throw new FileSourceException(
                $"The host {address.IdnHost} does not answer, or breaks off. Look whether the address is whole, and try again."
            );
        }
        finally
        {
            places.Release();
        }
    }

    private async Task<FetchedFile> Follow(Uri address, FetchedFile? before, CancellationToken cancellation)
    {
        for (var step = 0; step <= MostRedirects; step++)
        {
            if (FetchFile.Refusal(address) is { } refusal)
                throw new FileSourceException(refusal);
            using var request = new HttpRequestMessage(HttpMethod.Get, address);
            request.Headers.UserAgent.Add(new ProductInfoHeaderValue("JollyAlmanac", null));
            request.Headers.Accept.ParseAdd("text/calendar, text/csv;q=0.9, */*;q=0.5");
            if (before is { ETag.Length: > 0 })
                request.Headers.TryAddWithoutValidation("If-None-Match", before.ETag);
            else if (before is { LastModified.Length: > 0 })
                request.Headers.TryAddWithoutValidation("If-Modified-Since", before.LastModified);
            using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancellation);
            if ((int)answer.StatusCode is 301 or 302 or 303 or 307 or 308 && answer.Headers.Location is { } next)
            {
                address = new Uri(address, next);
                continue;
            }

            if (answer.StatusCode == HttpStatusCode.NotModified && before is not null)
                return before with { Content = null };
            if (answer.StatusCode != HttpStatusCode.OK)
                throw new FileSourceException(
                    (int)answer.StatusCode switch
                    {
                        401 or 403 =>
                            $"The host {address.IdnHost} gives it only to who signs in there. Save the file yourself, and choose it here.",
                        404 or 410 =>
                            $"The host {address.IdnHost} has no such file. Look whether the address is whole.",
                        var status =>
                            $"The host {address.IdnHost} answers with {status} in place of the file. Try again later.",
                    }
                );
            return new FetchedFile(
                await Read(answer.Content, cancellation),
                Mark(answer, "ETag"),
                Mark(answer, "Last-Modified")
            );
        }

        throw new FileSourceException("Its address leads on and on. Take the one that a browser ends at.");
    }

    // A mark that is too long to be kept is none: the file is fetched anew then.
    private static string Mark(HttpResponseMessage answer, string name) =>
        (answer.Headers.TryGetValues(name, out var values) || answer.Content.Headers.TryGetValues(name, out values))
        && values.FirstOrDefault() is { Length: <= LongestMark } mark
            ? mark
            : "";

    private static async Task<byte[]> Read(HttpContent content, CancellationToken cancellation)
    {
        await using var stream = await content.ReadAsStreamAsync(cancellation);
        using var read = new MemoryStream();
        var buffer = new byte[64 * 1024];
        for (int count; (count = await stream.ReadAsync(buffer, cancellation)) > 0; )
        {
            if (read.Length + count > ImportFile.Largest)
                throw new FileSourceException(
                    $"It is larger than {ImportFile.Largest / 1024 / 1024} MB, and was not read to its end. Ask for a part of it, a year for example."
                );
            read.Write(buffer, 0, count);
        }

        return read.ToArray();
    }

    /// <inheritdoc />
    public void Dispose()
    {
        client.Dispose();
        places.Dispose();
    }
}
