using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;

namespace JollyAlmanac.Application.SignIn;

/// <summary>Whom somebody looks as.</summary>
/// <param name="Name">"Teodor Quill", "a member of Tidepool Biology 9A, class list", "a stranger".</param>
/// <param name="IsStranger">Somebody who is not signed in.</param>
/// <param name="IsCut">What the looker may not see themselves is left out.</param>
/// <param name="From">The slug of the calendar they came from; null for none.</param>
public sealed record PreviewIdentity(string Name, bool IsStranger, bool IsCut, Slug? From)
{
    /// <summary>The stranger, as it is stored.</summary>
    public const string Stranger = "stranger";

    // Nobody's id: what somebody made or hosts is not the typical member's.
    private static readonly PersonId Nobody = new(-1);

    /// <summary>Whom somebody looks as, and what that one may reach; null where that one is not there any more.</summary>
    internal static (Viewer Viewer, PreviewIdentity Looking)? Read(Stores stores, Viewer own, PreviewRow looks) =>
        Of(stores, own, looks) is not var (viewer, looking)
            ? null
            : (viewer with { LookerWorksOn = WorksOn(stores, own) }, looking);

    // Their own levels where they work: what they may see without being the other.
    private static Dictionary<CalendarId, AccessLevel> WorksOn(Stores stores, Viewer own)
    {
        var worked = stores.Calendars.WorkedBy(own);
        var grants = stores.Calendars.GrantsFor(own, worked);
        return worked.ToDictionary(calendar => calendar, calendar => AccessRules.LevelOf(own, grants[calendar]));
    }

    private static (Viewer Viewer, PreviewIdentity Looking)? Of(Stores stores, Viewer own, PreviewRow looks)
    {
        var isCut = own.Role != SchoolRole.Coordinator;
        switch (looks.Who.Split(' '))
        {
            case [Stranger]:
                return (
                    Viewer.Visitor with
                    {
                        LookedAtBy = own,
                    },
                    new PreviewIdentity("a stranger", true, false, looks.From)
                );
            case ["person", var text]
                when long.TryParse(text, CultureInfo.InvariantCulture, out var id)
                    && stores.People.Find(new PersonId(id)) is { } found:
                var viewer = stores.People.ViewerOf(found.Person.Id);
                return (
                    viewer with
                    {
                        LookedAtBy = own,
                        Role = Lower(own.Role, viewer.Role),
                    },
                    new PreviewIdentity(found.Person.Name, false, isCut, looks.From)
                );
            case ["group", var text]
                when long.TryParse(text, CultureInfo.InvariantCulture, out var id)
                    && stores.Groups.Find(new GroupId(id)) is { } group:
                var within = stores.Groups.Within();
                var groups = new HashSet<GroupId>();
                var next = new Queue<GroupId>([group.Id]);
                while (next.TryDequeue(out var one))
                    if (groups.Add(one))
                        foreach (var higher in within[one])
                            next.Enqueue(higher);
                var role = group.Kind is GroupKind.ClassList or GroupKind.Section
                    ? SchoolRole.Student
                    : SchoolRole.Teacher;
                return (
                    new Viewer(Nobody, Lower(own.Role, role), groups) { LookedAtBy = own },
                    new PreviewIdentity($"a member of {group.Name}", false, isCut, looks.From)
                );
            default:
                return null;
        }
    }

    // What is asked of the school goes by the role: whoever looks as a coordinator keeps no school by it.
    private static SchoolRole? Lower(SchoolRole? own, SchoolRole? looked) =>
        own switch
        {
            SchoolRole.Coordinator => looked,
            SchoolRole.Teacher => looked == SchoolRole.Coordinator ? SchoolRole.Teacher : looked,
            _ => looked is SchoolRole.Coordinator or SchoolRole.Teacher ? own : looked,
        };
}
