using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Looking;

/// <summary>A feed or an embed of the school.</summary>
/// <param name="Outlet">The outlet.</param>
/// <param name="Calendar">Its calendar.</param>
/// <param name="MadeBy">The name of who made it.</param>
/// <param name="MayChange">The viewer keeps its calendar.</param>
public sealed record SchoolOutlet(Outlet Outlet, Calendar Calendar, string MadeBy, bool MayChange);

/// <summary>Everything of the school that is published, for coordinators: so that nothing lives on unseen.</summary>
/// <param name="School">The school.</param>
/// <param name="Counts">How much there is.</param>
/// <param name="Show">Which are shown.</param>
/// <param name="Outlets">A page of them, by the calendar's title.</param>
/// <param name="Page">Which page, from 1 up.</param>
/// <param name="HasMore">There are more pages.</param>
public sealed record SchoolPublishing(School School, PublishedCounts Counts, OutletFilter Show, IReadOnlyList<SchoolOutlet> Outlets,
    int Page, bool HasMore)
{
    /// <summary>A feed that was not asked for in so many days is told apart.</summary>
    public const int IdleDays = 60;
}

public sealed partial class Look
{
    private const int OutletsOnAPage = 100;

    /// <summary>What the school publishes. For coordinators.</summary>
    /// <param name="viewer">Who looks.</param>
    /// <param name="show">Which feeds and embeds.</param>
    /// <param name="page">Which page of them, from 1 up.</param>
    public Outcome<SchoolPublishing> AtSchoolPublishing(Viewer viewer, OutletFilter show, int page) =>
        gate.Read<SchoolPublishing>(Act.SeeSchoolPublishing, viewer, at =>
    {
        var stores = at.Stores;
        var idle = at.Now - Duration.FromDays(SchoolPublishing.IdleDays);
        var outlets = stores.Outlets.OfSchool(show, idle, OutletsOnAPage + 1, (page - 1) * OutletsOnAPage);
        var calendars = stores.Calendars.InUse([.. outlets.Select(outlet => outlet.Calendar).Distinct()]).ToDictionary(one => one.Id);
        var grants = stores.Calendars.GrantsFor(viewer, [.. calendars.Keys]);
        var names = stores.People.NamesOf([.. outlets.Select(outlet => outlet.MadeBy).Distinct()]);
        return new Outcome<SchoolPublishing>.Done(new SchoolPublishing(at.School, stores.Outlets.Counts(idle, at.Today), show,
            [.. outlets.Take(OutletsOnAPage).Where(outlet => calendars.ContainsKey(outlet.Calendar)).Select(outlet => new SchoolOutlet(
                outlet,
                calendars[outlet.Calendar], names.GetValueOrDefault(outlet.MadeBy, ""),
                AccessRules.May(Deed.Publish, AccessRules.LevelOf(viewer, grants[outlet.Calendar]))))],
            page, outlets.Count > OutletsOnAPage));
    });
}
