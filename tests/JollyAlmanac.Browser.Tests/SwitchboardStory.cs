using JollyAlmanac.Web.Tests;

namespace JollyAlmanac.Browser.Tests;

/// <summary>The switchboard of a teacher, in a school of its own: what it says of a room depends on who is inside.</summary>
public sealed class SwitchboardStory(Browser teacher) : IClassFixture<Browser>
{
    [Fact]
    public void On_the_switchboard_a_note_is_mended_and_a_link_shut_renewed_and_tested()
    {
        teacher.Server.Set(14, 9, 41);
        teacher.Size(1280, 800);
        teacher.SignIn(DemoServer.Teacher);
        teacher.ClickText("a", "Join links");
        teacher.ClickText("button", "Open it at 12:30");
        teacher.Until(() => teacher.Has(".said"));
        Assert.Equal(
            "On Wed 14 Oct, Tidepool Biology 9C opens 5 min before its start; other days stay as they are.",
            teacher.Text(".said")
        );
        Assert.False(teacher.Has(".note.must"));
        teacher.Go("/join-links/tidepool-7k");
        teacher.ClickText("button", "Close entry now");
        Said("Closed the door of Tidepool room until ");
        teacher.ClickText("button", "Back to usual times");
        Said("Put the door of Tidepool room back to its usual times.");
        teacher.ClickText("button", "Replace room now");
        Said("Tidepool room leads to a new room now. Its short address is the same.");
        teacher.ClickText("button", "Make a guest link");
        Said("The guest link is made.");
        Assert.True(teacher.Has(".guests li"));
        teacher.ClickText("button", "Test it");
        Said("Tidepool room passed its test: its provider has the room.");

        teacher.ClickText("a", "Add a link");
        teacher.Click(".paste-box summary");
        teacher.Type(
            "#pasted",
            "Topic: Rock pools\nJoin: https://rooms.skerry.example/rocks?pwd=abc123\nMeeting ID: 881 220\nPasscode: kelp22"
        );
        teacher.ClickText("button", "Read it");
        teacher.Until(() => teacher.Has(".paste-box .say-back"));
        Assert.Equal("881 220", teacher.Find("#MeetingId").GetDomProperty("value"));
        Assert.Equal("Rock pools", teacher.Find("#Name").GetDomProperty("value"));
        teacher.Type("#Code", "tidepool-7k");
        teacher.ClickText("button", "Add the link");
        teacher.Until(() => teacher.Has(".problems"));
        Assert.Contains("/in/tidepool-7k is taken", teacher.Text(".problems"), StringComparison.Ordinal);
        teacher.Type("#Code", "rock-pools");
        teacher.ClickText("button", "Add the link");
        Said("Rock pools is at /in/rock-pools.");
        teacher.ClickText("a", "Edit join link");
        teacher.Type("#Code", "pools-9");
        teacher.ClickText("button", "Save");
        Said("Rock pools is saved.");
        Assert.Equal("/join-links/pools-9", teacher.Path);
        teacher.Go("/in/rock-pools?look=1"); // the old one leads there still
        Assert.Equal("Nothing is scheduled", teacher.Text("#door h2"));
        teacher.Complaints(); // the refusal above
        Assert.False(teacher.Has("#door .way"));

        void Said(string words) =>
            teacher.Until(() =>
                teacher.Has(".said") && teacher.Text(".said").StartsWith(words, StringComparison.Ordinal)
            );
    }
}
