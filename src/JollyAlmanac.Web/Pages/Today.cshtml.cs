using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages;

/// <summary>A session on the day's page.</summary>
public sealed record SessionCard(OnCalendar Of, DayView Day, SchoolTime School)
{
    public Session Session => Of.Shown.Session;

    /// <summary>The period by name, where it has one.</summary>
    public string? Period => School.BellsOn(Session.Start.Date).Find(Session.Start.TimeOfDay, Session.End.TimeOfDay)?.Name;

    /// <summary>Where the session stands now, in words.</summary>
    public (string Text, string Kind) State => Session.IsCancelled ? ("Cancelled", "shut") : Session.PhaseAt(Day.Now) switch
    {
        SessionPhase.On when Session.IsAllDay => ("All day", "open"),
        SessionPhase.Over => ("Over", "over"),
        SessionPhase.On => ($"On now, until {Wording.Of(Session.EndAtSchool.TimeOfDay)}", "open"),
        _ when Session.StartsAt - Day.Now < Duration.FromHours(12) => ($"Starts {Wording.Until(Session.StartsAt - Day.Now)}", "ahead"),
        _ => ($"Starts at {Wording.Of(Session.StartAtSchool.TimeOfDay)}", "ahead"),
    };
}

public sealed class TodayModel(Look look, Visit visit) : PageModel
{
    public DayView View { get; private set; } = null!;

    public IActionResult OnGet(string? day, string? all)
    {
        LocalDate? date = null;
        if (day is not null)
        {
            if (LocalDatePattern.Iso.Parse(day) is not { Success: true, Value: { Year: >= 1950 and <= 2150 } parsed }) return NotFound();
            date = parsed;
        }

        View = look.AtDay(visit.Viewer, date, ownOnly: all != "1")!;
        return Page();
    }
}
