using JollyAlmanac.Application.Bulk;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Demo.Files;
using JollyAlmanac.Demo.Rooms;
using JollyAlmanac.Demo.Scanning;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using Microsoft.Data.Sqlite;
using NodaTime;
using NodaTime.Testing;

namespace JollyAlmanac.Application.Tests;

/// <summary>A school in a directory of its own, with a coordinator, a teacher, a student and one class calendar.</summary>
internal sealed class TestSchool : IDisposable
{
    public static readonly Slug Slug = new("tidepool-biology-9a");

    // Told once for all tests; each has a copy.
    private static readonly Lazy<TestSchool> Told = new(() =>
    {
        var told = new TestSchool(System.IO.Directory.CreateTempSubdirectory("almanac-told-").FullName, Began);
        told.Database.Dispose();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => System.IO.Directory.Delete(told.Directory, recursive: true);
        return told;
    });

    private static readonly Instant Began = Instant.FromUtc(2026, 10, 14, 12, 41);

    public TestSchool()
        : this(CopyOf(Told.Value.Directory), new FakeClock(Began)) =>
        (Coordinator, Teacher, Student, Helper) = (
            Told.Value.Coordinator,
            Told.Value.Teacher,
            Told.Value.Student,
            Told.Value.Helper
        );

    private TestSchool(string directory, Instant began)
        : this(directory, new FakeClock(began))
    {
        var create = new CreateSchool(Database, Clock, passwords);
        var manager = Done(
            create.Do(
                new SchoolInput(
                    "Skerry Isles School",
                    "America/Halifax",
                    "Monday",
                    "Autumn term",
                    "2026-09-08",
                    "2026-12-18",
                    "Wendeline Okafor",
                    "wendeline@skerry.example",
                    "ten letters"
                )
            )
        );
        Coordinator = new Viewer(manager, SchoolRole.Coordinator, new HashSet<GroupId>());
        var people = Done(
            AddPeople.Do(
                Coordinator,
                [
                    new("Orla Marchbanks", "orla@skerry.example", SchoolRole.Teacher, "ten letters"),
                    new("Teodor Quill", "teodor@skerry.example", SchoolRole.Student),
                    new("Eilidh Torrance", "eilidh@skerry.example", SchoolRole.Teacher),
                ]
            )
        );
        Teacher = new Viewer(people[0], SchoolRole.Teacher, new HashSet<GroupId>());
        Student = new Viewer(people[1], SchoolRole.Student, new HashSet<GroupId>());
        Helper = new Viewer(people[2], SchoolRole.Teacher, new HashSet<GroupId>());
        Done(
            SchoolTime.Do(Coordinator, time => new SchoolTime(
                time.Zone,
                time.FirstDayOfWeek,
                [
                    .. time.Terms,
                    new Term(default, "2026–27", "Spring term", new LocalDate(2027, 1, 4), new LocalDate(2027, 6, 25)),
                ],
                [
                    new NoClassDay(
                        new LocalDate(2026, 10, 12),
                        new LocalDate(2026, 10, 12),
                        "Thanksgiving",
                        NoClassKind.Holiday
                    ),
                    new NoClassDay(
                        new LocalDate(2026, 10, 22),
                        new LocalDate(2026, 10, 23),
                        "Teachers’ conference",
                        NoClassKind.StaffDay
                    ),
                ],
                new BellSchedule(
                    "Regular bells",
                    [
                        new("1", new LocalTime(8, 0), new LocalTime(8, 50)),
                        new("3", new LocalTime(9, 50), new LocalTime(10, 40)),
                        new("4", new LocalTime(10, 55), new LocalTime(11, 45)),
                    ]
                ),
                new DayCycle(["1", "2"], new LocalDate(2026, 9, 8))
            ))
        );
        Done(
            Calendars.Create(
                Teacher,
                new CalendarInput(
                    "Tidepool Biology 9A",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Juniper,
                    MarkShape.Disc,
                    OpenTo.Anyone
                )
            )
        );
    }

