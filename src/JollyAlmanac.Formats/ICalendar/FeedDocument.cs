using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>One series of a feed.</summary>
/// <param name="Plan">Its sessions.</param>
/// <param name="Shown">What the feed's reader may see of it; stands for every session but the special ones.</param>
/// <param name="Special">The sessions that differ from the series: moved, retitled, cancelled, with materials of their own.</param>
/// <param name="FollowsUid">The UID of the series that it carries on, or null.</param>
public sealed record FeedEntry(Plan Plan, ShownSession Shown, ImmutableArray<ShownSession> Special, string? FollowsUid)
{
    /// <summary>The entry of a plan.</summary>
    /// <param name="plan">The plan; with a session at least.</param>
    /// <param name="school">The regular bells, which the rule goes by.</param>
    /// <param name="usual">The redaction without materials of single sessions.</param>
    /// <param name="whole">The redaction with all that is a session's own; null for what is not shown.</param>
    /// <param name="hasOwn">Whether a session may have materials of its own.</param>
    /// <param name="followsUid">The UID of the series that it carries on, or null.</param>
    public static FeedEntry Of(
        Plan plan,
        SchoolTime school,
        Func<Session, ShownSession> usual,
        Func<Session, ShownSession?> whole,
        Func<Session, bool> hasOwn,
        string? followsUid
    )
    {
        // A session as the pattern alone would have it: by the regular bells, without a change and a number.
        var first = plan.Sessions.FirstOrDefault(session => !session.IsExtra) ?? plan.Sessions[0];
        var end =
            plan.Of.Pattern.Time.On(school.Bells) is var (_, minutes) && !first.IsExtra
                ? first.Original.PlusMinutes(minutes)
                : first.End;
        var plain = new Session(plan.Of, first.Original, first.IsExtra ? first.Start : first.Original, end, null, null)
        {
            IsAllDay = first.IsAllDay,
        };
        var length = Minutes(plain);
        var ids = RecurrenceIds(plan);
        bool Differs(Session session) =>
            session.Change is not null
            || session.Of.NumberLabel.Length > 0
            || session.Start != ids[session.Key]
            || session.IsAllDay != plain.IsAllDay
            || Minutes(session) != length;
        var special = plan
            .Sessions.Where(session => session.IsVisible)
            .Select(session => (session, differs: Differs(session)))
            .Where(one => one.differs || hasOwn(one.session))
            .Select(one => (one.differs, shown: whole(one.session)))
            .Where(one =>
                one.shown is not null
                && (one.differs || one.shown.Materials.Length > usual(one.shown.Session).Materials.Length)
            )
            .Select(one => one.shown!);
        return new FeedEntry(plan, usual(plain), [.. special], followsUid) { Ids = ids };
    }

    // A DTEND of the whole stands for an exact length (§3.8.5.3), which by the clock ends at another hour across a change of it.
    private static long Minutes(Session session) =>
        session.IsAllDay
            ? Period.DaysBetween(session.Start.Date, session.End.Date) * 24L * 60
            : (long)(session.EndsAt - session.StartsAt).TotalMinutes;

    /// <summary>What each session is known by in the feed.</summary>
    internal IReadOnlyDictionary<SessionKey, LocalDateTime> Ids { get; private init; } =
        FrozenDictionary<SessionKey, LocalDateTime>.Empty;

    // The original starts, in whole minutes. An extra session that would stand on a session of the pattern, or on another extra
    // one, goes a minute on: its own component says when it really is.
    private static Dictionary<SessionKey, LocalDateTime> RecurrenceIds(Plan plan)
    {
        var ids = new Dictionary<SessionKey, LocalDateTime>();
        var used = new HashSet<LocalDateTime>();
        foreach (var session in plan.Sessions.Where(session => !session.IsExtra))
        {
            ids[session.Key] = session.Original;
            if (session.IsVisible)
                used.Add(session.Original);
        }

        foreach (var session in plan.Sessions.Where(session => session.IsExtra).OrderBy(session => session.Original))
        {
            var id = session.IsAllDay
                ? session.Original.Date.AtMidnight()
                : session.Original.PlusSeconds(-session.Original.Second);
            while (!used.Add(id))
                id = session.IsAllDay ? id.PlusDays(1) : id.PlusMinutes(1);
            ids[session.Key] = id;
        }

        return ids;
    }

    /// <summary>It happens once, whatever else was planned and left out: an event without a recurrence.</summary>
    internal bool IsOnce => Present.Count == 1;

