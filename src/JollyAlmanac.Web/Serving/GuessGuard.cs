using JollyAlmanac.Application.SignIn;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Slows those who guess secret addresses. Over the limit every address of that kind looks the same: wait.
/// </summary>
public sealed class GuessGuard : IDisposable
{
    /// <summary>How many wrong addresses one network address may ask for in a minute.</summary>
    public const int Misses = 60;

    /// <summary>How many wrong entry words one network address may give at one door in ten minutes.</summary>
    public const int WrongWords = 30;

    private readonly WrongTries misses = new(Misses, TimeSpan.FromMinutes(1));
    private readonly WrongTries words = new(WrongWords, TimeSpan.FromMinutes(10));

    /// <summary>Whether that network address has guessed too often.</summary>
    public bool IsShut(string network) => misses.AreTooMany(network);

    /// <summary>Counts a wrong guess.</summary>
    public void Miss(string network) => misses.Count(network);

    /// <summary>Whether too many wrong words were given from there at that door.</summary>
    public bool IsDeaf(string network, string code) => words.AreTooMany($"{network} {code}");

    /// <summary>Counts a wrong word.</summary>
    public void WrongWord(string network, string code) => words.Count($"{network} {code}");

    /// <inheritdoc />
    public void Dispose()
    {
        misses.Dispose();
        words.Dispose();
    }
}
