using JollyAlmanac.Core.JoinLinks;

namespace JollyAlmanac.Core.Tests;

/// <summary>Texts of join links: pasted invitations, passcodes inside addresses, short addresses, join cards.</summary>
public sealed class JoinTextTests
{
    // Layouts made up after what such texts have in common; no source.
    public static TheoryData<string, string, string, string, string, int> Invitations => new()
    {
        {
            "Orla Marchbanks is inviting you to a scheduled meeting.\n\nTopic: Tidepool Biology 9A\nTime: Sep 14, 2026 09:50 AM Halifax\n\nJoin the meeting\nhttps://rooms.skerry.example/meet/8812204417?pwd=a1B2c3\n\nMeeting ID: 881 220 4417\nPasscode: kelp22\n\nDial by your location\n+1 902 555 0199 (Halifax)\n+1 709 555 0123 St. John's\nFind your local number: https://rooms.skerry.example/u/numbers",
            "Tidepool Biology 9A", "https://rooms.skerry.example/meet/8812204417?pwd=a1B2c3", "881 220 4417", "kelp22", 2
        },
        {
            "________________\r\nOnline room\r\nNeed help? https://help.skerry.example/join\r\nClick here to join: <https://rooms.skerry.example/l/meet/19%3aabc@room/0?context=x>\r\nMeeting ID:\r\n  234 987 11\r\nPasscode:\r\n  Qw3Rt\r\n", "",
            "https://rooms.skerry.example/l/meet/19%3aabc@room/0?context=x", "234 987 11", "Qw3Rt", 0
        },
        { "Video call link: https://rooms.skerry.example/abc-defg-hij\nOr dial: (902) 555-0142 PIN: 771 202 118#", "", "https://rooms.skerry.example/abc-defg-hij", "", "771", 1 },
        { "Subject: Net Mending\nRoom number is 4471 9020\nThe password is herring\nGo to http://rooms.skerry.example/net.", "Net Mending", "http://rooms.skerry.example/net", "4471 9020", "herring", 0 },
        { "https://rooms.skerry.example/x", "", "https://rooms.skerry.example/x", "", "", 0 },
    };

    [Theory]
    [MemberData(nameof(Invitations))]
    public void A_pasted_invitation_is_taken_apart(string text, string topic, string address, string meetingId, string passcode, int numbers)
    {
        var read = Invitation.Read(text);
        Assert.Equal(address, read.Target!.Address.OriginalString);
        Assert.Equal((topic, meetingId, passcode, numbers), (read.Topic, read.Target.MeetingId, read.Target.Passcode, read.Target.DialIn.Length));
        Assert.Contains($"a room at {read.Target.Address.IdnHost}", read.Found);
    }

    [Theory]
    [InlineData("")]
    [InlineData("Meeting ID: 881 220 4417")]
    [InlineData("javascript:alert(1)")]
    [InlineData("Join: rooms.skerry.example/9a")]
    public void Where_no_address_is_nothing_is_made_up(string text) => Assert.Null(Invitation.Read(text).Target);

    [Fact]
    public void A_passcode_inside_the_address_is_said() =>
        Assert.Contains("a passcode inside the address", Invitation.Read("Join https://rooms.skerry.example/9a?pwd=kelp").Found);

    // "pwd=", "passcode=", "p=": common practice, no source.
    [Theory]
    [InlineData("https://rooms.example/9a?pwd=kelp", "kelp")]
    [InlineData("https://rooms.example/9a?x=1&passcode=ke%20lp", "ke lp")]
    [InlineData("https://rooms.example/9a#p=kelp", "kelp")]
    [InlineData("https://rooms.example/9a?PWD=kelp", "kelp")]
    [InlineData("https://rooms.example/9a?page=2", null)]
    [InlineData("https://rooms.example/9a?pwd=", null)]
    [InlineData("https://rooms.example/9a", null)]
    public void A_passcode_inside_an_address_is_seen(string address, string? passcode) => Assert.Equal(passcode, JoinTarget.PasscodeIn(new Uri(address)));

    [Theory]
    [InlineData("tidepool-7k", "tidepool-7k")]
    [InlineData(" Tide-Pool ", "tide-pool")]
    [InlineData("9a9a", "9a9a")]
    [InlineData("abc", null)]
    [InlineData("-abcd", null)]
    [InlineData("abcd-", null)]
    [InlineData("ab--cd", null)]
    [InlineData("tide pool", null)]
    [InlineData("tide/pool", null)]
    [InlineData("marée", null)]
    [InlineData("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa", null)]
    public void A_chosen_short_address_is_plain(string text, string? code)
    {
        var (read, reason) = JoinCode.Read(text);
        Assert.Equal(code, read?.Value);
        Assert.Equal(code is null, reason is not null);
    }

    [Fact]
    public void A_made_short_address_has_no_letters_that_look_alike_and_no_word()
    {
        var codes = Enumerable.Range(0, 500).Select(_ => JoinCode.New("Tidepool room").Value).ToList();
        Assert.All(codes, code => Assert.Matches("^tidepool-[34679cdfghjkmnpqrtwx]{6}$", code));
        Assert.Equal(codes.Count, codes.Distinct().Count());
    }

    [Fact]
    public void A_join_card_is_the_short_address_alone_until_more_is_chosen()
    {
        var target = new JoinTarget(new Uri("https://rooms.example/9a?pwd=secret")) { MeetingId = "881 220", Passcode = "kelp<22", DialIn = ["+1 902 555 0199"] };
        JoinCard Card(CardParts parts) => JoinCard.Of(new Uri("https://almanac.example/in/tidepool-7k"), "Tide & Pool", "Mon in period 3", "opens 10 min before", target, parts);
        var bare = Card(CardParts.None);
        Assert.Equal("https://almanac.example/in/tidepool-7k", bare.Text);
        Assert.Equal("almanac.example/in/tidepool-7k", bare.Brief);
        Assert.Equal("<p><a href=\"https://almanac.example/in/tidepool-7k\">Join: almanac.example/in/tidepool-7k</a></p>", bare.Html);
        var full = Card(CardParts.Title | CardParts.When | CardParts.Door | CardParts.MeetingId | CardParts.Passcode | CardParts.DialIn);
        Assert.Equal("Tide & Pool\nMon in period 3\nJoin: https://almanac.example/in/tidepool-7k\nDoor: opens 10 min before\nMeeting id: 881 220\nPasscode: kelp<22\nBy telephone: +1 902 555 0199", full.Text);
        Assert.Contains("<strong>Tide &amp; Pool</strong><br>", full.Html, StringComparison.Ordinal);
        Assert.Contains("Passcode: kelp&lt;22", full.Html, StringComparison.Ordinal);
        Assert.Equal("almanac.example/in/tidepool-7k (kelp<22)", full.Brief);
        Assert.All(new[] { full.Text, full.Html, full.Brief }, text => Assert.DoesNotContain("secret", text, StringComparison.Ordinal));
    }
}
