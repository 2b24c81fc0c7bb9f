using System.Security.Cryptography;
using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>Knows one join link in the data.</summary>
public readonly record struct JoinLinkId(long Value);

/// <summary>
/// The last part of a short address, "tidepool-7k4mq": a word of the name, and five characters that do not look alike.
/// It never changes and is never given out again.
/// </summary>
public readonly record struct JoinCode(string Value)
{
    // No 0/o, 1/l/i, and no vowels or u/v, so that no word comes about by accident.
    private const string Letters = "23456789bcdfghjkmnpqrstwxz";

    /// <summary>A new code for a link of that name, from the system's random source.</summary>
    public static JoinCode New(string name)
    {
        var word = Slug.Of(name, "class").Split('-')[0];
        return new JoinCode($"{(word.Length > 12 ? word[..12] : word)}-{RandomNumberGenerator.GetString(Letters, 5)}");
    }

    /// <inheritdoc />
    public override string ToString() => Value;
}

/// <summary>
/// A join link as everybody but its keepers knows it: a name and a short address. What is behind it is a
/// <see cref="JoinTarget"/>, which is read only to lead somebody there.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">The calendar it belongs to.</param>
/// <param name="Name">What its keepers call it: "Tidepool room".</param>
/// <param name="Code">Its short address.</param>
/// <param name="TargetHost">The host behind it, e.g. "rooms.example": tells keepers which room it is without giving the way in.</param>
/// <param name="Version">Rises with each change.</param>
public sealed record JoinLink(JoinLinkId Id, CalendarId Calendar, string Name, JoinCode Code, string TargetHost, int Version);

/// <summary>The address of an online room. Only http and https; no user name or password inside.</summary>
public sealed record JoinTarget
{
    /// <summary>The longest address.</summary>
    public const int Longest = 2000;

    private JoinTarget(Uri address) => Address = address;

    /// <summary>The address, absolute.</summary>
    public Uri Address { get; }

    /// <summary>Reads an address that somebody typed or pasted.</summary>
    /// <returns>The target, or the reason why the text is none.</returns>
    public static (JoinTarget? Target, string? Reason) Read(string text)
    {
        text = text.Trim();
        if (text.Length > Longest) return (null, $"The join link is longer than {Longest} characters. Paste the address alone, without the rest of the invitation.");
        if (!WebAddress.TryRead(text, out var address)) return (null, "The join link must be a web address that starts with https:// or http://. Paste it as the room gives it.");
        if (address.UserInfo.Length > 0) return (null, "The join link has a user name inside (before the @). Paste it without.");
        return (new JoinTarget(address), null);
    }

    /// <summary>Says nothing of the address, so that it cannot slip into a log.</summary>
    public override string ToString() => "a join target";
}
