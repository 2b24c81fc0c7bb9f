using JollyAlmanac.Application;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>Takes a file of sessions for review.</summary>
public sealed class ImportModel(
    ImportFile importFile,
    FetchFile fetchFile,
    CalendarListQuery calendarListQuery,
    RequestContext requestContext
) : PageModel
{
    public Calendar Calendar { get; private set; } = null!;

    public string? Text { get; private set; }

    /// <summary>An address that was typed.</summary>
    public string? Address { get; private set; }

    /// <summary>What was fetched before; null where nothing is fetched here.</summary>
    public IReadOnlyList<KnownFile>? Files { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug) => Find(slug) ?? Page();

    public async Task<IActionResult> OnPostAsync(Slug slug, string? text, IFormFile? file)
    {
        if (Find(slug) is { } refusal)
            return refusal;
        Text = text;
        var bytes = file is { Length: > 0 } ? await file.ReadBytes() : null;
        switch (importFile.Begin(requestContext.Viewer, slug, text, file?.FileName, bytes))
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

    /// <summary>Fetches a file by the address that was typed, or asks a known one again.</summary>
    public async Task<IActionResult> OnPostFetchAsync(
        Slug slug,
        string? address,
        long? known,
        CancellationToken cancellation
    )
    {
        if (Find(slug) is { } refusal)
            return refusal;
        Address = address;
        switch (await fetchFile.Begin(requestContext.Viewer, slug, address, known, cancellation))
        {
            case Outcome<(long Review, LocalDate? Since)>.Done { Value: var (review, since) }:
                if (since is { } day)
                    TempData[TempDataKeys.Said] =
                        $"It is the same file since {Wording.WithWeekday(day)}. Here it is once more.";
                return Redirect($"/calendars/{slug}/import/{review}");
            case Outcome<(long Review, LocalDate? Since)>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostFetchForget(Slug slug, long known) =>
        this.Back(
            fetchFile.Forget(requestContext.Viewer, slug, known),
            $"/calendars/{slug}/import",
            host => $"The address at {host} is forgotten.",
            Answers.Of
        );

    private IActionResult? Find(Slug slug)
    {
        var refusal = calendarListQuery.Refusal(requestContext.Viewer, slug, Permission.AddSeries, out var calendar);
        Calendar = calendar;
        if (refusal is not null)
            return refusal;
        if (fetchFile.IsOn)
            Files = fetchFile.Of(requestContext.Viewer, slug).OrNone;
        return null;
    }
}
