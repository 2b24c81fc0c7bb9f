using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace JollyAlmanac.Demo;

/// <summary>
/// Skerry Isles School, invented: a main house on one island, three small learning centres on others, so that most
/// classes meet by join link as well as in a room. Told through the same acts that people use.
/// </summary>
public sealed class DemoStory
{
    /// <summary>The school's zone (IANA).</summary>
    public const string Zone = "America/Halifax";

    /// <summary>What the demo's clock says at its start, by the school's zone; ISO 8601.</summary>
    public const string UsualMoment = "2026-10-14T09:41";

    /// <summary>The slug of a class with something of everything.</summary>
    public static readonly Slug ShownClass = new("tidepool-biology-9a");

    /// <summary>The slug of a class that anybody may see.</summary>
    public const string OpenClass = "tidepool-biology-9c";
    private const string Password = "skerry-tide-2026";

    /// <summary>The school's first coordinator.</summary>
    public static readonly NewPerson Coordinator = new(
        "Wendeline Okafor",
        "wendeline.okafor@skerry.example",
        SchoolRole.Coordinator,
        Password
    );
    private static readonly NewPerson Teacher = new(
        "Orla Marchbanks",
        "orla.marchbanks@skerry.example",
        SchoolRole.Teacher,
        Password
    );

    /// <summary>The people that one may sign in as.</summary>
    public static readonly DemoSignIns SignIns = new(
        [
            (Coordinator.Name, "coordinator", Coordinator.Email),
            (Teacher.Name, "teacher", Teacher.Email),
            ("Ines Falk", "co-teacher", "ines.falk@skerry.example"),
            ("Benedikt Osei", "contributor", "benedikt.osei@skerry.example"),
            ("Priya Ramanathan", "colleague, outline", "priya.ramanathan@skerry.example"),
            ("Halvard Sunde", "colleague, busy", "halvard.sunde@skerry.example"),
            ("Teodor Quill", "student", "teodor.quill@students.skerry.example"),
            ("Family of Teodor Quill", "family", "teodor.quill@families.skerry.example"),
            ("Corwin Ashby", "no access", "corwin.ashby@skerry.example"),
        ],
        Password
    );

    private static readonly string[] ShortBells = ["8:00", "8:40", "9:20", "10:00", "10:40", "11:20", "12:00"];

    // The last Friday of each month of the autumn term.
    private static readonly LocalDate[] ShortFridays = [new(2026, 9, 25), new(2026, 10, 30), new(2026, 11, 27)];

    private static readonly string[] Bells = ["8:00", "8:55", "9:50", "10:55", "12:35", "13:30", "14:25"];

    private static readonly NewPerson[] OtherTeachers =
    [
        .. new[]
        {
            "Halvard Sunde",
            "Priya Ramanathan",
            "Tobias Krell",
            "Maeve Dunphy",
            "Joaquim Sarrazin",
            "Eilidh Torrance",
            "Benedikt Osei",
            "Lucette Arseneau",
            "Nikolai Brandt",
            "Sefina Tuala",
            "Corwin Ashby",
            "Ines Falk",
            "Hale Brodick",
        }.Select(name => new NewPerson(
            name,
            $"{name.ToLowerInvariant().Replace(' ', '.')}@skerry.example",
            SchoolRole.Teacher,
            name is "Ines Falk" or "Benedikt Osei" or "Priya Ramanathan" or "Halvard Sunde" or "Corwin Ashby"
                ? Password
                : null
        )),
    ];

    private readonly CreateSchool createSchool;
    private readonly SetSchoolTime setSchoolTime;
    private readonly AddPeople addPeople;
    private readonly AddRequests addRequests;
    private readonly Absences absences;
    private readonly EditGroups editGroups;
    private readonly SaveCalendar saveCalendar;
    private readonly OwnTimes ownTimes;
    private readonly Share share;
    private readonly Invitations invitations;
    private readonly SessionsByMail byMail;
    private readonly ComposeSeries composeSeries;
    private readonly ChangeSession changeSession;
    private readonly Publications publications;
    private readonly EditJoinLinks editJoinLinks;
    private readonly TestLink testLink;
    private readonly EditNotices editNotices;
    private readonly SendFiles sendFiles;
    private readonly EditMaterials editMaterials;
    private readonly EditPeople editPeople;
    private readonly Switchboard switchboard;
    private readonly SchoolQuery schoolQuery;
    private readonly TermSheetQuery termSheetQuery;
    private readonly DemoClock clock;
    private readonly Dictionary<string, Viewer> staff = [];
    private Viewer coordinator = Viewer.Visitor;
    private GroupId coordinators;
    private IReadOnlyList<PersonId> families = [];
    private Term autumn = null!;
    private string? tidepoolRoom;

