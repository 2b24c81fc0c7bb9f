using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>One line of a pasted timetable, and what would come of it.</summary>
/// <param name="Number">Which line of the text, from 1.</param>
/// <param name="Text">The line as it was pasted.</param>
/// <param name="Reading">What was read of it.</param>
/// <param name="Calendar">The calendar it would go on; null where none fits.</param>
/// <param name="Assumed">What the line does not say and what is taken for it.</param>
/// <param name="Sentence">What would be true; empty where something is wrong.</param>
/// <param name="Problems">Why it cannot become a series yet.</param>
public sealed record QuickLine(
    int Number,
    string Text,
    QuickReading Reading,
    Calendar? Calendar,
    IReadOnlyList<string> Assumed,
    string Sentence,
    IReadOnlyList<string> Problems
)
{
    /// <summary>What it says, once nothing is wrong with it.</summary>
    internal SeriesDraft? Draft { get; init; }

    /// <summary>It can become a series as it is.</summary>
    public bool IsGood => Problems.Count == 0;
}

/// <summary>A pasted timetable after it was read.</summary>
/// <param name="Calendar">The calendar it was pasted on.</param>
/// <param name="School">The school's time.</param>
/// <param name="Lines">Each line.</param>
/// <param name="Calendars">The calendars that the viewer may add to.</param>
public sealed record QuickReview(
    Calendar Calendar,
    SchoolTime School,
    IReadOnlyList<QuickLine> Lines,
    IReadOnlyList<Calendar> Calendars
);

/// <summary>What came of a pasted timetable.</summary>
/// <param name="Made">The series that were made.</param>
/// <param name="Left">The text of the lines that were not.</param>
public sealed record QuickSaved(IReadOnlyList<(Calendar Calendar, Series Series)> Made, string Left);

/// <summary>Makes several series of a pasted timetable, after it was looked through.</summary>
public sealed class QuickAdd(Gate gate, ComposeSeries composeSeries)
{
    /// <summary>The most lines of one text.</summary>
    public const int MostLines = 300;

    /// <summary>The longest text.</summary>
    public const int LongestText = 150_000;

    /// <summary>Reads a text: a line each, or CSV with a head line. Nothing is saved.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar for lines whose title is no calendar's.</param>
    /// <param name="text">The text.</param>
    /// <param name="chosen">For a line's number, the slug of the calendar chosen for it.</param>
    public Outcome<QuickReview> Review(
        Viewer viewer,
        Slug slug,
        string? text,
        IReadOnlyDictionary<int, string> chosen
    ) => gate.Read<QuickReview>(Operation.AddSeries, viewer, slug, at => Review(at, text, chosen));

    /// <summary>Saves the lines that are good, all or none of them.</summary>
    public Outcome<QuickSaved> Save(Viewer viewer, Slug slug, string? text, IReadOnlyDictionary<int, string> chosen) =>
        gate.Write<QuickSaved>(Operation.AddSeveralSeries, viewer, slug, at => Review(at, text, chosen)
                .Then(review =>
                {
                    var made = new List<(Calendar, Series)>();
                    // A line that holds several series is saved whole or not at all.
                    var bad = review.Lines.Where(line => !line.IsGood).Select(line => line.Number).ToHashSet();
                    foreach (var line in review.Lines.Where(line => !bad.Contains(line.Number)))
                    {
                        // Each calendar is asked for anew: a line may name another than the one it was pasted on.
                        if (
                            gate.Enter(at.Stores, Operation.AddSeveralSeries, viewer, line.Calendar!.Slug)
                                .Then(there => composeSeries.Add(there, line.Draft!))
                            is not Outcome<Series>.Done { Value: var series }
                        )
                            return Outcome.Because<QuickSaved>(
                                "",
                                $"Line {line.Number} could not be saved, so nothing was. Look through the lines again."
                            );
                        made.Add((line.Calendar, series));
                    }

                    if (made.Count == 0)
                        return Outcome.Because<QuickSaved>(
                            "",
                            "No line can become a series yet. Mend the lines that are marked."
                        );
                    return new Outcome<QuickSaved>.Done(
                        new QuickSaved(
                            made,
                            string.Join(
                                '\n',
                                review.Lines.Where(line => !line.IsGood).Select(line => line.Text).Distinct()
                            )
                        )
                    );
                }));

