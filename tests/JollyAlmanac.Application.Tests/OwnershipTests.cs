using System.Text;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Demo.Files;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Application.Tests;

/// <summary>
/// Whoever manages a calendar reaches nothing of another through it: each thing that an act takes by its id is there, and is another's.
/// (The table of acts asks with ids of nothing; that alone would not show whose a thing is.)
/// </summary>
public sealed class OwnershipTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    // Of the helper, who manages it and has nothing to do with the class.
    private readonly Slug own;
    private readonly JoinLink ownLink;

    // Another of the class's own teacher: what somebody brought to one calendar is not taken into another.
    private readonly Slug second;

    private readonly Series series;
    private readonly JoinLink link;
    private readonly Publication feed;
    private readonly NoticeId notice;
    private readonly (long Id, MaterialKey Key) material;
    private readonly long line;
    private readonly long review;
    private readonly long fetched;
    private readonly long request;
    private readonly long absence;
    private readonly long guest;
    private readonly UploadKey upload;

    public OwnershipTests()
    {
        series = school.Add(materials: new MaterialInput(Address: "https://tides.skerry.example"));
        own = TestSchool
            .Done(
                school.Calendars.Create(
                    school.Helper,
                    new("Weather", CalendarKind.Class, "", "", default, default, OpenTo.Named)
                )
            )
            .Slug;
        second = TestSchool
            .Done(
                school.Calendars.Create(
                    school.Teacher,
                    new("Maps", CalendarKind.Class, "", "", default, default, OpenTo.Named)
                )
            )
            .Slug;
        var ownSeries = TestSchool.Done(
            school
                .Compose.Save(
                    school.Helper,
                    own,
                    null,
                    TestSchool.Good with
                    {
                        LinkName = "Weather room",
                        LinkTarget = "https://rooms.skerry.example/w",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        ownLink = school.Database.Read(stores => stores.JoinLinks.Get(ownSeries.JoinLink!.Value));
        link = school.Database.Read(stores => stores.JoinLinks.Get(series.JoinLink!.Value));
        feed = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Feed,
                    new PublicationInput("For families", AccessLevel.Full, true, true, true)
                )
            )
            .Outlet;
        notice = TestSchool
            .Done(
                school.Notices.Put(
                    school.Teacher,
                    Slug,
                    null,
                    new NoticeInput("Bring boots.", "2026-10-14", "2026-10-16")
                )
            )
            .Id;
        material = (
            (long)school.Execute("select min(id) from materials")!,
            new MaterialKey((string)school.Execute("select key from materials order by id limit 1")!)
        );
        line = (long)school.Execute("select min(id) from history where subject = 'series'")!;
        review = TestSchool.Done(
            school.Import.Begin(
                school.Teacher,
                Slug,
                null,
                "year.ics",
                ICalendarFileTests.File(ICalendarFileTests.Event("DTSTART;VALUE=DATE:20261102\nSUMMARY:Field day"))
            )
        );
        TestSchool.Done(school.Fetch.Begin(school.Teacher, Slug, StandInFiles.Evenings, null, default).Waited());
        fetched = (long)school.Execute("select max(id) from fetched_files")!;
        TestSchool.Done(school.Share.Ask(school.Helper, Slug, AccessLevel.Contributor, "boat week"));
        request = (long)school.Execute("select max(id) from access_requests")!;
        absence = TestSchool
            .Done(
                school.Absences.Add(
                    school.Coordinator,
                    school.Teacher.Person!.Value,
                    new AbsenceInput("2026-10-15", "", "")
                )
            )
            .Id;
        guest = TestSchool.Done(school.WorkDoor.MakeGuest(school.Teacher, link.Code, null)).Id;
        upload = TestSchool
            .Done(
                school
                    .Files.Whole(
                        school.Teacher,
                        Slug,
                        new Upload("notes.txt", 4, () => new MemoryStream(Encoding.ASCII.GetBytes("kelp"))),
                        default
                    )
                    .Waited()
            )
            .Key;
    }

    public void Dispose() => school.Dispose();

    private Dictionary<string, Func<Viewer, object?>> Calls()
    {
        var key = TestSchool.Key(series, "2026-10-16T09:50");
        var publication = new PublicationInput("Mine now", AccessLevel.Manager, true, true, true);
        return new()
        {
            ["a series is opened"] = who => school.Compose.Open(who, own, series.Id),
            ["a series is changed"] = who =>
                school
                    .Compose.Save(
                        who,
                        own,
                        series.Id,
                        TestSchool.FormOf(series) with
                        {
                            Title = "Mine",
                        },
                        MaterialInput.None
                    )
                    .Waited(),
            ["a series is removed"] = who => school.TakeOff.Do(who, own, series.Id, series.Version),
            ["a removal is undone"] = who => school.TakeOff.Undo(who, own, series.Id, series.Version),
            ["a session is opened"] = who => school.Sessions.Open(who, own, key, new SessionInput()),
            ["a session is cancelled"] = who =>
                school.Sessions.Do(who, own, key, new SessionInput("leave-out", Version: series.Version)),
            ["a change is settled"] = who => school.Sessions.Settle(who, own, key, null, series.Version),
            ["a line of history is restored"] = who => school.GoBack.Restore(who, own, line, Revision(own)),
            ["a feed is renewed"] = who => school.Outlets.Renew(who, own, feed.Id, feed.Version),
            ["a feed is looked through"] = who =>
                school.Outlets.Tells(who, own, feed.Id, school.ReadFeed, TestSchool.Root),
            ["a feed is changed"] = who => school.Outlets.Change(who, own, feed.Id, publication, feed.Version),
            ["a feed is paused"] = who => school.Outlets.Pause(who, own, feed.Id, true, feed.Version),
            ["a feed is offered"] = who => school.Outlets.Offer(who, own, feed.Id, true, feed.Version),
            ["a feed is revoked"] = who => school.Outlets.Revoke(who, own, feed.Id, feed.Version),
            ["a feed is revoked as one that cannot be read"] = who =>
                school.Outlets.RevokeUnreadable(who, own, feed.Id),
            ["a notice is changed"] = who =>
                school.Notices.Put(who, own, notice, new NoticeInput("Mine.", "2026-10-14", "2026-10-16", Version: 1)),
            ["a notice is taken down"] = who => school.Notices.SetDown(who, own, notice, true, 1),
            ["readers of a notice are reminded"] = who => school.Notices.Remind(who, own, notice),
            ["a material is opened"] = who => school.Materials.One(who, own, material.Id),
            ["a material is changed"] = who =>
                school.Materials.Change(who, own, material.Id, null, new MaterialDetails(), 1),
            ["a material is given"] = who => school.Materials.Give(who, own, material.Id, 1),
            ["a material is replaced"] = who =>
                school.Materials.Replace(who, own, material.Id, null, "https://mine.skerry.example", 1),
            ["a material is taken off"] = who => school.Materials.Remove(who, own, material.Id, 1),
            ["materials are put in order"] = who => school.Materials.Order(who, own, [material.Id]),
            ["a material is copied"] = who =>
                school.Materials.Copy(who, own, material.Key, MaterialSpot.Everything, false),
            ["a material is moved"] = who =>
                school.Materials.Copy(who, own, material.Key, MaterialSpot.Everything, true),
            ["files are dealt to sessions"] = who => school.Materials.Deal(who, own, series.Id, []),
            ["an upload is attached"] = who =>
                school.Materials.Attach(
                    who,
                    own,
                    [new AttachItem(upload, MaterialSpot.Everything)],
                    "",
                    new MaterialDetails()
                ),
            ["an import is reviewed"] = who => school.Import.Review(who, own, review, new ImportChoices()),
            ["an import is taken in"] = who => school.Import.SaveChoices(who, own, review, new ImportChoices()),
            ["an import is reviewed in another of one's own"] = _ =>
                school.Import.Review(school.Teacher, second, review, new ImportChoices()),
            ["an import is taken into another of one's own"] = _ =>
                school.Import.SaveChoices(school.Teacher, second, review, new ImportChoices()),
            ["a fetched file is forgotten from another of one's own"] = _ =>
                school.Fetch.Forget(school.Teacher, second, fetched),
            ["an upload is attached to another of one's own"] = _ =>
                school.Materials.Attach(
                    school.Teacher,
                    second,
                    [new AttachItem(upload, MaterialSpot.Everything)],
                    "",
                    new MaterialDetails()
                ),
            ["a request is answered for another of one's own"] = _ =>
                school.Share.Answer(school.Teacher, second, request, AccessLevel.Full),
            ["a fetched file is forgotten"] = who => school.Fetch.Forget(who, own, fetched),
            ["a fetched file is fetched again"] = who => school.Fetch.Begin(who, own, null, fetched, default).Waited(),
            ["a request is answered"] = who => school.Share.Answer(who, own, request, AccessLevel.Full),
            ["a guest's address is ended"] = who => school.WorkDoor.EndGuest(who, ownLink.Code, guest),
            ["a guest is let in to another's session"] = who => school.WorkDoor.MakeGuest(who, ownLink.Code, key),
            ["a door is worked"] = who => school.WorkDoor.Do(who, link.Code, DoorOperation.Open, link.Version),
            ["an absence is removed in another's name"] = _ =>
                school.Absences.Remove(school.Coordinator, school.Helper.Person!.Value, absence),
        };
    }

    private int Revision(Slug slug) =>
        (int)(long)school.Execute($"select revision from calendars where slug = '{slug}'")!;

    // Every row of every table.
    private string Everything()
    {
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(school.Directory, Storage.AlmanacDatabase.FileName)};Pooling=False"
        );
        connection.Open();
        List<string> Read(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            using var reader = command.ExecuteReader();
            var rows = new List<string>();
            while (reader.Read())
                rows.Add(string.Join('|', Enumerable.Range(0, reader.FieldCount).Select(at => reader.GetValue(at))));
            return rows;
        }

        return string.Join(
            '\n',
            Read("select name from sqlite_master where type = 'table' and name not like 'found_%' order by name")
                .SelectMany(table => Read($"select '{table}', * from \"{table}\""))
        );
    }

    [Fact]
    public void Nothing_of_another_calendar_is_reached_through_ones_own()
    {
        var before = Everything();
        Assert.Contains("Bring boots.", before, StringComparison.Ordinal);
        var reached = new List<string>();
        foreach (var (name, call) in Calls())
        {
            var answer = call(school.Helper);
            var outcome = answer?.GetType().Name ?? "null";
            var isTold =
                name.StartsWith("an upload is attached", StringComparison.Ordinal)
                || name is "a guest is let in to another's session";
            if (
                outcome is not ("NotFound" or "NotAllowed") && !(isTold && outcome == "Refused")
                || Everything() != before
            )
                reached.Add($"{name}: {outcome}");
        }

        Assert.True(reached.Count == 0, string.Join("; ", reached));
    }

    // The same calls in the owner's own calendar are let in: the ids are right.
    [Fact]
    public void The_same_things_are_reached_by_whose_they_are()
    {
        Assert.Equal("Done", school.Compose.Open(school.Teacher, Slug, series.Id).GetType().Name);
        Assert.Equal("Done", school.Materials.One(school.Teacher, Slug, material.Id).GetType().Name);
        Assert.Equal(
            "Done",
            school.Materials.Copy(school.Teacher, Slug, material.Key, MaterialSpot.Everything, false).GetType().Name
        );
        Assert.Equal("Done", school.Import.Review(school.Teacher, Slug, review, new ImportChoices()).GetType().Name);
        Assert.Equal(
            "Done",
            school
                .Notices.Put(
                    school.Teacher,
                    Slug,
                    notice,
                    new NoticeInput("Yours.", "2026-10-14", "2026-10-16", Version: 1)
                )
                .GetType()
                .Name
        );
        Assert.Equal("Done", school.Outlets.Pause(school.Teacher, Slug, feed.Id, true, feed.Version).GetType().Name);
        Assert.Equal("Done", school.Share.Answer(school.Teacher, Slug, request, AccessLevel.Full).GetType().Name);
        Assert.Equal(
            "Done",
            school
                .Materials.Attach(
                    school.Teacher,
                    Slug,
                    [new AttachItem(upload, MaterialSpot.Everything)],
                    "",
                    new MaterialDetails()
                )
                .GetType()
                .Name
        );
        Assert.Equal(
            "Done",
            school
                .WorkDoor.MakeGuest(school.Teacher, link.Code, TestSchool.Key(series, "2026-10-16T09:50"))
                .GetType()
                .Name
        );
        Assert.Equal("Done", school.WorkDoor.EndGuest(school.Teacher, link.Code, guest).GetType().Name);
        Assert.Equal("Done", school.Fetch.Forget(school.Teacher, Slug, fetched).GetType().Name);
    }
}
