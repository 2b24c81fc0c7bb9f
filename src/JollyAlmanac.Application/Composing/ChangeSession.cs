using System.Globalization;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage.Calendars;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>What a person wants of one session, as typed or dragged.</summary>
/// <param name="Do">"leave-out", "bring-back", "move", "tell" (title, place and note), "door" (link and entry window), "unsure" or "sure".</param>
/// <param name="Time">Where to move it to.</param>
/// <param name="Title">Another title; empty for the series' own.</param>
/// <param name="Place">Another place.</param>
/// <param name="Note">A note for this session.</param>
/// <param name="Door">Its own link and entry window.</param>
/// <param name="Scope">"this", "later" or "every".</param>
/// <param name="Version">The series' version that the form was made from.</param>
public sealed record SessionInput(
    string? Do = "",
    SessionTimeInput? Time = null,
    string? Title = null,
    string? Place = null,
    string? Note = null,
    SessionDoorInput? Door = null,
    string? Scope = "this",
    int Version = 0
)
{
    /// <summary>Where to move it to.</summary>
    public SessionTimeInput Time { get; init; } = Time ?? new();

    /// <summary>Its own link and entry window.</summary>
    public SessionDoorInput Door { get; init; } = Door ?? new();
}

/// <summary>Where a session moves to, as typed or dragged.</summary>
/// <param name="Day">The day, ISO.</param>
/// <param name="Period">A period's name; empty for clock times or to keep the time.</param>
/// <param name="Start">The start, read only without a period; empty to keep the time.</param>
/// <param name="End">The end.</param>
/// <param name="Nights">How many days after it starts it ends; empty for as many as it did.</param>
public sealed record SessionTimeInput(
    string? Day = "",
    string? Period = "",
    string? Start = "",
    string? End = "",
    string? Nights = ""
);

/// <summary>A session's own link and entry window, as typed.</summary>
/// <param name="Link">The id of another join link; empty for the series' own.</param>
/// <param name="Opens">"around", "allday" or "always"; empty for the link's rule.</param>
/// <param name="Lead">Minutes before the start.</param>
/// <param name="Late">Minutes after it; empty for the end.</param>
public sealed record SessionDoorInput(
    string? Link = null,
    string? Opens = null,
    string? Lead = null,
    string? Late = null
);

/// <summary>What one scope would do.</summary>
/// <param name="Scope">The scope.</param>
/// <param name="Consequences">What becomes of sessions, in words; empty where only words change.</param>
/// <param name="Reason">Why it cannot be; null where it can.</param>
public sealed record ScopeChoice(ChangeScope Scope, string Consequences, string? Reason);

/// <summary>A session opened in place.</summary>
/// <param name="School">The school's time.</param>
/// <param name="Session">The session.</param>
/// <param name="Problems">What is wrong with the form.</param>
/// <param name="Choices">What each scope would do; empty where nothing is asked for yet.</param>
/// <param name="Told">What is worth knowing before it is done: a no-class day, a session already there.</param>
/// <param name="Materials">The materials of this session alone.</param>
/// <param name="Links">The join links to choose from.</param>
/// <param name="Attendance">Who was in its room, as the provider told.</param>
public sealed record OpenSession(
    SchoolTime School,
    Session Session,
    IReadOnlyList<Problem> Problems,
    IReadOnlyList<ScopeChoice> Choices,
    IReadOnlyList<string> Told,
    IReadOnlyList<Material> Materials,
    IReadOnlyList<JoinLink> Links,
    IReadOnlyList<(string Name, Instant Entered, int Minutes)> Attendance
);

/// <summary>Changes one session of a series, or it and the later ones, or every one.</summary>
public sealed class ChangeSession(Gate gate)
{
    // A session as an act finds it; none where a change is left over whose session is gone.
    private sealed record Found(AtSeries At, Plan Plan, Session? Of)
    {
        public Session Session => Of ?? throw new InvalidOperationException("There is no session.");

        public Series Series => At.Series;

        public SchoolTime School => At.School.Time;
    }

