using System.Net;
using System.Net.Sockets;

namespace JollyAlmanac.Application;

/// <summary>
/// The way to hosts that lie outside, and to no others: a name is looked up once and the connection goes to that very address; no
/// redirect is followed, and neither cookies nor a proxy are used.
/// </summary>
public static class OutsideHosts
{
    /// <summary>A handler that connects to outside hosts alone; the caller's to dispose of.</summary>
    /// <param name="patience">How long a connection is waited for.</param>
    /// <param name="lookUp">Looks names up; the system's own where null.</param>
    public static SocketsHttpHandler Handler(
        TimeSpan patience,
        Func<string, CancellationToken, Task<IPAddress[]>>? lookUp = null
    )
    {
        lookUp ??= Dns.GetHostAddressesAsync;
        return new SocketsHttpHandler
        {
            AllowAutoRedirect = false,
            UseCookies = false,
            UseProxy = false,
            ConnectTimeout = patience,
            ConnectCallback = async (context, cancellation) =>
            {
                var addresses = await lookUp(context.DnsEndPoint.Host, cancellation);
                // One inside address among several is enough to refuse: a name must not lead both ways.
                if (addresses.Length == 0 || addresses.Any(address => !IsOutside(address)))
                    throw new InsideAddressException();
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
        };
    }

    /// <summary>Whether a call failed because its host lies inside.</summary>
    public static bool IsInside(Exception failure) =>
        failure is InsideAddressException || failure.InnerException is InsideAddressException;

    /// <summary>Whether the name or number of a host says already that it lies inside: one word, this machine, a local network.</summary>
    public static bool NamesInside(Uri address) =>
        address.HostNameType is UriHostNameType.IPv4 or UriHostNameType.IPv6
            ? !IsOutside(IPAddress.Parse(address.IdnHost))
            : !address.IdnHost.Contains('.', StringComparison.Ordinal)
                || address.IdnHost.EndsWith(".local", StringComparison.OrdinalIgnoreCase)
                || address.IdnHost.EndsWith(".localhost", StringComparison.OrdinalIgnoreCase);

    /// <summary>
    /// Whether an address lies outside: not this machine, not a private, shared, link-local, reserved or multicast range
    /// (IANA special-purpose registries, RFC 6890), also not such a one wrapped into IPv6.
    /// </summary>
    public static bool IsOutside(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        var bytes = address.GetAddressBytes();
        if (bytes.Length == 4)
            return (bytes[0], bytes[1], bytes[2])
                is not (

                    (0 or 10 or 127 or >= 224, _, _)
                    or
                    (100, >= 64 and <= 127, _)
                    or
                    (169, 254, _)
                    or
                    (172, >= 16 and <= 31, _)
                    or
                    (192, 168, _)
                    or
                    (192, 0, 0 or 2)
                    or
                    (192, 88, 99)
                    or
                    (198, 18 or 19, _)
                    or
                    (198, 51, 100)
                    or
                    (203, 0, 113)
                );
        // Of IPv6 only global unicast (2000::/3), without 6to4, Teredo, documentation and the NAT64 prefixes.
        return (bytes[0] & 0xE0) == 0x20
            && (bytes[0], bytes[1]) is not (0x20, 0x02)
            && !(bytes[0] == 0x20 && bytes[1] == 0x01 && (bytes[2] < 2 || (bytes[2] == 0x0D && bytes[3] == 0xB8)));
    }

    private sealed class InsideAddressException : IOException;
}
