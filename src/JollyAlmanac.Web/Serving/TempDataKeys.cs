namespace JollyAlmanac.Web.Serving;

/// <summary>What is carried to the next page under which key.</summary>
internal static class TempDataKeys
{
    /// <summary>What was done, as a sentence that the next page shows.</summary>
    public const string Said = "Said";

    /// <summary>That what was done can be undone.</summary>
    public const string MayUndo = "MayUndo";

    /// <summary>The number of a series that was saved: what may come next stands on its calendar.</summary>
    public const string SavedSeries = "SavedSeries";
}
