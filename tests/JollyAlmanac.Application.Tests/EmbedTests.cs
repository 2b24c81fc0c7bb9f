using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Publishing;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What the maker of an embed chooses of it, and where it was shown.</summary>
public sealed class EmbedTests : IDisposable
{
    // One dot, as every reader of PNG knows it (PNG specification, 3rd edition, §5).
    private static readonly byte[] Dot = Convert.FromBase64String(
        "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
    );

    private static readonly PublicationInput Full = new(
        "On the site",
        AccessLevel.Full,
        true,
        true,
        true,
        "https://www.skerry.example\nhttps://tides.skerry.example"
    );

    private readonly TestSchool school = new();

    public EmbedTests() => school.Add();

    public void Dispose() => school.Dispose();

    private PublicationWithToken Make(PublicationInput input) =>
        TestSchool.Done(school.Outlets.Make(school.Teacher, TestSchool.Slug, PublicationKind.Embed, input));

    [Theory]
    [InlineData("", "", 7)]
    [InlineData("3", "", 3)]
    [InlineData("40", "", 28)] // all that are left of the term
    [InlineData("", "2", 2)] // Wed 14 and Fri 16 October
    [InlineData("1", "2", 1)]
    [InlineData("0", "", null)]
    [InlineData("41", "", null)]
    [InlineData("many", "", null)]
    [InlineData("", "-1", null)]
    public void It_tells_as_many_as_its_maker_chose(string count, string days, int? told)
    {
        var input = Full with { Count = count, DaysAhead = days };
        if (told is null)
        {
            Assert.Single(
                TestSchool.Refused(school.Outlets.Make(school.Teacher, TestSchool.Slug, PublicationKind.Embed, input))
            );
            return;
        }

        var made = Make(input);
        Assert.Equal(told, school.ReadEmbed.Do(made.Token)!.Coming.Length);
        // What was kept is what the form says again.
        var again = PublicationInput.Of(made.Outlet, []);
        Assert.Equal((count, days), (again.Count, again.DaysAhead));
    }

    [Fact]
    public void A_line_and_a_picture_stand_above_it_as_long_as_anyone_may_see_them()
    {
        var key = TestSchool
            .Done(
                school
                    .Files.Whole(
                        school.Teacher,
                        TestSchool.Slug,
                        new Upload("dot.png", Dot.Length, () => new MemoryStream(Dot)),
                        TestContext.Current.CancellationToken
                    )
                    .Waited()
            )
            .Key;
        TestSchool.Done(
            school.Materials.Attach(
                school.Teacher,
                TestSchool.Slug,
                [new AttachItem(key, MaterialSpot.Everything), new AttachItem(null, MaterialSpot.Everything)],
                "https://tides.skerry.example/",
                new MaterialDetails()
            )
        );
        var materials = TestSchool.Done(school.Materials.View(school.Teacher, TestSchool.Slug)).Whole!.Kept;
        var (picture, link) = (materials[0].Material, materials[1].Material);
        var input = Full with
        {
            Welcome = "  Welcome to <b>us</b>  ",
            Picture = $"{picture.Id.Value}",
            Icon = EmbedIcon.Door,
        };
        var made = Make(input);
        Assert.Equal("Welcome to <b>us</b>", made.Outlet.Options.Welcome);
        Assert.Equal(picture.Id, school.ReadEmbed.Do(made.Token)!.Picture?.Id);
        // An embed of the materials shows them, whatever is ticked beside it.
        var board = Make(input with { Materials = false, Shape = EmbedShape.Materials });
        Assert.Equal(
            ["dot.png", "tides.skerry.example"],
            school.ReadEmbed.Do(board.Token)!.Materials.Select(one => one.Title)
        );
        Assert.False(Make(input with { Materials = false }).Outlet.Choices.Materials);
        // What is no picture, is not there, or is too long is refused.
        foreach (
            var wrong in new[]
            {
                input with
                {
                    Picture = $"{link.Id.Value}",
                },
                input with
                {
                    Picture = "999",
                },
                input with
                {
                    Welcome = new string('a', PublicationOptions.LongestWelcome + 1),
                },
                input with
                {
                    Icon = (EmbedIcon)9,
                },
            }
        )
            Assert.Single(
                TestSchool.Refused(school.Outlets.Make(school.Teacher, TestSchool.Slug, PublicationKind.Embed, wrong))
            );
        // For people only from now on: the embed goes on without it.
        TestSchool.Done(
            school.Materials.Change(
                school.Teacher,
                TestSchool.Slug,
                picture.Id.Value,
                null,
                new MaterialDetails("Dot", PeopleOnly: true),
                picture.Version
            )
        );
        Assert.Null(school.ReadEmbed.Do(made.Token)!.Picture);
    }

    [Fact]
    public void Where_it_was_shown_first_and_last_is_known_to_its_keepers()
    {
        var made = Make(Full);
        var sightings = new EmbedSightings(school.Database, school.Clock);
        IReadOnlyList<ShownOn> On() =>
            TestSchool.Done(school.Outlets.Of(school.Teacher, TestSchool.Slug)).Embeds[0].ShownOn;
        Assert.Empty(On());
        var first = school.Clock.GetCurrentInstant();
        sightings.Note(made.Token, new Uri("https://www.skerry.example/classes/9a"));
        // A site that may not show it, and an embed that is none, leave nothing.
        sightings.Note(made.Token, new Uri("https://elsewhere.example/"));
        sightings.Note(made.Token, new Uri("http://www.skerry.example/"));
        Assert.Equal(("https://www.skerry.example", first, first), (On()[0].Site, On()[0].First, On()[0].Last));
        Assert.Single(On());
        // Once an hour is enough.
        var state = school.ReadEmbed.StateVersionOf(made.Token);
        school.Clock.AdvanceMinutes(59);
        sightings.Note(made.Token, new Uri("https://www.skerry.example/"));
        Assert.Equal(first, On()[0].Last);
        school.Clock.AdvanceMinutes(1);
        sightings.Note(made.Token, new Uri("https://www.skerry.example/"));
        Assert.Equal((first, first + Duration.FromHours(1)), (On()[0].First, On()[0].Last));
        // To be seen changes nothing of how it stands.
        Assert.Equal(state, school.ReadEmbed.StateVersionOf(made.Token));
    }
}
