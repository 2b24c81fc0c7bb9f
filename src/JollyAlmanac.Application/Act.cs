using JollyAlmanac.Core.Access;

namespace JollyAlmanac.Application;

/// <summary>What an act is done to, and how it is found.</summary>
internal enum Subject
{
    /// <summary>The school, by the role somebody has in it.</summary>
    School,
    /// <summary>A calendar, by its slug.</summary>
    Calendar,
    /// <summary>A calendar that may be put away, or deleted less than a month ago.</summary>
    AnyCalendar,
    /// <summary>A calendar that may be put away: then for those who were named on it, or in a group that was.</summary>
    PastCalendar,
    /// <summary>A series on its calendar.</summary>
    Series,
    /// <summary>A series that may be taken off, or cannot be read as it is stored.</summary>
    AnySeries,
    /// <summary>A join link, by its short address.</summary>
    JoinLink,
    /// <summary>A feed or an embed of a calendar.</summary>
    Outlet,
}

/// <summary>Something that people do, or look at in order to do it: the deed it is and what it is done to.</summary>
/// <param name="Name">Its name, as the history has it.</param>
/// <param name="Deed">What one must be allowed to do.</param>
/// <param name="To">What it is done to.</param>
internal sealed record Act(string Name, Deed Deed, Subject To)
{
    public static readonly Act MakeCalendar = new(nameof(MakeCalendar), Deed.MakeCalendar, Subject.School);
    public static readonly Act ChangeCalendar = new(nameof(ChangeCalendar), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act PutAwayCalendar = new(nameof(PutAwayCalendar), Deed.ChangeCalendar, Subject.AnyCalendar);
    public static readonly Act DeleteCalendar = new(nameof(DeleteCalendar), Deed.ChangeCalendar, Subject.AnyCalendar);
    public static readonly Act BringBackCalendar = new(nameof(BringBackCalendar), Deed.ChangeCalendar, Subject.AnyCalendar);
    public static readonly Act SeeSharing = new(nameof(SeeSharing), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act GiveAccess = new(nameof(GiveAccess), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act AskToAddPerson = new(nameof(AskToAddPerson), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act EndAccess = new(nameof(EndAccess), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act AnswerRequest = new(nameof(AnswerRequest), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act ShowClassList = new(nameof(ShowClassList), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act HandOver = new(nameof(HandOver), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act LookAs = new(nameof(LookAs), Deed.ChangeCalendar, Subject.Calendar);
    public static readonly Act LookAsAnybody = new("LookAs", Deed.KeepSchool, Subject.School);
    public static readonly Act FindPeople = new(nameof(FindPeople), Deed.FindPeople, Subject.School);
    public static readonly Act AskForAccess = new(nameof(AskForAccess), Deed.KeepOwnAccount, Subject.School);
    public static readonly Act SeeAccount = new(nameof(SeeAccount), Deed.KeepOwnAccount, Subject.School);
    public static readonly Act ChangeAccount = new(nameof(ChangeAccount), Deed.KeepOwnAccount, Subject.School);
    public static readonly Act SeePeople = new(nameof(SeePeople), Deed.KeepSchool, Subject.School);
    public static readonly Act ChangePerson = new(nameof(ChangePerson), Deed.KeepSchool, Subject.School);
    public static readonly Act EndPerson = new(nameof(EndPerson), Deed.KeepSchool, Subject.School);
    public static readonly Act BringBackPerson = new(nameof(BringBackPerson), Deed.KeepSchool, Subject.School);
    public static readonly Act ErasePerson = new(nameof(ErasePerson), Deed.KeepSchool, Subject.School);
    public static readonly Act ExportPerson = new(nameof(ExportPerson), Deed.KeepSchool, Subject.School);
    public static readonly Act GivePassword = new(nameof(GivePassword), Deed.KeepSchool, Subject.School);
    public static readonly Act Invite = new(nameof(Invite), Deed.KeepSchool, Subject.School);
    public static readonly Act WithdrawInvitation = new(nameof(WithdrawInvitation), Deed.KeepSchool, Subject.School);
    public static readonly Act AddAbsence = new(nameof(AddAbsence), Deed.KeepSchool, Subject.School);
    public static readonly Act RemoveAbsence = new(nameof(RemoveAbsence), Deed.KeepSchool, Subject.School);
    public static readonly Act SetChildren = new(nameof(SetChildren), Deed.KeepSchool, Subject.School);
    public static readonly Act ChangeGroup = new(nameof(ChangeGroup), Deed.KeepSchool, Subject.School);
    public static readonly Act BringIn = new(nameof(BringIn), Deed.KeepSchool, Subject.School);
    public static readonly Act SeeMail = new(nameof(SeeMail), Deed.KeepSchool, Subject.School);
    public static readonly Act SendAgain = new(nameof(SendAgain), Deed.KeepSchool, Subject.School);
    public static readonly Act SeeSchoolHistory = new(nameof(SeeSchoolHistory), Deed.KeepSchool, Subject.School);
    public static readonly Act AddSeveralSeries = new(nameof(AddSeveralSeries), Deed.AddSeries, Subject.Calendar);
    public static readonly Act AddSeries = new(nameof(AddSeries), Deed.AddSeries, Subject.Calendar);
    public static readonly Act ChangeSeries = new(nameof(ChangeSeries), Deed.ChangeSeries, Subject.Series);
    public static readonly Act TakeOffSeries = new(nameof(TakeOffSeries), Deed.DeleteSeries, Subject.AnySeries);
    public static readonly Act BringBackSeries = new(nameof(BringBackSeries), Deed.DeleteSeries, Subject.AnySeries);
    public static readonly Act ChangeSession = new(nameof(ChangeSession), Deed.ChangeSeries, Subject.Series);
    public static readonly Act SeeMaterials = new(nameof(SeeMaterials), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act SendFile = new(nameof(SendFile), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act AttachMaterial = new(nameof(AttachMaterial), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act ChangeMaterial = new(nameof(ChangeMaterial), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act ReplaceMaterial = new(nameof(ReplaceMaterial), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act GiveMaterial = new(nameof(GiveMaterial), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act TakeOffMaterial = new(nameof(TakeOffMaterial), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act OrderMaterials = new(nameof(OrderMaterials), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act CopyMaterial = new(nameof(CopyMaterial), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act ImportFile = new(nameof(ImportFile), Deed.AddSeries, Subject.Calendar);
    public static readonly Act FetchFile = new(nameof(FetchFile), Deed.AddSeries, Subject.Calendar);
    public static readonly Act LeaveOutRange = new(nameof(LeaveOutRange), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act BringBackRange = new(nameof(BringBackRange), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act Undo = new(nameof(Undo), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act Restore = new(nameof(Restore), Deed.ChangeSeries, Subject.Calendar);
    public static readonly Act RollOver = new(nameof(RollOver), Deed.MakeCalendar, Subject.School);
    public static readonly Act AddJoinLink = new(nameof(AddJoinLink), Deed.KeepJoinLinks, Subject.Calendar);
    public static readonly Act ChangeJoinLink = new(nameof(ChangeJoinLink), Deed.KeepJoinLinks, Subject.JoinLink);
    public static readonly Act WithdrawJoinLink = new(nameof(WithdrawJoinLink), Deed.KeepJoinLinks, Subject.JoinLink);
    public static readonly Act PutBackJoinLink = new(nameof(PutBackJoinLink), Deed.KeepJoinLinks, Subject.JoinLink);
    public static readonly Act TestJoinLink = new(nameof(TestJoinLink), Deed.KeepJoinLinks, Subject.JoinLink);
    public static readonly Act MendJoinLink = new(nameof(MendJoinLink), Deed.KeepJoinLinks, Subject.JoinLink);
    public static readonly Act RenewJoinLink = new(nameof(RenewJoinLink), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act OpenDoor = new(nameof(OpenDoor), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act ShutDoor = new(nameof(ShutDoor), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act ReleaseDoor = new(nameof(ReleaseDoor), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act MakeGuestLink = new(nameof(MakeGuestLink), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act EndGuestLink = new(nameof(EndGuestLink), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act ReadJoinCard = new(nameof(ReadJoinCard), Deed.WorkDoor, Subject.JoinLink);
    public static readonly Act SetRoomChecklist = new(nameof(SetRoomChecklist), Deed.KeepSchool, Subject.School);
    public static readonly Act ReadPublication = new(nameof(ReadPublication), Deed.Publish, Subject.Calendar);
    public static readonly Act SeeSchoolPublishing = new(nameof(SeeSchoolPublishing), Deed.KeepSchool, Subject.School);
    public static readonly Act CopyCalendar = new(nameof(CopyCalendar), Deed.Publish, Subject.Calendar);
    public static readonly Act SendCopy = new(nameof(SendCopy), Deed.Publish, Subject.Calendar);
    public static readonly Act MakeOutlet = new(nameof(MakeOutlet), Deed.Publish, Subject.Calendar);
    public static readonly Act ChangeOutlet = new(nameof(ChangeOutlet), Deed.Publish, Subject.Outlet);
    public static readonly Act PauseOutlet = new(nameof(PauseOutlet), Deed.Publish, Subject.Outlet);
    public static readonly Act KeepOwnFeed = new(nameof(KeepOwnFeed), Deed.KeepOwnAccount, Subject.School);
    public static readonly Act SeeNotices = new(nameof(SeeNotices), Deed.KeepNotices, Subject.Calendar);
    public static readonly Act PutNoticeUp = new(nameof(PutNoticeUp), Deed.KeepNotices, Subject.Calendar);
    public static readonly Act ChangeNotice = new(nameof(ChangeNotice), Deed.KeepNotices, Subject.Calendar);
    public static readonly Act TakeNoticeDown = new(nameof(TakeNoticeDown), Deed.KeepNotices, Subject.Calendar);
    public static readonly Act RemindOfNotice = new(nameof(RemindOfNotice), Deed.KeepNotices, Subject.Calendar);
    public static readonly Act KeepNoticeTexts = new(nameof(KeepNoticeTexts), Deed.KeepSchool, Subject.School);
    public static readonly Act RenewOutlet = new(nameof(RenewOutlet), Deed.Publish, Subject.Outlet);
    public static readonly Act RevokeOutlet = new(nameof(RevokeOutlet), Deed.Publish, Subject.Outlet);
    public static readonly Act RevokeUnreadableOutlet = new("RevokeOutlet", Deed.Publish, Subject.Calendar);
    public static readonly Act OfferOutlet = new(nameof(OfferOutlet), Deed.Publish, Subject.Outlet);
    public static readonly Act SetSchoolTime = new(nameof(SetSchoolTime), Deed.KeepSchool, Subject.School);
    public static readonly Act FetchHolidays = new(nameof(FetchHolidays), Deed.KeepSchool, Subject.School);
    public static readonly Act SetHabits = new(nameof(SetHabits), Deed.KeepSchool, Subject.School);
    public static readonly Act SetSchool = new(nameof(SetSchool), Deed.KeepSchool, Subject.School);
    public static readonly Act AddPeople = new(nameof(AddPeople), Deed.KeepSchool, Subject.School);
    public static readonly Act AddGroup = new(nameof(AddGroup), Deed.KeepSchool, Subject.School);
    public static readonly Act SeeTermSheet = new(nameof(SeeTermSheet), Deed.SeeTimes, Subject.Calendar);
    public static readonly Act SeeClassPage = new(nameof(SeeClassPage), Deed.SeeTimes, Subject.Calendar);
    public static readonly Act SeeArchive = new(nameof(SeeArchive), Deed.SeeTimes, Subject.PastCalendar);
    public static readonly Act PrintCalendar = new(nameof(PrintCalendar), Deed.SeeTimes, Subject.Calendar);
    public static readonly Act SeeSessionsByMail = new(nameof(SeeSessionsByMail), Deed.GetSessions, Subject.Calendar);
    public static readonly Act GetSessionsByMail = new(nameof(GetSessionsByMail), Deed.GetSessions, Subject.Calendar);
    public static readonly Act GetReminders = new(nameof(GetReminders), Deed.GetSessions, Subject.Calendar);
    public static readonly Act SeeHistory = new(nameof(SeeHistory), Deed.SeeHistory, Subject.Calendar);
}
