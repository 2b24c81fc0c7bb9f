using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Application;

/// <summary>
/// The installation's secret, and the tokens made of it. A token is re-derivable by design: its outlet's page can show the
/// address again at any time, while the database holds only its hash and a stolen database opens no feed.
/// </summary>
public sealed class Secrets
{
    /// <summary>The file's name within the data directory.</summary>
    public const string FileName = "secret.key";

    private readonly byte[] secret;

    private Secrets(byte[] secret) => this.secret = secret;

    /// <summary>Reads the secret of a data directory; makes it, readable by its owner alone, where there is none.</summary>
    public static Secrets Of(string directory)
    {
        var path = Path.Combine(directory, FileName);
        if (!File.Exists(path))
        {
            var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
            if (!OperatingSystem.IsWindows())
                options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
            using var file = new FileStream(path, options);
            file.Write(RandomNumberGenerator.GetBytes(32));
        }

        return new Secrets(File.ReadAllBytes(path));
    }

    /// <summary>The token of an outlet's present address.</summary>
    public FeedToken TokenOf(Publication publication) =>
        new(
            TokenText.Of(
                HMACSHA256.HashData(
                    secret,
                    Encoding.UTF8.GetBytes($"{publication.Kind}:{publication.Id.Value}:{publication.Generation}")
                )
            )
        );

    /// <summary>The token of somebody's own feed.</summary>
    public FeedToken TokenOf(OwnFeed feed) =>
        new(
            TokenText.Of(
                HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"own-feed:{feed.Person.Value}:{feed.Generation}"))
            )
        );

    /// <summary>What proves that a letter about a notice was sent to somebody.</summary>
    public string TokenOfNotice(long notice, long person) =>
        TokenText.Of(HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"notice:{notice}:{person}")));

    /// <summary>Whether two tokens are the same, told in a time that does not depend on them.</summary>
    public static bool IsSame(string one, string other) =>
        CryptographicOperations.FixedTimeEquals(Encoding.UTF8.GetBytes(one), Encoding.UTF8.GetBytes(other));

    /// <summary>The token of a guest link.</summary>
    public string TokenOfGuest(long id) =>
        TokenText.Of(HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"guest:{id}")));

    /// <summary>The token of a link to somebody's free times.</summary>
    public FeedToken TokenOfFree(long id) =>
        new(TokenText.Of(HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"free:{id}"))));

    /// <summary>What proves that somebody gave a link's entry word; another word makes it worthless.</summary>
    public string ProofOf(JoinLink link) =>
        TokenText.Of(HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"word:{link.Id.Value}:{link.EntryWord}")));

    /// <summary>The token of an invitation as it was sent last.</summary>
    public string TokenOfInvitation(long id, int generation) =>
        TokenText.Of(HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"invitation:{id}:{generation}")));

    /// <summary>What a browser carries in which that person signed in before: a guesser from elsewhere does not shut them out.</summary>
    public string ProofOfBrowser(PersonId person) =>
        TokenText.Of(HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"browser:{person.Value}")));

    /// <summary>The key of a second factor, 20 bytes as RFC 4226 §4 advises.</summary>
    /// <param name="person">Whose.</param>
    /// <param name="factor">Their number of it; another one is another key.</param>
    public byte[] KeyOfFactor(PersonId person, int factor) =>
        HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"factor:{person.Value}:{factor}"))[..20];

    /// <summary>What is stored of a recovery code: a stolen database alone tells none, though codes are short.</summary>
    /// <param name="plain">See <see cref="SignIn.SecondFactor.PlainRecovery"/>.</param>
    public byte[] HashOfRecovery(string plain) =>
        HMACSHA256.HashData(secret, Encoding.UTF8.GetBytes($"recovery:{plain}"));

    /// <summary>What is stored of a token.</summary>
    public static byte[] HashOf(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));

    /// <inheritdoc cref="HashOf(string)" />
    public static byte[] HashOf(FeedToken token) => HashOf(token.Value);

    /// <summary>A new stamp of a person: every sign-in that began under the one before is over.</summary>
    internal static string NewStamp() => Guid.NewGuid().ToString("N");
}
