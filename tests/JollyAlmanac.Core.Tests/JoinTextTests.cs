using JollyAlmanac.Core.JoinLinks;

namespace JollyAlmanac.Core.Tests;

/// <summary>Texts of join links: pasted invitations, passcodes inside addresses, short addresses, join cards.</summary>
public sealed class JoinTextTests
{
    // Layouts made up after what such texts have in common; no source.
    public static TheoryData<string, string, string, string, string, int> Invitations =>
        new()
        {
            {
                "Orla Marchbanks is inviting you to a scheduled meeting.\n\nTopic: Tidepool Biology 9A\nTime: Sep 14, 2026 09:50 AM Halifax\n\nJoin the meeting\nhttps://rooms.skerry.example/meet/8812204417?pwd=a1B2c3\n\nMeeting ID: 881 220 4417\nPasscode: kelp22\n\nDial by your location\n+1 902 555 0199 (Halifax)\n+1 709 555 0123 St. John's\nFind your local number: https://rooms.skerry.example/u/numbers",
                "Tidepool Biology 9A",
                "https://rooms.skerry.example/meet/8812204417?pwd=a1B2c3",
                "881 220 4417",
                "kelp22",
                2
            },
            {
                "________________\r\nOnline room\r\nNeed help? https://help.skerry.example/join\r\nClick here to join: <https://rooms.skerry.example/l/meet/19%3aabc@room/0?context=x>\r\nMeeting ID:\r\n  234 987 11\r\nPasscode:\r\n  Qw3Rt\r\n",
                "",
                "https://rooms.skerry.example/l/meet/19%3aabc@room/0?context=x",
                "234 987 11",
                "Qw3Rt",
                0
            },
            {
                "Video call link: https://rooms.skerry.example/abc-defg-hij\nOr dial: (902) 555-0142 PIN: 771 202 118#",
                "",
                "https://rooms.skerry.example/abc-defg-hij",
                "",
                "",
                1
            }, // a telephone PIN opens the line, not the room
            {
                "Subject: Net Mending\nRoom number is 4471 9020\nThe password is herring\nGo to http://rooms.skerry.example/net.",
                "Net Mending",
                "http://rooms.skerry.example/net",
                "4471 9020",
                "herring",
                0
            },
            {
                "Meeting number (access code): 2553 123 4567\nMeeting password: tide-9\nhttps://rooms.skerry.example/9a",
                "",
                "https://rooms.skerry.example/9a",
                "2553 123 4567",
                "tide-9",
                0
            },
            {
                "| Link | https://rooms.skerry.example/9a |\n| Meeting ID | 881 220 4417 |\n| Password | tide-9 |",
                "",
                "https://rooms.skerry.example/9a",
                "881 220 4417",
                "tide-9",
                0
            },
            {
                "**Topic:** Weather\n**Join:** https://rooms.skerry.example/w\n**Passcode:** kelp22 (case matters)",
                "Weather",
                "https://rooms.skerry.example/w",
                "",
                "kelp22",
                0
            },
            {
                "Thema: Gezeiten\nDem Meeting beitreten: https://rooms.skerry.example/g\nMeeting-ID: 881 220 4417\nKenncode: watt7\nTelefon: +49 30 5550 1234, PIN 4471",
                "Gezeiten",
                "https://rooms.skerry.example/g",
                "881 220 4417",
                "watt7",
                1
            },
            {
                "Sujet : Marées\nRejoindre la réunion : https://rooms.skerry.example/m\nID de réunion : 881 220 4417\nMot de passe : algue8",
                "Marées",
                "https://rooms.skerry.example/m",
                "881 220 4417",
                "algue8",
                0
            },
            {
                "Asunto: Mareas\nUnirse: https://rooms.skerry.example/m\nID de la reunión: 881 220 4417\nContraseña: alga8",
                "Mareas",
                "https://rooms.skerry.example/m",
                "881 220 4417",
                "alga8",
                0
            },
            {
                "Assunto: Marés\nEntrar: https://rooms.skerry.example/m\nID da reunião: 881 220 4417\nSenha: alga9",
                "Marés",
                "https://rooms.skerry.example/m",
                "881 220 4417",
                "alga9",
                0
            },
            {
                "Join: https://rooms.skerry.example/n\nPasscode: none\nPIN: 4471",
                "",
                "https://rooms.skerry.example/n",
                "",
                "4471",
                0
            },
            {
                "Join: https://rooms.skerry.example/n\nPassword: will be sent to you by mail",
                "",
                "https://rooms.skerry.example/n",
                "",
                "",
                0
            },
            {
                "Join: https://rooms.skerry.example/n\nMeeting ID: 881 220 4417 Passcode: kelp22 Phone: 902-555-0142",
                "",
                "https://rooms.skerry.example/n",
                "881 220 4417",
                "kelp22",
                1
            },
            {
                "Weekly tutoring - Meeting ID: 881 4420 199 - Password: 4h7Kp - https://rooms.skerry.example/t",
                "",
                "https://rooms.skerry.example/t",
                "881 4420 199",
                "4h7Kp",
                0
            },
            {
                "Access: https://rooms.skerry.example/open\nNo password needed.",
                "",
                "https://rooms.skerry.example/open",
                "",
                "",
                0
            },
            {
                "Join https://rooms.skerry.example/y\nDial in: 902.555.0142, conference code 4410220\nHost PIN: 9981",
                "",
                "https://rooms.skerry.example/y",
                "",
                "",
                1
            },
            {
                "Room: https://rooms.skerry.example/77 (password: limpet)\nID: 4410 9920",
                "",
                "https://rooms.skerry.example/77",
                "4410 9920",
                "limpet",
                0
            },
            {
                "- URL: https://rooms.skerry.example/md\n- Passcode: `reef5`\n- Phone: (902) 555-0177\nAccess code: 9912 004#",
                "",
                "https://rooms.skerry.example/md",
                "",
                "reef5",
                1
            },
            {
                "Join https://rooms.skerry.example/b\nPW: tide88",
                "",
                "https://rooms.skerry.example/b",
                "",
                "tide88",
                0
            },
            { "https://rooms.skerry.example/x", "", "https://rooms.skerry.example/x", "", "", 0 },
        };