    private DemoStory(IServiceProvider acts, DemoClock clock)
    {
        this.clock = clock;
        createSchool = acts.GetRequiredService<CreateSchool>();
        setSchoolTime = acts.GetRequiredService<SetSchoolTime>();
        addPeople = acts.GetRequiredService<AddPeople>();
        addRequests = acts.GetRequiredService<AddRequests>();
        absences = acts.GetRequiredService<Absences>();
        editGroups = acts.GetRequiredService<EditGroups>();
        saveCalendar = acts.GetRequiredService<SaveCalendar>();
        ownTimes = acts.GetRequiredService<OwnTimes>();
        share = acts.GetRequiredService<Share>();
        invitations = acts.GetRequiredService<Invitations>();
        byMail = acts.GetRequiredService<SessionsByMail>();
        composeSeries = acts.GetRequiredService<ComposeSeries>();
        changeSession = acts.GetRequiredService<ChangeSession>();
        publications = acts.GetRequiredService<Publications>();
        editJoinLinks = acts.GetRequiredService<EditJoinLinks>();
        testLink = acts.GetRequiredService<TestLink>();
        editNotices = acts.GetRequiredService<EditNotices>();
        sendFiles = acts.GetRequiredService<SendFiles>();
        editMaterials = acts.GetRequiredService<EditMaterials>();
        editPeople = acts.GetRequiredService<EditPeople>();
        switchboard = acts.GetRequiredService<Switchboard>();
        schoolQuery = acts.GetRequiredService<SchoolQuery>();
        termSheetQuery = acts.GetRequiredService<TermSheetQuery>();
    }

    /// <summary>Tells the story into an empty almanac.</summary>
    public static void Tell(IServiceProvider acts, DemoClock clock) => new DemoStory(acts, clock).Tell();

    private void Tell()
    {
        At(2026, 8, 17, 9, 0);
        MakeSchool();
        var students = MakePeople();
        At(2026, 8, 31, 10, 30);
        MakeDepartments();
        At(2026, 9, 3, 14, 10);
        MakeClasses(students);
        MakeDoors();
        At(2026, 9, 4, 11, 0);
        Publish();
        At(2026, 9, 4, 11, 40);
        ShareTidepool();
        At(2026, 10, 12, 19, 25);
        AddLatestMaterials();
        ChangeSessions();
        PutNoticesUp();
        ChangeNetLoft();
        At(2026, 10, 13, 18, 10);
        AskAndInvite();
    }

    private void MakeSchool()
    {
        var manager = Done(
            createSchool.Do(
                new SchoolInput(
                    "Skerry Isles School",
                    Zone,
                    "Monday",
                    "Autumn term",
                    "2026-09-08",
                    "2026-12-18",
                    Coordinator.Name,
                    Coordinator.Email,
                    Password
                )
            )
        );
        coordinator = new Viewer(manager, SchoolRole.Coordinator, new HashSet<GroupId>());
        staff[Coordinator.Name] = coordinator;
        var shortBells = new BellSchedule(
            "Short bells",
            [.. ShortBells.Select((start, index) => Period(start, index, 35))]
        );
        autumn = Done(
            setSchoolTime.Do(coordinator, time => new SchoolTime(
                time.Zone,
                time.FirstDayOfWeek,
                [
                    .. time.Terms,
                    new Term(default, "2026–27", "Spring term", new LocalDate(2027, 1, 4), new LocalDate(2027, 6, 25)),
                ],
                [
                    Off(2026, 10, 12, "Thanksgiving", NoClassKind.Holiday),
                    new NoClassDay(
                        new LocalDate(2026, 10, 22),
                        new LocalDate(2026, 10, 23),
                        "Teachers’ conference",
                        NoClassKind.StaffDay
                    ),
                    Off(2026, 11, 11, "Remembrance", NoClassKind.Holiday),
                    Off(2026, 11, 30, "Ferry maintenance", NoClassKind.Weather),
                    new NoClassDay(
                        new LocalDate(2026, 12, 19),
                        new LocalDate(2027, 1, 3),
                        "Winter holiday",
                        NoClassKind.Holiday
                    ),
                    new NoClassDay(
                        new LocalDate(2027, 3, 15),
                        new LocalDate(2027, 3, 19),
                        "March break",
                        NoClassKind.Holiday
                    ),
                    Off(2027, 3, 26, "Good Friday", NoClassKind.Holiday),
                    Off(2027, 3, 29, "Easter Monday", NoClassKind.Holiday),
                    Off(2027, 5, 24, "Victoria Day", NoClassKind.Holiday),
                ],
                new BellSchedule("Regular bells", [.. Bells.Select((start, index) => Period(start, index))]),
                new DayCycle(["1", "2", "3", "4", "5", "6"], new LocalDate(2026, 9, 8)),
                [shortBells],
                [.. ShortFridays.Select(day => new ShortenedDay(day, shortBells.Name))]
            ))
        ).Time.Terms[0];
        Done(
            setSchoolTime.SetSchool(
                coordinator,
                SchoolDetails.Of(schoolQuery.Find()!) with
                {
                    Help =
                        "No sound? Choose another microphone, or leave the room and come back.\nNothing opens? Ask Wendeline Okafor at the office.",
                }
            )
        );
    }

