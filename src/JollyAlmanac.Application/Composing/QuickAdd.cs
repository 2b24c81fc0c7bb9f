using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats;
using JollyAlmanac.Storage;
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
/// <param name="Input">The form it fills.</param>
public sealed record QuickLine(
    int Number, string Text, QuickReading Reading, Calendar? Calendar, IReadOnlyList<string> Assumed, string Sentence, IReadOnlyList<string> Problems, SeriesInput Input)
{
    /// <summary>It can become a series as it is.</summary>
    public bool IsGood => Problems.Count == 0;
}

/// <summary>A pasted timetable after it was read.</summary>
/// <param name="Calendar">The calendar it was pasted on.</param>
/// <param name="School">The school's time.</param>
/// <param name="Lines">Each line.</param>
/// <param name="Calendars">The calendars that the viewer may add to.</param>
public sealed record QuickReview(Calendar Calendar, SchoolTime School, IReadOnlyList<QuickLine> Lines, IReadOnlyList<Calendar> Calendars);

/// <summary>What came of a pasted timetable.</summary>
/// <param name="Made">The series that were made.</param>
/// <param name="Left">The text of the lines that were not.</param>
public sealed record QuickSaved(IReadOnlyList<(Calendar Calendar, Series Series)> Made, string Left);

/// <summary>Makes several series of a pasted timetable, after it was looked through.</summary>
public sealed class QuickAdd(AlmanacDatabase database, IClock clock, ComposeSeries composeSeries)
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
    public Outcome<QuickReview> Review(Viewer viewer, string slug, string? text, IReadOnlyDictionary<int, string> chosen) =>
        database.Read(stores => Review(stores, viewer, slug, text, chosen));

    /// <summary>Saves the lines that are good, all or none of them.</summary>
    public Outcome<QuickSaved> Save(Viewer viewer, string slug, string? text, IReadOnlyDictionary<int, string> chosen) =>
        database.Write<Outcome<QuickSaved>>(stores =>
        {
            switch (Review(stores, viewer, slug, text, chosen))
            {
                case Outcome<QuickReview>.NotAllowed: return new Outcome<QuickSaved>.NotAllowed();
                case Outcome<QuickReview>.Refused { Problems: var problems }: return new Outcome<QuickSaved>.Refused(problems);
                case Outcome<QuickReview>.Done { Value: var review }:
                    var made = new List<(Calendar, Series)>();
                    // A line that holds several series is saved whole or not at all.
                    var bad = review.Lines.Where(line => !line.IsGood).Select(line => line.Number).ToHashSet();
                    foreach (var line in review.Lines.Where(line => !bad.Contains(line.Number)))
                    {
                        var saved = composeSeries.Save(stores, viewer, line.Calendar!.Slug, null, line.Input, MaterialInput.None, [], new Entry());
                        if (saved is not Outcome<Series>.Done { Value: var series })
                            return new Outcome<QuickSaved>.Refused([new Problem("", $"Line {line.Number} could not be saved, so nothing was. Look through the lines again.")]);
                        made.Add((line.Calendar, series));
                    }

                    if (made.Count == 0) return new Outcome<QuickSaved>.Refused([new Problem("", "No line can become a series yet. Mend the lines that are marked.")]);
                    return new Outcome<QuickSaved>.Done(new QuickSaved(made, string.Join('\n', review.Lines.Where(line => !line.IsGood).Select(line => line.Text).Distinct())));
                default: return new Outcome<QuickSaved>.NotFound();
            }
        }, outcome => outcome.IsDone);

    /// <summary>Fills the composer's form from one line.</summary>
    public Outcome<(QuickReading Reading, SeriesInput Input)> Fill(Viewer viewer, string slug, string line, SeriesInput form) => database.Read<Outcome<(QuickReading, SeriesInput)>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<(QuickReading, SeriesInput)>.NotFound();
        if (!setting.May(Deed.AddSeries)) return new Outcome<(QuickReading, SeriesInput)>.NotAllowed();
        var reading = QuickEntry.Read(line, setting.School.Time, Near(setting));
        return new Outcome<(QuickReading, SeriesInput)>.Done((reading, form.With(reading)));
    });

    private Outcome<QuickReview> Review(Stores stores, Viewer viewer, string slug, string? text, IReadOnlyDictionary<int, string> chosen)
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<QuickReview>.NotFound();
        if (!setting.May(Deed.AddSeries)) return new Outcome<QuickReview>.NotAllowed();
        if (text?.Length > LongestText) return new Outcome<QuickReview>.Refused([new Problem("Text", $"The text has {text.Length} characters; {LongestText} are read. Paste it in parts.")]);
        var lines = TimetableText.Lines(text ?? "");
        if (lines.Count == 0) return new Outcome<QuickReview>.Refused([new Problem("Text", "There is no line yet. Paste one for each class.")]);
        if (lines.Count > MostLines) return new Outcome<QuickReview>.Refused([new Problem("Text", $"These are {lines.Count} lines; {MostLines} may come in one go.")]);
        var calendars = Setting.CalendarsFor(stores, viewer, Deed.AddSeries);
        var near = Near(setting);
        var plans = new Dictionary<CalendarId, IReadOnlyList<Plan>>();
        IReadOnlyList<Plan> Standing(CalendarId id) => plans.TryGetValue(id, out var known) ? known : plans[id] = CalendarFacts.Read(stores, id).Plans(setting.School.Time);
        return new Outcome<QuickReview>.Done(new QuickReview(setting.Calendar, setting.School.Time,
            [.. lines.SelectMany((line, at) => QuickEntry.ReadAll(line, setting.School.Time, near).Select(reading => Line(at + 1, line, reading, chosen.GetValueOrDefault(at + 1))))], calendars));

        QuickLine Line(int number, string line, QuickReading reading, string? choice)
        {
            var calendar = choice is { Length: > 0 } ? calendars.Find(one => one.Slug == choice)
                : calendars.Where(one => one.Title.Equals(reading.Title, StringComparison.OrdinalIgnoreCase)).FirstOrDefault(setting.Calendar);
            var problems = reading.Missing.Select(gap => gap.Sentence).Concat(reading.Problems).ToList();
            if (calendar is null) problems.Add("You may not add to the calendar that was chosen. Choose another.");
            var form = ComposeSeries.Fresh(setting with { Calendar = calendar ?? setting.Calendar }, clock.GetCurrentInstant()) with { Title = "", Period = "" };
            var input = form.With(reading);
            var assumed = new List<string>();
            if (reading.From is null && reading.Repeat is not Repeat.OnDates) assumed.Add($"from {(NodaTime.Text.LocalDatePattern.Iso.Parse(input.From ?? "") is { Success: true, Value: var day } ? Wording.WithWeekday(day) : input.From)}");
            if (reading.Extent is null && reading.Repeat is not Repeat.OnDates && input.Extent == "term") assumed.Add($"with the {setting.School.Time.Terms.First(term => term.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture) == input.Term).Name}");
            var sentence = "";
            if (problems.Count == 0)
            {
                var entry = new Entry();
                var draft = SeriesReader.Read(entry, input, setting.School.Time, calendar!.Zone, [], setting.Today(clock));
                problems.AddRange(entry.Problems.Select(problem => problem.Message));
                if (draft is not null)
                {
                    var plan = Planner.PlanOf(ComposeSeries.Make(draft, setting with { Calendar = calendar }, null, viewer, null), setting.School.Time);
                    sentence = SayBack.Sentence(plan, setting.School.Time, calendar.Title);
                    if (plan.HeldCount == 0) problems.Add(sentence);
                    // A list that is pasted twice makes nothing twice.
                    if (Standing(calendar.Id).Any(other => other.Of.Title.Equals(draft.Title, StringComparison.OrdinalIgnoreCase) && IsSame(other, plan))) problems.Add($"{draft.Title} is on {calendar.Title} at these times already. Nothing is made twice; leave the line out, or change it.");
                }
            }

            return new QuickLine(number, line, reading, calendar, assumed, problems.Count == 0 ? sentence : "", problems, input);
        }
    }

    private static bool IsSame(Plan one, Plan other) =>
        one.Sessions.Select(session => (session.Start, session.End)).SequenceEqual(other.Sessions.Select(session => (session.Start, session.End)));

    private LocalDate Near(Setting setting)
    {
        var today = clock.GetCurrentInstant().InZone(setting.School.Time.Zone).Date;
        return setting.School.Time.TermToShow(today) is { } term && term.First > today ? term.First : today;
    }
}
