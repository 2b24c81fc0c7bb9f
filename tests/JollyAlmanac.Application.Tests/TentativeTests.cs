using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;

namespace JollyAlmanac.Application.Tests;

/// <summary>Series and sessions that are not certain yet (RFC 5545 §3.8.1.11, STATUS of a VEVENT).</summary>
public sealed class TentativeTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private IReadOnlyList<string> Uncertain(Series series) =>
        [
            .. school
                .ClassPageQuery.Read(Viewer.Visitor, Slug, false, wholeTerm: true)!
                .Coming.Where(one => one.Session.IsKnownBy(new SessionKey(series.Id, one.Session.Original)))
                .Where(one => one.State == "not certain yet")
                .Select(one => $"{one.Session.Day:MM-dd}"),
        ];

    private string[] Feed(AccessLevel level = AccessLevel.Full)
    {
        var feed = TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                Slug,
                PublicationKind.Feed,
                new PublicationInput("", level, true, true, true)
            )
        );
        return school
            .ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!
            .Text!.Split("\r\n")
            .Where(line =>
                line.StartsWith("STATUS", StringComparison.Ordinal)
                || line.StartsWith("RECURRENCE-ID", StringComparison.Ordinal)
            )
            .ToArray();
    }

    private string Mark(Series series, string original, string act, string scope = "this") =>
        school.Change(series, original, new SessionInput(act, Scope: scope));

    [Fact]
    public void A_series_is_uncertain_until_it_is_settled()
    {
        var series = school.Add(TestSchool.Good with { IsTentative = true });
        Assert.NotEmpty(Uncertain(series));
        Assert.Equal(["STATUS:TENTATIVE"], Feed());
        // Of busy times, nobody is told.
        Assert.Empty(Feed(AccessLevel.Busy));
        TestSchool.Done(school.Sessions.MakeCertain(school.Teacher, Slug, series.Id, 1));
        Assert.Empty(Uncertain(series));
        Assert.Empty(Feed());
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.NotEmpty(Uncertain(series));
        Assert.IsType<Outcome<string>.Stale>(school.Sessions.MakeCertain(school.Teacher, Slug, series.Id, 1));
    }

    [Fact]
    public void A_session_is_uncertain_by_itself()
    {
        var series = school.Add();
        Assert.Equal(
            "Marked Tidepool Biology 9A, Mon 19 Oct as not certain yet.",
            Mark(series, "2026-10-19T09:50", "unsure")
        );
        Assert.Equal(["10-19"], Uncertain(series));
        Assert.Equal(["RECURRENCE-ID;TZID=America/Halifax:20261019T095000", "STATUS:TENTATIVE"], Feed());
        Mark(series, "2026-10-19T09:50", "sure");
        Assert.Empty(Uncertain(series));
        Assert.Empty(school.Now(series).Changes);
    }

    // One that is settled within a series that is not says so: a component without a status would be as uncertain as its series to some.
    [Fact]
    public void A_session_is_settled_by_itself()
    {
        var series = school.Add(TestSchool.Good with { IsTentative = true });
        var before = Uncertain(series).Count;
        Mark(series, "2026-10-19T09:50", "sure");
        Assert.Equal(before - 1, Uncertain(series).Count);
        Assert.DoesNotContain("10-19", Uncertain(series));
        Assert.Equal(
            ["STATUS:TENTATIVE", "RECURRENCE-ID;TZID=America/Halifax:20261019T095000", "STATUS:CONFIRMED"],
            Feed()
        );
    }

    [Fact]
    public void What_holds_from_a_day_on_ends_the_series_before_it()
    {
        var series = school.Add();
        Mark(series, "2026-11-02T09:50", "unsure", "later");
        var kept = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series;
        Assert.Equal([false, true], kept.Select(one => one.Series.IsTentative));
        Assert.Empty(Uncertain(series));
    }

    [Fact]
    public void What_holds_for_all_takes_the_exceptions_with_it()
    {
        var series = school.Add();
        Mark(series, "2026-10-19T09:50", "unsure");
        Mark(series, "2026-10-21T09:50", "unsure", "every");
        Assert.True(school.Now(series).IsTentative);
        Assert.Empty(school.Now(series).Changes);
        Mark(series, "2026-10-19T09:50", "leave-out");
        // One that is cancelled is not uncertain besides.
        Assert.False(
            school
                .TermSheetQuery.Read(school.Teacher, Slug, null)!
                .Series.Single()
                .Plan.Find(TestSchool.Key(series, "2026-10-19T09:50"))!
                .IsTentative
        );
        Assert.DoesNotContain("10-19", Uncertain(series));
    }
}
