using System.Globalization;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>A form that was sent after its sign-in had ended, to be sent again.</summary>
public sealed class SavedFormModel(SavedForms forms, RequestContext requestContext) : PageModel
{
    public SavedForm? Form { get; private set; }

    /// <summary>What somebody wrote, without what the page itself put there.</summary>
    public IEnumerable<KeyValuePair<string, string>> Shown =>
        Form!.Fields.Where(one =>
            one.Value.Length > 0
            && !one.Key.EndsWith("Version", StringComparison.OrdinalIgnoreCase)
            && one.Key is not ("Revision" or "key" or "back")
        );

    public void OnGet(string key) =>
        Form = requestContext.Person is { } person
            ? forms.Find(key, person.Id.Value.ToString(CultureInfo.InvariantCulture))
            : null;
}
