using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>The fields of a form that attaches materials, or changes one.</summary>
public sealed record MaterialFields(
    string? Title = "",
    string? Note = "",
    bool PeopleOnly = false,
    bool IsRecording = false,
    string? Give = "now",
    string? GiveFrom = "",
    string? GiveAmount = "",
    string? GiveUnit = "minutes",
    string? LastDay = "",
    IReadOnlyList<string>? Only = null,
    string? OnlyOthers = "",
    string? DueDay = "",
    string? DueTime = "",
    bool DueWithSession = false,
    string? Heading = ""
)
{
    /// <summary>The keys of the uploads that a form names; one that is none is a key of nothing, and refused with the others.</summary>
    public static List<UploadKey> KeysOf(IReadOnlyList<string>? uploads) =>
        [
            .. (uploads ?? [])
                .Where(text => text.Length > 0)
                .Select(text => UploadKey.TryParse(text, null, out var key) ? key : default),
        ];

    /// <summary>The fields of what is stored.</summary>
    public static MaterialFields Of(Material material)
    {
        var release = ReleaseInput.Of(material);
        var due = DueInput.Of(material.Due);
        return new(
            material.Title,
            material.Note,
            material.Audience == MaterialAudience.PeopleOfTheCalendar,
            material.IsRecording,
            release.Give,
            release.GiveFrom,
            release.GiveAmount,
            release.GiveUnit,
            release.LastDay,
            AudienceInput.TicksOf(material.OnlyFor),
            "",
            due.DueDay,
            due.DueTime,
            due.DueWithSession,
            material.Heading
        );
    }

    /// <summary>As an act takes them.</summary>
    public MaterialDetails Details =>
        new(
            Title,
            Note,
            PeopleOnly,
            IsRecording,
            new ReleaseInput(Give, GiveFrom, GiveAmount, GiveUnit, LastDay),
            new AudienceInput(Only, OnlyOthers),
            new DueInput(DueDay, DueTime, DueWithSession),
            Heading
        );
}

/// <summary>Files that are in, to be attached: each with where it goes.</summary>
/// <param name="File">The file.</param>
/// <param name="To">Where it goes, as a form has it; empty for nowhere yet.</param>
/// <param name="By">How that was found.</param>
public sealed record WaitingFile(UploadedFile File, string To, MatchedBy By);

/// <summary>The materials of a calendar, for those who keep them.</summary>
public sealed class MaterialsModel(EditMaterials materials, SendFiles files, RequestContext requestContext) : PageModel
{
    /// <summary>What a place begins with that stands for the sessions of a series, one for each file.</summary>
    public const string Deal = "deal";

