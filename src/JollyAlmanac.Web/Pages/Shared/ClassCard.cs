using System.Text.Encodings.Web;
using System.Text.Json;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>What a class page says of itself to programs: how it is shown where its address is passed on, and its sessions.</summary>
/// <param name="Page">The page.</param>
/// <param name="Address">Its address.</param>
/// <param name="Keeps">A browser may keep its last state: it is what any stranger sees.</param>
public sealed record ClassCard(ClassPage Page, Uri Address, bool Keeps)
{
    // What means something to HTML is escaped, so that nothing in a title ends the element.
    private static readonly JsonSerializerOptions Escaped = new() { Encoder = JavaScriptEncoder.Default };

    /// <summary>A line about the class.</summary>
    public string Says =>
        Page.Top is { IsBusyOnly: false, Session: { IsHeld: true } next }
            ? $"Next: {Wording.WithWeekday(next.Day)}, {SayBack.Span(next)}. {Page.School.Name}."
            : $"{Page.School.Name}.";

    /// <summary>
    /// The sessions that are shown, as schema.org's Event (schema.org/Event) in JSON-LD 1.1. Neither links nor short addresses are in it.
    /// </summary>
    public string Sessions =>
        JsonSerializer.Serialize(
            new Dictionary<string, object>
            {
                ["@context"] = "https://schema.org",
                ["@graph"] = Page
                    .Coming.Prepend(Page.Top)
                    .OfType<ShownSession>()
                    .Where(shown => !shown.IsBusyOnly)
                    .Select(Event)
                    .ToArray(),
            },
            Escaped
        );

    private Dictionary<string, object> Event(ShownSession shown)
    {
        var session = shown.Session;
        var about = new Dictionary<string, object>
        {
            ["@type"] = "Event",
            ["name"] = shown.Title,
            ["url"] = Address.AbsoluteUri,
            ["startDate"] = At(session.StartsAt),
            ["endDate"] = At(session.EndsAt),
            ["eventStatus"] = $"https://schema.org/{(session.IsCancelled ? "EventCancelled" : "EventScheduled")}",
            ["organizer"] = new Dictionary<string, object> { ["@type"] = "Organization", ["name"] = Page.School.Name },
        };
        if (shown.Place.Length > 0)
            about["location"] = new Dictionary<string, object>
            {
                ["@type"] = "Place",
                ["name"] = shown.Place,
                ["address"] = Page.School.Name,
            };
        return about;
    }

    private string At(Instant instant) =>
        NodaTime.Text.OffsetDateTimePattern.Rfc3339.Format(instant.InZone(Page.School.Time.Zone).ToOffsetDateTime());
}
