using System.Collections.Immutable;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Findings;

/// <summary>A text that readers of some place see.</summary>
/// <param name="Series">The series it stands on.</param>
/// <param name="Place">Where, in words: "the text about Tidepool Biology 9A".</param>
/// <param name="Text">The text.</param>
public sealed record ReadText(SeriesId Series, string Place, string Text);

/// <summary>A link with all that findings are drawn from.</summary>
/// <param name="Link">The link.</param>
/// <param name="Door">Its windows.</param>
/// <param name="Users">The calendars whose series use it.</param>
/// <param name="PublicTexts">Texts that anyone can read.</param>
/// <param name="CanMakeRooms">A provider can make another room.</param>
/// <param name="Term">The term of today, or the next; null where the school has none.</param>
public sealed record LinkInUse(
    JoinLink Link,
    DoorSchedule Door,
    IReadOnlyList<Calendar> Users,
    IReadOnlyList<ReadText> PublicTexts,
    bool CanMakeRooms,
    Term? Term = null
)
{
    /// <summary>Series of the link's calendar that have sessions to come and no link, where most of the others there use this one.</summary>
    public IReadOnlyList<Series.Series> Unlinked { get; init; } = [];

    /// <summary>How many days the school lets a passcode be in use; null for as long as one likes.</summary>
    public int? PasscodeDays { get; init; }
}

/// <summary>What there is to notice about join links. Each finding is a pure function of the link and its use.</summary>
public static class LinkFindings
{
    /// <summary>Days before its end at which a room is near it.</summary>
    public const int NearDays = 14;

    /// <summary>What is shorter means nothing where it stands in a text.</summary>
    public const int ShortestSecret = 4;

    // A number that is shorter comes about by accident once its blanks are taken out of a text.
    private const int ShortestId = 8;

    // No door opens earlier before its session.
    private static readonly Duration EarliestOpening = Duration.FromDays(1);

    /// <summary>What was noticed, the worst first.</summary>
    /// <param name="use">The link and its use.</param>
    /// <param name="secrets">What must not stand in public: address, meeting id and passcode of the target. Read only to compare.</param>
    /// <param name="now">The moment.</param>
    /// <param name="zone">The school's zone.</param>
    public static IReadOnlyList<Finding> Of(
        LinkInUse use,
        IReadOnlyCollection<string> secrets,
        Instant now,
        DateTimeZone zone
    )
    {
        if (use.Link.LeadsNowhere)
            return [];
        var coming = use.Door.Windows.Where(window => window.Ends > now).ToList();
        return
        [
            .. new[]
            {
                Overlap(use, coming) ?? Follows(use, coming, now),
                Apart(use, coming),
                Reach(use, coming, now, zone),
                OldPasscode(use, coming, now, zone),
                InPublic(use, secrets),
                Personal(use),
                Untested(use),
                WithoutEnd(use, coming, now.InZone(zone).Date),
                AlwaysOpen(use, coming),
                WithoutLink(use),
            }
                .OfType<Finding>()
                .OrderBy(finding => finding.Severity),
        ];
    }

    /// <summary>
    /// The pairs of neighbours on one link where the later door opens before the earlier session has ended; half open, so
    /// that a door that opens at that very minute does not count. None where each session gets a room of its own.
    /// </summary>
    public static IEnumerable<(EntryWindow Earlier, EntryWindow Later)> Overlaps(
        JoinLink link,
        IReadOnlyList<EntryWindow> windows
    )
    {
        if (link.KeepsGroupsApart || link.Entry is EntryRule.Always)
            yield break;
        // Those that may reach into what follows: a session of an hour, or a camp of three days.
        var reaching = new List<EntryWindow>();
        foreach (var later in windows)
        {
            if (later.Session.IsAllDay)
                continue;
            reaching.RemoveAll(earlier => earlier.Ends <= later.Starts - EarliestOpening);
            for (var at = reaching.Count - 1; at >= 0; at--)
                if (later.Opens < reaching[at].Ends)
                    yield return (reaching[at], later);
            reaching.Add(later);
        }
    }

