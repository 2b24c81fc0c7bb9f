using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Publishing;

/// <summary>Knows one feed or embed in the data.</summary>
public readonly record struct PublicationId(long Value);

/// <summary>Where an outlet leads.</summary>
public enum PublicationKind
{
    /// <summary>A secret address that gives an iCalendar document.</summary>
    Feed,

    /// <summary>An address that gives a panel for another website.</summary>
    Embed,
}

/// <summary>
/// A feed or an embed: a secret address that shows a calendar to whoever has it, at a level of its own.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">Feed or embed.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Name">What its makers call it: "For families".</param>
/// <param name="Level">What it shows; never above <see cref="AccessLevel.Full"/>.</param>
/// <param name="Choices">What of that it leaves away.</param>
/// <param name="Sites">For an embed: the origins that may frame it. Empty for a feed.</param>
/// <param name="Generation">Rises when the address is renewed: each generation has its own address.</param>
/// <param name="Version">Rises with each change.</param>
/// <param name="MadeBy">Who made it.</param>
/// <param name="LastFetchedAt">When a reader last asked for it, to the minute; null for never.</param>
public sealed record Publication(
    PublicationId Id,
    PublicationKind Kind,
    CalendarId Calendar,
    string Name,
    AccessLevel Level,
    ShowChoices Choices,
    ImmutableArray<SiteOrigin> Sites,
    int Generation,
    int Version,
    PersonId MadeBy,
    Instant? LastFetchedAt
)
{
    /// <summary>Its address stands on the class page, for whoever may open that.</summary>
    public bool IsOffered { get; init; }

    /// <summary>Which calendars it tells beside its own.</summary>
    public PublicationScope Scope { get; init; }

    /// <summary>The group whose calendars it tells; null where it tells no group's, or that is gone.</summary>
    public GroupId? Group { get; init; }

    /// <summary>The calendars that were chosen beside its own.</summary>
    public ImmutableArray<CalendarId> Others { get; init; } = [];

    /// <summary>What else it shows, and how.</summary>
    public PublicationOptions Options { get; init; } = new();

    /// <summary>Since when it shows nothing, because somebody paused it; null while it shows what it should.</summary>
    public Instant? PausedAt { get; init; }

    /// <summary>The levels an outlet may have: never more than <see cref="AccessLevel.Full"/>, nor than its maker's own.</summary>
    /// <example>
    /// <code>
    /// Publication.MayHave(AccessLevel.Full, AccessLevel.Outline) // false
    /// </code>
    /// </example>
    public static bool MayHave(AccessLevel level, AccessLevel makers) =>
        level is AccessLevel.Busy or AccessLevel.Outline or AccessLevel.Full && level <= makers;

    /// <summary>In plain words, what whoever has the address learns.</summary>
    public string GivesAway() => GivesAway(Level, Choices);

    /// <summary>In plain words, what whoever has the address of such an outlet learns.</summary>
    public static string GivesAway(AccessLevel level, ShowChoices choices)
    {
        if (level <= AccessLevel.Busy)
            return "only when the class meets. No titles, no places, no links.";
        var shown = new List<string> { "titles", "times", "places" };
        if (level >= AccessLevel.Full)
        {
            if (choices.Descriptions)
                shown.Add("descriptions");
            if (choices.Materials)
                shown.Add("materials that are for anyone");
            if (choices.JoinLinks)
                shown.Add("the short join address");
        }

        return $"{Wording.List(shown)}. Never who is in the class, and never what is behind the join link.";
    }
}

/// <summary>
/// A website by its scheme, host and port, as Content-Security-Policy's frame-ancestors wants it: "https://www.school.example".
/// </summary>
public readonly record struct SiteOrigin(string Value)
{
    /// <summary>Reads a site that somebody typed: an address of any of its pages, or its bare host (https is meant).</summary>
    /// <example>
    /// <code>
    /// SiteOrigin.Read("skerry.example/classes")!.Value // https://skerry.example
    /// </code>
    /// </example>
    public static SiteOrigin? Read(string text)
    {
        text = text.Trim();
        if (!text.Contains("://", StringComparison.Ordinal))
            text = "https://" + text;
        if (!WebAddress.TryRead(text, out var address) || address.UserInfo.Length > 0)
            return null;
        var host = address.IdnHost;
        // A character of the policy's own grammar inside a host would change its meaning.
        if (!host.All(letter => char.IsAsciiLetterOrDigit(letter) || letter is '.' or '-'))
            return null;
        return new SiteOrigin(
            address.IsDefaultPort ? $"{address.Scheme}://{host}" : $"{address.Scheme}://{host}:{address.Port}"
        );
    }

    /// <inheritdoc />
    public override string ToString() => Value;
}
