using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;

namespace JollyAlmanac.Core.Tests;

/// <summary>Lists of people that come in, held beside those who are known.</summary>
public class RosterTests
{
    private static readonly RosterChoices Students = new(SchoolRole.Student, new HashSet<string> { "skerry.example" });

    private static Table Of(string file, string columns, params string[] rows) =>
        new(
            file,
            [.. columns.Split(',')],
            [
                .. rows.Select(
                    (row, at) => new TableRow(at + 2, [.. row.Split(',').Select(field => field.Replace('|', ','))])
                ),
            ]
        );

    // Columns as school programs commonly name them (from memory; no standard says it).
    [Theory]
    [InlineData("E-Mail;First Name;Surname;Type;Class", "Email 0, GivenName 1, FamilyName 2, Role 3, Group 4")]
    [InlineData("sourcedId;Name;mail", "Email 2, Name 1, Source 0")]
    [InlineData("Student ID;Full name;Email address;Section", "Email 2, Name 1, Group 3, Source 0")]
    [InlineData("Prénom;Nom", "")]
    public void Columns_are_known_by_their_names(string columns, string expected) =>
        Assert.Equal(
            expected,
            string.Join(
                ", ",
                PeopleTable
                    .Match([.. columns.Split(';')])
                    .OrderBy(one => one.Key)
                    .Select(one => $"{one.Key} {one.Value}")
            )
        );

    [Fact]
    public void A_table_tells_of_each_line_it_does_not_take()
    {
        var table = Of(
            "list.csv",
            "id,name,email,role,class",
            "1,Quill| Teodor,teodor@skerry.example,student,9A",
            "2,Amara Okonjo,amara@@skerry,student,9A",
            "3,,,,",
            ",Nobody,,,",
            "4,Linnea Sandvik,TEODOR@skerry.example,student,9A",
            "5,Kwame,kwame@skerry.example,wizard,9A",
            "1,Quill| Teodor,teodor@skerry.example,student,10B",
            ",,,,"
        );
        var roster = PeopleTable.Read(table, PeopleTable.Match(table.Columns));
        Assert.Equal(["Teodor Quill", ""], roster.People.Select(one => one.Name));
        Assert.Equal([3, 5, 6, 7], roster.Refused.Select(one => one.Line));
        Assert.Equal(1, roster.Doubles);
        Assert.Equal(
            "9A: 0; 10B: 0",
            string.Join("; ", roster.Groups.Select(group => $"{group.Name}: {string.Join(' ', group.Members)}"))
        );
    }

    [Fact]
    public void A_list_of_addresses_adds_and_changes_nobody()
    {
        var roster = PeopleTable.Read(
            AddressList.Read(
                "Quill, Teddy <teodor@skerry.example>\namara.okonjo@students.skerry.example\nvera@tidewater.example\nno address"
            )
        );
        var plan = RosterPlan.Of(roster, [Known(1, "Teodor Quill", "teodor@skerry.example")], [], Students);
        Assert.Equal(
            "Teodor Quill Same Student; Amara Okonjo New Student; Vera New Guest",
            string.Join("; ", plan.Lines.Select(line => $"{line.Name} {line.News} {line.Role}"))
        );
        Assert.Equal(4, Assert.Single(plan.Refused).Line);
        // Whose role the list says is that, wherever the address is.
        var said = RosterPlan.Of(
            roster with
            {
                People = [.. roster.People.Select(one => one with { Role = SchoolRole.Family })],
            },
            [],
            [],
            Students
        );
        Assert.All(said.Lines, line => Assert.Equal(SchoolRole.Family, line.Role));
    }

    [Fact]
    public void A_list_that_knows_people_by_ids_keeps_them_right_and_says_who_is_gone()
    {
        KnownPerson[] known =
        [
            Known(1, "Teodor Quill", "teodor@skerry.example", "s1"),
            Known(2, "Amara Okonjo", "amara@skerry.example"),
            Known(3, "Linnea Sandvik", "linnea@skerry.example", "s3"),
            Known(4, "Wendeline Okafor", "wendeline@skerry.example", "s4", SchoolRole.Coordinator),
            Known(5, "Kwame Haddad", "kwame@skerry.example", "s5", hasLeft: true),
            Known(6, "Isla Voss", "isla@skerry.example", "s6"),
            Known(7, "Petra Lind", "petra@skerry.example", "s7", hasLeft: true),
        ];
        var roster = new Roster(
            [
                new("s1", "Teodor Quill-Voss", new EmailAddress("teodor@skerry.example"), SchoolRole.Student, 2),
                new("s2", "Amara Okonjo", new EmailAddress("amara@skerry.example"), SchoolRole.Student, 3),
                new("s3", "Linnea Sandvik", new EmailAddress("amara@skerry.example"), SchoolRole.Student, 4),
                new("s4", "Wendeline Okafor", null, SchoolRole.Teacher, 5),
                new("s5", "Kwame Haddad", new EmailAddress("kwame@skerry.example"), SchoolRole.Student, 6),
                new("s9", "Noor Tanabe", new EmailAddress("noor@skerry.example"), SchoolRole.Student, 7),
            ],
            [],
            [],
            IsWhole: true
        );
        var plan = RosterPlan.Of(roster, known, [], Students);
        Assert.Equal(
            [
                "s1 Changed: is called Teodor Quill-Voss from now on",
                "s2 Changed: is known by the list’s id from now on",
                "s4 Same: ",
                "s5 Changed: comes back",
                "s9 New: ",
            ],
            plan.Lines.Select(line => $"{line.Person.Source} {line.News}: {line.What}")
        );
        // Who keeps the school is not decided by a list, and an address is one person's.
        Assert.Equal(SchoolRole.Coordinator, plan.Lines.Single(line => line.Person.Source == "s4").Role);
        Assert.Contains("Amara Okonjo", Assert.Single(plan.Refused).Reason, StringComparison.Ordinal);
        // Neither who has left, nor whose line was refused, is gone.
        Assert.Equal(["Isla Voss"], plan.Gone.Select(one => one.Name));
        Assert.Empty(RosterPlan.Of(roster with { IsWhole = false }, known, [], Students).Gone);
    }

