using System.Collections.Immutable;
using System.Globalization;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using JollyAlmanac.Storage.Files;
using NodaTime;
using NodaTime.Text;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Composing;

/// <summary>What would come of a form, before it is saved.</summary>
/// <param name="Problems">What is wrong with it.</param>
/// <param name="Plan">The sessions; null while something is wrong with the pattern.</param>
/// <param name="Sentence">What will be true, in a sentence.</param>
/// <param name="Terms">The terms that the sessions lie in, for the strip.</param>
/// <param name="School">The school's time.</param>
/// <param name="Consequences">What it changes against what is stored; empty for a new series.</param>
/// <param name="Warnings">What is worth knowing before it is saved: sessions at the same time or in the same room.</param>
public sealed record SeriesPreview(
    IReadOnlyList<Problem> Problems,
    Plan? Plan,
    string? Sentence,
    ImmutableArray<Term> Terms,
    SchoolTime School,
    string Consequences,
    IReadOnlyList<string> Warnings
);

/// <summary>What the composer begins with.</summary>
/// <param name="School">The school's time: terms and periods to choose from.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Links">The join links to choose from.</param>
/// <param name="Provider">Who makes rooms, where somebody does.</param>
/// <param name="Input">The form's fields.</param>
/// <param name="Stored">The series as it is stored; null for a new one.</param>
/// <param name="Plan">Its sessions as stored; null for a new one.</param>
/// <param name="Materials">Its materials.</param>
/// <param name="MayDelete">Whether the viewer may take it off.</param>
/// <param name="Some">Whom it, and what is attached to it, can be for alone.</param>
public sealed record Composer(
    SchoolTime School,
    Calendar Calendar,
    IReadOnlyList<JoinLink> Links,
    string? Provider,
    SeriesInput Input,
    Series? Stored,
    Plan? Plan,
    IReadOnlyList<Material> Materials,
    bool MayDelete,
    AudienceChoices Some
)
{
    /// <summary>The further calendars that a new series could stand on as well, by title.</summary>
    public IReadOnlyList<Calendar> Others { get; init; } = [];
}

/// <summary>Where on a sheet a new series begins: a free cell, or several beneath each other.</summary>
/// <param name="Day">The day, ISO; empty for none.</param>
/// <param name="Period">The period's name; empty for none.</param>
/// <param name="To">The last period, where it is to fill several; empty for that one.</param>
public sealed record EntryPlace(string? Day = "", string? Period = "", string? To = "");

/// <summary>Adds and changes series; shows what a form would do before it is saved.</summary>
public sealed class ComposeSeries(Gate gate, FileVault vault, UploadLimit limit, FileCheck check, RoomProviders rooms)
{
    private const int MostOthers = 60;

    /// <summary>Opens the composer, for a new series or for one that is there.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The series; null for a new one.</param>
    /// <param name="place">Where a new one begins; null for the usual.</param>
    public Outcome<Composer> Open(Viewer viewer, Slug slug, SeriesId? id, EntryPlace? place = null) =>
        Read<Composer>(viewer, slug, id, (at, stored) =>
        {
            var (stores, calendarContext, school) = (at.Stores, at.Context, at.School.Time);
            var links = SeriesReader.LinksFor(stores, viewer, calendarContext.Calendar.Id, stored);
            var materials = stores
                .Materials.Of(calendarContext.Calendar.Id)
                // One without a series is the whole calendar's.
                .Where(material => stored is not null && material.Series == stored.Id)
                .ToList();
            return new Outcome<Composer>.Done(
                new Composer(
                    school,
                    calendarContext.Calendar,
                    links,
                    rooms.Provider?.Name,
                    stored is not null
                        ? FormOf(stored, school, at.Today)
                        : Fresh(calendarContext, at.Today, place) with
                        {
                            Link = UsualLink(stores, calendarContext.Calendar.Id, links) is { } link
                                ? link.Value.ToString(CultureInfo.InvariantCulture)
                                : "",
                        },
                    stored,
                    stored is null ? null : Planner.PlanOf(stored, school),
                    materials,
                    stored is not null
                        && calendarContext.May(
                            Permission.DeleteSeries,
                            own: AccessRules.IsMaker(stored.MadeBy, stored.Calendar, viewer)
                        ),
                    AudienceReader.Choices(
                        stores,
                        calendarContext.Grants,
                        [stored?.OnlyFor, .. materials.Select(material => material.OnlyFor)]
                    )
                )
                {
                    Others = stored is not null
                        ? []
                        :
                        [
                            .. CalendarContext
                                .CalendarsFor(stores, viewer, Permission.AddSeries)
                                .Where(one => one.Id != calendarContext.Calendar.Id)
                                .OrderBy(one => one.Title, StringComparer.OrdinalIgnoreCase)
                                .Take(MostOthers),
                        ],
                }
            );
        });

