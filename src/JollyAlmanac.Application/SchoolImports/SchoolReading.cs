using System.Collections.Immutable;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Core.Timetables;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage.Calendars;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.SchoolImports;

/// <summary>Holds the files of a school beside what stands: what would come of them. Nothing is kept by it.</summary>
internal sealed class SchoolReading
{
    private readonly AtSchool at;
    private readonly IReadOnlyList<SchoolFile> files;
    private readonly SchoolImportChoices choices;
    private readonly Roster? roster;
    private readonly IReadOnlyList<KnownPerson> people;
    private readonly StaffNames staff;
    private readonly SchoolTime school;
    private readonly IReadOnlyList<string> timeSays;
    private readonly Term? term;
    private readonly MeetingReader reader;
    private readonly List<RefusedLine> refused = [];
    private readonly Dictionary<string, ImportQuestion> questions = new(StringComparer.OrdinalIgnoreCase);

    public SchoolReading(
        AtSchool at,
        IReadOnlyList<SchoolFile> files,
        SchoolImportChoices choices,
        Roster? roster,
        IReadOnlyList<KnownPerson> people
    )
    {
        (this.at, this.files, this.choices, this.roster, this.people) = (at, files, choices, roster, people);
        staff = new StaffNames(people);
        (school, timeSays, var notRead) = TimeOf(at, files, roster);
        refused.AddRange(notRead);
        term = choices.Term is { Length: > 0 } wanted
            ? school.Terms.FirstOrDefault(one => one.Name.Equals(wanted, StringComparison.OrdinalIgnoreCase))
            : school.TermToShow(at.Today);
        reader = new MeetingReader(school, term, term?.First ?? at.Today);
    }

    /// <summary>The people and classes that files tell of; null where none does.</summary>
    public static Roster? RosterOf(IReadOnlyList<SchoolFile> files)
    {
        if (files.FirstOrDefault(file => file.Kind == SchoolFileKind.Roster) is { Tables: { } tables })
            return tables.ContainsKey("users") ? OneRoster.Read(tables) : null;
        return files.FirstOrDefault(file => file.Kind == SchoolFileKind.People) is { Tables: { } people }
            ? PeopleTable.Read(people[""], PeopleTable.Match(people[""].Columns))
            : null;
    }

