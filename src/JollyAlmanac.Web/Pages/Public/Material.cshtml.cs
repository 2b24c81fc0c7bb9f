using System.Text;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>A material looked at: its note, and what the almanac can show of it.</summary>
public sealed class LookAtMaterialModel(MaterialQuery materialQuery, RequestContext requestContext) : PageModel
{
    // More of a text than this is read in the file itself.
    private const int MostText = 200 * 1024;

    public Material Material { get; private set; } = null!;

    /// <summary>What kind of file it is; null for a link.</summary>
    public FileKind? Kind { get; private set; }

    /// <summary>The text of a text; null for what is none.</summary>
    public string? Text { get; private set; }

    /// <summary>The text goes on in the file.</summary>
    public bool IsCut { get; private set; }

    /// <summary>The captions beside a film.</summary>
    public Material? Captions { get; private set; }

    public IActionResult OnGet(MaterialKey key)
    {
        if (materialQuery.Find(requestContext.Viewer, key) is not { } material)
        {
            if (materialQuery.WasThere(key))
                return StatusCode(StatusCodes.Status410Gone);
            return NotFound();
        }

        Material = material;
        if (!material.IsLookedAt())
            return Redirect($"/m/{key}");
        if (material.Content is not MaterialContent.StoredFile file)
            return Page();
        Kind = FileKind.OfMediaType(file.MediaType);
        if (Kind.Plays)
            Captions = materialQuery.CaptionsOf(requestContext.Viewer, material);
        if (!Kind.IsText || !System.IO.File.Exists(materialQuery.PathOf(file)))
            return Page();
        using var reader = new StreamReader(materialQuery.PathOf(file), Encoding.UTF8);
        var text = new char[MostText];
        Text = new string(text, 0, reader.ReadBlock(text));
        IsCut = reader.Peek() >= 0;
        return Page();
    }
}
