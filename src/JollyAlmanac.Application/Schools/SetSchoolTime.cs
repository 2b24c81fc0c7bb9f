using System.Collections.Immutable;
using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Schools;

/// <summary>A term's row in the form.</summary>
/// <param name="Id">Its id; 0 for a new one.</param>
/// <param name="Name">What people call it.</param>
/// <param name="First">ISO.</param>
/// <param name="Last">ISO, inclusive.</param>
/// <param name="Remove">It is to go.</param>
public sealed record TermRow(
    long Id = 0,
    string? Name = "",
    string? First = "",
    string? Last = "",
    bool Remove = false
);

/// <summary>A no-class day's row in the form.</summary>
public sealed record NoClassRow(
    string? First = "",
    string? Last = "",
    string? Name = "",
    string? Kind = "",
    bool Remove = false
);

/// <summary>A bell schedule's row in the form.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Periods">One a line: "1 8:00-8:50".</param>
/// <param name="Days">For other than the regular bells: the days it rings on, a line or a comma apart.</param>
/// <param name="Remove">It is to go.</param>
public sealed record BellsRow(string? Name = "", string? Periods = "", string? Days = "", bool Remove = false);

/// <summary>The form of the school's time, as typed.</summary>
/// <param name="Terms">The terms.</param>
/// <param name="NoClass">The no-class days and ranges.</param>
/// <param name="Pasted">More of them, as a list.</param>
/// <param name="Bells">The regular bells.</param>
/// <param name="Others">Other bells.</param>
/// <param name="CycleNames">The names of the cycle's days, a comma apart.</param>
/// <param name="CycleStart">The class day that has the first name, ISO.</param>
/// <param name="Revision">The revision the form was made from.</param>
public sealed record SchoolTimeInput(
    IReadOnlyList<TermRow>? Terms = null,
    IReadOnlyList<NoClassRow>? NoClass = null,
    string? Pasted = "",
    BellsRow? Bells = null,
    IReadOnlyList<BellsRow>? Others = null,
    string? CycleNames = "",
    string? CycleStart = "",
    int Revision = 0
)
{
    /// <summary>The form of a school's time.</summary>
    public static SchoolTimeInput Of(SchoolTime time, int revision) =>
        new(
            [
                .. time.Terms.Select(term => new TermRow(
                    term.Id.Value,
                    term.Name,
                    LocalDatePattern.Iso.Format(term.First),
                    LocalDatePattern.Iso.Format(term.Last)
                )),
            ],
            [
                .. time.NoClassDays.Select(day => new NoClassRow(
                    LocalDatePattern.Iso.Format(day.First),
                    LocalDatePattern.Iso.Format(day.Last),
                    day.Name,
                    day.Kind.ToString()
                )),
            ],
            "",
            new BellsRow(time.Bells.Name, Lines(time.Bells)),
            [
                .. time.OtherBells.Select(bells => new BellsRow(
                    bells.Name,
                    Lines(bells),
                    string.Join(
                        '\n',
                        time.ShortenedDays.Where(day => day.Bells == bells.Name)
                            .Select(day => $"{day.Day.ToString("ddd d MMM yyyy", CultureInfo.InvariantCulture)}")
                    )
                )),
            ],
            string.Join(", ", time.Cycle?.Names ?? []),
            time.Cycle is { } cycle ? LocalDatePattern.Iso.Format(cycle.Start) : "",
            revision
        );

    private static string Lines(BellSchedule bells) => string.Join('\n', bells.Periods.Select(BellText.Of));
}

