using JollyAlmanac.Application;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>One material, for those who keep it.</summary>
public sealed class MaterialModel(EditMaterials materials, SendFiles files, RequestContext requestContext) : PageModel
{
    public MaterialView View { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public MaterialFields Fields { get; private set; } = null!;

    public string Place { get; private set; } = "";

    public string NewAddress { get; private set; } = "";

    public IActionResult OnGet(Slug slug, long id)
    {
        var outcome = materials.One(requestContext.Viewer, slug, id);
        if (outcome is not Outcome<MaterialView>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        Fields = MaterialFields.Of(view.Kept.Material);
        Place = view.Spot?.Key ?? "";
        return Page();
    }

    public IActionResult OnPost(Slug slug, long id, [FromForm] MaterialFields fields, string? place, int version) =>
        Answer(slug, id, materials.Change(requestContext.Viewer, slug, id, place, fields.Details, version), () =>
            (Fields, Place) = (fields, place ?? "")
        );

    public async Task<IActionResult> OnPostReplaceAsync(
        Slug slug,
        long id,
        [FromForm] IReadOnlyList<string>? uploads,
        IFormFile? newFile,
        string? newAddress,
        int version,
        CancellationToken cancellation
    )
    {
        UploadKey? key = MaterialFields.KeysOf(uploads) is [.., var last] ? last : null;
        if (newFile is not null)
            switch (
                await files.Whole(
                    requestContext.Viewer,
                    slug,
                    new Upload(newFile.FileName, newFile.Length, newFile.OpenReadStream),
                    cancellation
                )
            )
            {
                case Outcome<UploadedFile>.Done { Value: var taken }:
                    key = taken.Key;
                    break;
                case Outcome<UploadedFile>.Refused refused:
                    return Answer(
                        slug,
                        id,
                        new Outcome<string>.Refused([.. refused.Problems.Select(one => one with { Field = "NewFile" })])
                    );
                case var other:
                    return Answers.Of(other);
            }

        return Answer(slug, id, materials.Replace(requestContext.Viewer, slug, id, key, newAddress, version), () =>
            NewAddress = newAddress ?? ""
        );
    }

    public IActionResult OnPostTakeOff(Slug slug, long id, int version) =>
        Answer(slug, id, materials.Remove(requestContext.Viewer, slug, id, version));

    public IActionResult OnPostCopy(Slug slug, MaterialKey? key, string? copyTo, long id) =>
        Answer(slug, id, materials.Copy(requestContext.Viewer, slug, key ?? default, copyTo, move: false));

    private IActionResult Answer(Slug slug, long id, Outcome<string> outcome, Action? keep = null) =>
        this.Back(
            outcome,
            outcome.IsDone ? $"/calendars/{slug}/materials" : $"/calendars/{slug}/materials/{id}",
            said =>
            {
                TempData[TempDataKeys.MayUndo] = true;
                return said;
            },
            refused =>
            {
                Problems = refused.Problems;
                var page = OnGet(slug, id);
                keep?.Invoke();
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return page;
            }
        );
}
