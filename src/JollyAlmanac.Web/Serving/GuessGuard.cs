using JollyAlmanac.Application.SignIn;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Slows those who guess secret addresses. Over the limit every address of that kind looks the same: wait.
/// </summary>
public sealed class GuessGuard : IDisposable
{
    /// <summary>How many wrong addresses one network address may ask for in a minute.</summary>
    public const int Misses = 60;

    private readonly WrongTries misses = new(Misses, TimeSpan.FromMinutes(1));

    /// <summary>Whether that network address has guessed too often.</summary>
    public bool IsShut(string network) => misses.AreTooMany(network);

    /// <summary>Counts a wrong guess.</summary>
    public void Miss(string network) => misses.Count(network);

    /// <inheritdoc />
    public void Dispose() => misses.Dispose();
}
