using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using JollyAlmanac.Storage.Files;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.Importing;

/// <summary>What becomes of an event of a file.</summary>
public enum ImportNews
{
    /// <summary>It is not on the calendar yet.</summary>
    New,

    /// <summary>It is there, and the file says something else of it now.</summary>
    Changed,

    /// <summary>It is there as the file has it, or the file has not changed since it came.</summary>
    Same,

    /// <summary>The almanac cannot take it in.</summary>
    Refused,
}

/// <summary>An event of a file, and what would become of it.</summary>
/// <param name="Line">The line of the file that it begins on; of a table its first row.</param>
/// <param name="News">What becomes of it.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Remarks">What was forgiven, changed or left away.</param>
public sealed record ImportLine(int Line, ImportNews News, string Title, IReadOnlyList<string> Remarks)
{
    internal ImportLine(int line, ImportNews news, string title, string says, IReadOnlyList<string> remarks)
        : this(line, news, title, remarks) => Sentence = new Lazy<string>(says);

    /// <summary>What will be true of it, in a sentence; of one that is refused, why.</summary>
    public string Says => Sentence.Value;

    // Of thousands, those alone are put into words that somebody reads.
    internal Lazy<string> Sentence { get; init; } = new("");

    internal Series? Stored { get; init; }

    internal bool WasTakenOff { get; init; }

    internal Series? After { get; init; }

    /// <summary>As the file alone has it, whatever was done by hand here: what the next file is held against.</summary>
    internal Series? Given { get; init; }

    internal FileSeries? Source { get; init; }

    /// <summary>What the file had said of it before; null for nothing.</summary>
    internal Import? Came { get; init; }
}

/// <summary>A file that is being reviewed.</summary>
/// <param name="Calendar">The calendar it would come to.</param>
/// <param name="School">The school's time.</param>
/// <param name="Name">What the file is called; empty for what was pasted.</param>
/// <param name="Lines">Its events, in the file's order.</param>
/// <param name="Remarks">What is to be said of the file as a whole.</param>
public sealed record ImportReview(
    Calendar Calendar,
    SchoolTime School,
    string Name,
    ImmutableArray<ImportLine> Lines,
    ImmutableArray<string> Remarks
)
{
    /// <summary>How many events that becomes of.</summary>
    public int Count(ImportNews news) => Lines.Count(line => line.News == news);

    /// <summary>As JSON, for other programs: how many are new, changed and same; refused and remarks with line, title and reason.</summary>
    public string ToJson() =>
        JsonSerializer.Serialize(
            new
            {
                @new = Count(ImportNews.New),
                changed = Count(ImportNews.Changed),
                same = Count(ImportNews.Same),
                refused = Lines
                    .Where(line => line.News == ImportNews.Refused)
                    .Select(line => new
                    {
                        line = line.Line,
                        title = line.Title,
                        reason = line.Says,
                    }),
                remarks = Remarks
                    .Select(remark => new
                    {
                        line = 0,
                        title = "",
                        says = remark,
                    })
                    .Concat(
                        Lines.SelectMany(line =>
                            line.Remarks.Select(remark => new
                            {
                                line = line.Line,
                                title = line.Title,
                                says = remark,
                            })
                        )
                    ),
            },
            Plain
        );

    /// <summary>For people.</summary>
    /// <param name="isDry">It was only looked at.</param>
    public string ToText(bool isDry) =>
        string.Join(
            '\n',
            [
                $"{Count(ImportNews.New)} new, {Count(ImportNews.Changed)} changed, {Count(ImportNews.Same)} the same, {Count(ImportNews.Refused)} not understood.{(isDry ? " Nothing was kept." : "")}",
                .. Remarks,
                .. Lines
                    .Where(line => line.News == ImportNews.Refused)
                    .Select(line => $"line {line.Line}: {line.Title}: {line.Says}"),
                .. Lines.SelectMany(line => line.Remarks.Select(remark => $"line {line.Line}: {line.Title}: {remark}")),
            ]
        );

    private static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };
}

/// <summary>What is chosen beside a file.</summary>
/// <param name="LeavesOut">Its sessions are left out on the school's no-class days, in place of meeting whenever the file says.</param>
/// <param name="Skipped">Events that are not taken in, by the line they begin on.</param>
public sealed record ImportChoices(bool LeavesOut = false, IReadOnlySet<int>? Skipped = null);

