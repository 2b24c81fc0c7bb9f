using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Materials;

/// <summary>When a material is given, as a form has it.</summary>
/// <param name="Give">"now", "hand", "from", "before", "start" or "after".</param>
/// <param name="GiveFrom">For "from": day and time by the school's clock, ISO.</param>
/// <param name="GiveAmount">For "before" and "after": how many of the unit.</param>
/// <param name="GiveUnit">"minutes", "hours" or "days".</param>
/// <param name="LastDay">The last day, ISO; empty for none.</param>
public sealed record ReleaseInput(
    string? Give = "now",
    string? GiveFrom = "",
    string? GiveAmount = "",
    string? GiveUnit = "minutes",
    string? LastDay = ""
)
{
    /// <summary>The form of what is stored.</summary>
    public static ReleaseInput Of(Material material)
    {
        var lastDay = material.LastDay is { } last ? LocalDatePattern.Iso.Format(last) : "";
        return material.Release switch
        {
            Release.ByHand => new("hand", LastDay: lastDay),
            Release.From from => new("from", Minutes.Format(from.At), LastDay: lastDay),
            Release.WithSession { Minutes: 0, AfterEnd: false } => new("start", LastDay: lastDay),
            Release.WithSession with => Math.Abs(with.Minutes) is var count && count % 1440 == 0 && count > 0
                ? new(Edge(with), "", Text(count / 1440), "days", lastDay)
            : count % 60 == 0 && count > 0 ? new(Edge(with), "", Text(count / 60), "hours", lastDay)
            : new(Edge(with), "", Text(count), "minutes", lastDay),
            _ => new("now", LastDay: lastDay),
        };
    }

    internal static readonly LocalDateTimePattern Minutes = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuu-MM-dd'T'HH:mm"
    );

    private static string Edge(Release.WithSession with) => with.AfterEnd ? "after" : "before";

    private static string Text(int count) => count.ToString(CultureInfo.InvariantCulture);
}

/// <summary>By when a material is to be done, as a form has it.</summary>
/// <param name="DueDay">The day by the school's clock, ISO; empty for nothing to be done.</param>
/// <param name="DueTime">The time of that day, "HH:mm"; empty for the whole day.</param>
/// <param name="DueWithSession">When its session starts.</param>
public sealed record DueInput(string? DueDay = "", string? DueTime = "", bool DueWithSession = false)
{
    /// <summary>The form of what is stored.</summary>
    public static DueInput Of(Due? due) =>
        due switch
        {
            Due.On { Day: var day, Time: var time } => new(
                LocalDatePattern.Iso.Format(day),
                time is { } at ? TimePattern.Format(at) : ""
            ),
            Due.WithSession => new(DueWithSession: true),
            _ => new(),
        };

    internal static readonly LocalTimePattern TimePattern = LocalTimePattern.CreateWithInvariantCulture("HH:mm");
}

/// <summary>What a form says of materials that are attached or changed.</summary>
/// <param name="Title">What people read; empty takes the file's name or the link's host.</param>
/// <param name="Note">What is said of it, in Markdown.</param>
/// <param name="PeopleOnly">Only for people of the calendar who are signed in.</param>
/// <param name="IsRecording">It is the recording of its session.</param>
/// <param name="Release">When it is given.</param>
/// <param name="Only">The only ones it is for.</param>
/// <param name="Due">By when it is to be done.</param>
/// <param name="Heading">The heading that it stands under.</param>
public sealed record MaterialDetails(
    string? Title = "",
    string? Note = "",
    bool PeopleOnly = false,
    bool IsRecording = false,
    ReleaseInput? Release = null,
    AudienceInput? Only = null,
    DueInput? Due = null,
    string? Heading = ""
);

/// <summary>Something to be attached.</summary>
/// <param name="Upload">The key of a file that is in; null for a link.</param>
/// <param name="Place">"all" for the whole calendar, "s12" for every session of a series, or a session's key.</param>
public sealed record AttachItem(UploadKey? Upload, string? Place);

/// <summary>Where a material hangs.</summary>
/// <param name="Series">The series; null for the whole calendar.</param>
/// <param name="Session">The one session; null for several.</param>
public sealed record MaterialSpot(Series? Series, Session? Session)
{
    /// <summary>"the whole class", "every session of Tidepool Biology", "no. 3, Wed 16 Sep".</summary>
    public string InWords =>
        Session is { } session
            ? $"{(session.Number is { } number ? $"no. {number}, " : "")}{Wording.WithWeekday(session.Day)}"
        : Series is { } series ? $"every session of {series.Title}"
        : "the whole class";

    /// <summary>As a form has it: "all", "s12" or a session's key.</summary>
    public string Key =>
        Session is { } session ? session.Key.ToString()
        : Series is { } series ? SeriesKey(series.Id)
        : Everything;

    /// <summary>The whole calendar.</summary>
    public const string Everything = "all";

    /// <summary>"s12".</summary>
    public static string SeriesKey(SeriesId series) => string.Create(CultureInfo.InvariantCulture, $"s{series.Value}");
}

