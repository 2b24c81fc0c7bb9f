using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application;

/// <summary>What stands on a calendar: its series and materials, and the short addresses of links, read at once.</summary>
internal sealed record CalendarFacts(IReadOnlyList<Series> Series, IReadOnlyDictionary<JoinLinkId, JoinCode> Codes, IReadOnlyList<Material> Materials)
{
    public static CalendarFacts Read(Stores stores, CalendarId calendar) =>
        new(stores.Series.Of(calendar), stores.JoinLinks.Codes(), stores.Materials.Of(calendar));

    /// <summary>The facts of every calendar, in a few queries.</summary>
    public static Func<CalendarId, CalendarFacts> ReadAll(Stores stores)
    {
        var (series, codes, materials) = (stores.Series.All(), stores.JoinLinks.Codes(), stores.Materials.All());
        return id => new CalendarFacts([.. series[id]], codes, [.. materials[id]]);
    }

    public IReadOnlyList<Plan> Plans(SchoolTime school) => [.. Series.Select(series => Planner.PlanOf(series, school))];

    public JoinCode? CodeOf(Session session) => session.JoinLink is { } link && Codes.TryGetValue(link, out var code) ? code : null;

    /// <summary>The redaction for a reader of that level.</summary>
    public Func<Session, ShownSession?> For(AccessLevel level, ShowChoices choices) =>
        session => Redaction.Show(session, level, choices, Materials, CodeOf(session));
}
