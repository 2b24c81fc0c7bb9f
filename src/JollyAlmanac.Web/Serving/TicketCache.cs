using System.Collections.Concurrent;
using Microsoft.AspNetCore.Authentication;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Reads the sealed text of sign-in cookies, each once: a browser sends the same one with each request, and opening the seal costs
/// more than most of what is asked. That a cookie was opened says only that it is the almanac's own; whether its time is over is looked
/// at by the framework, and whether the sign-in still stands by <see cref="RequestContext"/>, on each request as before.
/// </summary>
/// <param name="sealing">Seals and opens; the framework's own.</param>
public sealed class TicketCache(ISecureDataFormat<AuthenticationTicket> sealing)
    : ISecureDataFormat<AuthenticationTicket>
{
    private const int Most = 1_000;

    private readonly ConcurrentDictionary<(string? Purpose, string Sealed), AuthenticationTicket> opened = new();

    /// <inheritdoc />
    public string Protect(AuthenticationTicket data) => sealing.Protect(data);

    /// <inheritdoc />
    public string Protect(AuthenticationTicket data, string? purpose) => sealing.Protect(data, purpose);

    /// <inheritdoc />
    public AuthenticationTicket? Unprotect(string? protectedText) => sealing.Unprotect(protectedText);

    /// <inheritdoc />
    public AuthenticationTicket? Unprotect(string? protectedText, string? purpose)
    {
        if (protectedText is null)
            return null;
        var key = (purpose, protectedText);
        if (opened.TryGetValue(key, out var known))
            return known;
        // Only what was sealed here is kept, so that nobody fills this with what they made up.
        if (sealing.Unprotect(protectedText, purpose) is not { } ticket)
            return null;
        if (opened.Count >= Most)
            opened.Clear();
        opened[key] = ticket;
        return ticket;
    }
}
