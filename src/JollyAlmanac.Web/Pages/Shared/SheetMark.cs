using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Series;
using Microsoft.AspNetCore.Razor.TagHelpers;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>A session's mark on a term sheet or in a week.</summary>
/// <param name="Calendar">Its calendar.</param>
/// <param name="Shown">The session as the viewer may see it.</param>
/// <param name="Now">What counts as past.</param>
/// <param name="Letter">Stands for its series, where several share the sheet; else null.</param>
/// <param name="MayChange">It opens and can be dragged.</param>
/// <param name="IsAway">It stands where the pattern has it, but meets elsewhere or not.</param>
/// <param name="Day">The day whose cell it stands in; null for the one it begins on.</param>
public sealed record SheetMark(
    Calendar Calendar,
    ShownSession Shown,
    Instant Now,
    string? Letter,
    bool MayChange,
    bool IsAway = false,
    LocalDate? Day = null
)
{
    /// <summary>It has no material yet, where the others around it have some.</summary>
    public bool IsMissing { get; init; }

    /// <summary>Which day of a session that takes several, from 2; 1 for the day it begins on.</summary>
    public int Number => Day is { } day ? Shown.Session.NumberOf(day) : 1;

    /// <summary>The letter of a series by its place on the sheet: A to Z, then A2, B2 and so on.</summary>
    public static string LetterOf(int at) =>
        (char)('A' + (at % 26)) + (at < 26 ? "" : ((at / 26) + 1).ToString(CultureInfo.InvariantCulture));

    public string Address => $"/calendars/{Calendar.Slug}/sessions/{Shown.Session.Key}";

    public string Title
    {
        get
        {
            var session = Shown.Session;
            if (IsAway)
                return session.LeftOut is { } off
                    ? $"{Shown.Title}, left out: {off.Name}"
                    : $"{Shown.Title}, moved to {Wording.WithWeekday(session.Day)}, {SayBack.Span(session)}";
            var words = new List<string> { Shown.Title, SayBack.Span(session) };
            if (Number > 1)
                words.Add($"day {Number}");
            if (Shown.State.Length > 0)
                words.Add(Shown.State);
            if (session.Day != session.PlannedAtSchool)
                words.Add($"moved from {Wording.WithWeekday(session.PlannedAtSchool)}");
            if (Shown.Note.Length > 0)
                words.Add(Shown.Note);
            if (IsMissing)
                words.Add("no material yet, where the others have some");
            return string.Join(", ", words);
        }
    }
}

/// <summary>
/// Draws it on a term sheet: <c>&lt;sheet-mark of="mark" /&gt;</c>. A sheet has hundreds, so it is written straight, not by partials.
/// </summary>
[HtmlTargetElement("sheet-mark", TagStructure = TagStructure.WithoutEndTag)]
public sealed class SheetMarkTag(HtmlEncoder encoder) : TagHelper
{
    private const string Hollow =
        "<svg width=\"12\" height=\"12\" viewBox=\"0 0 12 12\" aria-hidden=\"true\"><circle cx=\"6\" cy=\"6\" r=\"4.6\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\" stroke-dasharray=\"2.4 1.8\"/></svg>";

    private const string Clip =
        "<svg class=\"clip\" width=\"10\" height=\"12\" viewBox=\"0 0 10 12\" role=\"img\" aria-label=\"has material\"><path d=\"M1 1h8v10H1z\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\"/><path d=\"M1 7.5h8V11H1z\" fill=\"currentColor\"/></svg>";

    private const string NoClip =
        "<svg class=\"clip no-clip\" width=\"10\" height=\"12\" viewBox=\"0 0 10 12\" role=\"img\" aria-label=\"no material yet\"><path d=\"M1 1h8v10H1z\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\" stroke-dasharray=\"2 1.6\"/></svg>";

    /// <summary>The mark.</summary>
    public SheetMark Of { get; set; } = null!;

