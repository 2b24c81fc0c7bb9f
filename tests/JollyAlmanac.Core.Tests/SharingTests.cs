using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Tests;

/// <summary>Giving access, looking as somebody else, groups within groups, and finding people by name.</summary>
public class SharingTests
{
    private static readonly CalendarId Calendar = new(1);
    private static readonly GroupId Class = new(1),
        Section = new(2),
        Staff = new(3);

    private static Grant To(Grantee to, AccessLevel level, bool ends = false) =>
        new(Calendar, to, level) { Until = ends ? new NodaTime.LocalDate(2026, 10, 31) : null };

    private static Grantee.OnePerson Person(long id) => new Grantee.OnePerson(new PersonId(id));

    [Fact]
    public void Only_managers_give_and_nobody_more_than_they_have()
    {
        foreach (var own in Enum.GetValues<AccessLevel>())
        foreach (var given in Enum.GetValues<AccessLevel>())
            Assert.Equal(own == AccessLevel.Manager && given != AccessLevel.None, AccessPhrases.MayGive(own, given));
    }

    [Theory]
    [InlineData(AccessLevel.Full, true, true)]
    [InlineData(AccessLevel.Contributor, false, true)]
    [InlineData(AccessLevel.Editor, false, false)]
    public void What_all_may_have_has_an_end(AccessLevel level, bool anyone, bool everyone)
    {
        Assert.Equal(anyone, AccessPhrases.Fits(new Grantee.Anyone(), level));
        Assert.Equal(everyone, AccessPhrases.Fits(new Grantee.Everyone(), level));
        Assert.True(AccessPhrases.Fits(Person(1), level));
    }

    [Fact]
    public void A_manager_is_somebody_who_is_here_and_whose_access_does_not_end()
    {
        bool Has(params Grant[] grants) =>
            AccessPhrases.HasManager(grants, person => person.Value == 1, group => group == Class);
        Assert.True(Has(To(Person(1), AccessLevel.Manager)));
        Assert.False(Has(To(Person(2), AccessLevel.Manager)));
        Assert.False(Has(To(Person(1), AccessLevel.Manager, ends: true)));
        Assert.False(Has(To(Person(1), AccessLevel.Editor)));
        Assert.True(Has(To(new Grantee.OneGroup(Class), AccessLevel.Manager)));
        Assert.False(Has(To(new Grantee.OneGroup(Staff), AccessLevel.Manager)));
        Assert.False(
            Has(To(new Grantee.Everyone(), AccessLevel.Manager), To(new Grantee.Anyone(), AccessLevel.Manager))
        );
    }

    [Fact]
    public void Why_tells_every_grant_the_highest_first_with_the_way_through_groups()
    {
        var within = new[] { (Section, Class), (Class, Staff) }.ToLookup(pair => pair.Item1, pair => pair.Item2);
        var viewer = new Viewer(new PersonId(5), SchoolRole.Student, new HashSet<GroupId> { Section, Class, Staff });
        var why = AccessPhrases.Why(
            viewer,
            [
                To(new Grantee.Everyone(), AccessLevel.Outline),
                To(new Grantee.OneGroup(Staff), AccessLevel.Full),
                To(Person(5), AccessLevel.Outline),
                To(Person(6), AccessLevel.Manager),
            ],
            within,
            [Section]
        );
        Assert.Equal(
            ["Full 2 1 3", "Outline ", "Outline "],
            why.Select(one => $"{one.Grant.Level} {string.Join(' ', one.Through.Select(group => group.Value))}")
        );
        Assert.Equal(Person(5), why[1].Grant.To);
    }

    [Theory]
    [InlineData(AccessLevel.Manager, AccessLevel.Full, SchoolRole.Teacher, AccessLevel.Full)]
    [InlineData(AccessLevel.Outline, AccessLevel.Editor, SchoolRole.Teacher, AccessLevel.Outline)]
    [InlineData(AccessLevel.None, AccessLevel.Full, SchoolRole.Teacher, AccessLevel.None)]
    [InlineData(AccessLevel.None, AccessLevel.Full, SchoolRole.Coordinator, AccessLevel.Full)]
    public void Looking_as_somebody_shows_no_more_than_ones_own_but_to_a_coordinator(
        AccessLevel own,
        AccessLevel looked,
        SchoolRole role,
        AccessLevel seen
    )
    {
        Grant[] grants = [To(Person(1), own), To(Person(2), looked)];
        var looker = new Viewer(new PersonId(1), role, new HashSet<GroupId>());
        Assert.Equal(
            seen,
            AccessRules.LevelOf(
                new Viewer(new PersonId(2), SchoolRole.Student, new HashSet<GroupId>()) { LookedAtBy = looker },
                [.. grants.Where(grant => grant.Level > AccessLevel.None)]
            )
        );
    }

    [Theory]
    [InlineData(1, 2, false)]
    [InlineData(2, 1, true)]
    [InlineData(3, 1, true)]
    [InlineData(3, 3, true)]
    [InlineData(1, 4, false)]
    public void Groups_form_no_circle(long group, long held, bool closes) =>
        Assert.Equal(
            closes,
            GroupCircle.Closes(
                new GroupId(group),
                new GroupId(held),
                new[] { (1L, 2L), (2L, 3L), (4L, 3L) }.ToLookup(
                    pair => new GroupId(pair.Item1),
                    pair => new GroupId(pair.Item2)
                )
            )
        );

    [Theory]
    [InlineData("sor", true)]
    [InlineData("mar sør", true)]
    [InlineData("SØRB marit", true)]
    [InlineData("neill", false)]
    [InlineData("oneill", true)]
    [InlineData("arit", false)]
    [InlineData("", false)]
    [InlineData("marit x", false)]
    public void People_are_found_by_first_letters_accents_and_case_apart(string typed, bool isFound) =>
        Assert.Equal(isFound, NameWords.Match(typed, "Marit Sørb-Ó’Néill"));

    // An accent as a sign of its own (Unicode, combining acute) is none when looking.
    [Theory]
    [InlineData("Ne\u0301ill", "neill")]
    [InlineData("Дмитрий", "дмитрий")]
    [InlineData("Straße", "strasse")]
    public void Letters_are_folded(string text, string plain) => Assert.Equal(plain, PlainLetters.Fold(text));
}