    // Each session that the rule or a date gives: held, or cancelled where that is told.
    internal List<Session> Present { get; } =
    [.. Plan.Sessions.Where(session => IsPresent(session, Special)).OrderBy(session => session.Original)];

    internal IEnumerable<Session> Absent => Plan.Sessions.Where(session => !IsPresent(session, Special));

    // A cancelled session is there only where its reader is told of it.
    private static bool IsPresent(Session session, ImmutableArray<ShownSession> special) =>
        session.IsHeld || (session.IsCancelled && special.Any(shown => ReferenceEquals(shown.Session, session)));
}

/// <summary>Something that a reader is to know on a day.</summary>
/// <param name="Uid">Its UID.</param>
/// <param name="Day">The day.</param>
/// <param name="Title">What it is.</param>
/// <param name="Page">Where more of it stands.</param>
public sealed record DayEntry(string Uid, LocalDate Day, string Title, Uri Page);

/// <summary>What a feed says, already redacted.</summary>
/// <param name="Name">The name a calendar program shows.</param>
/// <param name="Calendar">Its mark and zone.</param>
/// <param name="SchoolRevision">Rises with each change of the school's time, which moves sessions, too.</param>
/// <param name="SchoolChangedAt">When it last rose.</param>
/// <param name="Entries">The series.</param>
/// <param name="Root">Where the almanac is reached, for short addresses and materials; ends in "/".</param>
/// <param name="Says">What the whole calendar says of itself: that it is put away; empty for nothing.</param>
public sealed record FeedContent(
    string Name,
    Calendar Calendar,
    int SchoolRevision,
    Instant SchoolChangedAt,
    ImmutableArray<FeedEntry> Entries,
    Uri Root,
    string Says = ""
)
{
    /// <summary>The calendar's page; null where its reader is told of none.</summary>
    public Uri? Page { get; init; }

    /// <summary>What the calendar is about, where its reader may know; empty for nothing.</summary>
    public string About { get; init; } = "";

    /// <summary>What every session's description ends with: that a copy does not follow changes. Empty for nothing.</summary>
    public string Footnote { get; init; } = "";

    /// <summary>Each session reminds so many minutes before; null for not at all.</summary>
    public int? Reminder { get; init; }

    /// <summary>Its colour, by the name that CSS has for it; null for its calendar's own.</summary>
    public string? Colour { get; init; }

    /// <summary>What is to be done.</summary>
    public ImmutableArray<ToBeDone> ToBeDone { get; init; } = [];

    /// <summary>What else its reader is to know on a day.</summary>
    public ImmutableArray<DayEntry> Days { get; init; } = [];

    /// <summary>Its reader works the doors: they are reminded so long before the door opens, rather than before the session starts.</summary>
    public bool RemindsBeforeDoor { get; init; }

    /// <summary>What is to be done is told as tasks, rather than as entries on their days.</summary>
    public bool AsTasks { get; init; }

    /// <summary>For a letter to one person: who writes to whom; null for a feed.</summary>
    internal SeriesLetter? Letter { get; init; }
}

/// <summary>
/// An iCalendar document (RFC 5545, RFC 7986) of a calendar: one VEVENT a series, with a rule that ends by UNTIL (or its
/// dates as RDATE), the left-out days as EXDATE, and a component for each session that differs, so that any reader finds
/// exactly the planned sessions.
/// </summary>
public static class FeedDocument
{
    /// <summary>How often a reader should ask again.</summary>
    public const string RefreshEvery = "PT1H";

    /// <summary>The whole document. The same content gives the same bytes: nothing of it depends on when it is asked for.</summary>
    public static string Of(FeedContent content) => ComponentOf(content).ToString();