    private readonly Passwords passwords = new(rounds: 1000);
    private readonly bool isOwner = true;

    /// <summary>Another process that serves the same directory, at the same moment.</summary>
    public TestSchool(TestSchool beside)
        : this(beside.Directory, beside.Clock) =>
        (Coordinator, Teacher, Student, Helper, isOwner) = (
            beside.Coordinator,
            beside.Teacher,
            beside.Student,
            beside.Helper,
            false
        );

    private TestSchool(string directory, FakeClock clock)
    {
        (Directory, Clock, Coordinator, Teacher, Student, Helper) = (directory, clock, null!, null!, null!, null!);
        Database = AlmanacDatabase.Open(Directory);
        Secrets = Secrets.Of(Directory);
        var gate = new Gate(Database, Clock);
        AddPeople = new AddPeople(gate, passwords);
        SignIn = new SignIn.SignIn(Database, Clock, passwords, Secrets);
        Share = new Share(gate, Database);
        People = new EditPeople(gate, passwords);
        Groups = new EditGroups(gate);
        AddRequests = new AddRequests(gate, Secrets);
        Absences = new Absences(gate);
        RosterImport = new RosterImport(gate, Database, Clock, Secrets);
        Invitations = new Invitations(gate, Database, Clock, Secrets, passwords, SignIn);
        Accounts = new Accounts(gate, passwords, Secrets);
        PreviewAs = new PreviewAs(gate, Database);
        Outbox = new Outbox(gate);
        var address = new AlmanacAddress(() => Root, Mailbox);
        Letters = new SessionLetters(Database, Clock, address);
        Post = new Post(Database, Clock, Secrets, Letters, Carrier, address);
        Answers = new ReadAnswers(Database, Clock, Carrier);
        ByMail = new SessionsByMail(gate);
        Reminders = new Reminders(Database, Clock);
        SchoolTime = new SetSchoolTime(gate);
        SchoolDefaults = new SetSchoolDefaults(gate);
        Sessions = new ChangeSession(gate);
        LeaveOut = new ExcludeRange(gate);
        GoBack = new UndoEdits(gate);
        Move = new MoveSeries(gate);
        MoveQuery = new MoveQuery(gate);
        RollOver = new RollOver(gate);
        Calendars = new SaveCalendar(gate, Database);
        Rooms = new StandInRooms(Directory, Clock, () => Root, () => News!, TimeProvider.System);
        var providers = new RoomProviders(Rooms);
        var check = new FileCheck(new StandInScanner());
        Vault = new FileVault(Directory);
        Limit = new UploadLimit(64 * 1024)
        {
            InParts = 256 * 1024,
            PerCalendar = 600 * 1024,
            InAll = 2 * 1024 * 1024,
        };
        Files = new SendFiles(gate, Database, Clock, Vault, Limit, check);
        Materials = new EditMaterials(gate, Limit, Vault);
        News = new RoomNews(Database, Clock, new FileVault(Directory), new UploadLimit(64 * 1024), check, providers);
        Compose = new ComposeSeries(gate, new FileVault(Directory), new UploadLimit(1024), check, providers);
        Quick = new QuickAdd(gate, Compose);
        SchoolImport = new SchoolImport(gate, Database, Clock, Compose, RosterImport);
        Import = new ImportFile(gate, Database, Clock, new FileVault(Directory), new UploadLimit(1024), check);
        Copies = new GiveCopy(gate);
        Fetch = new FetchFile(gate, Import, new StandInFiles());
        TakeOff = new RemoveSeries(gate);
        Outlets = new Publications(gate, Secrets);
        ReadFeed = new ReadFeed(Database, Clock);
        OwnFeeds = new OwnFeeds(gate, Secrets);
        Marks = new MarkDone(gate);
        OwnTimes = new OwnTimes(gate, Database, Clock, Secrets);
        Changes = new ReadChanges(Database, Clock);
        Notices = new EditNotices(gate, Database, Clock, Secrets);
        Doors = new Doors(Database, Clock, Secrets, providers);
        ReadEmbed = new ReadEmbed(Database, Clock, Doors);
        Links = new EditJoinLinks(gate, Database, providers);
        WorkDoor = new OperateDoor(gate, Secrets);
        RoomAtOnce = new OpenRoom(gate, Database, Clock, providers);
        Bulk = new BulkChange(gate, Database, Outlets, providers, Clock);
        Rules = new GiveRule(new Gate(Database, Ticking), Database, Ticking);
        PastedRoom = new OpenRoom(gate, Database, Clock, new RoomProviders(null));
        Test = new TestLink(gate, providers);
        Switchboard = new Switchboard(Database, Clock, providers, WorkDoor);
        Mend = new MendLink(gate, providers, Links, Switchboard, Test, Sessions);
        Cards = new JoinCards(gate, Database);
        ArchiveQuery = new ArchiveQuery(gate);
        CalendarHeadQuery = new CalendarHeadQuery(gate);
        CalendarHistoryQuery = new CalendarHistoryQuery(gate);
        CalendarListQuery = new CalendarListQuery(Database, Clock);
        ClassPageQuery = new ClassPageQuery(gate, Database, Clock, Doors, Secrets);
        DayQuery = new DayQuery(Database, Clock, Doors, Switchboard, providers);
        OwnPageQuery = new OwnPageQuery(Database, Clock);
        PrintSheetQuery = new PrintSheetQuery(gate);
        SchoolDayQuery = new SchoolDayQuery(Database, Clock, Switchboard, new FileVault(Directory));
        SchoolHistoryQuery = new SchoolHistoryQuery(gate);
        SchoolPublishingQuery = new SchoolPublishingQuery(gate);
        SearchQuery = new SearchQuery(Database, Clock);
        SetUpQuery = new SetUpQuery(Database);
        TermSheetQuery = new TermSheetQuery(gate);
        WeekQuery = new WeekQuery(Database, Clock);
        SchoolQuery = new SchoolQuery(Database, Clock);
        MaterialQuery = new MaterialQuery(Database, Clock, new FileVault(Directory));
    }

