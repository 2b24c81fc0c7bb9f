using System.Text.Json;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Timetables;
using JollyAlmanac.Formats;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.SchoolImports;

/// <summary>
/// Makes a whole school of its files: people, lists, departments, calendars, series, days. Always reviewed first; the same files a second
/// time change nothing, newer ones only what they say otherwise, and what somebody changed by hand stays. For coordinators.
/// </summary>
public sealed class SchoolImport(
    Gate gate,
    AlmanacDatabase database,
    IClock clock,
    ComposeSeries composeSeries,
    RosterImport rosterImport
)
{
    /// <summary>The most bytes of all files together.</summary>
    public const int MostBytes = 50 * 1024 * 1024;

    private static readonly Duration Keeps = Duration.FromDays(1);

    /// <summary>Takes files for review.</summary>
    /// <param name="viewer">Who brings them.</param>
    /// <param name="files">The files, by their names.</param>
    /// <param name="text">What was pasted; empty for nothing.</param>
    /// <param name="id">A review that they come to; null for a new one.</param>
    /// <returns>The id of the review.</returns>
    public Outcome<long> Begin(
        Viewer viewer,
        IReadOnlyList<(string Name, byte[] Bytes)> files,
        string? text,
        long? id = null
    ) => gate.Write<long>(Operation.ImportSchool, viewer, at =>
        {
            if (files.Count == 0 && string.IsNullOrWhiteSpace(text))
                return Outcome.Because<long>("Files", "Choose files, or paste a timetable or a list.");
            if (files.Sum(file => (long)file.Bytes.Length) > MostBytes)
                return Outcome.Because<long>(
                    "Files",
                    $"Together these have more than {MostBytes / 1024 / 1024} MB. Bring them one after the other."
                );
            if (text?.Length > 500_000)
                return Outcome.Because<long>("Text", "That is too much to paste. Save it as a file, and choose that.");
            var read = new List<SchoolFile>();
            var problems = new List<Problem>();
            foreach (var (name, bytes) in files)
                try
                {
                    read.AddRange(SchoolFiles.Read(name, bytes));
                }
                catch (FormatException refusal)
                {
                    problems.Add(new Problem("Files", refusal.Message));
                }

            if (!string.IsNullOrWhiteSpace(text))
                try
                {
                    read.AddRange(SchoolFiles.Read("", System.Text.Encoding.UTF8.GetBytes(text)));
                }
                catch (FormatException refusal)
                {
                    problems.Add(new Problem("Text", refusal.Message));
                }

            if (problems.Count > 0)
                return new Outcome<long>.Refused(problems);
            if (id is { } known)
            {
                if (Find(at, known) is not { } before)
                    return new Outcome<long>.NotFound();
                // A file of that name takes the place of the one before it.
                read.InsertRange(
                    0,
                    before.Where(file => file.Name.Length == 0 || !read.Exists(one => one.Name == file.Name))
                );
                at.Stores.RosterImports.Remove(known);
            }

            return new Outcome<long>.Done(
                at.Stores.RosterImports.Add(
                    RosterImportStore.School,
                    at.Person,
                    JsonSerializer.Serialize(SchoolFiles.Together(read)),
                    at.Now,
                    at.Now - Keeps
                )
            );
        });

    /// <summary>What taking the files in would do, by how everything stands now.</summary>
    public Outcome<SchoolImportReview> Review(Viewer viewer, long id, SchoolImportChoices choices) =>
        gate.Read<SchoolImportReview>(Operation.ImportSchool, viewer, at =>
            Find(at, id) is { } files
                ? new Outcome<SchoolImportReview>.Done(
                    Review(at, files, SchoolReading.RosterOf(files), choices) with
                    {
                        Id = id,
                    }
                )
                : new Outcome<SchoolImportReview>.NotFound()
        );

    /// <summary>Takes reviewed files in.</summary>
    public Outcome<SchoolImportResult> Keep(Viewer viewer, long id, SchoolImportChoices choices) =>
        gate.Write<SchoolImportResult>(Operation.ImportSchool, viewer, at =>
        {
            if (Find(at, id) is not { } files)
                return new Outcome<SchoolImportResult>.NotFound();
            var done = Keep(at, files, choices, mayAsk: false);
            if (done.IsDone)
                at.Stores.RosterImports.Remove(id);
            return done;
        });

    /// <summary>Takes files in from a shell, in the name of the school's first coordinator, or says what that would do.</summary>
    /// <param name="paths">Files and folders.</param>
    /// <param name="choices">What is chosen beside them.</param>
    /// <param name="isDry">Nothing is kept.</param>
    /// <exception cref="FormatException">Nothing can be read there, or there is no school yet; the message is for people.</exception>
    public SchoolImportResult FromShell(IEnumerable<string> paths, SchoolImportChoices choices, bool isDry)
    {
        var files = SchoolFiles.ReadPaths(paths);
        return database.Write(
            stores =>
            {
                if (stores.People.Coordinators() is not [var first, ..] || stores.School.Find() is not { } school)
                    throw new FormatException("No school is set up here yet.");
                var at = new AtSchool(
                    Operation.ImportSchool,
                    stores,
                    stores.People.ViewerOf(first),
                    school,
                    clock.GetCurrentInstant()
                );
                return Keep(at, files, choices, mayAsk: true) switch
                {
                    Outcome<SchoolImportResult>.Done { Value: var done } => done,
                    Outcome<SchoolImportResult>.Refused { Problems: [var problem, ..] } => throw new FormatException(
                        problem.Message
                    ),
                    _ => throw new FormatException("Somebody changed the school at the same moment. Try again."),
                };
            },
            _ => !isDry
        );
    }

    private static IReadOnlyList<SchoolFile>? Find(AtSchool at, long id) =>
        at.Stores.RosterImports.Find(RosterImportStore.School, id, at.Person, at.Now - Keeps) is { } content
            ? JsonSerializer.Deserialize<IReadOnlyList<SchoolFile>>(content)
            : null;

    private static SchoolImportReview Review(
        AtSchool at,
        IReadOnlyList<SchoolFile> files,
        Roster? roster,
        SchoolImportChoices choices
    )
    {
        var plan = roster is null ? null : RosterImport.Plan(at.Stores, roster, new RosterImportChoices());
        var told = plan?.Lines.Select(line => line.Known?.Id).OfType<PersonId>().ToHashSet();
        // Whom the files tell of is known by them before anything is kept.
        IReadOnlyList<KnownPerson> people = plan is null
            ? at.Stores.People.Known()
            :
            [
                .. at.Stores.People.Known().Where(one => !told!.Contains(one.Id)),
                .. plan.Lines.Select(
                    (line, place) =>
                        new KnownPerson(
                            line.Known?.Id ?? new PersonId(-1 - place),
                            line.Name,
                            line.Email,
                            line.Role,
                            line.Person.Source,
                            HasLeft: false
                        )
                ),
            ];
        var reading = new SchoolReading(at, files, choices, roster, people);
        return reading.Review(plan);
    }

    private Outcome<SchoolImportResult> Keep(
        AtSchool at,
        IReadOnlyList<SchoolFile> files,
        SchoolImportChoices choices,
        bool mayAsk
    )
    {
        var roster = SchoolReading.RosterOf(files);
        var review = Review(at, files, roster, choices);
        if (review.IsAsking && !mayAsk)
            return Outcome.Because<SchoolImportResult>(
                "",
                $"{Wording.Count(review.Questions.Count(one => one.Answer is null), "question waits", "questions wait")} for an answer. Nothing was kept."
            );
        var stores = at.Stores;
        var people = roster is null
            ? null
            : rosterImport.TakeIn(stores, at.Person, at.Now, roster, new RosterImportChoices(EndGone: choices.EndGone));
        // Through the form's own rules: a file may say what no form would let pass.
        var entry = new FormReader();
        var (read, says, _) = SchoolReading.TimeOf(at, files, roster);
        var school = at.School;
        if (says.Count > 0)
        {
            if (
                SetSchoolTime.Read(at, entry, SchoolTimeInput.Of(SchoolReading.Kept(read), at.School.Revision))
                is not { } time
            )
                return new Outcome<SchoolImportResult>.Refused(entry.Problems);
            if (
                SetSchoolTime.Store(at with { Operation = Operation.SetSchoolTime }, time, at.School.Revision)
                is not Outcome<Core.Terms.School>.Done { Value: var changed }
            )
                return new Outcome<SchoolImportResult>.Stale(null);
            school = changed;
        }

        at = at with { School = school };
        var reading = new SchoolReading(at, files, choices, roster, stores.People.Known());
        var done = reading.Review(review.People);
        var undo = new UndoState([], [], []);
        var departments = new Dictionary<string, CalendarId>(StringComparer.OrdinalIgnoreCase);
        foreach (var known in stores.Calendars.All().Where(calendar => calendar.Kind == CalendarKind.Department))
            departments.TryAdd(known.Title, known.Id);
        foreach (var title in done.Departments)
        {
            var made = SaveCalendar.Make(
                at,
                Fresh(stores, CalendarKind.Department, title, null),
                at.Person,
                OpenTo.Everyone,
                stores.School.Defaults().CoordinatorsManage
            );
            departments[title] = made.Id;
            undo.Calendars.Add(made.Id.Value);
        }

        var lists = stores.Groups.Known().Where(one => one.Source.Length > 0).ToDictionary(one => one.Source);
        foreach (var one in done.Classes.Where(one => one.Refusal.Length == 0))
        {
            var problem = Keep(at, one, departments, lists, undo, choices);
            if (problem is not null)
                return Outcome.Because<SchoolImportResult>(
                    "",
                    $"{one.Title} could not be taken in, so nothing was. {problem}"
                );
        }

        if (undo.Calendars.Count + undo.Series.Count + undo.Changed.Count > 0)
            at.Note(
                HistorySubject.School,
                1,
                $"took in {Wording.Count(files.Count, "file", "files")} of the school: {Wording.Count(done.NewCalendars, "new calendar", "new calendars")}, {Wording.Count(undo.Series.Count, "new series", "new series")}, {Wording.Count(undo.Changed.Count, "changed", "changed")}",
                JsonSerializer.Serialize(undo)
            );
        return new Outcome<SchoolImportResult>.Done(new SchoolImportResult(done, people));
    }

    private string? Keep(
        AtSchool at,
        ClassNews one,
        Dictionary<string, CalendarId> departments,
        Dictionary<string, KnownGroup> lists,
        UndoState undo,
        SchoolImportChoices choices
    )
    {
        var stores = at.Stores;
        var calendar = one.Known;
        if (calendar is null)
        {
            CalendarId? department = departments.TryGetValue(one.Department, out var of) ? of : null;
            var defaults = stores.School.DefaultsFor(department);
            calendar = SaveCalendar.Make(
                at,
                Fresh(stores, CalendarKind.Class, one.Title, department),
                one.Managers.Select(person => (PersonId?)person.Id).FirstOrDefault() ?? at.Person,
                CalendarDefaultsInput.OpenToOf(defaults),
                defaults.CoordinatorsManage
            );
            undo.Calendars.Add(calendar.Id.Value);
            stores.History.Add(
                at.Now,
                at.Person,
                calendar.Id,
                HistorySubject.Calendar,
                calendar.Id.Value,
                Operation.MakeCalendar.Name,
                $"made the calendar {calendar.Title} of a file",
                null,
                null
            );
            // On a calendar that was there, who is on it is its managers' own.
            foreach (var manager in one.Managers)
                stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OnePerson(manager.Id), AccessLevel.Manager));
            if (lists.TryGetValue(one.ListSource, out var list))
                stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OneGroup(list.Id), AccessLevel.Full));
        }

        stores.SchoolImports.SetClass(one.Source, calendar.Id);

        // A coordinator takes in for everybody: what is made is theirs to make, whoever is to keep it. Until all of it is there they manage it.
        var owner = new Grantee.OnePerson(at.Person);
        var isHelping = one.Known is null && stores.Calendars.GrantsOf(calendar.Id).All(grant => grant.To != owner);
        if (isHelping)
            stores.Calendars.Set(new Grant(calendar.Id, owner, AccessLevel.Manager));
        var there = new AtCalendar(
            Operation.AddSeveralSeries,
            stores,
            at.Viewer,
            new CalendarContext(at.School, calendar, stores.Calendars.GrantsOf(calendar.Id), AccessLevel.Manager),
            at.Now
        );
        JoinLinkId? made = null;
        foreach (var series in one.Series)
        {
            switch (series.News)
            {
                case ImportNews.New:
                {
                    var draft = series.Draft! with { NewLink = null };
                    // One that the calendar has already is its way in; what is behind it is its keepers' to change.
                    var usual = made
                        ?? ComposeSeries.UsualLink(
                            stores,
                            calendar.Id,
                            [.. stores.JoinLinks.Of(calendar.Id).Where(link => !link.LeadsNowhere)]
                        );
                    if (usual is not null)
                        draft = draft with { Link = usual };
                    else if (series.Link.Length > 0)
                        draft = draft with { NewLink = series.Draft!.NewLink };
                    switch (composeSeries.Add(there, draft))
                    {
                        case Outcome<Series>.Done { Value: var added }:
                            made ??= added.JoinLink;
                            undo.Series.Add(added.Id.Value);
                            stores.SchoolImports.SetMeeting(
                                one.Source,
                                new ImportedMeeting(added.Id, series.Said, added.Version)
                            );
                            break;
                        case Outcome<Series>.Refused { Problems: [var problem, ..] }:
                            return problem.Message;
                        default:
                            return "Somebody changed it at the same moment.";
                    }

                    break;
                }
                case ImportNews.Changed:
                {
                    var before = series.Known!;
                    var draft = series.Draft!;
                    // From today on nothing changes that was held: the pattern's first day stays.
                    var after = before with
                    {
                        Place = draft.Place,
                        Pattern = draft.Pattern with { From = before.Pattern.From, Extra = before.Pattern.Extra },
                    };
                    if (LinkDoor.Opens(stores, at.School, at.Viewer, before, after) is { } refusal)
                        return refusal;
                    if (!new AtSeries(there, before).Store(after, $"changed {before.Title} as a file says"))
                        return "Somebody changed it at the same moment.";
                    undo.Changed.Add(
                        new UndoChange(SeriesState.Of(before, takenOff: false, []), before.Version + 1, series.Before)
                    );
                    stores.SchoolImports.SetMeeting(
                        one.Source,
                        new ImportedMeeting(before.Id, series.Said, before.Version + 1)
                    );
                    break;
                }
                case ImportNews.Same when series.Known is { } same:
                    stores.SchoolImports.SetMeeting(
                        one.Source,
                        new ImportedMeeting(same.Id, series.Said, same.Version)
                    );
                    break;
                case ImportNews.Gone when choices.EndGone && series.Known is { } gone:
                {
                    var last = at.Today.PlusDays(-1);
                    if (gone.Pattern.From > last)
                    {
                        if (!stores.Series.SetTakenOff(gone.Id, true, gone.Version, at.Now))
                            return "Somebody changed it at the same moment.";
                        stores.Calendars.Touch(calendar.Id, at.Now);
                        there.Note(
                            HistorySubject.Series,
                            gone.Id.Value,
                            $"took {gone.Title} off: the file has it no longer",
                            SeriesState.Write([SeriesState.Of(gone, takenOff: false, [])]),
                            SeriesState.Write([SeriesState.Of(gone, takenOff: true, [])])
                        );
                    }
                    else if (
                        !new AtSeries(there, gone).Store(
                            gone with
                            {
                                Pattern = gone.Pattern with { Extent = new Extent.Until(last) },
                            },
                            $"ended {gone.Title}: the file has it no longer"
                        )
                    )
                        return "Somebody changed it at the same moment.";
                    stores.SchoolImports.Forget(gone.Id);
                    break;
                }
            }
        }

        if (isHelping)
            stores.Calendars.Remove(calendar.Id, owner);
        return null;
    }

    private static Calendar Fresh(Stores stores, CalendarKind kind, string title, CalendarId? department) =>
        new(
            default,
            kind,
            department,
            title,
            default,
            "",
            Mark.Next(stores.Calendars.LatestMarks(Mark.Neighbours)),
            DateTimeZone.Utc,
            default,
            0,
            0,
            default
        );

    /// <summary>What the viewer took in last and can take back, in words; null where there is nothing.</summary>
    public string? LastTakenIn(Viewer viewer) =>
        gate.Read<string>(Operation.ImportSchool, viewer, at =>
            Last(at) is var (line, _) ? new Outcome<string>.Done(line.Summary) : new Outcome<string>.NotFound()
        ).OrNone;

    private static (HistoryLine Line, UndoState State)? Last(AtSchool at) =>
        at.Stores.History.LastOf(Operation.ImportSchool.Name, at.Person) is var (line, before)
        && JsonSerializer.Deserialize<UndoState>(before) is { } state
        && state.Calendars.Count + state.Series.Count + state.Changed.Count > 0
            ? (line, state)
            : null;

    /// <summary>
    /// Takes back what the viewer took in last: its calendars go (for a month they can be brought back), its series, and what it changed.
    /// People and lists stay, and what somebody changed since.
    /// </summary>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> Undo(Viewer viewer) => gate.Write<string>(Operation.ImportSchool, viewer, at =>
        {
            if (Last(at) is not var (line, state))
                return Outcome.Because<string>("", "There is nothing of yours to take back.");
            var stores = at.Stores;
            var (calendars, taken, kept) = (0, 0, 0);
            var sources = stores
                .SchoolImports.Meetings()
                .SelectMany(group => group.Select(one => (one.Series, Source: group.Key)))
                .ToDictionary(pair => pair.Series, pair => pair.Source);
            foreach (var (before, version, said) in state.Changed)
            {
                if (
                    stores.Series.Find(new SeriesId(before.Id)) is not { } now
                    || now.Version != version
                    || !stores.Series.Change(before.On(now) with { ChangedAt = at.Now }, version)
                )
                {
                    kept++;
                    continue;
                }

                stores.Calendars.Touch(now.Calendar, at.Now);
                if (sources.TryGetValue(now.Id, out var source))
                    stores.SchoolImports.SetMeeting(source, new ImportedMeeting(now.Id, said, version + 1));
                taken++;
            }

            foreach (var id in state.Series)
            {
                if (
                    stores.Series.Find(new SeriesId(id)) is not { } series
                    || series.Version != 1
                    || !stores.Series.SetTakenOff(series.Id, true, 1, at.Now)
                )
                {
                    kept++;
                    continue;
                }

                stores.Calendars.Touch(series.Calendar, at.Now);
                stores.SchoolImports.Forget(series.Id);
                taken++;
            }

            var all = stores.Calendars.Every().ToDictionary(one => one.Id);
            // Classes before their departments, which stay where one of their classes does.
            foreach (var id in state.Calendars.Select(id => new CalendarId(id)).Reverse())
            {
                var calendar = all.GetValueOrDefault(id);
                // Where somebody has put something on it since, it stays.
                if (
                    calendar is not { IsInUse: true }
                    || stores.Series.Of(id).Count > 0
                    || stores.Materials.Of(id).Count > 0
                    || (
                        calendar.Kind == CalendarKind.Department
                        && stores.Calendars.All().Any(one => one.Department == id)
                    )
                    || !stores.Calendars.SetUse(id, null, at.Now, calendar.Version, at.Now)
                )
                {
                    kept++;
                    continue;
                }

                stores.SchoolImports.Forget(id);
                calendars++;
            }

            var summary =
                $"took back what files of the school had brought: {Wording.Count(calendars, "calendar", "calendars")}, {Wording.Count(taken, "series", "series")}"
                + (kept > 0 ? $"; {kept} were changed since, and stay" : "");
            // The state that is empty says that nothing is left to take back.
            at.Note(HistorySubject.School, line.Id, summary, JsonSerializer.Serialize(new UndoState([], [], [])));
            return new Outcome<string>.Done(Wording.Capital(summary) + ".");
        });

    private sealed record UndoChange(SeriesState Before, int Version, string Said);

    private sealed record UndoState(List<long> Calendars, List<long> Series, List<UndoChange> Changed);
}