    /// <summary>Opens a session, with what each scope of the input would do.</summary>
    public Outcome<OpenSession> Open(Viewer viewer, Slug slug, SessionKey key, SessionInput input) =>
        gate.Read<OpenSession>(Operation.ChangeSession, viewer, slug, key.Series, at =>
        {
            if (Find(at, key) is not { } found)
                return new Outcome<OpenSession>.NotFound();
            var (stores, school) = (at.Stores, found.School);
            var materials = stores
                .Materials.Of(at.Calendar.Id)
                .Where(material => material.ForSession is not null && material.BelongsTo(found.Session))
                .ToList();
            var links = SeriesReader.LinksFor(stores, viewer, at.Calendar.Id, found.Series);
            OpenSession Opened(
                IReadOnlyList<Problem> problems,
                IReadOnlyList<ScopeChoice> choices,
                IReadOnlyList<string> told
            ) =>
                new(
                    school,
                    found.Session,
                    problems,
                    choices,
                    told,
                    materials,
                    links,
                    stores.JoinLinks.Attendance(found.Session.Key)
                );
            if (string.IsNullOrEmpty(input.Do))
                return new Outcome<OpenSession>.Done(Opened([], [], []));
            var entry = new FormReader();
            var edit = ReadEdit(entry, input, found, () => links);
            if (edit is null)
                return new Outcome<OpenSession>.Done(Opened(entry.Problems, [], []));
            var choices = Enum.GetValues<ChangeScope>().Select(scope => Weigh(found, edit, scope)).ToList();
            return new Outcome<OpenSession>.Done(Opened([], choices, [.. Told(found, edit)]));
        });

    /// <summary>Does what the input asks for, where the series still has its version.</summary>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> Do(Viewer viewer, Slug slug, SessionKey key, SessionInput input) =>
        gate.Write<string>(Operation.ChangeSession, viewer, slug, key.Series, input.Version, at =>
        {
            if (Find(at, key) is not { } found)
                return new Outcome<string>.NotFound();
            var entry = new FormReader();
            var edit = ReadEdit(entry, input, found, () =>
                SeriesReader.LinksFor(at.Stores, viewer, at.Calendar.Id, found.Series)
            );
            if (!Enum.TryParse<ChangeScope>(input.Scope, ignoreCase: true, out var scope) || !Enum.IsDefined(scope))
                entry.Wrong("Scope", "Choose how far it reaches: this session, this and later, or every session.");
            return edit is null || !entry.IsGood
                ? new Outcome<string>.Refused(entry.Problems)
                : Store(found, edit, scope);
        });

    /// <summary>Gives one session a rule of its own for its door; the link it is joined by stays.</summary>
    internal Outcome<string> SetEntry(Viewer viewer, Slug slug, SessionKey key, EntryRule rule, int version) =>
        gate.Write<string>(Operation.ChangeSession, viewer, slug, key.Series, version, at =>
            Find(at, key) is { } found
                ? Store(found, new SessionEdit(Door: new SessionDoor(found.Session.JoinLink, rule)), ChangeScope.This)
                : new Outcome<string>.NotFound()
        );

    /// <summary>Drops a loose change, or puts what it says on another session of its series.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="key">What the change's session was known by.</param>
    /// <param name="onto">The session to put it on; null to drop it.</param>
    /// <param name="version">The series' version that the form was made from.</param>
    public Outcome<string> Settle(Viewer viewer, Slug slug, SessionKey key, SessionKey? onto, int version) =>
        gate.Write<string>(Operation.ChangeSession, viewer, slug, key.Series, version, at =>
        {
            var (series, then) = (at.Series, key.Original);
            var plan = SeriesPlan.Of(at.Stores, series, at.School.Time);
            if (plan.Loose.FirstOrDefault(change => change.Original == then) is not { } loose)
                return new Outcome<string>.NotFound();
            var others = series.Changes.Where(change => change.Original != then);
            if (onto is not { } target)
                return Store(
                    new Found(at, plan, null),
                    new Altered(series with { Changes = [.. others] }),
                    $"dropped the change left over for {Wording.WithWeekday(then.Date)} ({loose.InWords})"
                );
            if (plan.Find(target) is not { Change: null } session)
                return new Outcome<string>.Refused([
                    new Problem("Onto", "That session is gone or changed already. Choose another."),
                ]);
            return Store(
                new Found(at, plan, session),
                new Altered(
                    series with
                    {
                        Changes =
                        [
                            .. others
                                .Append(loose with { Original = session.Original })
                                .OrderBy(change => change.Original),
                        ],
                    }
                ),
                $"put the change left over for {Wording.WithWeekday(then.Date)} on {Wording.WithWeekday(session.Day)}"
            );
        });