    public string Directory { get; }

    public FakeClock Clock { get; }

    public AlmanacDatabase Database { get; }

    public FileVault Vault { get; }

    public UploadLimit Limit { get; }

    public SendFiles Files { get; }

    public EditMaterials Materials { get; }

    public Secrets Secrets { get; }

    public Viewer Coordinator { get; }

    public Viewer Teacher { get; }

    public Viewer Helper { get; }

    public Viewer Student { get; }

    public AddPeople AddPeople { get; }

    public SignIn.SignIn SignIn { get; }

    public SaveCalendar Calendars { get; }

    public Share Share { get; }

    public EditPeople People { get; }

    public EditGroups Groups { get; }

    public AddRequests AddRequests { get; }

    public Absences Absences { get; }

    public RosterImport RosterImport { get; }

    public SchoolImport SchoolImport { get; }

    public Invitations Invitations { get; }

    public Accounts Accounts { get; }

    public PreviewAs PreviewAs { get; }

    public Outbox Outbox { get; }

    public Post Post { get; }

    public SessionLetters Letters { get; }

    public ReadAnswers Answers { get; }

    public SessionsByMail ByMail { get; }

    public Reminders Reminders { get; }

    /// <summary>Whom letters come from.</summary>
    public const string Mailbox = "almanac@skerry.example";

    /// <summary>Letters that went.</summary>
    public TestCarrier Carrier { get; } = new();

    public ComposeSeries Compose { get; }

    public QuickAdd Quick { get; }

    public ChangeSession Sessions { get; }

    public ExcludeRange LeaveOut { get; }

