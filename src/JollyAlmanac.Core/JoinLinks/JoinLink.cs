using System.Collections.Immutable;
using System.Security.Cryptography;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>Knows one join link in the data.</summary>
public readonly record struct JoinLinkId(long Value);

/// <summary>
/// The last part of a short address, "tidepool-7k4mqx": a word of the name, and six characters that do not look alike.
/// It never changes and is never given out again.
/// </summary>
public readonly record struct JoinCode(string Value)
{
    // No 0/o, 1/l/i, 2/z, 5/s, 8/b, and no vowels or u/v, so that no word comes about by accident.
    private const string Letters = "34679cdfghjkmnpqrtwx";

    /// <summary>The fewest characters of a code chosen by hand.</summary>
    public const int Shortest = 4;

    /// <summary>The most.</summary>
    public const int Longest = 40;

    /// <summary>A new code for a link of that name, from the system's random source.</summary>
    public static JoinCode New(string name)
    {
        var word = Slug.Of(name, "class").Split('-')[0];
        return new JoinCode($"{(word.Length > 12 ? word[..12] : word)}-{RandomNumberGenerator.GetString(Letters, 6)}");
    }

    /// <summary>Reads a code that somebody chose: lower-case letters, digits and single hyphens.</summary>
    /// <returns>The code, or the reason why it is none.</returns>
    public static (JoinCode? Code, string? Reason) Read(string text)
    {
        text = text.Trim().ToLowerInvariant();
        if (text.Length is < Shortest or > Longest) return (null, $"A short address has {Shortest} to {Longest} characters after /in/; this has {text.Length}.");
        return text.All(letter => letter is '-' || char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter)) && text[0] != '-' && text[^1] != '-' && !text.Contains("--", StringComparison.Ordinal)
            ? (new JoinCode(text), null)
            : (null, "A short address is made of the letters a to z, digits, and single hyphens between them.");
    }

    /// <summary>Where it stands, from the almanac's root: "/in/tidepool-7k4mqx".</summary>
    public string Path => $"/in/{Value}";

    /// <summary>Where it stands, whole.</summary>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    public Uri At(Uri root) => new(root, Path[1..]);

    /// <inheritdoc />
    public override string ToString() => Value;
}

/// <summary>Who may enter by a link.</summary>
public enum EntryAudience
{
    /// <summary>Whoever has the short address.</summary>
    Anyone,
    /// <summary>Those who sign in, or know the link's entry word.</summary>
    School,
    /// <summary>Those who sign in and see the calendar in full, or know the entry word.</summary>
    PeopleOfTheCalendar,
}

/// <summary>
/// A join link as everybody but its keepers knows it: a name and a short address. What is behind it is a
/// <see cref="JoinTarget"/>, which is read only to lead somebody there.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">The calendar it belongs to; series of others may use it too.</param>
/// <param name="Name">What its keepers call it: "Tidepool room".</param>
/// <param name="Code">Its short address.</param>
/// <param name="Version">Rises with each change.</param>
public sealed record JoinLink(JoinLinkId Id, CalendarId Calendar, string Name, JoinCode Code, int Version)
{
    /// <summary>When its door opens and shuts.</summary>
    public EntryRule Entry { get; init; } = EntryRule.Usual;

    /// <summary>When the door is open for a session: by the session's own rule, where it has one, else by the link's.</summary>
    public EntryWindow WindowOf(Session session) => (session.Change?.Entry ?? Entry).WindowOf(session);

    /// <summary>Who may enter.</summary>
    public EntryAudience Audience { get; init; }

    /// <summary>A word that opens the door like a sign-in, where not anyone may enter; empty for none. Only keepers see it.</summary>
    public string EntryWord { get; init; } = "";

    /// <summary>An open door shows a page with meeting id, passcode and telephone numbers, instead of leading straight in.</summary>
    public bool ShowsDetails { get; init; }

    /// <summary>Each session gets a room of its own, where the provider can make one.</summary>
    public bool RenewsAfterEach { get; init; }

    /// <summary>How far the room reaches.</summary>
    public LinkReach Reach { get; init; } = new LinkReach.Unlimited();

    /// <summary>It is somebody's personal room, as its owner says.</summary>
    public bool IsPersonal { get; init; }

    /// <summary>Its keepers said that the classes that use it belong together.</summary>
    public bool IsSharedOnPurpose { get; init; }

    /// <summary>When it was withdrawn; null while it is in use.</summary>
    public Instant? WithdrawnAt { get; init; }

    /// <summary>Why it cannot be read from where it is stored; null where all is well. Its door is shut until somebody saves it anew.</summary>
    public string? CannotBeRead { get; init; }

    /// <summary>It leads nowhere: withdrawn, or not to be read.</summary>
    public bool LeadsNowhere => WithdrawnAt is not null || CannotBeRead is not null;

    /// <summary>What somebody did to the door by hand; null where it keeps its rule.</summary>
    public DoorHand? Hand { get; init; }

    /// <summary>What keepers may know of what is behind it.</summary>
    public required TargetFacts Target { get; init; }

    /// <summary>People who may work the door and enter at any time, besides the calendar's editors.</summary>
    public ImmutableArray<PersonId> Hosts { get; init; } = [];

    /// <summary>Lines of the school's room checklist that are ticked.</summary>
    public ImmutableArray<string> Ticked { get; init; } = [];

    /// <summary>A keeper's remark; may be empty.</summary>
    public string Notes { get; init; } = "";
}

/// <summary>What keepers may know of a target without getting the way in.</summary>
/// <param name="Host">The host behind it, e.g. "rooms.example".</param>
/// <param name="Room">The provider's number of the room; empty where no provider made it.</param>
/// <param name="Provider">The provider's name; empty for a room that was pasted.</param>
/// <param name="SetAt">When it was put there.</param>
/// <param name="Count">How many the link has had, with this one.</param>
/// <param name="HasMeetingId">It has a meeting id.</param>
/// <param name="HasPasscode">It has a passcode of its own.</param>
/// <param name="HasPasscodeInside">Its address carries a passcode.</param>
/// <param name="HasDialIn">It has telephone numbers.</param>
/// <param name="TestedAt">When it was tested; null where it has not been.</param>
/// <param name="TestSaid">What the test found; empty where all was well.</param>
public sealed record TargetFacts(
    string Host, string Room, string Provider, Instant SetAt, int Count, bool HasMeetingId, bool HasPasscode, bool HasPasscodeInside, bool HasDialIn, Instant? TestedAt, string TestSaid);
