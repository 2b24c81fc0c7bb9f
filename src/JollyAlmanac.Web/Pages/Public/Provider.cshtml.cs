using JollyAlmanac.Demo.OpenId;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>Where the stand-in for a provider of sign-ins asks who somebody is. Not there where a real one is used.</summary>
public sealed class ProviderModel(IServiceProvider services) : PageModel
{
    private readonly StandInProvider? provider = services.GetService<StandInProvider>();

    public IReadOnlyList<ProviderAccount> Accounts => provider?.Accounts ?? [];

    public IActionResult OnGet() => provider?.Knows(Asked()) is true ? Page() : NotFound();

    public IActionResult OnPost(string? who) =>
        who is { Length: > 1 } && provider?.CodeFor(Asked(), who[1..], who[0] == '+') is { } code
            ? Redirect(
                $"{Asked().RedirectUri}{QueryString.Create("code", code).Add("state", Request.Query["state"].ToString())}"
            )
            : NotFound();

    private ProviderRequest Asked() =>
        new(
            Request.Query["client_id"].ToString(),
            Request.Query["redirect_uri"].ToString(),
            Request.Query["nonce"].ToString(),
            Request.Query["code_challenge"].ToString()
        );
}
