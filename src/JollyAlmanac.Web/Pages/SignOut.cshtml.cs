using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

public sealed class SignOutModel(RequestContext requestContext) : PageModel
{
    public IActionResult OnGet() => Redirect("/today");

    public async Task<IActionResult> OnPostAsync()
    {
        await requestContext.SignOut();
        return Redirect("/sign-in");
    }
}
