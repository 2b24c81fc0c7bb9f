using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Schools;

/// <summary>What a form says of how calendars begin, as typed.</summary>
/// <param name="NewIsOpenTo">Whom a new calendar is open to.</param>
/// <param name="CoordinatorsManage">Coordinators manage a new calendar, too.</param>
/// <param name="ShowsList">Its class list is shown to its members.</param>
public record CalendarDefaultsInput(OpenTo NewIsOpenTo, bool CoordinatorsManage = false, bool ShowsList = false)
{
    /// <summary>When the door of a new join link is open.</summary>
    public EntryRuleInput LinkEntry { get; init; } = new();

    /// <summary>An <see cref="EntryAudience"/> by its name; empty for whom its calendar is open to.</summary>
    public string? LinkAudience { get; init; } = "";

    /// <summary>How many minutes before a session a new feed reminds; empty for not at all.</summary>
    public string? FeedReminder { get; init; } = "15";

    /// <summary>A department's own checklist for rooms, a line each; empty for the school's.</summary>
    public string? Checklist { get; init; } = "";

    /// <summary>The form of what is stored.</summary>
    public static CalendarDefaultsInput Of(CalendarDefaults defaults, IEnumerable<string> checklist) =>
        new(OpenToOf(defaults), defaults.CoordinatorsManage, defaults.ShowsList)
        {
            LinkEntry = EntryRuleInput.Of(defaults.LinkEntry),
            LinkAudience = AudienceOf(defaults),
            FeedReminder = Number(defaults.FeedReminder),
            Checklist = string.Join('\n', checklist),
        };

    private protected static string AudienceOf(CalendarDefaults defaults) =>
        defaults.LinkAudience?.ToString().ToLowerInvariant() ?? "";

    private protected static string Number(int? number) =>
        number?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "";

    internal static OpenTo OpenToOf(CalendarDefaults defaults) =>
        defaults.NewIsOpenTo switch
        {
            Grantee.Anyone => OpenTo.Anyone,
            Grantee.Everyone => OpenTo.Everyone,
            _ => OpenTo.Named,
        };
}

/// <summary>What a form says of the school's defaults, as typed.</summary>
/// <param name="NewIsOpenTo">Whom a new calendar is open to.</param>
/// <param name="CoordinatorsManage">Coordinators manage a new calendar, too.</param>
/// <param name="ShowsList">Its class list is shown to its members.</param>
/// <param name="AttendanceDays">How many days it is kept who was in a room; empty for as long as the entry is there.</param>
/// <param name="RecordingsWait">A recording is given with a word of the calendar's keepers.</param>
public sealed record SchoolDefaultsInput(
    OpenTo NewIsOpenTo,
    bool CoordinatorsManage = false,
    bool ShowsList = false,
    string? AttendanceDays = "",
    bool RecordingsWait = false
) : CalendarDefaultsInput(NewIsOpenTo, CoordinatorsManage, ShowsList)
{
    /// <summary>How many days a passcode may be in use; empty for as long as one likes.</summary>
    public string? PasscodeDays { get; init; } = "";

    /// <summary>The form of what is stored.</summary>
    public static SchoolDefaultsInput Of(SchoolDefaults schoolDefaults) =>
        new(
            OpenToOf(schoolDefaults),
            schoolDefaults.CoordinatorsManage,
            schoolDefaults.ShowsList,
            Number(schoolDefaults.AttendanceDays),
            schoolDefaults.RecordingsWait
        )
        {
            LinkEntry = EntryRuleInput.Of(schoolDefaults.LinkEntry),
            LinkAudience = AudienceOf(schoolDefaults),
            FeedReminder = Number(schoolDefaults.FeedReminder),
            PasscodeDays = Number(schoolDefaults.PasscodeDays),
        };
}

/// <summary>How a department's classes begin, as its page shows it.</summary>
/// <param name="Department">The department.</param>
/// <param name="Input">The form: what the department has, else what the school has.</param>
/// <param name="IsOwn">The department has defaults of its own.</param>
public sealed record DepartmentDefaults(Calendar Department, CalendarDefaultsInput Input, bool IsOwn);

/// <summary>Sets how the school has it unless somebody says otherwise. For coordinators.</summary>
public sealed class SetSchoolDefaults(Gate gate)
{
    /// <summary>How it is now.</summary>
    public Outcome<SchoolDefaults> Open(Viewer viewer) =>
        gate.Read<SchoolDefaults>(Operation.SetSchoolDefaults, viewer, at => new Outcome<SchoolDefaults>.Done(
            at.Stores.School.Defaults()
        ));

