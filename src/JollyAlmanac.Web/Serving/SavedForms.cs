using System.Security.Cryptography;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Extensions.Caching.Memory;
using Microsoft.Extensions.Options;

namespace JollyAlmanac.Web.Serving;

/// <summary>A form that was sent after its sign-in had ended.</summary>
/// <param name="Person">The id of whoever was signed in.</param>
/// <param name="Address">Where it was sent: path and query.</param>
/// <param name="Fields">Its fields, in order.</param>
/// <param name="HadFiles">Files were chosen, which are not kept.</param>
public sealed record SavedForm(
    string Person,
    string Address,
    IReadOnlyList<KeyValuePair<string, string>> Fields,
    bool HadFiles
);

/// <summary>
/// Keeps what was sent after a sign-in had ended, for half an hour and in memory alone, so that the same person can send it once they have
/// signed in again. Nothing with a password in it is kept, and nothing that another site sent.
/// </summary>
public sealed class SavedForms(IOptionsMonitor<CookieAuthenticationOptions> cookies) : IDisposable
{
    private const int LongestForm = 300_000;
    private const int LongestOfAll = 20_000_000;

    private readonly MemoryCache kept = new(new MemoryCacheOptions { SizeLimit = LongestOfAll });

    /// <summary>Keeps the form of a request.</summary>
    /// <returns>The key by which it is found again; null where it is none that is kept.</returns>
    public async Task<string?> Store(HttpContext context)
    {
        var request = context.Request;
        if (
            !HttpMethods.IsPost(request.Method)
            || !request.HasFormContentType
            || request.ContentLength is null or > LongestForm
            || !IsOwn(request)
            || PersonOf(context) is not { } person
        )
            return null;
        if (await FormOf(request) is not { } form)
            return null;
        if (form.Keys.Any(name => name.Contains("password", StringComparison.OrdinalIgnoreCase)))
            return null;
        var fields = form.Where(field => field.Key != "__RequestVerificationToken")
            .SelectMany(field => field.Value.Select(value => KeyValuePair.Create(field.Key, value ?? "")))
            .ToList();
        var key = WebEncoders.Base64UrlEncode(RandomNumberGenerator.GetBytes(18));
        kept.Set(
            key,
            new SavedForm(person, request.Path + request.QueryString, fields, form.Files.Count > 0),
            new MemoryCacheEntryOptions
            {
                Size = fields.Sum(field => field.Key.Length + field.Value.Length) + 200,
                AbsoluteExpirationRelativeToNow = TimeSpan.FromMinutes(30),
            }
        );
        return key;
    }

    /// <summary>A form that was kept for that person; null where there is none any more.</summary>
    public SavedForm? Find(string key, string person) =>
        kept.TryGetValue(key, out SavedForm? form) && form!.Person == person ? form : null;

    /// <inheritdoc/>
    public void Dispose() => kept.Dispose();

    /// <summary>The form of a request; null where it cannot be read, which is answered where it is bound.</summary>
    internal static async Task<IFormCollection?> FormOf(HttpRequest request)
    {
        try
        {
            return await request.ReadFormAsync(request.HttpContext.RequestAborted);
        }
        catch (Exception broken) when (broken is InvalidDataException or BadHttpRequestException or IOException)
        {
            return null;
        }
    }

    // A page of another site cannot have a form of its own kept here, to be sent in somebody's name.
    private static bool IsOwn(HttpRequest request) =>
        request.Headers["Sec-Fetch-Site"].ToString() is "same-origin"
        || (
            request.Headers["Sec-Fetch-Site"].Count == 0
            && Uri.TryCreate(request.Headers.Origin, UriKind.Absolute, out var origin)
            && origin.Authority == request.Host.Value
        );

    // Whose sign-in it was, although it has ended: the cookie is the almanac's own, and nobody else can make one.
    private string? PersonOf(HttpContext context)
    {
        var options = cookies.Get(CookieAuthenticationDefaults.AuthenticationScheme);
        var cookie = options.CookieManager.GetRequestCookie(context, options.Cookie.Name!);
        AuthenticationTicket? ticket = cookie is null ? null : options.TicketDataFormat.Unprotect(cookie);
        return ticket?.Principal.FindFirst(System.Security.Claims.ClaimTypes.NameIdentifier)?.Value;
    }
}
