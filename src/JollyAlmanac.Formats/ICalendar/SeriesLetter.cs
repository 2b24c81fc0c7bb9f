using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using NodaTime;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// A series as a letter to one person, whose own calendar program takes it in: iTIP (RFC 5546) as mail carries it (RFC 6047). Nobody
/// else is named in it, so a class list stays what it is.
/// </summary>
/// <param name="Organizer">The address that answers go to: the almanac's own.</param>
/// <param name="OrganizerName">Whose it is.</param>
/// <param name="Attendee">The reader's address.</param>
/// <param name="AttendeeName">Their name.</param>
/// <param name="Sequence">The version, from 0; rises when sessions move and when they are taken back (§2.1.4).</param>
/// <param name="Stamp">When the letter is written: of two with the same sequence the later one counts (§2.1.5).</param>
/// <param name="Answer">What they have answered to this version: a PARTSTAT, "NEEDS-ACTION" where nothing.</param>
public sealed record SeriesLetter(
    string Organizer,
    string OrganizerName,
    string Attendee,
    string AttendeeName,
    int Sequence,
    Instant Stamp,
    string Answer = SeriesLetter.NoAnswer
)
{
    /// <summary>Nothing was answered yet (RFC 5545 §3.2.12).</summary>
    public const string NoAnswer = "NEEDS-ACTION";

    /// <summary>The method that tells of sessions, for the first time or anew (RFC 5546 §3.2.2).</summary>
    public const string Request = "REQUEST";

    /// <summary>The method that takes them back (RFC 5546 §3.2.5).</summary>
    public const string Cancel = "CANCEL";

    /// <summary>
    /// Tells a series. Cancelled sessions must not be among those of the content: a REQUEST has none (§3.2.2), they are left out.
    /// </summary>
    /// <param name="content">One series, already redacted for the reader.</param>
    public string Tell(FeedContent content)
    {
        var document = Head(Request);
        FeedDocument.AddEvents(document, [content with { Letter = this }]);
        return document.ToString();
    }

    /// <summary>Takes all sessions of a series back.</summary>
    /// <param name="uid">The series' UID.</param>
    /// <param name="title">What it was called to the reader.</param>
    public string TakeBack(string uid, string title)
    {
        var document = Head(Cancel);
        var part = new Component("VEVENT");
        part.Add("UID", ContentLine.Text(uid));
        Head(part);
        part.Add("STATUS", "CANCELLED");
        part.Add("SUMMARY", ContentLine.Text(title));
        document.Add(part);
        return document.ToString();
    }

    /// <summary>
    /// What a series tells, as two hashes: of when its sessions are, and of all of it. Equal for equal sessions, whoever reads and
    /// whenever.
    /// </summary>
    public static (string Times, string Content) HashesOf(FeedContent content)
    {
        var lines = new SeriesLetter("", "", "", "", 0, default)
            .Tell(content)
            .Replace("\r\n ", "", StringComparison.Ordinal)
            .Split("\r\n");
        var times = content.Entries.SelectMany(entry =>
            entry.Present.Select(session =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{entry.Ids[session.Key]:s} {session.Start:s} {session.End:s} {session.Of.Pattern.Zone.Id} {session.IsAllDay}"
                )
            )
        );
        return (HashOf(times), HashOf(lines));
    }

    private static string HashOf(IEnumerable<string> lines) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(string.Join('\n', lines))))[..32];

    private static Component Head(string method)
    {
        var document = new Component("VCALENDAR");
        document.Add("VERSION", "2.0");
        document.Add("PRODID", "-//Jolly Almanac//Letter 1//EN");
        document.Add("CALSCALE", "GREGORIAN");
        document.Add("METHOD", method);
        return document;
    }

    /// <summary>Adds what each component of a letter has.</summary>
    internal void Head(Component part)
    {
        part.Add("DTSTAMP", FeedDocument.Utc(Stamp));
        part.Add("SEQUENCE", Sequence.ToString(CultureInfo.InvariantCulture));
        part.Add("ORGANIZER", Mailto(Organizer), ("CN", OrganizerName));
        part.Add(
            "ATTENDEE",
            Mailto(Attendee),
            ("CN", AttendeeName),
            ("CUTYPE", "INDIVIDUAL"),
            ("ROLE", "REQ-PARTICIPANT"),
            ("PARTSTAT", Answer),
            ("RSVP", "TRUE")
        );
    }

    // RFC 6068 §2: what a URI may not hold as it is, is written by its octets.
    private static string Mailto(string address) =>
        "mailto:"
        + string.Join('@', address.Split('@').Select(Uri.EscapeDataString))
            .Replace("%2B", "+", StringComparison.Ordinal);
}