    public MaterialsView View { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>All sessions are shown.</summary>
    public bool All { get; private set; }

    /// <summary>What the form says.</summary>
    public MaterialFields Fields { get; private set; } = new();

    public string Place { get; private set; } = "";

    public string Address { get; private set; } = "";

    public string Back { get; private set; } = "";

    /// <summary>Files that are in and wait to be attached.</summary>
    public IReadOnlyList<WaitingFile> Waiting { get; private set; } = [];

    /// <summary>What goes where is looked at before it is attached.</summary>
    public bool IsReview { get; private set; }

    /// <summary>The form is open.</summary>
    public bool IsOpen { get; private set; }

    public IActionResult OnGet(Slug slug, string? place, string? back, bool all = false, MaterialKey? take = null)
    {
        var outcome = materials.View(requestContext.Viewer, slug, all || Waiting.Count > 0, take);
        if (outcome is not Outcome<MaterialsView>.Done { Value: var view })
            return Answers.Of(outcome);
        (View, All) = (view, all);
        if (place is { Length: > 0 })
            (Place, IsOpen) = (place, true);
        if (Local(back) is { } known)
            Back = known;
        return Page();
    }

    public async Task<IActionResult> OnPostAttachAsync(
        Slug slug,
        [FromForm] MaterialFields fields,
        [FromForm] IReadOnlyList<string>? uploads,
        [FromForm] IReadOnlyList<string>? to,
        [FromForm(Name = "Files")] IReadOnlyList<IFormFile>? sent,
        string? place,
        string? address,
        string? back,
        CancellationToken cancellation
    )
    {
        // Files that came with the form itself are taken in first; what is wrong with one does not lose the others.
        var problems = new List<Problem>();
        var keys = MaterialFields.KeysOf(uploads).Take(EditMaterials.MostAtOnce).ToList();
        foreach (var file in (sent ?? []).Take(EditMaterials.MostAtOnce - keys.Count))
            switch (
                await files.Whole(
                    requestContext.Viewer,
                    slug,
                    new Upload(file.FileName, file.Length, file.OpenReadStream),
                    cancellation
                )
            )
            {
                case Outcome<UploadedFile>.Done { Value: var taken }:
                    keys.Add(taken.Key);
                    break;
                case Outcome<UploadedFile>.Refused refused:
                    problems.AddRange(refused.Problems);
                    break;
                case var other:
                    return Answers.Of(other);
            }

        var places = to is { Count: > 0 } ? to : Enumerable.Repeat(place ?? "", keys.Count).ToList();
        if (problems.Count > 0)
            return Again(slug, problems, fields, keys, places, place, address, back, false);
        if (to is not { Count: > 0 } && place is not null && place.StartsWith(Deal, StringComparison.Ordinal))
            return
                long.TryParse(
                    place.AsSpan(Deal.Length),
                    NumberStyles.None,
                    CultureInfo.InvariantCulture,
                    out var series
                )
                && keys.Count > 0
                ? Review(
                    slug,
                    materials.Deal(requestContext.Viewer, slug, new Core.SeriesId(series), keys),
                    fields,
                    place,
                    address,
                    back
                )
                : Again(
                    slug,
                    [
                        new Problem(
                            "Files",
                            "Choose the files that are dealt out to the sessions. A link has one place: choose it from the list."
                        ),
                    ],
                    fields,
                    keys,
                    [],
                    place,
                    address,
                    back,
                    false
                );
        // A file that is dealt to nowhere is not attached, and goes.
        foreach (var key in keys.Where((_, at) => to is { Count: > 0 } && places.ElementAtOrDefault(at) is null or ""))
            files.Drop(requestContext.Viewer, key);
        var items = keys.Select((key, at) => new AttachItem(key, places.ElementAtOrDefault(at)))
            .Where(item => item.Place is { Length: > 0 } || to is not { Count: > 0 })
            .ToList();
        if (!string.IsNullOrWhiteSpace(address))
            items.Add(new AttachItem(null, place));
        return this.Back(
            materials.Attach(requestContext.Viewer, slug, items, address, fields.Details),
            Local(back) ?? $"/calendars/{slug}/materials",
            Said,
            refused => Again(slug, refused.Problems, fields, keys, places, place, address, back, to is { Count: > 0 })
        );
    }

    public IActionResult OnPostOrder(Slug slug, string? order) =>
        this.Back(
            materials.Order(
                requestContext.Viewer,
                slug,
                [
                    .. (order ?? "")
                        .Split(',')
                        .Take(500)
                        .Select(id =>
                            long.TryParse(id, NumberStyles.None, CultureInfo.InvariantCulture, out var known)
                                ? known
                                : 0
                        ),
                ]
            ),
            $"/calendars/{slug}/materials",
            said => said,
            refused => Again(slug, refused.Problems)
        );

    public IActionResult OnPostGive(Slug slug, long id, int version, string? back) =>
        this.Back(
            materials.Give(requestContext.Viewer, slug, id, version),
            Local(back) ?? $"/calendars/{slug}/materials",
            Said,
            refused => Again(slug, refused.Problems)
        );

    public IActionResult OnPostTake(Slug slug, MaterialKey? key, string? place, bool move) =>
        this.Back(
            materials.Copy(requestContext.Viewer, slug, key ?? default, place, move),
            $"/calendars/{slug}/materials",
            Said,
            refused =>
            {
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return OnGet(slug, null, null, false, key);
            }
        );

    public IActionResult OnPostUndo(Slug slug, [FromServices] UndoEdits goBack) =>
        this.Back(
            goBack.Undo(requestContext.Viewer, slug),
            $"/calendars/{slug}/materials",
            said => said,
            refused => Again(slug, refused.Problems)
        );

    private string Said(string said)
    {
        TempData[TempDataKeys.MayUndo] = true;
        return said;
    }

    private IActionResult Review(
        Slug slug,
        Outcome<IReadOnlyList<(UploadedFile File, MatchedFile Dealt)>> matchedFile,
        MaterialFields fields,
        string place,
        string? address,
        string? back
    )
    {
        if (matchedFile is not Outcome<IReadOnlyList<(UploadedFile File, MatchedFile Dealt)>>.Done { Value: var files })
            return Answers.Of(matchedFile);
        Waiting = [.. files.Select(one => new WaitingFile(one.File, one.Dealt.To?.Key.ToString() ?? "", one.Dealt.By))];
        (IsReview, Fields, Place, Address, Back) = (true, fields, place, address ?? "", Local(back) ?? "");
        return OnGet(slug, null, null);
    }

    private IActionResult Again(Slug slug, IReadOnlyList<Problem> problems) =>
        Again(slug, problems, new MaterialFields(), [], [], "", "", "", false);

    private IActionResult Again(
        Slug slug,
        IReadOnlyList<Problem> problems,
        MaterialFields fields,
        IReadOnlyList<UploadKey> keys,
        IReadOnlyList<string> places,
        string? place,
        string? address,
        string? back,
        bool isReview
    )
    {
        (Problems, Fields, Place, Address, Back) = (problems, fields, place ?? "", address ?? "", Local(back) ?? "");
        Waiting =
        [
            .. keys.Select(
                    (key, at) => (files.Find(requestContext.Viewer, key)?.File, To: places.ElementAtOrDefault(at) ?? "")
                )
                .Where(one => one.File is not null)
                .Select(one => new WaitingFile(one.File!, one.To, MatchedBy.Order)),
        ];
        (IsOpen, IsReview) = (true, isReview && Waiting.Count > 0);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return OnGet(slug, null, null);
    }

    // A page of the almanac's own alone.
    private string? Local(string? back) => back is { Length: > 0 } && Url.IsLocalUrl(back) ? back : null;
}