/// <summary>The school's time for somebody who may change it.</summary>
/// <param name="School">The school.</param>
/// <param name="Input">Its form.</param>
public sealed record SchoolTimeView(School School, SchoolTimeInput Input)
{
    /// <summary>What of it cannot be read as it is stored.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>What a form would do, before it is saved.</summary>
/// <param name="Problems">What is wrong with it.</param>
/// <param name="Effect">What it does to series; null while something is wrong.</param>
/// <param name="Titles">The titles of the calendars the series stand on.</param>
/// <param name="Edits">What it changes in the school's time, in words.</param>
public sealed record SchoolTimePreview(
    IReadOnlyList<Problem> Problems,
    SchoolTimeEffect? Effect,
    IReadOnlyDictionary<SeriesId, string> Titles,
    IReadOnlyList<string> Edits
);

/// <summary>A form with the days of a file in it.</summary>
/// <param name="Input">The form.</param>
/// <param name="Remarks">What is to be said of the file.</param>
public sealed record HolidaysRead(SchoolTimeInput Input, IReadOnlyList<string> Remarks);

/// <summary>What a form says of the school itself, as typed.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Zone">The zone of its clocks, an id of the IANA database.</param>
/// <param name="FirstDayOfWeek">The day its weeks begin on.</param>
/// <param name="MonthFirst">10/12 is 12 October.</param>
/// <param name="TwelveHours">Times are written like 1:30 pm.</param>
/// <param name="Help">What to do, and whom to ask, where something does not work.</param>
/// <param name="Revision">The one that the form was opened on.</param>
public sealed record SchoolDetails(
    string? Name,
    string? Zone,
    IsoDayOfWeek FirstDayOfWeek,
    bool MonthFirst = false,
    bool TwelveHours = false,
    string? Help = "",
    int Revision = 0
)
{
    /// <summary>A stranger finds the classes that are open to anyone at the first address.</summary>
    public bool FrontPage { get; init; }

    /// <summary>Search engines may list the front page, and the class pages that are open to anyone.</summary>
    public bool Listed { get; init; }

    /// <summary>The form of what is stored.</summary>
    public static SchoolDetails Of(School school) =>
        new(
            school.Name,
            school.Time.Zone.Id,
            school.Time.FirstDayOfWeek,
            school.Time.MonthFirst,
            school.TwelveHours,
            school.Help,
            school.Revision
        )
        {
            FrontPage = school.HasFrontPage,
            Listed = school.IsListed,
        };
}

/// <summary>Sets the school's time: terms, no-class days, bells and the cycle. For coordinators.</summary>
public sealed class SetSchoolTime(Gate gate)
{
    /// <summary>Opens the form.</summary>
    public Outcome<SchoolTimeView> Open(Viewer viewer) =>
        gate.Read<SchoolTimeView>(Operation.SetSchoolTime, viewer, at => new Outcome<SchoolTimeView>.Done(
            new SchoolTimeView(at.School, SchoolTimeInput.Of(at.School.Time, at.School.Revision))
            {
                Unreadable = [.. at.Stores.Unreadable],
            }
        ));

    /// <summary>The days that a week can begin on.</summary>
    public static readonly ImmutableArray<IsoDayOfWeek> FirstDays =
    [
        IsoDayOfWeek.Monday,
        IsoDayOfWeek.Sunday,
        IsoDayOfWeek.Saturday,
    ];

    /// <summary>How many calendars and series stand in the school's zone, and so follow it into another.</summary>
    public Outcome<(int Calendars, int Series)> OpenSchool(Viewer viewer) =>
        gate.Read<(int, int)>(Operation.SetSchool, viewer, at => new Outcome<(int, int)>.Done(
            at.Stores.School.InZone(at.School.Time.Zone.Id)
        ));