    public UndoEdits GoBack { get; }

    public MoveSeries Move { get; }

    public MoveQuery MoveQuery { get; }

    public RollOver RollOver { get; }

    public SetSchoolTime SchoolTime { get; }

    public SetSchoolDefaults SchoolDefaults { get; }

    public ImportFile Import { get; }

    public FetchFile Fetch { get; }

    public GiveCopy Copies { get; }

    public RemoveSeries TakeOff { get; }

    public Publications Outlets { get; }

    public ReadFeed ReadFeed { get; }

    public OwnFeeds OwnFeeds { get; }

    public MarkDone Marks { get; }

    public OwnTimes OwnTimes { get; }

    public ReadChanges Changes { get; }

    public EditNotices Notices { get; }

    public ReadEmbed ReadEmbed { get; }

    public StandInRooms Rooms { get; }

    public RoomNews News { get; }

    public Doors Doors { get; }

    public EditJoinLinks Links { get; }

    public OperateDoor WorkDoor { get; }

    // A clock that does not stand still while something is done.
    private IClock Ticking => new TickingClock(Clock);

    private sealed class TickingClock(FakeClock clock) : IClock
    {
        public Instant GetCurrentInstant()
        {
            clock.Advance(Duration.FromMilliseconds(1));
            return clock.GetCurrentInstant();
        }
    }

    public OpenRoom RoomAtOnce { get; }

    public BulkChange Bulk { get; }

    public GiveRule Rules { get; }

    /// <summary>The same where there is no provider.</summary>
    public OpenRoom PastedRoom { get; }

    public TestLink Test { get; }

    public Switchboard Switchboard { get; }

    public MendLink Mend { get; }

    public JoinCards Cards { get; }

    public ArchiveQuery ArchiveQuery { get; }

    public CalendarHeadQuery CalendarHeadQuery { get; }

    public CalendarHistoryQuery CalendarHistoryQuery { get; }

    public CalendarListQuery CalendarListQuery { get; }

    public ClassPageQuery ClassPageQuery { get; }

    public DayQuery DayQuery { get; }

    public OwnPageQuery OwnPageQuery { get; }

    public PrintSheetQuery PrintSheetQuery { get; }

    public SchoolDayQuery SchoolDayQuery { get; }

    public SchoolHistoryQuery SchoolHistoryQuery { get; }

    public SchoolPublishingQuery SchoolPublishingQuery { get; }

    public SearchQuery SearchQuery { get; }

    public SetUpQuery SetUpQuery { get; }

    public TermSheetQuery TermSheetQuery { get; }

    public WeekQuery WeekQuery { get; }

    public SchoolQuery SchoolQuery { get; }

    public MaterialQuery MaterialQuery { get; }

    public static readonly Uri Root = new("https://almanac.example/");

    /// <summary>A good entry: Mon, Wed and Fri in period 3, with a new join link.</summary>
    public static SeriesInput Good =>
        new()
        {
            Title = "Tidepool Biology 9A",
            Description = "Bring boots.",
            Place = "Tide Room",
            Days = ["1", "3", "5"],
            EveryWeeks = "1",
            Period = "3",
            From = "2026-09-14",
            Term = "1",
            Link = "new",
            LinkName = "Tidepool room",
            LinkTarget = "https://rooms.skerry.example/9a?passcode=kelp",
            Later = "",
        };

    public Series Add(SeriesInput? input = null, MaterialInput? materials = null) =>
        Done(Compose.Save(Teacher, Slug, null, input ?? Good, materials ?? MaterialInput.None).Waited());

    /// <summary>Changes a session of the series as it is now.</summary>
    public string Change(Series series, string original, SessionInput input) =>
        Done(Sessions.Do(Teacher, Slug, Key(series, original), input with { Version = Now(series).Version }));

