using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.Access;

namespace JollyAlmanac.Application.Tests;

/// <summary>Whether a list of sessions is told by its numbers.</summary>
public sealed class NumberingTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    [Fact]
    public void Of_two_series_that_count_from_one_a_number_says_nothing_without_its_title()
    {
        school.Add(TestSchool.Good with { Days = ["1"] });
        IReadOnlyList<ShownSession> Coming() => school.Look.AtClassPage(Viewer.Visitor, TestSchool.Slug, asVisitor: false)!.Coming;
        Assert.True(Numbering.IsOne(Coming()));
        Assert.True(Numbering.IsOne([.. Coming().Reverse()]));
        school.Add(TestSchool.Good with { Title = "Lab", Days = ["3"], Link = "" });
        Assert.False(Numbering.IsOne(Coming()));
    }
}
