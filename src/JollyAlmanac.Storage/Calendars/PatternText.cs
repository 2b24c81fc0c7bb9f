using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage.JoinLinks;
using JollyAlmanac.Storage.Rows;
using NodaTime;

namespace JollyAlmanac.Storage.Calendars;

/// <summary>
/// How a meeting pattern stands in a column and in the history: {"rule":"FREQ=WEEKLY;BYDAY=MO","time":"period 3","zone":…,
/// "from":"2026-09-14","extent":"term 1"}. It says which form of writing it is; what says nothing is of the first.
/// </summary>
public sealed record PatternText(
    string? Rule,
    IReadOnlyList<string>? Cycle,
    IReadOnlyList<string>? Dates,
    string Time,
    string Zone,
    string From,
    string Extent,
    NoClassPolicy NoClass,
    IReadOnlyList<string>? Extra,
    int Form = PatternText.WrittenNow,
    IReadOnlyList<string>? Without = null
)
{
    private const int WrittenNow = 1;

    /// <summary>The text of a pattern.</summary>
    public static PatternText Of(MeetingPattern pattern) =>
        new(
            (pattern.Repeat as Repeat.ByRule)?.Rule.ToString(),
            (pattern.Repeat as Repeat.OnCycleDays)?.Names,
            pattern.Repeat is Repeat.OnDates dates ? [.. dates.Dates.Select(Stored.Text)] : null,
            Write(pattern.Time),
            pattern.Zone.Id,
            Stored.Text(pattern.From),
            pattern.Extent switch
            {
                Extent.WithTerm with => $"term {with.Term.Value}",
                Extent.Until until => $"until {Stored.Text(until.Day)}",
                Extent.Held held => $"held {held.Sessions}",
                _ => "open",
            },
            pattern.NoClass,
            pattern.Extra.IsEmpty
                ? null
                :
                [
                    .. pattern.Extra.Select(extra =>
                        $"{Stored.Text(extra.Original)} {Stored.Text(extra.Day)} {Write(extra.Time)}"
                    ),
                ],
            Without: pattern.Without.IsEmpty ? null : [.. pattern.Without.Select(Stored.Text)]
        );

    /// <summary>The pattern of the text.</summary>
    /// <exception cref="FormatException">The text is no pattern that can be planned; the message says why.</exception>
    public MeetingPattern ToPattern()
    {
        if (Form != WrittenNow)
            throw new FormatException($"it is of form {Form}, which a newer almanac wrote");
        var pattern = Read();
        return pattern.Unplannable() is { } reason ? throw new FormatException(reason) : pattern;
    }

    private MeetingPattern Read() =>
        new(
            Rule is not null ? ReadRule(Rule)
                : Cycle is not null ? new Repeat.OnCycleDays([.. Cycle])
                : new Repeat.OnDates([.. (Dates ?? throw new FormatException("it names no days")).Select(Stored.Day)]),
            ReadTime(Time),
            Stored.Zone(Zone),
            Stored.Day(From),
            Extent.Split(' ') switch
            {
                ["term", var term] => new Extent.WithTerm(new TermId(long.Parse(term, CultureInfo.InvariantCulture))),
                ["until", var day] => new Extent.Until(Stored.Day(day)),
                ["held", var count] => new Extent.Held(int.Parse(count, CultureInfo.InvariantCulture)),
                ["open"] => new Extent.Open(),
                _ => throw new FormatException($"“{Extent}” is no end of a series"),
            }
        )
        {
            NoClass = NoClass,
            Extra = ReadExtra(Extra ?? []),
            Without = Without is null ? [] : [.. Without.Select(Stored.Day)],
        };

    private static Repeat.ByRule ReadRule(string text)
    {
        var (rule, reason) = RuleText.Parse(text);
        return rule is null ? throw new FormatException(reason!.TrimEnd('.')) : new Repeat.ByRule(rule);
    }

    // "2026-11-14T09:00:01 2026-11-14 period 3"; an older almanac wrote no name before the day: they get one each time alike.
    private static ImmutableArray<ExtraSession> ReadExtra(IReadOnlyList<string> texts)
    {
        var isNamed = texts.All(text => text.IndexOf('T', StringComparison.Ordinal) is 10);
        if (isNamed)
            return
            [
                .. texts
                    .Select(text => text.Split(' ', 3))
                    .Select(parts =>
                        parts.Length == 3
                            ? new ExtraSession(Stored.Day(parts[1]), ReadTime(parts[2]), Stored.Original(parts[0]))
                            : throw new FormatException("an extra session has no time")
                    ),
            ];
        return ExtraSession.Named(
            texts
                .Select(text => text.Split(' ', 2))
                .Select(parts =>
                    parts.Length == 2
                        ? (Stored.Day(parts[0]), ReadTime(parts[1]))
                        : throw new FormatException("an extra session has no time")
                ),
            [],
            Core.Terms.BellSchedule.None
        );
    }

    /// <summary>As JSON.</summary>
    public override string ToString() => JsonSerializer.Serialize(this, PatternJson.Default.PatternText);

    /// <summary>From JSON.</summary>
    /// <exception cref="FormatException">It is none.</exception>
    public static PatternText Parse(string json) =>
        JsonSerializer.Deserialize(json, PatternJson.Default.PatternText)
        ?? throw new FormatException("its pattern is empty");

    internal static string Write(SessionTime time) =>
        time switch
        {
            SessionTime.Clock { Nights: > 0 } clock => string.Create(
                CultureInfo.InvariantCulture,
                $"{Stored.Text(clock.Start)} {Stored.Text(clock.End)} {clock.Nights}"
            ),
            SessionTime.Clock clock => $"{Stored.Text(clock.Start)} {Stored.Text(clock.End)}",
            SessionTime.InPeriod named => $"period {named.Period}",
            SessionTime.AllDay { Days: > 1 and var days } => string.Create(
                CultureInfo.InvariantCulture,
                $"all day {days}"
            ),
            _ => "all day",
        };

    // "9:50 10:40", "22:00 02:00 1": that many days later, "period 3", "all day", "all day 5".
    internal static SessionTime ReadTime(string text) =>
        text.Split(' ', 2) is ["period", { Length: > 0 } name]
            ? new SessionTime.InPeriod(name)
            : text.Split(' ') switch
            {
                ["all", "day"] => new SessionTime.AllDay(),
                ["all", "day", var days] => new SessionTime.AllDay(
                    int.Parse(days, NumberStyles.None, CultureInfo.InvariantCulture)
                ),
                [var start, var end, var nights] => new SessionTime.Clock(
                    Stored.Time(start),
                    Stored.Time(end),
                    int.Parse(nights, NumberStyles.None, CultureInfo.InvariantCulture)
                ),
                [var start, var end] => new SessionTime.Clock(Stored.Time(start), Stored.Time(end)),
                _ => throw new FormatException($"“{text}” is no time of a session"),
            };
}