    /// <summary>
    /// Sets the school's name, its zone, the day its weeks begin on, and how days and times are written. With the zone go the calendars and
    /// series that stood in the one before: they keep their wall-clock times, and so take place at other moments.
    /// </summary>
    public Outcome<School> SetSchool(Viewer viewer, SchoolDetails input) =>
        gate.Write<School>(Operation.SetSchool, viewer, at =>
        {
            var entry = new FormReader();
            var name = entry.Line("Name", input.Name, "The school's name", 120, needed: true);
            var zone = ZoneText.Find(input.Zone ?? "");
            if (zone is null)
                entry.Wrong("Zone", "Choose the school's time zone from the list, for example America/Halifax.");
            if (!FirstDays.Contains(input.FirstDayOfWeek))
                entry.Wrong("FirstDayOfWeek", "A week begins on Monday, Sunday or Saturday.");
            var help = entry.Lines("Help", input.Help, "The help", School.LongestHelp);
            if (!entry.IsGood)
                return new Outcome<School>.Refused(entry.Problems);
            if (input.Revision != at.School.Revision)
                return new Outcome<School>.Stale(null);
            var now = at.School.Time;
            string[] told =
            [
                name == at.School.Name ? "" : $"named the school {name}",
                zone!.Equals(now.Zone) ? "" : $"set the school's time zone to {zone.Id}",
                input.FirstDayOfWeek == now.FirstDayOfWeek ? "" : $"set weeks to begin on {input.FirstDayOfWeek}",
                input.MonthFirst == now.MonthFirst
                    ? ""
                    : $"set dates in figures to {(input.MonthFirst ? "month first" : "day first")}",
                input.TwelveHours == at.School.TwelveHours
                    ? ""
                    : $"set times to {(input.TwelveHours ? "12" : "24")} hours",
                help == at.School.Help ? "" : "changed whom to ask where something does not work",
                input.FrontPage == at.School.HasFrontPage ? ""
                : input.FrontPage ? "opened the front page to anyone"
                : "closed the front page",
                input.Listed == at.School.IsListed ? ""
                : input.Listed ? "let search engines list what is open to anyone"
                : "asked search engines to list nothing",
            ];
            if (told.All(one => one.Length == 0))
                return new Outcome<School>.Done(at.School);
            at.Stores.School.Set(
                name,
                zone.Id,
                input.FirstDayOfWeek,
                input.MonthFirst,
                input.TwelveHours,
                help,
                input.FrontPage,
                input.Listed,
                at.Now
            );
            if (!zone.Equals(now.Zone))
                at.Stores.School.Move(now.Zone.Id, zone.Id, at.Now);
            at.Note(HistorySubject.School, 1, string.Join(", ", told.Where(one => one.Length > 0)));
            return new Outcome<School>.Done(at.Stores.School.Find()!);
        });

    /// <summary>What a form would do; the same path as saving, without the save.</summary>
    public Outcome<SchoolTimePreview> Preview(Viewer viewer, SchoolTimeInput input) =>
        gate.Read<SchoolTimePreview>(Operation.SetSchoolTime, viewer, at =>
        {
            var entry = new FormReader();
            if (Read(at, entry, input) is not { } time)
                return new Outcome<SchoolTimePreview>.Done(
                    new SchoolTimePreview(entry.Problems, null, ImmutableDictionary<SeriesId, string>.Empty, [])
                );
            var series = at.Stores.Series.All().SelectMany(group => group).ToList();
            var titles = at.Stores.Calendars.All().ToDictionary(calendar => calendar.Id, calendar => calendar.Title);
            var effect = SchoolTimeEffect.Between(at.School.Time, time, series);
            return new Outcome<SchoolTimePreview>.Done(
                new SchoolTimePreview(
                    [],
                    effect,
                    effect.Series.ToDictionary(one => one.Series.Id, one => titles[one.Series.Calendar]),
                    Edits(at.School.Time, time)
                )
            );
        });

