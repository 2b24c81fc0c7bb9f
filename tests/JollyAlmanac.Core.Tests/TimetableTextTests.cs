using JollyAlmanac.Formats;

namespace JollyAlmanac.Core.Tests;

/// <summary>A pasted table becomes lines of quick entry; quotation marks as RFC 4180 has them.</summary>
public sealed class TimetableTextTests
{
    [Theory]
    [InlineData("Title,Days,Start,End\nChoir,MWF,8:00,8:50", "“Choir” MWF 8:00-8:50")]
    [InlineData("title;day;period\n\"Choir; senior\";Mo We;p3", "“Choir; senior” Mo We p3")]
    [InlineData("Class\tDays\tTime\tRoom\r\nChoir\tMWF\t8-8:50\tHall 2\r\n", "“Choir” MWF 8-8:50 @Hall 2@")]
    [InlineData("Title,Days,Room\n\"Say \"\"Ah\"\"\",TTh,B 4", "“Say  Ah ” TTh @B 4@")]
    [InlineData("Title,Days\n\"Choir\nand band\",MWF", "“Choir and band” MWF")]
    [InlineData("Title,Days,From,Until\n , , ,\nChoir , MWF,7 Sep,", "“Choir” MWF from 7 Sep")]
    [InlineData("Title,Days\nChoir,MWF,what is more", "“Choir” MWF")]
    [InlineData("Title,Days\nChoir", "“Choir”")]
    [InlineData(
        "Title,Days,Sessions,Link\nChoir,MWF,12,https://meet.skerry.example/a",
        "“Choir” MWF 12 sessions https://meet.skerry.example/a"
    )]
    // No head, or one that names no title: lines as they are.
    [InlineData("Choir MWF 8:00-8:50\nBand TTh p3", "Choir MWF 8:00-8:50|Band TTh p3")]
    [InlineData("Days,Start\nMWF,8:00", "Days,Start|MWF,8:00")]
    [InlineData("Title,Days", "Title,Days")]
    // A quotation mark that is not closed takes no line with it.
    [InlineData("Title,Days\n\"Choir,MWF\nBand,TTh", "“ Choir” MWF|“Band” TTh")]
    [InlineData("Title,Days\n\"Choir, senior\",MWF\n\n\"Band,TTh\nRope,F", "“Choir, senior” MWF|“ Band” TTh|“Rope” F")]
    public void A_table_becomes_lines(string pasted, string lines) =>
        Assert.Equal(lines, string.Join('|', TimetableText.Lines(pasted)));
}
