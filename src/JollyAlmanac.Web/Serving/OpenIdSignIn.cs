using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.People;
using JollyAlmanac.Demo.OpenId;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Signing in at a provider that the school trusts (OpenID Connect, authorization code with PKCE). It tells an address, and the person
/// of that address is signed in; it makes nobody known who is not.
/// </summary>
public static class OpenIdSignIn
{
    /// <summary>The scheme's name.</summary>
    public const string Scheme = "provider";

    /// <summary>The TempData key of the ticket of somebody who is asked for a code, too.</summary>
    public const string Ticket = "Ticket";

    private const string StandInPath = "stand-in-provider";

    /// <summary>Adds it, where the settings name a provider.</summary>
    public static void Add(
        IServiceCollection services,
        AuthenticationBuilder authentication,
        AlmanacSettings settings,
        Func<IServiceProvider, Uri> root
    )
    {
        if (settings.OpenId is not { } open)
            return;
        if (open.Authority is null)
            services.AddSingleton(all => new StandInProvider(
                () => new Uri(root(all), StandInPath),
                () => root(all),
                [
                    .. (settings.Demo?.People ?? []).Select(one => new ProviderAccount(one.Name, one.Email)),
                    new ProviderAccount("Somebody from elsewhere", "somebody@elsewhere.example"),
                    new ProviderAccount(
                        "Somebody who only says so",
                        settings.Demo?.People[0].Email ?? "",
                        IsVerified: false
                    ),
                ],
                TimeProvider.System
            ));
        authentication.AddOpenIdConnect(Scheme, open.Name, _ => { });
        services
            .AddOptions<OpenIdConnectOptions>(Scheme)
            .Configure<IServiceProvider>(
                (options, all) =>
                {
                    options.Authority = (open.Authority ?? new Uri(root(all), StandInPath)).AbsoluteUri;
                    options.RequireHttpsMetadata = options.Authority.StartsWith("https:", StringComparison.Ordinal);
                    options.ClientId = open.ClientId;
                    options.ClientSecret = open.Authority is null
                        ? all.GetRequiredService<StandInProvider>().Secret
                        : open.Secret;
                    options.ResponseType = "code";
                    // By GET, so that cookies of the almanac need not be sent along from other sites' forms.
                    options.ResponseMode = "query";
                    options.UsePkce = true;
                    options.SaveTokens = false;
                    options.MapInboundClaims = false;
                    options.GetClaimsFromUserInfoEndpoint = true;
                    options.ClaimActions.MapJsonKey("email", "email");
                    options.ClaimActions.MapJsonKey("email_verified", "email_verified");
                    options.Scope.Clear();
                    options.Scope.Add("openid");
                    options.Scope.Add("email");
                    options.CallbackPath = "/" + StandInProvider.CallbackPath;
                    foreach (var cookie in new[] { options.CorrelationCookie, options.NonceCookie })
                    {
                        cookie.SameSite = SameSiteMode.Lax;
                        cookie.SecurePolicy = settings.IsSecure
                            ? CookieSecurePolicy.Always
                            : CookieSecurePolicy.SameAsRequest;
                    }

                    options.Events.OnTicketReceived = Received;
                    options.Events.OnRemoteFailure = failed =>
                        Back(failed, $"Signing in with {open.Name} did not work. Try once more, or use your password.");
                }
            );
    }

    /// <summary>Maps the way there, and the stand-in's own addresses where it is used.</summary>
    public static void Map(WebApplication app, AlmanacSettings settings)
    {
        if (settings.OpenId is not { } open)
            return;
        app.MapGet("/sign-in/provider", (string? next) =>
                Results.Challenge(new AuthenticationProperties { RedirectUri = Local(next) }, [Scheme])
            )
            .AllowAnonymous();
        if (open.Authority is not null)
            return;
        app.MapGet($"/{StandInPath}/.well-known/openid-configuration", (StandInProvider provider) =>
            Results.Json(provider.Configuration())
        );
        app.MapGet($"/{StandInPath}/keys", (StandInProvider provider) => Results.Json(provider.Keys()));
        app.MapGet($"/{StandInPath}/userinfo", (StandInProvider provider, HttpContext context) =>
            provider.WhoIs(
                context.Request.Headers.Authorization.ToString().Replace("Bearer ", "", StringComparison.Ordinal)
            )
                is { } who
                ? Results.Json(who)
                : Results.Unauthorized()
        );
        app.MapPost($"/{StandInPath}/token", async (StandInProvider provider, HttpContext context) =>
            {
                var form = await context.Request.ReadFormAsync(context.RequestAborted);
                return
                    provider.Redeem(
                        form["code"].ToString(),
                        form["client_id"].ToString(),
                        form["client_secret"].ToString(),
                        form["redirect_uri"].ToString(),
                        form["code_verifier"].ToString()
                    )
                        is { } tokens
                    ? Results.Json(tokens)
                    : Results.Json(new { error = "invalid_grant" }, statusCode: StatusCodes.Status400BadRequest);
            })
            .DisableAntiforgery();
    }

    private static string Local(string? next) =>
        Microsoft.AspNetCore.Http.HttpResults.RedirectHttpResult.IsLocalUrl(next) ? next! : "/today";

    private static async Task Received(TicketReceivedContext received)
    {
        var services = received.HttpContext.RequestServices;
        var (signIn, requestContext) = (
            services.GetRequiredService<SignIn>(),
            services.GetRequiredService<RequestContext>()
        );
        var email = received.Principal?.FindFirst("email")?.Value ?? "";
        var isVerified = bool.TryParse(received.Principal?.FindFirst("email_verified")?.Value, out var yes) && yes;
        switch (
            !isVerified ? null
            : EmailAddress.TryParse(email, null, out var address) ? signIn.TryVouched(address, requestContext.Place)
            : new SignInAnswer.Wrong()
        )
        {
            case SignInAnswer.Welcome welcome:
                await requestContext.SignIn(welcome);
                received.Response.Redirect(Local(received.ReturnUri));
                received.HandleResponse();
                break;
            case SignInAnswer.AskCode asked:
                await Back(
                    received,
                    null,
                    services.GetRequiredService<CodeTicket>().Of(asked),
                    Local(received.ReturnUri)
                );
                break;
            case null:
                await Back(
                    received,
                    "You are known there, but it has not been seen that the e-mail address is yours. Have it verified there, or use your password."
                );
                break;
            default:
                await Back(
                    received,
                    $"Nobody of this school has the address {(email.Length is > 0 and <= 100 ? email : "that came")}. Ask the office to add it, or use another sign-in."
                );
                break;
        }
    }

    private static Task Back(
        HandleRequestContext<RemoteAuthenticationOptions> at,
        string? said,
        string? ticket = null,
        string? next = null
    )
    {
        var kept = at
            .HttpContext.RequestServices.GetRequiredService<ITempDataDictionaryFactory>()
            .GetTempData(at.HttpContext);
        if (said is not null)
            kept[TempDataKeys.Said] = said;
        if (ticket is not null)
            kept[Ticket] = ticket;
        kept.Save();
        at.Response.Redirect("/sign-in" + (next is null ? "" : QueryString.Create("next", next)));
        at.HandleResponse();
        return Task.CompletedTask;
    }
}