    /// <summary>Settles that a series takes place, with those of its sessions that were not certain yet.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The series.</param>
    /// <param name="version">The series' version that the form was made from.</param>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> MakeCertain(Viewer viewer, Slug slug, SeriesId id, int version) =>
        gate.Write<string>(Operation.ChangeSession, viewer, slug, id, version, at =>
        {
            var summary = $"settled that {at.Series.Title} takes place";
            var after = at.Series with
            {
                IsTentative = false,
                Changes =
                [
                    .. at
                        .Series.Changes.Select(change => change with { IsTentative = null })
                        .Where(change => !change.IsEmpty),
                ],
            };
            return at.Store(after, summary)
                ? new Outcome<string>.Done(Wording.Capital(summary) + ".")
                : at.Stale<string>(HistorySubject.Series, id.Value);
        });

    private static ScopeChoice Weigh(Found found, SessionEdit edit, ChangeScope scope)
    {
        var (altered, reason) = Alteration.Of(found.Plan, found.Session, edit, scope, found.School);
        if (altered is null)
            return new ScopeChoice(scope, "", reason);
        IReadOnlyList<Plan> after =
        [
            .. new[] { altered.Kept, altered.Split }
                .OfType<Series>()
                .Select(series => Planner.PlanOf(series, found.School)),
        ];
        var before = found.Plan;
        if (altered.ShiftDays == 0)
            return new ScopeChoice(scope, Consequences.Between([before], after).InWords, null);
        // Moved to another weekday, sessions have other original dates; what moves is told as such.
        var moved = before.Held.Count(session =>
            session.Change?.Day is null && altered.Shift(session.Original) != session.Original
        );
        var (old, fresh) = (before.HeldCount, after.Sum(plan => plan.HeldCount));
        return new ScopeChoice(
            scope,
            $"{Wording.Count(moved, "session moves", "sessions move")}{(fresh == old ? "" : fresh < old ? $", {old - fresh} fewer than before" : $", {fresh - old} more than before")}",
            null
        );
    }

    private static IEnumerable<string> Told(Found found, SessionEdit edit)
    {
        var school = found.School;
        if (!edit.Moves)
            yield break;
        var altered = Alteration.Of(found.Plan, found.Session, edit, ChangeScope.This, found.School).Altered!.Kept!;
        var plan = Planner.PlanOf(altered, school);
        if (plan.Find(found.Session.Original) is not { } moved)
            yield break;
        if (school.NoClassOn(moved.Day) is { } noClass)
            yield return $"{Wording.WithWeekday(moved.Day)} is {noClass.Name}, a no-class day. It would still meet there.";
        else if (school.TermOn(moved.Day) is null)
            yield return $"{Wording.WithWeekday(moved.Day)} lies outside every term.";
        foreach (
            var other in found
                .At.Stores.Series.Of(found.At.Calendar.Id)
                .Select(series => series.Id == altered.Id ? plan : Planner.PlanOf(series, school))
                .SelectMany(one => one.Held)
        )
            if (other != moved && other.StartsAt < moved.EndsAt && moved.StartsAt < other.EndsAt)
                yield return $"{other.Title} meets at that time already, {SayBack.Span(other)}.";
    }

    private static Outcome<string> Store(Found found, SessionEdit edit, ChangeScope scope)
    {
        var (altered, reason) = Alteration.Of(found.Plan, found.Session, edit, scope, found.School);
        if (altered is null)
            return Outcome.Because<string>("Scope", reason!);
        if (scope != ChangeScope.This && altered.Kept is { } kept && Planner.PlanOf(kept, found.School).HeldCount == 0)
            altered = altered with { Kept = null };
        return Store(found, altered, Summary(found, edit, scope));
    }

    private static Outcome<string> Store(Found found, Altered altered, string summary)
    {
        var at = found.At;
        var (stores, calendar, series, now) = (at.Stores, at.Calendar.Id, at.Series, at.Now);
        foreach (var become in new[] { altered.Kept, altered.Split }.OfType<Series>())
            if (LinkDoor.Opens(stores, at.School, at.Viewer, series, become) is { } refusal)
                return new Outcome<string>.Refused([new Problem("", refusal)]);
        if (Keep(at, altered) is not var (before, split))
            return new Outcome<string>.Stale(null);
        var after = stores.Materials.Of(calendar);
        List<SeriesState> states =
        [
            SeriesState.Of(stores.Series.Find(series.Id, alsoTakenOff: true)!, altered.Kept is null, after),
        ];
        if (split is not null)
            states.Add(SeriesState.Of(split, takenOff: false, after));
        stores.Calendars.Touch(calendar, now);
        at.Note(HistorySubject.Series, series.Id.Value, summary, SeriesState.Write(before), SeriesState.Write(states));
        return new Outcome<string>.Done(Wording.Capital(summary) + ".");
    }