    /// <summary>Fills the composer's form from one line.</summary>
    public Outcome<(QuickReading Reading, SeriesInput Input)> Fill(
        Viewer viewer,
        Slug slug,
        string line,
        SeriesInput form
    ) => gate.Read<(QuickReading, SeriesInput)>(Operation.AddSeries, viewer, slug, at =>
        {
            var reading = QuickEntry.Read(line, at.School.Time, Near(at));
            return new Outcome<(QuickReading, SeriesInput)>.Done((reading, form.With(reading)));
        });

    /// <summary>Fills the composer's form from a letter that asks for a meeting. Nothing is saved.</summary>
    /// <returns>What was read of it, the line that says the same with what was read of that, and the form.</returns>
    public Outcome<(LetterReading Letter, QuickReading? Reading, SeriesInput Input)> FillByLetter(
        Viewer viewer,
        Slug slug,
        string? letter,
        SeriesInput form
    ) => gate.Read<(LetterReading, QuickReading?, SeriesInput)>(Operation.AddSeries, viewer, slug, at =>
        {
            if (string.IsNullOrWhiteSpace(letter))
                return Outcome.Because<(LetterReading, QuickReading?, SeriesInput)>(
                    "Letter",
                    "There is no letter yet. Paste its text."
                );
            if (letter.Length > LetterText.Longest)
                return Outcome.Because<(LetterReading, QuickReading?, SeriesInput)>(
                    "Letter",
                    $"The letter has {letter.Length} characters; {LetterText.Longest} are read. Paste the part that asks for a meeting."
                );
            var places = CalendarContext
                .CalendarsFor(at.Stores, viewer, Permission.AddSeries)
                .Take(MostPlaced)
                .SelectMany(calendar => CalendarFacts.Read(at.Stores, calendar.Id).Series)
                .Select(series => series.Place)
                .Distinct()
                .ToList();
            var reading = LetterText.Read(letter, at.School.Time, at.Today, places);
            if (reading.Line.Length == 0)
                return Outcome.Because<(LetterReading, QuickReading?, SeriesInput)>(
                    "Letter",
                    "No day and no time was found in the letter. Fill in the fields, or write them in one line."
                );
            var quick = QuickEntry.Read(reading.Line, at.School.Time, at.Today);
            return new Outcome<(LetterReading, QuickReading?, SeriesInput)>.Done((reading, quick, form.With(quick)));
        });

    // Places are known by the calendars that somebody adds to, as many as are looked through in a moment.
    private const int MostPlaced = 40;

