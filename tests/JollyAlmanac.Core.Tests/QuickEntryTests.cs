using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

public class QuickEntryTests
{
    private static readonly LocalDate Today = new(2026, 9, 10);

    // The lines that people write, and what is made of them: title | days | time | from | end | number label.
    [Theory]
    [InlineData(
        "Tidepool Biology 9A MWF 8:00-8:50 14 Sep to 18 Dec",
        "Tidepool Biology 9A | Mon, Wed and Fri | 8:00–8:50 | 14 Sep 2026 | until 18 Dec 2026 | "
    )]
    [InlineData("Coastal Weather Tue/Thu 1:30pm 75 min", "Coastal Weather | Tue and Thu | 13:30–14:45 |  |  | ")]
    [InlineData("Knots every other Fri p4", "Knots | every other week on Fri | period 4 |  |  | ")]
    [InlineData("French 8 days 2 and 5 period 3", "French 8 | on Days 2 and 5 of the cycle | period 3 |  |  | ")]
    [InlineData("Choir daily 9-9:45", "Choir | Mon, Tue, Wed, Thu and Fri | 9:00–9:45 |  |  | ")]
    [InlineData(
        "Staff hour first Monday monthly 15:30-16:15",
        "Staff hour | every month on the first Monday of the month | 15:30–16:15 |  |  | "
    )]
    [InlineData(
        "Review, 3 weekly from 10 Nov 18:00 45 min, numbered",
        "Review | Tue | 18:00–18:45 | 10 Nov 2026 | 3 sessions | Review"
    )]
    [InlineData("Net Mending TuTh p2 12 sessions", "Net Mending | Tue and Thu | period 2 |  | 12 sessions | ")]
    [InlineData(
        "Family evening Thu 5 Nov 18:30-19:30",
        "Family evening | once, on Thu 5 Nov | 18:30–19:30 | 5 Nov 2026 |  | "
    )]
    [InlineData(
        "Open room all day daily with the term",
        "Open room | Mon, Tue, Wed, Thu and Fri | all day |  | term 1 | "
    )]
    [InlineData(
        "MWF 10:55am-11:45am \"Sun and Moon\" until Dec 18",
        "Sun and Moon | Mon, Wed and Fri | 10:55–11:45 |  | until 18 Dec 2026 | "
    )]
    [InlineData(
        "Boat Geometry 10 Mon Wed Fri p3 from 14 Sep, 12 sessions",
        "Boat Geometry 10 | Mon, Wed and Fri | period 3 | 14 Sep 2026 | 12 sessions | "
    )]
    [InlineData("Lab every 3rd week on Wed 13:00 1 h 15", "Lab | every 3rd week on Wed | 13:00–14:15 |  |  | ")]
    [InlineData(
        "Council last Friday of the month p1",
        "Council | every month on the last Friday of the month | period 1 |  |  | "
    )]
    [InlineData("Fiddle Mon-Thu 11-12:15pm", "Fiddle | Mon, Tue, Wed and Thu | 11:00–12:15 |  |  | ")]
    [InlineData(
        "Norse Tales Mondays and Wednesdays at 2:15 pm for 50 minutes 2026-09-14 to 2026-12-18",
        "Norse Tales | Mon and Wed | 14:15–15:05 | 14 Sep 2026 | until 18 Dec 2026 | "
    )]
    public void Understands_lines_as_people_write_them(string line, string read)
    {
        var reading = QuickEntry.Read(line, Skerry.Time, Today);
        Assert.Empty(reading.Problems);
        Assert.Empty(reading.Missing);
        Assert.Equal(read, InWords(reading));
        Assert.DoesNotContain(reading.Parts, part => part.Field == QuickField.NotUnderstood);
    }

    // In a form a line may say only some of it; the fields keep the rest.
    [Theory]
    [InlineData("Tue/Thu 1:30pm 75 min", "Days Time Time", 1)]
    [InlineData("every other Fri p4", "Days Days Time", 1)]
    [InlineData("days 2 and 5 period 3", "Days Time", 1)]
    [InlineData("daily 9-9:45", "Days Time", 1)]
    [InlineData("first Monday monthly", "Days", 2)]
    [InlineData("3 weekly from 10 Nov 18:00, numbered", "End From Time Numbering", 2)]
    [InlineData("12 sessions", "End", 3)]
    public void Says_what_a_part_of_a_line_leaves_open(string line, string fields, int missing)
    {
        var reading = QuickEntry.Read(line, Skerry.Time, Today);
        Assert.Equal(
            (fields, missing, 0),
            (
                string.Join(' ', reading.Parts.Select(part => part.Field)),
                reading.Missing.Length,
                reading.Problems.Length
            )
        );
    }

    [Theory]
    [InlineData("Choir", "No days were found")]
    [InlineData("Choir MWF", "No time was found")]
    [InlineData("MWF 8:00-8:50", "No title was found")]
    [InlineData("Choir MWF 8:00", "how long it takes is missing")]
    [InlineData("Choir MWF 8:50-8:00", "not after its start")]
    [InlineData("Choir MWF p9", "no period “9”")]
    [InlineData("Choir days 2 and 9 p1", "no day “9”")]
    [InlineData("Choir MWF 6:15 45 min", "whether 6:15 is in the morning or in the evening")]
    [InlineData("Choir MWF p2 8:00-8:50", "two times")]
    [InlineData(
        "Choir MWF p2 whenever the tide allows, if dry",
        "“whenever the tide allows, if dry” was not understood"
    )]
    [InlineData("Choir Mon 15 Sep p2", "15 Sep 2026 is a Tuesday, not a Monday")]
    [InlineData("Choir MWF days 1 and 2 p2", "more than one way")]
    [InlineData("Choir MWF p2 18 Dec to 14 Sep 2026", "before it starts")]
    public void Marks_what_it_does_not_understand_and_guesses_nothing(string line, string problem)
    {
        var reading = QuickEntry.Read(line, Skerry.Time, Today);
        Assert.False(reading.IsWhole);
        Assert.Contains(reading.Missing.Select(gap => gap.Sentence).Concat(reading.Problems), one =>
            one.Contains(problem, StringComparison.Ordinal)
        );
    }

    private static string InWords(QuickReading reading) =>
        string.Join(
            " | ",
            reading.Title,
            SayBack
                .When(
                    new MeetingPattern(
                        reading.Repeat!,
                        new SessionTime.AllDay(),
                        Skerry.Halifax,
                        reading.From ?? Today,
                        new Extent.Open()
                    ),
                    Skerry.Time
                )
                .Replace(", all day", "", StringComparison.Ordinal),
            SayBack.Of(reading.Time!),
            reading.From is { } from ? Wording.WithYear(from) : "",
            reading.Extent switch
            {
                Extent.Until until => $"until {Wording.WithYear(until.Day)}",
                Extent.Held held => $"{held.Sessions} sessions",
                Extent.WithTerm with => $"term {with.Term.Value}",
                _ => "",
            },
            reading.NumberLabel
        );
}
