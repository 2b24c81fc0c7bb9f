using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

public sealed class IndexModel : PageModel
{
    public IActionResult OnGet() => Redirect("/today");
}
