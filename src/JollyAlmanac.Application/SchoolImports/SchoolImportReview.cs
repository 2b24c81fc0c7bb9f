using System.Collections.Immutable;
using System.Text.Json;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Core.Timetables;
using NodaTime.Text;

namespace JollyAlmanac.Application.SchoolImports;

/// <summary>What is chosen beside the files of a school.</summary>
/// <param name="SubjectsAreDepartments">The subjects of an export become departments.</param>
/// <param name="WithoutMeetings">Classes that do not say when they meet become calendars, too.</param>
/// <param name="EndGone">What the files do not have any more ends: series, members of lists, people.</param>
public sealed record SchoolImportChoices(
    bool SubjectsAreDepartments = true,
    bool WithoutMeetings = true,
    bool EndGone = false
)
{
    /// <summary>Who is meant by a name that fits several: the key of a person, or empty for none of them.</summary>
    public IReadOnlyDictionary<string, string> Answers { get; init; } = ImmutableDictionary<string, string>.Empty;

    /// <summary>The name of the term that the files are for; null for the one that is on, or comes next.</summary>
    public string? Term { get; init; }
}

/// <summary>What files say of a thing beside what stands.</summary>
public enum ImportNews
{
    /// <summary>It is not there yet.</summary>
    New,

    /// <summary>The files say otherwise than when they were last taken in.</summary>
    Changed,

    /// <summary>They say the same.</summary>
    Same,

    /// <summary>They do not have it any more.</summary>
    Gone,

    /// <summary>They say otherwise, but somebody changed it by hand: it stays.</summary>
    Stays,
}

/// <summary>A file, and what was read of it.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Kind">What it tells.</param>
/// <param name="Says">What was found in it, for people.</param>
public sealed record ReadFile(string Name, SchoolFileKind Kind, string Says);

/// <summary>A question that the files leave open, asked once for all rows alike.</summary>
/// <param name="Key">What it is answered by.</param>
/// <param name="Text">The question.</param>
/// <param name="Where">Where it comes up.</param>
/// <param name="Choices">The answers, by what they are chosen by.</param>
/// <param name="Answer">The one that was chosen; null while none was.</param>
public sealed record ImportQuestion(
    string Key,
    string Text,
    string Where,
    IReadOnlyList<(string Value, string Words)> Choices,
    string? Answer
);

/// <summary>A series that would come of the files.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="News">What there is to do.</param>
/// <param name="Sentence">What would be true, or what is.</param>
public sealed record SeriesNews(string Title, ImportNews News, string Sentence)
{
    internal SeriesDraft? Draft { get; init; }

    internal Series? Known { get; init; }

    internal string Said { get; init; } = "";

    internal string Link { get; init; } = "";

    // What the files said before, where they say otherwise now.
    internal string Before { get; init; } = "";

    internal Plan? Plan { get; init; }

    /// <summary>The files say what they said before; somebody changed it by hand since, and that stays.</summary>
    public bool IsByHand { get; init; }
}

/// <summary>A class that would have its calendar.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Known">Its calendar, where it has one.</param>
/// <param name="Department">The title of its department; empty for none.</param>
/// <param name="Managers">Who teaches it.</param>
/// <param name="Listed">How many are on its list; null where no list came.</param>
/// <param name="Series">Its series.</param>
public sealed record ClassNews(
    string Title,
    Calendar? Known,
    string Department,
    IReadOnlyList<KnownPerson> Managers,
    int? Listed,
    IReadOnlyList<SeriesNews> Series
)
{
    /// <summary>Why nothing is done to it; empty where it can be.</summary>
    public string Refusal { get; init; } = "";

    /// <summary>There is something to do.</summary>
    public bool IsNews => Known is null || Series.Any(one => one.News is ImportNews.New or ImportNews.Changed);

    internal string Source { get; init; } = "";

    internal string ListSource { get; init; } = "";

    internal string Key { get; init; } = "";
}

/// <summary>The school that would come of files.</summary>
/// <param name="Id">The review's id; 0 where it is not kept.</param>
/// <param name="Files">The files.</param>
/// <param name="People">What would come of their people; null where they tell of none.</param>
/// <param name="Classes">The classes, by department and title.</param>
/// <param name="Departments">The departments that are new.</param>
/// <param name="Time">What becomes of the school's time, in words.</param>
/// <param name="Refused">What was not understood.</param>
public sealed record SchoolImportReview(
    long Id,
    IReadOnlyList<ReadFile> Files,
    RosterPlan? People,
    IReadOnlyList<ClassNews> Classes,
    IReadOnlyList<string> Departments,
    IReadOnlyList<string> Time,
    IReadOnlyList<RefusedLine> Refused
)
{
    /// <summary>What the files leave open.</summary>
    public IReadOnlyList<ImportQuestion> Questions { get; init; } = [];

    /// <summary>What is in two places at once.</summary>
    public IReadOnlyList<DoubleBooking> Clashes { get; init; } = [];

    /// <summary>Those who teach, and no class.</summary>
    public IReadOnlyList<KnownPerson> WithoutClass { get; init; } = [];

    /// <summary>The term that the timetables are for; null for none.</summary>
    public Term? Term { get; init; }

    /// <summary>The terms that they could be for.</summary>
    public IReadOnlyList<Term> Terms { get; init; } = [];

    /// <summary>How many calendars are new.</summary>
    public int NewCalendars => Classes.Count(one => one.Known is null && one.Refusal.Length == 0);

    /// <summary>How many of the series are of that news.</summary>
    public int Count(ImportNews news) => Classes.Sum(one => one.Series.Count(series => series.News == news));

    /// <summary>How many sessions all series hold.</summary>
    public int Sessions { get; init; }

    /// <summary>A question waits for its answer.</summary>
    public bool IsAsking => Questions.Any(question => question.Answer is null);

    /// <summary>There is nothing to do.</summary>
    public bool IsNothing =>
        Classes.All(one => !one.IsNews || one.Refusal.Length > 0)
        && Time.Count == 0
        && (People is null || People.IsNothing);
}

