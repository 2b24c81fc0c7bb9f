using JollyAlmanac.Web.Tests;

namespace JollyAlmanac.Browser.Tests;

/// <summary>
/// An edit of school time, in a school of its own: what it counts depends on every series there is, so no other story may have added one.
/// </summary>
public sealed class SchoolTimeStory(Browser browser) : IClassFixture<Browser>
{
    [Fact]
    public void A_no_class_day_is_counted_before_it_is_saved()
    {
        browser.Size(1280, 800);
        browser.SignIn(DemoServer.Coordinator);
        browser.Go("/school-time");
        browser.Type("#Pasted", "5 Oct Herring day");
        // On Mondays in an odd week meet the classes of that day: five, and the choir.
        browser.Until(() =>
            browser.Has("#effect .effects")
            && browser
                .Text("#effect .say-back")
                .StartsWith("Mon 5 Oct becomes a no-class day: Herring day:", StringComparison.Ordinal)
        );
        var counted = browser.Run("return document.querySelectorAll('#effect .effects li').length");
        Assert.EndsWith(
            $": {counted} sessions of {counted} series are left out.",
            browser.Text("#effect .say-back"),
            StringComparison.Ordinal
        );
        browser.Click("button[value=save]");
        browser.Until(() => browser.Has(".said"));
        browser.Go("/calendars/harbour-history-7");
        Assert.Contains("Herring day", browser.Text(".term"), StringComparison.Ordinal);
    }
}
