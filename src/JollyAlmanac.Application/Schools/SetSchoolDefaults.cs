using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Schools;

/// <summary>What a form says of the school's habits, as typed.</summary>
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
)
{
    /// <summary>When the door of a new join link is open.</summary>
    public EntryRuleInput LinkEntry { get; init; } = new();

    /// <summary>An <see cref="EntryAudience"/> by its name; empty for whom its calendar is open to.</summary>
    public string? LinkAudience { get; init; } = "";

    /// <summary>How many minutes before a session a new feed reminds; empty for not at all.</summary>
    public string? FeedReminder { get; init; } = "15";

    /// <summary>The form of what is stored.</summary>
    public static SchoolDefaultsInput Of(SchoolDefaults schoolDefaults) =>
        new(
            OpenToOf(schoolDefaults),
            schoolDefaults.CoordinatorsManage,
            schoolDefaults.ShowsList,
            schoolDefaults.AttendanceDays?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "",
            schoolDefaults.RecordingsWait
        )
        {
            LinkEntry = EntryRuleInput.Of(schoolDefaults.LinkEntry),
            LinkAudience = schoolDefaults.LinkAudience?.ToString().ToLowerInvariant() ?? "",
            FeedReminder = schoolDefaults.FeedReminder?.ToString(System.Globalization.CultureInfo.InvariantCulture)
                ?? "",
        };

    internal static OpenTo OpenToOf(SchoolDefaults schoolDefaults) =>
        schoolDefaults.NewIsOpenTo switch
        {
            Grantee.Anyone => OpenTo.Anyone,
            Grantee.Everyone => OpenTo.Everyone,
            _ => OpenTo.Named,
        };
}

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
            if (!Enum.IsDefined(input.NewIsOpenTo))
                entry.Wrong("NewIsOpenTo", "Choose whom a new calendar is open to.");
            var days = string.IsNullOrWhiteSpace(input.AttendanceDays)
                ? null
                : entry.Number(
                    "AttendanceDays",
                    input.AttendanceDays.Trim(),
                    "The number of days",
                    1,
                    SchoolDefaults.MostDays
                );
            var rule = LinkReader.ReadRule(entry, input.LinkEntry);
            EntryAudience? audience = null;
            if (!string.IsNullOrEmpty(input.LinkAudience))
            {
                if (
                    Enum.TryParse<EntryAudience>(input.LinkAudience, ignoreCase: true, out var who)
                    && Enum.IsDefined(who)
                )
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
            if (!entry.IsGood)
                return new Outcome<int>.Refused(entry.Problems);
            var schoolDefaults = new SchoolDefaults(
                input.NewIsOpenTo switch
                {
                    OpenTo.Anyone => new Grantee.Anyone(),
                    OpenTo.Everyone => new Grantee.Everyone(),
                    _ => null,
                },
                input.CoordinatorsManage,
                input.ShowsList,
                days
            )
            {
                RecordingsWait = input.RecordingsWait,
                LinkEntry = rule!,
                LinkAudience = audience,
                FeedReminder = reminder,
            };
            var before = at.Stores.School.Defaults();
            if (schoolDefaults == before)
                return new Outcome<int>.Done(0);
            at.Stores.School.Set(schoolDefaults);
            string[] words =
            [
                $"set new calendars to be open to {OpenWords(input.NewIsOpenTo)}",
                schoolDefaults.CoordinatorsManage ? "managed by coordinators, too" : "",
                schoolDefaults.ShowsList ? "with the list shown to its members" : "",
                schoolDefaults.RecordingsWait == before.RecordingsWait ? ""
                : schoolDefaults.RecordingsWait ? "recordings to wait for a word of their keepers"
                : "recordings to be given at once",
                schoolDefaults.LinkEntry == before.LinkEntry ? "" : $"new join links: {rule!.InWords}",
                schoolDefaults.LinkAudience == before.LinkAudience ? ""
                : audience is null ? "new join links for whom their calendar is open to"
                : $"new join links for {(audience == EntryAudience.Anyone ? "anyone" : audience == EntryAudience.School ? "people of the school" : "people of the class")}",
                reminder == before.FeedReminder ? ""
                : reminder is { } minutes ? $"new feeds to remind {Wording.Amount(minutes)} before"
                : "new feeds not to remind",
                $"and attendance to be kept {(days is { } count ? Wording.Count(count, "day", "days") : "as long as its entry")}",
            ];
            at.Note(HistorySubject.School, 1, string.Join(", ", words.Where(one => one.Length > 0)));
            return new Outcome<int>.Done(Forget(at.Stores, at.Now, schoolDefaults, at.Person));
        });

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
