using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Application.SignIn;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// The code that the first run asks for. It is printed where the server was started, so that a school belongs to whoever
/// started its almanac, and not to whoever finds its address first. Each start has another one.
/// </summary>
public sealed class SetUpCode
{
    /// <summary>How many codes may be tried in ten minutes, by all together.</summary>
    public const int Tries = 20;

    private readonly AttemptLimiter tries = new(Tries, TimeSpan.FromMinutes(10));

    /// <summary>The code: twelve letters and figures in threes, over 50 bits.</summary>
    public string Text { get; } =
        string.Join(
            '-',
            Enumerable.Range(0, 4).Select(_ => RandomNumberGenerator.GetString("34679cdfghjkmnpqrtwx", 3))
        );

    /// <summary>Whether that is the code; spaces, lines and capitals do not matter. Null where it was tried too often.</summary>
    public bool? Is(string? typed)
    {
        if (!tries.Take("all"))
            return null;
        var plain = new string([.. (typed ?? "").Take(100).Where(char.IsAsciiLetterOrDigit)]).ToLowerInvariant();
        if (
            !CryptographicOperations.FixedTimeEquals(
                Encoding.UTF8.GetBytes(plain),
                Encoding.UTF8.GetBytes(Text.Replace("-", "", StringComparison.Ordinal))
            )
        )
            return false;
        tries.GiveBack("all");
        return true;
    }
}
