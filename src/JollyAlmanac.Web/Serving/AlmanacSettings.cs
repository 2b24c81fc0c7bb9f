using System.Net;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Demo;
using JollyAlmanac.Demo.OpenId;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>How one server runs.</summary>
/// <param name="DataDirectory">Where the data is.</param>
/// <param name="Urls">Where it listens, e.g. http://127.0.0.1:5085.</param>
/// <param name="Clock">The clock that everything goes by.</param>
/// <param name="PublicAddress">How the world reaches it, for addresses in feeds; null takes the request's own host.</param>
/// <param name="Uploads">How large a file may be.</param>
/// <param name="StandInRooms">Whether the stand-in provider of online rooms is there.</param>
/// <param name="AsksRooms">Whether a test of a link asks its address over the network.</param>
/// <param name="Demo">What the sign-in page says of the demo's people; null in real use.</param>
/// <param name="OpenId">Where people may sign in elsewhere; null for nowhere.</param>
/// <param name="FetchesFiles">Whether calendar files are fetched by their address, over the network.</param>
/// <param name="Smtp">The school's mail server; null for the stand-in that puts letters into a folder.</param>
public sealed record AlmanacSettings(
    string DataDirectory,
    IReadOnlyList<string> Urls,
    IClock Clock,
    Uri? PublicAddress = null,
    UploadLimit? Uploads = null,
    bool StandInRooms = false,
    bool AsksRooms = false,
    DemoSignIns? Demo = null,
    SmtpSettings? Smtp = null,
    OpenIdSettings? OpenId = null,
    bool FetchesFiles = false
)
{
    /// <summary>How often passwords are hashed; fewer only in tests.</summary>
    public int PasswordRounds { get; init; } = Passwords.UsualRounds;

    /// <summary>Where a ClamAV daemon listens that scans files; null for none, or in the demo for the stand-in.</summary>
    public EndPoint? Scanner { get; init; }

    /// <summary>What is simulated or missing, a sentence each, for whoever starts the server.</summary>
    public IEnumerable<string> Simulated
    {
        get
        {
            if (Smtp is null)
                yield return "No e-mail leaves: letters go into the folder mail-drop (--smtp names a mail server).";
            if (StandInRooms)
                yield return "Online rooms are pretended (--stand-in-rooms).";
            if (Scanner is null)
                yield return "Files are not scanned for viruses (--clamd names a scanner).";
        }
    }

    /// <summary>Whether the world reaches it over TLS: its cookies then never travel without.</summary>
    public bool IsSecure => PublicAddress?.Scheme == Uri.UriSchemeHttps;
}

/// <summary>A provider of OpenID Connect that vouches for people's addresses.</summary>
/// <param name="Authority">Its address, below which its configuration is found; null for the stand-in that ships.</param>
/// <param name="ClientId">What it knows the almanac by.</param>
/// <param name="Secret">What the almanac proves that with; null where it asks for none.</param>
/// <param name="Name">What people call it.</param>
public sealed record OpenIdSettings(Uri? Authority, string ClientId, string? Secret, string Name)
{
    /// <summary>The demo's: the stand-in that ships.</summary>
    public static OpenIdSettings StandIn { get; } = new(null, StandInProvider.ClientId, null, "your Skerry account");
}