    private IReadOnlyList<PersonId> MakePeople()
    {
        NewPerson[] teachers = [Teacher, .. OtherTeachers];
        foreach (var (person, id) in teachers.Zip(Done(addPeople.Do(coordinator, teachers))))
            staff[person.Name] = new Viewer(id, SchoolRole.Teacher, new HashSet<GroupId>());
        coordinators = Done(editGroups.All(coordinator)).Single().Id;
        var everybody = DemoNames.StudentsAndFamilies(Password);
        var ids = Done(addPeople.Do(coordinator, everybody));
        families = [.. ids.Skip(DemoNames.Students)];
        // A family sees what its child sees, for as long as it does.
        for (var at = 0; at < families.Count; at++)
            Done(
                editPeople.SetChildren(
                    coordinator,
                    families[at],
                    everybody[DemoNames.Students + at]
                        .Email.Replace("@families.", "@students.", StringComparison.Ordinal)
                )
            );
        return [.. ids.Take(DemoNames.Students)];
    }

    private void MakeDepartments()
    {
        foreach (
            var (title, colour, shape, head) in new[]
            {
                ("Field Science", MarkColour.Moss, MarkShape.Hexagon, Teacher.Name),
                ("Sea Crafts", MarkColour.Harbour, MarkShape.Drop, "Halvard Sunde"),
                ("Languages", MarkColour.Plum, MarkShape.Chevron, "Lucette Arseneau"),
                ("Music", MarkColour.Rose, MarkShape.Star, "Maeve Dunphy"),
            }
        )
            Calendar(
                head,
                new CalendarInput(
                    title,
                    CalendarKind.Department,
                    "",
                    $"Meetings and events of {title}.",
                    colour,
                    shape,
                    OpenTo.Everyone
                )
            );
        Add(
            Coordinator.Name,
            new Slug("skerry-isles-school"),
            new SeriesInput
            {
                Title = "Assembly",
                Description = "The whole school, in the hall and by link from the learning centres.",
                Place = "Great hall",
                Days = ["1"],
                EveryWeeks = "2",
                Period = "1",
            },
            "https://rooms.skerry.example/assembly?passcode=lantern",
            "Great hall"
        );
        var hour = Calendar(
            Coordinator.Name,
            new CalendarInput(
                "Staff hour",
                CalendarKind.School,
                "",
                "For everybody who teaches.",
                MarkColour.Harbour,
                MarkShape.Diamond,
                OpenTo.Named
            )
        );
        foreach (var teacher in staff.Where(one => one.Key != Coordinator.Name))
            Done(share.Give(coordinator, hour, new Grantee.OnePerson(teacher.Value.Person!.Value), AccessLevel.Full));
        Add(
            Coordinator.Name,
            hour,
            new SeriesInput
            {
                Title = "Staff hour",
                Description = "",
                Place = "Staff room",
                Days = ["3"],
                EveryWeeks = "1",
                Period = "7",
            },
            "https://rooms.skerry.example/staff",
            "Staff room"
        );
        Add(
            Teacher.Name,
            new Slug("field-science"),
            new SeriesInput
            {
                Title = "Field Science meeting",
                Description = "",
                Place = "Tide Room",
                Days = ["1"],
                EveryWeeks = "2",
                Period = "7",
            }
        );
        Add(
            "Halvard Sunde",
            new Slug("sea-crafts"),
            new SeriesInput
            {
                Title = "Sea Crafts meeting",
                Description = "",
                Place = "Net loft",
                Days = ["4"],
                EveryWeeks = "2",
                Period = "7",
            }
        );
    }

