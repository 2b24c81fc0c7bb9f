using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>Which page of a calendar is shown, for the head that all of them have.</summary>
/// <param name="Slug">The calendar.</param>
/// <param name="Leaf">The page by its name; empty for one that no link of the head leads to.</param>
public sealed record CalendarPage(Slug Slug, string Leaf);
