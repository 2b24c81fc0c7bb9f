using System.Collections.Immutable;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>Knows one join link in the data.</summary>
public readonly record struct JoinLinkId(long Value);

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

    /// <summary>Who may enter.</summary>
    public EntryAudience Audience { get; init; }

    /// <summary>
    /// The only ones who see its short address and may enter; null for all that <see cref="Audience"/> says. Whoever knows the entry word
    /// may, too.
    /// </summary>
    public Audience? OnlyFor { get; init; }

    /// <summary>A word that opens the door like a sign-in, where not anyone may enter; empty for none. Only keepers see it.</summary>
    public string EntryWord { get; init; } = "";

    /// <summary>An open door shows a page with meeting id, passcode and telephone numbers, instead of leading straight in.</summary>
    public bool ShowsDetails { get; init; }

    /// <summary>Each session gets a room of its own, where the provider can make one.</summary>
    public bool RenewsAfterEach { get; init; }

    /// <summary>Its door lets the class in once a host is in.</summary>
    public bool WaitsForHost { get; init; }

    /// <summary>
    /// The almanac itself holds its door until a host is in. The rooms of a provider let people in by themselves, so it need not.
    /// </summary>
    public bool IsHeldForHost =>
        WaitsForHost
        && Target.Provider.Length == 0
        && !RenewsAfterEach
        && Entry is (EntryRule.Around or EntryRule.AllDay);

    /// <summary>What to do, for whoever enters: some lines of its keepers; may be empty.</summary>
    public string WhatToDo { get; init; } = "";

    /// <summary>The most characters of <see cref="WhatToDo"/>.</summary>
    public const int LongestWhatToDo = 600;

    /// <summary>The hosts of further rooms: with the link's own they take turns, a session each. Empty for one room.</summary>
    public ImmutableArray<string> RoomsInTurn { get; init; } = [];

    /// <summary>Sessions that follow each other do not share a room.</summary>
    public bool KeepsGroupsApart => RenewsAfterEach || RoomsInTurn.Length > 0;

    /// <summary>How far the room reaches.</summary>
    public LinkReach Reach { get; init; } = new LinkReach.Unlimited();

    /// <summary>It is somebody's personal room, as its owner says.</summary>
    public bool IsPersonal { get; init; }

    /// <summary>Its keepers said that the classes that use it belong together.</summary>
    public bool IsSharedOnPurpose { get; init; }

    /// <summary>When it was withdrawn; null while it is in use.</summary>
    public Instant? WithdrawnAt { get; init; }

    /// <summary>When it ends by itself, where it is a room that was opened at once; null for one that stays.</summary>
    public Instant? EndsAt { get; init; }

    /// <summary>
    /// Why it cannot be read from where it is stored; null where all is well. Its door is closed until somebody saves it anew.
    /// </summary>
    public string? CannotBeRead { get; init; }

    /// <summary>It leads nowhere: withdrawn, or not to be read.</summary>
    public bool LeadsNowhere => WithdrawnAt is not null || CannotBeRead is not null;

    /// <summary>What somebody did to the door by hand; null where it keeps its rule.</summary>
    public ManualOverride? Hand { get; init; }

    /// <summary>What keepers may know of what is behind it.</summary>
    public required TargetFacts Target { get; init; }

    /// <summary>People who may work the door and enter at any time, besides the calendar's editors.</summary>
    public ImmutableArray<PersonId> Hosts { get; init; } = [];

    /// <summary>Lines of the school's room checklist that are ticked.</summary>
    public ImmutableArray<string> Ticked { get; init; } = [];

    /// <summary>A keeper's remark; may be empty.</summary>
    public string Notes { get; init; } = "";
}
