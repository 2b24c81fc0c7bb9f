using System.Reflection;
using JollyAlmanac.Application.Bulk;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Demo.Files;

namespace JollyAlmanac.Application.Tests;

/// <summary>The table of <c>acts.txt</c>, act x level x kind of person, held against every act there is.</summary>
public sealed class ActTableTests : IDisposable
{
    private readonly TestSchool school = new();
    private readonly Series series;
    private readonly JoinLink link;
    private readonly SessionKey key;
    private readonly Publication feed;
    private readonly long line;
    private readonly Material material;

    public ActTableTests()
    {
        series = school.Add();
        link = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links[0];
        key = TestSchool.Key(series, "2026-10-14T09:50");
        feed = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Feed,
                    new PublicationInput("For families", AccessLevel.Full, true, true, true)
                )
            )
            .Outlet;
        line = (long)school.Execute("select max(id) from history where subject = 'series'")!;
        material = school.Database.Write(
            stores =>
                stores.Materials.Add(
                    new Material(
                        default,
                        series.Calendar,
                        series.Id,
                        null,
                        MaterialKey.New(),
                        "Field sheet",
                        new MaterialContent.Link(new Uri("https://tides.skerry.example")),
                        MaterialAudience.Anyone
                    ),
                    school.Teacher.Person!.Value,
                    school.Clock.GetCurrentInstant()
                ),
            _ => true
        );
    }

    public void Dispose() => school.Dispose();

    // What each method of the table is called with. Whoever is let in comes to what is wrong with it, or to another version: so
    // nothing changes from one cell to the next.
    private Dictionary<string, Func<Viewer, object?>> Calls()
    {
        const int Old = 999;
        var slug = TestSchool.Slug;
        var nothing = new Dictionary<int, string>();
        var calendar = new CalendarInput(
            "",
            CalendarKind.Class,
            "",
            "",
            MarkColour.Juniper,
            MarkShape.Disc,
            OpenTo.Anyone,
            Old
        );
        var student = new Grantee.OnePerson(school.Student.Person!.Value);
        var term = new TermId(1);
        var (Nobody, NoGroup) = (new PersonId(999), new GroupId(999));
        return new Dictionary<string, Func<Viewer, object?>>
        {
            ["SaveCalendar.Create"] = who => school.Calendars.Create(who, calendar),
            ["SaveCalendar.Change"] = who => school.Calendars.Change(who, slug, calendar),
            ["SaveCalendar.Form"] = who => school.Calendars.Form(who, slug),
            ["SaveCalendar.LinksForAnyone"] = who =>
                school.Calendars.LinksForAnyone(who, slug) is { Count: > 0 } links ? links : null,
            ["SaveCalendar.Archive"] = who => school.Calendars.Archive(who, slug, Old),
            ["SaveCalendar.Delete"] = who => school.Calendars.Delete(who, slug, "", Old),
            ["SaveCalendar.BringBack"] = who => school.Calendars.BringBack(who, slug, Old),
            ["SaveCalendar.OpenNow"] = who => school.Calendars.OpenNow(who, slug, Old),
            ["Share.View"] = who => school.Share.View(who, slug),
            ["Share.Give"] = who => school.Share.Give(who, slug, new GiveInput("", "")),
            ["Share.GiveTo"] = who =>
                school.Share.Give(who, slug, new Grantee.OneGroup(new GroupId(999)), AccessLevel.Busy),
            ["AddRequests.Ask"] = who => school.AddRequests.Ask(who, slug, new GiveInput("", "")),
            ["AddRequests.Waiting"] = school.AddRequests.Waiting,
            ["AddRequests.Add"] = who => school.AddRequests.Add(who, 999, "", SchoolRole.Student),
            ["AddRequests.Decline"] = who => school.AddRequests.Decline(who, 999),
            ["SetSchoolTime.LastEdit"] = school.SchoolTime.LastEdit,
            ["SetSchoolTime.Undo"] = who => school.SchoolTime.Undo(who, Old),
            ["RollOver.LastCarried"] = who => school.RollOver.LastCarried(who) is { Count: > 0 } last ? last : null,
            ["RollOver.Undo"] = school.RollOver.Undo,
            ["Share.End"] = who => school.Share.End(who, slug, "person 999"),
            ["Share.ShowList"] = who => school.Share.ShowList(who, slug, true, Old),
            ["Share.HandOver"] = who => school.Share.HandOver(who, slug, ""),
            ["Share.Answer"] = who => school.Share.Answer(who, slug, 999, AccessLevel.None),
            ["Share.Ask"] = who => school.Share.Ask(who, new Slug("nothing-there"), AccessLevel.None, ""),
            ["PreviewAs.Begin"] = who => school.PreviewAs.Begin(who, "", "person 999", slug),
            ["PreviewAs.BeginAnybody"] = who => school.PreviewAs.Begin(who, "", "person 999", null),
            ["EditPeople.Page"] = who => school.People.Page(who, new PeopleFilter()),
            ["EditPeople.Find"] = who => school.People.Find(who, "a", 5),
            ["EditPeople.Open"] = who => school.People.Open(who, Nobody),
            ["EditPeople.Add"] = who => school.People.Add(who, new PersonInput("", "", SchoolRole.Student)),
            ["EditPeople.Change"] = who =>
                school.People.Change(who, Nobody, new PersonInput("", "", SchoolRole.Student)),
            ["EditPeople.End"] = who => school.People.End(who, Nobody, 1, null),
            ["EditPeople.BringBack"] = who => school.People.BringBack(who, Nobody, 1),
            ["EditPeople.GivePassword"] = who => school.People.GivePassword(who, Nobody),
            ["EditPeople.Erase"] = who => school.People.Erase(who, Nobody, ""),
            ["EditPeople.Export"] = who => school.People.Export(who, Nobody),
            ["EditGroups.All"] = school.Groups.All,
            ["EditGroups.Open"] = who => school.Groups.Open(who, NoGroup),
            ["EditGroups.Change"] = who => school.Groups.Change(who, NoGroup, "", GroupKind.Staff, 1),
            ["EditGroups.AddMembers"] = who => school.Groups.AddMembers(who, NoGroup, ""),
            ["EditGroups.RemoveMember"] = who => school.Groups.RemoveMember(who, NoGroup, Nobody),
            ["EditGroups.AddGroup"] = who => school.Groups.AddGroup(who, NoGroup, NoGroup),
            ["EditGroups.RemoveGroup"] = who => school.Groups.RemoveGroup(who, NoGroup, NoGroup),
            ["EditGroups.Remove"] = who => school.Groups.Remove(who, NoGroup, ""),
            ["RosterImport.Begin"] = who => school.RosterImport.Begin(who, "", null, null),
            ["RosterImport.Progress"] = who => school.RosterImport.Progress(who, 999),
            ["RosterImport.Review"] = who => school.RosterImport.Review(who, 999, new RosterImportChoices()),
            ["RosterImport.SaveChoices"] = who => school.RosterImport.SaveChoices(who, 999, new RosterImportChoices()),
            ["Invitations.Invite"] = who => school.Invitations.Invite(who, []),
            ["Invitations.Withdraw"] = who => school.Invitations.Withdraw(who, Nobody),
            ["Accounts.Open"] = who => school.Accounts.Open(who, ""),
            ["Accounts.SetWriting"] = who => school.Accounts.SetWriting(who, true, null),
            ["Accounts.Rename"] = who => school.Accounts.Rename(who, "", 1),
            ["Accounts.ChangePassword"] = who => school.Accounts.ChangePassword(who, "", "", ""),
            ["Accounts.EndPlace"] = who => school.Accounts.EndPlace(who, ""),
            ["Accounts.EndOthers"] = who => school.Accounts.EndOthers(who, ""),
            ["Accounts.BeginFactor"] = who => school.Accounts.BeginFactor(who),
            ["Accounts.ConfirmFactor"] = who => school.Accounts.ConfirmFactor(who, ""),
            ["Accounts.EndFactor"] = who => school.Accounts.EndFactor(who, ""),
            ["Outbox.View"] = school.Outbox.View,
            ["Outbox.SendAgain"] = who => school.Outbox.SendAgain(who, 999),
            ["SchoolHistoryQuery.Read"] = who => school.SchoolHistoryQuery.Read(who, new HistoryFilter()),
            ["SchoolPublishingQuery.Read"] = who => school.SchoolPublishingQuery.Read(who, PublicationFilter.All, 1),
            ["SchoolHistoryQuery.Export"] = who => school.SchoolHistoryQuery.Export(who, new HistoryFilter()),
            ["ComposeSeries.Open"] = who => school.Compose.Open(who, slug, series.Id),
            ["ComposeSeries.Preview"] = who => school.Compose.Preview(who, slug, null, new SeriesInput()),
            ["ComposeSeries.Save"] = who =>
                school
                    .Compose.Save(who, slug, series.Id, TestSchool.Good with { Version = Old }, MaterialInput.None)
                    .Waited(),
            ["QuickAdd.Review"] = who => school.Quick.Review(who, slug, "", nothing),
            ["QuickAdd.Save"] = who => school.Quick.Save(who, slug, "", nothing),
            ["QuickAdd.Fill"] = who => school.Quick.Fill(who, slug, "MWF 9:50", new SeriesInput()),
            ["FetchFile.Of"] = who => school.Fetch.Of(who, slug),
            ["FetchFile.Begin"] = who => school.Fetch.Begin(who, slug, StandInFiles.Evenings, null, default).Waited(),
            ["FetchFile.Forget"] = who => school.Fetch.Forget(who, slug, 999),
            ["FetchFile.OfSchool"] = school.Fetch.OfSchool,
            ["FetchFile.Holidays"] = who => school.Fetch.Holidays(who, StandInFiles.Holidays, null, default).Waited(),
            ["FetchFile.ForgetHolidays"] = who => school.Fetch.ForgetHolidays(who, 999),
            ["ImportFile.Begin"] = who => school.Import.Begin(who, slug, "", null, null),
            ["ImportFile.Review"] = who => school.Import.Review(who, slug, 999, new ImportChoices()),
            ["ImportFile.SaveChoices"] = who => school.Import.SaveChoices(who, slug, 999, new ImportChoices()),
            ["RemoveSeries.Do"] = who => school.TakeOff.Do(who, slug, series.Id, Old),
            ["RemoveSeries.Undo"] = who => school.TakeOff.Undo(who, slug, series.Id, Old),
            ["ChangeSession.Open"] = who => school.Sessions.Open(who, slug, key, new SessionInput()),
            ["ChangeSession.Do"] = who =>
                school.Sessions.Do(who, slug, key, new SessionInput("leave-out", Version: Old)),
            ["ChangeSession.MakeCertain"] = who => school.Sessions.MakeCertain(who, slug, series.Id, Old),
            ["ChangeSession.Settle"] = who => school.Sessions.Settle(who, slug, key, null, Old),
            ["MoveQuery.Read"] = who => school.MoveQuery.Read(who, slug, series.Id, new MoveInput()),
            ["MoveSeries.Do"] = who => school.Move.Do(who, slug, series.Id, new MoveInput(Version: Old)),
            ["ExcludeRange.Do"] = who => school.LeaveOut.Do(who, slug, new RangeInput("", "")),
            ["ExcludeRange.BringBack"] = who => school.LeaveOut.BringBack(who, slug, new RangeInput("", "")),
            ["UndoEdits.Undo"] = who => school.GoBack.Undo(who, slug),
            ["UndoEdits.Restore"] = who =>
                school.GoBack.Restore(
                    who,
                    slug,
                    line,
                    (int)(long)school.Execute($"select revision from calendars where slug = '{slug}'")!
                ),
            ["RollOver.Preview"] = who => school.RollOver.Preview(who, term, term),
            ["RollOver.Do"] = who => school.RollOver.Do(who, term, term, [], false, Old),
            ["EditJoinLinks.Add"] = who => school.Links.Add(who, slug, new LinkInput("")).Waited(),
            ["EditJoinLinks.Open"] = who => school.Links.Open(who, link.Code),
            ["EditJoinLinks.Change"] = who => school.Links.Change(who, link.Code, new LinkInput("")).Waited(),
            ["EditJoinLinks.SetWithdrawn"] = who => school.Links.SetWithdrawn(who, link.Code, true, Old),
            ["EditJoinLinks.PutBack"] = who => school.Links.SetWithdrawn(who, link.Code, false, Old),
            ["EditJoinLinks.Renew"] = who => school.Links.Renew(who, link.Code, false, Old).Waited(),
            ["EditJoinLinks.SetChecklist"] = who => school.Links.SetChecklist(who, new string('x', 90)),
            ["TestLink.Do"] = who => school.Test.Do(who, link.Code, default).Waited(),
            ["MendLink.Do"] = who => school.Mend.Do(who, link.Code, "", Old, default).Waited(),
            ["OpenRoom.Do"] = who => school.PastedRoom.Do(who, new OpenRoomInput(slug.Value)).Waited(),
            ["BulkChange.Choices"] = who => school.Bulk.Choices(who),
            ["BulkChange.Review"] = who => school.Bulk.Review(who, new BulkInput(BulkAction.Archive)),
            ["BulkChange.Do"] = who => school.Bulk.Do(who, new BulkInput(BulkAction.Archive, slug.Value)).Waited(),
            ["BulkChange.Undo"] = who => school.Bulk.Undo(who),
            ["GiveRule.Do"] = who => school.Rules.Do(who, new GiveRuleInput([link.Code.Value])),
            ["GiveRule.Undo"] = who => school.Rules.Undo(who),
            ["OpenRoom.End"] = who => school.RoomAtOnce.End(who, link.Code, Old).Waited(),
            ["OperateDoor.Do"] = who => school.WorkDoor.Do(who, link.Code, DoorOperation.Open, Old),
            ["OperateDoor.Shut"] = who => school.WorkDoor.Do(who, link.Code, DoorOperation.Shut, Old),
            ["OperateDoor.Release"] = who => school.WorkDoor.Do(who, link.Code, DoorOperation.ByRule, Old),
            ["OperateDoor.MakeGuest"] = who =>
                school.WorkDoor.MakeGuest(who, link.Code, TestSchool.Key(series, "2026-10-13T09:50")),
            ["OperateDoor.EndGuest"] = who =>
                school.WorkDoor.EndGuest(
                    who,
                    link.Code,
                    TestSchool.Done(school.WorkDoor.MakeGuest(school.Teacher, link.Code, null)).Id
                ),
            ["JoinCards.Of"] = who => school.Cards.Of(who, link.Code, TestSchool.Root, CardParts.Title),
            ["Doors.EnterAsHost"] = who => school.Doors.EnterAsHost(link.Code, who, null, "", mayMake: false).Waited(),
            ["Publications.Of"] = who => school.Outlets.Of(who, slug),
            ["Publications.Make"] = who =>
                school.Outlets.Make(
                    who,
                    slug,
                    PublicationKind.Feed,
                    new PublicationInput("", AccessLevel.Full, true, true, true)
                ),
            ["Publications.Renew"] = who => school.Outlets.Renew(who, slug, feed.Id, Old),
            ["Publications.Tells"] = who => school.Outlets.Tells(who, slug, feed.Id, school.ReadFeed, TestSchool.Root),
            ["Publications.Change"] = who =>
                school.Outlets.Change(
                    who,
                    slug,
                    feed.Id,
                    new PublicationInput("", AccessLevel.Full, true, true, true),
                    Old
                ),
            ["Publications.Pause"] = who => school.Outlets.Pause(who, slug, feed.Id, true, Old),
            ["EditMaterials.View"] = who => school.Materials.View(who, slug),
            ["EditMaterials.One"] = who => school.Materials.One(who, slug, material.Id.Value),
            ["EditMaterials.Deal"] = who => school.Materials.Deal(who, slug, series.Id, []),
            ["EditMaterials.Attach"] = who => school.Materials.Attach(who, slug, [], "", new MaterialDetails()),
            ["EditMaterials.Change"] = who =>
                school.Materials.Change(who, slug, material.Id.Value, null, new MaterialDetails(), Old),
            ["EditMaterials.Give"] = who => school.Materials.Give(who, slug, material.Id.Value, Old),
            ["EditMaterials.Replace"] = who => school.Materials.Replace(who, slug, material.Id.Value, null, "", Old),
            ["EditMaterials.Remove"] = who => school.Materials.Remove(who, slug, material.Id.Value, Old),
            ["EditMaterials.Order"] = who => school.Materials.Order(who, slug, [material.Id.Value]),
            ["EditMaterials.Copy"] = who => school.Materials.Copy(who, slug, material.Key, "nowhere", false),
            ["SendFiles.Begin"] = who => school.Files.Begin(who, slug, "", 1),
            ["SendFiles.Whole"] = who =>
                school.Files.Whole(who, slug, new Upload("", 0, () => Stream.Null), default).Waited(),
            ["Absences.Add"] = who => school.Absences.Add(who, Nobody, new AbsenceInput("", "", "")),
            ["Absences.Remove"] = who => school.Absences.Remove(who, Nobody, 999),
            ["EditPeople.SetChildren"] = who => school.People.SetChildren(who, Nobody, ""),
            ["ArchiveQuery.Read"] = who => school.ArchiveQuery.Read(who, slug, "", 0),
            ["EditNotices.Reach"] = who => school.Notices.Reach(who, slug, new NoticeInput()),
            ["EditNotices.View"] = who => school.Notices.View(who, slug),
            ["EditNotices.Put"] = who => school.Notices.Put(who, slug, null, new NoticeInput()),
            ["EditNotices.PutChange"] = who => school.Notices.Put(who, slug, new NoticeId(999), new NoticeInput()),
            ["EditNotices.SetDown"] = who => school.Notices.SetDown(who, slug, new NoticeId(999), true, 1),
            ["EditNotices.Remind"] = who => school.Notices.Remind(who, slug, new NoticeId(999)),
            ["EditNotices.KeepText"] = who => school.Notices.KeepText(who, "", ""),
            ["EditNotices.RemoveText"] = who => school.Notices.RemoveText(who, 999),
            ["OwnTimes.View"] = who => school.OwnTimes.View(who, new OwnTimesInput(), null),
            ["OwnTimes.MakeLink"] = who => school.OwnTimes.MakeLink(who, new OwnTimesInput("never")),
            ["OwnTimes.EndLink"] = who => school.OwnTimes.EndLink(who, 999),
            ["QuickAdd.FillByLetter"] = who => school.Quick.FillByLetter(who, slug, "", new SeriesInput()),
            ["MarkDone.Do"] = who => school.Marks.Do(who, material.Key, true),
            ["OwnFeeds.View"] = school.OwnFeeds.View,
            ["OwnFeeds.Set"] = who => school.OwnFeeds.Set(who, "never", 0),
            ["OwnFeeds.Renew"] = who => school.OwnFeeds.Renew(who, Old),
            ["OwnFeeds.End"] = who => school.OwnFeeds.End(who, Old),
            ["PrintSheetQuery.Read"] = who => school.PrintSheetQuery.Read(who, slug),
            ["Publications.Revoke"] = who => school.Outlets.Revoke(who, slug, feed.Id, Old),
            ["Publications.RevokeUnreadable"] = who => school.Outlets.RevokeUnreadable(who, slug, feed.Id),
            ["GiveCopy.Do"] = who => school.Copies.Do(who, slug, new CopyInput(), TestSchool.Root),
            ["GiveCopy.Send"] = who => school.Copies.Send(who, slug, new CopyInput()),
            ["Publications.Offer"] = who => school.Outlets.Offer(who, slug, feed.Id, true, Old),
            ["TermSheetQuery.Read"] = who => school.TermSheetQuery.Read(who, slug, null),
            ["SessionsByMail.View"] = who => school.ByMail.View(who, slug),
            ["SessionsByMail.Begin"] = who => school.ByMail.Begin(who, slug),
            ["SessionsByMail.Remind"] = who => school.ByMail.Remind(who, slug, ""),
            ["SessionsByMail.End"] = who => school.ByMail.End(who, slug),
            ["ClassPageQuery.Read"] = who => school.ClassPageQuery.Read(who, slug, false),
            ["CalendarHeadQuery.Read"] = who => school.CalendarHeadQuery.Read(who, slug),
            ["CalendarHistoryQuery.Read"] = who => school.CalendarHistoryQuery.Read(who, slug, null),
            ["SetSchoolTime.Open"] = school.SchoolTime.Open,
            ["SetSchoolTime.Preview"] = who => school.SchoolTime.Preview(who, new SchoolTimeInput()),
            ["SetSchoolTime.Save"] = who => school.SchoolTime.Save(who, new SchoolTimeInput()),
            ["SetSchoolTime.Do"] = who => school.SchoolTime.Do(who, time => time),
            ["SetSchoolDefaults.Open"] = school.SchoolDefaults.Open,
            ["SetSchoolDefaults.Do"] = who =>
                school.SchoolDefaults.Do(who, new SchoolDefaultsInput(OpenTo.Anyone, true)),
            ["SetSchoolDefaults.OpenDepartment"] = who => school.SchoolDefaults.OpenDepartment(who, slug),
            ["SetSchoolDefaults.SetDepartment"] = who =>
                school.SchoolDefaults.SetDepartment(who, slug, new CalendarDefaultsInput(OpenTo.Anyone)),
            ["SetSchoolDefaults.ClearDepartment"] = who => school.SchoolDefaults.ClearDepartment(who, slug),
            ["SchoolImport.Begin"] = who => school.SchoolImport.Begin(who, [], "Class,Day,Period"),
            ["SchoolImport.Review"] = who => school.SchoolImport.Review(who, 999, new SchoolImportChoices()),
            ["SchoolImport.Keep"] = who => school.SchoolImport.Keep(who, 999, new SchoolImportChoices()),
            ["SchoolImport.LastTakenIn"] = who => school.SchoolImport.LastTakenIn(who),
            ["SchoolImport.Undo"] = who => school.SchoolImport.Undo(who),
            ["SetSchoolTime.SetSchool"] = who =>
                school.SchoolTime.SetSchool(who, SchoolDetails.Of(school.SchoolQuery.Find()!)),
            ["SetSchoolTime.OpenSchool"] = who => school.SchoolTime.OpenSchool(who),
            ["SetSchoolTime.FillHolidays"] = who => school.SchoolTime.FillHolidays(who, new SchoolTimeInput(), []),
            ["AddPeople.Do"] = who => school.AddPeople.Do(who, [new NewPerson("", "", SchoolRole.Student)]),
            ["AddPeople.AddGroup"] = who => school.AddPeople.AddGroup(who, "A group", GroupKind.Staff, []),
        };
    }

    // What gathers over all that somebody reaches, calendar by calendar, and stands at doors: other tests hold these.
    private static readonly HashSet<string> Gathers =
    [
        "DayQuery.Read",
        "WeekQuery.Read",
        "CalendarListQuery.Read",
        "CalendarListQuery.Find",
        "CalendarListQuery.Departments",
        "SaveCalendar.NewForm",
        "SchoolQuery.Ribbon",
        "SetUpQuery.Read",
        "MaterialQuery.Find",
        "MaterialQuery.FindEdition",
        "MaterialQuery.CaptionsOf",
        "SearchQuery.Read",
        "OwnPageQuery.Read",
        "SchoolDayQuery.Read",
        "SendFiles.Find",
        "SendFiles.Add",
        "SendFiles.Drop",
        "Share.ClassLists",
        "EditNotices.Saw",
        "Prints.Sheet",
        "Prints.Card",
        "SaveCalendar.FormLike",
        "Prints.TermSheets",
        "Prints.Cards",
        "JoinCards.On",
        "Switchboard.At",
        "NewEntryQuery.CalendarFor",
        "EditJoinLinks.Begin",
        "OpenRoom.Offer",
        "GiveRule.ToUndo",
        "ClassPageQuery.OpensOn",
        "Doors.AtGuest",
        "Doors.EnterAsGuest",
    ];

    private sealed record Row(string Method, string Act, string[] Cells);

    private static IReadOnlyList<Row> Rows() =>
        [
            .. File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "acts.txt"))
                .Where(text => text is not ("" or ['#', ..]))
                .Select(text => text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
                .Select(parts => new Row(parts[0], parts[1], parts[2..])),
        ];

    [Fact]
    public void Every_act_has_its_row_and_every_row_its_act()
    {
        var rows = Rows();
        Assert.Equal(
            Calls().Keys.Order(StringComparer.Ordinal),
            rows.Select(row => row.Method).Order(StringComparer.Ordinal)
        );
        var act = typeof(Gate).Assembly.GetType("JollyAlmanac.Application.Operation")!;
        var acts = act.GetFields(BindingFlags.Public | BindingFlags.Static)
            .Select(field => (string)act.GetProperty("Name")!.GetValue(field.GetValue(null))!)
            .Distinct();
        Assert.Equal(
            acts.Order(StringComparer.Ordinal),
            rows.Select(row => row.Act).Distinct().Order(StringComparer.Ordinal)
        );
        // Whatever takes a viewer asks the gate, or is named as one that gathers.
        var asks = typeof(Gate)
            .Assembly.GetExportedTypes()
            .Where(type => type is { IsClass: true, IsAbstract: false } && !typeof(Delegate).IsAssignableFrom(type))
            .SelectMany(type =>
                type.GetMethods(BindingFlags.Public | BindingFlags.Instance | BindingFlags.DeclaredOnly)
            )
            .Where(method =>
                method.GetParameters().Any(parameter => parameter.ParameterType == typeof(Viewer))
                && !method.IsSpecialName
                && method.Name != "Deconstruct"
            )
            .Select(method => $"{method.DeclaringType!.Name}.{method.Name}")
            .Distinct();
        Assert.Empty(asks.Except(rows.Select(row => row.Method)).Except(Gathers));
    }

    [Fact]
    public void Each_is_let_in_where_the_table_says_so()
    {
        (AccessLevel Level, bool Own)[] levels =
        [
            (AccessLevel.None, false),
            (AccessLevel.Busy, false),
            (AccessLevel.Outline, false),
            (AccessLevel.Full, false),
            (AccessLevel.Full, true),
            (AccessLevel.Contributor, false),
            (AccessLevel.Contributor, true),
            (AccessLevel.Editor, false),
            (AccessLevel.Manager, false),
        ];
        var (person, teacher) = (school.Helper.Person!.Value, school.Teacher.Person!.Value);
        var calls = Calls();
        var wrong = new List<string>();
        foreach (var row in Rows().Where(row => row.Cells.Length == levels.Length + 1))
        {
            foreach (var ((level, own), expected) in levels.Zip(row.Cells))
            {
                Stand($"'person', {person.Value}", level, own ? person : teacher);
                foreach (var role in Enum.GetValues<SchoolRole>())
                    Hold(
                        row,
                        $"{role}, {level}{(own ? ", own" : "")}",
                        expected,
                        calls[row.Method](new Viewer(person, role, new HashSet<GroupId>()))
                    );
            }

            Stand("'anyone', null", AccessLevel.Manager, teacher);
            Hold(row, "visitor", row.Cells[^1], calls[row.Method](Viewer.Visitor));
        }

        Assert.Empty(wrong);

        void Stand(string grantee, AccessLevel level, PersonId maker)
        {
            // In one go, as it is done a thousand times.
            school.Execute(
                $"""
                begin;
                delete from grants where grantee <> 'person' or person_id <> {teacher.Value};
                {(level == AccessLevel.None ? "" : $"""
                insert into grants (calendar_id, grantee, person_id, level) select id, {grantee}, '{level.ToString().ToLowerInvariant()}'
                    from calendars where slug = '{TestSchool.Slug}';
                """)}
                update series set made_by = {maker.Value};
                delete from join_hosts where person_id <> {maker.Value};
                insert or ignore into join_hosts (link_id, person_id) values ({link.Id.Value}, {maker.Value});
                commit;
                """
            );
        }

        void Hold(Row row, string who, string expected, object? outcome)
        {
            if (Letter(outcome) is var got && got != expected)
                wrong.Add($"{row.Method} by {who}: {got} in place of {expected}");
        }
    }

    [Fact]
    public void At_the_school_roles_decide()
    {
        var calls = Calls();
        SchoolRole?[] roles =
        [
            null,
            SchoolRole.Student,
            SchoolRole.Family,
            SchoolRole.Guest,
            SchoolRole.Teacher,
            SchoolRole.Coordinator,
        ];
        var rows = Rows().Where(row => row.Cells.Length == roles.Length).ToList();
        Assert.NotEmpty(rows);
        foreach (var row in rows)
        foreach (var (role, expected) in roles.Zip(row.Cells))
        {
            var who = role is null ? Viewer.Visitor : new Viewer(school.Helper.Person, role, new HashSet<GroupId>());
            Assert.Equal((row.Method, role, expected), (row.Method, role, Letter(calls[row.Method](who))));
        }
    }

    // Who looks as somebody else may look at all that one may, and do nothing: whatever its row says, and whoever looks.
    [Fact]
    public void Who_looks_as_somebody_else_does_nothing()
    {
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Helper.Person!.Value.Value}, 'manager' from calendars where slug = '{TestSchool.Slug}'"
        );
        var who = new Viewer(school.Helper.Person, SchoolRole.Coordinator, new HashSet<GroupId>())
        {
            LookedAtBy = school.Coordinator,
        };
        var calls = Calls();
        // The last three find what is wrong with a call before they come to the gate that writes.
        string[] only =
        [
            "View",
            "Reach",
            "Form",
            "Of",
            "Open",
            "OpenSchool",
            "Review",
            "Preview",
            "Tells",
            "Fill",
            "FillByLetter",
            "FillHolidays",
            "Find",
            "Page",
            "All",
            "One",
            "Deal",
            "LinksForAnyone",
            "OfSchool",
            "Waiting",
            "LastEdit",
            "LastCarried",
        ];
        var wrong = new List<string>();
        foreach (
            var row in Rows()
                .Where(row =>
                    !row.Method.Split('.')[0].EndsWith("Query", StringComparison.Ordinal)
                    && !only.Contains(row.Method.Split('.')[1])
                    && row.Method is not ("MendLink.Do" or "AddPeople.Do" or "Accounts.EndFactor")
                )
        )
            if (Letter(calls[row.Method](who)) is "+")
                wrong.Add(row.Method);
        Assert.Empty(wrong);
    }

    // What is not an outcome is a view: there or not.
    private static string Letter(object? outcome) =>
        outcome?.GetType().Name switch
        {
            null or "NotFound" => ".",
            "NotAllowed" => "-",
            _ => "+",
        };
}
