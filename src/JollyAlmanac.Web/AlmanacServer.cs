using System.Text.Encodings.Web;
using System.Text.Unicode;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Demo.Files;
using JollyAlmanac.Demo.Mail;
using JollyAlmanac.Demo.Rooms;
using JollyAlmanac.Demo.Scanning;
using JollyAlmanac.Web.Serving;
using JollyAlmanac.Web.Serving.Jobs;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Mvc.ApplicationModels;
using Microsoft.Extensions.WebEncoders;

namespace JollyAlmanac.Web;

/// <summary>Puts a server together from its settings.</summary>
public static class AlmanacServer
{
    /// <summary>A server that is ready to be started.</summary>
    /// <exception cref="DataDirectoryException">The data directory cannot be used.</exception>
    public static WebApplication Build(AlmanacSettings settings)
    {
        var builder = WebApplication.CreateSlimBuilder(
            new WebApplicationOptions
            {
                ApplicationName = typeof(AlmanacServer).Assembly.GetName().Name,
                ContentRootPath = AppContext.BaseDirectory,
                EnvironmentName = Environments.Production,
            }
        );
        builder.WebHost.UseUrls([.. settings.Urls]);
        // Run from a build, files of wwwroot are found through its manifest; a published server has them beside itself.
        if (!Directory.Exists(Path.Combine(AppContext.BaseDirectory, "wwwroot")))
            builder.WebHost.UseStaticWebAssets();
        builder
            .Logging.ClearProviders()
            .AddSimpleConsole(console => console.SingleLine = true)
            .SetMinimumLevel(LogLevel.Warning)
            // It warns that its keys lie unencrypted in the data directory; that directory is the one thing to protect.
            .AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error)
            // It warns that it makes the caching of a page with a form stricter, which is what is wanted.
            .AddFilter("Microsoft.AspNetCore.Antiforgery", LogLevel.Error);
        var uploads = settings.Uploads ?? UploadLimit.Usual;
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = MostBytes(uploads);
        });
        AddActs(builder.Services, settings, uploads);
        AddWeb(builder.Services, settings, uploads);
        var app = builder.Build();
        UseWeb(app);
        return app;
    }

    private static void AddActs(IServiceCollection services, AlmanacSettings settings, UploadLimit uploads)
    {
        services
            .AddSingleton(settings)
            .AddAlmanac(settings.DataDirectory, settings.Clock, uploads, settings.PasswordRounds);
        if (settings.StandInRooms)
            services
                .AddSingleton(all => new StandInRooms(
                    settings.DataDirectory,
                    settings.Clock,
                    () => RootOf(all, settings),
                    all.GetRequiredService<IRoomNews>,
                    TimeProvider.System
                ))
                .AddSingleton<IRoomProvider>(all => all.GetRequiredService<StandInRooms>());
        services.AddSingleton(all => new RoomProviders(all.GetService<IRoomProvider>()));
        var sender = settings.Smtp?.From ?? new MimeKit.MailboxAddress("The almanac", "almanac@almanac.invalid");
        services
            .AddSingleton(new MailDrop(settings.DataDirectory, sender))
            .AddSingleton<IMailbox>(all => all.GetRequiredService<MailDrop>());
        services.AddSingleton<IMailCarrier>(all =>
            settings.Smtp is { } smtp ? new SmtpCarrier(smtp) : all.GetRequiredService<MailDrop>()
        );
        services
            .AddSingleton(all => new AlmanacAddress(() => RootOf(all, settings), sender.Address))
            .AddHostedService<AccessJob>()
            .AddHostedService<RoomJob>()
            .AddHostedService<SessionLettersJob>()
            .AddHostedService<RemindersJob>()
            .AddHostedService<LinkLettersJob>()
            .AddHostedService<DueLettersJob>()
            .AddHostedService<PostJob>()
            .AddHostedService<AnswersJob>();
        if (settings.AsksRooms)
            services.AddSingleton<ILinkProbe>(new HttpLinkProbe());
        if (settings.FetchesFiles)
            services.AddSingleton<IFileSource, HttpFileSource>();
        else if (settings.Demo is not null)
            services.AddSingleton<IFileSource, StandInFiles>();
        if (settings.Scanner is { } scanner)
            services.AddSingleton<IFileScanner>(new ClamdScanner(scanner, TimeSpan.FromMinutes(1)));
        else if (settings.Demo is not null)
            services.AddSingleton<IFileScanner, StandInScanner>();
        services
            .AddHostedService<FileCleanupJob>()
            .AddHostedService<DocumentTextJob>()
            .AddSingleton<IThumbnails, FileWorker>();
        services.AddPrints();
        services
            .AddSingleton<GuessLimiter>()
            .AddSingleton<SmallFiles>()
            .AddSingleton<ResetLimiter>()
            .AddSingleton<SetUpCode>()
            .AddSingleton<CodeTicket>();
    }

    private static void AddWeb(IServiceCollection services, AlmanacSettings settings, UploadLimit uploads)
    {
        var secure = settings.IsSecure ? CookieSecurePolicy.Always : CookieSecurePolicy.SameAsRequest;
        // The prefix binds a cookie to this one host and to TLS (RFC 6265bis §4.1.3.2).
        string Named(string name) => settings.IsSecure ? "__Host-" + name : name;
        services
            .AddDataProtection()
            .SetApplicationName("JollyAlmanac")
            .PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(settings.DataDirectory, "keys")));
        services.Configure<Microsoft.AspNetCore.Http.Features.FormOptions>(form =>
        {
            form.MultipartBodyLengthLimit = MostBytes(uploads);
            // A timetable of a whole school has room in it; a field of megabytes is nothing that anybody typed.
            form.ValueLengthLimit = 512 * 1024;
            form.KeyLengthLimit = 200;
            form.ValueCountLimit = 600;
        });
        services.AddHttpContextAccessor().AddScoped<RequestContext>();
        services.AddSingleton<SavedForms>();
        services.AddOutputCache(cache =>
        {
            cache.SizeLimit = 32 * 1024 * 1024;
            cache.AddPolicy(AnonymousResponseCache.Name, new AnonymousResponseCache());
        });
        var authentication = services
            .AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme)
            .AddCookie(cookie =>
            {
                cookie.Cookie.Name = Named("almanac");
                cookie.Cookie.HttpOnly = true;
                cookie.Cookie.SameSite = SameSiteMode.Lax;
                cookie.Cookie.SecurePolicy = secure;
                cookie.Cookie.Path = "/";
                cookie.ExpireTimeSpan = SignIn.Lasts.ToTimeSpan();
                cookie.SlidingExpiration = false;
                cookie.LoginPath = "/sign-in";
                cookie.ReturnUrlParameter = "next";
                cookie.AccessDeniedPath = "/error/403";
                cookie.Events.OnValidatePrincipal = RequestContext.Validate;
                // Relative: no name that a request made up is carried on.
                cookie.Events.OnRedirectToLogin = async asked =>
                {
                    // A program that sends a file is told so, and not led to a page.
                    if (asked.Request.Path.StartsWithSegments("/uploads", StringComparison.Ordinal))
                    {
                        asked.Response.StatusCode = StatusCodes.Status401Unauthorized;
                        return;
                    }

                    var forms = asked.HttpContext.RequestServices.GetRequiredService<SavedForms>();
                    var next = await forms.Store(asked.HttpContext) is { } key
                        ? $"/kept/{key}"
                        : asked.Request.Path + asked.Request.QueryString;
                    asked.Response.Redirect($"/sign-in?next={Uri.EscapeDataString(next)}");
                };
            });
        services.PostConfigure<CookieAuthenticationOptions>(CookieAuthenticationDefaults.AuthenticationScheme, cookie =>
            cookie.TicketDataFormat = new TicketCache(cookie.TicketDataFormat)
        );
        OpenIdSignIn.Add(services, authentication, settings, all => RootOf(all, settings));
        services.AddAuthorization();
        // Letters of every language are sent as they are; only what means something to HTML is escaped.
        services.Configure<WebEncoderOptions>(encoder =>
            encoder.TextEncoderSettings = new TextEncoderSettings(UnicodeRanges.All)
        );
        services.AddAntiforgery(form =>
        {
            form.Cookie.Name = Named("almanac-form");
            form.Cookie.SecurePolicy = secure;
            form.Cookie.Path = "/";
            form.HeaderName = "X-Almanac-Form";
            // The almanac sets its own, stricter policy on framing.
            form.SuppressXFrameOptionsHeader = true;
        });
        services.Configure<Microsoft.AspNetCore.Mvc.CookieTempDataProviderOptions>(said =>
        {
            said.Cookie.Name = Named("almanac-said");
            said.Cookie.SecurePolicy = secure;
            said.Cookie.Path = "/";
        });
        services
            .AddRazorPages(pages =>
            {
                pages.Conventions.ConfigureFilter(new NoHandler());
                pages.Conventions.ConfigureFilter(new DuplicatePostFilter());
                pages.Conventions.AuthorizeFolder("/");
                // What is new has one form, and a guest sends none: the acts on what is there stand on its own page.
                void OneForm(string page) =>
                    pages.Conventions.AddPageApplicationModelConvention(page, model =>
                        KeepOnly(model, handler => handler.HandlerName is null)
                    );
                OneForm("/People/New");
                OneForm("/Calendars/New");
                pages.Conventions.AddPageApplicationModelConvention("/Public/Guest", model =>
                    KeepOnly(model, handler => handler.HttpMethod == "Get")
                );
                pages.Conventions.AllowAnonymousToFolder("/Public");
            })
            .AddMvcOptions(mvc => mvc.ModelMetadataDetailsProviders.Add(new GroupsOfFields()));
        services.Configure<RouteOptions>(route =>
        {
            route.LowercaseUrls = true;
            // What cannot be an id leads nowhere: no page or endpoint is asked.
            route.SetParameterPolicy<TextIdConstraint<Slug>>("slug");
            route.SetParameterPolicy<TextIdConstraint<JoinCode>>("code");
            route.SetParameterPolicy<TextIdConstraint<MaterialKey>>("key");
            route.SetParameterPolicy<TextIdConstraint<FeedToken>>("token");
        });
        services.Configure<ForwardedHeadersOptions>(headers =>
            headers.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto
        );
    }

    private static void KeepOnly(PageApplicationModel page, Predicate<PageHandlerModel> isKept)
    {
        foreach (var handler in page.HandlerMethods.Where(handler => !isKept(handler)).ToList())
            page.HandlerMethods.Remove(handler);
    }

    // Where the stand-in's rooms are reached: beside the almanac itself.
    private static Uri RootOf(IServiceProvider all, AlmanacSettings settings) =>
        settings.PublicAddress
        ?? new Uri(
            (
                all.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()?.Addresses.FirstOrDefault()
                ?? settings.Urls[0]
            ) + "/"
        );

    // A form may carry a file that is too large and be told so beside the field; what is far larger is not read at all.
    private static long MostBytes(UploadLimit uploads) => uploads.Bytes * 2 + 1024 * 1024;

    private static void UseWeb(WebApplication app)
    {
        var most = MostBytes(app.Services.GetRequiredService<UploadLimit>());
        app.UseForwardedHeaders();
        app.UseMiddleware<HostFilter>();
        app.UseExceptionHandler(
            new ExceptionHandlerOptions
            {
                ExceptionHandlingPath = "/error/500",
                StatusCodeSelector = failure =>
                    failure switch
                    {
                        BadHttpRequestException bad => bad.StatusCode,
                        _ => Outages.Of(failure) switch
                        {
                            Outage.Busy => StatusCodes.Status503ServiceUnavailable,
                            Outage.CannotWrite => StatusCodes.Status507InsufficientStorage,
                            _ => StatusCodes.Status500InternalServerError,
                        },
                    },
            }
        );
        app.UseStatusCodePagesWithReExecute("/error/{0}");
        app.UseMiddleware<SecurityHeaders>();
        app.Use(
            (context, next) =>
            {
                if (context.Request.ContentLength <= most || context.Request.ContentLength is null)
                    return next();
                context.Response.StatusCode = StatusCodes.Status413PayloadTooLarge;
                return Task.CompletedTask;
            }
        );
        app.UseRouting();
        app.UseMiddleware<SchoolClock>();
        app.UseAuthentication();
        app.Use(
            (context, next) =>
            {
                // What a signed-in person sees is for them alone, and not for who sits at the same screen after them.
                if (context.User.Identity is { IsAuthenticated: true })
                    context.Response.OnStarting(() =>
                    {
                        if (context.Response.Headers.CacheControl.Count == 0)
                            context.Response.Headers.CacheControl = "no-store";
                        return Task.CompletedTask;
                    });
                return next(context);
            }
        );
        app.UseMiddleware<FirstRunGate>();
        app.Use(SchoolClock.OfReader);
        app.UseMiddleware<PreviewGuard>();
        app.UseAuthorization();
        app.UseOutputCache();
        app.MapStaticAssets().ShortCircuit();
        app.MapRazorPages().WithStaticAssets();
        app.MapPublications();
        app.MapFiles();
        app.MapUploads();
        app.MapEmbeds();
        app.MapPrints();
        app.MapSearchEngines();
        OpenIdSignIn.Map(app, app.Services.GetRequiredService<AlmanacSettings>());
        app.MapGet("/healthz", () => "alive\n").ShortCircuit();
        app.MapGet("/readyz", (SchoolQuery schoolQuery) =>
        {
            schoolQuery.Find();
            return "ready\n";
        });
        // Short addresses that were printed before they had their present form.
        app.MapGet("/j/{code}", (string code) =>
            Results.Redirect($"/in/{Uri.EscapeDataString(code)}", permanent: true)
        );
    }
}