    /// <summary>What a form would do; the same path as saving, without the save.</summary>
    public Outcome<SeriesPreview> Preview(Viewer viewer, Slug slug, SeriesId? id, SeriesInput input) =>
        Read<SeriesPreview>(viewer, slug, id, (at, stored) =>
        {
            var (stores, calendarContext) = (at.Stores, at.Context);
            var entry = new FormReader();
            var draft = Read(entry, at, stored, input);
            if (draft is null)
                return new Outcome<SeriesPreview>.Done(
                    new SeriesPreview(entry.Problems, null, null, [], calendarContext.School.Time, "", [])
                );
            var plan = Planner.PlanOf(
                Make(draft, calendarContext, stored, viewer, draft.Link),
                calendarContext.School.Time
            );
            ImmutableArray<Term> terms =
            [
                .. calendarContext.School.Time.Terms.Where(term =>
                    plan.Sessions.Any(session => term.Holds(session.Day))
                ),
            ];
            return new Outcome<SeriesPreview>.Done(
                new SeriesPreview(
                    [],
                    plan,
                    SayBack.Sentence(plan, calendarContext.School.Time, calendarContext.Calendar.Title),
                    terms,
                    calendarContext.School.Time,
                    stored is null
                        ? ""
                        : Consequences.Between([Planner.PlanOf(stored, calendarContext.School.Time)], [plan]).InWords,
                    [.. Warnings(stores, viewer, calendarContext, plan)]
                )
            );
        });

    // Sessions of the same calendar at the same time, and of any that the viewer may read in the same room.
    private static IEnumerable<string> Warnings(
        Stores stores,
        Viewer viewer,
        CalendarContext calendarContext,
        Plan plan
    )
    {
        if (
            plan.Of.Pattern.Extent is Extent.Held held
            && plan.First is { } first
            && calendarContext.School.Time.TermOn(first) is { } term
            && plan.Held.Count(session => term.Holds(session.Day)) < held.Sessions
        )
            yield return $"Not all {held.Sessions} sessions fit into the {term.Name}: it goes on after {Wording.Brief(term.Last)}.";
        if (plan.Loose.Length > 0)
            yield return $"{Wording.Count(plan.Loose.Length, "change made by hand has", "changes made by hand have")} no session any more and will be listed as loose.";
        // Those of the same calendar are planned already; of all others only those in the same room matter.
        var here = CalendarFacts.Read(stores, calendarContext.Calendar.Id).Plans(calendarContext.School.Time);
        var elsewhere =
            plan.Of.Place.Length == 0
                ? []
                : stores
                    .Series.InPlace(plan.Of.Place)
                    .Where(series => series.Calendar != calendarContext.Calendar.Id)
                    .ToList();
        HashSet<CalendarId> ids = [.. elsewhere.Select(series => series.Calendar)];
        var (grants, calendars) = (
            stores.Calendars.GrantsOf(ids),
            stores.Calendars.InUse(ids).ToDictionary(calendar => calendar.Id)
        );
        var mine = plan.Held.Where(session => !session.IsAllDay).ToLookup(session => session.Day);
        foreach (
            var planned in here.Concat(elsewhere.Select(series => Planner.PlanOf(series, calendarContext.School.Time)))
                .Where(one => one.Of.Id != plan.Of.Id)
        )
        {
            var other = planned.Of;
            var isHere = other.Calendar == calendarContext.Calendar.Id;
            if (
                !isHere
                && !AccessRules.May(
                    Permission.SeeOutline,
                    Redaction.LevelOn(other, AccessRules.LevelOf(viewer, grants[other.Calendar]), viewer)
                )
            )
                continue;
            var together = planned
                .Held.Where(session =>
                    !session.IsAllDay
                    && mine[session.Day].Any(own => own.StartsAt < session.EndsAt && session.StartsAt < own.EndsAt)
                )
                .ToList();
            if (together.Count > 0)
            {
                var called =
                    AccessRules.May(Permission.SeeOutline, Redaction.LevelOn(other, calendarContext.Level, viewer))
                    || !isHere
                        ? other.Title
                        : "a private entry";
                var where = isHere ? "" : $", {calendars[other.Calendar].Title} in {other.Place}";
                var when =
                    together.Count > 3
                        ? ""
                        : $" ({Wording.List([.. together.Select(session => Wording.WithWeekday(session.Day))])})";
                yield return $"{Wording.Count(together.Count, "session falls", "sessions fall")} together with {called}{where}{when}.";
            }
        }
    }

