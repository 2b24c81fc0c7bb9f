using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Access;

/// <summary>Something one may want to do on a calendar.</summary>
[System.Diagnostics.CodeAnalysis.SuppressMessage(
    "Naming",
    "CA1711",
    Justification = "What those who write access rules call it."
)]
public enum Permission
{
    /// <summary>See when something is on.</summary>
    SeeTimes,

    /// <summary>See titles and places.</summary>
    SeeOutline,

    /// <summary>See descriptions, materials and join links.</summary>
    SeeDetails,

    /// <summary>Add a series.</summary>
    AddSeries,

    /// <summary>Change a series, its materials and its link.</summary>
    ChangeSeries,

    /// <summary>Take a series off, or bring it back.</summary>
    DeleteSeries,

    /// <summary>Make, change, replace, renew and withdraw join links.</summary>
    KeepJoinLinks,

    /// <summary>Enter at any time, open and shut the door; "own" is a host of the link.</summary>
    WorkDoor,

    /// <summary>Put notices up, change them and take them down, and see who has seen them.</summary>
    KeepNotices,

    /// <summary>Make, renew and revoke feeds and embeds.</summary>
    Publish,

    /// <summary>Change the calendar's title, mark and who may see it.</summary>
    ChangeCalendar,

    /// <summary>See who changed what on the calendar.</summary>
    SeeHistory,

    /// <summary>See who is on the class list.</summary>
    SeeClassList,

    /// <summary>Have its sessions sent to oneself; of busy times there is nothing to send.</summary>
    GetSessions,

    /// <summary>Make calendars, and carry a term to another. Asked of the school, not of a calendar.</summary>
    MakeCalendar,

    /// <summary>Find people of the school by their name. Asked of the school.</summary>
    FindPeople,

    /// <summary>Look after one's own name, password and sign-ins, and ask for access. Asked of the school.</summary>
    KeepOwnAccount,

    /// <summary>Set the school's time, its people and its checklists. Asked of the school.</summary>
    KeepSchool,
}

/// <summary>Every "may X do Y to Z", in one place.</summary>
public static class AccessRules
{
    /// <summary>
    /// The highest level that any of a calendar's grants gives the viewer. Where somebody looks as the viewer: no more than they have
    /// themselves, but for a coordinator.
    /// </summary>
    public static AccessLevel LevelOf(Viewer viewer, IEnumerable<Grant> grants)
    {
        var level = Given(viewer, grants);
        return
            viewer.LookedAtBy is { Role: not SchoolRole.Coordinator } looker
            && Given(looker, grants) is var own
            && own < level
            ? own
            : level;
    }

    private static AccessLevel Given(Viewer viewer, IEnumerable<Grant> grants)
    {
        var level = AccessLevel.None;
        foreach (var grant in grants)
        {
            if (grant.Level <= level || grant.AwaitsOpening)
                continue;
            if (Reaches(grant.To, viewer))
                level = grant.Level;
            // A family sees what its child sees, and does nothing in its place.
            else if (level < AccessLevel.Full && ReachesChild(grant.To, viewer))
                level = grant.Level < AccessLevel.Full ? grant.Level : AccessLevel.Full;
        }

        return level;
    }

    /// <summary>Whether a calendar is the viewer's own: granted to them by name, or as a member of its class list.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="grants">The calendar's grants.</param>
    /// <param name="classLists">Those groups that are class lists.</param>
    public static bool IsOwn(Viewer viewer, IEnumerable<Grant> grants, IReadOnlySet<GroupId> classLists) =>
        grants.Any(grant =>
            grant.To switch
            {
                Grantee.OnePerson => Reaches(grant.To, viewer) || ReachesChild(grant.To, viewer),
                Grantee.OneGroup group => classLists.Contains(group.Group)
                    && (Reaches(grant.To, viewer) || ReachesChild(grant.To, viewer)),
                _ => false,
            }
        );

    /// <summary>Whether somebody of that level may do the deed.</summary>
    /// <param name="permission">What is to be done.</param>
    /// <param name="level">Their level on the calendar.</param>
    /// <param name="own">Whether the entry concerned was made by them, or they are a host of the link; matters below editor only.</param>
    /// <example>
    /// <code>
    /// AccessRules.May(Permission.ChangeSeries, AccessLevel.Contributor) // false
    /// AccessRules.May(Permission.ChangeSeries, AccessLevel.Contributor, own: true) // true
    /// </code>
    /// </example>
    public static bool May(Permission permission, AccessLevel level, bool own = false) =>
        permission switch
        {
            Permission.SeeTimes => level >= AccessLevel.Busy,
            Permission.SeeOutline or Permission.GetSessions => level >= AccessLevel.Outline,
            Permission.SeeDetails => level >= AccessLevel.Full,
            Permission.AddSeries or Permission.SeeHistory or Permission.SeeClassList => level
                >= AccessLevel.Contributor,
            Permission.ChangeSeries or Permission.DeleteSeries => level >= AccessLevel.Editor
                || (own && level == AccessLevel.Contributor),
            Permission.KeepJoinLinks or Permission.KeepNotices => level >= AccessLevel.Editor,
            Permission.WorkDoor => level >= AccessLevel.Editor || (own && level >= AccessLevel.Full),
            Permission.Publish or Permission.ChangeCalendar => level >= AccessLevel.Manager,
            _ => false,
        };