/// <summary>
/// Takes an iCalendar file or a table of sessions in. Always reviewed first; an event is known again by its UID, so that the same file
/// changes nothing and a newer one changes only what it says otherwise than before: what was done by hand here stays.
/// </summary>
public sealed class ImportFile(
    Gate gate,
    AlmanacDatabase database,
    IClock clock,
    FileVault vault,
    UploadLimit limit,
    FileCheck check
)
{
    /// <summary>The largest file, in bytes.</summary>
    public const int Largest = 10 * 1024 * 1024;

    /// <summary>The most events of one file.</summary>
    public const int MostEvents = 20_000;

    // What takes longer than this was made to.
    private static readonly TimeSpan LongestReading = TimeSpan.FromSeconds(10);

    private static readonly Duration Keeps = Duration.FromDays(1);

    /// <summary>Takes a file, or pasted text, for review.</summary>
    /// <param name="viewer">Who brings it.</param>
    /// <param name="slug">The calendar it is for.</param>
    /// <param name="text">What was pasted; empty where a file is given.</param>
    /// <param name="name">The file's name.</param>
    /// <param name="bytes">The file; null for none.</param>
    /// <returns>The id of its review.</returns>
    public Outcome<long> Begin(Viewer viewer, Slug slug, string? text, string? name, byte[]? bytes) =>
        gate.Read<ReadIn>(Operation.ImportFile, viewer, slug, at =>
                viewer.LookedAtBy is null ? new Outcome<ReadIn>.Done(ReadIn.Of(at)) : new Outcome<ReadIn>.NotAllowed()
            )
            .Then(within =>
            {
                var field = bytes is null ? "Text" : "File";
                if (bytes is null && string.IsNullOrWhiteSpace(text))
                    return Outcome.Because<long>("File", "Choose a file, or paste one.");
                bytes ??= Encoding.UTF8.GetBytes(text!);
                if (bytes.Length > Largest)
                    return Outcome.Because<long>(
                        field,
                        $"It is larger than {Largest / 1024 / 1024} MB. Export a part of it, a year for example."
                    );
                // Understood before anything is written: nobody else waits for that.
                var (events, refusal) = Read(within, bytes);
                if (events is null)
                    return Outcome.Because<long>(field, refusal);
                var called = Path.GetFileName(FormReader.Clean(name, keepLines: false)).Trim();
                var source = JsonSerializer.Serialize(
                    new Source(within.Calendar.Value, called.Length > 100 ? called[..100] : called, bytes)
                );
                return gate.Write<long>(Operation.ImportFile, viewer, slug, at => new Outcome<long>.Done(
                    at.Stores.RosterImports.Add(RosterImportStore.Sessions, at.Person, source, at.Now, at.Now - Keeps)
                ));
            });

    /// <summary>What taking a file in would do, by how everything stands now.</summary>
    public Outcome<ImportReview> Review(Viewer viewer, Slug slug, long id, ImportChoices choices) =>
        Reviewed(viewer, slug, id, choices).Select(one => one.Review);

    /// <summary>Takes a reviewed file in, all that can be of it.</summary>
    public Outcome<ImportReview> SaveChoices(Viewer viewer, Slug slug, long id, ImportChoices choices)
    {
        // What is to be written is worked out before, in a reading; where the calendar or the school changed meanwhile, once more.
        for (var turn = 0; ; turn++)
        {
            var reviewed = Reviewed(viewer, slug, id, choices);
            if (reviewed is not Outcome<(ImportReview Review, string AsOf)>.Done { Value: var (review, asOf) })
                return reviewed.Select(one => one.Review);
            var isNewer = false;
            var kept = gate.Write<ImportReview>(Operation.ImportFile, viewer, slug, at =>
            {
                if (Found(at, id) is null)
                    return new Outcome<ImportReview>.NotFound();
                if (isNewer = AsOf(at) != asOf)
                    return at.Stale<ImportReview>(HistorySubject.Calendar, at.Calendar.Id.Value);
                Store(at, review);
                at.Stores.RosterImports.Remove(id);
                return new Outcome<ImportReview>.Done(review);
            });
            if (!isNewer || turn == 3)
                return kept;
        }
    }

    private Outcome<(ImportReview Review, string AsOf)> Reviewed(
        Viewer viewer,
        Slug slug,
        long id,
        ImportChoices choices
    )
    {
        var found = gate.Read<(Source Source, ReadIn Within)>(Operation.ImportFile, viewer, slug, at =>
            Found(at, id) is { } source
                ? new Outcome<(Source, ReadIn)>.Done((source, ReadIn.Of(at)))
                : new Outcome<(Source, ReadIn)>.NotFound()
        );
        return found.Then(from =>
        {
            var (file, refusal) = Read(from.Within, from.Source.Bytes);
            return file is null
                ? Outcome.Because<(ImportReview, string)>("", refusal)
                : gate.Read<(ImportReview, string)>(Operation.ImportFile, viewer, slug, at => new Outcome<(
                    ImportReview,
                    string
                )>.Done((Review(at, from.Source.Name, file, choices), AsOf(at))));
        });
    }

    // What a review depends on beside the file.
    private static string AsOf(AtCalendar at) =>
        $"{at.Stores.Calendars.StateVersionOf(at.Calendar.Id)} {at.Stores.School.StateVersion()} {at.Context.Level} {at.Today}";

    // What the understanding of a file depends on.
    private sealed record ReadIn(CalendarId Calendar, SchoolTime School, DateTimeZone Zone, LocalDate Today)
    {
        public static ReadIn Of(AtCalendar at) => new(at.Calendar.Id, at.School.Time, at.Calendar.Zone, at.Today);
    }

    /// <summary>Takes a file in from a shell, in the name of the school's first coordinator, or says what that would do.</summary>
    /// <param name="slug">The calendar.</param>
    /// <param name="path">The file.</param>
    /// <param name="isDry">Nothing is kept.</param>
    /// <returns>Refused for a file that cannot be read, not found where there is no such calendar.</returns>
    public Outcome<ImportReview> FromShell(Slug slug, string path, bool isDry)
    {
        var bytes = File.ReadAllBytes(path);
        return database.Write(
            stores =>
            {
                if (
                    stores.School.Find() is not { } school
                    || stores.People.Coordinators() is not [var first, ..]
                    || stores.Calendars.Find(slug) is not { IsInUse: true } calendar
                )
                    return new Outcome<ImportReview>.NotFound();
                var at = new AtCalendar(
                    Operation.ImportFile,
                    stores,
                    stores.People.ViewerOf(first),
                    new CalendarContext(school, calendar, stores.Calendars.GrantsOf(calendar.Id), AccessLevel.Manager),
                    clock.GetCurrentInstant()
                );
                var (file, refusal) = Read(ReadIn.Of(at), bytes);
                if (file is null)
                    return Outcome.Because<ImportReview>("", refusal);
                var review = Review(at, Path.GetFileName(path), file, new ImportChoices());
                if (!isDry)
                    Store(at, review);
                return new Outcome<ImportReview>.Done(review);
            },
            outcome => outcome.IsDone && !isDry
        );
    }

    private sealed record Source(long Calendar, string Name, byte[] Bytes);

    private static Source? Found(AtCalendar at, long id) =>
        at.Stores.RosterImports.Find(RosterImportStore.Sessions, id, at.Person, at.Now - Keeps) is { } content
        && JsonSerializer.Deserialize<Source>(content) is { } source
        && source.Calendar == at.Calendar.Id.Value
            ? source
            : null;

    // The events of a file or a table; null, with the reason, where it is neither or is cut off.
    private (ReadFile? Events, string Refusal) Read(ReadIn within, byte[] bytes)
    {
        var of = new ReadOf(Convert.ToHexString(SHA256.HashData(bytes)), within);
        // A file is looked at several times within minutes: as it is brought, reviewed, kept.
        if (lastRead.TryGetTarget(out var last) && last.Of == of)
            return (last.File, "");
        // One at a time: however many files are brought, a core is left for everybody else.
        lock (reading)
        {
            if (lastRead.TryGetTarget(out last) && last.Of == of)
                return (last.File, "");
            var (file, refusal) = Understand(within, bytes);
            if (file is not null)
                lastRead.SetTarget(new LastRead(of, file));
            return (file, refusal);
        }
    }

    private readonly Lock reading = new();

    // Held as long as there is room for it.
    private readonly WeakReference<LastRead> lastRead = new(null!);

    private sealed record LastRead(ReadOf Of, ReadFile File);

    private sealed record ReadOf(string Hash, ReadIn Within);

    private static (ReadFile? Events, string Refusal) Understand(ReadIn within, byte[] bytes)
    {
        var file = ICalendarReader.Read(bytes);
        var remarks = new List<string>();
        if (file.Calendars.Count == 0)
        {
            if (ICalendarReader.IsWebPage(bytes))
                return (
                    null,
                    "It is a web page, most likely one to sign in at, and no calendar. Save the calendar itself."
                );
            var (table, refusal) = SessionTable.Read(bytes, within.School, within.Zone, within.Today);
            if (table is null)
                return (null, refusal);
            remarks.AddRange(table.Remarks);
            file = new ICalendarFile([table.Calendar], [], false);
        }

        if (file.IsCutOff)
            return (null, "It is cut off: its last line is missing. Save or fetch it again; nothing of it was taken.");
        // Each kind of thing once: a file whose lines end otherwise has that in all of them.
        remarks.AddRange(
            file.Breaches.GroupBy(breach => (breach.Section, breach.Remedy))
                .Take(8)
                .Select(same =>
                    $"Forgiven, line {same.First().Line}{(same.Count() > 1 ? " and others" : "")}: {same.First().Says}"
                )
        );
        var others = file
            .Calendars.SelectMany(calendar => calendar.Parts)
            .Where(part => part.Name is "VTODO" or "VJOURNAL" or "VFREEBUSY")
            .GroupBy(part => part.Name)
            .Select(same => (same.Key, Count: same.Count()))
            .ToList();
        foreach (var (kind, count) in others)
            remarks.Add(
                $"{Wording.Count(count, "part of it is", "parts of it are")} no session ({kind}), and {(count == 1 ? "is" : "are")} left away."
            );
        var last = within.School.Terms is [.., var term] ? LocalDate.Max(term.Last, within.Today) : within.Today;
        using var late = new CancellationTokenSource(LongestReading);
        if (
            ICalendarSessions.EventsOf(file, last.PlusYears(1), FileSeries.MostSessions + 1, MostEvents, late.Token)
            is not { } events
        )
            return (
                null,
                $"It has more than {MostEvents:N0} events, or its rules and zones take too long to work out. Export a part of it, a year for example."
            );
        return events.Count == 0
            ? (null, "There is no event in it.")
            : (new ReadFile(events, file.Calendars.Any(IsOurs), remarks), "");
    }

    private sealed record ReadFile(IReadOnlyList<FileEvent> Events, bool IsOurs, IReadOnlyList<string> Remarks);

    private static bool IsOurs(Component calendar) =>
        calendar.Find("PRODID")?.Value.StartsWith("-//Jolly Almanac//", StringComparison.Ordinal) == true;

    private static ImportReview Review(AtCalendar at, string name, ReadFile file, ImportChoices choices)
    {
        var before = new ExistingSeries(at);
        var seen = new HashSet<string>(StringComparer.Ordinal);
        var lines = ImmutableArray.CreateBuilder<ImportLine>(file.Events.Count);
        foreach (var one in file.Events)
        {
            if (choices.Skipped?.Contains(one.Master.Number) == true)
                continue;
            var source = FileSeries.Of(one, file.IsOurs, at.Calendar.Zone);
            // Told twice without a UID, word for word: it is the same event.
            lines.Add(
                !seen.Add(source.Uid)
                    ? one.Uid.Length == 0
                        ? new ImportLine(source.Line, ImportNews.Same, source.Title, "", [])
                        : new ImportLine(
                            source.Line,
                            ImportNews.Refused,
                            source.Title,
                            "Another event of the file has the same UID.",
                            source.Remarks
                        )
                    : LineOf(at, before, source, choices)
            );
        }

        return new ImportReview(at.Calendar, at.School.Time, name, lines.DrainToImmutable(), [.. file.Remarks]);
    }

    // What stands on the calendar, by what files know it as.
    private sealed class ExistingSeries(AtCalendar at)
    {
        private readonly Dictionary<string, Import> imports = at
            .Stores.Imports.Of(at.Calendar.Id)
            .ToDictionary(import => import.Uid);
        private readonly Dictionary<SeriesId, Plan> plans = CalendarFacts
            .Read(at.Stores, at.Calendar.Id)
            .Plans(at.School.Time)
            .ToDictionary(plan => plan.Of.Id);
        private readonly Dictionary<string, SeriesId> byUid = CalendarFacts
            .Read(at.Stores, at.Calendar.Id)
            .Series.ToDictionary(series => series.Uid, series => series.Id);
        private readonly IReadOnlyDictionary<string, SeriesId> takenOff = at.Stores.Series.TakenOff(at.Calendar.Id);

        public Import? ImportOf(string uid) => imports.GetValueOrDefault(uid);

        public Plan? PlanOf(SeriesId id) => plans.GetValueOrDefault(id);

        public (Series? Series, bool IsOff) Find(string uid)
        {
            if (ImportOf(uid) is { } import)
                return plans.TryGetValue(import.Series, out var known)
                    ? (known.Of, false)
                    : (at.Stores.Series.Find(import.Series, alsoTakenOff: true), true);
            return byUid.TryGetValue(uid, out var id) ? (plans[id].Of, false)
                : takenOff.TryGetValue(uid, out var off) ? (at.Stores.Series.Find(off, alsoTakenOff: true), true)
                : (null, false);
        }
    }

    private static ImportLine LineOf(AtCalendar at, ExistingSeries before, FileSeries source, ImportChoices choices)
    {
        ImportLine Line(ImportNews news, string says) =>
            new(source.Line, news, source.Title, says, source.Remarks) { Source = source };
        var (stored, isOff) = before.Find(source.Uid);
        var import = before.ImportOf(source.Uid);
        // To add is the act's own deed; what is there is changed.
        if (stored is not null && !at.Context.May(Permission.ChangeSeries, own: stored.MadeBy == at.Person))
            return Line(ImportNews.Refused, "It is on the calendar already, and somebody else’s to change.");
        if (stored is not null && !isOff && import?.Hash == source.Hash)
            return Line(ImportNews.Same, "");
        if (source.Series is not { } given)
            return Line(ImportNews.Refused, source.Refusal!);
        if (stored is null && given.Sessions.All(session => session.IsCancelled))
            return Line(ImportNews.Refused, "It is cancelled, and is not on the calendar.");
        if (
            stored is not null
            && !isOff
            && import is null
            && before.PlanOf(stored.Id) is { } plan
            && Means(plan, source, given)
        )
            return Line(ImportNews.Same, "");
        if (PatternFit.Of(given, at.School.Time, stored?.Pattern.Extra ?? []) is not var (pattern, changes))
            return Line(
                ImportNews.Refused,
                $"It has no rule that the almanac knows, and more than {MeetingPattern.MostHeldSessions} dates, or more than {MeetingPattern.MostExtra} sessions beside the first of a day."
            );
        // Chosen once, it stays so when a newer file comes.
        if (choices.LeavesOut || import?.State?.Pattern.NoClass == NoClassPolicy.LeaveOut)
            pattern = pattern with { NoClass = NoClassPolicy.LeaveOut };
        var fresh = new Series(
            stored?.Id ?? default,
            at.Calendar.Id,
            stored?.Uid ?? source.Uid,
            source.Title,
            source.Description,
            given.Place,
            pattern,
            stored?.JoinLink,
            stored?.MadeBy ?? at.Viewer.Person ?? default,
            stored?.Version ?? 1,
            stored?.MadeAt ?? at.Now,
            at.Now
        )
        {
            IsPrivate = source.IsPrivate,
            IsTentative = source.IsTentative,
            Changes = changes,
            NumberLabel = "",
            OnlyFor = stored?.OnlyFor,
            FirstNumber = stored?.FirstNumber ?? 1,
            Follows = stored?.Follows,
        };
        var after = stored is null ? fresh : Merged(stored, import?.State, fresh);
        if (stored is not null && !isOff && SaysTheSame(stored, after))
            return Line(ImportNews.Same, "");
        if (LinkDoor.Opens(at.Stores, at.School, at.Viewer, isOff ? null : stored, after) is { } refusal)
            return Line(ImportNews.Refused, refusal);
        // What meets whenever the file says has a session, as looked at above.
        if (
            stored is null
            && pattern.NoClass != NoClassPolicy.MeetAnyway
            && Planner.PlanOf(after, at.School.Time) is { HeldCount: 0 } none
        )
            return Line(ImportNews.Refused, SayBack.Sentence(none, at.School.Time, at.Calendar.Title));
        var was = stored is null || isOff ? null : before.PlanOf(stored.Id);
        return Line(stored is null || isOff ? ImportNews.New : ImportNews.Changed, "") with
        {
            Stored = stored,
            WasTakenOff = isOff,
            After = after,
            Given = fresh,
            Came = import,
            Sentence = new Lazy<string>(() =>
            {
                var planned = Planner.PlanOf(after, at.School.Time);
                return was is not null && Consequences.Between([was], [planned]).InWords is { Length: > 0 } words
                    ? words
                    : (isOff ? "Was removed here, and comes back. " : "")
                        + SayBack.Sentence(planned, at.School.Time, at.Calendar.Title);
            }),
        };
    }

    // A series that was made here, or by an almanac: its sessions are the file's, whatever pattern they come from.
    private static bool Means(Plan plan, FileSeries source, ForeignSeries given) =>
        plan.Of.Pattern.Zone.Equals(given.Zone)
        && plan.Of.Description == source.Description
        && (!source.IsPrivate || plan.Of.IsPrivate)
        && source.IsTentative == plan.Of.IsTentative
        && plan.Sessions.Where(session => session.IsVisible)
            .Select(one => (one.Start, one.End, one.IsAllDay, one.IsCancelled, one.Title, one.Place, one.Note))
            .SequenceEqual(
                given
                    .Sessions.OrderBy(one => one.Start)
                    .Select(one => (one.Start, one.End, one.IsAllDay, one.IsCancelled, one.Title, one.Place, one.Note))
            );

    private static bool SaysTheSame(Series one, Series other) =>
        SeriesState.Of(one, takenOff: false, []).IsSameAs(SeriesState.Of(other, takenOff: false, []));

    // What the file says otherwise than when it came is taken from it, all else stays as it was made by hand.
    private static Series Merged(Series stored, SeriesState? came, Series file)
    {
        T Newer<T>(Func<SeriesState, T> was, T own, T says) => came is not null && Equals(was(came), says) ? own : says;
        var patterns = came is not null && came.Pattern.ToString() == PatternText.Of(file.Pattern).ToString();
        var was = (came?.Changes ?? []).Select(change => change.ToChange()).ToDictionary(change => change.Original);
        var own = stored.Changes.ToDictionary(change => change.Original);
        var says = file.Changes.ToDictionary(change => change.Original);
        var changes = new List<Change>();
        foreach (var original in own.Keys.Union(says.Keys).Union(was.Keys).Order())
        {
            var (here, there) = (own.GetValueOrDefault(original), says.GetValueOrDefault(original));
            // A way in of its own, or an entry rule, is nothing that a file knows.
            var kept =
                there == was.GetValueOrDefault(original) ? here
                : there is null
                    ? here is { Link: null, Entry: null, IsTentative: null } or null ? null
                        : new Change(original)
                        {
                            Link = here.Link,
                            Entry = here.Entry,
                            IsTentative = here.IsTentative,
                        }
                : there with { Link = here?.Link, Entry = here?.Entry, IsTentative = here?.IsTentative };
            if (kept is not null)
                changes.Add(kept);
        }

        return stored with
        {
            Title = Newer(state => state.Title, stored.Title, file.Title),
            Description = Newer(state => state.Description, stored.Description, file.Description),
            Place = Newer(state => state.Place, stored.Place, file.Place),
            IsPrivate = Newer(state => state.Private, stored.IsPrivate, file.IsPrivate),
            IsTentative = Newer(state => state.Tentative, stored.IsTentative, file.IsTentative),
            NumberLabel = Newer(state => state.NumberLabel, stored.NumberLabel, file.NumberLabel),
            Pattern = patterns ? stored.Pattern : file.Pattern,
            Changes = [.. changes],
            ChangedAt = file.ChangedAt,
        };
    }

    private void Store(AtCalendar at, ImportReview review)
    {
        var (stores, calendar) = (at.Stores, at.Calendar.Id);
        var materials = stores.Materials.Of(calendar).ToLookup(material => material.Series);
        var (before, after, imports) = (new List<SeriesState>(), new List<Series>(), new List<Import>());
        foreach (var line in review.Lines)
        {
            if (line is not { After: { } series, Given: { } given, Source: { } source })
                continue;
            if (line.Stored is { } stored)
            {
                before.Add(SeriesState.Of(stored, line.WasTakenOff, materials[stored.Id]));
                var version = stored.Version;
                if (
                    line.WasTakenOff && !stores.Series.SetTakenOff(stored.Id, false, version++, at.Now)
                    || !stores.Series.Change(series, version)
                )
                    throw new InvalidOperationException($"Series {stored.Id.Value} changed within a writing.");
                series = stores.Series.Find(stored.Id)!;
            }
            else
            {
                series = stores.Series.Add(
                    series with
                    {
                        Uid = stores.Series.HasUid(series.Uid) ? ComposeSeries.NewUid() : series.Uid,
                    }
                );
                before.Add(SeriesState.Of(series, takenOff: true, []));
            }

            Attach(at, series, source, materials[series.Id], line.Came?.Attached);
            imports.Add(
                new Import(
                    series.Id,
                    source.Uid,
                    source.Hash,
                    SeriesState.Write([SeriesState.Of(given, takenOff: false, [])]),
                    source.Kept,
                    source.Attachments.Select(attachment => attachment.Key).ToHashSet()
                )
            );
            after.Add(series);
        }

        if (after.Count == 0)
            return;
        var attached = stores.Materials.Of(calendar).ToLookup(material => material.Series);
        stores.Calendars.Touch(calendar, at.Now);
        var told = at.Note(
            HistorySubject.Series,
            after[0].Id.Value,
            $"imported {(review.Name.Length > 0 ? review.Name : "pasted sessions")}: {review.Count(ImportNews.New)} new, {review.Count(ImportNews.Changed)} changed",
            SeriesState.Write(before),
            SeriesState.Write(after.Select(series => SeriesState.Of(series, takenOff: false, attached[series.Id])))
        );
        foreach (var import in imports)
            stores.Imports.Set(calendar, import, told);
    }

    // What is attached already, by its address or its bytes, is not attached again; nor what came with the file before, and was removed
    // by hand since.
    private void Attach(
        AtCalendar at,
        Series series,
        FileSeries source,
        IEnumerable<Material> known,
        IReadOnlySet<string>? came
    )
    {
        if (source.Attachments.IsEmpty)
            return;
        var plan = Planner.PlanOf(series, at.School.Time);
        var has = known.Select(material => (material.Content, material.ForSession)).ToHashSet();
        foreach (var attachment in source.Attachments.Where(attachment => came?.Contains(attachment.Key) != true))
        {
            var session = attachment.Id is { } id
                ? plan.Sessions.FirstOrDefault(one => one.Start == id || one.IsKnownBy(id))?.Original
                : null;
            MaterialContent? content = attachment.Address is { } address ? new MaterialContent.Link(address) : null;
            if (attachment.Bytes is { } bytes)
                content = new MaterialReader(vault, limit, check)
                    .Read(
                        new FormReader(),
                        new MaterialInput([new Upload(attachment.Title, bytes.Length, () => new MemoryStream(bytes))])
                    )
                    .SingleOrDefault()
                    ?.Content;
            if (content is null || !has.Add((content, session)))
                continue;
            // For those alone who see the calendar in full: the file does not say that it is for anyone.
            at.Stores.Materials.Add(
                new Material(
                    default,
                    at.Calendar.Id,
                    series.Id,
                    session,
                    MaterialKey.New(),
                    attachment.Title,
                    content,
                    MaterialAudience.PeopleOfTheCalendar
                ),
                at.Person,
                at.Now
            );
        }
    }
}