    /// <summary>Saves a form: adds the series, or changes it where it still has the form's version.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The series; null for a new one.</param>
    /// <param name="input">The form.</param>
    /// <param name="materials">What is attached and taken off with it.</param>
    /// <param name="cancellation">Ends the waiting for the provider of rooms.</param>
    public async Task<Outcome<Series>> Save(
        Viewer viewer,
        Slug slug,
        SeriesId? id,
        SeriesInput input,
        MaterialInput materials,
        CancellationToken cancellation = default
    )
    {
        // Files are read before the write lock is taken: a slow upload must not hold up the school. Not for strangers, though.
        var allowed = Read<bool>(viewer, slug, id, (_, _) => new Outcome<bool>.Done(true));
        if (!allowed.IsDone)
            return allowed.Then<Series>(_ => new Outcome<Series>.NotFound());
        var entry = new FormReader();
        var added = new MaterialReader(vault, limit, check).Read(entry, materials);
        Outcome<Series> Write(JoinTarget? room) =>
            id is { } known
                ? gate.Write<Series>(Operation.ChangeSeries, viewer, slug, known, input.Version, at =>
                    Store(at, at.Series, input, new Attached(added, materials), entry, room)
                )
                : gate.Write<Series>(Operation.AddSeries, viewer, slug, at =>
                    Store(at, null, input, new Attached(added, materials), entry, room)
                );
        if (input.Link != "room" || rooms.Provider is null)
            return Write(null);
        var name = string.IsNullOrWhiteSpace(input.LinkName) ? input.Title ?? "" : input.LinkName;
        return await rooms.WithRoom(name, "Link", Write, cancellation);
    }

    // Materials as they were read, and what else the form says of them.
    private sealed record Attached(IReadOnlyList<MaterialDraft> Added, MaterialInput Input)
    {
        public Audience? OnlyFor { get; init; }
    }

    private static SeriesDraft? Read(FormReader entry, AtCalendar at, Series? stored, SeriesInput input) =>
        SeriesReader.Read(
            entry,
            input,
            at.School.Time,
            at.Calendar.Zone,
            SeriesReader.LinksFor(at.Stores, at.Viewer, at.Calendar.Id, stored),
            at.Today,
            stored,
            only => AudienceReader.Read(entry, "Only", only, at.Stores, at.Context.Grants, stored?.OnlyFor)
        );

    private Outcome<Series> Store(
        AtCalendar at,
        Series? stored,
        SeriesInput input,
        Attached attached,
        FormReader entry,
        JoinTarget? room
    )
    {
        var draft = Read(entry, at, stored, input);
        var materialOnly = AudienceReader.Read(
            entry,
            "MaterialOnly",
            attached.Input.Only ?? new AudienceInput(),
            at.Stores,
            at.Context.Grants,
            null
        );
        if (attached.Added.Count == 0 && materialOnly is not null)
            entry.Wrong("MaterialOnly", "There is no file and no link to be for them. Add one, or tick nobody here.");
        attached = attached with { OnlyFor = materialOnly };
        return draft is null || !entry.IsGood
            ? new Outcome<Series>.Refused(entry.Problems)
            : Store(at, stored, draft, attached, room);
    }

    /// <summary>Adds a series to the calendar of an act.</summary>
    internal Outcome<Series> Add(AtCalendar at, SeriesDraft draft) =>
        Store(at, null, draft, new Attached([], MaterialInput.None), null);