    /// <summary>Sets it. What is older than it is to be kept goes at once.</summary>
    /// <returns>Of how many the attendance went.</returns>
    public Outcome<int> Do(Viewer viewer, SchoolDefaultsInput input) =>
        gate.Write<int>(Operation.SetSchoolDefaults, viewer, at =>
        {
            var entry = new FormReader();
            var days = ReadDays(entry, "AttendanceDays", input.AttendanceDays);
            var passcodes = ReadDays(entry, "PasscodeDays", input.PasscodeDays);
            var begins = Read(entry, input);
            if (begins is null || !entry.IsGood)
                return new Outcome<int>.Refused(entry.Problems);
            var schoolDefaults = new SchoolDefaults(
                begins.NewIsOpenTo,
                begins.CoordinatorsManage,
                begins.ShowsList,
                days
            )
            {
                RecordingsWait = input.RecordingsWait,
                LinkEntry = begins.LinkEntry,
                LinkAudience = begins.LinkAudience,
                FeedReminder = begins.FeedReminder,
                PasscodeDays = passcodes,
            };
            var before = at.Stores.School.Defaults();
            if (schoolDefaults == before)
                return new Outcome<int>.Done(0);
            at.Stores.School.Set(schoolDefaults);
            string[] words =
            [
                .. Words(schoolDefaults, before),
                schoolDefaults.RecordingsWait == before.RecordingsWait ? ""
                : schoolDefaults.RecordingsWait ? "recordings to wait for a word of their keepers"
                : "recordings to be given at once",
                passcodes == before.PasscodeDays ? ""
                : passcodes is { } most ? $"passcodes to be in use for {Wording.Count(most, "day", "days")} at most"
                : "passcodes to be in use for as long as one likes",
                $"and attendance to be kept {(days is { } count ? Wording.Count(count, "day", "days") : "as long as its entry")}",
            ];
            at.Note(HistorySubject.School, 1, string.Join(", ", words.Where(one => one.Length > 0)));
            return new Outcome<int>.Done(Forget(at.Stores, at.Now, schoolDefaults, at.Person));
        });

    /// <summary>How a department's classes begin. For its managers.</summary>
    public Outcome<DepartmentDefaults> OpenDepartment(Viewer viewer, Slug slug) =>
        gate.Read<DepartmentDefaults>(Operation.SetDepartmentDefaults, viewer, slug, at =>
            at.Calendar.Kind != CalendarKind.Department
                ? new Outcome<DepartmentDefaults>.NotFound()
                : new Outcome<DepartmentDefaults>.Done(
                    new DepartmentDefaults(
                        at.Calendar,
                        CalendarDefaultsInput.Of(
                            at.Stores.School.DefaultsFor(at.Calendar.Id),
                            at.Stores.JoinLinks.OwnChecklist(at.Calendar.Id)
                        ),
                        at.Stores.School.DefaultsOf(at.Calendar.Id) is not null
                            || at.Stores.JoinLinks.OwnChecklist(at.Calendar.Id).Count > 0
                    )
                )
        );

