using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Xml;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>
/// What is new in a feed's calendars, as Atom (RFC 4287): notices that are up, and sessions that were cancelled, moved, retitled or
/// annotated. Redacted as the feed itself is.
/// </summary>
public sealed class ReadChanges(AlmanacDatabase database, IClock clock)
{
    private const string Atom = "http://www.w3.org/2005/Atom";
    private const int Most = 60;
    private static readonly Duration Back = Duration.FromDays(14);

    private sealed record Entry(string Id, string Title, string Says, Instant Updated, Uri Link);

    /// <summary>The document; null for a token that is unknown, revoked or renewed.</summary>
    /// <param name="token">From the feed's address.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    public byte[]? Do(FeedToken token, Uri root)
    {
        var (hash, now) = (Secrets.HashOf(token), clock.GetCurrentInstant());
        return database.Read(stores =>
        {
            if (
                stores.School.Find() is not { } school
                || FeedSource.Find(stores, hash, now.InZone(school.Time.Zone).Date) is not { } source
            )
                return null;
            var publication = source.Outlet is null ? null : stores.Publications.Find(PublicationKind.Feed, hash);
            if (
                source.Outlet is not null
                && (publication is null || stores.Calendars.Get(publication.Calendar).DeletedAt is not null)
            )
                return null;
            var parts =
                publication is { PausedAt: not null } ? []
                : publication is null ? FeedSource.PartsOf(stores, source.Own!)
                : FeedSource.PartsOf(stores, publication);
            var choices = publication?.Choices ?? ShowChoices.SignedIn;
            var entries = parts
                .SelectMany(part => Entries(stores, school, part, choices, root, now))
                .OrderByDescending(entry => entry.Updated)
                .ThenBy(entry => entry.Id, StringComparer.Ordinal)
                .Take(Most)
                .ToList();
            var title =
                publication is null ? $"My classes at {school.Name}"
                : publication.Options.Title.Length > 0 ? publication.Options.Title
                : stores.Calendars.Get(publication.Calendar).Title;
            return Write(
                $"{title}: changes and notices",
                school.Name,
                Name(Convert.ToHexStringLower(hash)),
                new Uri(root, $"feeds/{token}.atom"),
                entries
            );
        });
    }

    private static IEnumerable<Entry> Entries(
        Stores stores,
        Core.Terms.School school,
        FeedPart part,
        ShowChoices choices,
        Uri root,
        Instant now
    )
    {
        var facts = CalendarFacts.Read(stores, part.Calendar.Id);
        var link = new Uri(root, $"c/{part.Calendar.Slug}");
        foreach (var shown in facts.NoticesFor(school.Time, part.Level, choices, part.Reader, now))
            yield return new Entry(
                Name($"notice {shown.Notice.Id.Value} {shown.Notice.MadeAt.ToUnixTimeMilliseconds()}"),
                $"{part.Calendar.Title}: {shown.Notice.Heading}",
                shown.Join is { } join ? $"{shown.Notice.Whole}\n{join.At(root)}" : shown.Notice.Whole,
                shown.Notice.ChangedAt,
                link
            );
        var show = facts.For(school.Time, now, part.Level, choices, part.Reader);
        foreach (
            var session in facts
                .PlansFor(school.Time, part.Level, part.Reader)
                .SelectMany(plan => plan.Sessions)
                .Where(session => session is { Change: not null, IsVisible: true } && session.EndsAt > now - Back)
        )
        {
            // Busy times tell that the time is taken, and nothing of what was done to it.
            if (show(session) is not { IsBusyOnly: false } shown)
                continue;
            var when = $"{Wording.WithWeekday(session.Day)}, {SayBack.Span(session)}";
            var what =
                session.IsCancelled ? "cancelled"
                : session.IsMoved ? $"moved from {Wording.WithWeekday(session.PlannedAtSchool)}"
                : shown.State.Length > 0 ? shown.State
                : "changed";
            yield return new Entry(
                Name($"session {session.Of.Uid} {session.Original:s}"),
                $"{shown.Title}: {what}, {when}",
                string.Join("\n", new[] { when, shown.Place, shown.Note }.Where(text => text.Length > 0)),
                Instant.Max(session.Of.ChangedAt, session.Of.MadeAt),
                link
            );
        }
    }

    // A name that is the same each time, and tells nothing (RFC 4287 §4.2.6; RFC 9562 §5.8: a value of one's own).
    private static string Name(string of)
    {
        var bytes = SHA256.HashData(Encoding.UTF8.GetBytes(of))[..16];
        bytes[6] = (byte)((bytes[6] & 0x0F) | 0x80);
        bytes[8] = (byte)((bytes[8] & 0x3F) | 0x80);
        return $"urn:uuid:{new Guid(bytes, bigEndian: true)}";
    }

    private static byte[] Write(string title, string author, string id, Uri self, IReadOnlyList<Entry> entries)
    {
        using var stream = new MemoryStream();
        using (
            var xml = XmlWriter.Create(
                stream,
                new XmlWriterSettings { Encoding = new UTF8Encoding(false), CheckCharacters = true }
            )
        )
        {
            xml.WriteStartElement("feed", Atom);
            Text("title", title);
            Text("id", id);
            Text(
                "updated",
                Time(entries.Count > 0 ? entries.Max(entry => entry.Updated) : Instant.FromUtc(2026, 1, 1, 0, 0))
            );
            xml.WriteStartElement("author", Atom);
            Text("name", author);
            xml.WriteEndElement();
            Link("self", self);
            foreach (var entry in entries)
            {
                xml.WriteStartElement("entry", Atom);
                Text("title", entry.Title);
                Text("id", entry.Id);
                Text("updated", Time(entry.Updated));
                Link("alternate", entry.Link);
                Text("content", entry.Says);
                xml.WriteEndElement();
            }

            xml.WriteEndElement();

            // A sign that XML cannot hold (§2.2 of XML 1.0) is left away.
            void Text(string name, string text) =>
                xml.WriteElementString(
                    name,
                    Atom,
                    string.Concat(text.Where(letter => XmlConvert.IsXmlChar(letter) || char.IsSurrogate(letter)))
                );
            void Link(string rel, Uri to)
            {
                xml.WriteStartElement("link", Atom);
                xml.WriteAttributeString("rel", rel);
                xml.WriteAttributeString("href", to.AbsoluteUri);
                xml.WriteEndElement();
            }
        }

        return stream.ToArray();
    }

    private static string Time(Instant at) => at.ToString("uuuu-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture);
}
