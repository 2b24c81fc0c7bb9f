using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.OutputCaching;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>
/// The first address: Today for who is signed in; for a stranger the school's front page, where the school has one, or the sign-in.
/// </summary>
[OutputCache(PolicyName = AnonymousResponseCache.Name)]
public sealed class FrontPageModel(FrontPageQuery frontPageQuery, RequestContext requestContext) : PageModel
{
    private const int MostDays = 5;

    /// <summary>What is open to anyone.</summary>
    public CalendarList List { get; private set; } = null!;

    /// <summary>The notices for all.</summary>
    public IReadOnlyList<Core.Publishing.ShownNotice> Notices { get; private set; } = [];

    /// <summary>Who teaches a class of the list; empty where its page does not say so.</summary>
    public string TeacherOf(CalendarLine line) => teachers.GetValueOrDefault(line.Calendar.Id, "");

    private IReadOnlyDictionary<CalendarId, string> teachers = new Dictionary<CalendarId, string>();

    /// <summary>The school as schema.org's School (schema.org/School) in JSON-LD 1.1.</summary>
    public string Card =>
        System.Text.Json.JsonSerializer.Serialize(
            new Dictionary<string, string>
            {
                ["@context"] = "https://schema.org",
                ["@type"] = "School",
                ["name"] = List.School.Name,
                ["url"] = requestContext.Root.AbsoluteUri,
            }
        );

    public string Find { get; private set; } = "";

    public string? Within { get; private set; }

    public int Number { get; private set; } = 1;

    /// <summary>The days without class that come next.</summary>
    public IReadOnlyList<Core.Terms.NoClassDay> Off { get; private set; } = [];

    public IActionResult OnGet(string? find, string? within, int page = 1)
    {
        if (requestContext.Person is not null)
            return Redirect("/today");
        Find = (find ?? "").Trim() is { Length: <= 80 } words ? words : "";
        (Within, Number) = (string.IsNullOrEmpty(within) ? null : within, Math.Clamp(page, 1, 10_000));
        // As a visitor, whatever the request brings: what is for named people is neither shown nor counted.
        if (frontPageQuery.Read(Within, Find, Number) is not { } front)
            return Challenge();
        (List, Notices, teachers) = (front.List, front.Notices, front.Teachers);
        var school = List.School;
        var today = List.Now.InZone(school.Time.Zone).Date;
        Off = [.. school.Time.NoClassDays.Where(day => day.Last >= today).Take(MostDays)];
        return Page();
    }

    /// <summary>The lines that are shown, by department; its own calendar first.</summary>
    public IEnumerable<(Calendar? Department, IReadOnlyList<CalendarLine> Lines)> Groups()
    {
        var departments = List
            .Lines.Where(line => line.Calendar.Kind == CalendarKind.Department)
            .ToDictionary(line => line.Calendar.Id, line => line.Calendar);
        CalendarId? Of(CalendarLine line) =>
            line.Calendar.Kind == CalendarKind.Department ? line.Calendar.Id
            : line.Calendar.Department is { } id && departments.ContainsKey(id) ? id
            : null;
        return List
            .Lines.Where(line => Find.Length == 0 || Matches(line))
            .GroupBy(Of)
            .Select(group =>
                (
                    group.Key is { } id ? departments[id] : null,
                    (IReadOnlyList<CalendarLine>)
                        [.. group.OrderBy(line => line.Calendar.Kind != CalendarKind.Department)]
                )
            )
            .OrderBy(group => group.Item1 is null)
            .ThenBy(group => group.Item1?.Title, StringComparer.OrdinalIgnoreCase);
    }

    // Where all fit on one page the list is not searched by the query.
    private bool Matches(CalendarLine line) =>
        line.Calendar.Title.Contains(Find, StringComparison.OrdinalIgnoreCase)
        || TeacherOf(line).Contains(Find, StringComparison.OrdinalIgnoreCase);

    /// <summary>When a session is, as one says it today.</summary>
    public string WhenOf(Core.Series.Session session)
    {
        var zone = List.School.Time.Zone;
        var today = List.Now.InZone(zone).Date;
        var day =
            session.Day == today ? "today"
            : session.Day == today.PlusDays(1) ? "tomorrow"
            : Wording.WithWeekday(session.Day);
        return session.IsAllDay ? day
            : session.StartsAt <= List.Now ? "now"
            : $"{day}, {Wording.Of(session.StartAtSchool.TimeOfDay)}";
    }

    /// <summary>The address of another page of what is shown.</summary>
    public string At(int number) =>
        $"/{QueryString.Create(new Dictionary<string, string?> { ["find"] = Find.Length > 0 ? Find : null, ["within"] = Within, ["page"] = number > 1 ? number.ToString(System.Globalization.CultureInfo.InvariantCulture) : null }.Where(one => one.Value is not null))}";
}
