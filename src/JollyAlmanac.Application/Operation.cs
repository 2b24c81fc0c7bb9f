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
    Publication,
}

/// <summary>Something that people do, or look at in order to do it: the deed it is and what it is done to.</summary>
/// <param name="Name">Its name in the history and in what was exported: it stays, whatever the field is called by now.</param>
/// <param name="Needs">What one must be allowed to do.</param>
/// <param name="To">What it is done to.</param>
internal sealed record Operation(string Name, Permission Needs, Subject To)
{
    public static readonly Operation MakeCalendar = new(nameof(MakeCalendar), Permission.MakeCalendar, Subject.School);
    public static readonly Operation ChangeCalendar = new(
        nameof(ChangeCalendar),
        Permission.ChangeCalendar,
        Subject.Calendar
    );
    public static readonly Operation ArchiveCalendar = new(
        "PutAwayCalendar",
        Permission.ChangeCalendar,
        Subject.AnyCalendar
    );
    public static readonly Operation DeleteCalendar = new(
        nameof(DeleteCalendar),
        Permission.ChangeCalendar,
        Subject.AnyCalendar
    );
    public static readonly Operation BringBackCalendar = new(
        nameof(BringBackCalendar),
        Permission.ChangeCalendar,
        Subject.AnyCalendar
    );
    public static readonly Operation SeeSharing = new(nameof(SeeSharing), Permission.ChangeCalendar, Subject.Calendar);
    public static readonly Operation GiveAccess = new(nameof(GiveAccess), Permission.ChangeCalendar, Subject.Calendar);
    public static readonly Operation AskToAddPerson = new(
        nameof(AskToAddPerson),
        Permission.ChangeCalendar,
        Subject.Calendar
    );
    public static readonly Operation EndAccess = new(nameof(EndAccess), Permission.ChangeCalendar, Subject.Calendar);
    public static readonly Operation AnswerRequest = new(
        nameof(AnswerRequest),
        Permission.ChangeCalendar,
        Subject.Calendar
    );
    public static readonly Operation ShowClassList = new(
        nameof(ShowClassList),
        Permission.ChangeCalendar,
        Subject.Calendar
    );
    public static readonly Operation HandOver = new(nameof(HandOver), Permission.ChangeCalendar, Subject.Calendar);
    public static readonly Operation PreviewAs = new("LookAs", Permission.ChangeCalendar, Subject.Calendar);
    public static readonly Operation PreviewAsAnybody = new("LookAs", Permission.KeepSchool, Subject.School);
    public static readonly Operation FindPeople = new(nameof(FindPeople), Permission.FindPeople, Subject.School);
    public static readonly Operation AskForAccess = new(
        nameof(AskForAccess),
        Permission.KeepOwnAccount,
        Subject.School
    );
    public static readonly Operation SeeAccount = new(nameof(SeeAccount), Permission.KeepOwnAccount, Subject.School);
    public static readonly Operation ChangeAccount = new(
        nameof(ChangeAccount),
        Permission.KeepOwnAccount,
        Subject.School
    );
    public static readonly Operation SeePeople = new(nameof(SeePeople), Permission.KeepSchool, Subject.School);
    public static readonly Operation ChangePerson = new(nameof(ChangePerson), Permission.KeepSchool, Subject.School);
    public static readonly Operation EndPerson = new(nameof(EndPerson), Permission.KeepSchool, Subject.School);
    public static readonly Operation BringBackPerson = new(
        nameof(BringBackPerson),
        Permission.KeepSchool,
        Subject.School
    );
    public static readonly Operation ErasePerson = new(nameof(ErasePerson), Permission.KeepSchool, Subject.School);
    public static readonly Operation ExportPerson = new(nameof(ExportPerson), Permission.KeepSchool, Subject.School);
    public static readonly Operation GivePassword = new(nameof(GivePassword), Permission.KeepSchool, Subject.School);
    public static readonly Operation Invite = new(nameof(Invite), Permission.KeepSchool, Subject.School);
    public static readonly Operation WithdrawInvitation = new(
        nameof(WithdrawInvitation),
        Permission.KeepSchool,
        Subject.School
    );
    public static readonly Operation AddAbsence = new(nameof(AddAbsence), Permission.KeepSchool, Subject.School);
    public static readonly Operation RemoveAbsence = new(nameof(RemoveAbsence), Permission.KeepSchool, Subject.School);
    public static readonly Operation SetChildren = new(nameof(SetChildren), Permission.KeepSchool, Subject.School);
    public static readonly Operation ChangeGroup = new(nameof(ChangeGroup), Permission.KeepSchool, Subject.School);
    public static readonly Operation ImportRoster = new("BringIn", Permission.KeepSchool, Subject.School);
    public static readonly Operation SeeMail = new(nameof(SeeMail), Permission.KeepSchool, Subject.School);
    public static readonly Operation SendAgain = new(nameof(SendAgain), Permission.KeepSchool, Subject.School);
    public static readonly Operation SeeSchoolHistory = new(
        nameof(SeeSchoolHistory),
        Permission.KeepSchool,
        Subject.School
    );
    public static readonly Operation AddSeveralSeries = new(
        nameof(AddSeveralSeries),
        Permission.AddSeries,
        Subject.Calendar
    );
    public static readonly Operation AddSeries = new(nameof(AddSeries), Permission.AddSeries, Subject.Calendar);
    public static readonly Operation ChangeSeries = new(nameof(ChangeSeries), Permission.ChangeSeries, Subject.Series);
    public static readonly Operation RemoveSeries = new("TakeOffSeries", Permission.DeleteSeries, Subject.AnySeries);
    public static readonly Operation BringBackSeries = new(
        nameof(BringBackSeries),
        Permission.DeleteSeries,
        Subject.AnySeries
    );
    public static readonly Operation MoveSeries = new(nameof(MoveSeries), Permission.ChangeSeries, Subject.Series);
    public static readonly Operation ChangeSession = new(
        nameof(ChangeSession),
        Permission.ChangeSeries,
        Subject.Series
    );
    public static readonly Operation SeeMaterials = new(
        nameof(SeeMaterials),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation SendFile = new(nameof(SendFile), Permission.ChangeSeries, Subject.Calendar);
    public static readonly Operation AttachMaterial = new(
        nameof(AttachMaterial),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation ChangeMaterial = new(
        nameof(ChangeMaterial),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation ReplaceMaterial = new(
        nameof(ReplaceMaterial),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation GiveMaterial = new(
        nameof(GiveMaterial),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation RemoveMaterial = new("TakeOffMaterial", Permission.ChangeSeries, Subject.Calendar);
    public static readonly Operation OrderMaterials = new(
        nameof(OrderMaterials),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation CopyMaterial = new(
        nameof(CopyMaterial),
        Permission.ChangeSeries,
        Subject.Calendar
    );
    public static readonly Operation ImportFile = new(nameof(ImportFile), Permission.AddSeries, Subject.Calendar);
    public static readonly Operation FetchFile = new(nameof(FetchFile), Permission.AddSeries, Subject.Calendar);
    public static readonly Operation ExcludeRange = new("LeaveOutRange", Permission.ChangeSeries, Subject.Calendar);
    public static readonly Operation RestoreRange = new("BringBackRange", Permission.ChangeSeries, Subject.Calendar);
    public static readonly Operation Undo = new(nameof(Undo), Permission.ChangeSeries, Subject.Calendar);
    public static readonly Operation Restore = new(nameof(Restore), Permission.ChangeSeries, Subject.Calendar);
    public static readonly Operation RollOver = new(nameof(RollOver), Permission.MakeCalendar, Subject.School);
    public static readonly Operation AddJoinLink = new(nameof(AddJoinLink), Permission.KeepJoinLinks, Subject.Calendar);
    public static readonly Operation ChangeJoinLink = new(
        nameof(ChangeJoinLink),
        Permission.KeepJoinLinks,
        Subject.JoinLink
    );
    public static readonly Operation WithdrawJoinLink = new(
        nameof(WithdrawJoinLink),
        Permission.KeepJoinLinks,
        Subject.JoinLink
    );
    public static readonly Operation PutBackJoinLink = new(
        nameof(PutBackJoinLink),
        Permission.KeepJoinLinks,
        Subject.JoinLink
    );
    public static readonly Operation TestJoinLink = new(
        nameof(TestJoinLink),
        Permission.KeepJoinLinks,
        Subject.JoinLink
    );
    public static readonly Operation MendJoinLink = new(
        nameof(MendJoinLink),
        Permission.KeepJoinLinks,
        Subject.JoinLink
    );
    public static readonly Operation RenewJoinLink = new(nameof(RenewJoinLink), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation OpenDoor = new(nameof(OpenDoor), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation ShutDoor = new(nameof(ShutDoor), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation ReleaseDoor = new(nameof(ReleaseDoor), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation GiveRule = new(nameof(GiveRule), Permission.KeepJoinLinks, Subject.JoinLink);
    public static readonly Operation UndoRule = new(nameof(UndoRule), Permission.KeepJoinLinks, Subject.JoinLink);
    public static readonly Operation MakeGuestLink = new(nameof(MakeGuestLink), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation EndGuestLink = new(nameof(EndGuestLink), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation ReadJoinCard = new(nameof(ReadJoinCard), Permission.WorkDoor, Subject.JoinLink);
    public static readonly Operation SetRoomChecklist = new(
        nameof(SetRoomChecklist),
        Permission.KeepSchool,
        Subject.School
    );
    public static readonly Operation ReadPublication = new(
        nameof(ReadPublication),
        Permission.Publish,
        Subject.Calendar
    );
    public static readonly Operation SeeSchoolPublishing = new(
        nameof(SeeSchoolPublishing),
        Permission.KeepSchool,
        Subject.School
    );
    public static readonly Operation CopyCalendar = new(nameof(CopyCalendar), Permission.Publish, Subject.Calendar);
    public static readonly Operation SendCopy = new(nameof(SendCopy), Permission.Publish, Subject.Calendar);
    public static readonly Operation MakePublication = new("MakeOutlet", Permission.Publish, Subject.Calendar);
    public static readonly Operation ChangePublication = new("ChangeOutlet", Permission.Publish, Subject.Publication);
    public static readonly Operation PausePublication = new("PauseOutlet", Permission.Publish, Subject.Publication);
    public static readonly Operation KeepOwnTimes = new(
        nameof(KeepOwnTimes),
        Permission.KeepOwnAccount,
        Subject.School
    );
    public static readonly Operation MarkDone = new(nameof(MarkDone), Permission.KeepOwnAccount, Subject.School);
    public static readonly Operation KeepOwnFeed = new(nameof(KeepOwnFeed), Permission.KeepOwnAccount, Subject.School);
    public static readonly Operation SeeNotices = new(nameof(SeeNotices), Permission.KeepNotices, Subject.Calendar);
    public static readonly Operation PutNoticeUp = new(nameof(PutNoticeUp), Permission.KeepNotices, Subject.Calendar);
    public static readonly Operation ChangeNotice = new(nameof(ChangeNotice), Permission.KeepNotices, Subject.Calendar);
    public static readonly Operation TakeNoticeDown = new(
        nameof(TakeNoticeDown),
        Permission.KeepNotices,
        Subject.Calendar
    );
    public static readonly Operation RemindOfNotice = new(
        nameof(RemindOfNotice),
        Permission.KeepNotices,
        Subject.Calendar
    );
    public static readonly Operation KeepNoticeTexts = new(
        nameof(KeepNoticeTexts),
        Permission.KeepSchool,
        Subject.School
    );
    public static readonly Operation RenewPublication = new("RenewOutlet", Permission.Publish, Subject.Publication);
    public static readonly Operation RevokePublication = new("RevokeOutlet", Permission.Publish, Subject.Publication);
    public static readonly Operation RevokeUnreadablePublication = new(
        "RevokeOutlet",
        Permission.Publish,
        Subject.Calendar
    );
    public static readonly Operation OfferPublication = new("OfferOutlet", Permission.Publish, Subject.Publication);
    public static readonly Operation SetSchoolTime = new(nameof(SetSchoolTime), Permission.KeepSchool, Subject.School);
    public static readonly Operation FetchHolidays = new(nameof(FetchHolidays), Permission.KeepSchool, Subject.School);
    public static readonly Operation SetSchoolDefaults = new("SetHabits", Permission.KeepSchool, Subject.School);

    // What is done to each calendar is asked of each, by its own operation; this one is the line that takes it back.
    public static readonly Operation BulkChange = new(nameof(BulkChange), Permission.KeepOwnAccount, Subject.School);
    public static readonly Operation UndoBulkChange = new(
        nameof(UndoBulkChange),
        Permission.KeepOwnAccount,
        Subject.School
    );
    public static readonly Operation ImportSchool = new(nameof(ImportSchool), Permission.KeepSchool, Subject.School);
    public static readonly Operation SetDepartmentDefaults = new(
        nameof(SetDepartmentDefaults),
        Permission.ChangeCalendar,
        Subject.Calendar
    );
    public static readonly Operation SetSchool = new(nameof(SetSchool), Permission.KeepSchool, Subject.School);
    public static readonly Operation AddPeople = new(nameof(AddPeople), Permission.KeepSchool, Subject.School);
    public static readonly Operation AddGroup = new(nameof(AddGroup), Permission.KeepSchool, Subject.School);
    public static readonly Operation SeeTermSheet = new(nameof(SeeTermSheet), Permission.SeeTimes, Subject.Calendar);
    public static readonly Operation SeeClassPage = new(nameof(SeeClassPage), Permission.SeeTimes, Subject.Calendar);
    public static readonly Operation SeeArchive = new(nameof(SeeArchive), Permission.SeeTimes, Subject.PastCalendar);
    public static readonly Operation PrintCalendar = new(nameof(PrintCalendar), Permission.SeeTimes, Subject.Calendar);
    public static readonly Operation SeeSessionsByMail = new(
        nameof(SeeSessionsByMail),
        Permission.GetSessions,
        Subject.Calendar
    );
    public static readonly Operation GetSessionsByMail = new(
        nameof(GetSessionsByMail),
        Permission.GetSessions,
        Subject.Calendar
    );
    public static readonly Operation GetReminders = new(nameof(GetReminders), Permission.GetSessions, Subject.Calendar);
    public static readonly Operation SeeHistory = new(nameof(SeeHistory), Permission.SeeHistory, Subject.Calendar);
}
