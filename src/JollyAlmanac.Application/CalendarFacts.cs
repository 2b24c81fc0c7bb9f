using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application;

/// <summary>What stands on a calendar: its series, links and materials, read at once.</summary>
internal sealed record CalendarFacts(IReadOnlyList<Series> Series, IReadOnlyList<JoinLink> Links, IReadOnlyList<Material> Materials)
{
    public static CalendarFacts Read(Stores stores, CalendarId calendar) =>
        new(stores.Series.Of(calendar), stores.JoinLinks.Of(calendar), stores.Materials.Of(calendar));

    /// <summary>The facts of every calendar, in four queries.</summary>
    public static Func<CalendarId, CalendarFacts> ReadAll(Stores stores)
    {
        var (series, links, materials) = (stores.Series.All(), stores.JoinLinks.All(), stores.Materials.All());
        return id => new CalendarFacts([.. series[id]], [.. links[id]], [.. materials[id]]);
    }

    public IReadOnlyList<Plan> Plans(SchoolTime school) => [.. Series.Select(series => Planner.PlanOf(series, school))];

    public JoinCode? CodeOf(Series series) => Links.FirstOrDefault(link => link.Id == series.JoinLink)?.Code;

    /// <summary>The redaction for a reader of that level.</summary>
    public Func<Session, ShownSession?> For(AccessLevel level, ShowChoices choices) =>
        session => Redaction.Show(session, level, choices, Materials, CodeOf(session.Of));
}