    private void MakeClasses(IReadOnlyList<PersonId> students)
    {
        // Title, department, teacher, mark, days, period, place, room, first student of the list, their number.
        // 9A and 9C meet in one room, at different hours.
        Class(
            "Tidepool Biology 9A",
            "field-science",
            Teacher.Name,
            MarkColour.Juniper,
            MarkShape.Disc,
            "1 3 5",
            "3",
            "Tide Room",
            null,
            students,
            0,
            18,
            "2026-09-14"
        );
        Class(
            "Tidepool Biology 9C",
            "field-science",
            Teacher.Name,
            MarkColour.Beet,
            MarkShape.Frame,
            "1 3 5",
            "5",
            "Tide Room",
            null,
            students,
            18,
            17,
            "2026-09-14"
        );
        Class(
            "Coastal Weather 10",
            "field-science",
            Teacher.Name,
            MarkColour.Ochre,
            MarkShape.Triangle,
            "1 3",
            "2",
            "Weather tower",
            "weather",
            students,
            36,
            21
        );
        Class(
            "Island Geology 11",
            "field-science",
            "Priya Ramanathan",
            MarkColour.Rust,
            MarkShape.Hexagon,
            "2 4",
            "1",
            "Rock store",
            "geology",
            students,
            58,
            16
        );
        Class(
            "Net Mending",
            "sea-crafts",
            "Halvard Sunde",
            MarkColour.Harbour,
            MarkShape.Diamond,
            "2 4",
            "6",
            "Net loft",
            "netloft",
            students,
            76,
            14
        );
        Class(
            "Boat Geometry 10",
            "sea-crafts",
            "Tobias Krell",
            MarkColour.Lagoon,
            MarkShape.Cross,
            "2 4 5",
            "4",
            "Slipway",
            "boat-geometry",
            students,
            36,
            21
        );
        Class(
            "Knots and Rigging 7",
            "sea-crafts",
            "Eilidh Torrance",
            MarkColour.Slate,
            MarkShape.Ring,
            "5",
            "7",
            "Signal loft",
            "knots",
            students,
            92,
            15,
            everyWeeks: "2"
        );
        Calendar(
            "Corwin Ashby",
            new CalendarInput(
                "Signal Codes 8",
                CalendarKind.Class,
                "sea-crafts",
                "Flags, lamps and radio.",
                MarkColour.Sand,
                MarkShape.Bars,
                OpenTo.Anyone
            )
        );
        Class(
            "French 8",
            "languages",
            "Lucette Arseneau",
            MarkColour.Plum,
            MarkShape.Chevron,
            "1 2 4",
            "4",
            "Long room",
            "french-8",
            students,
            108,
            19
        );
        Class(
            "Portuguese 9",
            "languages",
            "Joaquim Sarrazin",
            MarkColour.Rose,
            MarkShape.Drop,
            "2 4",
            "2",
            "Long room",
            "portuguese",
            students,
            0,
            24
        );
        Class(
            "Norse Tales 10",
            "languages",
            "Benedikt Osei",
            MarkColour.Ink,
            MarkShape.Moon,
            "3 5",
            "6",
            "Library",
            "norse",
            students,
            36,
            21
        );
        Class(
            "Fiddle Ensemble",
            "music",
            "Maeve Dunphy",
            MarkColour.Moss,
            MarkShape.Star,
            "4",
            "7",
            "Signal loft",
            "fiddle",
            students,
            128,
            12
        );
        Class(
            "Shore Choir",
            "music",
            "Sefina Tuala",
            MarkColour.Rose,
            MarkShape.Bars,
            "1",
            "7",
            "Great hall",
            "choir",
            students,
            128,
            32
        );
        Class(
            "Harbour History 7",
            "languages",
            "Nikolai Brandt",
            MarkColour.Sand,
            MarkShape.Triangle,
            "1 3 5",
            "1",
            "Library",
            "harbour-history",
            students,
            92,
            15
        );
    }

    // The class whose addresses are printed: each kind of person has another level on it.
    private void ShareTidepool()
    {
        var orla = staff[Teacher.Name];
        Done(share.Give(orla, ShownClass, new GiveInput("ines.falk@skerry.example", Share.CoHost)));
        Done(share.Give(orla, ShownClass, new GiveInput("benedikt.osei@skerry.example", "contributor")));
        Done(share.Give(orla, ShownClass, new GiveInput("priya.ramanathan@skerry.example", "outline")));
        Done(share.Give(orla, ShownClass, new GiveInput("halvard.sunde@skerry.example", "busy")));
        var partners = Done(
            addPeople.Do(
                coordinator,
                [
                    new NewPerson("Yvonne Petrie", "yvonne.petrie@quillon.example", SchoolRole.Guest),
                    new NewPerson("Tadeusz Lowe", "tadeusz.lowe@quillon.example", SchoolRole.Guest),
                    new NewPerson("Oonagh Fairbairn", "oonagh.fairbairn@quillon.example", SchoolRole.Guest),
                ]
            )
        );
        var quillon = Done(addPeople.AddGroup(coordinator, "Quillon partner school", GroupKind.Staff, partners));
        Done(
            share.Give(orla, ShownClass, new Grantee.OneGroup(quillon), AccessLevel.Busy, new LocalDate(2026, 10, 31))
        );
    }