    [Theory]
    [MemberData(nameof(Invitations))]
    public void A_pasted_invitation_is_taken_apart(
        string text,
        string topic,
        string address,
        string meetingId,
        string passcode,
        int numbers
    )
    {
        var read = Invitation.Read(text);
        Assert.Equal(address, read.Target!.Address.OriginalString);
        Assert.Equal(
            (topic, meetingId, passcode, numbers),
            (read.Topic, read.Target.MeetingId, read.Target.Passcode, read.Target.DialIn.Length)
        );
        Assert.Contains($"a room at {read.Target.Address.IdnHost}", read.Found);
    }

    // A text, then "=> address | meeting id | passcode | how many lines are told as unclear".
    [Fact]
    public void Invitations_as_people_write_them_are_taken_apart_or_told()
    {
        var texts = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "invitations.txt"))
            .ReplaceLineEndings("\n")
            .TrimEnd()
            .Split("\n---\n");
        Assert.True(texts.Length > 200);
        Assert.All(texts, text =>
        {
            var parts = text.Split("\n=> ");
            var read = Invitation.Read(parts[0]);
            Assert.Equal(
                parts[1],
                $"{read.Target?.Address.OriginalString} | {read.Target?.MeetingId} | {read.Target?.Passcode} | {read.Unclear.Length}"
            );
        });
    }

    [Theory]
    [InlineData("")]
    [InlineData("Meeting ID: 881 220 4417")]
    [InlineData("javascript:alert(1)")]
    [InlineData("Join: rooms.skerry.example/9a")]
    public void Where_no_address_is_nothing_is_made_up(string text) => Assert.Null(Invitation.Read(text).Target);

    [Fact]
    public void A_passcode_inside_the_address_is_said() =>
        Assert.Contains(
            "a passcode inside the address",
            Invitation.Read("Join https://rooms.skerry.example/9a?pwd=kelp").Found
        );

    // "pwd=", "passcode=", "p=": common practice, no source.
    [Theory]
    [InlineData("https://rooms.example/9a?pwd=kelp", "kelp")]
    [InlineData("https://rooms.example/9a?x=1&passcode=ke%20lp", "ke lp")]
    [InlineData("https://rooms.example/9a#p=kelp", "kelp")]
    [InlineData("https://rooms.example/9a?PWD=kelp", "kelp")]
    [InlineData("https://rooms.example/9a?page=2", null)]
    [InlineData("https://rooms.example/9a?pwd=", null)]
    [InlineData("https://rooms.example/9a", null)]
    public void A_passcode_inside_an_address_is_seen(string address, string? passcode) =>
        Assert.Equal(passcode, JoinTarget.PasscodeIn(new Uri(address)));

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
        // Of so few, two are alike once in a million runs; whether one is free, the store asks.
        Assert.Equal(20, codes.Take(20).Distinct().Count());
    }

    [Fact]
    public void A_join_card_is_the_short_address_alone_until_more_is_chosen()
    {
        var target = new JoinTarget(new Uri("https://rooms.example/9a?pwd=secret"))
        {
            MeetingId = "881 220",
            Passcode = "kelp<22",
            DialIn = ["+1 902 555 0199"],
        };
        JoinCard Card(CardParts parts) =>
            JoinCard.Of(
                new Uri("https://almanac.example/in/tidepool-7k"),
                new CardText("Tide & Pool", "Mon in period 3", "opens 10 min before"),
                target,
                parts
            );
        var bare = Card(CardParts.None);
        Assert.Equal("https://almanac.example/in/tidepool-7k", bare.Text);
        Assert.Equal("almanac.example/in/tidepool-7k", bare.Brief);
        Assert.Equal(
            "<p><a href=\"https://almanac.example/in/tidepool-7k\">Join: almanac.example/in/tidepool-7k</a></p>",
            bare.Html
        );
        var full = Card(
            CardParts.Title
                | CardParts.When
                | CardParts.Door
                | CardParts.MeetingId
                | CardParts.Passcode
                | CardParts.DialIn
        );
        Assert.Equal(
            "Tide & Pool\nMon in period 3\nJoin: https://almanac.example/in/tidepool-7k\nDoor: opens 10 min before\nMeeting id: 881 220\nPasscode: kelp<22\nBy telephone: +1 902 555 0199",
            full.Text
        );
        Assert.Contains("<strong>Tide &amp; Pool</strong><br>", full.Html, StringComparison.Ordinal);
        Assert.Contains("Passcode: kelp&lt;22", full.Html, StringComparison.Ordinal);
        Assert.Equal("almanac.example/in/tidepool-7k (kelp<22)", full.Brief);
        Assert.All(new[] { full.Text, full.Html, full.Brief }, text =>
            Assert.DoesNotContain("secret", text, StringComparison.Ordinal)
        );
    }
}
