using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Keeping;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

public sealed class SchoolTimeModel(SetSchoolTime setSchoolTime, Visit visit) : PageModel
{
    public School School { get; private set; } = null!;

    public SchoolTimeInput Input { get; private set; } = null!;

    public SchoolTimePreview? Preview { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>What of it cannot be read as it is stored.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; private set; } = [];

    public IActionResult OnPostWriting(bool monthFirst, bool twelveHours)
    {
        var outcome = setSchoolTime.SetWriting(visit.Viewer, monthFirst, twelveHours);
        if (!outcome.IsDone) return Answers.Of(outcome);
        TempData[Answers.Said] =
            $"Dates in figures are read {(monthFirst ? "month first" : "day first")}, and times are written like {(twelveHours ? "1:30 pm" : "13:30")}.";
        return Redirect("/school-time");
    }

    public IActionResult OnGet()
    {
        switch (setSchoolTime.Open(visit.Viewer))
        {
            case Outcome<SchoolTimeView>.Done { Value: var view }:
                (School, Input, Unreadable) = (view.School, view.Input, view.Unreadable);
                return Page();
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>What is to be said of a file of holidays.</summary>
    public IReadOnlyList<string> Remarks { get; private set; } = [];

    /// <summary>Adds the days of a file to those in the form; nothing is saved.</summary>
    public async Task<IActionResult> OnPostHolidaysAsync([FromForm] SchoolTimeInput input, IFormFile? holidays)
    {
        switch (setSchoolTime.FillHolidays(visit.Viewer, input, holidays is null ? [] : await holidays.ReadBytes()))
        {
            case Outcome<HolidaysRead>.Done { Value: var read }:
                Remarks = read.Remarks;
                // The rows are others now than those that were sent.
                ModelState.Clear();
                return OnPost(read.Input, null);
            case Outcome<HolidaysRead>.Refused { Problems: var problems }:
                var shown = OnPost(input, null);
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return shown;
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPost([FromForm] SchoolTimeInput input, string? act)
    {
        var opened = setSchoolTime.Open(visit.Viewer);
        if (opened is not Outcome<SchoolTimeView>.Done { Value: var view }) return Answers.Of(opened);
        (School, Input, Unreadable) = (view.School, input, view.Unreadable);
        if (act == "save")
        {
            switch (setSchoolTime.Save(visit.Viewer, input))
            {
                case Outcome<School>.Done:
                    TempData[Answers.Said] = "The school's time is saved, and every calendar follows it.";
                    return Redirect(Request.Query["back"] == "set-up" ? "/set-up" : "/school-time");
                case Outcome<School>.Refused { Problems: var problems }:
                    Problems = problems;
                    return this.Again(StatusCodes.Status422UnprocessableEntity);
                case Outcome<School>.Stale:
                    Problems = [new Problem("",
                        "Somebody changed the school's time while you were here. Nothing of yours was saved; open the page anew in another tab and compare.")];
                    return this.Again(StatusCodes.Status409Conflict);
                case var other:
                    return Answers.Of(other);
            }
        }

        if (setSchoolTime.Preview(visit.Viewer, input) is not Outcome<SchoolTimePreview>.Done { Value: var preview }) return NotFound();
        Preview = preview;
        if (Request.Headers.ContainsKey("HX-Request")) return Partial("_SchoolTimePreview", preview);
        Problems = preview.Problems;
        return Problems.Count == 0 ? Page() : this.Again(StatusCodes.Status422UnprocessableEntity);
    }
}