    // A section of the class that was shown, and a paper that is for it alone.
    private void MakeSection()
    {
        var list = schoolQuery
            .FindPerson(new EmailAddress("teodor.quill@students.skerry.example"))!
            .Groups.Select(id => Done(editGroups.Open(coordinator, id)))
            .Single(page => page.Group.Name == "Tidepool Biology 9A, class list");
        var crew = Done(
            addPeople.AddGroup(
                coordinator,
                "Tidepool Biology 9A, reef crew",
                GroupKind.Section,
                [.. list.Members.Select(person => person.Id).Skip(3).Take(6)]
            )
        );
        Done(editGroups.AddGroup(coordinator, list.Group.Id, crew));
        Attach(
            Teacher.Name,
            ShownClass,
            new MaterialInput(
                [Paper("Reef crew.pdf", "Reef crew", "Who carries rope, quadrats and first aid.")],
                "Reef crew",
                Only: new AudienceInput([AudienceInput.KeyOf(crew)])
            )
        );
    }

    // One asks for access, and one is invited and has not come; one is away for three days.
    private void AskAndInvite()
    {
        MakeSection();
        Done(
            absences.Add(
                coordinator,
                staff["Maeve Dunphy"].Person!.Value,
                new AbsenceInput("2026-10-14", "2026-10-16", "fiddle week in Quillon")
            )
        );
        Done(share.Ask(staff["Hale Brodick"], ShownClass, AccessLevel.Outline, "planning the boat week"));
        foreach (var fresh in new[] { "ines.holm@students.skerry.example", "jonas.bakke@students.skerry.example" })
            Done(addRequests.Ask(staff[Teacher.Name], ShownClass, new GiveInput(fresh, "full")));
        var marit = Done(
            addPeople.Do(coordinator, [new NewPerson("Marit Sørb", "m.sorb@skerry.example", SchoolRole.Teacher)])
        );
        Done(invitations.Invite(coordinator, marit));
        foreach (var reader in new[] { "priya.ramanathan@skerry.example", "teodor.quill@families.skerry.example" })
            Done(byMail.Begin(schoolQuery.FindPerson(new EmailAddress(reader))!, ShownClass));
    }

    private void Class(
        string title,
        string department,
        string teacher,
        MarkColour colour,
        MarkShape shape,
        string days,
        string period,
        string place,
        string? room,
        IReadOnlyList<PersonId> students,
        int firstStudent,
        int count,
        string from = "2026-09-08",
        string everyWeeks = "1"
    )
    {
        var slug = Calendar(
            teacher,
            new CalendarInput(
                title,
                CalendarKind.Class,
                department,
                "",
                colour,
                shape,
                title == "Tidepool Biology 9A" ? OpenTo.Named : OpenTo.Anyone
            )
        );
        var list = Done(
            addPeople.AddGroup(
                coordinator,
                $"{title}, class list",
                GroupKind.ClassList,
                [.. students.Skip(firstStudent).Take(count)]
            )
        );
        Done(share.Give(staff[teacher], slug, new Grantee.OneGroup(list), AccessLevel.Full));
        var series = new SeriesInput
        {
            Title = title,
            Description = $"In the {place}, or by join link from the learning centres.",
            Place = place,
            Days = days.Split(' '),
            EveryWeeks = everyWeeks,
            Period = period,
            From = from,
        };
        if (room is null)
            Add(teacher, slug, series with { Link = TidepoolRoom() });
        else
            Add(
                teacher,
                slug,
                series,
                $"https://rooms.skerry.example/{room}?passcode=kelp{room.Length}",
                place.EndsWith("oom", StringComparison.Ordinal) ? $"{place}, {title}" : place
            );
    }

    // Made for 9A, the first that needs it; its open door shows a page with the details.
    private string TidepoolRoom()
    {
        if (tidepoolRoom is null)
        {
            var link = Done(
                editJoinLinks.Add(
                    staff[Teacher.Name],
                    ShownClass,
                    new LinkInput(
                        "Tidepool room",
                        "tidepool-7k",
                        new RoomInput(
                            MakeRoom: true,
                            Ticked: ["Waiting area on", "Sound off on entry", "Nobody enters before the host"]
                        ),
                        Audience: new EntryAudienceInput(ShowsDetails: true),
                        Reach: new LinkReachInput("until", "2026-12-18")
                    )
                    {
                        WhatToDo = "Sound off as you come in.\nYour name as it is on the list.",
                    }
                )
            );
            tidepoolRoom = link.Id.Value.ToString(CultureInfo.InvariantCulture);
        }

        return tidepoolRoom;
    }

