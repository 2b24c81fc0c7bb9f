using JollyAlmanac.Demo.Rooms;
using JollyAlmanac.Web.Pages.Shared;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>
/// A room of the stand-in provider. It belongs to the pretended outside world: the almanac's own pages know nothing of it.
/// </summary>
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class RoomModel(IServiceProvider services) : PageModel
{
    private readonly StandInRooms? rooms = services.GetService<StandInRooms>();

    public string Key { get; private set; } = "";

    public RoomSight? Sight { get; private set; }

    public string? Problem { get; private set; }

    public string? Name { get; private set; }

    public string? Passcode { get; private set; }

    public string? Host { get; private set; }

    /// <summary>The page asks for news: somebody waits or is inside.</summary>
    public bool Polls => Sight?.Me is { Where: Whereabouts.Waiting or Whereabouts.Inside };

    private string? Token => Request.Cookies[Cookie];

    private string Cookie => $"room-{Key}";

    public IActionResult OnGet([FromRoute] string key, [FromRoute] string? passcode, string? host, string? name)
    {
        if (rooms is null)
            return NotFound();
        (Key, Passcode, Host, Name) = (key, passcode, host, name);
        Sight = rooms.Look(key, Token);
        return Page();
    }

    public IActionResult OnPost(
        [FromRoute] string key,
        string? act,
        [FromForm] string? passcode,
        string? host,
        string? name,
        int? person
    )
    {
        if (rooms is null)
            return NotFound();
        Key = key;
        var token = Token ?? "";
        switch (act)
        {
            case "come":
                var (fresh, reason) = rooms.Come(key, passcode, string.IsNullOrEmpty(host) ? null : host, name);
                if (fresh is null)
                {
                    OnGet(key, passcode, host, name);
                    Problem = reason;
                    return this.Again(StatusCodes.Status422UnprocessableEntity);
                }

                Response.Cookies.Append(
                    Cookie,
                    fresh,
                    new CookieOptions
                    {
                        Path = $"/rooms/{key}",
                        HttpOnly = true,
                        Secure = Request.IsHttps,
                        SameSite = SameSiteMode.Lax,
                        IsEssential = true,
                    }
                );
                break;
            case "admit":
                rooms.Admit(key, token, person);
                break;
            case "remove" when person is { } who:
                rooms.Remove(key, token, who);
                break;
            case "leave":
                rooms.Leave(key, token);
                break;
            case "end":
                rooms.EndForAll(key, token);
                break;
        }

        return Redirect($"/rooms/{key}");
    }
}