/// <summary>What taking files of a school in did.</summary>
/// <param name="Review">What was done, as it was reviewed.</param>
/// <param name="People">What came of their people; null where they told of none.</param>
public sealed record SchoolImportResult(SchoolImportReview Review, People.RosterImportResult? People)
{
    /// <summary>Nothing was asked and nothing refused.</summary>
    public bool IsWhole => Review.Questions.Count == 0 && Review.Refused.Count == 0 && !Refusals.Any();

    private IEnumerable<ClassNews> Refusals => Review.Classes.Where(one => one.Refusal.Length > 0);

    /// <summary>As JSON, for other programs: what was read, what came of it, what was asked, what clashes and what was refused.</summary>
    public string ToJson() =>
        JsonSerializer.Serialize(
            new
            {
                read = Review.Files.Select(file => new { path = file.Name, kind = KindOf(file.Kind) }),
                calendars = new
                {
                    @new = Review.NewCalendars,
                    changed = Review.Classes.Count(one => one.Known is not null && one.IsNews),
                    same = Review.Classes.Count(one => one.Known is not null && !one.IsNews && one.Refusal.Length == 0),
                    gone = 0,
                },
                series = new
                {
                    @new = Review.Count(ImportNews.New),
                    changed = Review.Count(ImportNews.Changed),
                    same = Review.Count(ImportNews.Same),
                    stays = Review.Count(ImportNews.Stays),
                    gone = Review.Count(ImportNews.Gone),
                },
                people = new
                {
                    @new = People?.New ?? 0,
                    changed = People?.Changed ?? 0,
                    same = People?.Same ?? 0,
                    gone = People?.Gone ?? 0,
                },
                lists = new { @new = Review.People?.Groups.Count(group => group.Known is null) ?? 0 },
                days = new { says = Review.Time },
                asked = Review.Questions.Select(question => new { what = question.Text, where = question.Where }),
                clashes = Review.Clashes.Select(clash => new
                {
                    kind = clash.Kind.ToString().ToLowerInvariant(),
                    what = clash.What,
                    one = clash.One,
                    other = clash.Other,
                    first = LocalDateTimePattern.GeneralIso.Format(clash.First)[..16],
                    times = clash.Times,
                }),
                refused = Review
                    .Refused.Select(line => new
                    {
                        path = line.File,
                        line = line.Line,
                        reason = line.Reason,
                    })
                    .Concat(
                        Refusals.Select(one => new
                        {
                            path = "",
                            line = 0,
                            reason = $"{one.Title}: {one.Refusal}",
                        })
                    ),
            },
            Readable
        );

    private static string KindOf(SchoolFileKind kind) =>
        kind switch
        {
            SchoolFileKind.NoClassDays or SchoolFileKind.Calendar => "days",
            _ => kind.ToString().ToLowerInvariant(),
        };

    /// <summary>For people.</summary>
    /// <param name="isDry">It was only looked at.</param>
    public string ToText(bool isDry) =>
        string.Join(
            '\n',
            [
                .. Review.Files.Select(file => $"{file.Name}: {file.Says}"),
                $"{Review.NewCalendars} new calendars; series: {Review.Count(ImportNews.New)} new, {Review.Count(ImportNews.Changed)} changed, {Review.Count(ImportNews.Same)} the same, {Review.Count(ImportNews.Stays)} changed by hand, {Review.Count(ImportNews.Gone)} gone.{(isDry ? " Nothing was kept." : "")}",
                .. Review.Questions.Select(question => $"asked: {question.Text} ({question.Where})"),
                .. Review.Clashes.Select(clash =>
                    $"clash: {clash.What}: {clash.One} and {clash.Other}, {Wording.WithWeekday(clash.First.Date)}, {Wording.Of(clash.First.TimeOfDay)}"
                ),
                .. Review.Refused.Select(line =>
                    $"{(line.File.Length > 0 ? line.File + " " : "")}line {line.Line}: {line.Reason}"
                ),
                .. Refusals.Select(one => $"{one.Title}: {one.Refusal}"),
            ]
        );

    private static readonly JsonSerializerOptions Readable = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };
}