    private static Finding? Overlap(LinkInUse use, List<EntryWindow> coming)
    {
        var pairs = Overlaps(use.Link, coming).ToList();
        if (pairs.Count == 0)
            return null;
        var (earlier, later) = pairs[0];
        var remedies = ImmutableArray.CreateBuilder<Remedy>();
        // The smallest gap decides how early the door may open; sessions that overlap themselves need another room.
        var gap = pairs.Min(pair => (int)Math.Floor((pair.Later.Starts - pair.Earlier.Ends).TotalMinutes));
        var opens = later.Session.StartAtSchool.PlusMinutes(-Math.Max(0, gap)).TimeOfDay;
        if (gap >= 0 && use.Link.Entry is EntryRule.Around)
        {
            if (pairs.Select(pair => pair.Later.Session).Distinct().Count() == 1)
                remedies.Add(
                    new Remedy(
                        RemedyKind.OpenSessionLater,
                        $"Open it at {Wording.Of(opens)}",
                        $"On {Wording.WithWeekday(later.Session.StartAtSchool.Date)}, {later.Session.Title} opens {Minutes(gap)} before its start; other days stay as they are.",
                        later.Session.Of.Id,
                        later.Session.Key,
                        gap
                    )
                );
            else
                remedies.Add(
                    new Remedy(
                        RemedyKind.OpenLater,
                        $"Open {Minutes(gap)} before",
                        $"{use.Link.Name} opens {Minutes(gap)} before every session that uses it.",
                        Minutes: gap
                    )
                );
        }

        if (use.CanMakeRooms)
        {
            remedies.Add(
                new Remedy(
                    RemedyKind.RenewAfterEach,
                    "Replace room in between",
                    "Each session gets a room of its own. The short address stays."
                )
            );
            if (earlier.Session.Of.Id != later.Session.Of.Id)
                remedies.Add(
                    new Remedy(
                        RemedyKind.OwnLink,
                        $"Give {later.Session.Of.Title} its own link",
                        $"{later.Session.Of.Title} gets a new link and a new short address; it no longer uses {use.Link.Name}.",
                        later.Session.Of.Id
                    )
                );
        }

        var more = pairs.Count > 1 ? $" It happens {pairs.Count} times from now on." : "";
        return new Finding(
            FindingKind.WindowsOverlap,
            Severity.MustFix,
            use.Link.Id,
            "Two groups could meet",
            $"The door for {later.Session.Title} opens on {Wording.WithWeekday(later.Session.StartAtSchool.Date)} at {Wording.Of(Local(later.Opens, later.Session))}; {earlier.Session.Title} is inside {use.Link.Name} until {Wording.Of(earlier.Session.EndAtSchool.TimeOfDay)}.{more}",
            remedies.ToImmutable()
        );
    }

    // Doors that do not overlap let the next group in on who stays a little longer.
    private static Finding? Follows(LinkInUse use, List<EntryWindow> coming, Instant now)
    {
        if (use.Link.KeepsGroupsApart || use.Link.Entry is EntryRule.Always)
            return null;
        var soon = coming
            .Where(window => !window.Session.IsAllDay && window.Starts < now + Duration.FromDays(NearDays))
            .ToList();
        for (var at = 1; at < soon.Count; at++)
        {
            var (earlier, later) = (soon[at - 1], soon[at]);
            var gap = later.Starts - earlier.Ends;
            if (earlier.Session.Of.Id == later.Session.Of.Id || gap < Duration.Zero || gap > CloseBehind)
                continue;
            return new Finding(
                FindingKind.FollowsClosely,
                Severity.WorthKnowing,
                use.Link.Id,
                "One group follows another in one room",
                $"{later.Session.Title} begins on {Wording.WithWeekday(later.Session.StartAtSchool.Date)} at {Wording.Of(later.Session.StartAtSchool.TimeOfDay)}, {(gap == Duration.Zero ? "when" : $"{Minutes((int)gap.TotalMinutes)} after")} {earlier.Session.Title} ends in {use.Link.Name}. Put another room behind it, in turn: Edit join link, More rooms.",
                use.CanMakeRooms
                    ?
                    [
                        new Remedy(
                            RemedyKind.RenewAfterEach,
                            "Replace room in between",
                            "Each session gets a room of its own. The short address stays."
                        ),
                    ]
                    : []
            );
        }

        return null;
    }