    /// <summary>The school's time with the terms, bells and days that files add; nothing of it is taken away.</summary>
    public static (SchoolTime Time, IReadOnlyList<string> Says, IReadOnlyList<RefusedLine> Refused) TimeOf(
        AtSchool at,
        IReadOnlyList<SchoolFile> files,
        Roster? roster
    )
    {
        var before = at.School.Time;
        var says = new List<string>();
        var refused = new List<RefusedLine>();
        var terms = before.Terms.ToList();
        foreach (var found in roster?.Terms ?? [])
            if (terms.TrueForAll(one => found.Last < one.First || one.Last < found.First))
            {
                // A term that is not kept yet is told from others by a number that no row has.
                terms.Add(
                    new Term(
                        new TermId(-1 - terms.Count),
                        found.First.Year == found.Last.Year && found.First.Month < 7
                            ? $"{found.First.Year - 1}–{found.First.Year % 100:00}"
                            : $"{found.First.Year}–{(found.First.Year + 1) % 100:00}",
                        found.Name,
                        found.First,
                        found.Last
                    )
                );
                says.Add($"{found.Name}, {Wording.WithYear(found.First)} to {Wording.WithYear(found.Last)}");
            }

        var bells = before.Bells;
        foreach (var file in files.Where(file => file.Kind == SchoolFileKind.Bells))
        {
            var periods = ImmutableArray.CreateBuilder<BellPeriod>();
            foreach (var line in SchoolFile.BellsOf(file.Sheet!))
                if (BellText.Read(line) is { Period: { } period })
                    periods.Add(period);
                else
                    refused.Add(new RefusedLine(file.Name, 1, $"{Wording.Quote(line)} is no period with its times."));
            if (periods.Count == 0)
                continue;
            if (bells.Periods.IsEmpty)
            {
                bells = new BellSchedule("Regular bells", periods.ToImmutable());
                says.Add($"bells of {Wording.Count(periods.Count, "period", "periods")}");
            }
            else if (!bells.Periods.SequenceEqual(periods))
                refused.Add(
                    new RefusedLine(
                        file.Name,
                        1,
                        "The school has other bells already. They stay; change them under School time."
                    )
                );
        }

        var days = before.NoClassDays.ToList();
        var added = 0;
        void Add(NoClassDay day)
        {
            if (days.Exists(one => one.First <= day.First && day.Last <= one.Last))
                return;
            days.Add(day);
            added++;
        }

        foreach (var file in files)
        {
            if (file.Kind == SchoolFileKind.Calendar)
                foreach (var day in DaysOf(at, file.Text))
                    Add(day);
            if (file.Kind == SchoolFileKind.NoClassDays || IsList(file, at))
            {
                var text =
                    file.Kind == SchoolFileKind.NoClassDays
                        ? string.Join('\n', SchoolFile.LinesOf(file.Sheet!))
                        : file.Text;
                var (read, problems) = NoClassList.Read(text, Near(at), before.MonthFirst);
                foreach (var day in read)
                    Add(day);
                refused.AddRange(problems.Select(problem => new RefusedLine(file.Name, 1, problem)));
            }
        }

        if (added > 0)
            says.Add(Wording.Count(added, "day or range without class", "days or ranges without class"));
        return says.Count == 0
            ? (before, says, refused)
            : (
                new SchoolTime(
                    before.Zone,
                    before.FirstDayOfWeek,
                    terms,
                    days,
                    bells,
                    before.Cycle,
                    before.OtherBells,
                    before.ShortenedDays
                )
                {
                    MonthFirst = before.MonthFirst,
                },
                says,
                refused
            );
    }

    /// <summary>The time as it is to be kept: new terms get their numbers then.</summary>
    public static SchoolTime Kept(SchoolTime time) =>
        time.Terms.All(term => term.Id.Value >= 0)
            ? time
            : new SchoolTime(
                time.Zone,
                time.FirstDayOfWeek,
                time.Terms.Select(term => term.Id.Value < 0 ? term with { Id = default } : term),
                time.NoClassDays,
                time.Bells,
                time.Cycle,
                time.OtherBells,
                time.ShortenedDays
            )
            {
                MonthFirst = time.MonthFirst,
            };

    private static LocalDate Near(AtSchool at) => at.School.Time.TermToShow(at.Today)?.First ?? at.Today;

    // A text that is no table: every line of it a day, or most.
    private static bool IsList(SchoolFile file, AtSchool at)
    {
        if (file.Kind != SchoolFileKind.Unknown || file.Text.Length is 0 or > 60_000)
            return false;
        var (days, problems) = NoClassList.Read(file.Text, Near(at), at.School.Time.MonthFirst);
        return days.Length > problems.Length;
    }

    private static IEnumerable<NoClassDay> DaysOf(AtSchool at, string text)
    {
        var file = ICalendarReader.Read(System.Text.Encoding.UTF8.GetBytes(text));
        return ICalendarSessions
            .Of(file, at.School.Time.Zone, at.Today.PlusYears(-1), at.Today.PlusYears(3))
            .Sessions.Where(session => session.Status != "CANCELLED" && session.Start.IsDate)
            .Select(session => new NoClassDay(
                session.Start.Time.Date,
                LocalDate.Max(session.Start.Time.Date, session.End.Time.PlusTicks(-1).Date),
                session.Summary.Trim() is { Length: > 0 } name ? name[..Math.Min(80, name.Length)] : "No class",
                NoClassKind.Holiday
            ))
            .Where(day => Period.DaysBetween(day.First, day.Last) < SchoolTime.LongestRange)
            .Take(200);
    }