    /// <summary>The key of a session, by its original start as text.</summary>
    public static SessionKey Key(Series series, string original) =>
        SessionKey.TryReadOriginal(original, out var at)
            ? new SessionKey(series.Id, at)
            : throw new FormatException(original);

    /// <summary>The series as it is now.</summary>
    public Series Now(Series series) =>
        TermSheetQuery.Read(Teacher, Slug, null)!.Series.Single(one => one.Series.Id == series.Id).Series;

    public static SeriesInput FormOf(Series series) => SeriesInput.Of(series);

    public static T Done<T>(Outcome<T> outcome) =>
        outcome is Outcome<T>.Done { Value: var value }
            ? value
            : throw new InvalidOperationException(
                outcome is Outcome<T>.Refused { Problems: var problems }
                    ? string.Join(" | ", problems)
                    : outcome.GetType().Name
            );

    public static IReadOnlyList<Problem> Refused<T>(Outcome<T> outcome) =>
        Assert.IsType<Outcome<T>.Refused>(outcome).Problems;

    /// <summary>Runs SQL past the stores, as another process would; gives the first value of its answer.</summary>
    public object? Execute(string sql)
    {
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(Directory, AlmanacDatabase.FileName)};Pooling=False"
        );
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return command.ExecuteScalar();
    }

    /// <summary>Counts the rows of every table, and adds versions up, to see that nothing was changed.</summary>
    public string Rows() =>
        Execute(
            """
            select (select count(*) from series) || ' ' || (select ifnull(sum(version), 0) from series) || ' ' || (select count(*) from materials) || ' ' || (select count(*) from join_links)
                || ' ' || (select count(*) from join_targets) || ' ' || (select count(*) from history) || ' ' || (select sum(revision) from calendars)
            """
        ) as string
        ?? "";

    private static string CopyOf(string told)
    {
        var directory = System.IO.Directory.CreateTempSubdirectory("almanac-test-").FullName;
        foreach (var file in System.IO.Directory.EnumerateFiles(told, "*", SearchOption.AllDirectories))
        {
            var copy = Path.Combine(directory, Path.GetRelativePath(told, file));
            System.IO.Directory.CreateDirectory(Path.GetDirectoryName(copy)!);
            File.Copy(file, copy);
        }

        return directory;
    }

    public void Dispose()
    {
        Database.Dispose();
        if (isOwner)
            System.IO.Directory.Delete(Directory, recursive: true);
    }
}

/// <summary>The stand-in for a provider of rooms answers at once, so there is nothing to wait for.</summary>
internal static class AtOnce
{
    public static T Waited<T>(this Task<T> answer) => answer.GetAwaiter().GetResult();

    public static void Waited(this Task done) => done.GetAwaiter().GetResult();
}

/// <summary>A mail server that keeps what it is given, and is down when it is told to be.</summary>
internal sealed class TestCarrier : IMailCarrier, IMailbox
{
    public List<Letter> Letters { get; } = [];

    /// <summary>Letters that came in and were not read yet.</summary>
    public List<IncomingLetter> Incoming { get; } = [];

    /// <summary>Those that were read, and whether they were answers.</summary>
    public List<(string Key, bool IsUnderstood)> PutAwayLetters { get; } = [];

    public Task<IReadOnlyList<IncomingLetter>> Fetch(CancellationToken cancellation) =>
        Task.FromResult<IReadOnlyList<IncomingLetter>>([.. Incoming]);

    public Task Archive(IncomingLetter letter, bool isUnderstood, CancellationToken cancellation)
    {
        Incoming.Remove(letter);
        PutAwayLetters.Add((letter.Key, isUnderstood));
        return Task.CompletedTask;
    }

    /// <summary>Why it carries nothing; null where it does.</summary>
    public MailCarrierException? Down { get; set; }

    public Task Carry(Letter letter, CancellationToken cancellation)
    {
        if (Down is not null)
            throw Down;
        Letters.Add(letter);
        return Task.CompletedTask;
    }
}
