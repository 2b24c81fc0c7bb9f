using System.Globalization;
using System.Security.Claims;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>Who is looking, in one request, and where the almanac is reached.</summary>
public sealed class Visit(IHttpContextAccessor accessor, AlmanacSettings settings, IClock clock)
{
    private static readonly object Key = new();

    private HttpContext Context => accessor.HttpContext ?? throw new InvalidOperationException("A visit outside of a request.");

    /// <summary>The signed-in person, or null.</summary>
    public Person? Person => Found?.Person;

    /// <summary>What they may reach.</summary>
    public Viewer Viewer => Found?.Viewer ?? Viewer.Visitor;

    /// <summary>The moment.</summary>
    public Instant Now => clock.GetCurrentInstant();

    /// <summary>What the sign-in page says of the demo's people; null in real use.</summary>
    public DemoSignIns? Demo => settings.Demo;

    /// <summary>The network address that asks.</summary>
    public string Network => Context.Connection.RemoteIpAddress?.ToString() ?? "unknown";

    /// <summary>Where the almanac is reached; ends in "/".</summary>
    public Uri Root => RootOf(settings, Context.Request);

    /// <summary>Where the almanac is reached; ends in "/".</summary>
    public static Uri RootOf(AlmanacSettings settings, HttpRequest request) =>
        settings.PublicAddress ?? new Uri($"{request.Scheme}://{request.Host}/");

    /// <summary>The visitor as they stand at a door, with the entry word that this browser gave before.</summary>
    public AtDoor AtDoor(string code) => new(Viewer, Context.Request.Cookies[WordCookie(code)]);

    /// <summary>Keeps the proof of an entry word in this browser for a school day, for that one door.</summary>
    public void KeepWord(string code, string proof) => Context.Response.Cookies.Append(WordCookie(code), proof, new CookieOptions
    {
        Path = $"/j/{code}", HttpOnly = true, Secure = Context.Request.IsHttps, SameSite = SameSiteMode.Lax, MaxAge = AlmanacServer.SignInLasts, IsEssential = true,
    });

    /// <summary>Signs somebody in, in this browser.</summary>
    public Task SignIn(Person person, string stamp) => Context.SignInAsync(new ClaimsPrincipal(new ClaimsIdentity(
        [
            new Claim(ClaimTypes.NameIdentifier, person.Id.Value.ToString(CultureInfo.InvariantCulture)),
            new Claim("stamp", stamp),
        ],
        CookieAuthenticationDefaults.AuthenticationScheme)));

    /// <summary>Signs them out.</summary>
    public Task SignOut() => Context.SignOutAsync();

    private static string WordCookie(string code) => $"almanac-word-{code}";

    // Each request looks the person up anew, so that a sign-in ends at once when it must.
    internal static Task Validate(CookieValidatePrincipalContext cookie)
    {
        var signIn = cookie.HttpContext.RequestServices.GetRequiredService<SignIn>();
        var found = long.TryParse(cookie.Principal?.FindFirstValue(ClaimTypes.NameIdentifier), CultureInfo.InvariantCulture, out var id)
            ? signIn.Find(new PersonId(id), cookie.Principal?.FindFirstValue("stamp") ?? "")
            : null;
        if (found is null) cookie.RejectPrincipal();
        else cookie.HttpContext.Items[Key] = found;
        return Task.CompletedTask;
    }

    private (Person Person, Viewer Viewer)? Found => Context.Items[Key] as (Person, Viewer)?;
}
