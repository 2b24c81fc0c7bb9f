using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>A step of setting up.</summary>
/// <param name="Key">Stands for it in an address.</param>
/// <param name="Name">What it is.</param>
/// <param name="Why">What it is good for, while it is not done.</param>
/// <param name="Done">What there is, once it is done.</param>
/// <param name="Act">What its button says.</param>
/// <param name="Address">Where it is done.</param>
/// <param name="IsDone">Whether it is done.</param>
public sealed record SetUpStep(
    string Key,
    string Name,
    string Why,
    string Done,
    string Act,
    string Address,
    bool IsDone
);

/// <summary>Leads on after the first run: bells, no-class days, first calendar, first series, publishing.</summary>
public sealed class SetUpModel(SetUpQuery setUpQuery, RequestContext requestContext) : PageModel
{
    public IReadOnlyList<SetUpStep> Steps { get; private set; } = [];

    /// <summary>All can be done at once, by the school's files.</summary>
    public bool MayBringSchool => requestContext.Viewer.Role == SchoolRole.Coordinator;

    /// <summary>The keys of steps that shall wait.</summary>
    public IReadOnlyList<string> Skipped { get; private set; } = [];

    /// <summary>The first step that is not done and shall not wait; else the first that is not done; null where all are.</summary>
    public SetUpStep? Next =>
        Steps.FirstOrDefault(step => !step.IsDone && !Skipped.Contains(step.Key))
        ?? Steps.FirstOrDefault(step => !step.IsDone);

    public IActionResult OnGet(string? skip)
    {
        if (requestContext.Viewer.Role is not (SchoolRole.Coordinator or SchoolRole.Teacher))
            return StatusCode(StatusCodes.Status403Forbidden);
        var (school, first, series, isPublished, hasPeople) = setUpQuery.Read(requestContext.Viewer)!;
        var time = school.Time;
        var at = first is null ? "/calendars/new" : $"/calendars/{first.Slug}";
        var steps = new List<SetUpStep>();
        if (requestContext.Viewer.Role == SchoolRole.Coordinator)
        {
            steps.Add(
                new(
                    "bells",
                    "The bells",
                    "When each period begins and ends. A series can then be “period 3”, and follows when bells change.",
                    $"{time.Bells.Name}: {Wording.Count(time.Bells.Periods.Length, "period", "periods")}.",
                    "Enter the bells",
                    "/school-time?back=set-up#bells",
                    !time.Bells.Periods.IsEmpty
                )
            );
            steps.Add(
                new(
                    "no-class",
                    "Days without class",
                    "Holidays and staff days, entered once for the whole school; every series leaves them out by itself. A list can be pasted.",
                    $"{Wording.Count(time.NoClassDays.Length, "day or range is", "days and ranges are")} known.",
                    "Enter the days",
                    "/school-time?back=set-up#no-class",
                    !time.NoClassDays.IsEmpty
                )
            );
            steps.Add(
                new(
                    "people",
                    "The people",
                    "Colleagues, students, families: paste the list you have, or take your school’s roster. Who is to sign in is invited by e-mail.",
                    "They are known.",
                    "Import people",
                    hasPeople ? "/people" : "/people/bring-in",
                    hasPeople
                )
            );
        }

        steps.Add(
            new(
                "calendar",
                "The first class calendar",
                "One for each class: its sessions, its join link and its materials stand on it.",
                first is null ? "" : $"{first.Title} is there.",
                "Make a calendar",
                at,
                first is not null
            )
        );
        steps.Add(
            new(
                "series",
                "The first series",
                "Days, time and join link of a class, for the whole term, on one form or in one line.",
                $"{Wording.Count(series, "series meets", "series meet")}.",
                "Add a series",
                first is null ? "/calendars/new" : $"{at}/series/new",
                series > 0
            )
        );
        steps.Add(
            new(
                "publish",
                "Publishing",
                "The class page has its address already. A feed goes into the calendars people have, an embed onto the school’s website, a join card onto the wall.",
                "There is a feed or an embed.",
                "Publish it",
                first is null ? "/calendars/new" : $"{at}/publishing",
                isPublished
            )
        );
        Steps = steps;
        Skipped =
        [
            .. (skip ?? "")
                .Split(',', StringSplitOptions.RemoveEmptyEntries)
                .Where(key => steps.Any(step => step.Key == key))
                .Distinct(),
        ];
        return Page();
    }
}
