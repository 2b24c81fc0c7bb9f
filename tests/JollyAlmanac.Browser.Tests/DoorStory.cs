using JollyAlmanac.Web.Tests;

namespace JollyAlmanac.Browser.Tests;

/// <summary>A class and its door, from waiting to recording, in two browsers.</summary>
public sealed class DoorStory(Browser teacher) : IClassFixture<Browser>
{
    [Fact]
    public void From_waiting_before_the_door_to_the_recording_in_its_place()
    {
        using var student = new Browser(teacher.Server);
        teacher.Size(1280, 800);
        student.Size(390, 844);

        // Before the door: a countdown, and no way in. It turns into the way in without a reload.
        teacher.Server.Set(14, 9, 39, 43);
        student.Go("/in/tidepool-7k");
        Assert.Equal("Opens at 9:40", student.Text("#door h2"));
        Assert.False(student.Has("#door .way"));
        student.Until(() =>
            student.Text(".countdown").Contains("second", StringComparison.Ordinal) || student.Has("#door .way")
        );
        student.Run("window.sameLoad = true");
        student.Until(() => student.Has("#door .way"), seconds: 60);
        Assert.Equal(true, student.Run("return window.sameLoad"));
        Assert.Equal("Open until 10:10", student.Text("#door h2"));
        student.Click("#door .way");
        student.Until(() => student.Path.StartsWith("/rooms/", StringComparison.Ordinal));
        student.Type("#Name", "Teodor Quill");
        student.ClickText("button", "Ask to come in");
        student.Until(() =>
            student.Has(".room-state h2") && student.Text(".room-state h2") == "The host is not here yet"
        );

        // The teacher sees on Today that somebody waits, enters as host and lets them in.
        teacher.SignIn(DemoServer.Teacher);
        Assert.Equal("Start as host · 1 waiting", teacher.Text(".card .btn.open"));
        teacher.Click(".card .btn.open");
        teacher.Until(() => teacher.Path.StartsWith("/rooms/", StringComparison.Ordinal));
        teacher.ClickText("button", "Begin as host");
        teacher.Until(() => teacher.Has(".room-list"));
        student.Until(() => student.Text(".room-state h2") == "A host will let you in");
        teacher.ClickText("button", "Let all in");
        student.Until(() => student.Text(".room-state h2") == "You are in");

        // A late-comer finds the door shut; the teacher may still let them in by hand.
        teacher.Server.Set(14, 10, 20);
        using (var late = new Browser(teacher.Server))
        {
            late.Go("/in/tidepool-7k");
            Assert.Equal("Closed to late arrivals since 10:10", late.Text("#door h2"));
            Assert.False(late.Has("#door .way"));
            Assert.Empty(late.Complaints());
        }

        // The meeting ends for all, the door shuts behind the class, and its recording is there.
        teacher.Until(() => teacher.Has(".btn.shut"));
        teacher.ClickText("button", "End for all");
        teacher.Until(() => teacher.Text(".room-state h2") == "The meeting has ended");
        student.Until(() => student.Text(".room-state h2") == "The meeting has ended");
        student.SignIn(DemoServer.Student);
        student.Go($"/c/{DemoServer.Class}");
        Assert.Equal("Closed by the host until 10:40", student.Text("#door h2"));
        Assert.StartsWith("Recording, ", student.Text("#door .way"), StringComparison.Ordinal);
        Assert.StartsWith(
            "/m/",
            new Uri(student.Find("#door .way").GetDomProperty("href")!).AbsolutePath,
            StringComparison.Ordinal
        );
        Assert.Empty(student.Complaints());
        Assert.Empty(teacher.Complaints());
    }
}
