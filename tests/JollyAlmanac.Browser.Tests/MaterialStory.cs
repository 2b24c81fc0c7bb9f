using JollyAlmanac.Web.Tests;

namespace JollyAlmanac.Browser.Tests;

/// <summary>A week is prepared by dropping files, a student has each when it is given, and finds it again; keys go anywhere.</summary>
public sealed class MaterialStory(Browser browser) : IClassFixture<Browser>
{
    private const string Materials = $"/calendars/{DemoServer.Class}/materials";

    [Fact]
    public void A_week_is_prepared_at_once_and_given_bit_by_bit()
    {
        browser.Size(1280, 800);
        browser.Server.Set(14, 9, 41);
        var folder = Directory.CreateTempSubdirectory("almanac-files-");
        try
        {
            string[] names =
            [
                "15 rocks.pdf",
                "2026-10-21 winds.pdf",
                "Sheet 26 Oct.pdf",
                "extra.pdf",
                "No 20 kelp.pdf",
            ];
            // Large enough to come in several parts.
            foreach (var name in names)
                File.WriteAllBytes(
                    Path.Combine(folder.FullName, name),
                    [.. "%PDF-1.4 "u8, .. new byte[3_000], (byte)name[0]]
                );
            browser.SignIn(DemoServer.Teacher);
            browser.Go(Materials);
            browser.Click("details.attach > summary");
            browser
                .Find("#Files")
                .SendKeys(string.Join('\n', names.Select(name => Path.Combine(folder.FullName, name))));
            browser.Until(() => browser.Run("return document.querySelectorAll('[data-sending] input').length") is 5L);
            // Several files on a series are mostly one for each session: that is proposed.
            Assert.StartsWith(
                "deal",
                (string)browser.Run("return document.getElementById('Place').value")!,
                StringComparison.Ordinal
            );
            browser.Click("form[data-sends] button.go");
            browser.Until(() => browser.Text("main").Contains("What goes where", StringComparison.Ordinal));
            Assert.Contains(
                "no. 17",
                (string)
                    browser.Run(
                        "return [...document.querySelectorAll('.dealt select')].map(one => one.selectedOptions[0].textContent).join('|')"
                    )!,
                StringComparison.Ordinal
            );
            // Given an hour after each session.
            browser.Click("form.deal details summary");
            browser.Choose("#Give", "after");
            browser.Type("#GiveAmount", "1");
            browser.Choose("#GiveUnit", "hours");
            browser.Click("form.deal button.go");
            browser.Until(() =>
                browser.Path == Materials
                && browser.Text(".said").Contains("Attached 5 materials", StringComparison.Ordinal)
            );
            SignOut();

            browser.SignIn(DemoServer.Student);
            browser.Go($"/c/{DemoServer.Class}");
            Assert.DoesNotContain("rocks", browser.Text("main"), StringComparison.Ordinal);
            // A sign-in lasts twelve hours.
            browser.Server.Set(19, 11, 40);
            browser.SignIn(DemoServer.Student);
            browser.Go($"/c/{DemoServer.Class}");
            Assert.Contains("15 rocks.pdf", browser.Text("main"), StringComparison.Ordinal);
            Assert.DoesNotContain("winds", browser.Text("main"), StringComparison.Ordinal);
            // Two weeks later it is found by a word.
            browser.Server.Set(30, 12, 0);
            browser.SignIn(DemoServer.Student);
            browser.Go($"/c/{DemoServer.Class}");
            browser.Type("#find", "rock");
            browser.Click(".find button");
            browser.Until(() => browser.Path == $"/c/{DemoServer.Class}/archive?q=rock");
            Assert.Contains("15 rocks.pdf", browser.Text(".archive"), StringComparison.Ordinal);
            SignOut();
            Assert.Empty(browser.Complaints());
        }
        finally
        {
            browser.Server.Set(14, 9, 41);
            folder.Delete(recursive: true);
        }
    }

    [Fact]
    public void Keys_find_and_go_anywhere()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Teacher);
        browser.Go("/today");
        browser.Press("/");
        browser.Until(() => browser.Run("return document.getElementById('find-dialog').open") is true);
        browser.Press("join links");
        browser.Until(() =>
            browser.Run("return document.querySelector('#find-found a')?.textContent === 'Join links'") is true
        );
        browser.Press(OpenQA.Selenium.Keys.ArrowDown);
        Assert.Equal("Join links", browser.Focused.Text);
        browser.Press(OpenQA.Selenium.Keys.Enter);
        browser.Until(() => browser.Path == "/join-links");
        browser.Press("gc");
        browser.Until(() => browser.Path == "/calendars");
        browser.Press("?");
        browser.Until(() => browser.Run("return document.getElementById('keys-dialog').open") is true);
        Assert.Empty(browser.AxeFindings());
        browser.Press(OpenQA.Selenium.Keys.Escape);
        // Who types in a field types: nothing opens.
        browser.Go("/find");
        browser.Click("#find-q");
        browser.Press("g/?");
        Assert.Equal("g/?", browser.Run("return document.getElementById('find-q').value"));
        Assert.True(browser.Run("return !document.querySelector('dialog[open]')") is true);
        SignOut();
    }

    [Fact]
    public void What_anybody_may_see_is_kept_for_when_the_line_is_gone_and_nothing_else()
    {
        browser.Size(390, 844);
        browser.Go($"/c/{DemoServer.OpenClass}");
        browser.Until(() => browser.Run("return navigator.serviceWorker.controller !== null") is true);
        browser.Go($"/c/{DemoServer.OpenClass}");
        browser.Until(() => Kept().Contains($"/c/{DemoServer.OpenClass}", StringComparison.Ordinal));
        Assert.Contains("/css/public.", Kept(), StringComparison.Ordinal);
        browser.SignIn(DemoServer.Student);
        browser.Go($"/c/{DemoServer.Class}");
        browser.Go("/today");
        Assert.DoesNotContain(DemoServer.Class, Kept(), StringComparison.Ordinal);
        Assert.DoesNotContain("/today", Kept(), StringComparison.Ordinal);
        SignOut();

        string Kept() =>
            (string)
                browser.Run(
                    "return caches.open('class-pages-1').then(store => store.keys()).then(keys => keys.map(key => new URL(key.url).pathname).join(' '))"
                )!;
    }

    private void SignOut()
    {
        browser.Go("/account");
        browser.Click("details.who summary");
        browser.ClickText("button", "Sign out");
        browser.Until(() => browser.Path == "/sign-in");
    }
}