    /// <summary>
    /// A form with the days of a calendar file among its no-class days, to be reviewed and saved as any other. Nothing is kept.
    /// </summary>
    /// <param name="viewer">Who.</param>
    /// <param name="input">The form.</param>
    /// <param name="bytes">The file.</param>
    public Outcome<HolidaysRead> FillHolidays(Viewer viewer, SchoolTimeInput input, byte[] bytes) =>
        gate.Read<HolidaysRead>(Operation.SetSchoolTime, viewer, at =>
        {
            var file = ICalendarReader.Read(bytes);
            if (bytes.Length == 0)
                return Outcome.Because<HolidaysRead>("Holidays", "Choose a file first.");
            if (file.Calendars.Count == 0)
                return Outcome.Because<HolidaysRead>("Holidays", "It is no calendar file. One ends in .ics.");
            if (file.IsCutOff)
                return Outcome.Because<HolidaysRead>(
                    "Holidays",
                    "It is cut off. Save or fetch it again; nothing of it was taken."
                );
            // From the year before: what is over is nobody's to plan any more.
            var told = ICalendarSessions
                .Of(file, at.School.Time.Zone, at.Today.PlusYears(-1), at.Today.PlusYears(3))
                .Sessions.Where(session => session.Status != "CANCELLED")
                .ToList();
            var rows = (input.NoClass ?? []).Where(row => !string.IsNullOrWhiteSpace(row.First)).ToList();
            var known = rows.Select(row => (row.First, string.IsNullOrEmpty(row.Last) ? row.First : row.Last))
                .ToHashSet();
            var (timed, same, added) = (0, 0, 0);
            foreach (var session in told)
            {
                var (first, last) = (session.Start.Time.Date, session.End.Time.PlusTicks(-1).Date);
                // A district's early dismissal is no day without class.
                if (!session.Start.IsDate)
                    timed++;
                else if (!known.Add((LocalDatePattern.Iso.Format(first), LocalDatePattern.Iso.Format(last))))
                    same++;
                else if (++added <= MostHolidays)
                    rows.Add(
                        new NoClassRow(
                            LocalDatePattern.Iso.Format(first),
                            LocalDatePattern.Iso.Format(last),
                            new FormReader().Line("", session.Summary, "", 80, needed: false) is { Length: > 0 } name
                                ? name.Length > 80
                                    ? name[..80]
                                    : name
                                : "No class",
                            nameof(NoClassKind.Holiday)
                        )
                    );
            }

            if (added == 0 && same == 0)
                return Outcome.Because<HolidaysRead>(
                    "Holidays",
                    "There is no whole day in it from last year on. Only whole days become days without class."
                );
            var remarks = new List<string>
            {
                added == 0
                    ? "There is nothing new in it."
                    : $"{Wording.Count(Math.Min(added, MostHolidays), "day or range is", "days or ranges are")} in the list now. Nothing is saved yet: tick “Remove” where there is class all the same.",
            };
            if (same > 0)
                remarks.Add($"{Wording.Count(same, "was", "were")} in it already.");
            if (timed > 0)
                remarks.Add(
                    $"{Wording.Count(timed, "entry has", "entries have")} a time of day, and {(timed == 1 ? "was" : "were")} left away."
                );
            if (added > MostHolidays)
                remarks.Add($"{added - MostHolidays} more are left away; {MostHolidays} are taken in one go.");
            return new Outcome<HolidaysRead>.Done(new HolidaysRead(input with { NoClass = rows }, remarks));
        });

    private const int MostHolidays = 100;

    /// <summary>Saves a form where the school's time still has the form's revision.</summary>
    public Outcome<School> Save(Viewer viewer, SchoolTimeInput input) =>
        gate.Write<School>(Operation.SetSchoolTime, viewer, at =>
        {
            var entry = new FormReader();
            return Read(at, entry, input) is { } time
                ? Store(at, time, input.Revision)
                : new Outcome<School>.Refused(entry.Problems);
        });

    /// <summary>Sets the school's time from what it is.</summary>
    public Outcome<School> Do(Viewer viewer, Func<SchoolTime, SchoolTime> change) =>
        gate.Write<School>(Operation.SetSchoolTime, viewer, at =>
            Store(at, change(at.School.Time), at.School.Revision)
        );

    /// <summary>What was done to the school's time last, in words; null where nothing was.</summary>
    public string? LastEdit(Viewer viewer) =>
        gate.Read<string>(Operation.SetSchoolTime, viewer, at =>
            at.Stores.History.LastOf(Operation.SetSchoolTime.Name, null) is var (line, _)
                ? new Outcome<string>.Done(line.Summary)
                : new Outcome<string>.NotFound()
        ).OrNone;