    // Common practice (no source): who stays to ask something is gone by then.
    private static readonly Duration CloseBehind = Duration.FromMinutes(10);

    private static Finding? Apart(LinkInUse use, List<EntryWindow> coming)
    {
        if (use.Link.IsSharedOnPurpose)
            return null;
        // The class whose link it is keeps it; the others are strangers to it.
        var classes = use
            .Users.Where(calendar => calendar.Kind == CalendarKind.Class)
            .OrderBy(calendar => calendar.Id != use.Link.Calendar)
            .ToList();
        for (var at = 1; at < classes.Count; at++)
        {
            var (one, other) = (classes[0], classes[at]);
            if (one.Owner == other.Owner || (one.Department is not null && one.Department == other.Department))
                continue;
            var remedies = ImmutableArray.CreateBuilder<Remedy>();
            var stranger = coming
                .Select(window => window.Session.Of)
                .FirstOrDefault(series => series.Calendar == other.Id);
            if (use.CanMakeRooms && stranger is not null)
                remedies.Add(
                    new Remedy(
                        RemedyKind.OwnLink,
                        $"Give {stranger.Title} its own link",
                        $"{stranger.Title} gets a new link and a new short address; it no longer uses {use.Link.Name}.",
                        stranger.Id
                    )
                );
            remedies.Add(OnPurpose(use));
            return new Finding(
                FindingKind.ClassesApart,
                Severity.ShouldFix,
                use.Link.Id,
                "Two classes share a room that do not belong together",
                $"{one.Title} and {other.Title} use {use.Link.Name}; they have neither teacher nor department in common.",
                remedies.ToImmutable()
            );
        }

        return classes.Count < 2
            ? null
            : new Finding(
                FindingKind.ClassesTogether,
                Severity.WorthKnowing,
                use.Link.Id,
                classes.Count == 2
                    ? "One address opens two classes’ doors"
                    : $"One address opens the doors of {classes.Count} classes",
                $"Who has {use.Link.Code.Path} may enter with {Wording.List([.. classes.Select(calendar => calendar.Title)])} alike.",
                [OnPurpose(use)]
            );
    }

    private static Remedy OnPurpose(LinkInUse use) =>
        new(
            RemedyKind.SharedOnPurpose,
            "They belong together",
            $"{use.Link.Name} stays as it is, and this note goes away."
        );

    private static Finding? AlwaysOpen(LinkInUse use, List<EntryWindow> coming) =>
        use.Link.Entry is not EntryRule.Always || coming.TrueForAll(window => window.Session.IsAllDay)
            ? null
            : new Finding(
                FindingKind.AlwaysOpen,
                Severity.WorthKnowing,
                use.Link.Id,
                $"{use.Link.Name} is always open",
                "Its sessions have times, yet whoever has the address may enter at any hour.",
                [
                    new Remedy(
                        RemedyKind.OpenAround,
                        "Open it around sessions",
                        $"{use.Link.Name} {EntryRule.Usual.InWords}."
                    ),
                ]
            );

    private static Finding? WithoutLink(LinkInUse use) =>
        use.Unlinked is not [var first, ..]
            ? null
            : new Finding(
                FindingKind.WithoutLink,
                Severity.WorthKnowing,
                use.Link.Id,
                $"{first.Title} meets without a join link",
                use.Unlinked.Count == 1
                    ? $"The others of its calendar have {use.Link.Name}."
                    : $"So {(use.Unlinked.Count == 2 ? "does one more" : $"do {use.Unlinked.Count - 1} more")}. The others of its calendar have {use.Link.Name}.",
                [
                    new Remedy(
                        RemedyKind.TakeLink,
                        "Give it that link",
                        $"{first.Title} is joined by {use.Link.Name} from now on.",
                        first.Id
                    ),
                ]
            );

