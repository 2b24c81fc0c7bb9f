using JollyAlmanac.Core.Materials;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>What a material is, for people.</summary>
public static class MaterialWords
{
    /// <summary>"PDF", "Slides", "Link".</summary>
    public static string KindInWords(this Material material) => material.Content switch
    {
        MaterialContent.StoredFile file => FileKind.OfMediaType(file.MediaType).Label,
        _ => "Link",
    };

    /// <summary>"PDF, 340 KB" or "Link to tides.example".</summary>
    public static string InFull(this Material material) => material.Content switch
    {
        MaterialContent.StoredFile file => $"{material.KindInWords()}, {Size(file.Size)}",
        MaterialContent.Link link => $"Link to {link.Address.IdnHost}",
        _ => "",
    };

    private static string Size(long bytes) => bytes >= 1_000_000 ? $"{bytes / 1_000_000.0:0.#} MB" : $"{Math.Max(1, bytes / 1000)} KB";
}