    /// <summary>
    /// Whether somebody of that role may do the deed at the school: those who work there make calendars, coordinators keep it.
    /// </summary>
    /// <param name="permission">What is to be done; false for one that is asked of a calendar.</param>
    /// <param name="role">Their role; null for a visitor.</param>
    /// <example>
    /// <code>
    /// AccessRules.MayAtSchool(Permission.SeeTimes, null) // false
    /// </code>
    /// </example>
    public static bool MayAtSchool(Permission permission, SchoolRole? role) =>
        permission switch
        {
            Permission.MakeCalendar or Permission.FindPeople => role is SchoolRole.Coordinator or SchoolRole.Teacher,
            Permission.KeepOwnAccount => role is not null,
            Permission.KeepSchool => role is SchoolRole.Coordinator,
            _ => false,
        };

    /// <summary>Whether somebody passes the door of a link while it is open, by who they are alone.</summary>
    /// <param name="audience">Whom the link is for.</param>
    /// <param name="only">The only ones of them; null for all.</param>
    /// <param name="viewer">The visitor.</param>
    /// <param name="level">Their highest level on the calendars that use the link.</param>
    /// <param name="calendar">The calendar that the link belongs to.</param>
    public static bool Passes(
        JoinLinks.EntryAudience audience,
        Audience? only,
        Viewer viewer,
        AccessLevel level,
        CalendarId calendar
    ) =>
        audience switch
        {
            _ when !IsFor(only, level, viewer, calendar) => false,
            JoinLinks.EntryAudience.Anyone => true,
            JoinLinks.EntryAudience.School => viewer.Person is not null,
            _ => viewer.Person is not null && level >= AccessLevel.Full,
        };

    /// <summary>Whether a thing of a calendar is for somebody: whoever works on the calendar has all of it.</summary>
    /// <param name="only">The only ones it is for; null for all.</param>
    /// <param name="level">The reader's level on the calendar.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a feed or an embed.</param>
    /// <param name="calendar">The calendar that the thing is on.</param>
    public static bool IsFor(Audience? only, AccessLevel level, Viewer? reader, CalendarId calendar) =>
        only is null
        || level >= AccessLevel.Contributor
        || (
            reader is not null
            && ForBoth(reader, calendar, AccessLevel.Contributor, one =>
                only.Holds(one.Person, one.Groups) || one.Children.Any(child => only.Holds(child, one.GroupsOfChildren))
            )
        );

    /// <summary>Whether an entry is the viewer's own, so that they may do to it what its maker may.</summary>
    /// <param name="madeBy">Who made the entry.</param>
    /// <param name="calendar">The calendar that it is on.</param>
    /// <param name="viewer">Who asks; null for a stranger.</param>
    public static bool IsMaker(PersonId madeBy, CalendarId calendar, Viewer? viewer) =>
        viewer?.Person is not null && ForBoth(viewer, calendar, AccessLevel.Editor, one => one.Person == madeBy);

    // What hangs on who somebody is holds for whoever looks as them only where it holds for the looker as well, by who they are or by
    // their level on the calendar; but for a coordinator, who may look as anybody.
    private static bool ForBoth(Viewer viewer, CalendarId calendar, AccessLevel enough, Predicate<Viewer> holds) =>
        holds(viewer)
        && (
            viewer.LookedAtBy is not { Role: not SchoolRole.Coordinator } looker
            || holds(looker)
            || viewer.LookerWorksOn.GetValueOrDefault(calendar) >= enough
        );

    /// <summary>Whether a grant to that grantee is one to a child of the viewer.</summary>
    public static bool ReachesChild(Grantee to, Viewer viewer) =>
        to switch
        {
            Grantee.OnePerson one => viewer.Children.Contains(one.Person),
            Grantee.OneGroup group => viewer.GroupsOfChildren.Contains(group.Group),
            _ => false,
        };

    /// <summary>Whether a grant to that grantee is one to the viewer.</summary>
    public static bool Reaches(Grantee to, Viewer viewer) =>
        to switch
        {
            Grantee.Anyone => true,
            Grantee.Everyone => viewer.Person is not null,
            Grantee.OnePerson one => viewer.Person == one.Person,
            Grantee.OneGroup group => viewer.Groups.Contains(group.Group),
            _ => false,
        };
}
