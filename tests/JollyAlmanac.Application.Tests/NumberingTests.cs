using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;

namespace JollyAlmanac.Application.Tests;

/// <summary>Whether a list of sessions is told by its numbers.</summary>
public sealed class NumberingTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    [Fact]
    public void A_number_alone_tells_the_sessions_of_one_series()
    {
        const string Class = "Tidepool Biology 9A";
        school.Add(TestSchool.Good with { Days = ["1"] });
        string? Alone(string calendar = Class) =>
            Numbering.TitleOf(
                school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, asVisitor: false)!.Coming.Reverse(),
                calendar
            );
        Assert.Equal(Class, Alone());
        // On a calendar of another title it is the only one.
        Assert.Equal(Class, Alone("Sea Crafts"));
        school.Add(TestSchool.Good with { Title = "Lab", Days = ["3"], Link = "" });
        // Those of the lab are told with their title; of two that are not the calendar's own, both are.
        Assert.Equal(Class, Alone());
        Assert.Null(Alone("Sea Crafts"));
        // A second series of the class's own title counts from 1, too: no number says which is meant.
        school.Add(TestSchool.Good with { Days = ["5"], Link = "" });
        Assert.Null(Alone());
    }
}