    private void MakeDoors()
    {
        Done(
            saveCalendar.Change(
                staff[Teacher.Name],
                ShownClass,
                saveCalendar.Form(staff[Teacher.Name], ShownClass)! with
                {
                    Contact = "Orla Marchbanks, in the Tide Room before the first bell",
                }
            )
        );
        // A helpers' hour, once, in the same room and close to 9C; a teacher's open hour without fixed times; a class with a room a
        // session.
        Add(
            Teacher.Name,
            new Slug("field-science"),
            new SeriesInput
            {
                Title = "Helpers’ hour",
                Description = "For the learning centres’ helpers.",
                Place = "",
                Start = "11:40",
                End = "12:30",
                Meets = "dates",
                Dates = "2026-10-14",
                Link = TidepoolRoom(),
            }
        );
        Done(
            editJoinLinks.Add(
                staff[Teacher.Name],
                new Slug("field-science"),
                new LinkInput(
                    "Open hour",
                    "marchbanks",
                    new RoomInput(MakeRoom: true),
                    new EntryRuleInput("always"),
                    new EntryAudienceInput("school", "periwinkle")
                )
            )
        );
        Change(Teacher.Name, "Weather tower", input =>
            input with
            {
                Reach = new LinkReachInput("until", "2026-10-20"),
            }
        );
        Change("Nikolai Brandt", "Library", input =>
            input with
            {
                Room = input.Room with { MakeRoom = true, Renews = true },
            }
        );
        foreach (
            var (keeper, row) in staff
                .Values.SelectMany(keeper =>
                    (switchboard.At(keeper, null, null)?.Rows ?? [])
                        .Where(row => row.MayKeep)
                        .Select(row => (keeper, row))
                )
                .DistinctBy(one => one.row.Link.Id)
        )
            Done(testLink.Do(keeper, row.Link.Code, CancellationToken.None));
    }

    // Halvard Sunde put another room behind the Net loft's link, and nobody has tried it yet.
    private void ChangeNetLoft() =>
        Change("Halvard Sunde", "Net loft", input =>
            input with
            {
                Room = input.Room with { Address = "https://rooms.skerry.example/netloft-b?passcode=herring" },
            }
        );

    private void Change(string keeper, string name, Func<LinkInput, LinkInput> change)
    {
        var link = switchboard
            .At(staff[keeper], null, null)!
            .Rows.First(row => row.Link.Name.StartsWith(name, StringComparison.Ordinal))
            .Link;
        Done(editJoinLinks.Change(staff[keeper], link.Code, change(LinkInput.Of(link))));
    }

    private void Publish()
    {
        foreach (
            var (slug, teacher) in new[]
            {
                (ShownClass.Value, Teacher.Name),
                ("coastal-weather-10", Teacher.Name),
                ("net-mending", "Halvard Sunde"),
                ("french-8", "Lucette Arseneau"),
            }
        )
        {
            Done(
                publications.Make(
                    staff[teacher],
                    new Slug(slug),
                    PublicationKind.Feed,
                    new PublicationInput("For students and families", AccessLevel.Full, true, true, true, Offered: true)
                )
            );
            Done(
                publications.Make(
                    staff[teacher],
                    new Slug(slug),
                    PublicationKind.Embed,
                    new PublicationInput(
                        "On the school’s site",
                        AccessLevel.Full,
                        false,
                        true,
                        true,
                        "https://www.skerry.example"
                    )
                )
            );
        }

        Done(
            publications.Make(
                coordinator,
                new Slug("skerry-isles-school"),
                PublicationKind.Feed,
                new PublicationInput("Everybody", AccessLevel.Outline, false, false, false)
            )
        );
    }

    private void AddLatestMaterials()
    {
        Attach(
            Teacher.Name,
            ShownClass,
            new MaterialInput(
                [
                    Paper(
                        "Field sheet.pdf",
                        "Field sheet",
                        "Site, tide, wind, water temperature.",
                        "Count twice, write once."
                    ),
                ],
                "Field sheet"
            )
        );
        foreach (
            var (day, name, line) in new[]
            {
                ("2026-10-07", "11 Periwinkle survey", "Mark ten squares along the rope."),
                ("2026-10-09", "12 Limpets", "Measure at low water, to the millimetre."),
                ("2026-10-14", "13 Barnacle count", "One quadrat each, three photographs."),
            }
        )
            Attach(
                Teacher.Name,
                ShownClass,
                new MaterialInput([Paper($"{name}.pdf", name, line)], "", "", $"{day}T09:50:00")
            );
        Attach(
            Teacher.Name,
            new Slug("coastal-weather-10"),
            new MaterialInput(
                [Paper("Pressure maps.pdf", "Pressure maps", "Sheet 9: draw the front.")],
                "Pressure maps, sheet 9",
                "",
                "2026-10-14T08:55:00"
            )
        );
        Attach(
            Teacher.Name,
            new Slug("tidepool-biology-9c"),
            new MaterialInput(null, "Tide tables, main island", "https://tides.skerry.example/main-island")
        );
        AddOwnMaterials();
        Done(ownTimes.MakeLink(staff[Teacher.Name], new OwnTimesInput("2026-10-14", "2026-10-23")));
        At(2026, 10, 13, 15, 20);
        Attach(
            "Halvard Sunde",
            new Slug("net-mending"),
            new MaterialInput(
                null,
                "Recording, 48 min",
                "https://films.skerry.example/net-mending-11",
                "2026-10-13T13:30:00",
                IsRecording: true
            )
        );
    }

