using JollyAlmanac.Application;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Takes the files of a school for review. For coordinators.</summary>
public sealed class SchoolFilesModel(SchoolImport schoolImport, RequestContext requestContext) : PageModel
{
    public string? Text { get; private set; }

    /// <summary>The review that further files come to; null for a new one.</summary>
    public long? With { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>What was taken in last and can be taken back; null for nothing.</summary>
    public string? Last { get; private set; }

    public IActionResult OnGet(long? with)
    {
        if (requestContext.Viewer.Role != SchoolRole.Coordinator)
            return StatusCode(StatusCodes.Status403Forbidden);
        With = with;
        Last = schoolImport.LastTakenIn(requestContext.Viewer);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(IReadOnlyList<IFormFile>? files, string? text, long? with)
    {
        (Text, With) = (text, with);
        var read = new List<(string, byte[])>();
        foreach (var file in files ?? [])
            read.Add((Path.GetFileName(file.FileName), await file.ReadBytes()));
        switch (schoolImport.Begin(requestContext.Viewer, read, text, with))
        {
            case Outcome<long>.Done { Value: var id }:
                return Redirect($"/school-files/{id}");
            case Outcome<long>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostUndo() =>
        this.Back(
            schoolImport.Undo(requestContext.Viewer),
            "/school-files",
            said => said,
            refused =>
            {
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            }
        );
}