    /// <summary>The same before it is written out.</summary>
    /// <param name="content">What it says; of several calendars the first, by which it is called.</param>
    /// <param name="others">What it says of further calendars.</param>
    public static Component ComponentOf(FeedContent content, params ReadOnlySpan<FeedContent> others)
    {
        var document = new Component("VCALENDAR");
        document.Add("VERSION", "2.0");
        document.Add("PRODID", "-//Jolly Almanac//Feed 1//EN");
        document.Add("CALSCALE", "GREGORIAN");
        document.Add("NAME", ContentLine.Text(content.Name));
        document.Add("X-WR-CALNAME", ContentLine.Text(content.Name));
        // Of several calendars, neither what one of them is about nor its page stands for all.
        var about =
            content.Says.Length > 0 ? content.Says
            : others.IsEmpty ? content.About
            : "";
        if (about.Length > 0)
        {
            document.Add("DESCRIPTION", ContentLine.Text(about));
            document.Add("X-WR-CALDESC", ContentLine.Text(about));
        }

        if (others.IsEmpty && content.Page is { } page)
            document.Add("URL", page.AbsoluteUri, ("VALUE", "URI"));

        document.Add("X-WR-TIMEZONE", content.Calendar.Zone.Id);
        document.Add("COLOR", ColourOf(content));
        document.Add("REFRESH-INTERVAL", RefreshEvery, ("VALUE", "DURATION"));
        document.Add("X-PUBLISHED-TTL", RefreshEvery);
        var changed = content.Calendar.ChangedAt;
        foreach (var other in others)
            changed = Instant.Max(changed, other.Calendar.ChangedAt);
        document.Add("LAST-MODIFIED", Utc(changed));
        AddEvents(document, [content, .. others]);
        foreach (var one in (FeedContent[])[content, .. others])
        {
            foreach (var task in one.ToBeDone)
                document.Add(Task(task, one));
            foreach (var day in one.Days)
                document.Add(DayOf(day, one));
        }

        // RFC 5545 §3.6: a calendar has at least one component. Where nothing meets, its zone is that one.
        if (document.Parts.Count == 0)
            document.Add(ZoneDefinition.Of(content.Calendar.Zone, changed, changed + Duration.FromDays(1)));
        return document;
    }

    private static string ColourOf(FeedContent content) => content.Colour ?? content.Calendar.Mark.CssName;

    /// <summary>Adds the events of contents, with the zones that they name.</summary>
    internal static void AddEvents(Component document, IReadOnlyList<FeedContent> contents)
    {
        foreach (
            var zone in contents
                .SelectMany(content => content.Entries)
                .Where(entry => entry.Present.Count > 0)
                .Where(entry => !IsAllDay(entry))
                .GroupBy(entry => entry.Plan.Of.Pattern.Zone)
                .OrderBy(zone => zone.Key.Id, StringComparer.Ordinal)
        )
            document.Add(
                ZoneDefinition.Of(
                    zone.Key,
                    zone.Key.AtStartOfDay(zone.Min(entry => entry.Plan.Sessions.Min(Earliest))).ToInstant(),
                    zone.Max(entry => entry.Plan.Sessions.MaxBy(session => session.End)!.EndsAt) + Duration.FromDays(1)
                )
            );
        foreach (
            var (content, entry) in contents.SelectMany(content => content.Entries.Select(entry => (content, entry)))
        )
        {
            if (entry.Present.Count == 0)
                continue;
            if (entry.IsOnce)
            {
                document.Add(Single(entry, content));
                continue;
            }

            document.Add(Event(entry, content));
            foreach (var special in entry.Special)
                document.Add(Override(special, entry, content));
        }
    }

    private static LocalDate Earliest(Session session) => LocalDate.Min(session.Start.Date, session.Original.Date);

    private static bool IsAllDay(FeedEntry entry) => entry.Plan.Of.Pattern.Time is SessionTime.AllDay;

    // What happens once simply is when it is: a moved one has no RECURRENCE-ID, which §3.8.4.4 has for recurring components alone.
    private static Component Single(FeedEntry entry, FeedContent content)
    {
        var session = entry.Present[0];
        var shown = entry.Special.FirstOrDefault(one => ReferenceEquals(one.Session, session)) ?? entry.Shown;
        var part = Start(entry, content, session.Start, session.End);
        AddStatus(part, shown);
        if (entry.FollowsUid is { } follows)
            part.Add("RELATED-TO", ContentLine.Text(follows), ("RELTYPE", "SIBLING"));
        Show(part, shown, content);
        return part;
    }