    /// <summary>Stores a series as it was altered, with what is split off, and hangs its materials where they belong.</summary>
    /// <returns>How they were before, and what was split off; null where somebody else was faster.</returns>
    internal static (List<SeriesState> Before, Series? Split)? Keep(AtSeries at, Altered altered)
    {
        var (stores, calendar, series, now) = (at.Stores, at.Calendar.Id, at.Series, at.Now);
        var materials = stores.Materials.Of(calendar).Where(material => material.Series == series.Id).ToList();
        List<SeriesState> before = [SeriesState.Of(series, takenOff: false, materials)];
        if (
            !(
                altered.Kept is { } kept
                    ? stores.Series.Change(kept with { ChangedAt = now }, series.Version)
                    : stores.Series.SetTakenOff(series.Id, true, series.Version, now)
            )
        )
            return null;
        Series? split = null;
        if (altered.Split is { } part)
        {
            split = stores.Series.Add(part with { Uid = ComposeSeries.NewUid(), MadeAt = now, ChangedAt = now });
            before.Add(SeriesState.Of(split, takenOff: true, []));
        }

        foreach (var material in materials)
        {
            if (material.ForSession is { } session)
            {
                var belongs = split is not null && session.Date >= altered.SplitFrom ? split.Id : series.Id;
                if (belongs != series.Id || altered.Shift(session) != session)
                    stores.Materials.Move(material.Id, belongs, altered.Shift(session));
            }
            else if (split is not null)
            {
                stores.Materials.Add(material with { Series = split.Id, Key = MaterialKey.New() }, at.Person, now);
            }
        }

        return (before, split);
    }

    private static SessionEdit? ReadEdit(
        FormReader entry,
        SessionInput input,
        Found found,
        Func<IReadOnlyList<JoinLink>> links
    )
    {
        switch (input.Do)
        {
            case "leave-out":
                return new SessionEdit(Meets: false);
            case "bring-back":
                return new SessionEdit(Meets: true);
            case "unsure" or "sure":
                return new SessionEdit(IsTentative: input.Do == "unsure");
            case "tell":
                var title = input.Title is null
                    ? null
                    : entry.Line("Title", input.Title, "The title", SeriesInput.LongestTitle, needed: false);
                var place = input.Place is null
                    ? null
                    : entry.Line("Place", input.Place, "The place", 200, needed: false);
                var note = input.Note is null ? null : entry.Lines("Note", input.Note, "The note", 1000);
                // A label's number is part of the title shown, not of one somebody gave.
                if (title == found.Session.Title && found.Session.Change?.Title is null)
                    title = null;
                return entry.IsGood
                    ? new SessionEdit(
                        Title: title,
                        Place: place == found.Session.Place ? null : place,
                        Note: note == found.Session.Note ? null : note
                    )
                    : null;
            case "door":
                var link = string.IsNullOrEmpty(input.Door.Link)
                    ? null
                    : links()
                        .FirstOrDefault(one => one.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Door.Link);
                if (link is null && !string.IsNullOrEmpty(input.Door.Link))
                    entry.Wrong("Link", "That join link is not yours to use. Choose one from the list.");
                var rule = string.IsNullOrEmpty(input.Door.Opens)
                    ? null
                    : LinkReader.ReadRule(
                        entry,
                        new EntryRuleInput(input.Door.Opens, input.Door.Lead, input.Door.Late)
                    );
                return entry.IsGood
                    ? new SessionEdit(Door: new SessionDoor(link?.Id ?? found.Series.JoinLink, rule))
                    : null;
            case "move":
                LocalDate? day = string.IsNullOrEmpty(input.Time.Day)
                    ? null
                    : entry.Day("Day", input.Time.Day, "The day");
                var time = ReadTime(entry, input, found.Session, found.School);
                if (!entry.IsGood)
                    return null;
                if (day == found.Session.Day && time is null)
                    entry.Wrong("Day", "It meets at that time already. Choose another day or time.");
                // The day is the school's; where the series goes by another clock, its own may be the one before or after.
                return entry.IsGood
                    ? new SessionEdit(
                        Day: day == found.Session.Day
                            ? null
                            : day?.PlusDays(Period.DaysBetween(found.Session.Day, found.Session.Start.Date)),
                        Time: time
                    )
                    : null;
            default:
                entry.Wrong("", "Choose what to do with the session.");
                return null;
        }
    }

