using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>
/// How a meeting pattern stands in a column and in the history: {"rule":"FREQ=WEEKLY;BYDAY=MO","time":"period 3","zone":…,
/// "from":"2026-09-14","extent":"term 1"}.
/// </summary>
public sealed record PatternText(
    string? Rule, IReadOnlyList<string>? Cycle, IReadOnlyList<string>? Dates, string Time, string Zone, string From, string Extent, NoClassPolicy NoClass, IReadOnlyList<string>? Extra)
{
    /// <summary>The text of a pattern.</summary>
    public static PatternText Of(MeetingPattern pattern) => new(
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
        pattern.Extra.IsEmpty ? null : [.. pattern.Extra.Select(extra => $"{Stored.Text(extra.Day)} {Write(extra.Time)}")]);

    /// <summary>The pattern of the text.</summary>
    public MeetingPattern ToPattern() => new(
        Rule is not null ? new Repeat.ByRule(RuleText.Parse(Rule).Rule!)
            : Cycle is not null ? new Repeat.OnCycleDays([.. Cycle])
            : new Repeat.OnDates([.. Dates!.Select(Stored.Day)]),
        ReadTime(Time),
        Stored.Zone(Zone),
        Stored.Day(From),
        Extent.Split(' ') switch
        {
            ["term", var term] => new Extent.WithTerm(new TermId(long.Parse(term, System.Globalization.CultureInfo.InvariantCulture))),
            ["until", var day] => new Extent.Until(Stored.Day(day)),
            ["held", var count] => new Extent.Held(int.Parse(count, System.Globalization.CultureInfo.InvariantCulture)),
            _ => new Extent.Open(),
        })
    {
        NoClass = NoClass,
        Extra = [.. (Extra ?? []).Select(text => text.Split(' ', 2)).Select(parts => new ExtraSession(Stored.Day(parts[0]), ReadTime(parts[1])))],
    };

    /// <summary>As JSON.</summary>
    public override string ToString() => JsonSerializer.Serialize(this, PatternJson.Default.PatternText);

    /// <summary>From JSON.</summary>
    public static PatternText Parse(string json) => JsonSerializer.Deserialize(json, PatternJson.Default.PatternText)!;

    internal static string Write(SessionTime time) => time switch
    {
        SessionTime.Clock clock => $"{Stored.Text(clock.Start)} {Stored.Text(clock.End)}",
        SessionTime.InPeriod named => $"period {named.Period}",
        _ => "all day",
    };

    internal static SessionTime ReadTime(string text) => text.Split(' ', 2) switch
    {
        ["all", _] => new SessionTime.AllDay(),
        ["period", var name] => new SessionTime.InPeriod(name),
        [var start, var end] => new SessionTime.Clock(Stored.Time(start), Stored.Time(end)),
        _ => throw new FormatException($"“{text}” is no time of a session."),
    };
}

/// <summary>One change as it stands in the history.</summary>
public sealed record ChangeText(string Original, Standing Standing, string? Day, string? Time, string? Title, string? Place, string Note, long? Link = null, string? Entry = null)
{
    /// <summary>The text of a change.</summary>
    public static ChangeText Of(Change change) => new(
        Stored.Text(change.Original), change.Standing, change.Day is { } day ? Stored.Text(day) : null, change.Time is { } time ? PatternText.Write(time) : null, change.Title, change.Place, change.Note,
        change.Link?.Value, change.Entry is { } entry ? DoorText.Write(entry) : null);

    /// <summary>The change of the text.</summary>
    public Change ToChange() => new(
        Stored.DateTime(Original), Standing, Day is null ? null : Stored.Day(Day), Time is null ? null : PatternText.ReadTime(Time), Title, Place, Note)
    {
        Link = Link is { } link ? new Core.JoinLinks.JoinLinkId(link) : null,
        Entry = Entry is null ? null : DoorText.ReadEntry(Entry),
    };
}

/// <summary>A material's place in the history: on which session of the series it hung; null for all of them.</summary>
public sealed record MaterialText(long Id, string? Session)
{
    /// <summary>The session's original start, or null.</summary>
    [JsonIgnore]
    public LocalDateTime? At => Session is null ? null : Stored.DateTime(Session);
}

/// <summary>A series as it stands in the history, whole: what undo and restore go back to.</summary>
public sealed record SeriesState(
    long Id, int Version, bool TakenOff, string Title, string Description, string Place, PatternText Pattern, long? Link, string NumberLabel, int FirstNumber,
    long? Follows, IReadOnlyList<ChangeText> Changes, IReadOnlyList<MaterialText> Materials)
{
    /// <summary>The state of a series with its materials.</summary>
    public static SeriesState Of(Series series, bool takenOff, IEnumerable<Core.Materials.Material> materials) => new(
        series.Id.Value, series.Version, takenOff, series.Title, series.Description, series.Place, PatternText.Of(series.Pattern), series.JoinLink?.Value, series.NumberLabel,
        series.FirstNumber, series.Follows?.Value, [.. series.Changes.Select(ChangeText.Of)],
        [.. materials.Where(material => material.Series == series.Id).Select(material => new MaterialText(material.Id.Value, material.ForSession is { } session ? Stored.Text(session) : null))]);

    /// <summary>Whether another state says the same, whatever its version.</summary>
    public bool IsSameAs(SeriesState other) =>
        Id == other.Id && TakenOff == other.TakenOff && (TakenOff || Write([this with { Version = 0 }]) == Write([other with { Version = 0 }]));

    /// <summary>The series as it was, on what does not change of it.</summary>
    public Series On(Series series) => series with
    {
        Title = Title, Description = Description, Place = Place, Pattern = Pattern.ToPattern(),
        JoinLink = Link is { } link ? new Core.JoinLinks.JoinLinkId(link) : null,
        NumberLabel = NumberLabel, FirstNumber = FirstNumber, Follows = Follows is { } follows ? new SeriesId(follows) : null,
        Changes = [.. Changes.Select(change => change.ToChange())],
    };

    /// <summary>Several as JSON.</summary>
    public static string Write(IEnumerable<SeriesState> states) => JsonSerializer.Serialize([.. states], PatternJson.Default.SeriesStateArray);

    /// <summary>Several from JSON.</summary>
    public static IReadOnlyList<SeriesState> Read(string json) => JsonSerializer.Deserialize(json, PatternJson.Default.SeriesStateArray)!;
}

/// <summary>The JSON, read and written without reflection.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull, UseStringEnumConverter = true)]
[JsonSerializable(typeof(PatternText))]
[JsonSerializable(typeof(SeriesState[]))]
internal sealed partial class PatternJson : JsonSerializerContext;