/// <summary>Reads what forms say of materials.</summary>
internal static class MaterialForm
{
    /// <summary>The longest note.</summary>
    public const int LongestNote = 4000;

    // A year and more ahead or after is nothing that anybody means.
    private const int MostDays = 400;

    /// <summary>Where something hangs, by the form; null where it may not, which is noted.</summary>
    public static MaterialSpot? Spot(FormReader entry, AtCalendar at, CalendarFacts facts, string field, string? place)
    {
        if (place == MaterialSpot.Everything)
        {
            if (at.Context.May(Permission.ChangeSeries))
                return new MaterialSpot(null, null);
            entry.Wrong(
                field,
                "What is for the whole class is for the calendar's editors to attach. Choose one of your own series."
            );
            return null;
        }

        var session = SessionKey.TryRead(place, out var key);
        var id =
            session ? key.Series
            : place is ['s', .. var number]
            && long.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var value)
                ? new SeriesId(value)
            : default;
        if (facts.Series.FirstOrDefault(one => one.Id == id) is not { } series || !at.May(series))
        {
            entry.Wrong(field, "Choose what it is for from the list.");
            return null;
        }

        if (!session)
            return new MaterialSpot(series, null);
        if (facts.Plans(at.School.Time).First(plan => plan.Of.Id == id).Find(key) is { IsHeld: true } found)
            return new MaterialSpot(series, found);
        entry.Wrong(field, "That session is not held any more. Choose another, or every session.");
        return null;
    }

    /// <summary>By when it is to be done, by the form; null where nothing is.</summary>
    /// <param name="entry">Takes what is wrong.</param>
    /// <param name="input">The form.</param>
    /// <param name="hasSession">Whether all that it is about hangs on one session.</param>
    public static Due? Due(FormReader entry, DueInput input, bool hasSession)
    {
        var (hasDay, hasTime) = (!string.IsNullOrWhiteSpace(input.DueDay), !string.IsNullOrWhiteSpace(input.DueTime));
        if (input.DueWithSession)
        {
            if (!hasSession)
                entry.Wrong(
                    "DueDay",
                    "“When its session starts” needs one session. Choose the session it is for, or a day."
                );
            else if (hasDay || hasTime)
                entry.Wrong("DueDay", "It is to be done by a day, or when its session starts. Choose one of the two.");
            return new Due.WithSession();
        }

        if (!hasDay && !hasTime)
            return null;
        LocalTime? time = null;
        if (hasTime)
        {
            if (DueInput.TimePattern.Parse(input.DueTime!.Trim()) is { Success: true, Value: var at })
                time = at;
            else
                entry.Wrong("DueTime", "Give the time that it is to be done by like 9:40 or 16:00, or leave it empty.");
        }

        if (!hasDay)
        {
            entry.Wrong("DueDay", "Choose the day, too, that it is to be done by.");
            return null;
        }

        return entry.Day("DueDay", input.DueDay, "The day that it is to be done by") is { } day
            ? new Due.On(day, time)
            : null;
    }

    /// <summary>When it is given, by the form.</summary>
    /// <param name="entry">Takes what is wrong.</param>
    /// <param name="input">The form.</param>
    /// <param name="hasSession">Whether all that it is about hangs on one session.</param>
    public static (Release Release, LocalDate? LastDay) Release(FormReader entry, ReleaseInput input, bool hasSession)
    {
        var release = Core.Materials.Release.Now;
        var last = string.IsNullOrWhiteSpace(input.LastDay)
            ? null
            : entry.Day("LastDay", input.LastDay, "The last day");
        switch (input.Give)
        {
            case null or "" or "now":
                break;
            case "hand":
                release = new Release.ByHand();
                break;
            case "from":
                if (
                    ReleaseInput.Minutes.Parse(input.GiveFrom?.Trim() ?? "") is
                    { Success: true, Value: { Year: >= 1950 and <= 2150 } from }
                )
                    release = new Release.From(from);
                else
                    entry.Wrong("GiveFrom", "Choose the day and the time that it is given from.");
                if (release is Release.From { At: var at } && last < at.Date)
                    entry.Wrong("LastDay", "Its last day is before the day it is given from. Choose a later one.");
                break;
            case "start" or "before" or "after" when !hasSession:
                entry.Wrong(
                    "Give",
                    "Before or after a session needs one session. Choose the session it is for, or a day."
                );
                break;
            case "start":
                release = new Release.WithSession(false, 0);
                break;
            case "before" or "after":
                var unit = input.GiveUnit switch
                {
                    "hours" => 60,
                    "days" => 1440,
                    _ => 1,
                };
                if (
                    entry.Number(
                        "GiveAmount",
                        input.GiveAmount?.Trim(),
                        "The time before or after the session",
                        0,
                        MostDays * 1440 / unit
                    ) is
                    { } amount
                )
                    release = new Release.WithSession(
                        input.Give == "after",
                        (input.Give == "after" ? 1 : -1) * amount * unit
                    );
                break;
            default:
                entry.Wrong("Give", "Choose when it is given.");
                break;
        }

        return (release, last);
    }
}