    private Outcome<Series> Store(AtCalendar at, Series? stored, SeriesDraft draft, Attached attached, JoinTarget? room)
    {
        var (stores, calendarContext, calendar) = (at.Stores, at.Context, at.Calendar.Id);
        var link = draft.Link;
        if (draft.NewLink is var (name, target))
        {
            if (!calendarContext.May(Permission.KeepJoinLinks))
                return Outcome.Because<Series>(
                    "Link",
                    "A new join link is for the calendar's editors to make. Choose one from the list, or ask one of them."
                );
            target ??= room;
            if (target is null)
                return Outcome.Because<Series>(
                    "Link",
                    "There is no provider here that makes rooms. Paste the address of one."
                );
            link = EditJoinLinks.Make(at, name, target, room is null ? new LinkReach.Unlimited() : rooms.Reach).Id;
        }

        var series = Make(draft, calendarContext, stored, at.Viewer, link) with { ChangedAt = at.Now };
        var plan = Planner.PlanOf(series, at.School.Time);
        if (plan.HeldCount == 0)
            return Outcome.Because<Series>("", SayBack.Sentence(plan, at.School.Time, at.Calendar.Title));
        if (draft.NewLink is null && LinkDoor.Opens(stores, at.School, at.Viewer, stored, series) is { } refusal)
            return Outcome.Because<Series>("Link", refusal);
        var materialsBefore = stores.Materials.Of(calendar);
        if (stored is null)
            series = stores.Series.Add(series with { MadeAt = at.Now });
        else if (stores.Series.Change(series, stored.Version))
            series = series with { Version = stored.Version + 1 };
        else
            return at.Stale<Series>(HistorySubject.Series, stored.Id.Value);
        foreach (var material in attached.Added)
        {
            // Kept by what the session is known by, wherever it was moved to.
            var session = material.ForSession is { } original ? plan.Find(original) : null;
            if (material.ForSession is not null && session is not { IsHeld: true })
                return Outcome.Because<Series>(
                    "MaterialForSession",
                    "That session is not among those of the series. Choose another, or every session."
                );
            stores.Materials.Add(
                new Material(
                    default,
                    calendar,
                    series.Id,
                    session?.Original,
                    MaterialKey.New(),
                    material.Title,
                    material.Content,
                    material.Audience
                )
                {
                    IsRecording = attached.Input.IsRecording,
                    OnlyFor = attached.OnlyFor,
                },
                at.Person,
                at.Now
            );
        }

        if (attached.Added.Count > 0 && SendFiles.Quota(stores, vault, limit, calendar, 0) is { } full)
            return Outcome.Because<Series>("MaterialFiles", full);
        if (attached.Input.TakeOff is { Count: > 0 } takeOff)
            stores.Materials.Remove(series.Id, [.. takeOff.Select(one => new MaterialId(one))], at.Now);
        stores.Calendars.Touch(calendar, at.Now);
        at.Note(
            HistorySubject.Series,
            series.Id.Value,
            Summary(series, stored, attached.Added),
            SeriesState.Write([SeriesState.Of(stored ?? series, takenOff: stored is null, materialsBefore)]),
            SeriesState.Write([SeriesState.Of(series, takenOff: false, stores.Materials.Of(calendar))])
        );
        return new Outcome<Series>.Done(series);
    }

    // "attached Field sheet to …" where that is all that was done.
    private static string Summary(Series series, Series? stored, IReadOnlyList<MaterialDraft> added)
    {
        if (stored is null)
            return $"added {series.Title}";
        var isSame =
            PatternText.Of(series.Pattern).ToString() == PatternText.Of(stored.Pattern).ToString()
            && (
                series.Title,
                series.Description,
                series.Place,
                series.JoinLink,
                series.NumberLabel,
                series.IsPrivate,
                series.IsTentative,
                series.OnlyFor
            )
                == (
                    stored.Title,
                    stored.Description,
                    stored.Place,
                    stored.JoinLink,
                    stored.NumberLabel,
                    stored.IsPrivate,
                    stored.IsTentative,
                    stored.OnlyFor
                );
        return isSame && added.Count > 0
                ? $"attached {Wording.List([.. added.Select(material => material.Title)])} to {series.Title}"
            : isSame ? $"saved {series.Title}, its times unchanged"
            : $"changed {series.Title}";
    }

    private Outcome<T> Read<T>(Viewer viewer, Slug slug, SeriesId? id, Func<AtCalendar, Series?, Outcome<T>> look) =>
        id is { } known
            ? gate.Read(Operation.ChangeSeries, viewer, slug, known, at => look(at, at.Series))
            : gate.Read(Operation.AddSeries, viewer, slug, at => look(at, null));

    /// <summary>A name in iCalendar that no other series anywhere has.</summary>
    internal static string NewUid() => $"{Guid.NewGuid():N}@jolly-almanac";

    internal static Series Make(
        SeriesDraft draft,
        CalendarContext calendarContext,
        Series? stored,
        Viewer viewer,
        JoinLinkId? link
    )
    {
        var series = Bare(draft, calendarContext, stored, viewer, link);
        if (draft.Except.IsEmpty)
            return series;
        // What the form leaves out is left out by hand, session by session, so that each can be brought back.
        var left = Planner
            .PlanOf(series, calendarContext.School.Time)
            .Held.Where(session => draft.Except.Any(span => span.First <= session.Day && session.Day <= span.Last))
            .ToList();
        var others = series.Changes.Where(change => !left.Exists(session => session.Change == change));
        var cancelled = left.Select(session =>
            (session.Change ?? new Change(session.Original)) with
            {
                Status = SessionStatus.Cancelled,
            }
        );
        return series with { Changes = [.. others.Concat(cancelled).OrderBy(change => change.Original)] };
    }

