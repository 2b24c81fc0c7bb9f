using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using JollyAlmanac.Application.Explaining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Publishing;

/// <summary>In which form a calendar is given out.</summary>
public enum ExportFormat
{
    /// <summary>iCalendar (RFC 5545).</summary>
    Ics,

    /// <summary>jCal (RFC 7265).</summary>
    JCal,

    /// <summary>JSCalendar (RFC 8984).</summary>
    JSCalendar,

    /// <summary>A table, a row a session.</summary>
    Csv,

    /// <summary>A JSON object a line and session, as <c>./almanac sessions</c> has them.</summary>
    Sessions,
}

/// <summary>Gives a calendar out from a shell, as those see it who keep it; also while the almanac serves.</summary>
public static class ExportCalendar
{
    private static readonly ImmutableArray<(string Name, Func<ShownSession, string> Of)> Columns =
    [
        ("date", shown => LocalDatePattern.Iso.Format(shown.Session.Start.Date)),
        ("start", shown => Clock(shown.Session, shown.Session.Start)),
        ("end date", shown =>
            LocalDatePattern.Iso.Format(shown.Session.IsAllDay ? shown.Session.LastDay : shown.Session.End.Date)
        ),
        ("end", shown => Clock(shown.Session, shown.Session.End)),
        ("zone", shown => shown.Session.IsAllDay ? "" : shown.Session.Of.Pattern.Zone.Id),
        ("title", shown => shown.Title),
        ("number", shown => shown.Number?.ToString(CultureInfo.InvariantCulture) ?? ""),
        ("place", shown => shown.Place),
        ("status", shown => shown.State switch
            {
                "" => "held",
                "cancelled" => "cancelled",
                _ => "tentative",
            }),
        ("note", shown => shown.Note),
        ("series", shown => shown.Session.Of.Title),
        ("description", shown => shown.Description),
    ];

    /// <summary>The document; null where there is no such calendar.</summary>
    /// <param name="stores">What is stored.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="from">The first day; null for the first there is.</param>
    /// <param name="to">The day after the last; null for the last there is.</param>
    /// <param name="format">The form.</param>
    /// <param name="root">Where the almanac is reached; null where that is not known: then neither files nor ways in are told.</param>
    /// <param name="now">When: what is hidden until given is not in it.</param>
    public static byte[]? Of(
        Stores stores,
        Slug slug,
        LocalDate? from,
        LocalDate? to,
        ExportFormat format,
        Uri? root,
        Instant now
    )
    {
        if (stores.School.Find() is not { } school || stores.Calendars.Find(slug) is not { DeletedAt: null } calendar)
            return null;
        var choices = new ShowChoices(
            Descriptions: true,
            Materials: root is not null,
            JoinLinks: root is not null,
            Public: false
        );
        var facts = CalendarFacts.Read(stores, calendar.Id);
        bool IsWithin(Session session) => Within(session, from, to);
        if (format == ExportFormat.Csv)
        {
            var show = facts.For(school.Time, now, AccessLevel.Manager, choices, null);
            return CsvTable.Write(
                [.. Columns.Select(column => column.Name)],
                facts
                    .PlansFor(school.Time, AccessLevel.Manager, null)
                    .SelectMany(plan => plan.Sessions)
                    .Where(session => session.IsVisible && IsWithin(session))
                    .OrderBy(session => session.StartsAt)
                    .ThenBy(session => session.Of.Id.Value)
                    .Select(session => show(session)!)
                    .Select(IReadOnlyList<string> (shown) => [.. Columns.Select(column => column.Of(shown))])
            );
        }

        var content = ReadFeed.Content(
            facts,
            school,
            calendar,
            AccessLevel.Manager,
            choices,
            now,
            root ?? new Uri("https://almanac.invalid/"),
            IsWithin
        );
        var document = FeedDocument.ComponentOf(content);
        AddKept(stores, document, content);
        return format switch
        {
            ExportFormat.Ics => Encoding.UTF8.GetBytes(document.ToString()),
            ExportFormat.JCal => JCal.Of(document),
            ExportFormat.JSCalendar => JSCalendar.Of(document, $"{calendar.Slug}@jolly-almanac"),
            _ => Lines(document),
        };
    }

    // What came with a file and has no place in the almanac goes out again; in place of what stands there already under its name.
    private static void AddKept(Stores stores, Component document, FeedContent content)
    {
        var kept = stores
            .Imports.Of(content.Calendar.Id)
            .Where(import => import.Kept.Length > 0)
            .ToDictionary(import => import.Series);
        if (kept.Count == 0)
            return;
        var uids = content
            .Entries.Select(entry => entry.Plan.Of)
            .Where(series => kept.ContainsKey(series.Id))
            .ToDictionary(series => ContentLine.Text(series.Uid), series => kept[series.Id].Kept);
        static string Key(Component part) => part.Find("RECURRENCE-ID")?.Value ?? "";
        foreach (
            var events in document.Parts.Where(part => part.Name == "VEVENT").GroupBy(part => part.Find("UID")!.Value)
        )
        {
            if (!uids.TryGetValue(events.Key, out var text))
                continue;
            var lines = ICalendarReader.Read(Encoding.UTF8.GetBytes(text)).Calendars[0].Parts.ToLookup(Key);
            foreach (var part in events)
            foreach (var own in lines[Key(part)])
                part.TakeOver(own);
        }
    }

    /// <summary>Whether a session lies within days, the second exclusive; a null one is no bound.</summary>
    internal static bool Within(Session session, LocalDate? from, LocalDate? to) =>
        (from is not { } first || session.End > first.AtMidnight())
        && (to is not { } last || session.Start < last.AtMidnight());

    // What another program finds in the file: so this form cannot say anything else than that.
    private static byte[] Lines(Component document)
    {
        var file = ICalendarReader.Read(Encoding.UTF8.GetBytes(document.ToString()));
        var lines = ICalendarSessions.Of(file, null, null, null).Sessions.Select(FileCommands.LineOf);
        return Encoding.UTF8.GetBytes(string.Concat(lines.Select(line => line + "\n")));
    }

    private static string Clock(Session session, LocalDateTime time) =>
        session.IsAllDay ? "" : time.TimeOfDay.ToString("HH:mm", CultureInfo.InvariantCulture);
}
