using JollyAlmanac.Web.Tests;

namespace JollyAlmanac.Browser.Tests;

/// <summary>What must hold of every page: WCAG 2.2 AA as far as axe-core sees, nothing cut off, a quiet console.</summary>
public sealed class EveryPageTests(Browser browser) : IClassFixture<Browser>
{
    // A page is opened once, then looked at in each: the colours and the width are style alone, and no script asks for them.
    private static readonly (int Width, int Height, bool IsDark, string[]? Rules)[] Windows =
    [
        (1280, 800, false, null),
        (1280, 800, true, ["color-contrast", "link-in-text-block"]), // what can differ in other colours
        (640, 400, false, ["target-size"]), // 1280 × 800 at 200 % zoom
        (390, 844, false, null),
    ];

    private static readonly string[] Open = ["/sign-in", "/new-password", $"/c/{DemoServer.OpenClass}", "/c/nothing"];

    private static readonly string[] Kept =
    [
        "/today",
        "/today/2026-10-12",
        "/calendars",
        "/calendars/new",
        $"/calendars/{DemoServer.Class}",
        "/calendars/signal-codes-8",
        $"/calendars/{DemoServer.Class}/publishing",
        $"/calendars/{DemoServer.Class}/edit",
        $"/calendars/{DemoServer.Class}/series/new",
        $"/c/{DemoServer.Class}?as=visitor",
        "/week/2026-10-14?on=boat-geometry-10&on=norse-tales-10&on=coastal-weather-10",
        "/school-time",
        "/school-time/roll-over",
        $"/calendars/{DemoServer.Class}/timetable",
        $"/calendars/{DemoServer.Class}/materials",
        $"/calendars/{DemoServer.Class}/history",
        "/join-links",
        "/join-links/tidepool-7k/edit",
        "/join-links/tidepool-7k/card?part=Title&part=Passcode",
        "/join-links/new",
        "/calendars/french-8",
        $"/calendars/{DemoServer.Class}/sharing?who=teodor.quill@students.skerry.example",
        "/people",
        $"/calendars/{DemoServer.Class}/class-list",
        $"/c/{DemoServer.Class}",
        "/people?find=zzz",
        "/people/2",
        "/people/new",
        "/people/habits",
        $"/calendars/{DemoServer.Class}/materials?place=all#attach",
        $"/c/{DemoServer.Class}/archive",
        $"/c/{DemoServer.Class}/archive?q=limpets",
        "/find",
        "/find?q=barnacle",
        "/people/bring-in",
        "/people/groups",
        "/people/groups/2",
        "/account",
        $"/calendars/{DemoServer.Class}/notices",
        $"/calendars/{DemoServer.Class}/import",
        "/mail",
        "/history",
        "/publishing",
        $"/ask/{DemoServer.Class}",
        $"/calendars/{DemoServer.Class}/series/new?line=Lab days 2 and 5 p4, 12 sessions, numbered, if dry",
    ];

    private static readonly string[] Readers = [DemoServer.Student, "teodor.quill@families.skerry.example"];

    // A material, and one that is looked at.
    private static readonly string[] MaterialLinks = [".kept-materials .acts a", ".kept-materials .what a[href$=look]"];

    [Fact]
    public void Every_page_is_accessible_and_fits()
    {
        browser.Zone("America/Halifax");
        var wrong = new List<string>();
        browser.SignIn(DemoServer.Coordinator);
        browser.Go($"/calendars/{DemoServer.Class}");
        var series = new Uri(browser.Find(".say a").GetDomProperty("href")!).AbsolutePath;
        var session = $"/calendars/{DemoServer.Class}/sessions/{series[(series.LastIndexOf('/') + 1)..]}.";
        browser.Go($"/calendars/{DemoServer.Class}/materials");
        string[] material =
        [
            .. MaterialLinks.Select(selector => new Uri(browser.Find(selector).GetDomProperty("href")!).AbsolutePath),
        ];
        foreach (
            var path in Kept.Concat(material)
                .Append(series)
                .Append($"{session}2026-10-16T09:50")
                .Append($"{session}2026-10-16T09:50?Do=move&Day=2026-10-12")
        )
            Look(path);
        SignOut();
        // A student's own page, and a family's by child.
        foreach (var email in Readers)
        {
            browser.SignIn(email);
            Look("/today");
            SignOut();
        }

        foreach (
            var path in Open.Append("/in/tidepool-7k?look=1")
                .Append("/in/marchbanks?look=1")
                .Append(Room())
                .Append(new Uri(browser.Server.Address("embed")).AbsolutePath)
        )
            Look(path);
        Assert.True(wrong.Count == 0, string.Join("\n", wrong.Distinct()));

        // Where the open door leads: the stand-in's room asks who comes.
        string Room()
        {
            browser.Go("/in/tidepool-7k/enter");
            return browser.Path;
        }

        void SignOut()
        {
            browser.Go("/today");
            browser.Click("details.who summary");
            browser.ClickText("button", "Sign out");
            browser.Until(() => browser.Path == "/sign-in");
        }

        void Look(string path)
        {
            browser.Complaints();
            browser.Go(path);
            foreach (var (width, height, isDark, rules) in Windows)
            {
                browser.Size(width, height);
                browser.Dark(isDark);
                var where = $"{path} at {width}{(isDark ? ", dark" : "")}";
                wrong.AddRange(browser.AxeFindings(rules).Select(finding => $"{where}: {finding}"));
                if (
                    browser.Run("return document.documentElement.scrollWidth - document.documentElement.clientWidth")
                    is long over
                        and > 0
                )
                    wrong.Add($"{where}: {over} px wider than the screen");
            }

            browser.Size(1280, 800);
            browser.Dark(false);
            // What names another part of the page by its id means one part, and one that is there (HTML §3.2.6, ARIA 1.2 §8.6).
            if (
                browser.Run(
                    """
                    const ids = [...document.querySelectorAll("[id]")].map(one => one.id);
                    const named = [...document.querySelectorAll("[aria-describedby], [aria-labelledby], label[for]")].flatMap(one =>
                        `${one.getAttribute("aria-describedby") ?? ""} ${one.getAttribute("aria-labelledby") ?? ""} ${one.htmlFor ?? ""}`
                        .split(/\s+/).filter(id => id));
                    return [...ids.filter((id, at) => ids.indexOf(id) < at), ...named.filter(id => !ids.includes(id))].join(" ");
                    """
                )
                is string { Length: > 0 } ids
            )
                wrong.Add($"{path}: ids that are there twice, or are named and not there: {ids}");
            if (path != "/c/nothing")
                wrong.AddRange(browser.Complaints().Select(complaint => $"{path}: {complaint}"));
        }
    }
}
