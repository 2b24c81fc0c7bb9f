using JollyAlmanac.Application.SignIn;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Slows those who guess secret addresses. Over the limit every address of that kind looks the same: wait. Whoever is signed in
/// is no guesser, so that a stranger in the same network never shuts a teacher out.
/// </summary>
public sealed class GuessGuard
{
    /// <summary>How many wrong addresses one network may ask for in a minute.</summary>
    public const int Misses = 60;

    /// <summary>How many wrong entry words one network may give at one door in ten minutes.</summary>
    public const int WrongWords = 30;

    private readonly WrongTries misses = new(Misses, TimeSpan.FromMinutes(1));
    private readonly WrongTries words = new(WrongWords, TimeSpan.FromMinutes(10));

    /// <summary>Whether that visitor's network has guessed too often.</summary>
    public bool IsShut(Visit visit) => visit.Person is null && misses.AreTooMany(visit.Network);

    /// <summary>Counts a wrong guess.</summary>
    public void Miss(Visit visit)
    {
        if (visit.Person is null) misses.Count(visit.Network);
    }

    /// <summary>Counts a try of an entry word before it is looked at.</summary>
    /// <returns>False where too many wrong ones were given from there at that door.</returns>
    public bool TakeWord(Visit visit, string code) => words.Take($"{visit.Network} {code}");

    /// <summary>Gives a try back: the word was right.</summary>
    public void GiveBackWord(Visit visit, string code) => words.GiveBack($"{visit.Network} {code}");
}
