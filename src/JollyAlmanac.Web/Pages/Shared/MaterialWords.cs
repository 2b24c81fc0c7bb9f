using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>A form that attaches to one session, where that session is shown.</summary>
/// <param name="Slug">The calendar.</param>
/// <param name="Place">The session's key.</param>
/// <param name="Back">Where it leads afterwards.</param>
/// <param name="Called">The session, for who does not see where the form stands.</param>
public sealed record AttachHere(Slug Slug, string Place, string Back, string Called);

/// <summary>What a material is, for people.</summary>
public static class MaterialWords
{
    /// <summary>"PDF", "Slides", "Link".</summary>
    public static string KindInWords(this Material material) => material.Content.KindInWords();

    /// <summary>The same of a content.</summary>
    public static string KindInWords(this MaterialContent content) =>
        content switch
        {
            MaterialContent.StoredFile file => FileKind.OfMediaType(file.MediaType).Label,
            _ => "Link",
        };

    /// <summary>"PDF, 340 KB" or "Link to tides.example".</summary>
    public static string InFull(this Material material) => material.Content.InFull();

    /// <summary>The same of a content.</summary>
    public static string InFull(this MaterialContent content) =>
        content switch
        {
            MaterialContent.StoredFile file => $"{content.KindInWords()}, {UploadLimit.InWords(file.Size)}",
            MaterialContent.Link link => $"Link to {link.Address.IdnHost}",
            _ => "",
        };

    /// <summary>Where it is opened: on a page of the almanac's where that shows it, else by itself.</summary>
    public static string Address(this Material material) =>
        $"/m/{material.Key}{(material.IsLookedAt() ? "/look" : "")}";

    /// <summary>It is shown on a page of the almanac's: a picture, a text, sound or film, or whatever has a note.</summary>
    public static bool IsLookedAt(this Material material) =>
        material.Note.Length > 0
        || (
            material.Content is MaterialContent.StoredFile file
            && FileKind.OfMediaType(file.MediaType) is { IsPicture: true } or { IsText: true } or { Plays: true }
        );

    /// <summary>By when it is to be done: "Wed 14 Oct, 9:40", "Wed 14 Oct".</summary>
    public static string InWords(this DueMoment due) =>
        $"{Wording.WithWeekday(due.Day)}{(due.Time is { } time ? $", {Wording.Of(time)}" : "")}";

    /// <summary>That it is to be done, and by when; empty where it is not.</summary>
    public static string DueInWords(this Material material) =>
        material.Due switch
        {
            Due.On { Day: var day, Time: { } time } => $"to be done by {Wording.WithWeekday(day)}, {Wording.Of(time)}",
            Due.On { Day: var day } => $"to be done by {Wording.WithWeekday(day)}",
            Due.WithSession => "to be done by the time its session starts",
            _ => "",
        };

    /// <summary>When it is given: "from Wed 14 Oct, 9:50", "30 min before it starts", "when somebody says so".</summary>
    public static string InWords(this Release release) =>
        release switch
        {
            Release.ByHand => "when somebody gives it",
            Release.From from => $"from {Wording.WithWeekday(from.At.Date)}, {Wording.Of(from.At.TimeOfDay)}",
            Release.WithSession { Minutes: 0, AfterEnd: false } => "when its session starts",
            Release.WithSession { Minutes: 0 } => "when its session ends",
            Release.WithSession with =>
                $"{Amount(Math.Abs(with.Minutes))} {(with.AfterEnd ? "after its session ends" : "before its session starts")}",
            _ => "at once",
        };

    /// <summary>How it stands, for its keepers: "given", "from Wed 14 Oct, 9:50", "waits for your word".</summary>
    public static string StateInWords(this MaterialItem kept, DateTimeZone school, Instant now) =>
        kept.IsReleased
            ? kept.Material.LastDay is { } last
                ? $"given until {Wording.Brief(last)}"
                : ""
            : kept.Material.Ends(school) <= now
                ? "given no more"
                : kept.From is { } from && from.InZone(school).LocalDateTime is var at
                    ? $"not given before {Wording.WithWeekday(at.Date)}, {Wording.Of(at.TimeOfDay)}"
                    : kept.Material.Release is Release.ByHand
                        ? "waits for your word"
                        : "not given";

    private static string Amount(int minutes) =>
        minutes % 1440 == 0 ? Wording.Count(minutes / 1440, "day", "days")
        : minutes % 60 == 0 ? Wording.Count(minutes / 60, "hour", "hours")
        : $"{minutes} min";
}