    // For the whole class, for one session and given after it, a picture, and what was recorded.
    private void AddOwnMaterials()
    {
        var series = termSheetQuery.Read(staff[Teacher.Name], ShownClass, autumn.Id)!.Series[0].Series;
        string On(string day) => Key(series, $"{day}T09:50").ToString();
        Store(
            MaterialSpot.Everything,
            new Upload("Field book.md", FieldBook.Length, () => new MemoryStream(FieldBook)),
            new MaterialDetails("Field book", "Have it with you whenever we go out.", Heading: "On the shore")
        );
        Done(
            editMaterials.Attach(
                staff[Teacher.Name],
                ShownClass,
                [new AttachItem(null, MaterialSpot.Everything)],
                "https://names.skerry.example/shore",
                new MaterialDetails("Names of shore animals", Heading: "To look things up")
            )
        );
        Store(
            MaterialSpot.Everything,
            Paper("Shore report.pdf", "Shore report", "Two pages: what you counted, where, and what you make of it."),
            new MaterialDetails(
                "Shore report",
                "Two pages, and one drawing with a scale.",
                Due: new DueInput("2026-10-21", "16:00"),
                Heading: "To hand in"
            )
        );
        var chart = DemoPaper.TideChart();
        Store(
            On("2026-10-14"),
            new Upload("Low water.png", chart.Length, () => new MemoryStream(chart)),
            new MaterialDetails("Low water, 14 Oct")
        );
        Store(
            On("2026-10-14"),
            Paper("13 Barnacle count, answers.pdf", "Barnacle count: answers", "About 240 in a square at mid shore."),
            new MaterialDetails("13 Barnacle count, answers", Release: new ReleaseInput("after", GiveAmount: "30"))
        );
        Store(
            On("2026-10-16"),
            Paper("14 Shore walk.pdf", "Shore walk", "Boots, rain jacket, pencil."),
            new MaterialDetails("14 Shore walk", Release: new ReleaseInput("hand"))
        );
        Store(
            On("2026-10-16"),
            Paper("Photographs.pdf", "Photographs", "Your square from above, from the side, and its neighbours."),
            new MaterialDetails("Three photographs of your square", Due: new DueInput(DueWithSession: true))
        );
        Done(
            editMaterials.Attach(
                staff[Teacher.Name],
                ShownClass,
                [new AttachItem(null, On("2026-10-09"))],
                "https://films.skerry.example/limpets-12",
                new MaterialDetails("Recording, 47 min", PeopleOnly: true, IsRecording: true)
            )
        );
    }

    private static readonly byte[] FieldBook = System.Text.Encoding.UTF8.GetBytes(
        """
        # Field book

        1. **Before we go out**: tide, wind, who carries what.
        2. **On the shore**: one square each, count twice, write once.
        3. **Back at the bench**: names in full, drawings with a scale.

        | what | why |
        |---|---|
        | pencil | ink runs |
        | boots | barnacles cut |
        """
    );

    private void Store(string place, Upload file, MaterialDetails details)
    {
        var sent = Done(sendFiles.Whole(staff[Teacher.Name], ShownClass, file, CancellationToken.None));
        Done(editMaterials.Attach(staff[Teacher.Name], ShownClass, [new AttachItem(sent.Key, place)], "", details));
    }

    private void PutNoticesUp()
    {
        At(2026, 10, 13, 17, 30);
        var series = termSheetQuery.Read(staff[Teacher.Name], ShownClass, autumn.Id)!.Series[0].Series;
        Done(
            editNotices.Put(
                staff[Teacher.Name],
                ShownClass,
                null,
                new NoticeInput(
                    "Friday is on the shore: bring boots and a rain jacket.\nWe leave from the Tide Room at the bell.",
                    "2026-10-13",
                    "2026-10-16",
                    new SessionKey(series.Id, new LocalDateTime(2026, 10, 16, 9, 50)).ToString(),
                    EndsWithSession: true
                )
            )
        );
        Done(
            editNotices.KeepText(
                coordinator,
                "Sailing cancelled",
                "No boats go out today. Classes meet by join link at their usual times."
            )
        );
        Done(
            editNotices.Put(
                coordinator,
                new Slug("skerry-isles-school"),
                null,
                new NoticeInput(
                    "The ferry keeps its winter timetable from Monday 19 October.",
                    "2026-10-12",
                    "2026-10-23"
                )
            )
        );
    }