    /// <summary>Sets the school's time back to how it was before the last edit; done again, that is undone.</summary>
    public Outcome<School> Undo(Viewer viewer, int revision) =>
        gate.Write<School>(Operation.SetSchoolTime, viewer, at =>
        {
            if (
                at.Stores.History.LastOf(Operation.SetSchoolTime.Name, null) is not var (_, before)
                || System.Text.Json.JsonSerializer.Deserialize<SchoolTimeInput>(before) is not { } input
            )
                return Outcome.Because<School>("", "Nothing was changed yet, so there is nothing to undo.");
            // A term that went comes back as another: nothing ran with it, or it could not have gone.
            var terms = (input.Terms ?? [])
                .Select(term => at.School.Time.Find(new TermId(term.Id)) is null ? term with { Id = 0 } : term)
                .ToList();
            var entry = new FormReader();
            return Read(at, entry, input with { Terms = terms }) is { } time
                ? Store(at, time, revision)
                : new Outcome<School>.Refused(entry.Problems);
        });

    /// <summary>The school's time that a form says, where the entry stays without problems; else null.</summary>
    internal static SchoolTime? Read(AtSchool at, FormReader entry, SchoolTimeInput input) =>
        SchoolTimeReader.Read(entry, input, at.School.Time, at.Stores.School.TermsInUse(), at.Today);

    /// <summary>Keeps the school's time with its history, where it still has the revision.</summary>
    internal static Outcome<School> Store(AtSchool at, SchoolTime time, int expectedRevision)
    {
        var before = at.School.Time;
        var edits = Edits(before, time);
        if (edits.Count == 0)
            return new Outcome<School>.Done(at.School);
        if (!at.Stores.School.Replace(time, expectedRevision, at.Now))
            return new Outcome<School>.Stale(null);
        at.Note(
            HistorySubject.School,
            1,
            string.Join("; ", edits),
            System.Text.Json.JsonSerializer.Serialize(SchoolTimeInput.Of(before, 0)),
            System.Text.Json.JsonSerializer.Serialize(SchoolTimeInput.Of(time, 0))
        );
        return new Outcome<School>.Done(at.Stores.School.Find()!);
    }

    private static List<string> Edits(SchoolTime before, SchoolTime after)
    {
        var edits = new List<string>();
        foreach (var day in after.NoClassDays.Except(before.NoClassDays))
            edits.Add(
                $"{Wording.Days(day.First, day.Last)} {(day.First == day.Last ? "becomes a no-class day" : "become no-class days")}: {day.Name}"
            );
        foreach (var day in before.NoClassDays.Except(after.NoClassDays))
            edits.Add(
                $"{Wording.Days(day.First, day.Last)} {(day.First == day.Last ? "is no longer a no-class day" : "are no longer no-class days")}: {day.Name}"
            );
        foreach (var term in after.Terms.Where(term => !before.Terms.Contains(term)))
            edits.Add(
                $"the {term.Name} {(term.Id == default ? "is new" : "now runs")}: {Wording.WithYear(term.First)} to {Wording.WithYear(term.Last)}"
            );
        foreach (var term in before.Terms.Where(term => after.Find(term.Id) is null))
            edits.Add($"the {term.Name} goes");
        if (!IsSame(before.Bells, after.Bells))
            edits.Add($"the regular bells change");
        if (
            before.OtherBells.Length != after.OtherBells.Length
            || before.OtherBells.Zip(after.OtherBells).Any(pair => !IsSame(pair.First, pair.Second))
        )
            edits.Add("the other bells change");
        if (!before.ShortenedDays.SequenceEqual(after.ShortenedDays))
            edits.Add($"{Wording.Count(after.ShortenedDays.Length, "day is", "days are")} shortened");
        if (
            before.Cycle?.Start != after.Cycle?.Start
            || !(before.Cycle?.Names ?? []).SequenceEqual(after.Cycle?.Names ?? [])
        )
            edits.Add(
                after.Cycle is { } cycle
                    ? $"the cycle has {Wording.Count(cycle.Names.Length, "day", "days")}, from {Wording.WithYear(cycle.Start)}"
                    : "there is no day cycle any more"
            );
        return edits;
    }

    private static bool IsSame(BellSchedule one, BellSchedule other) =>
        one.Name == other.Name && one.Periods.SequenceEqual(other.Periods);
}