    private static Outcome<QuickReview> Review(AtCalendar at, string? text, IReadOnlyDictionary<int, string> chosen)
    {
        if (text?.Length > LongestText)
            return Outcome.Because<QuickReview>(
                "Text",
                $"The text has {text.Length} characters; {LongestText} are read. Paste it in parts."
            );
        var lines = TimetableText.Lines(text ?? "");
        if (lines.Count == 0)
            return Outcome.Because<QuickReview>("Text", "There is no line yet. Paste one for each class.");
        if (lines.Count > MostLines)
            return Outcome.Because<QuickReview>(
                "Text",
                $"These are {lines.Count} lines; {MostLines} may come in one go."
            );
        var (stores, calendarContext, viewer) = (at.Stores, at.Context, at.Viewer);
        var calendars = CalendarContext.CalendarsFor(stores, viewer, Permission.AddSeries);
        var near = Near(at);
        var plans = new Dictionary<CalendarId, IReadOnlyList<Plan>>();
        IReadOnlyList<Plan> PlansOf(CalendarId id) =>
            plans.TryGetValue(id, out var known)
                ? known
                : plans[id] = CalendarFacts.Read(stores, id).Plans(calendarContext.School.Time);
        var usual = new Dictionary<CalendarId, JoinLink?>();
        JoinLink? LinkOf(CalendarId id)
        {
            if (usual.TryGetValue(id, out var known))
                return known;
            var links = SeriesReader.LinksFor(stores, viewer, id, null);
            return usual[id] = ComposeSeries.UsualLink(stores, id, links) is { } link
                ? links.FirstOrDefault(one => one.Id == link)
                : null;
        }

        return new Outcome<QuickReview>.Done(
            new QuickReview(
                calendarContext.Calendar,
                calendarContext.School.Time,
                [
                    .. lines.SelectMany(
                        (line, place) =>
                            QuickEntry
                                .ReadAll(line, calendarContext.School.Time, near)
                                .Select(reading => Line(place + 1, line, reading, chosen.GetValueOrDefault(place + 1)))
                    ),
                ],
                calendars
            )
        );

        QuickLine Line(int number, string line, QuickReading reading, string? choice)
        {
            var calendar = choice is { Length: > 0 }
                ? calendars.Find(one => one.Slug.Value == choice)
                : calendars
                    .Where(one => one.Title.Equals(reading.Title, StringComparison.OrdinalIgnoreCase))
                    .FirstOrDefault(calendarContext.Calendar);
            var problems = reading.Missing.Select(gap => gap.Sentence).Concat(reading.Problems).ToList();
            if (calendar is null)
                problems.Add("You may not add to the calendar that was chosen. Choose another.");
            var span = UsualSpan.Of(calendarContext.School.Time, at.Today);
            var assumed = new List<string>();
            if (reading.Repeat is not Repeat.OnDates)
            {
                if (reading.From is null)
                    assumed.Add($"from {Wording.WithWeekday(span.From)}");
                if (reading.Extent is null && span.Extent is Extent.WithTerm { Term: var id })
                    assumed.Add($"with the {calendarContext.School.Time.Find(id)!.Name}");
                if (reading.Extent is null && span.Extent is Extent.Open)
                    problems.Add("Its last day is missing, and there is no term to run with. Add “until 18 Dec”.");
            }

            var sentence = "";
            SeriesDraft? draft = null;
            if (problems.Count == 0)
            {
                var entry = new FormReader();
                draft = SeriesReader.Of(entry, reading, span, calendarContext.School.Time, calendar!.Zone);
                problems.AddRange(entry.Problems.Select(problem => problem.Message));
                // A line that says no room takes the class's, as a series does that is entered by itself.
                if (draft is { Link: null, NewLink: null } && LinkOf(calendar!.Id) is { } link)
                {
                    draft = draft with { Link = link.Id };
                    assumed.Add($"joined by {link.Code.Path}");
                }

                if (draft is not null)
                {
                    var plan = Planner.PlanOf(
                        ComposeSeries.Make(draft, calendarContext with { Calendar = calendar }, null, viewer, null),
                        calendarContext.School.Time
                    );
                    sentence = SayBack.Sentence(plan, calendarContext.School.Time, calendar.Title);
                    if (plan.HeldCount == 0)
                        problems.Add(sentence);
                    // A list that is pasted twice makes nothing twice.
                    if (
                        PlansOf(calendar.Id)
                            .Any(other =>
                                other.Of.Title.Equals(draft.Title, StringComparison.OrdinalIgnoreCase)
                                && IsSame(other, plan)
                            )
                    )
                        problems.Add(
                            $"{draft.Title} is on {calendar.Title} at these times already. Nothing is made twice; leave the line out, or change it."
                        );
                }
            }

            return new QuickLine(
                number,
                line,
                reading,
                calendar,
                assumed,
                problems.Count == 0 ? sentence : "",
                problems
            )
            {
                Draft = draft,
            };
        }
    }

    private static bool IsSame(Plan one, Plan other) =>
        one
            .Sessions.Select(session => (session.Start, session.End))
            .SequenceEqual(other.Sessions.Select(session => (session.Start, session.End)));

    private static LocalDate Near(AtCalendar at) =>
        at.School.Time.TermToShow(at.Today) is { } term && term.First > at.Today ? term.First : at.Today;
}
