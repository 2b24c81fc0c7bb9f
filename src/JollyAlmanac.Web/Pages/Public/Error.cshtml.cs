using System.Globalization;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Calendars;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

[IgnoreAntiforgeryToken]
[ResponseCache(NoStore = true)]
public sealed class ErrorModel(UploadLimit limit) : PageModel
{
    /// <summary>The status that failed; opened by itself, the one in the address.</summary>
    public int Code { get; private set; }

    /// <summary>
    /// The calendar that the address names, whether there is one or not, for whom it is not there: they may ask its keepers.
    /// </summary>
    public Slug? Asked =>
        Code == StatusCodes.Status404NotFound
        && HttpContext
            .Features.Get<Microsoft.AspNetCore.Diagnostics.IStatusCodeReExecuteFeature>()
            ?.OriginalPath.Split('/')
            is { } parts
        && parts is ["", "c" or "calendars", var text, ..]
        && Slug.TryParse(text, null, out var slug)
            ? slug
            : null;

    public (string Title, string Text) Words =>
        Code switch
        {
            400 => (
                "That request could not be read",
                "It may come from a form that was open too long. Go back, load the page again, and send it once more. Nothing was changed."
            ),
            403 => (
                "That is not yours to do",
                "Your access level does not reach that far. Ask a manager of the calendar to do it, or to raise your level. Nothing was changed."
            ),
            404 => (
                "There is nothing at this address",
                "The address may be mistyped, or what was here was removed or given a new address. If it belongs to a class, it may open once you sign in."
            ),
            410 => (
                "This was removed",
                "It was here, and those who keep it took it off. If you need it, ask the teacher of the class."
            ),
            405 => (
                "That cannot be done here",
                "The address is right, but it does not take that kind of request. Nothing was changed."
            ),
            409 => (
                "Somebody else was faster",
                "It was changed since you opened the page. Go back, load the page again, and look before you do it once more. Nothing of theirs was lost."
            ),
            413 => (
                "That was too much at once",
                $"A file may have {limit.Bytes / (1024 * 1024)} MB. Make it smaller, or attach a link to it. Nothing was changed."
            ),
            422 => ("Something in it is not right", "Go back and look at what was entered. Nothing was changed."),
            429 => ("Wait a little", "Too many addresses were tried from your network. Try again in a minute."),
            503 => (
                "The almanac is busy",
                "Something large is being saved. Nothing of yours was changed: go back and send it again in a few seconds."
            ),
            507 => (
                "There is no room left on the almanac’s disk",
                "Reading goes on, but nothing can be saved until there is room. Nothing of yours was changed; tell whoever runs the almanac."
            ),
            _ => (
                "The almanac stumbled",
                "That is our fault. Nothing of yours was lost; try again, and tell whoever keeps the almanac if it happens twice."
            ),
        };

    public void OnGet() => Store();

    public void OnPost() => Store();

    // Nothing is bound: where a body was too large, reading the form would fail again.
    private void Store()
    {
        var asked = int.Parse(RouteData.Values["code"]!.ToString()!, CultureInfo.InvariantCulture);
        Code =
            Response.StatusCode >= 400 ? Response.StatusCode
            : asked is >= 400 and < 600 ? asked
            : StatusCodes.Status404NotFound;
        Response.StatusCode = Code;
        if (Code == StatusCodes.Status503ServiceUnavailable)
            Response.Headers.RetryAfter = "5";
    }
}
