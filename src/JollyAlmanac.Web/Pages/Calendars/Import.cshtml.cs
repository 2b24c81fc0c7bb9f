using JollyAlmanac.Application;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>Takes a file of sessions for review.</summary>
public sealed class ImportModel(ImportFile importFile, Look look, Visit visit) : PageModel
{
    public Calendar Calendar { get; private set; } = null!;

    public string? Text { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(string slug) => Find(slug) ?? Page();

    public async Task<IActionResult> OnPostAsync(string slug, string? text, IFormFile? file)
    {
        if (Find(slug) is { } refusal) return refusal;
        Text = text;
        var bytes = file is { Length: > 0 } ? await file.ReadBytes() : null;
        switch (importFile.Begin(visit.Viewer, slug, text, file?.FileName, bytes))
        {
            case Outcome<long>.Done { Value: var id }:
                return Redirect($"/calendars/{slug}/import/{id}");
            case Outcome<long>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }

    private IActionResult? Find(string slug)
    {
        var refusal = look.Refusal(visit.Viewer, slug, Deed.AddSeries, out var calendar);
        Calendar = calendar;
        return refusal;
    }
}
