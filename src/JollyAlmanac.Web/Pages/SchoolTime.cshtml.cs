using JollyAlmanac.Application;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

public sealed class SchoolTimeModel(SetSchoolTime setSchoolTime, FetchFile fetchFile, RequestContext requestContext)
    : PageModel
{
    public School School { get; private set; } = null!;

    public SchoolTimeInput Input { get; private set; } = null!;

    public SchoolTimePreview? Preview { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>What of it cannot be read as it is stored.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; private set; } = [];

    public IActionResult OnGet()
    {
        switch (setSchoolTime.Open(requestContext.Viewer))
        {
            case Outcome<SchoolTimeView>.Done { Value: var view }:
                Show(view, view.Input);
                return Page();
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>What is to be said of a file of holidays.</summary>
    public IReadOnlyList<string> Remarks { get; private set; } = [];

    /// <summary>An address that was typed.</summary>
    public string? Address { get; private set; }

    /// <summary>What was fetched before; null where nothing is fetched here.</summary>
    public IReadOnlyList<KnownFile>? Files { get; private set; }

    private void Show(SchoolTimeView view, SchoolTimeInput input)
    {
        (School, Input, Unreadable) = (view.School, input, view.Unreadable);
        LastEdit = setSchoolTime.LastEdit(requestContext.Viewer);
        if (fetchFile.IsOn)
            Files = fetchFile.OfSchool(requestContext.Viewer).OrNone;
    }

    /// <summary>Adds the days of a file to those in the form; nothing is saved.</summary>
    public async Task<IActionResult> OnPostHolidaysAsync([FromForm] SchoolTimeInput input, IFormFile? holidays) =>
        Fill(
            input,
            setSchoolTime.FillHolidays(requestContext.Viewer, input, holidays is null ? [] : await holidays.ReadBytes())
        );

    /// <summary>Adds the days of a file that is fetched by its address; a known one is asked again.</summary>
    public async Task<IActionResult> OnPostFetchAsync(
        [FromForm] SchoolTimeInput input,
        string? address,
        long? known,
        CancellationToken cancellation
    )
    {
        Address = address;
        var fetched = await fetchFile.Holidays(requestContext.Viewer, address, known, cancellation);
        return Fill(
            input,
            fetched.Then(file =>
                setSchoolTime.FillHolidays(requestContext.Viewer, input, file.Bytes) switch
                {
                    Outcome<HolidaysRead>.Refused refused => new Outcome<HolidaysRead>.Refused([
                        .. refused.Problems.Select(problem => problem with { Field = "Address" }),
                    ]),
                    var read => read.Select(one =>
                        file.Since is not { } since
                            ? one
                            : one with
                            {
                                Remarks = [$"It is the same file since {Wording.WithWeekday(since)}.", .. one.Remarks],
                            }
                    ),
                }
            )
        );
    }

    public IActionResult OnPostFetchForget(long known) =>
        this.Back(
            fetchFile.ForgetHolidays(requestContext.Viewer, known),
            "/school-time#no-class",
            host => $"The address at {host} is forgotten.",
            Answers.Of
        );

    /// <summary>Undoes the last edit.</summary>
    public IActionResult OnPostUndo(int revision)
    {
        switch (setSchoolTime.Undo(requestContext.Viewer, revision))
        {
            case Outcome<School>.Done:
                TempData[TempDataKeys.Said] = "The school's time is as it was before, and every calendar follows it.";
                return Redirect("/school-time");
            case Outcome<School>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return OnGet();
            case Outcome<School>.Stale:
                Problems =
                [
                    new Problem(
                        "",
                        "Somebody changed the school's time in the meantime. Nothing was undone; here it is as it is now."
                    ),
                ];
                Response.StatusCode = StatusCodes.Status409Conflict;
                return OnGet();
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>What was done last; null where nothing was.</summary>
    public string? LastEdit { get; private set; }

    private IActionResult Fill(SchoolTimeInput input, Outcome<HolidaysRead> outcome)
    {
        switch (outcome)
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
        var opened = setSchoolTime.Open(requestContext.Viewer);
        if (opened is not Outcome<SchoolTimeView>.Done { Value: var view })
            return Answers.Of(opened);
        Show(view, input);
        if (act == "save")
        {
            switch (setSchoolTime.Save(requestContext.Viewer, input))
            {
                case Outcome<School>.Done:
                    TempData[TempDataKeys.Said] = "The school's time is saved, and every calendar follows it.";
                    return Redirect(Request.Query["back"] == "set-up" ? "/set-up" : "/school-time");
                case Outcome<School>.Refused { Problems: var problems }:
                    Problems = problems;
                    return this.Again(StatusCodes.Status422UnprocessableEntity);
                case Outcome<School>.Stale:
                    Problems =
                    [
                        new Problem(
                            "",
                            "Somebody changed the school's time while you were here. Nothing of yours was saved; open the page anew in another tab and compare."
                        ),
                    ];
                    return this.Again(StatusCodes.Status409Conflict);
                case var other:
                    return Answers.Of(other);
            }
        }

        if (
            setSchoolTime.Preview(requestContext.Viewer, input)
            is not Outcome<SchoolTimePreview>.Done { Value: var preview }
        )
            return NotFound();
        Preview = preview;
        if (Request.Headers.ContainsKey("HX-Request"))
            return Partial("_SchoolTimePreview", preview);
        Problems = preview.Problems;
        return Problems.Count == 0 ? Page() : this.Again(StatusCodes.Status422UnprocessableEntity);
    }
}