    private static SessionTime? ReadTime(FormReader entry, SessionInput input, Session session, SchoolTime school)
    {
        if (!string.IsNullOrEmpty(input.Time.Period))
        {
            if (school.Bells.Find(input.Time.Period) is null)
                entry.Wrong("Period", "The bells have no such period. Choose one from the list.");
            var named = new SessionTime.InPeriod(input.Time.Period);
            return (session.Change?.Time ?? session.OwnTime) == named ? null : named;
        }

        if (string.IsNullOrEmpty(input.Time.Start) && string.IsNullOrEmpty(input.Time.End))
            return null;
        if (session.IsAllDay)
        {
            entry.Wrong(
                "Start",
                "It takes the whole day, so it has no time to move. Give the series a time in the composer first."
            );
            return null;
        }

        var (start, end) = (
            entry.Time("Start", input.Time.Start, "The start"),
            entry.Time("End", input.Time.End, "The end")
        );
        if (start is null || end is null)
            return null;
        // A session over midnight or days ends as many days later as it did, or as the form says.
        var nights = Period.DaysBetween(session.Start.Date, session.End.Date);
        if (!string.IsNullOrEmpty(input.Time.Nights))
            nights = entry.Number(
                "Nights",
                input.Time.Nights,
                "The number of days until it ends",
                0,
                SessionTime.MostDays
            ) ?? nights;
        else if (nights == 1 && end > start && session.EndsAt - session.StartsAt < Duration.FromDays(1))
            nights = 0;
        if (!entry.IsGood)
            return null;
        if (nights == 0 && end <= start)
            entry.Wrong(
                "End",
                $"It ends at {Wording.Of(end.Value)}, which is not after its start at {Wording.Of(start.Value)}. Give an end later on the same day."
            );
        return
            (start, end, nights)
            == (
                session.Start.TimeOfDay,
                session.End.TimeOfDay,
                Period.DaysBetween(session.Start.Date, session.End.Date)
            )
            ? null
            : new SessionTime.Clock(start.Value, end.Value, nights);
    }

    private static string Summary(Found found, SessionEdit edit, ChangeScope scope)
    {
        var (session, series) = (found.Session, found.Series);
        var which = scope switch
        {
            ChangeScope.This => $"{series.Title}, {Wording.WithWeekday(session.Day)}",
            ChangeScope.Later => $"{series.Title} from {Wording.WithWeekday(session.Day)} on",
            _ => $"every session of {series.Title}",
        };
        if (edit.Meets is { } meets)
            return meets ? $"brought back {which}" : $"cancelled {which}";
        if (edit.IsTentative is { } tentative)
            return tentative ? $"marked {which} as not certain yet" : $"settled that {which} takes place";
        if (edit.Moves)
        {
            var to = new List<string>();
            if (edit.Day is { } day)
                to.Add(scope == ChangeScope.This ? Wording.WithWeekday(day) : day.DayOfWeek.ToString());
            if (edit.Time is { } time)
                to.Add(SayBack.Of(time));
            return $"moved {which} to {string.Join(", ", to)}";
        }

        var told = new List<string>();
        if (edit.Title is { } title)
            told.Add(title.Length == 0 ? "its own title again" : $"the title “{title}”");
        if (edit.Place is { } place)
            told.Add(place.Length == 0 ? "no place" : $"the place {place}");
        if (edit.Note is { } note)
            told.Add(note.Length == 0 ? "no note any more" : "a note");
        if (edit.Door is { } door)
        {
            if (door.Link != session.JoinLink)
                told.Add(
                    door.Link == series.JoinLink || door.Link is null
                        ? "the series’ join link again"
                        : "another join link"
                );
            if (door.Entry != session.Change?.Entry)
                told.Add(door.Entry is { } rule ? $"a door of its own ({rule.InWords})" : "the door of its link again");
        }

        return told.Count == 0 ? $"saved {which}, unchanged" : $"gave {which} {Wording.List(told)}";
    }

    private static Found? Find(AtSeries at, SessionKey key)
    {
        var plan = SeriesPlan.Of(at.Stores, at.Series, at.School.Time);
        return plan.Find(key) is { } session ? new Found(at, plan, session) : null;
    }
}
