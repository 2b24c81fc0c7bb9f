using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.JoinLinks;
using Microsoft.Extensions.Caching.Memory;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Slows those who guess short addresses and entry words: a code has six random characters, which many tries would find. Addresses with
/// 128 random bits (feeds, embeds, materials, invitations, guest links) cannot be guessed and are not counted. Whoever is signed in is
/// no guesser, and an address that a network has opened before stays open to it, so that one pupil who guesses shuts nobody out.
/// </summary>
public sealed class GuessLimiter : IDisposable
{
    /// <summary>How many wrong addresses one network may ask for in a minute.</summary>
    public const int Misses = 60;

    /// <summary>How many wrong entry words one network may give at one door in ten minutes.</summary>
    public const int WrongWords = 30;

    private static readonly TimeSpan Known = TimeSpan.FromHours(12);

    private readonly AttemptLimiter misses = new(Misses, TimeSpan.FromMinutes(1));
    private readonly AttemptLimiter words = new(WrongWords, TimeSpan.FromMinutes(10));
    private readonly MemoryCache opened = new(new MemoryCacheOptions { SizeLimit = 20_000 });

    /// <summary>Whether that visitor is to wait: their network has guessed too often, and has not opened this address before.</summary>
    public bool IsShut(RequestContext requestContext, JoinCode code) =>
        requestContext.Person is null
        && misses.AreTooMany(requestContext.Network)
        && !opened.TryGetValue((requestContext.Network, code), out _);

    /// <summary>Counts a wrong guess.</summary>
    public void Miss(RequestContext requestContext)
    {
        if (requestContext.Person is null)
            misses.Count(requestContext.Network);
    }

    /// <summary>Notes that the visitor's network knows an address that there is.</summary>
    public void Hit(RequestContext requestContext, JoinCode code)
    {
        if (!opened.TryGetValue((requestContext.Network, code), out _))
            opened.Set(
                (requestContext.Network, code),
                true,
                new MemoryCacheEntryOptions { Size = 1, SlidingExpiration = Known }
            );
    }

    /// <summary>Counts a try of an entry word before it is looked at.</summary>
    /// <returns>False where too many wrong ones were given from there at that door.</returns>
    public bool TakeWord(RequestContext requestContext, JoinCode code) =>
        words.Take($"{requestContext.Network} {code}");

    /// <summary>Gives a try back: the word was right.</summary>
    public void GiveBackWord(RequestContext requestContext, JoinCode code) =>
        words.GiveBack($"{requestContext.Network} {code}");

    /// <inheritdoc />
    public void Dispose() => opened.Dispose();
}
