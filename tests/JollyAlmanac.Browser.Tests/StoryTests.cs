using JollyAlmanac.Web.Tests;
using OpenQA.Selenium;

namespace JollyAlmanac.Browser.Tests;

/// <summary>The job as people do it, in a real browser.</summary>
public sealed class StoryTests(Browser browser) : IClassFixture<Browser>
{
    [Fact]
    public void A_teacher_publishes_a_class_in_one_sitting()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Teacher);
        browser.ClickText("a", "Make a class calendar");
        browser.Type("#Title", "Seaweed Studies 9");
        browser.ClickText("button", "Make the calendar");
        browser.Until(() => browser.Path == "/calendars/seaweed-studies-9");
        browser.ClickText("a", "Add the first series");

        // The sentence and the strip follow the form while it is filled in.
        browser.Click("[name=Days][value='2']");
        browser.Click("[name=Days][value='4']");
        browser.Choose("#Period", "6");
        browser.SetDate("#From", "2026-10-20");
        browser.Choose("#Extent", "held");
        browser.Type("#Held", "12");
        browser.Until(() =>
            browser.Text("#preview .say-back")
            == "Seaweed Studies 9 meets Tue and Thu in period 6, 13:30–14:20, 20 Oct to 1 Dec: 12 sessions, 10 h; leaves out 1 no-class day."
        );
        Assert.Equal("12", browser.Text("#preview .nums dd"));
        Assert.False(browser.Find("#Until").Displayed);

        browser.Choose("#Link", "new");
        browser.Type("#LinkTarget", "https://rooms.skerry.example/seaweed");
        browser.Type("#LinkName", "Seaweed room");
        browser.ClickText("button", "Put it on Seaweed Studies 9");
        browser.Until(() => browser.Path == "/calendars/seaweed-studies-9" && browser.Has(".term .s"));
        Assert.Equal("12", browser.Text(".ledger div:nth-child(3) dd"));

        browser.ClickText("a", "Publishing");
        browser.ClickText("summary", "Make a feed");
        browser.Type("#Name-Feed", "For families");
        browser.ClickText("button", "Make the feed");
        browser.Until(() => browser.Has(".one-outlet .address-box"));
        Assert.Matches("/feeds/[0-9a-z]{26}\\.ics$", browser.Find(".one-outlet .address-box").GetDomProperty("value"));
        browser.ClickText("summary", "Make an embed");
        browser.Type("#Name-Embed", "School site");
        browser.Type("#Sites-Embed", "https://www.skerry.example");
        browser.ClickText("button", "Make the embed");
        browser.Until(() => browser.Run("return document.querySelectorAll('.one-outlet').length") is 2L);

        browser.Go("/c/seaweed-studies-9?as=visitor");
        Assert.Contains("Next: Tuesday 20 October", browser.Text(".door"), StringComparison.Ordinal);
        browser.ClickText("a", "See when it opens");
        browser.Until(() => browser.Path.StartsWith("/in/seaweed-", StringComparison.Ordinal));
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_series_is_taken_off_and_brought_back()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Coordinator);
        browser.Go("/calendars/harbour-history-7");
        browser.Click(".say a");
        browser.ClickText("button", "Remove the series");
        browser.Until(() => browser.Path == "/calendars/harbour-history-7");
        Assert.False(browser.Has(".term .s"));
        browser.ClickText("button", "Bring it back");
        browser.Until(() => browser.Has(".term .s"));
        Assert.Contains("is back, with its link and materials", browser.Text(".said"), StringComparison.Ordinal);
    }

    [Fact]
    public void The_keyboard_alone_reaches_and_saves_a_series()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Coordinator);
        browser.Go("/calendars/signal-codes-8/series/new");
        browser.Press(Keys.Tab);
        Assert.Equal("Skip to the page", browser.Focused.Text);
        browser.Press(Keys.Enter);
        Tab(() => browser.Focused.GetDomAttribute("name") == "Days" && browser.Focused.GetDomAttribute("value") == "2");
        browser.Press(Keys.Space);
        Tab(() => browser.Focused.GetDomAttribute("id") == "Place");
        browser.Press("Signal loft");
        Tab(() => browser.Focused.Text == "Put it on Signal Codes 8");
        Assert.NotEqual("none", browser.Run("return getComputedStyle(document.activeElement).outlineStyle"));
        browser.Press(Keys.Enter);
        browser.Until(() => browser.Path == "/calendars/signal-codes-8" && browser.Has(".term .s"));

        void Tab(Func<bool> isThere)
        {
            for (var step = 0; step < 60 && !isThere(); step++)
                browser.Press(Keys.Tab);
            Assert.True(
                isThere(),
                $"The focus never came there; it is on {browser.Focused.TagName} {browser.Focused.Text}."
            );
        }
    }

    [Fact]
    public void What_was_typed_and_not_saved_comes_back_for_its_person_alone_and_goes_when_it_is_saved()
    {
        const string Form = "/calendars/tidepool-biology-9a/series/new";
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Teacher);
        browser.Go(Form);
        browser.Type("#Place", "Weather tower");
        browser.Choose("#Link", "new");
        browser.Type("#LinkTarget", "https://rooms.skerry.example/7?passcode=kelp22");
        browser.Until(() => Kept().Contains("Weather tower", StringComparison.Ordinal));
        // What opens a room is not kept.
        Assert.DoesNotContain("kelp22", Kept(), StringComparison.Ordinal);
        browser.SignIn("ines.falk@skerry.example");
        browser.Go(Form);
        Assert.False(browser.Has(".draft-bar"));
        Assert.Equal("", Value("#Place"));
        browser.SignIn(DemoServer.Teacher);
        browser.Go(Form);
        Assert.Contains("did not save is back", browser.Text(".draft-bar"), StringComparison.Ordinal);
        Assert.Equal("Weather tower", Value("#Place"));
        // From a cell, what is typed there is asked for.
        browser.Go(Form + "?day=2026-10-20");
        Assert.Equal("", Value("#Place"));
        browser.ClickText("button", "Bring it back");
        Assert.Equal("Weather tower", Value("#Place"));
        // With a fault the form is as it was sent; once it is saved, nothing is kept.
        browser.Choose("#Link", "");
        browser.ClickText("button", "Put it on Tidepool Biology 9A");
        browser.Until(() => browser.Has(".problems"));
        Assert.False(browser.Has(".draft-bar"));
        browser.Click("label.day:nth-of-type(2)");
        browser.ClickText("button", "Put it on Tidepool Biology 9A");
        browser.Until(() => browser.Path == "/calendars/tidepool-biology-9a");
        browser.Until(() => !Kept().Contains("Weather tower", StringComparison.Ordinal));
        // The console tells of the fault, and of nothing else.
        Assert.All(browser.Complaints(), one => Assert.Contains("422", one, StringComparison.Ordinal));

        string Kept() => (string)browser.Run("return JSON.stringify(localStorage)")!;
        string? Value(string field) => browser.Find(field).GetDomProperty("value");
    }

    [Fact]
    public void Free_cells_begin_an_entry_by_hand_and_by_keyboard()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Teacher);
        browser.Go("/calendars/tidepool-biology-9a");
        browser.Run("document.querySelector('td.now a.add').focus()");
        browser.Press(Keys.ArrowRight);
        browser.Press(Keys.Enter);
        browser.Until(() => browser.Path == "/calendars/tidepool-biology-9a/series/new?day=2026-10-15");
        browser.Go("/week");
        IWebElement Cell(string period) => browser.Find($"td[data-day='2026-10-15'][data-period='{period}'] a.add");
        browser.DragBetween(Cell("3"), Cell("4"));
        browser.Until(() => browser.Has("#Start"));
        string? Value(string field) => browser.Find(field).GetDomProperty("value");
        Assert.Equal(("09:50", "11:45", "2026-10-15"), (Value("#Start"), Value("#End"), Value("#From")));
        browser.SignIn(DemoServer.Student);
        browser.Go("/week");
        Assert.False(browser.Has("a.add"));
    }

    [Fact]
    public void Sessions_are_dragged_moved_from_here_on_and_brought_back()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Teacher);
        browser.Go("/calendars/tidepool-biology-9c");
        var sentence = browser.Text(".say");
        Drag("2026-10-14", "2026-10-15");
        Assert.Contains(
            "1 session moves (Wed 14 Oct, 12:35–13:25 to Thu 15 Oct, 12:35–13:25)",
            browser.Text(".scopes"),
            StringComparison.Ordinal
        );
        browser.ClickText("button", "this session, Wed 14 Oct");
        Said("Moved Tidepool Biology 9C, Wed 14 Oct to Thu 15 Oct.");

        browser.Click("a[data-session][href*='2026-10-21']");
        browser.Until(() => browser.Has(".wishes"));
        browser.Choose(".wishes [name=Period]", "6");
        browser.ClickText("button", "Move");
        browser.Until(() => browser.Has(".scopes"));
        browser.ClickText("button", "all from Wed 21 Oct on");
        Said("Moved Tidepool Biology 9C from Wed 21 Oct on to period 6.");
        Assert.Contains(
            "period 6, 13:30–14:20, 21 Oct to 18 Dec: 23 sessions",
            browser.Text(".say"),
            StringComparison.Ordinal
        );

        browser.ClickText("button", "Undo");
        Said("Undid: moved Tidepool Biology 9C from Wed 21 Oct on to period 6.");
        browser.Go("/calendars/tidepool-biology-9c");
        browser.ClickText("button", "Undo it");
        Said("Undid: moved Tidepool Biology 9C, Wed 14 Oct to Thu 15 Oct.");
        Assert.Equal(sentence, browser.Text(".say"));

        // By keyboard: Shift and an arrow propose the next day, Escape leaves it.
        browser.Run("document.querySelector(\"a.movable[href*='2026-10-14']\").focus()");
        browser.Press(Keys.Shift + Keys.ArrowRight);
        browser.Until(() => browser.Has(".scopes"));
        Assert.Contains("Move it to Thu 15 Oct", browser.Text(".scopes"), StringComparison.Ordinal);
        browser.Press(Keys.Escape);
        browser.Until(() => !browser.Has(".opened"));
        Assert.Empty(browser.Complaints());

        void Said(string words) =>
            browser.Until(() =>
                browser.Has(".said") && browser.Text(".said").StartsWith(words, StringComparison.Ordinal)
            );
    }

    [Fact]
    public void A_pasted_timetable_of_six_classes_becomes_six_series()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Coordinator);
        browser.Go("/calendars/fiddle-ensemble/timetable");
        browser.Type(
            "#Text",
            """
            Fiddle beginners MWF 8:00-8:50 19 Oct to 18 Dec
            Fiddle juniors Tue/Thu 1:30pm 75 min from 20 Oct
            Reels every other Fri p4 from 23 Oct
            Strathspeys days 2 and 5 period 3 from 19 Oct
            Open practice daily 15:30-16:15 from 19 Oct
            Session night first Monday monthly 18:00-19:30 from 19 Oct
            """
        );
        browser.ClickText("button", "Read it");
        browser.Until(() => browser.Has(".review"));
        Assert.Equal("6 lines read, 6 series understood", browser.Text(".count-line"));
        browser.ClickText("button", "Put 6 series on the calendar");
        browser.Until(() => browser.Path == "/calendars/fiddle-ensemble");
        Assert.Equal("6 series are on the calendar.", browser.Text(".said"));
        Assert.Equal(7L, browser.Run("return document.querySelectorAll('.say li').length"));
    }

    private void Drag(string from, string to)
    {
        browser.Run(
            $$"""
            const mark = document.querySelector("a.movable[href*='{{from}}']"), cell = document.querySelector("td[data-day='{{to}}']"), data = new DataTransfer();
            for (const [name, on] of [["dragstart", mark], ["dragover", cell], ["drop", cell], ["dragend", mark]]) on.dispatchEvent(new DragEvent(name, { bubbles: true, cancelable: true, dataTransfer: data }));
            """
        );
        browser.Until(() => browser.Has(".scopes"));
    }

    // St. John's is half an hour ahead of Halifax (IANA tzdb).
    [Fact]
    public void A_reader_in_another_zone_sees_both_times()
    {
        browser.SignIn(DemoServer.Student);
        browser.Zone("America/St_Johns");
        browser.Go($"/c/{DemoServer.Class}");
        browser.Until(() => browser.Has(".own-time"));
        Assert.Contains("9:50–10:40 · 10:20–11:10 your time", browser.Text(".door p"), StringComparison.Ordinal);
        Assert.Contains("yours is America/St_Johns", browser.Text(".zone-note"), StringComparison.Ordinal);
        browser.Zone("America/Halifax");
        browser.Go($"/c/{DemoServer.Class}");
        Assert.False(browser.Has(".own-time"));
    }
}