    private static Finding? Reach(LinkInUse use, List<EntryWindow> coming, Instant now, DateTimeZone zone)
    {
        if (use.Door.LastDay is not { } last)
            return null;
        var left = coming
            .Where(window => window.Session.StartAtSchool.Date > last)
            .Select(window => window.Session)
            .ToList();
        if (left.Count == 0)
            return null;
        var today = now.InZone(zone).Date;
        var (isPast, isNear) = (last < today, last <= today.PlusDays(NearDays));
        ImmutableArray<Remedy> remedies = use.CanMakeRooms
            ?
            [
                new Remedy(
                    RemedyKind.Renew,
                    "Replace room",
                    $"A new room takes the place of the one behind {use.Link.Name}. The short address stays."
                ),
            ]
            : [];
        return new Finding(
            FindingKind.ReachesTooShort,
            isPast ? Severity.MustFix
                : isNear ? Severity.ShouldFix
                : Severity.WorthKnowing,
            use.Link.Id,
            isPast
                ? $"{use.Link.Name} ran out on {Wording.WithWeekday(last)}"
                : $"{use.Link.Name} runs out on {Wording.WithWeekday(last)}",
            $"{Wording.Count(left.Count, "session comes", "sessions come")} after that, the last on {Wording.WithWeekday(left[^1].StartAtSchool.Date)}.{(remedies.IsEmpty ? " Put another room behind it before then." : "")}",
            remedies
        );
    }

    private static Finding? OldPasscode(LinkInUse use, List<EntryWindow> coming, Instant now, DateTimeZone zone)
    {
        var today = now.InZone(zone).Date;
        return
            use.Door.PasscodeLastDay(use.PasscodeDays) is not { } last
            || last > today.PlusDays(NearDays)
            || !coming.Exists(window => window.Session.StartAtSchool.Date > last)
            ? null
            : new Finding(
                FindingKind.OldPasscode,
                Severity.ShouldFix,
                use.Link.Id,
                last < today
                    ? $"The passcode of {use.Link.Name} is older than the school allows"
                    : $"The passcode of {use.Link.Name} is to be changed by {Wording.WithWeekday(last)}",
                $"It was set on {Wording.WithYear(last.PlusDays(-use.PasscodeDays!.Value))}; a passcode may be in use for {Wording.Count(use.PasscodeDays.Value, "day", "days")}. Change it where the room is kept, then paste the new invitation: Edit join link.",
                []
            );
    }

    private static Finding? InPublic(LinkInUse use, IReadOnlyCollection<string> secrets)
    {
        var told = secrets.Where(secret => secret.Length >= ShortestSecret).ToList();
        // "812 4460 913" and "8124460913" are one meeting id.
        var bare = told.Select(Bare)
            .Where(secret => secret.Length >= ShortestId && secret.All(char.IsAsciiDigit))
            .ToList();
        if (
            use.PublicTexts.FirstOrDefault(text =>
                told.Exists(secret => text.Text.Contains(secret, StringComparison.OrdinalIgnoreCase))
                || (
                    bare.Count > 0
                    && Bare(text.Text) is var digits
                    && bare.Exists(secret => digits.Contains(secret, StringComparison.Ordinal))
                )
            )
            is not { } place
        )
            return null;
        var remedies = ImmutableArray.Create(
            new Remedy(
                RemedyKind.TakeOut,
                "Take it out",
                $"In {place.Place}, the room's address becomes the short address; meeting id and passcode go.",
                place.Series
            )
        );
        if (use.CanMakeRooms)
            remedies = remedies.Add(
                new Remedy(
                    RemedyKind.Renew,
                    "Replace room",
                    "What stands there opens nothing any more. The short address stays."
                )
            );
        return new Finding(
            FindingKind.SecretInPublic,
            Severity.MustFix,
            use.Link.Id,
            "Join details stand where anyone can read them",
            $"{Wording.Capital(place.Place)} holds the address, the meeting id or the passcode of {use.Link.Name}.",
            remedies
        );
    }