    [Fact]
    public void Groups_say_who_comes_in_and_who_is_missing()
    {
        var roster = new Roster(
            [
                new("", "Teodor", new EmailAddress("teodor@skerry.example"), null, 1),
                new("", "Amara", new EmailAddress("amara@skerry.example"), null, 2),
            ],
            [new RosterGroup("", "9a, class list", GroupKind.ClassList, [0, 1])],
            [],
            IsWhole: false
        );
        var known = new KnownGroup(new GroupId(7), "9A, class list", "", new HashSet<PersonId> { new(1), new(3) });
        var plan = RosterPlan.Of(
            roster,
            [Known(1, "Teodor", "teodor@skerry.example"), Known(3, "Linnea", "linnea@skerry.example")],
            [known],
            Students with
            {
                Whole = true,
            }
        );
        var group = Assert.Single(plan.Groups);
        Assert.Equal(
            ("9A, class list", "1", "3"),
            (group.Known?.Name, string.Join(' ', group.Added), string.Join(' ', group.Missing.Select(one => one.Value)))
        );
        Assert.Empty(RosterPlan.Of(roster, [], [known], Students).Groups[0].Missing);
        Assert.False(plan.IsNothing);
    }

    // 1EdTech OneRoster: the tables' columns, "tobedeleted", manifest's "delta", roles of 1.1 in users and of 1.2 in roles (from memory).
    [Fact]
    public void OneRoster_of_both_versions_gives_people_class_lists_and_departments()
    {
        var users11 = Of(
            "users.csv",
            "sourcedId,status,enabledUser,orgSourcedIds,role,givenName,familyName,email",
            "u1,active,true,o1|o2,student,Teodor,Quill,teodor@skerry.example",
            "u2,active,true,o1,teacher,Orla,Marchbanks,orla@skerry.example",
            "u3,tobedeleted,true,o1,student,Gone,Girl,gone@skerry.example",
            "u4,active,false,o1,student,Off,Line,off@skerry.example",
            "u5,active,true,o1,guardian,Ma,Quill,",
            "u6,active,true,o1,wizard,Mer,Lin,",
            "u7,active,true,o1,student,Twin,Quill,TEODOR@skerry.example"
        );
        var tables = new Dictionary<string, Table>
        {
            ["users"] = users11,
            ["orgs"] = Of("orgs.csv", "sourcedId,name,type", "o1,Skerry,school", "o2,Field Science,department"),
            ["classes"] = Of("classes.csv", "sourcedId,status,title,classCode", "c1,active,Tidepool Biology,9A"),
            ["enrollments"] = Of(
                "enrollments.csv",
                "sourcedId,status,classSourcedId,userSourcedId,role",
                "e1,active,c1,u1,student",
                "e2,active,c1,u2,teacher",
                "e3,active,c1,u9,student",
                "e4,active,c1,u3,student"
            ),
        };
        var roster = OneRoster.Read(tables);
        Assert.True(roster.IsWhole);
        Assert.Equal(
            "u1 Student; u2 Teacher; u5 Family",
            string.Join("; ", roster.People.Select(one => $"{one.Source} {one.Role}"))
        );
        Assert.Equal(
            [
                "class c1 Tidepool Biology 9A, class list: 0",
                "staff c1 Tidepool Biology 9A, teachers: 1",
                "org o2 Field Science: 0",
            ],
            roster.Groups.Select(group => $"{group.Source} {group.Name}: {string.Join(' ', group.Members)}")
        );
        Assert.Equal(
            ["users.csv 7", "users.csv 8", "enrollments.csv 4"],
            roster.Refused.Select(line => $"{line.File} {line.Line}")
        );

        tables["users"] = Of(
            "users.csv",
            "sourcedId,status,enabledUser,givenName,familyName,email",
            "u1,,true,Teodor,Quill,teodor@skerry.example"
        );
        tables["roles"] = Of(
            "roles.csv",
            "sourcedId,userSourcedId,roleType,role,orgSourcedId",
            "r1,u1,primary,student,o1",
            "r2,u1,secondary,teacher,o1"
        );
        tables["manifest"] = Of("manifest.csv", "propertyName,value", "file.users,delta");
        var second = OneRoster.Read(tables);
        Assert.Equal((SchoolRole.Student, false), (Assert.Single(second.People).Role, second.IsWhole));
    }

    [Fact]
    public void OneRoster_without_what_it_needs_says_so()
    {
        Assert.Contains(
            "users.csv",
            Assert.Single(OneRoster.Read(new Dictionary<string, Table>()).Refused).Reason,
            StringComparison.Ordinal
        );
        // Nobody is gone because a file is missing.
        Assert.False(OneRoster.Read(new Dictionary<string, Table>()).IsWhole);
        var roster = OneRoster.Read(
            new Dictionary<string, Table> { ["users"] = Of("users.csv", "sourcedId,email", "u1,a@skerry.example") }
        );
        Assert.Contains("givenName and familyName", Assert.Single(roster.Refused).Reason, StringComparison.Ordinal);
        Assert.Empty(roster.People);
    }

    private static KnownPerson Known(
        long id,
        string name,
        string email,
        string source = "",
        SchoolRole role = SchoolRole.Student,
        bool hasLeft = false
    ) => new(new PersonId(id), name, email.Length > 0 ? new EmailAddress(email) : null, role, source, hasLeft);
}