/// <summary>One change as it stands in the history.</summary>
public sealed record ChangeText(
    string Original,
    SessionStatus Standing,
    string? Day,
    string? Time,
    string? Title,
    string? Place,
    string Note,
    long? Link = null,
    string? Entry = null,
    bool? Tentative = null
)
{
    /// <summary>The text of a change.</summary>
    public static ChangeText Of(Change change) =>
        new(
            Stored.Text(change.Original),
            change.Status,
            change.Day is { } day ? Stored.Text(day) : null,
            change.Time is { } time ? PatternText.Write(time) : null,
            change.Title,
            change.Place,
            change.Note,
            change.Link?.Value,
            change.Entry is { } entry ? DoorText.Write(entry) : null,
            change.IsTentative
        );

    /// <summary>The change of the text.</summary>
    public Change ToChange() =>
        new(
            Stored.Original(Original),
            Enum.IsDefined(Standing) ? Standing : throw new FormatException($"“{Standing}” is no standing"),
            Day is null ? null : Stored.Day(Day),
            Time is null ? null : PatternText.ReadTime(Time),
            Title,
            Place,
            Note
        )
        {
            Link = Link is { } link ? new Core.JoinLinks.JoinLinkId(link) : null,
            Entry = Entry is null ? null : DoorText.ReadEntry(Entry),
            IsTentative = Tentative,
        };
}

/// <summary>A material's place in the history: on which session of the series it hung; null for all of them.</summary>
public sealed record MaterialText(long Id, string? Session)
{
    /// <summary>The session's original start, or null.</summary>
    [JsonIgnore]
    public LocalDateTime? At => Session is null ? null : Stored.Original(Session);
}

/// <summary>A series as it stands in the history, whole: what undo and restore go back to.</summary>
public sealed record SeriesState(
    long Id,
    int Version,
    bool TakenOff,
    string Title,
    string Description,
    string Place,
    PatternText Pattern,
    long? Link,
    string NumberLabel,
    int FirstNumber,
    long? Follows,
    IReadOnlyList<ChangeText> Changes,
    IReadOnlyList<MaterialText> Materials,
    bool Private = false,
    string? Only = null,
    bool Tentative = false
)
{
    /// <summary>The state of a series with its materials.</summary>
    public static SeriesState Of(Series series, bool takenOff, IEnumerable<Core.Materials.Material> materials) =>
        new(
            series.Id.Value,
            series.Version,
            takenOff,
            series.Title,
            series.Description,
            series.Place,
            PatternText.Of(series.Pattern),
            series.JoinLink?.Value,
            series.NumberLabel,
            series.FirstNumber,
            series.Follows?.Value,
            [.. series.Changes.Select(ChangeText.Of)],
            [
                .. materials
                    .Where(material => material.Series == series.Id)
                    .Select(material => new MaterialText(
                        material.Id.Value,
                        material.ForSession is { } session ? Stored.Text(session) : null
                    )),
            ],
            series.IsPrivate,
            Stored.Text(series.OnlyFor),
            series.IsTentative
        );

    /// <summary>Whether another state says the same, whatever its version; materials have lines of their own.</summary>
    public bool IsSameAs(SeriesState other) =>
        Id == other.Id
        && TakenOff == other.TakenOff
        && (
            TakenOff
            || Write([this with { Version = 0, Materials = [] }]) == Write([other with { Version = 0, Materials = [] }])
        );

    /// <summary>The series as it was, on what does not change of it.</summary>
    public Series On(Series series) =>
        series with
        {
            Title = Title,
            Description = Description,
            Place = Place,
            Pattern = Pattern.ToPattern(),
            JoinLink = Link is { } link ? new Core.JoinLinks.JoinLinkId(link) : null,
            NumberLabel = NumberLabel,
            FirstNumber = FirstNumber,
            IsPrivate = Private,
            IsTentative = Tentative,
            OnlyFor = Stored.Only(Only),
            Follows = Follows is { } follows ? new SeriesId(follows) : null,
            Changes = [.. Changes.Select(change => change.ToChange())],
        };

    /// <summary>Several as JSON.</summary>
    public static string Write(IEnumerable<SeriesState> states) =>
        JsonSerializer.Serialize([.. states], PatternJson.Default.SeriesStateArray);

    /// <summary>Several from JSON.</summary>
    public static IReadOnlyList<SeriesState> Read(string json) =>
        JsonSerializer.Deserialize(json, PatternJson.Default.SeriesStateArray) ?? [];
}