    // Without what people put between the digits of a number.
    private static string Bare(string text) =>
        string.Concat(text.Where(letter => letter is not (' ' or '-' or '\u00a0' or '\u2009' or '.')));

    private static Finding? Personal(LinkInUse use)
    {
        if (
            !use.Link.IsPersonal
            || use.Users.FirstOrDefault(calendar => calendar.Kind == CalendarKind.Class) is not { } by
        )
            return null;
        ImmutableArray<Remedy> own = use.CanMakeRooms
            ?
            [
                new Remedy(
                    RemedyKind.Renew,
                    "Put a class room behind it",
                    $"A new room takes the place of the personal one behind {use.Link.Name}. The short address stays."
                ),
            ]
            : [];
        return new Finding(
            FindingKind.PersonalRoom,
            Severity.ShouldFix,
            use.Link.Id,
            "A class meets in a personal room",
            $"{by.Title} uses {use.Link.Name}, which is marked as personal: one group can walk in on another, and its settings are its owner’s.",
            own.Add(
                new Remedy(
                    RemedyKind.NotPersonal,
                    "It is no personal room",
                    $"{use.Link.Name} is no longer marked as personal."
                )
            )
        );
    }

    private static Finding? Untested(LinkInUse use) =>
        use.Users.Count == 0 || use.Link.Target is not { TestedAt: null } and not { TestSaid.Length: > 0 } ? null
        : use.Link.Target.TestedAt is null
            ? new Finding(
                FindingKind.Untested,
                Severity.WorthKnowing,
                use.Link.Id,
                use.Link.Target.Count > 1
                    ? $"{use.Link.Name}: not tested since its room was changed"
                    : $"{use.Link.Name}: not tested yet",
                "A test tells before the class does.",
                [
                    new Remedy(
                        RemedyKind.Test,
                        "Test it now",
                        $"The almanac looks at the room behind {use.Link.Name} and notes what it found."
                    ),
                ]
            )
        : new Finding(
            FindingKind.Untested,
            Severity.MustFix,
            use.Link.Id,
            $"{use.Link.Name} failed its last test",
            use.Link.Target.TestSaid,
            [
                new Remedy(
                    RemedyKind.Test,
                    "Test it again",
                    $"The almanac looks at the room behind {use.Link.Name} and notes what it found."
                ),
            ]
        );

    // Repeating without an end is how a class comes to meet in the holidays, and after its pupils have left.
    private static Finding? WithoutEnd(LinkInUse use, List<EntryWindow> coming, LocalDate today)
    {
        var classes = use
            .Users.Where(calendar => calendar.Kind == CalendarKind.Class)
            .Select(calendar => calendar.Id)
            .ToHashSet();
        if (
            coming
                .Select(window => window.Session.Of)
                .FirstOrDefault(series =>
                    series.Pattern is { Extent: Extent.Open, Repeat: not Repeat.OnDates }
                    && classes.Contains(series.Calendar)
                )
            is not { } open
        )
            return null;
        ImmutableArray<Remedy> remedies =
            use.Term is { } term && open.Pattern.From <= term.Last && today <= term.Last
                ?
                [
                    new Remedy(
                        RemedyKind.EndWithTerm,
                        $"End it with the {term.Name}",
                        $"{open.Title} has its last session by {Wording.WithYear(term.Last)}; those after it go.",
                        open.Id
                    ),
                ]
                : [];
        return new Finding(
            FindingKind.WithoutEnd,
            Severity.WorthKnowing,
            use.Link.Id,
            $"{open.Title} has no end",
            "It goes on from term to term and year to year until somebody ends it.",
            remedies
        );
    }

    private static LocalTime Local(Instant instant, Session session) =>
        instant.InZone(session.School ?? session.Of.Pattern.Zone).TimeOfDay;

    private static string Minutes(int minutes) => minutes == 0 ? "0 min" : Wording.Amount(minutes);
}
