using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

public sealed class SignOutModel(Visit visit) : PageModel
{
    public IActionResult OnGet() => Redirect("/today");

    public async Task<IActionResult> OnPostAsync()
    {
        await visit.SignOut();
        return Redirect("/sign-in");
    }
}
