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
/// Asks an address over the network, of outside hosts alone (<see cref="OutsideHosts"/>); nothing of the answer is read but its status,
/// and only the usual ports are asked.
/// </summary>
public sealed class HttpLinkProbe : ILinkProbe, IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);
    private readonly HttpClient client;

    /// <summary>A probe that looks names up with <paramref name="lookUp"/>; the system's own where null.</summary>
    public HttpLinkProbe(Func<string, CancellationToken, Task<IPAddress[]>>? lookUp = null) =>
        client = new HttpClient(OutsideHosts.Handler(Patience, lookUp)) { Timeout = Patience };

    /// <inheritdoc />
    public async Task<string?> Ask(Uri address, CancellationToken cancellation)
    {
        if (TestLink.FormOf(address) is { } wrong)
            return wrong;
        if (!address.IsDefaultPort)
            return $"It names the port {address.Port}; only the usual one is asked.";
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, address);
            using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancellation);
            return (int)answer.StatusCode is 404 or 410 or >= 500
                ? $"The room's host answers with “{(int)answer.StatusCode}”: the room is not there, or not now."
                : null;
        }
        catch (Exception failure) when (OutsideHosts.IsInside(failure))
        {
            return $"Its host {address.IdnHost} leads inside your own network, where the almanac asks nothing.";
        }
        catch (Exception failure)
            when (failure is HttpRequestException or TaskCanceledException or SocketException
                && !cancellation.IsCancellationRequested
            )
        {
            return $"Its host {address.IdnHost} does not answer. Look whether the address is whole, and try again.";
        }
    }

    /// <inheritdoc />
    public void Dispose() => client.Dispose();
}
