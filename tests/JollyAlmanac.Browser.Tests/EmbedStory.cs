using System.Net;
using System.Text;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using JollyAlmanac.Web.Serving;
using JollyAlmanac.Web.Tests;
using Microsoft.Extensions.DependencyInjection;

namespace JollyAlmanac.Browser.Tests;

/// <summary>A panel on another website, in a real browser: framed where that is allowed, as tall as what is in it, and nowhere
/// else.</summary>
public sealed class EmbedStory(Browser browser) : IClassFixture<Browser>
{
    [Fact]
    public void A_panel_stands_on_the_school_s_site_and_fits_its_height()
    {
        using var site = new Site();
        using var other = new Site();
        var services = browser.Server.Services;
        var teacher = services
            .GetRequiredService<AlmanacDatabase>()
            .Read(stores =>
                stores.People.ViewerOf(stores.People.FindByEmail(new EmailAddress(DemoServer.Teacher))!.Person.Id)
            );
        var tokens = Enum.GetValues<EmbedShape>()
            .Select(shape =>
                Assert
                    .IsType<Application.Outcome<PublicationWithToken>.Done>(
                        services
                            .GetRequiredService<Publications>()
                            .Make(
                                teacher,
                                new Slug(DemoServer.Class),
                                PublicationKind.Embed,
                                new PublicationInput(
                                    shape.ToString(),
                                    AccessLevel.Full,
                                    true,
                                    true,
                                    true,
                                    site.Root.AbsoluteUri
                                )
                                {
                                    Shape = shape,
                                }
                            )
                    )
                    .Value.Token
            )
            .ToList();
        var root = browser.Server.Root;
        var frames = string.Concat(
            tokens.Select(token =>
                $"<iframe src=\"{root}embed/{token}\" title=\"{token}\" width=\"520\" height=\"33\" style=\"border:0\"></iframe>"
            )
        );
        site.Says = other.Says =
            $"<!doctype html><html lang=\"en\"><title>School</title><body>{frames}<script src=\"{root}embed.js\"></script></body></html>";
        browser.Size(1280, 800);
        browser.GoTo(site.Root);
        // Each frame has grown, or shrunk, to what is in it.
        browser.Until(() =>
            browser.Run(
                "return [...document.querySelectorAll('iframe')].every(frame => frame.style.height && frame.style.height !== '33px')"
            )
                is true
        );
        foreach (var index in Enumerable.Range(0, tokens.Count))
        {
            browser.InFrame(index, () =>
            {
                Assert.True(
                    browser.Run("return document.documentElement.scrollHeight <= innerHeight + 1") is true,
                    $"{(EmbedShape)index} scrolls"
                );
                Assert.True(
                    browser.Run("return document.documentElement.scrollWidth <= innerWidth") is true,
                    $"{(EmbedShape)index} is too wide"
                );
                Assert.Empty(browser.AxeFindings());
                if ((EmbedShape)index == EmbedShape.Next)
                    Assert.Contains("Open until 10:10", browser.Text("main"), StringComparison.Ordinal);
            });
        }

        // A site whose script comes when the frames are there already: they are asked.
        site.Says =
            $"<!doctype html><html lang=\"en\"><title>School</title><body>{frames}<script>addEventListener('load', () => {{ const late = document.createElement('script'); late.src = '{root}embed.js'; document.body.append(late); }});</script></body></html>";
        browser.GoTo(site.Root);
        browser.Until(() =>
            browser.Run(
                "return [...document.querySelectorAll('iframe')].every(frame => frame.style.height && frame.style.height !== '33px')"
            )
                is true
        );
        Assert.Empty(browser.Complaints());
        browser.GoTo(other.Root);
        browser.Until(() =>
            browser.Complaints().Any(complaint => complaint.Contains("frame-ancestors", StringComparison.Ordinal))
        );
    }

    // As it is given to be pasted, on a site that carries no script of ours: what is in the frame is seen whole.
    [Fact]
    public void A_snippet_as_it_is_given_holds_what_it_shows()
    {
        using var site = new Site();
        var services = browser.Server.Services;
        var (teacher, calendar) = services
            .GetRequiredService<AlmanacDatabase>()
            .Read(stores =>
                (
                    stores.People.ViewerOf(stores.People.FindByEmail(new EmailAddress(DemoServer.Teacher))!.Person.Id),
                    stores.Calendars.Find(new Slug(DemoServer.Class))!
                )
            );
        var shapes = Enum.GetValues<EmbedShape>();
        var frames = shapes
            .Select(shape =>
                Assert
                    .IsType<Application.Outcome<PublicationWithToken>.Done>(
                        services
                            .GetRequiredService<Publications>()
                            .Make(
                                teacher,
                                new Slug(DemoServer.Class),
                                PublicationKind.Embed,
                                new PublicationInput(
                                    $"As given, {shape}",
                                    AccessLevel.Full,
                                    true,
                                    true,
                                    true,
                                    site.Root.AbsoluteUri
                                )
                                {
                                    Shape = shape,
                                }
                            )
                    )
                    .Value
            )
            .Select(made =>
                EmbedWords
                    .Snippet(browser.Server.Root, made.Token, made.Outlet, calendar)
                    .Replace(" loading=\"lazy\"", "", StringComparison.Ordinal)
            );
        site.Says =
            $"<!doctype html><html lang=\"en\"><title>School</title><body>{string.Concat(frames)}</body></html>";
        browser.Size(1280, 800);
        browser.GoTo(site.Root);
        var wrong = new List<string>();
        foreach (var (index, shape) in shapes.Index())
            browser.InFrame(index, () =>
            {
                browser.Until(() => browser.Has("main"));
                var over = (long)browser.Run("return document.documentElement.scrollHeight - innerHeight")!;
                var wide = (long)browser.Run("return document.documentElement.scrollWidth - innerWidth")!;
                if (over > 0 || wide > 0)
                    wrong.Add($"{shape}: {over} px too high, {wide} px too wide");
            });
        Assert.Empty(wrong);
    }

    // A website of one page, in this process.
    private sealed class Site : IDisposable
    {
        private readonly HttpListener listener = new();

        public Site()
        {
            using (var probe = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0))
            {
                probe.Start();
                Root = new Uri($"http://127.0.0.1:{((IPEndPoint)probe.LocalEndpoint).Port}/");
            }

            listener.Prefixes.Add(Root.AbsoluteUri);
            listener.Start();
            _ = Serve();
        }

        public Uri Root { get; }

        public string Says { get; set; } = "";

        private async Task Serve()
        {
            while (listener.IsListening)
            {
                HttpListenerContext context;
                try
                {
                    context = await listener.GetContextAsync();
                }
                catch (Exception end) when (end is HttpListenerException or ObjectDisposedException)
                {
                    return;
                }

                context.Response.ContentType = "text/html; charset=utf-8";
                if (context.Request.Url!.AbsolutePath == "/")
                    await context.Response.OutputStream.WriteAsync(Encoding.UTF8.GetBytes(Says));
                else
                    context.Response.StatusCode = 204;
                context.Response.Close();
            }
        }

        public void Dispose() => listener.Close();
    }
}
