using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>What stands at a short address.</summary>
/// <param name="School">The school.</param>
/// <param name="Calendar">The link's calendar.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="On">The session that is going on, or null.</param>
/// <param name="Next">The next session, or null.</param>
public sealed record ShortAddress(School School, Calendar Calendar, Instant Now, Session? On, Session? Next);

/// <summary>A join link as its keepers see it.</summary>
/// <param name="Calendar">Its calendar.</param>
/// <param name="Link">The link.</param>
/// <param name="Series">The titles of the series that use it.</param>
/// <param name="Targets">How many addresses it has had.</param>
public sealed record KeptLink(Calendar Calendar, JoinLink Link, IReadOnlyList<string> Series, int Targets);

/// <summary>Answers at short addresses, and replaces what is behind them.</summary>
public sealed class JoinLinks(AlmanacDatabase database, IClock clock)
{
    /// <summary>What stands at a short address; null where nothing does.</summary>
    public ShortAddress? At(JoinCode code) => database.Read(stores =>
    {
        if (stores.JoinLinks.Find(code) is not { } link || stores.School.Find() is not { } school) return null;
        var now = clock.GetCurrentInstant();
        var sessions = stores.Series.Of(link.Id).SelectMany(series => Planner.PlanOf(series, school.Time).Held)
            .Where(session => session.EndsAt > now).OrderBy(session => session.StartsAt).ToList();
        return new ShortAddress(
            school,
            stores.Calendars.Get(link.Calendar),
            now,
            sessions.FirstOrDefault(session => session.PhaseAt(now) == SessionPhase.On),
            sessions.FirstOrDefault(session => session.PhaseAt(now) == SessionPhase.Ahead));
    });

    /// <summary>The address that a short address leads to; null where nothing stands there.</summary>
    public string? TargetOf(JoinCode code) => database.Read(stores =>
        stores.JoinLinks.Find(code) is { } link ? stores.JoinLinks.TargetOf(link.Id) : null);

    /// <summary>A link for somebody who may replace what is behind it.</summary>
    public Outcome<KeptLink> Open(Viewer viewer, string slug, JoinCode code) => database.Read<Outcome<KeptLink>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting || stores.JoinLinks.Find(code) is not { } link || link.Calendar != setting.Calendar.Id)
            return new Outcome<KeptLink>.NotFound();
        return setting.May(Deed.ReplaceJoinLink)
            ? new Outcome<KeptLink>.Done(new KeptLink(setting.Calendar, link, [.. stores.Series.Of(link.Id).Select(series => series.Title)], stores.JoinLinks.TargetCount(link.Id)))
            : new Outcome<KeptLink>.NotAllowed();
    });

    /// <summary>Renames a link and, where an address is given, puts it behind the short address. The short address stays.</summary>
    public Outcome<JoinLink> Replace(Viewer viewer, string slug, JoinCode code, string? name, string? address, int expectedVersion) => database.Write<Outcome<JoinLink>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting || stores.JoinLinks.Find(code) is not { } link || link.Calendar != setting.Calendar.Id)
            return new Outcome<JoinLink>.NotFound();
        if (!setting.May(Deed.ReplaceJoinLink) || viewer.Person is not { } person) return new Outcome<JoinLink>.NotAllowed();
        var entry = new Entry();
        var called = entry.Line("Name", name, "The link's name", 80, needed: true);
        JoinTarget? target = null;
        if (!string.IsNullOrWhiteSpace(address))
        {
            (target, var reason) = JoinTarget.Read(address);
            if (reason is not null) entry.Wrong("Address", reason);
        }

        if (!entry.IsGood) return new Outcome<JoinLink>.Refused(entry.Problems);
        var now = clock.GetCurrentInstant();
        if (!stores.JoinLinks.Replace(link.Id, called, target, expectedVersion, person, now))
            return new Outcome<JoinLink>.Stale(stores.History.Newest(HistorySubject.JoinLink, setting.Calendar.Id, link.Id.Value));
        stores.Calendars.Touch(setting.Calendar.Id, now);
        stores.History.Add(now, person, setting.Calendar.Id, HistorySubject.JoinLink, link.Id.Value, "ReplaceJoinLink",
            target is null ? $"renamed the join link {called}" : $"replaced what is behind the join link {called}", null, null);
        return new Outcome<JoinLink>.Done(stores.JoinLinks.Find(code)!);
    }, outcome => outcome.IsDone);
}
