using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>A session of an archive.</summary>
/// <param name="Shown">The session with its recordings and materials.</param>
/// <param name="IsMissed">The provider told who was there, and the viewer was not.</param>
public sealed record ArchiveLine(ShownSession Shown, bool IsMissed);

/// <summary>The sessions of a calendar, to find what was in them.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Typed">What is looked for; empty for all that is over.</param>
/// <param name="Lines">The newest first.</param>
/// <param name="Count">How many there are in all.</param>
/// <param name="Whole">What was found that is for all sessions.</param>
/// <param name="From">How many come before those that are shown.</param>
public sealed record Archive(
    School School,
    Instant Now,
    Calendar Calendar,
    string Typed,
    ImmutableArray<ArchiveLine> Lines,
    int Count,
    ImmutableArray<Material> Whole,
    int From
)
{
    /// <summary>The most sessions of one page.</summary>
    public const int Most = 40;
}

/// <summary>Reads the archive of a class.</summary>
public sealed class ArchiveQuery(Gate gate)
{
    /// <summary>The archive of a calendar, also of one that is put away for who was in it; null where it is not theirs to see.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="typed">What is looked for: words, a number, a day; empty for all that is over.</param>
    /// <param name="from">How many are passed over.</param>
    public Archive? Read(Viewer viewer, Slug slug, string? typed, int from) =>
        gate.Read<Archive>(Operation.SeeArchive, viewer, slug, at =>
        {
            var (stores, school, now) = (at.Stores, at.School.Time, at.Now);
            var looked = SearchText.Read(typed);
            var level = (AccessLevel)Math.Min((int)at.Context.Level, (int)AccessLevel.Full);
            var choices = viewer.Person is null ? ShowChoices.Anyone : ShowChoices.SignedIn;
            var facts = CalendarFacts.Read(stores, at.Calendar.Id);
            var show = facts.For(school, now, level, choices, viewer);
            var plans = facts.PlansFor(school, level, viewer);
            var sessions = plans
                .SelectMany(plan => plan.Sessions)
                .Where(session => session.IsVisible && (!looked.IsEmpty || session.EndsAt <= now))
                .OrderByDescending(session => session.StartsAt);
            ImmutableArray<Material> whole = [];
            IEnumerable<ShownSession> found;
            if (looked.IsEmpty)
                found = sessions.Select(show).OfType<ShownSession>();
            else
            {
                var ids = stores
                    .Search.Materials(looked.Words, [at.Calendar.Id], 500)
                    .Select(one => one.Id)
                    .ToHashSet();
                // Only what the reader has of a session is looked at: what was kept from them is not found either.
                found = sessions
                    .Select(show)
                    .OfType<ShownSession>()
                    .Where(shown => !shown.IsBusyOnly && Meets(shown, looked, ids));
                if (looked.Number is null && looked.Day is null)
                    whole =
                    [
                        .. facts
                            .Materials.Where(one => one.ForSession is null && ids.Contains(one.Id))
                            .Select(one => facts.Show(school, now, one, level, choices, viewer))
                            .OfType<Material>(),
                    ];
            }

            var all = found.ToList();
            var lines = all.Skip(Math.Max(0, from)).Take(Archive.Most).ToList();
            var missed =
                viewer.Person is { } person && stores.People.Get(person) is { } reader
                    ? Missed(stores, [.. lines.Select(line => line.Session)], reader.Name)
                    : [];
            return new Outcome<Archive>.Done(
                new Archive(
                    at.School,
                    now,
                    at.Calendar,
                    (typed ?? "").Trim(),
                    [.. lines.Select(line => new ArchiveLine(line, missed.Contains(line.Session.Key)))],
                    all.Count,
                    whole,
                    Math.Max(0, from)
                )
            );
        }).OrNone;

    // Each word stands in what is told of the session or in one of its materials; a number and a day are its own.
    private static bool Meets(ShownSession shown, SearchText looked, HashSet<MaterialId> materials)
    {
        if (!looked.IsOn(shown.Session.Day) || (looked.Number is { } number && shown.Number != number))
            return false;
        return looked.Words.IsEmpty
            || looked.IsIn($"{shown.Title} {shown.Note} {shown.Place}")
            || shown.Materials.Any(one => one.ForSession is not null && materials.Contains(one.Id));
    }

    // Of sessions whose room told who was there, those where nobody of that name was.
    internal static HashSet<SessionKey> Missed(Stores stores, IReadOnlyCollection<Session> sessions, string name) =>
        [
            .. stores
                .JoinLinks.AttendanceOf([.. sessions.Where(session => session.IsHeld).Select(session => session.Key)])
                .Where(one => !one.Value.Contains(name, StringComparer.OrdinalIgnoreCase))
                .Select(one => one.Key),
        ];
}
