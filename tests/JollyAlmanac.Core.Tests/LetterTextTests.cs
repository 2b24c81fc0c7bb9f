using JollyAlmanac.Core.Parsing;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Letters that ask for a meeting, as people write them: our own examples, no source.</summary>
public sealed class LetterTextTests
{
    // Read on Wed 14 Oct 2026.
    [Theory]
    [InlineData(
        "Can we meet Tuesday at ten for half an hour, in the Net room?",
        "“Meeting” 2026-10-20 10:00 30 min @Net room"
    )]
    [InlineData("Could you come tomorrow from 9 to 9:45?", "“Meeting” 2026-10-15 9:00-9:45")]
    [InlineData("Are you free on Friday, 23 October at half past ten?", "“Meeting” 2026-10-23 10:30")]
    [InlineData("Let us meet on the 4th of November at 2pm for an hour.", "“Meeting” 2026-11-04 2:00pm 60 min")]
    [InlineData("Next Friday at quarter to nine, for 45 minutes?", "“Meeting” 2026-10-23 8:45 45 min")]
    [InlineData("This Friday at 8:30 a.m. in the Long room.", "“Meeting” 2026-10-16 8:30am @Long room")]
    [InlineData("I would like to talk about the tide survey on Monday at 11.", "“The tide survey” 2026-10-19 11:00")]
    [InlineData(
        "Subject: Re: Boats for the regatta\nFrom: Ines Falk\n\nDear Orla,\nwould Thursday suit you? At noon, for an hour and a half.\nIt would be in the Tide Room.",
        "“Boats for the regatta” 2026-10-15 12:00 90 min @Tide Room"
    )]
    [InlineData("Meet me between two and three on 2026-11-05.", "“Meeting” 2026-11-05 2:00-3:00")]
    [InlineData("Wednesday at one o’clock?", "“Meeting” 2026-10-21 1:00")]
    [InlineData("Thank you for the 3 books. See you soon.", "")]
    [InlineData("", "")]
    public void A_letter_becomes_a_line(string letter, string line)
    {
        var reading = LetterText.Read(letter, Skerry.Time, new LocalDate(2026, 10, 14), ["Tide Room"]);
        Assert.Equal(line, reading.Line);
        if (line.Length == 0)
            return;
        // The line is one that quick entry understands to the last word.
        var quick = QuickEntry.Read(line, Skerry.Time, new LocalDate(2026, 10, 14));
        Assert.Empty(quick.Problems);
        Assert.NotNull(quick.Repeat);
        Assert.True(quick.Time is not null || quick.Start is not null);
    }

    [Fact]
    public void What_was_not_used_is_told()
    {
        var reading = LetterText.Read(
            "Hello Orla,\nthe nets are back. Can we meet Tuesday at ten? Bring the old list, please.\nPriya\n\n> On Friday at nine nobody came.",
            Skerry.Time,
            new LocalDate(2026, 10, 14),
            []
        );
        Assert.Equal(["Can we meet Tuesday at ten?"], reading.Used);
        Assert.Equal(
            [
                "Hello Orla,",
                "the nets are back.",
                "Bring the old list, please.",
                "Priya",
                "> On Friday at nine nobody came.",
            ],
            reading.NotUsed
        );
    }

    [Fact]
    public void A_letter_of_a_thousand_lines_is_read_and_says_it_all()
    {
        var letter = string.Join(
            '\n',
            Enumerable.Range(0, 1000).Select(at => at == 700 ? "Tuesday at ten?" : $"Line {at} a.m. at at at from.")
        );
        var reading = LetterText.Read(letter, Skerry.Time, new LocalDate(2026, 10, 14), []);
        Assert.Equal("“Meeting” 2026-10-20 10:00", reading.Line);
        Assert.Equal(999, reading.NotUsed.Length);
    }
}
