using JollyAlmanac.Web.Tests;

namespace JollyAlmanac.Browser.Tests;

/// <summary>What must hold of every page: WCAG 2.2 AA as far as axe-core sees, nothing cut off, a quiet console.</summary>
public abstract class EveryPageTests(Browser browser)
{
    private static readonly string[] Open = ["/sign-in", "/new-password", $"/c/{DemoServer.OpenClass}", "/c/nothing"];

    private static readonly string[] Kept =
    [
        "/today", "/today/2026-10-12", "/calendars", "/calendars/new", $"/calendars/{DemoServer.Class}", "/calendars/signal-codes-8",
        $"/calendars/{DemoServer.Class}/publishing",
        $"/calendars/{DemoServer.Class}/edit", $"/calendars/{DemoServer.Class}/series/new", $"/c/{DemoServer.Class}?as=visitor",
        "/week/2026-10-14?on=boat-geometry-10&on=norse-tales-10&on=coastal-weather-10", "/school-time", "/school-time/roll-over",
        $"/calendars/{DemoServer.Class}/timetable", $"/calendars/{DemoServer.Class}/materials",
        $"/calendars/{DemoServer.Class}/history", "/join-links", "/join-links/tidepool-7k/edit",
        "/join-links/tidepool-7k/card?part=Title&part=Passcode", "/join-links/new", "/calendars/french-8",
        $"/calendars/{DemoServer.Class}/sharing?who=teodor.quill@students.skerry.example", "/people",
    ];

    private static readonly string[] Readers = [DemoServer.Student, "teodor.quill@families.skerry.example"];

    // A material, and one that is looked at.
    private static readonly string[] MaterialLinks = [".kept-materials .acts a", ".kept-materials .what a[href$=look]"];

    // Made of the same parts as others: looked at once wide and once narrow.
    private static readonly string[] Alike =
    [
        $"/calendars/{DemoServer.Class}/class-list", $"/c/{DemoServer.Class}", "/people?find=zzz", "/people/2", "/people/new",
        "/people/habits", $"/calendars/{DemoServer.Class}/materials?place=all#attach", $"/c/{DemoServer.Class}/archive",
        $"/c/{DemoServer.Class}/archive?q=limpets", "/find", "/find?q=barnacle",
        "/people/bring-in", "/people/groups",
        "/people/groups/2", "/account", $"/calendars/{DemoServer.Class}/notices", $"/calendars/{DemoServer.Class}/import", "/mail", "/history", "/publishing", $"/ask/{DemoServer.Class}",
        $"/calendars/{DemoServer.Class}/series/new?line=Lab days 2 and 5 p4, 12 sessions, numbered, if dry",
    ];

    private protected void EveryPageIsAccessibleAndFits(int width, int height, bool isDark)
    {
        string[]? only = isDark ? ["color-contrast", "link-in-text-block"] : width == 640 ? ["target-size"] : null;
        browser.Size(width, height);
        browser.Dark(isDark);
        browser.Zone("America/Halifax");
        var wrong = new List<string>();
        browser.SignIn(DemoServer.Coordinator);
        browser.Go($"/calendars/{DemoServer.Class}");
        var series = new Uri(browser.Find(".say a").GetDomProperty("href")!).AbsolutePath;
        var session = $"/calendars/{DemoServer.Class}/sessions/{series[(series.LastIndexOf('/') + 1)..]}.";
        browser.Go($"/calendars/{DemoServer.Class}/materials");
        string[] material = [.. MaterialLinks.Select(selector => new Uri(browser.Find(selector).GetDomProperty("href")!).AbsolutePath)];
        foreach (var path in Kept.Concat(material).Concat(width is 1280 or 390 && !isDark ? Alike : []).Append(series).Append($"{session}2026-10-16T09:50")
            .Append($"{session}2026-10-16T09:50?Do=move&Day=2026-10-12")) Look(path);
        browser.Go("/today");
        browser.Click("details.who summary");
        browser.ClickText("button", "Sign out");
        browser.Until(() => browser.Path == "/sign-in");
        // A student's own page, and a family's by child.
        foreach (var email in Readers)
        {
            browser.SignIn(email);
            Look("/today");
            browser.Click("details.who summary");
            browser.ClickText("button", "Sign out");
            browser.Until(() => browser.Path == "/sign-in");
        }

        foreach (var path in Open.Append("/in/tidepool-7k?look=1").Append("/in/marchbanks?look=1").Append(Room())
            .Append(new Uri(browser.Server.Address("embed")).AbsolutePath)) Look(path);
        Assert.True(wrong.Count == 0, string.Join("\n", wrong.Distinct()));

        // Where the open door leads: the stand-in's room asks who comes.
        string Room()
        {
            browser.Go("/in/tidepool-7k/enter");
            return browser.Path;
        }

        void Look(string path)
        {
            browser.Complaints();
            browser.Go(path);
            wrong.AddRange(browser.AxeFindings(only).Select(finding => $"{path}: {finding}"));
            if (browser.Run("return document.documentElement.scrollWidth - document.documentElement.clientWidth") is long over and > 0)
                wrong.Add($"{path}: {over} px wider than the screen");
            // What names another part of the page by its id means one part, and one that is there (HTML §3.2.6, ARIA 1.2 §8.6).
            if (browser.Run("""
                const ids = [...document.querySelectorAll("[id]")].map(one => one.id);
                const named = [...document.querySelectorAll("[aria-describedby], [aria-labelledby], label[for]")].flatMap(one =>
                    `${one.getAttribute("aria-describedby") ?? ""} ${one.getAttribute("aria-labelledby") ?? ""} ${one.htmlFor ?? ""}`
                    .split(/\s+/).filter(id => id));
                return [...ids.filter((id, at) => ids.indexOf(id) < at), ...named.filter(id => !ids.includes(id))].join(" ");
                """) is string { Length: > 0 } ids) wrong.Add($"{path}: ids that are there twice, or are named and not there: {ids}");
            if (path != "/c/nothing") wrong.AddRange(browser.Complaints().Select(complaint => $"{path}: {complaint}"));
        }
    }
}

/// <summary>Every page on a wide screen.</summary>
public sealed class WidePageTests(Browser browser) : EveryPageTests(browser), IClassFixture<Browser>
{
    [Theory]
    [InlineData(false)]
    [InlineData(true)] // the same pages in other colours
    public void Every_page_is_accessible_and_fits(bool isDark) => EveryPageIsAccessibleAndFits(1280, 800, isDark);
}

/// <summary>Every page on a narrow screen: beside the wide one, as each takes a while.</summary>
public sealed class NarrowPageTests(Browser browser) : EveryPageTests(browser), IClassFixture<Browser>
{
    [Theory]
    [InlineData(390, 844)]
    [InlineData(640, 400)] // 1280 × 800 at 200 % zoom: does it fit, and are targets large enough?
    public void Every_page_is_accessible_and_fits(int width, int height) => EveryPageIsAccessibleAndFits(width, height, isDark: false);
}
