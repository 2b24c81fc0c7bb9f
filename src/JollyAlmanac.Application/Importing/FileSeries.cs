using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Importing;

/// <summary>Something that is attached to an event of a file.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Address">Where it is; null for one that is in the file.</param>
/// <param name="Bytes">What it is; null for one that is elsewhere.</param>
/// <param name="Id">The session it is for, as the series has it; null for every session.</param>
internal sealed record FileAttachment(string Title, Uri? Address, byte[]? Bytes, LocalDateTime? Id)
{
    /// <summary>What it is known by when the file comes again: the session, and the address or the bytes.</summary>
    public string Key =>
        $"{Id:uuuu'-'MM'-'dd'T'HH':'mm':'ss} {Address?.AbsoluteUri ?? Convert.ToHexString(SHA256.HashData(Bytes!))}";
}

/// <summary>An event of a file as the almanac would hold it, before its pattern is found.</summary>
/// <param name="Uid">Its UID; one made of what it says where it has none.</param>
/// <param name="Line">The line of the file that it begins on.</param>
/// <param name="Series">Its sessions; null where the almanac cannot hold them.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Description">What is said of all its sessions.</param>
/// <param name="IsPrivate">For others only its times.</param>
/// <param name="IsTentative">It is not certain yet that it takes place.</param>
/// <param name="Attachments">What is attached.</param>
/// <param name="Kept">Lines that the almanac has no place for, as an iCalendar document; empty for none.</param>
/// <param name="Hash">Of all that the file says of it, but for when it was written.</param>
/// <param name="Remarks">What was forgiven, changed or left away; for people.</param>
/// <param name="Refusal">Why the almanac cannot hold it; null where it can.</param>
internal sealed partial record FileSeries(
    string Uid,
    int Line,
    ForeignSeries? Series,
    string Title,
    string Description,
    bool IsPrivate,
    bool IsTentative,
    ImmutableArray<FileAttachment> Attachments,
    string Kept,
    string Hash,
    IReadOnlyList<string> Remarks,
    string? Refusal
)
{
    // What the almanac has a place for, or makes itself.
    private static readonly HashSet<string> Understood =
    [
        "UID",
        "DTSTAMP",
        "SUMMARY",
        "DESCRIPTION",
        "LOCATION",
        "DTSTART",
        "DTEND",
        "DURATION",
        "RRULE",
        "RDATE",
        "EXDATE",
        "EXRULE",
        "RECURRENCE-ID",
        "SEQUENCE",
        "CREATED",
        "LAST-MODIFIED",
        "CLASS",
        "ATTACH",
        "ATTENDEE",
        "ORGANIZER",
    ];

    /// <summary>The most sessions of one event.</summary>
    public const int MostSessions = 5_000;

    private const int LongestKept = 64 * 1024;

    private const int LongestDescription = 5_000;

    private const int LongestPlace = 200;

    /// <summary>The event.</summary>
    /// <param name="file">As it was read.</param>
    /// <param name="isOurs">An almanac wrote the file.</param>
    /// <param name="calendar">The zone of the calendar it comes to.</param>
    public static FileSeries Of(FileEvent file, bool isOurs, DateTimeZone calendar)
    {
        var remarks = file.Remarks.Select(WithoutLine).ToList();
        var title = TextOf(file.Master, "SUMMARY", SeriesInput.LongestTitle, "title", remarks);
        if (title.Length == 0)
        {
            title = "Without a title";
            remarks.Add("It has no title.");
        }

        var place = TextOf(file.Master, "LOCATION", LongestPlace, "place", remarks);
        var description = DescriptionOf(file.Master, isOurs, remarks);
        if (file.Parts.Any(part => part.Lines.Any(line => line.Name is "ATTENDEE" or "ORGANIZER")) && !isOurs)
            remarks.Add("Who is invited to it is left away: people are kept on Sharing.");
        if (HasPasscode(description) || HasPasscode(place))
            remarks.Add(
                "An address with a passcode in it stands in its text, for all who may read that. Make a join link of it, and take it out."
            );
        if (!isOurs && file.Parts.Any(part => part.Find("CONFERENCE") is not null))
            remarks.Add(
                "The address of its online room is kept aside and shown nowhere. Make a join link of it, to publish it with a door."
            );
        var (zone, said) = ZoneOf(file, calendar);
        if (said.Length > 0)
            remarks.Add(said);
        var (series, refusal) = zone is null
            ? (null, said)
            : Given(file, title, place, description, zone, isOurs, remarks);
        var hash = HashOf(file);
        var uid = file.Uid.Length is > 0 and <= 500
            ? FormReader.Clean(ContentLine.FromText(file.Uid), keepLines: false).Trim()
            : $"{hash}@unnamed";
        var attachments = ImmutableArray.CreateBuilder<FileAttachment>();
        var kept = KeptOf(file, zone ?? calendar, attachments, remarks);
        return new FileSeries(
            uid,
            file.Master.Number,
            series,
            title,
            description,
            file.Master.Find("CLASS")?.Value.Trim().ToUpperInvariant() is "PRIVATE" or "CONFIDENTIAL",
            IsTentativeIn(file),
            attachments.ToImmutable(),
            kept,
            hash,
            remarks,
            refusal
        );
    }

    // "Line 12: …": the line stands beside it already.
    private static string WithoutLine(string remark) =>
        remark.StartsWith("Line ", StringComparison.Ordinal)
        && remark.IndexOf(": ", StringComparison.Ordinal) is > 0 and var at
            ? Wording.Capital(remark[(at + 2)..])
            : remark;

    private static string TextOf(Component part, string name, int longest, string called, List<string> remarks)
    {
        if (part.Find(name) is not { } line)
            return "";
        var text = string.Join(
            ' ',
            FormReader
                .Clean(ContentLine.FromText(line.Value), keepLines: false)
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)
        );
        return Cut(text, longest, called, remarks);
    }

    private static string Cut(string text, int longest, string called, List<string> remarks)
    {
        if (text.Length <= longest)
            return text;
        remarks.Add($"Its {called} has {text.Length} characters; the first {longest} are kept.");
        // Not between the halves of one character.
        return text[..(char.IsHighSurrogate(text[longest - 1]) ? longest - 1 : longest)].TrimEnd();
    }

    private static string DescriptionOf(Component part, bool isOurs, List<string> remarks)
    {
        if (part.Find("DESCRIPTION") is not { } line)
            return "";
        var text = FormReader.Clean(ContentLine.FromText(line.Value).ReplaceLineEndings("\n"), keepLines: true).Trim();
        // Our own feeds say ways in and materials again in the description.
        if (isOurs)
            text = string.Join('\n', text.Split('\n').Where(one => !SaidAgain().IsMatch(one))).Trim();
        return Cut(text, LongestDescription, "description", remarks);
    }

    // By the clock of which zone its times are; null, with the reason, where nothing fits.
    private static (DateTimeZone? Zone, string Said) ZoneOf(FileEvent file, DateTimeZone calendar)
    {
        var timed = file.Sessions.FirstOrDefault(session => !session.Id.IsDate);
        if (timed is null)
            return (calendar, "");
        if (timed.Id.Zone is not { } zone)
            return (calendar, $"Its times name no zone; they are taken by the clock of {Wording.Place(calendar)}.");
        // Many programs write what happens once in UTC, wherever it happens.
        if (zone.Equals(DateTimeZone.Utc) && file.Sessions is [var once])
            // But in the hour that comes twice, of which a local time means the first.
            return new[] { once.Start, once.End }.All(time =>
                WallClock.InstantOf(time.At.InZone(calendar).LocalDateTime, calendar) == time.At
            )
                ? (calendar, "")
                : (DateTimeZoneProviders.Tzdb["UTC"], "");
        var name = file.Master.Find("DTSTART")?.Parameter("TZID")?.Trim() ?? zone.Id;
        var known = DateTimeZoneProviders.Tzdb.GetZoneOrNull(zone.Id);
        if (known is not null && known.Equals(zone))
            return (known, name == zone.Id ? "" : $"The zone “{name}” is {zone.Id}.");
        var moments = file
            .Sessions.Where(session => session.Start.Zone is not null)
            .SelectMany(session => new[] { session.Start.At, session.End.At })
            .Distinct()
            .ToList();
        bool IsAlike(DateTimeZone other) => moments.TrueForAll(at => other.GetUtcOffset(at) == zone.GetUtcOffset(at));
        var alike = IsAlike(calendar)
            ? calendar
            : DateTimeZoneProviders
                .Tzdb.Ids.Where(id =>
                    id.Contains('/', StringComparison.Ordinal) && !id.StartsWith("Etc/", StringComparison.Ordinal)
                )
                .Select(id => DateTimeZoneProviders.Tzdb[id])
                .FirstOrDefault(IsAlike);
        return alike is null
            ? (null, $"No zone of the IANA database goes like its zone “{name}”.")
            : (
                alike,
                $"The zone “{name}”, which the file defines itself, goes like {alike.Id} for these sessions and is told as that."
            );
    }

    private static (ForeignSeries? Series, string? Refusal) Given(
        FileEvent file,
        string title,
        string place,
        string description,
        DateTimeZone zone,
        bool isOurs,
        List<string> remarks
    )
    {
        if (file.Sessions.Count == 0)
            return (null, "It has no session that can be read.");
        if (file.IsFull)
            return (null, $"It has more than {MostSessions} sessions.");
        if (file.Sessions.All(session => session.Id.Time.Year is < 1950 or > 2150))
            return (null, $"It lies in the year {file.Sessions[0].Id.Time.Year}.");
        var (seconds, none) = (false, false);
        LocalDateTime Local(FileTime time)
        {
            var local =
                time.IsDate || time.Zone is null || time.Zone.Equals(zone)
                    ? time.Time
                    : time.At.InZone(zone).LocalDateTime;
            seconds |= local.Second != 0;
            return local.PlusSeconds(-local.Second);
        }

        var sessions = new Dictionary<LocalDateTime, ForeignSession>();
        foreach (var session in file.Sessions.OrderBy(session => session.Id.At))
        {
            var (id, start, end) = (Local(session.Id), Local(session.Start), Local(session.End));
            if (end <= start)
            {
                none |= !session.Start.IsDate;
                end = session.Start.IsDate ? start.PlusDays(1) : start.PlusMinutes(1);
            }

            if (Period.DaysBetween(start.Date, end.Date) > SessionTime.MostDays)
                return (null, $"A session of it takes more than {SessionTime.MostDays} days.");
            var isOwn = ReferenceEquals(session.Part, file.Master);
            var own = isOwn ? title : TextOf(session.Part, "SUMMARY", SeriesInput.LongestTitle, "title", remarks);
            var told = new ForeignSession(
                id,
                start,
                end,
                session.Start.IsDate,
                session.Status == "CANCELLED",
                own.Length == 0 ? title : own,
                isOwn || session.Part.Find("LOCATION") is null
                    ? place
                    : TextOf(session.Part, "LOCATION", LongestPlace, "place", remarks),
                isOwn ? "" : NoteOf(DescriptionOf(session.Part, isOurs, remarks), description)
            );
            // One that tells of a single session goes before one that tells of all.
            if (!sessions.TryAdd(id, told) && !isOwn)
                sessions[id] = told;
        }

        if (seconds)
            remarks.Add("Its times have seconds; they are kept to the minute.");
        if (none)
            remarks.Add("It has no length, and is kept with a minute.");
        List<ForeignSession> ordered = [.. sessions.Values.OrderBy(session => session.Id)];
        var isOpen = file.Master.Lines.Any(line =>
            line.Name == "RRULE" && RuleText.Parse(line.Value.Trim()).Rule is { Count: null, Until: null }
        );
        var reach = ordered[0].Id.PlusDays(MeetingPattern.LongestDays - 1);
        if (!isOpen && ordered.RemoveAll(session => session.Id > reach) is > 0 and var far)
            remarks.Add(
                $"It reaches farther than ten years; {Wording.Count(far, "session", "sessions")} after that are left away."
            );
        var rules = file.Master.Lines.Where(line => line.Name == "RRULE").ToList();
        var rule =
            rules is [var only] && !file.Master.Lines.Any(line => line.Name == "EXRULE")
                ? RuleText.Parse(string.Concat(only.Value.Where(letter => !char.IsWhiteSpace(letter))).Trim(';')).Rule
                : null;
        return (new ForeignSeries(title, place, zone, rule, isOpen, [.. ordered]), null);
    }

    // What one session says more than all of them.
    private static string NoteOf(string own, string all) =>
        own == all || own.Length == 0 ? ""
        : all.Length > 0 && own.EndsWith("\n" + all, StringComparison.Ordinal) ? own[..^(all.Length + 1)]
        : own;

    private static string HashOf(FileEvent file)
    {
        var text = new StringBuilder();
        foreach (var part in file.Parts)
            Add(part);
        void Add(Component part)
        {
            text.Append(part.Name).Append('\n');
            foreach (var line in part.Lines)
            {
                if (line.Name == "DTSTAMP")
                    continue;
                text.Append(line.Name);
                foreach (var (name, value) in line.Parameters)
                    text.Append(';').Append(name).Append('=').Append(value);
                text.Append(':').Append(line.Value).Append('\n');
            }

            foreach (var within in part.Parts)
                Add(within);
        }

        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())))[..32];
    }

    private static bool IsTentativeIn(FileEvent file) =>
        file.Master.Find("STATUS")?.Value.Trim().ToUpperInvariant() == "TENTATIVE";

    // What is attached goes to materials; all else that is not understood is kept as it came, but what a browser would run.
    private static string KeptOf(
        FileEvent file,
        DateTimeZone zone,
        ImmutableArray<FileAttachment>.Builder attachments,
        List<string> remarks
    )
    {
        var document = new Component("VCALENDAR");
        foreach (var part in file.Parts)
        {
            var kept = new Component("VEVENT");
            LocalDateTime? id = null;
            if (part.Find("RECURRENCE-ID") is { } of)
            {
                kept.Add(of);
                id = file.Sessions.FirstOrDefault(session => ReferenceEquals(session.Part, part))?.Id is { } time
                    ? time.IsDate || time.Zone is null
                        ? time.Time
                        : time.At.InZone(zone).LocalDateTime
                    : null;
            }

            var head = kept.Lines.Count;
            foreach (var line in part.Lines)
            {
                if (line.Name == "ATTACH")
                    Attach(line, id, attachments, remarks);
                else if (line.Name == "STATUS" && line.Value.Trim().ToUpperInvariant() is "CONFIRMED" or "CANCELLED")
                { }
                else if (line.Name == "STATUS" && IsTentativeIn(file) && ReferenceEquals(part, file.Master)) { }
                else if (line.Value.Contains(':', StringComparison.Ordinal) && Runs().IsMatch(line.Value))
                    remarks.Add($"Its {line.Name} is no address of a page, and is left away.");
                else if (!Understood.Contains(line.Name))
                    kept.Add(line);
            }

            foreach (var within in part.Parts)
                kept.Add(within);
            if (kept.Lines.Count > head || kept.Parts.Count > 0)
                document.Add(kept);
        }

        if (document.Parts.Count == 0)
            return "";
        var text = document.ToString();
        if (text.Length <= LongestKept)
            return text;
        remarks.Add("What the almanac has no place for is too much to be kept beside it, and is left away.");
        return "";
    }

    private static void Attach(
        ContentLine line,
        LocalDateTime? id,
        ImmutableArray<FileAttachment>.Builder attachments,
        List<string> remarks
    )
    {
        var called = FormReader
            .Clean(line.Parameter("FILENAME") ?? line.Parameter("X-FILENAME") ?? "", keepLines: false)
            .Trim();
        if (line.Parameter("ENCODING")?.Equals("BASE64", StringComparison.OrdinalIgnoreCase) == true)
        {
            var bytes = new byte[line.Value.Length];
            if (
                Convert.TryFromBase64String(line.Value.Trim(), bytes, out var length)
                && called.Length > 0
                && FileKind.Of(called, bytes.AsSpan(0, Math.Min(length, 16))).Kind is not null
            )
                attachments.Add(new FileAttachment(called, null, bytes[..length], id));
            else
                remarks.Add("A file in it has no name, or is of no kind that is kept here, and is left away.");
        }
        else if (
            line.Value.Trim() is { Length: <= JoinTarget.Longest } text
            && WebAddress.TryRead(text, out var address)
            && address.UserInfo.Length == 0
        )
        {
            var name = Uri.UnescapeDataString(address.Segments[^1].Trim('/'));
            var title =
                called.Length > 0 ? called
                : FormReader.Clean(name, keepLines: false).Trim() is { Length: > 0 } last ? last
                : address.IdnHost;
            attachments.Add(new FileAttachment(title.Length > 200 ? title[..200] : title, address, null, id));
        }
        else
        {
            remarks.Add("What is attached to it is no address of a page, and is left away.");
        }
    }

    [GeneratedRegex(@"^\s*(javascript|data|vbscript|file|blob)\s*:", RegexOptions.IgnoreCase)]
    private static partial Regex Runs();

    private static bool HasPasscode(string text) =>
        text.Contains("://", StringComparison.Ordinal) && HoldsPasscode().IsMatch(text);

    [GeneratedRegex(@"https?://\S+[?&](pwd|passcode|pw|p)=\S+", RegexOptions.IgnoreCase)]
    private static partial Regex HoldsPasscode();

    [GeneratedRegex(@"^(Join|[^:]{1,200}): https?://\S+/(in|m)/[\w-]+$")]
    private static partial Regex SaidAgain();
}
