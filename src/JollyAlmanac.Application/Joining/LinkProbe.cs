using System.Net;
using System.Net.Sockets;

namespace JollyAlmanac.Application.Joining;

/// <summary>Looks from outside whether an address answers.</summary>
public interface ILinkProbe
{
    /// <summary>
    /// What is wrong, in a sentence for people; null where it answers. Never follows a redirect, never asks an inside address.
    /// </summary>
    Task<string?> Ask(Uri address, CancellationToken cancellation);
}

/// <summary>
/// Asks an address over the network, safely: the name is looked up once and the connection goes to that very address, which
/// must lie outside; no redirect is followed, nothing of the answer is read but its status, and only the usual ports are asked.
/// </summary>
public sealed class HttpLinkProbe : ILinkProbe, IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);
    private readonly HttpClient client;

    /// <summary>A probe that looks names up with <paramref name="lookUp"/>; the system's own where null.</summary>
    public HttpLinkProbe(Func<string, CancellationToken, Task<IPAddress[]>>? lookUp = null)
    {
        lookUp ??= Dns.GetHostAddressesAsync;
        client = new HttpClient(new SocketsHttpHandler
        {
            AllowAutoRedirect = false, UseCookies = false, UseProxy = false, ConnectTimeout = Patience,
            ConnectCallback = async (context, cancellation) =>
            {
                var addresses = await lookUp(context.DnsEndPoint.Host, cancellation);
                // One inside address among several is enough to refuse: a name must not lead both ways.
                if (addresses.Length == 0 || addresses.Any(address => !IsOutside(address))) throw new InsideAddressException();
                var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
                try
                {
                    await socket.ConnectAsync(addresses[0], context.DnsEndPoint.Port, cancellation);
                    return new NetworkStream(socket, ownsSocket: true);
                }
                catch
                {
                    socket.Dispose();
                    throw;
                }
            },
        }) { Timeout = Patience };
    }

    /// <inheritdoc />
    public async Task<string?> Ask(Uri address, CancellationToken cancellation)
    {
        if (TestLink.FormOf(address) is { } wrong) return wrong;
        if (!address.IsDefaultPort) return $"It names the port {address.Port}; only the usual one is asked.";
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, address);
            using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancellation);
            return (int)answer.StatusCode is 404 or 410 or >= 500
                ? $"The room's host answers with “{(int)answer.StatusCode}”: the room is not there, or not now." : null;
        }
        catch (Exception failure) when (failure is InsideAddressException || failure.InnerException is InsideAddressException)
        {
            return $"Its host {address.IdnHost} leads inside your own network, where the almanac asks nothing.";
        }
        catch (Exception failure) when (failure is HttpRequestException or TaskCanceledException or SocketException
            && !cancellation.IsCancellationRequested)
        {
            return $"Its host {address.IdnHost} does not answer. Look whether the address is whole, and try again.";
        }
    }

    /// <summary>
    /// Whether an address lies outside: not this machine, not a private, shared, link-local, reserved or multicast range
    /// (IANA special-purpose registries, RFC 6890), also not such a one wrapped into IPv6.
    /// </summary>
    public static bool IsOutside(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6) address = address.MapToIPv4();
        var bytes = address.GetAddressBytes();
        if (bytes.Length == 4)
            return (bytes[0], bytes[1], bytes[2]) is not ((0 or 10 or 127 or >= 224, _, _) or (100, >= 64 and <= 127, _) or (169, 254, _)
                or (172, >= 16 and <= 31, _) or (192, 168, _)
                or (192, 0, 0 or 2) or (192, 88, 99) or (198, 18 or 19, _) or (198, 51, 100) or (203, 0, 113));
        // Of IPv6 only global unicast (2000::/3), without 6to4, Teredo, documentation and the NAT64 prefixes.
        return (bytes[0] & 0xE0) == 0x20 && (bytes[0], bytes[1]) is not (0x20, 0x02)
            && !(bytes[0] == 0x20 && bytes[1] == 0x01 && (bytes[2] < 2 || (bytes[2] == 0x0D && bytes[3] == 0xB8)));
    }

    /// <inheritdoc />
    public void Dispose() => client.Dispose();

    private sealed class InsideAddressException : IOException;
}
