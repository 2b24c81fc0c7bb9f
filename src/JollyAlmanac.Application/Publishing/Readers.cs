using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Publishing;

/// <summary>Somebody who reads a calendar in full and does not work on it.</summary>
/// <param name="Person">The person.</param>
/// <param name="Viewer">As they look at it.</param>
/// <param name="Level">What they may see.</param>
internal sealed record Reader(Person Person, Viewer Viewer, AccessLevel Level)
{
    private const int Most = 1_000;

    /// <summary>Whether something is for them.</summary>
    public bool IsFor(Audience? only, CalendarId of) => AccessRules.IsFor(only, Level, Viewer, of);

    /// <summary>Those whom a grant reaches by name or in a group; whom it reaches as everybody of the school only where that is the
    /// calendar's.</summary>
    public static List<Reader> Of(Stores stores, IReadOnlyList<Grant> grants)
    {
        var full = grants.Where(grant => grant.Level >= AccessLevel.Full).Select(grant => grant.To).ToList();
        var groups = stores.Groups.WithHeld([.. full.OfType<Grantee.OneGroup>().Select(to => to.Group)], 200);
        var people = full.Exists(to => to is Grantee.Everyone)
            ? stores.People.Present(Most)
            : stores.People.Of([
                .. full.OfType<Grantee.OnePerson>()
                    .Select(to => to.Person)
                    .Concat(groups.SelectMany(stores.Groups.NamedIn))
                    .Distinct()
                    .Take(Most),
            ]);
        // A child's family reads along.
        var families = stores.People.FamiliesOf([
            .. people.Where(person => person.Role == SchoolRole.Student).Select(person => person.Id),
        ]);
        return
        [
            .. people
                .UnionBy(families, person => person.Id)
                .Take(Most)
                .Where(person => person.EndedAt is null)
                .Select(person => (person, viewer: stores.People.ViewerOf(person.Id)))
                .Select(one => new Reader(one.person, one.viewer, AccessRules.LevelOf(one.viewer, grants)))
                .Where(reader =>
                    AccessRules.May(Permission.SeeDetails, reader.Level) && reader.Level < AccessLevel.Contributor
                ),
        ];
    }
}
