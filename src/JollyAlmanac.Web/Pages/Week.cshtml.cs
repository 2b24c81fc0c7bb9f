using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages;

public sealed class WeekModel(WeekQuery weekQuery, RequestContext requestContext) : PageModel
{
    public WeekView View { get; private set; } = null!;

    /// <summary>The calendars that are looked for; empty for none.</summary>
    public string Find { get; private set; } = "";

    public IActionResult OnGet(string? day, [FromQuery(Name = "on")] Slug[] chosen, [FromQuery] string? find)
    {
        var date =
            day is null ? null
            : LocalDatePattern.Iso.Parse(day) is { Success: true, Value: { Year: >= 1950 and <= 2150 } parsed }
                ? (NodaTime.LocalDate?)parsed
            : null;
        if (
            (day is not null && date is null)
            || weekQuery.Read(
                requestContext.Viewer,
                date,
                chosen,
                Find = find?.Trim() is { Length: <= 80 } words ? words : ""
            )
                is not { } view
        )
            return NotFound();
        View = view;
        return Page();
    }

    /// <summary>The same week choice on another week.</summary>
    public string At(NodaTime.LocalDate start) => $"/week/{start:uuuu-MM-dd}{Request.QueryString}";
}
