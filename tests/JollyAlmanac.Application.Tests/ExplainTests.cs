using System.Text.Json;
using JollyAlmanac.Application.Explaining;

namespace JollyAlmanac.Application.Tests;

/// <summary>What a recurrence rule means, asked in lines of JSON.</summary>
public class ExplainTests
{
    [Theory]
    [InlineData(
        """{"id":1,"rrule":"FREQ=MONTHLY;BYDAY=-1FR","dtstart":"2026-09-25T08:00","tzid":"America/Halifax","window":{"limit":2}}""",
        "2026-09-25T08:00:00-03:00 2026-10-30T08:00:00-03:00"
    )]
    [InlineData(
        """{"id":"a","rrule":"FREQ=DAILY","dtstart":"2026-09-25T08:00:00","tzid":null,"window":{"from":"2026-09-27T08:00","to":"2026-09-29T08:00"}}""",
        "2026-09-27T08:00:00 2026-09-28T08:00:00"
    )]
    [InlineData(
        """{"id":2,"rrule":"FREQ=WEEKLY;COUNT=3","dtstart":"2026-09-25","tzid":null,"exdate":["2026-10-02"],"rdate":["2026-09-30"],"window":{"limit":9}}""",
        "2026-09-25 2026-09-30 2026-10-09"
    )]
    [InlineData(
        """{"id":3,"rrule":"FREQ=HOURLY","dtstart":"2026-11-01T00:30","tzid":"America/Halifax","window":{"to":"2026-11-01T02:00"}}""",
        "2026-11-01T00:30:00-03:00 2026-11-01T01:30:00-03:00 2026-11-01T01:30:00-04:00"
    )]
    [InlineData(
        """{"id":4,"rrule":"FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30","dtstart":"2026-01-01T08:00","tzid":"UTC","window":{"limit":5}}""",
        ""
    )]
    public void Answers_with_the_occurrences(string question, string occurrences)
    {
        using var answer = Ask(question);
        Assert.Equal(
            occurrences,
            string.Join(
                ' ',
                answer.RootElement.GetProperty("occurrences").EnumerateArray().Select(one => one.GetString())
            )
        );
        Assert.Equal(
            JsonDocument.Parse(question).RootElement.GetProperty("id").ToString(),
            answer.RootElement.GetProperty("id").ToString()
        );
    }

    [Theory]
    [InlineData(
        """{"id":1,"rrule":"FREQ=DAILY;COUNT=1;UNTIL=20261218","dtstart":"2026-09-25T08:00"}""",
        "COUNT and UNTIL"
    )]
    [InlineData(
        """{"id":1,"rrule":"FREQ=SECONDLY","dtstart":"2026-09-25T08:00","window":{"to":"2076-09-25"}}""",
        "more than 100000 occurrences in the window"
    )]
    [InlineData(
        """{"id":1,"rrule":"FREQ=SECONDLY;COUNT=2000000000","dtstart":"2026-09-25T08:00"}""",
        "counted through"
    )]
    [InlineData("""{"id":1,"rrule":"FREQ=HOURLY","dtstart":"2026-09-25"}""", "needs a time")]
    [InlineData("""{"id":1,"rrule":"FREQ=DAILY","dtstart":"2026-09-25T08:00","tzid":"Mars/Olympus"}""", "no zone")]
    [InlineData("""{"id":1,"rrule":"FREQ=DAILY","dtstart":"soon"}""", "no date and no time")]
    [InlineData("""{"id":1,"rrule":"FREQ=DAILY","dtstart":"2026-09-25","exdate":["never"]}""", "“never”")]
    [InlineData("not JSON", "no question")]
    public void Answers_with_the_reason_where_there_is_none(string question, string reason)
    {
        using var answer = Ask(question);
        Assert.Contains(reason, answer.RootElement.GetProperty("error").GetString());
    }

    [Fact]
    public void One_question_is_answered_for_people()
    {
        using var answers = new StringWriter();
        Assert.Equal(
            0,
            Explain.One(
                new Explain.Question(
                    "RRULE:FREQ=WEEKLY;BYDAY=TU",
                    "2026-09-15T08:00",
                    Window: new Explain.Window(Limit: 1)
                ),
                answers,
                _ => 2
            )
        );
        Assert.Equal(
            ["every week on Tuesday at 8:00, without end", "2026-09-15T08:00:00"],
            answers.ToString().Split(Environment.NewLine, StringSplitOptions.RemoveEmptyEntries)
        );
        Assert.Equal(2, Explain.One(new Explain.Question("FREQ=NEVER", "2026-09-15T08:00"), answers, _ => 2));
    }

    private static JsonDocument Ask(string question)
    {
        using var questions = new StringReader(question + "\n");
        using var answers = new StringWriter();
        Assert.Equal(0, Explain.Batch(questions, answers));
        return JsonDocument.Parse(answers.ToString());
    }
}