    /// <inheritdoc />
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var session = Of.Shown.Session;
        output.TagName = Of.MayChange ? "a" : "span";
        output.TagMode = TagMode.StartTagAndEndTag;
        var movable = Of.MayChange && !Of.IsAway && !session.IsCancelled && Of.Number == 1;
        output.Attributes.SetAttribute(
            "class",
            $"s{(session.EndsAt <= Of.Now ? " past" : "")}{(session.IsCancelled ? " cancelled" : "")}{(session.IsTentative && !Of.Shown.IsBusyOnly ? " unsure" : "")}{(Of.IsAway ? " away" : "")}{(movable ? " movable" : "")}"
        );
        output.Attributes.SetAttribute("title", Of.Title);
        if (Of.MayChange)
        {
            output.Attributes.SetAttribute("href", Of.Address);
            // By its first day alone it is moved.
            if (Of.Number == 1)
                output.Attributes.SetAttribute("data-session", "");
        }

        output.Content.SetHtmlContent(Of.IsAway ? Away(session) : Here(session));
    }

    // The letter takes the mark's place: on paper without colour it tells the series apart all the same.
    private string Sign =>
        Of.Letter is { } letter
            ? $"<i class=\"letter mark mark-{Of.Calendar.Mark.Colour.ToString().ToLowerInvariant()}\" aria-hidden=\"true\">{letter}</i><span class=\"sr\">{encoder.Encode(Of.Shown.Session.Of.Title)} </span>"
            : MarkSign.Draw(Of.Calendar.Mark, 12);

    private string Away(Session session)
    {
        var sign = Of.Letter is { } letter ? $"<i class=\"letter hollow\" aria-hidden=\"true\">{letter}</i>" : Hollow;
        var day = $"{Wording.Brief(session.Day.DayOfWeek)} {session.Day.Day.ToString(CultureInfo.InvariantCulture)}";
        return $"{sign}<span class=\"sr\">{encoder.Encode(Of.Title)}</span>{(session.LeftOut is null ? $"<small>to {day}</small>" : "")}";
    }

    private string Here(Session session)
    {
        var shown = Of.Shown;
        var html = new StringBuilder(Sign);
        if (session.IsCancelled)
            html.Append("<s>cancelled</s>");
        else if (shown.IsBusyOnly)
            html.Append("<small>busy</small>");
        else
            html.Append(
                CultureInfo.InvariantCulture,
                $"<b><span class=\"sr\">no. </span>{shown.Number}{(session.IsTentative ? "?<span class=\"sr\"> not certain yet</span>" : "")}</b>"
            );
        if (Of.Number > 1)
            return html.Append(CultureInfo.InvariantCulture, $"<small>day {Of.Number}</small>").ToString();
        if (session.IsMoved && !session.IsCancelled)
            html.Append(
                CultureInfo.InvariantCulture,
                $"<svg class=\"moved\" width=\"14\" height=\"10\" viewBox=\"0 0 14 10\" role=\"img\" aria-label=\"moved from {Wording.WithWeekday(session.PlannedAtSchool)}\"><path d=\"M1 5h10M8 1.5 11.5 5 8 8.5\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.8\"/></svg>"
            );
        if (session.IsAllDay)
            html.Append("<small>all day</small>");
        else if (Of.Letter is not null || shown.IsBusyOnly || session.Start.TimeOfDay != session.Original.TimeOfDay)
            html.Append(CultureInfo.InvariantCulture, $"<small>{Wording.Of(session.StartAtSchool.TimeOfDay)}</small>");
        if (shown.Materials.Any(material => material.ForSession is not null))
            html.Append(Clip);
        else if (Of.IsMissing)
            html.Append(NoClip);
        if (shown.Note.Length > 0 || session.Change?.Title is not null)
            html.Append(
                CultureInfo.InvariantCulture,
                $"<svg class=\"note-sign\" width=\"10\" height=\"12\" viewBox=\"0 0 10 12\" role=\"img\" aria-label=\"{encoder.Encode(session.Change?.Title ?? "has a note")}\"><path d=\"M1 2h8M1 6h8M1 10h5\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.8\"/></svg>"
            );
        return html.ToString();
    }
}