    private static Series Bare(
        SeriesDraft draft,
        CalendarContext calendarContext,
        Series? stored,
        Viewer viewer,
        JoinLinkId? link
    ) =>
        new(
            stored?.Id ?? default,
            calendarContext.Calendar.Id,
            stored?.Uid ?? NewUid(),
            draft.Title,
            draft.Description,
            draft.Place,
            draft.Pattern,
            link,
            stored?.MadeBy ?? viewer.Person ?? default,
            stored?.Version ?? 1,
            stored?.MadeAt ?? default,
            stored?.ChangedAt ?? default
        )
        {
            NumberLabel = draft.NumberLabel,
            IsPrivate = draft.IsPrivate,
            IsTentative = draft.IsTentative,
            OnlyFor = draft.OnlyFor,
            FirstNumber = stored?.FirstNumber ?? 1,
            Follows = stored?.Follows,
            Changes = stored?.Changes ?? [],
        };

    // A single event that is made into a series runs with its term, as a new one does.
    private static SeriesInput FormOf(Series stored, SchoolTime school, LocalDate today)
    {
        var form = SeriesInput.Of(stored);
        if (
            stored.Pattern.Repeat is not Repeat.OnDates
            || (school.TermOn(stored.Pattern.From) ?? school.TermToShow(today)) is not { } term
        )
            return form;
        return form with { Extent = "term", Term = term.Id.Value.ToString(CultureInfo.InvariantCulture) };
    }

    /// <summary>
    /// The link that a new series of a calendar takes: the one that most of its series have, else the only one made for it. Null for none.
    /// </summary>
    /// <param name="stores">What is stored.</param>
    /// <param name="calendar">The calendar.</param>
    /// <param name="links">The links that the viewer may choose from.</param>
    internal static JoinLinkId? UsualLink(Stores stores, CalendarId calendar, IReadOnlyList<JoinLink> links)
    {
        var usable = links.Select(link => link.Id).ToHashSet();
        return CalendarFacts
            .Read(stores, calendar)
            .LinksByUse.Where(usable.Contains)
            .Select(link => (JoinLinkId?)link)
            .FirstOrDefault()
            ?? (links.Where(link => link.Calendar == calendar).ToList() is [var only] ? only.Id : null);
    }

    internal static SeriesInput Fresh(CalendarContext calendarContext, LocalDate today, EntryPlace? place = null)
    {
        var school = calendarContext.School.Time;
        var usual = UsualSpan.Of(school, today);
        var term = (usual.Extent as Extent.WithTerm)?.Term;
        var fresh = new SeriesInput
        {
            Title = calendarContext.Calendar.Kind == CalendarKind.Class ? calendarContext.Calendar.Title : "",
            From = LocalDatePattern.Iso.Format(usual.From),
            Period = school.Bells.Periods.FirstOrDefault()?.Name ?? "",
            Term = term?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
            Extent = term is null ? "until" : "term",
        };
        return place is null ? fresh : At(fresh, school, place);
    }

    // Weekly from that day on; the day stands among the dates, too, where it is to be that one alone.
    private static SeriesInput At(SeriesInput fresh, SchoolTime school, EntryPlace place)
    {
        if (LocalDatePattern.Iso.Parse(place.Day ?? "") is { Success: true, Value: { Year: >= 1950 and <= 2150 } day })
            fresh = fresh with
            {
                Days = [((int)day.DayOfWeek).ToString(CultureInfo.InvariantCulture)],
                From = LocalDatePattern.Iso.Format(day),
                Dates = Wording.WithYear(day),
                Term = school.TermOn(day)?.Id.Value.ToString(CultureInfo.InvariantCulture) ?? fresh.Term,
                Extent = school.TermOn(day) is null ? "until" : "term",
            };
        if (school.Bells.Find(place.Period ?? "") is not { } first)
            return fresh;
        var last = school.Bells.Find(place.To ?? "") ?? first;
        if (last.Start < first.Start)
            (first, last) = (last, first);
        return first == last
            ? fresh with
            {
                Period = first.Name,
            }
            : fresh with
            {
                Period = "",
                Start = $"{first.Start:HH:mm}",
                End = $"{last.End:HH:mm}",
            };
    }
}
