using JollyAlmanac.Core.JoinLinks;

namespace JollyAlmanac.Core.Access;

/// <summary>How a new calendar begins, and what is made on it, unless somebody says otherwise.</summary>
/// <param name="NewIsOpenTo">Whom a new calendar is open to without being named: anyone, everyone, or null for nobody.</param>
/// <param name="CoordinatorsManage">The school's coordinators manage a new calendar, too.</param>
/// <param name="ShowsList">The members of a new calendar's class list see who else is on it.</param>
public record CalendarDefaults(Grantee? NewIsOpenTo, bool CoordinatorsManage, bool ShowsList)
{
    /// <summary>When the door of a new join link is open.</summary>
    public EntryRule LinkEntry { get; init; } = EntryRule.Usual;

    /// <summary>Who may enter by a new join link; null for whom its calendar is open to.</summary>
    public EntryAudience? LinkAudience { get; init; }

    /// <summary>How many minutes before a session a new feed reminds; null for not at all. 15 is common practice (no source).</summary>
    public int? FeedReminder { get; init; } = 15;
}

/// <summary>How a school has it unless somebody says otherwise, and how long it keeps what it need not keep for ever.</summary>
/// <param name="NewIsOpenTo">Whom a new calendar is open to without being named: anyone, everyone, or null for nobody.</param>
/// <param name="CoordinatorsManage">The school's coordinators manage a new calendar, too.</param>
/// <param name="ShowsList">The members of a new calendar's class list see who else is on it.</param>
/// <param name="AttendanceDays">How many days it is kept who was in a room; null for as long as the entry is there.</param>
public sealed record SchoolDefaults(Grantee? NewIsOpenTo, bool CoordinatorsManage, bool ShowsList, int? AttendanceDays)
    : CalendarDefaults(NewIsOpenTo, CoordinatorsManage, ShowsList)
{
    /// <summary>A recording is given with a word of the calendar's keepers, not at once.</summary>
    public bool RecordingsWait { get; init; }

    /// <summary>How many days a passcode may be in use; null for as long as one likes.</summary>
    public int? PasscodeDays { get; init; }

    /// <summary>The most days that can be chosen.</summary>
    public const int MostDays = 3650;
}