    private static Component Event(FeedEntry entry, FeedContent content)
    {
        var (pattern, present) = (entry.Plan.Of.Pattern, entry.Present);
        // The first session of the pattern that is there: a first date that is left out would be shown by some readers all the same.
        var first = present.Find(session => !session.IsExtra) ?? present[0];
        var part = Start(entry, content, entry.Ids[first.Key], entry.Ids[first.Key].Plus(LengthOf(first, entry)));
        var ruled = pattern.Repeat is Repeat.ByRule { Rule: var rule }
            ? present.Where(session => !session.IsExtra).ToList()
            : [];
        var isRuled = ruled.Count > 0 && ruled[^1] != first;
        List<Session> listed = [.. present.Where(session => !isRuled || session.IsExtra)];
        if (isRuled)
        {
            part.Add(
                "RRULE",
                (((Repeat.ByRule)pattern.Repeat).Rule with { Until = EndOf(ruled[^1], IsAllDay(entry)) }).ToString()
            );
            // A date that an extra session stands on is not left out.
            var extra = present.Where(session => session.IsExtra).Select(session => entry.Ids[session.Key]).ToHashSet();
            var last = ruled[^1].Original;
            // Nor is one that is the same moment: 2:30 and 3:30 are one where the clocks go forward at two, and readers take both away.
            var zone = pattern.Zone;
            var moments = IsAllDay(entry) ? [] : extra.Select(id => WallClock.InstantOf(id, zone)).ToHashSet();
            Dates(
                part,
                "EXDATE",
                [
                    .. entry.Absent.Where(session =>
                        !session.IsExtra
                        && first.Original < session.Original
                        && session.Original < last
                        && !extra.Contains(session.Original)
                        && !moments.Contains(WallClock.InstantOf(session.Original, zone))
                    ),
                ],
                entry
            );
            var absent = entry
                .Absent.Where(session =>
                    !session.IsExtra && first.Original < session.Original && session.Original < last
                )
                .Select(session => session.Original)
                .ToHashSet();
            listed.RemoveAll(session => absent.Contains(entry.Ids[session.Key]));
        }

        // The first date stands among the others, too: some readers take only what is listed.
        if (listed.Count > 1 || (listed.Count == 1 && listed[0] != first))
            Dates(part, "RDATE", listed, entry);
        if (entry.FollowsUid is { } follows)
            part.Add("RELATED-TO", ContentLine.Text(follows), ("RELTYPE", "SIBLING"));
        AddStatus(part, entry.Shown);
        Show(part, entry.Shown, content);
        return part;
    }

    // §3.8.1.11. One that is certain within a series that is not says so; who may see only its time is not told.
    private static void AddStatus(Component part, ShownSession shown)
    {
        var session = shown.Session;
        if (session.IsCancelled)
            part.Add("STATUS", "CANCELLED");
        else if (!shown.IsBusyOnly && (session.IsTentative || session.Of.IsTentative))
            part.Add("STATUS", session.IsTentative ? "TENTATIVE" : "CONFIRMED");
    }

    private static Period LengthOf(Session session, FeedEntry entry)
    {
        var measure = session.IsExtra ? session : entry.Shown.Session;
        return Period.Between(measure.Start, measure.End, IsAllDay(entry) ? PeriodUnits.Days : PeriodUnits.Minutes);
    }

    // The end of the last day rather than the last start: the rule has one session a day at most, and readers that are off by a
    // change of the clocks do not lose it.
    private static RuleMoment EndOf(Session last, bool isAllDay) =>
        isAllDay
            ? new RuleMoment(last.Original, IsDate: true, IsUtc: false)
            : new RuleMoment(
                WallClock
                    .InstantOf(last.Original.Date + new LocalTime(23, 59, 59), last.Of.Pattern.Zone)
                    .InUtc()
                    .LocalDateTime,
                IsDate: false,
                IsUtc: true
            );

    private static void Dates(Component part, string name, List<Session> sessions, FeedEntry entry)
    {
        if (sessions.Count == 0)
            return;
        part.Add(
            name,
            string.Join(
                ',',
                sessions
                    .Select(session => entry.Ids[session.Key])
                    .Order()
                    .Select(id => IsAllDay(entry) ? Date(id.Date) : Local(id))
            ),
            Form(entry)
        );
    }

    // One session that differs (RFC 5545 §3.8.4.4).
    private static Component Override(ShownSession special, FeedEntry entry, FeedContent content)
    {
        var session = special.Session;
        var part = Start(entry, content, session.Start, session.End);
        var id = entry.Ids[session.Key];
        part.Add("RECURRENCE-ID", IsAllDay(entry) ? Date(id.Date) : Local(id), Form(entry));
        AddStatus(part, special);
        Show(part, special, content);
        return part;
    }

