using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Security.Claims;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Demo;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>Who is looking, in one request, and where the almanac is reached.</summary>
public sealed class RequestContext(IHttpContextAccessor accessor, AlmanacSettings settings, IClock clock, SignIn signIn)
{
    private static readonly object Key = new();

    private HttpContext Context =>
        accessor.HttpContext ?? throw new InvalidOperationException("A visit outside of a request.");

    /// <summary>The signed-in person, or null; also for who looks as a stranger.</summary>
    public Person? Person => Found is { Looking.IsStranger: true } ? null : Found?.Person;

    /// <summary>Whom they look as; null where they look themselves.</summary>
    public PreviewIdentity? Looking => Found?.Looking;

    /// <summary>What stands for this sign-in; empty for none.</summary>
    public string Token => Context.User.FindFirstValue("token") ?? "";

    /// <summary>What they may reach.</summary>
    public Viewer Viewer => Found?.Viewer ?? Viewer.Visitor;

    /// <summary>The moment.</summary>
    public Instant Now => clock.GetCurrentInstant();

    /// <summary>What the sign-in page says of the demo's people; null in real use.</summary>
    public DemoSignIns? Demo => settings.Demo;

    /// <summary>The network that asks: an IPv4 address, or the /64 of an IPv6 address, as one visitor has all of those.</summary>
    public string Network => NetworkOf(Context.Connection.RemoteIpAddress);

    /// <summary>Where the almanac is reached; ends in "/".</summary>
    public Uri Root => RootOf(settings, Context.Request);

    /// <summary>The network that one customer has as a whole, and moves about in: the /48 of an IPv6 address (RFC 6177 §2).</summary>
    public string WideNetwork => NetworkOf(Context.Connection.RemoteIpAddress, 6);

    /// <summary>The network of an address.</summary>
    /// <param name="address">The address; null where it is not known.</param>
    /// <param name="bytes">How many bytes of an IPv6 address count.</param>
    public static string NetworkOf(IPAddress? address, int bytes = 8)
    {
        if (address is null)
            return "unknown";
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        if (address.AddressFamily != AddressFamily.InterNetworkV6)
            return address.ToString();
        return new IPAddress([.. address.GetAddressBytes().Take(bytes), .. new byte[16 - bytes]]) + $"/{bytes * 8}";
    }

    /// <summary>Where the almanac is reached; ends in "/".</summary>
    public static Uri RootOf(AlmanacSettings settings, HttpRequest request) =>
        settings.PublicAddress ?? new Uri($"{(request.IsHttps ? "https" : "http")}://{request.Host}/");

    /// <summary>The visitor as they stand at a door, with the entry word that this browser gave before.</summary>
    public AtDoor AtDoor(JoinCode code) => new(Viewer, Context.Request.Cookies[WordCookie(code)]);

    /// <summary>Keeps the proof of an entry word in this browser for a school day, for that one door.</summary>
    public void KeepWord(JoinCode code, string proof) =>
        Context.Response.Cookies.Append(
            WordCookie(code),
            proof,
            new CookieOptions
            {
                Path = $"/in/{code}",
                HttpOnly = true,
                Secure = Context.Request.IsHttps,
                SameSite = SameSiteMode.Lax,
                MaxAge = JollyAlmanac.Application.SignIn.SignIn.Lasts.ToTimeSpan(),
                IsEssential = true,
            }
        );

    /// <summary>Where a try to sign in comes from.</summary>
    public SignInPlace Place => new(Network, Context.Request.Cookies[BrowserCookie], Browser, WideNetwork);

    /// <summary>What the browser says of itself, as far as people know it: "Firefox on Linux".</summary>
    public string Browser
    {
        get
        {
            var said = Context.Request.Headers.UserAgent.ToString();
            string? First(params (string Sign, string Name)[] known) =>
                known.FirstOrDefault(one => said.Contains(one.Sign, StringComparison.Ordinal)).Name;
            var browser = First(
                ("Edg/", "Edge"),
                ("OPR/", "Opera"),
                ("Firefox/", "Firefox"),
                ("Chrome/", "Chrome"),
                ("Safari/", "Safari")
            );
            var system = First(
                ("Android", "Android"),
                ("iPhone", "an iPhone"),
                ("iPad", "an iPad"),
                ("Windows", "Windows"),
                ("Mac OS", "a Mac"),
                ("CrOS", "ChromeOS"),
                ("Linux", "Linux")
            );
            return browser is null ? ""
                : system is null ? browser
                : $"{browser} on {system}";
        }
    }

    /// <summary>Signs somebody in, in this browser.</summary>
    public Task SignIn(SignInAnswer.Welcome welcome)
    {
        Context.Response.Cookies.Append(
            BrowserCookie,
            welcome.Browser,
            new CookieOptions
            {
                Path = "/",
                HttpOnly = true,
                Secure = settings.IsSecure || Context.Request.IsHttps,
                SameSite = SameSiteMode.Lax,
                MaxAge = TimeSpan.FromDays(180),
                IsEssential = true,
            }
        );
        return SignIn(welcome.Person.Id, welcome.Stamp, welcome.Token);
    }

    /// <summary>Goes on with this sign-in under another stamp, after a new password.</summary>
    public Task Stay(string stamp) => SignIn(Person!.Id, stamp, Token);

    private Task SignIn(PersonId person, string stamp, string token) =>
        Context.SignInAsync(
            new ClaimsPrincipal(
                new ClaimsIdentity(
                    [
                        new Claim(ClaimTypes.NameIdentifier, person.Value.ToString(CultureInfo.InvariantCulture)),
                        new Claim("stamp", stamp),
                        new Claim("token", token),
                    ],
                    CookieAuthenticationDefaults.AuthenticationScheme
                )
            )
        );

    /// <summary>Signs them out: a copy of the cookie is worth nothing from then on.</summary>
    public Task SignOut()
    {
        if (Context.User.FindFirstValue("token") is { } token)
            signIn.End(token);
        return Context.SignOutAsync();
    }

    private string BrowserCookie => $"{(settings.IsSecure ? "__Host-" : "")}almanac-browser";

    private string WordCookie(JoinCode code) => $"{(settings.IsSecure ? "__Secure-" : "")}almanac-word-{code}";

    // Each request looks the person up anew, so that a sign-in ends at once when it must.
    internal static Task Validate(CookieValidatePrincipalContext cookie)
    {
        var signIn = cookie.HttpContext.RequestServices.GetRequiredService<SignIn>();
        var found = long.TryParse(
            cookie.Principal?.FindFirstValue(ClaimTypes.NameIdentifier),
            CultureInfo.InvariantCulture,
            out var id
        )
            ? signIn.Find(
                new PersonId(id),
                cookie.Principal?.FindFirstValue("stamp") ?? "",
                cookie.Principal?.FindFirstValue("token") ?? ""
            )
            : null;
        if (found is null)
            cookie.RejectPrincipal();
        else
            cookie.HttpContext.Items[Key] = found;
        return Task.CompletedTask;
    }

    private SignedInPerson? Found => Context.Items[Key] as SignedInPerson;
}