/// <summary>A material as the history keeps it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="TakenOff">Whether it is taken off.</param>
/// <param name="Series">Its series; null for the whole calendar.</param>
/// <param name="At">The original start of its one session.</param>
/// <param name="Title">Its title.</param>
/// <param name="Note">What is said of it.</param>
/// <param name="Address">Where a link leads.</param>
/// <param name="Hash">A file's hash.</param>
/// <param name="Name">A file's name.</param>
/// <param name="Type">A file's media type.</param>
/// <param name="Size">A file's size in bytes.</param>
/// <param name="Audience">Who may open it.</param>
/// <param name="Only">The only ones it is for.</param>
/// <param name="Recording">It is what was recorded.</param>
/// <param name="Release">When it is given.</param>
/// <param name="LastDay">The last day it is given on.</param>
/// <param name="Edition">Which of its contents it is.</param>
/// <param name="Due">By when it is to be done; null for nothing to be done.</param>
/// <param name="Heading">The heading that it stands under; empty for none.</param>
public sealed record MaterialState(
    long Id,
    bool TakenOff,
    long? Series,
    string? At,
    string Title,
    string Note,
    string? Address,
    string? Hash,
    string? Name,
    string? Type,
    long? Size,
    MaterialAudience Audience,
    string? Only,
    bool Recording,
    string Release,
    string? LastDay,
    int Edition,
    string? Due = null,
    string Heading = ""
)
{
    /// <summary>The state of a material.</summary>
    public static MaterialState Of(Material material, bool takenOff)
    {
        var file = material.Content as MaterialContent.StoredFile;
        return new MaterialState(
            material.Id.Value,
            takenOff,
            material.Series?.Value,
            material.ForSession is { } at ? Stored.Text(at) : null,
            material.Title,
            material.Note,
            (material.Content as MaterialContent.Link)?.Address.AbsoluteUri,
            file?.Hash,
            file?.Name,
            file?.MediaType,
            file?.Size,
            material.Audience,
            Stored.Text(material.OnlyFor),
            material.IsRecording,
            Stored.Text(material.Release),
            material.LastDay is { } last ? Stored.Text(last) : null,
            material.Edition,
            Stored.Text(material.Due),
            material.Heading
        );
    }

    /// <summary>The material as it was, on what does not change of it.</summary>
    public Material On(Material material) =>
        material with
        {
            Series = Series is { } series ? new SeriesId(series) : null,
            ForSession = At is null ? null : Stored.Original(At),
            Title = Title,
            Note = Note,
            Content = Address is not null
                ? new MaterialContent.Link(new Uri(Address))
                : new MaterialContent.StoredFile(Hash!, Name!, Type!, Size!.Value),
            Audience = Audience,
            OnlyFor = Stored.Only(Only),
            IsRecording = Recording,
            Release = Stored.ReleaseOf(Release),
            LastDay = LastDay is null ? null : Stored.Day(LastDay),
            Edition = Edition,
            Due = Stored.DueOf(Due),
            Heading = Heading,
        };

    /// <summary>Several as JSON.</summary>
    public static string Write(IEnumerable<MaterialState> states) =>
        JsonSerializer.Serialize([.. states], PatternJson.Default.MaterialStateArray);

    /// <summary>Several from JSON.</summary>
    public static IReadOnlyList<MaterialState> Read(string json) =>
        JsonSerializer.Deserialize(json, PatternJson.Default.MaterialStateArray) ?? [];
}

/// <summary>The JSON, read and written without reflection.</summary>
[JsonSourceGenerationOptions(
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    UseStringEnumConverter = true
)]
[JsonSerializable(typeof(PatternText))]
[JsonSerializable(typeof(SeriesState[]))]
[JsonSerializable(typeof(MaterialState[]))]
internal sealed partial class PatternJson : JsonSerializerContext;