    /// <summary>Sets how a department's classes begin; those that are there stay as they are.</summary>
    public Outcome<Calendar> SetDepartment(Viewer viewer, Slug slug, CalendarDefaultsInput input) =>
        gate.Write<Calendar>(Operation.SetDepartmentDefaults, viewer, slug, at =>
        {
            if (at.Calendar.Kind != CalendarKind.Department)
                return new Outcome<Calendar>.NotFound();
            var entry = new FormReader();
            var begins = Read(entry, input);
            var checklist = Joining.LinkReader.ReadChecklist(entry, input.Checklist);
            if (begins is null || !entry.IsGood)
                return new Outcome<Calendar>.Refused(entry.Problems);
            var before = at.Stores.School.DefaultsFor(at.Calendar.Id);
            at.Stores.School.SetDefaultsOf(at.Calendar.Id, begins);
            at.Stores.JoinLinks.SetOwnChecklist(at.Calendar.Id, checklist);
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                string.Join(
                    ", ",
                    Words(begins, before)
                        .Append(
                            checklist.Count > 0
                                ? $"rooms to have a checklist of {Wording.Count(checklist.Count, "line", "lines")}"
                                : ""
                        )
                        .Where(one => one.Length > 0)
                )
            );
            return new Outcome<Calendar>.Done(at.Calendar);
        });

    /// <summary>Lets a department's classes begin as those of the school do.</summary>
    public Outcome<Calendar> ClearDepartment(Viewer viewer, Slug slug) =>
        gate.Write<Calendar>(Operation.SetDepartmentDefaults, viewer, slug, at =>
        {
            if (at.Calendar.Kind != CalendarKind.Department)
                return new Outcome<Calendar>.NotFound();
            at.Stores.School.SetDefaultsOf(at.Calendar.Id, null);
            at.Stores.JoinLinks.SetOwnChecklist(at.Calendar.Id, []);
            at.Note(HistorySubject.Calendar, at.Calendar.Id.Value, "set new calendars to begin as the school’s do");
            return new Outcome<Calendar>.Done(at.Calendar);
        });

    private static int? ReadDays(FormReader entry, string field, string? text) =>
        string.IsNullOrWhiteSpace(text)
            ? null
            : entry.Number(field, text.Trim(), "The number of days", 1, SchoolDefaults.MostDays);

    // Null where it cannot be read; the reader has the reasons.
    private static CalendarDefaults? Read(FormReader entry, CalendarDefaultsInput input)
    {
        if (!Enum.IsDefined(input.NewIsOpenTo))
            entry.Wrong("NewIsOpenTo", "Choose whom a new calendar is open to.");
        var rule = LinkReader.ReadRule(entry, input.LinkEntry);
        EntryAudience? audience = null;
        if (!string.IsNullOrEmpty(input.LinkAudience))
        {
            if (Enum.TryParse<EntryAudience>(input.LinkAudience, ignoreCase: true, out var who) && Enum.IsDefined(who))
                audience = who;
            else
                entry.Wrong("LinkAudience", "Choose who may enter.");
        }

        var reminder = string.IsNullOrWhiteSpace(input.FeedReminder)
            ? null
            : entry.Number(
                "FeedReminder",
                input.FeedReminder,
                "The minutes before",
                0,
                PublicationOptions.LongestReminder
            );
        return !entry.IsGood
            ? null
            : new CalendarDefaults(
                input.NewIsOpenTo switch
                {
                    OpenTo.Anyone => new Grantee.Anyone(),
                    OpenTo.Everyone => new Grantee.Everyone(),
                    _ => null,
                },
                input.CoordinatorsManage,
                input.ShowsList
            )
            {
                LinkEntry = rule!,
                LinkAudience = audience,
                FeedReminder = reminder,
            };
    }

    private static IEnumerable<string> Words(CalendarDefaults now, CalendarDefaults before) =>
        [
            $"set new calendars to be open to {OpenWords(CalendarDefaultsInput.OpenToOf(now))}",
            now.CoordinatorsManage ? "managed by coordinators, too" : "",
            now.ShowsList ? "with the list shown to its members" : "",
            now.LinkEntry == before.LinkEntry ? "" : $"new join links: {now.LinkEntry.InWords}",
            now.LinkAudience == before.LinkAudience ? ""
            : now.LinkAudience is not { } audience ? "new join links for whom their calendar is open to"
            : $"new join links for {(audience == EntryAudience.Anyone ? "anyone" : audience == EntryAudience.School ? "people of the school" : "people of the class")}",
            now.FeedReminder == before.FeedReminder ? ""
            : now.FeedReminder is { } minutes ? $"new feeds to remind {Wording.Amount(minutes)} before"
            : "new feeds not to remind",
        ];

    /// <summary>Lets go what is older than the school keeps it.</summary>
    /// <param name="stores">What is stored.</param>
    /// <param name="now">The moment.</param>
    /// <param name="schoolDefaults">How long it keeps it.</param>
    /// <param name="by">Who has it so.</param>
    internal static int Forget(Stores stores, Instant now, SchoolDefaults schoolDefaults, PersonId by)
    {
        if (
            schoolDefaults.AttendanceDays is not { } days
            || !stores.JoinLinks.KnowsAttendance(now - Duration.FromDays(days))
        )
            return 0;
        var gone = stores.JoinLinks.ForgetAttendance(now - Duration.FromDays(days));
        stores.History.Add(
            now,
            by,
            null,
            HistorySubject.School,
            1,
            Operation.SetSchoolDefaults.Name,
            $"let go who was in a room over {Wording.Count(days, "day", "days")} ago: {Wording.Count(gone, "entry", "entries")}",
            null,
            null
        );
        return gone;
    }

    private static string OpenWords(OpenTo open) =>
        open switch
        {
            OpenTo.Anyone => "anyone",
            OpenTo.Everyone => "everybody of the school",
            _ => "those who are named",
        };
}