    private static Component Start(FeedEntry entry, FeedContent content, LocalDateTime start, LocalDateTime end)
    {
        var series = entry.Plan.Of;
        var changedAt = Instant.Max(series.ChangedAt, content.SchoolChangedAt);
        var part = new Component("VEVENT");
        part.Add("UID", ContentLine.Text(series.Uid));
        if (content.Letter is { } letter)
        {
            letter.Head(part);
        }
        else
        {
            var changed = Utc(changedAt);
            part.Add("DTSTAMP", changed);
            part.Add("CREATED", Utc(series.MadeAt));
            part.Add("LAST-MODIFIED", changed);
            part.Add("SEQUENCE", (series.Version + content.SchoolRevision - 2).ToString(CultureInfo.InvariantCulture));
        }

        part.Add("DTSTART", IsAllDay(entry) ? Date(start.Date) : Local(start), Form(entry));
        part.Add("DTEND", IsAllDay(entry) ? Date(end.Date) : Local(end), Form(entry));
        return part;
    }

    private static (string, string) Form(FeedEntry entry) =>
        IsAllDay(entry) ? ("VALUE", "DATE") : ("TZID", entry.Plan.Of.Pattern.Zone.Id);

    private static void Show(Component part, ShownSession shown, FeedContent content)
    {
        part.Add("SUMMARY", ContentLine.Text(shown.Title));
        // What does not meet reminds nobody; neither does a whole day, which begins at night.
        if (content.Reminder is { } minutes && !shown.Session.IsCancelled && !shown.Session.IsAllDay)
            part.Add(
                Alarm(
                    content.RemindsBeforeDoor && shown.Opens is { } opens
                        ? minutes + (int)(shown.Session.StartsAt - opens).TotalMinutes
                        : minutes,
                    shown,
                    content.Root
                )
            );
        if (shown.IsBusyOnly)
        {
            part.Add("CLASS", "PRIVATE");
            part.Add("TRANSP", "OPAQUE");
            if (content.Footnote.Length > 0)
                part.Add("DESCRIPTION", ContentLine.Text(content.Footnote));
            return;
        }

        if (Description(shown, content) is { Length: > 0 } description)
            part.Add("DESCRIPTION", ContentLine.Text(description));
        if (shown.Place.Length > 0)
            part.Add("LOCATION", ContentLine.Text(shown.Place));
        if (shown.Join is { } join)
        {
            var way = join.At(content.Root).AbsoluteUri;
            part.Add("URL", way, ("VALUE", "URI"));
            // RFC 7986 §5.11: what a program makes its own button of.
            part.Add("CONFERENCE", way, ("VALUE", "URI"), ("FEATURE", "VIDEO"), ("LABEL", "Join"));
        }

        part.Add("CATEGORIES", ContentLine.Text(content.Calendar.Title));
        part.Add("COLOR", ColourOf(content));
        foreach (var material in shown.Materials)
            Attach(part, material, content.Root);
    }

    // RFC 5545 §3.6.2; as an event it is at its time, or takes its day, and takes nobody's time (§3.6.1: without an end, it ends as it
    // begins, or with its day).
    private static Component Task(ToBeDone task, FeedContent content)
    {
        var (material, due) = (task.Material, task.Due);
        var part = new Component(content.AsTasks ? "VTODO" : "VEVENT");
        part.Add("UID", $"due-{material.Key}");
        // What moves with its session changes without a version of its own.
        var changed = Utc(Instant.Max(content.Calendar.ChangedAt, content.SchoolChangedAt));
        part.Add("DTSTAMP", changed);
        part.Add("LAST-MODIFIED", changed);
        part.Add("SEQUENCE", (material.Version - 1).ToString(CultureInfo.InvariantCulture));
        var name = content.AsTasks ? "DUE" : "DTSTART";
        if (due.Time is null)
            part.Add(name, Date(due.Day), ("VALUE", "DATE"));
        else
            part.Add(name, Utc(due.At));
        part.Add("SUMMARY", ContentLine.Text(content.AsTasks ? material.Title : $"To be done: {material.Title}"));
        if (content.AsTasks)
            part.Add("STATUS", "NEEDS-ACTION");
        else
            part.Add("TRANSP", "TRANSPARENT");
        var address = Address(material, content.Root);
        part.Add("DESCRIPTION", ContentLine.Text(material.Note.Length > 0 ? $"{material.Note}\n{address}" : address));
        part.Add("URL", address, ("VALUE", "URI"));
        part.Add("CATEGORIES", ContentLine.Text(content.Calendar.Title));
        if (content.Reminder is not null)
        {
            // Minutes before help nobody who has still to do it: the evening before does.
            var before = Period
                .Between(
                    due.Day.PlusDays(-1).At(Evening),
                    due.Day.At(due.Time ?? LocalTime.Midnight),
                    PeriodUnits.Minutes
                )
                .Minutes;
            var alarm = new Component("VALARM");
            alarm.Add("ACTION", "DISPLAY");
            alarm.Add(
                "TRIGGER",
                string.Create(CultureInfo.InvariantCulture, $"-PT{before}M"),
                content.AsTasks ? [("RELATED", "END")] : []
            );
            alarm.Add("DESCRIPTION", ContentLine.Text($"To be done: {material.Title}"));
            part.Add(alarm);
        }

        return part;
    }

