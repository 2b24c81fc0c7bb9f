using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Queries;

/// <summary>A feed or an embed of the school.</summary>
/// <param name="Outlet">The outlet.</param>
/// <param name="Calendar">Its calendar.</param>
/// <param name="MadeBy">The name of who made it.</param>
/// <param name="MayChange">The viewer keeps its calendar.</param>
public sealed record SchoolPublication(Publication Outlet, Calendar Calendar, string MadeBy, bool MayChange);

/// <summary>Everything of the school that is published, for coordinators: so that nothing lives on unseen.</summary>
/// <param name="School">The school.</param>
/// <param name="Counts">How much there is.</param>
/// <param name="Show">Which are shown.</param>
/// <param name="Outlets">A page of them, by the calendar's title.</param>
/// <param name="Page">Which page, from 1 up.</param>
/// <param name="HasMore">There are more pages.</param>
public sealed record SchoolPublishing(
    School School,
    PublishedCounts Counts,
    PublicationFilter Show,
    IReadOnlyList<SchoolPublication> Outlets,
    int Page,
    bool HasMore
)
{
    /// <summary>A feed that was not asked for in so many days is told apart.</summary>
    public const int IdleDays = 60;
}

/// <summary>Reads everything that is published.</summary>
public sealed class SchoolPublishingQuery(Gate gate)
{
    private const int OutletsOnAPage = 100;

    /// <summary>What the school publishes. For coordinators.</summary>
    /// <param name="viewer">Who looks.</param>
    /// <param name="show">Which feeds and embeds.</param>
    /// <param name="page">Which page of them, from 1 up.</param>
    public Outcome<SchoolPublishing> Read(Viewer viewer, PublicationFilter show, int page) =>
        gate.Read<SchoolPublishing>(Operation.SeeSchoolPublishing, viewer, at =>
        {
            var stores = at.Stores;
            var idle = at.Now - Duration.FromDays(SchoolPublishing.IdleDays);
            var publications = stores.Publications.OfSchool(
                show,
                idle,
                OutletsOnAPage + 1,
                (page - 1) * OutletsOnAPage
            );
            var calendars = stores
                .Calendars.InUse([.. publications.Select(publication => publication.Calendar).Distinct()])
                .ToDictionary(one => one.Id);
            var grants = stores.Calendars.GrantsFor(viewer, [.. calendars.Keys]);
            var names = stores.People.NamesOf([.. publications.Select(publication => publication.MadeBy).Distinct()]);
            return new Outcome<SchoolPublishing>.Done(
                new SchoolPublishing(
                    at.School,
                    stores.Publications.Counts(idle, at.Today),
                    show,
                    [
                        .. publications
                            .Take(OutletsOnAPage)
                            .Where(publication => calendars.ContainsKey(publication.Calendar))
                            .Select(publication => new SchoolPublication(
                                publication,
                                calendars[publication.Calendar],
                                names.GetValueOrDefault(publication.MadeBy, ""),
                                AccessRules.May(
                                    Permission.Publish,
                                    AccessRules.LevelOf(viewer, grants[publication.Calendar])
                                )
                            )),
                    ],
                    page,
                    publications.Count > OutletsOnAPage
                )
            );
        });
}