    /// <summary>All that would come of the files.</summary>
    /// <param name="plan">What would come of their people; null where they tell of none.</param>
    public SchoolImportReview Review(RosterPlan? plan)
    {
        var read = new List<ReadFile>();
        var meetings = new List<Meeting>();
        var rooms = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var file in files)
            read.Add(
                new ReadFile(
                    file.Name.Length > 0 ? file.Name : "What was pasted",
                    file.Kind,
                    Take(file, meetings, rooms, plan)
                )
            );
        var found = ClassesOf(meetings);
        var known = new Known(at);
        var classes = found
            .Values.Where(one => choices.WithoutMeetings || one.Meetings.Count > 0 || known.Of(one) is not null)
            .Select(one => NewsOf(one, known, rooms))
            .OrderBy(one => one.Department, StringComparer.OrdinalIgnoreCase)
            .ThenBy(one => one.Title, StringComparer.OrdinalIgnoreCase)
            .ToList();
        foreach (var title in rooms.Keys.Where(title => !found.Values.Any(one => one.Names.Contains(title))))
            refused.Add(new RefusedLine("", 1, $"{Wording.Quote(title)} has an online room, and is no class here."));
        var departments = known.Departments;
        var teaching = classes.SelectMany(one => one.Managers).Select(one => one.Id).ToHashSet();
        var plans = classes
            .SelectMany(one => one.Series.Where(series => series.Plan is not null).Select(series => (one, series)))
            .ToList();
        return new SchoolImportReview(
            0,
            read,
            plan,
            classes,
            [
                .. classes
                    .Where(one => one.Known is null && one.Refusal.Length == 0 && one.Department.Length > 0)
                    .Select(one => one.Department)
                    .Distinct(StringComparer.OrdinalIgnoreCase)
                    .Where(title => !departments.Contains(title)),
            ],
            timeSays,
            [.. refused, .. plan?.Refused ?? []]
        )
        {
            Questions = [.. questions.Values],
            Term = term,
            Terms = [.. school.Terms.Where(one => one.Last >= at.Today)],
            Sessions = plans.Sum(pair => pair.series.Plan!.HeldCount),
            WithoutClass =
                meetings.Count == 0 && roster is not { Classes.IsEmpty: false }
                    ? []
                    : [.. staff.Staff.Where(one => one.Role == SchoolRole.Teacher && !teaching.Contains(one.Id))],
            Clashes = DoubleBooking.Among([
                .. plans.Select(pair => new PlacedClass(
                    pair.one.Title,
                    [.. pair.series.Plan!.Held],
                    pair.series.Draft?.Place ?? pair.series.Known?.Place ?? "",
                    [.. pair.one.Managers.Select(person => person.Name)],
                    found.GetValueOrDefault(pair.one.Key)?.Students ?? []
                )),
            ]),
        };
    }

    // What was found in a file, in words; its meetings and rooms go to the lists.
    private string Take(SchoolFile file, List<Meeting> meetings, Dictionary<string, string> rooms, RosterPlan? plan)
    {
        switch (file.Kind)
        {
            case SchoolFileKind.Roster when roster is null:
                refused.Add(new RefusedLine(file.Name, 1, "There is no users.csv among the files of the export."));
                return "part of an export of people and classes";
            case SchoolFileKind.Roster:
                return $"people and classes: {Wording.Count(plan?.Lines.Length ?? 0, "person", "people")}, {Wording.Count(roster!.Classes.Length, "class", "classes")}";
            case SchoolFileKind.People:
                return $"people: {plan?.Lines.Length ?? 0}";
            case SchoolFileKind.Timetable:
            case SchoolFileKind.Grid:
            {
                var timetable =
                    file.Kind == SchoolFileKind.Grid
                        ? new TimetableGrid(text => staff.Matching(text).Count > 0).Read(file.Sheet!)
                        : TimetableTable.Read(file.Sheet!);
                meetings.AddRange(timetable.Meetings);
                refused.AddRange(timetable.Refused);
                var count = timetable.Meetings.Count(one => one.Times.Days.Length > 0);
                return $"timetable{(file.Kind == SchoolFileKind.Grid ? " as a grid" : "")}: {Wording.Count(count, "meeting", "meetings")}{(file.Sheet!.Remark.Length > 0 ? $". {file.Sheet.Remark}" : "")}";
            }
            case SchoolFileKind.Rooms:
            {
                var (head, columns) = TimetableTable.Head(file.Sheet!);
                for (var row = head + 1; row < file.Sheet!.Rows.Length; row++)
                {
                    var (title, address) = (
                        file.Sheet.At(row, columns[SchoolColumn.Class]),
                        file.Sheet.At(row, columns[SchoolColumn.Link])
                    );
                    if (title.Length == 0 && address.Length == 0)
                        continue;
                    if (title.Length == 0 || JoinTarget.Read(address).Target is null)
                        // Not the address itself: it may be a key.
                        refused.Add(
                            new RefusedLine(
                                file.Name,
                                row + 1,
                                title.Length == 0
                                    ? "No class stands beside the address."
                                    : JoinTarget.Read(address).Reason!
                            )
                        );
                    else
                        rooms[Fold(title)] = address;
                }

                return $"addresses of {Wording.Count(rooms.Count, "online room", "online rooms")}";
            }
            case SchoolFileKind.Calendar:
                return $"calendar file: {Wording.Count(DaysOf(at, file.Text).Count(), "whole day or range", "whole days or ranges")}";
            case SchoolFileKind.NoClassDays:
                return "days without class";
            case SchoolFileKind.Bells:
                return "bells";
            default:
                if (IsList(file, at))
                    return "days without class";
                refused.Add(
                    new RefusedLine(
                        file.Name,
                        1,
                        "It is not known what this is. A timetable names its columns (class, day, period), or has days across and periods down."
                    )
                );
                return "not understood";
        }
    }

    private Dictionary<string, FoundClass> ClassesOf(List<Meeting> meetings)
    {
        var found = new Dictionary<string, FoundClass>(StringComparer.Ordinal);
        var byName = new Dictionary<string, List<FoundClass>>(StringComparer.Ordinal);
        void Names(FoundClass one, string name)
        {
            if (Fold(name) is not { Length: > 0 } key || !one.Names.Add(key))
                return;
            if (!byName.TryGetValue(key, out var all))
                byName[key] = all = [];
            all.Add(one);
        }

        foreach (var listed in roster?.Classes ?? [])
        {
            if (listed.Title.Length > CalendarInput.LongestTitle)
            {
                refused.Add(new RefusedLine("classes.csv", 1, "The name of a class is far too long."));
                continue;
            }

            var one = new FoundClass(Fold(listed.Title), listed.Title, $"class {listed.Source}")
            {
                Department =
                    choices.SubjectsAreDepartments && listed.Department.Length <= CalendarInput.LongestTitle
                        ? listed.Department
                        : "",
                ListSource = $"class {listed.Source}",
                Listed = listed.Students,
                Students = roster!
                    .Groups.FirstOrDefault(group => group.Source == $"class {listed.Source}")
                    ?.Members.ToHashSet()
                    ?? [],
            };
            one.Teachers.AddRange(
                listed
                    .Teachers.Select(place => roster!.People[place])
                    .Select(person => people.FirstOrDefault(known => known.Source == person.Source))
                    .OfType<KnownPerson>()
                    .Where(person => person.Role is SchoolRole.Teacher or SchoolRole.Coordinator)
            );
            if (!found.TryAdd(one.Key, one))
            {
                refused.Add(
                    new RefusedLine(
                        "classes.csv",
                        1,
                        $"There are two classes called {listed.Title}; the second is left out."
                    )
                );
                continue;
            }

            Names(one, listed.Title);
            Names(one, listed.Code);
            // "Knots 7" where the export has "Knots 7 KN7-1", the code that tells it from others.
            if (listed.Code.Length > 0 && listed.Title.EndsWith(" " + listed.Code, StringComparison.Ordinal))
                Names(one, listed.Title[..^(listed.Code.Length + 1)]);
        }

        foreach (var meeting in meetings)
        {
            var title = AddressList.Plain(meeting.Class);
            var key = Fold(title);
            if (title.Length > CalendarInput.LongestTitle || key.Length == 0)
            {
                refused.Add(new RefusedLine(meeting.File, meeting.Line, "The name of the class is far too long."));
                continue;
            }

            if (byName.TryGetValue(key, out var fitting) && fitting.Count > 1)
            {
                refused.Add(
                    new RefusedLine(
                        meeting.File,
                        meeting.Line,
                        $"{Wording.Quote(meeting.Class)} fits {Wording.List([.. fitting.Select(other => other.Title)])}. Write its code or its whole name."
                    )
                );
                continue;
            }

            var one = fitting is [var only] ? only : null;
            if (one is null)
            {
                one = new FoundClass(key, title, $"title {key}");
                found[key] = one;
                Names(one, title);
            }

            if (one.Department.Length == 0 && meeting.Department.Length <= CalendarInput.LongestTitle)
                one.Department = AddressList.Plain(meeting.Department);
            foreach (var teacher in meeting.Teachers)
                if (Teacher(teacher, meeting) is { } person && !one.Teachers.Contains(person))
                    one.Teachers.Add(person);
            if (meeting.Times.Days.Length > 0)
                one.Meetings.Add(meeting);
        }

        return found;
    }

    // Who teaches; a name that fits several is asked for, one that fits nobody is told.
    private KnownPerson? Teacher(string text, Meeting meeting)
    {
        var fitting = staff.Matching(text);
        if (fitting.Count == 1)
            return fitting[0];
        if (fitting.Count == 0)
        {
            if (unknown.Add(text))
                refused.Add(
                    new RefusedLine(
                        meeting.File,
                        meeting.Line,
                        $"Nobody who teaches here is called {Wording.Quote(text)}, so nobody is made manager for it."
                    )
                );
            return null;
        }

        var answer = choices.Answers.GetValueOrDefault(text);
        if (!questions.TryGetValue(text, out var asked))
            questions[text] = new ImportQuestion(
                text,
                $"{Wording.Quote(text)} fits {Wording.Count(fitting.Count, "person", "people")}: which?",
                meeting.Class,
                [.. fitting.Select(person => (KeyOf(person), Called(person))), ("", "none of them")],
                answer is not null && (answer.Length == 0 || fitting.Any(person => KeyOf(person) == answer))
                    ? answer
                    : null
            );
        else if (!asked.Where.Contains(meeting.Class, StringComparison.Ordinal) && asked.Where.Length < 200)
            questions[text] = asked with { Where = $"{asked.Where}, {meeting.Class}" };
        return fitting.FirstOrDefault(person => KeyOf(person) == answer);
    }

    private readonly HashSet<string> unknown = new(StringComparer.OrdinalIgnoreCase);

    // The same before and after the person is kept.
    private static string KeyOf(KnownPerson person) =>
        person.Email?.Value
        ?? (
            person.Source.Length > 0
                ? person.Source
                : person.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)
        );

    private static string Called(KnownPerson person) =>
        person.Email is { } email ? $"{person.Name} ({email})" : person.Name;

    private ClassNews NewsOf(FoundClass one, Known known, Dictionary<string, string> rooms)
    {
        var calendar = known.Of(one);
        var news = new ClassNews(
            one.Title,
            calendar,
            calendar is null ? one.Department : known.DepartmentOf(calendar),
            one.Teachers,
            one.Listed,
            []
        )
        {
            Source = one.Source,
            ListSource = one.ListSource,
            Key = one.Key,
        };
        if (calendar is null && known.IsAway(one.Source))
            return news with
            {
                Refusal =
                    "Its calendar was archived or deleted here, and stays so. Bring it back from the end of the list of calendars.",
            };
        // What is on a calendar of others is not shown here, either.
        if (calendar is null ? known.IsTaken(one.Title) : !known.IsMine(calendar))
            return news with
            {
                Refusal =
                    "There is a calendar of that name already that is not yours to change. Ask its managers for access, or rename the class.",
            };
        var link = one.Names.Select(name => rooms.GetValueOrDefault(name)).FirstOrDefault(room => room is not null)
            ?? "";
        var offers = Offers(one, link);
        var standing = calendar is null ? [] : known.Series(calendar.Id);
        // What files said of another term is over, or to come: the files of this one say nothing of it.
        var before = known.Meetings[one.Source].Where(old => IsOfTerm(old.Said)).ToList();
        var lines = new List<SeriesNews>();
        // What the files said last, and say again.
        foreach (var offer in offers.ToList())
            if (
                before.FirstOrDefault(one => one.Said == offer.Said) is { } same
                && standing.FirstOrDefault(series => series.Id == same.Series) is { } stands
            )
            {
                before.Remove(same);
                offers.Remove(offer);
                lines.Add(Line(offer, ImportNews.Same, stands) with { IsByHand = stands.Version != same.Version });
            }

        // What somebody took off stays off.
        foreach (var offer in offers.ToList())
            if (before.FirstOrDefault(old => old.IsTakenOff && old.Said == offer.Said) is { } off)
            {
                before.Remove(off);
                offers.Remove(offer);
                lines.Add(
                    new SeriesNews(
                        one.Title,
                        ImportNews.Stays,
                        $"{SayBack.When(offer.Draft.Pattern, school)}: taken off here by hand, so it stays off."
                    )
                );
            }

        // What stands at the same times already, whoever made it.
        foreach (var offer in offers.ToList())
            if (
                standing.FirstOrDefault(series =>
                    before.TrueForAll(one => one.Series != series.Id)
                    && lines.TrueForAll(line => line.Known?.Id != series.Id)
                    && PatternText
                        .Of(series.Pattern with { From = offer.Draft.Pattern.From, Without = [], Extra = [] })
                        .ToString() == PatternText.Of(offer.Draft.Pattern).ToString()
                ) is
                { } there
            )
            {
                offers.Remove(offer);
                lines.Add(Line(offer, ImportNews.Same, there));
            }

        // What they say otherwise: the nearest of what is left goes with it.
        foreach (var offer in offers.ToList())
        {
            if (
                before
                    .Select(old => (old, series: standing.FirstOrDefault(series => series.Id == old.Series)))
                    .Where(pair => pair.series is not null)
                    .OrderByDescending(pair => Likeness(pair.old.Said, offer.Said))
                    .FirstOrDefault()
                is not { old: { } nearest, series: { } stands }
            )
                continue;
            before.Remove(nearest);
            offers.Remove(offer);
            lines.Add(
                Line(offer, stands.Version == nearest.Version ? ImportNews.Changed : ImportNews.Stays, stands) with
                {
                    Before = nearest.Said,
                }
            );
        }

        lines.AddRange(offers.Select(offer => Line(offer, ImportNews.New, null)));
        // Gone is what the files of this class have no more; a file that tells of no meetings says nothing of them.
        if (one.Meetings.Count > 0)
            foreach (var old in before)
                if (standing.FirstOrDefault(series => series.Id == old.Series) is { } gone)
                    lines.Add(
                        new SeriesNews(
                            gone.Title,
                            ImportNews.Gone,
                            $"{SayBack.When(gone.Pattern, at.School.Time)}: no longer in the files."
                        )
                        {
                            Known = gone,
                            Said = old.Said,
                        }
                    );
        return news with { Series = lines };
    }

    private SeriesNews Line(Offer offer, ImportNews news, Series? known)
    {
        var made = new Series(
            default,
            default,
            "",
            offer.Draft.Title,
            "",
            offer.Draft.Place,
            offer.Draft.Pattern,
            null,
            default,
            1,
            default,
            default
        );
        var plan = Planner.PlanOf(
            news is ImportNews.Same or ImportNews.Stays ? known!
                : news == ImportNews.Changed ? made with { Pattern = made.Pattern with { From = known!.Pattern.From } }
                : made,
            school
        );
        var says =
            $"{SayBack.When(offer.Draft.Pattern, school)}{(offer.Draft.Place.Length > 0 ? $", {offer.Draft.Place}" : "")}";
        return new SeriesNews(
            offer.Draft.Title,
            news,
            news switch
            {
                ImportNews.Changed =>
                    $"{SayBack.When(known!.Pattern, school)} becomes {says}: {Wording.Count(plan.HeldCount, "session", "sessions")}",
                ImportNews.Stays =>
                    $"{SayBack.When(known!.Pattern, school)}. The file says {says}; changed here by hand, so it stays.",
                _ => $"{says}: {Wording.Count(plan.HeldCount, "session", "sessions")}",
            }
        )
        {
            Draft = offer.Draft,
            Known = known,
            Said = offer.Said,
            Link = offer.Link,
            Plan = plan,
        };
    }

    private bool IsOfTerm(string said) =>
        term is null
        || said.Split('|') is not [_, _, _, var until, ..]
        || until == term.Name
        || (LocalDatePattern.Iso.Parse(until).TryGetValue(default, out var last) && term.Holds(last));

    // How much two sayings have in common, part by part.
    private static int Likeness(string one, string other) =>
        one.Split('|').Zip(other.Split('|')).Count(pair => pair.First == pair.Second);

    private List<Offer> Offers(FoundClass one, string link)
    {
        var usual = term is null
            ? new UsualSpan(at.Today, new Extent.Open())
            : new UsualSpan(term.First, new Extent.WithTerm(term.Id));
        var read = new List<(MeetingPatternRead When, Meeting Meeting)>();
        foreach (var meeting in one.Meetings)
        {
            var (patterns, problem) = reader.Read(meeting.Times);
            if (problem is not null)
                refused.Add(new RefusedLine(meeting.File, meeting.Line, $"{meeting.Class}: {problem}"));
            read.AddRange(patterns.Select(pattern => (pattern, meeting)));
        }

        var offers = new List<Offer>();
        foreach (
            var group in read.GroupBy(pair =>
                (
                    pair.When.Time,
                    pair.When.From,
                    pair.When.Extent,
                    Room: pair.Meeting.Room.ToUpperInvariant(),
                    Address: pair.Meeting.Link.Length > 0 ? pair.Meeting.Link : link,
                    // Days of one rule join; other rules stand by themselves.
                    Rule: pair.When.Repeat
                        is Repeat.ByRule { Rule: { Frequency: Core.Recurrence.Frequency.Weekly } rule }
                    && !pair.When.Repeat.WeeklyDays.IsEmpty
                        ? $"weekly {rule.Interval}"
                        : PatternText
                            .Of(
                                new MeetingPattern(
                                    pair.When.Repeat,
                                    pair.When.Time,
                                    school.Zone,
                                    usual.From,
                                    usual.Extent
                                )
                            )
                            .ToString()
                )
            )
        )
        {
            var first = group.First();
            var repeat = first.When.Repeat;
            if (!repeat.WeeklyDays.IsEmpty)
                repeat = Repeat.Weekly(
                    group.SelectMany(pair => pair.When.Repeat.WeeklyDays),
                    ((Repeat.ByRule)repeat).Rule.Interval,
                    school.FirstDayOfWeek
                );
            if (first.When.Extent is null && term is null)
            {
                refused.Add(
                    new RefusedLine(
                        first.Meeting.File,
                        first.Meeting.Line,
                        $"{one.Title}: its last day is missing, and the school has no term to run with. Add one under School time."
                    )
                );
                continue;
            }

            var room = AddressList.Plain(first.Meeting.Room);
            var (target, reason) = group.Key.Address.Length > 0 ? JoinTarget.Read(group.Key.Address) : (null, null);
            if (reason is not null)
                refused.Add(new RefusedLine(first.Meeting.File, first.Meeting.Line, $"{one.Title}: {reason}"));
            var draft = new SeriesDraft(
                one.Title,
                "",
                room.Length > 200 ? room[..200] : room,
                new MeetingPattern(
                    repeat,
                    first.When.Time,
                    school.Zone,
                    first.When.From ?? usual.From,
                    first.When.Extent ?? usual.Extent
                ),
                "",
                null,
                target is null ? null : (one.Title, target)
            );
            // What the file says, without what the school's time makes of it: the term's own days are not in it. Nor is the address.
            var said = string.Join(
                '|',
                repeat.WeeklyDays.IsEmpty ? group.Key.Rule : $"{group.Key.Rule} {string.Join(' ', repeat.WeeklyDays)}",
                SayBack.Typed(first.When.Time),
                first.When.From is { } from ? $"{from:uuuu-MM-dd}" : "",
                first.When.Extent is Extent.Until until ? $"{until.Day:uuuu-MM-dd}" : term?.Name ?? "",
                room.ToUpperInvariant()
            );
            offers.Add(new Offer(draft, said, target is null ? "" : group.Key.Address));
        }

        return offers;
    }

    private static string Fold(string text) =>
        string.Join(' ', PlainLetters.Fold(text).Split([' ', '\n', '\t'], StringSplitOptions.RemoveEmptyEntries));

    private sealed record Offer(SeriesDraft Draft, string Said, string Link);

    private sealed record FoundClass(string Key, string Title, string Source)
    {
        public string Department { get; set; } = "";

        public string ListSource { get; init; } = "";

        public int? Listed { get; init; }

        public HashSet<int> Students { get; init; } = [];

        public HashSet<string> Names { get; } = new(StringComparer.Ordinal);

        public List<KnownPerson> Teachers { get; } = [];

        public List<Meeting> Meetings { get; } = [];
    }

    // What stands, read once.
    private sealed class Known
    {
        private readonly AtSchool at;
        private readonly IReadOnlyDictionary<string, CalendarId> sources;
        private readonly Dictionary<CalendarId, Calendar> mine;
        private readonly ILookup<string, Calendar> classes;
        private readonly Dictionary<CalendarId, Calendar> all;
        private readonly HashSet<string> seen;

        public Known(AtSchool at)
        {
            this.at = at;
            all = at.Stores.Calendars.All().ToDictionary(one => one.Id);
            mine = CalendarContext
                .CalendarsFor(at.Stores, at.Viewer, Permission.ChangeSeries)
                .ToDictionary(one => one.Id);
            classes = mine
                .Values.Where(one => one.Kind == CalendarKind.Class)
                .ToLookup(one => Fold(one.Title), StringComparer.Ordinal);
            sources = at.Stores.SchoolImports.Classes();
            Meetings = at.Stores.SchoolImports.Meetings();
            // Whom a coordinator may see at all: others' calendars of that name are none of theirs to know.
            seen = at
                .Stores.Calendars.InUse(at.Stores.Calendars.IdsReachedBy(at.Viewer))
                .Where(one => !mine.ContainsKey(one.Id))
                .Select(one => Fold(one.Title))
                .ToHashSet(StringComparer.Ordinal);
            Departments = all
                .Values.Where(one => one.Kind == CalendarKind.Department)
                .Select(one => one.Title)
                .ToHashSet(StringComparer.OrdinalIgnoreCase);
        }

        public ILookup<string, ImportedMeeting> Meetings { get; }

        public HashSet<string> Departments { get; }

        // By what the files know it by, else by its title.
        public Calendar? Of(FoundClass one) =>
            sources.TryGetValue(one.Source, out var id) ? all.GetValueOrDefault(id) : classes[one.Key].FirstOrDefault();

        // Made of a file once, and put away by somebody since.
        public bool IsAway(string source) => sources.TryGetValue(source, out var id) && !all.ContainsKey(id);

        public bool IsMine(Calendar calendar) => mine.ContainsKey(calendar.Id);

        public bool IsTaken(string title) => seen.Contains(Fold(title));

        public IReadOnlyList<Series> Series(CalendarId calendar) => CalendarFacts.Read(at.Stores, calendar).Series;

        public string DepartmentOf(Calendar calendar) =>
            calendar.Department is { } id && all.TryGetValue(id, out var department) ? department.Title : "";
    }
}