    private void ChangeSessions()
    {
        At(2026, 10, 13, 16, 5);
        Change(
            Teacher.Name,
            ShownClass,
            "2026-10-16T09:50",
            new SessionInput("tell", Note: "Bring boots: we go out at low water.")
        );
        Change(
            Teacher.Name,
            ShownClass,
            "2026-10-28T09:50",
            new SessionInput("move", new SessionTimeInput("2026-10-29"))
        );
        Change(
            Teacher.Name,
            ShownClass,
            "2026-11-06T09:50",
            new SessionInput("tell", Title: "Barnacle day on the reef")
        );
        Change(Teacher.Name, ShownClass, "2026-11-20T09:50", new SessionInput("leave-out"));
        // Norse Tales is wanted where its students have Boat Geometry.
        Change(
            "Benedikt Osei",
            new Slug("norse-tales-10"),
            "2026-10-16T13:30",
            new SessionInput("move", new SessionTimeInput("2026-10-16", "4"))
        );
        // A note for a Monday that French 8 lost when it gave that day up: it is loose until somebody decides.
        Change(
            "Lucette Arseneau",
            new Slug("french-8"),
            "2026-11-16T10:55",
            new SessionInput("tell", Note: "Poems by heart.")
        );
        var french = termSheetQuery.Read(staff["Lucette Arseneau"], new Slug("french-8"), autumn.Id)!.Series[0].Series;
        Done(
            composeSeries.Save(
                staff["Lucette Arseneau"],
                new Slug("french-8"),
                french.Id,
                SeriesInput.Of(french) with
                {
                    Days = ["2", "4"],
                },
                MaterialInput.None
            )
        );
    }

    private void Change(string by, Slug slug, string original, SessionInput change)
    {
        var series = termSheetQuery.Read(staff[by], slug, autumn.Id)!.Series[0].Series;
        Done(changeSession.Do(staff[by], slug, Key(series, original), change with { Version = series.Version }));
    }

    private static SessionKey Key(Series series, string original) =>
        SessionKey.TryReadOriginal(original, out var at)
            ? new SessionKey(series.Id, at)
            : throw new InvalidOperationException($"The demo's story has no session {original}.");

    private Slug Calendar(string maker, CalendarInput input)
    {
        var slug = Done(saveCalendar.Create(staff[maker], input)).Slug;
        Done(share.Give(staff[maker], slug, new Grantee.OneGroup(coordinators), AccessLevel.Manager));
        return slug;
    }

    private void Add(string by, Slug slug, SeriesInput series, string? target = null, string? room = null)
    {
        var whole = series with
        {
            From = string.IsNullOrEmpty(series.From) ? "2026-09-08" : series.From,
            Term = autumn.Id.Value.ToString(CultureInfo.InvariantCulture),
            Link = target is null ? series.Link : "new",
            LinkName = room,
            LinkTarget = target,
        };
        Done(composeSeries.Save(staff[by], slug, null, whole, MaterialInput.None));
    }

    private void Attach(string by, Slug slug, MaterialInput material)
    {
        var series = termSheetQuery.Read(staff[by], slug, autumn.Id)!.Series[0].Series;
        Done(composeSeries.Save(staff[by], slug, series.Id, SeriesInput.Of(series), material));
    }

    private void At(int year, int month, int day, int hour, int minute) =>
        clock.Set(
            new LocalDateTime(year, month, day, hour, minute)
                .InZoneLeniently(DateTimeZoneProviders.Tzdb[Zone])
                .ToInstant()
        );

    private static NoClassDay Off(int year, int month, int day, string name, NoClassKind kind)
    {
        var date = new LocalDate(year, month, day);
        return new NoClassDay(date, date, name, kind);
    }

    private static BellPeriod Period(string start, int index, int minutes = 50)
    {
        var time = TimeOnly.Parse(start, CultureInfo.InvariantCulture);
        var from = new LocalTime(time.Hour, time.Minute);
        return new BellPeriod((index + 1).ToString(CultureInfo.InvariantCulture), from, from.PlusMinutes(minutes));
    }

    private static Upload Paper(string fileName, string title, params string[] lines)
    {
        var bytes = DemoPaper.Of(title, lines);
        return new Upload(fileName, bytes.Length, () => new MemoryStream(bytes));
    }

    // The story is told before the server starts; there is nobody to wait for.
    private static T Done<T>(Task<Outcome<T>> outcome) => Done(outcome.GetAwaiter().GetResult());

    private static T Done<T>(Outcome<T> outcome) =>
        outcome switch
        {
            Outcome<T>.Done done => done.Value,
            Outcome<T>.Refused refused => throw new InvalidOperationException(
                string.Join(' ', refused.Problems.Select(problem => problem.Message))
            ),
            _ => throw new InvalidOperationException($"The demo's story met {outcome.GetType().Name}."),
        };
}