    // A day of its own, which takes nobody's time.
    private static Component DayOf(DayEntry entry, FeedContent content)
    {
        var part = new Component("VEVENT");
        part.Add("UID", ContentLine.Text(entry.Uid));
        var changed = Utc(Instant.Max(content.Calendar.ChangedAt, content.SchoolChangedAt));
        part.Add("DTSTAMP", changed);
        part.Add("LAST-MODIFIED", changed);
        part.Add("DTSTART", Date(entry.Day), ("VALUE", "DATE"));
        part.Add("SUMMARY", ContentLine.Text(entry.Title));
        part.Add("TRANSP", "TRANSPARENT");
        part.Add("DESCRIPTION", ContentLine.Text(entry.Page.AbsoluteUri));
        part.Add("URL", entry.Page.AbsoluteUri, ("VALUE", "URI"));
        return part;
    }

    private static readonly LocalTime Evening = new(18, 0);

    // RFC 5545 §3.6.6.
    private static Component Alarm(int minutes, ShownSession shown, Uri root)
    {
        var alarm = new Component("VALARM");
        alarm.Add("ACTION", "DISPLAY");
        alarm.Add("TRIGGER", string.Create(CultureInfo.InvariantCulture, $"-PT{minutes}M"));
        // What rings is pressed: the way in stands in it.
        alarm.Add(
            "DESCRIPTION",
            ContentLine.Text(shown.Join is { } join ? $"{shown.Title}\n{join.At(root).AbsoluteUri}" : shown.Title)
        );
        return alarm;
    }

    // Many readers show neither URL nor ATTACH, so the description says both again.
    private static string Description(ShownSession shown, FeedContent content)
    {
        var root = content.Root;
        var parts = new List<string>();
        if (shown.Note.Length > 0)
            parts.Add(shown.Note);
        if (shown.Description.Length > 0)
            parts.Add(shown.Description);
        if (shown.Join is { } join)
            parts.Add($"Join: {join.At(root).AbsoluteUri}");
        parts.AddRange(shown.Materials.Select(material => $"{material.Title}: {Address(material, root)}"));
        if (content.Footnote.Length > 0)
            parts.Add(content.Footnote);
        return string.Join("\n", parts);
    }

    private static void Attach(Component part, Material material, Uri root)
    {
        var parameters = new List<(string, string)>();
        if (material.Content is MaterialContent.StoredFile file)
            parameters.Add(("FMTTYPE", file.MediaType));
        part.Add("ATTACH", Address(material, root), [.. parameters]);
    }

    private static string Address(Material material, Uri root) =>
        material.Content is MaterialContent.Link link
            ? link.Address.AbsoluteUri
            : new Uri(root, $"m/{material.Key}").AbsoluteUri;

    private static string Date(LocalDate day) => day.ToString("uuuuMMdd", CultureInfo.InvariantCulture);

    private static string Local(LocalDateTime time) => string.Create(15, time, Write);

    internal static string Utc(Instant instant) =>
        string.Create(16, instant.InUtc().LocalDateTime, static (text, time) =>
        {
            Write(text, time);
            text[15] = 'Z';
        });

    // "20261014T095000". A feed has thousands of these: a pattern takes several times as long.
    private static void Write(Span<char> text, LocalDateTime time)
    {
        var culture = CultureInfo.InvariantCulture;
        time.Year.TryFormat(text, out _, "D4", culture);
        time.Month.TryFormat(text[4..], out _, "D2", culture);
        time.Day.TryFormat(text[6..], out _, "D2", culture);
        text[8] = 'T';
        time.Hour.TryFormat(text[9..], out _, "D2", culture);
        time.Minute.TryFormat(text[11..], out _, "D2", culture);
        time.Second.TryFormat(text[13..], out _, "D2", culture);
    }
}
