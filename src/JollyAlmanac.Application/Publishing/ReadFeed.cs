using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>A feed as it stands.</summary>
/// <param name="ETag">Changes whenever a byte of the document may have; quoted, strong.</param>
/// <param name="LastModified">When that was, to the second.</param>
/// <param name="FileName">A name to save it under.</param>
/// <param name="Text">The iCalendar document; null where the reader has this ETag already.</param>
public sealed record FeedAnswer(string ETag, Instant LastModified, string FileName, string? Text);

/// <summary>Reads a feed for whoever has its token.</summary>
public sealed class ReadFeed(AlmanacDatabase database, IClock clock)
{
    // Rises with the form of the document, so that readers take it anew after an upgrade.
    private const int DocumentForm = 2;

    private static readonly Duration NoteEvery = Duration.FromMinutes(1);

    /// <summary>The feed; null for a token that is unknown, revoked or renewed.</summary>
    /// <param name="token">From the address.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="has">Whether the reader says it has this ETag.</param>
    public FeedAnswer? Do(string token, Uri root, Predicate<string> has)
    {
        if (token.Length != Secrets.TokenLength) return null;
        var hash = Secrets.HashOf(token);
        var (outlet, answer) = database.Read(stores => Read(stores, hash, root, has));
        if (outlet is null) return null;
        var now = clock.GetCurrentInstant();
        // To the minute is enough to see that it is fetched, and spares a write each time.
        if (outlet.LastFetchedAt is not { } last || now - last >= NoteEvery || last > now)
            database.Write(stores => { stores.Outlets.NoteFetch(outlet.Id, now); return true; }, kept => kept);
        return answer;
    }

    private static (Outlet?, FeedAnswer?) Read(Stores stores, byte[] tokenHash, Uri root, Predicate<string> has)
    {
        if (stores.Outlets.Find(OutletKind.Feed, tokenHash) is not { } outlet) return (null, null);
        var calendar = stores.Calendars.Get(outlet.Calendar);
        var (schoolRevision, schoolChangedAt) = stores.School.Revision();
        var etag = ETag($"{DocumentForm} {outlet.Id.Value} {outlet.Version} {calendar.Revision} {schoolRevision} {root}");
        var modified = Instant.Max(calendar.ChangedAt, schoolChangedAt);
        var answer = new FeedAnswer(etag, modified, calendar.Slug + ".ics", null);
        if (has(etag)) return (outlet, answer);
        return (outlet, answer with { Text = FeedDocument.Of(Content(stores, outlet, calendar, root)) });
    }

    private static FeedContent Content(Stores stores, Outlet outlet, Calendar calendar, Uri root)
    {
        var school = stores.School.Find()!;
        var facts = CalendarFacts.Read(stores, calendar.Id);
        var forAll = facts.Materials.Where(material => material.ForSession is null).ToList();
        ShownSession? Show(Session session, IReadOnlyCollection<Core.Materials.Material> materials) =>
            Redaction.Show(session, outlet.Level, outlet.Choices, materials, facts.CodeOf(session));
        var entries = facts.Plans(school.Time).Where(plan => plan.Sessions.Length > 0).Select(plan => FeedEntry.Of(
            plan, school.Time, session => Show(session, forAll)!, session => Show(session, facts.Materials),
            plan.Of.Follows is { } follows ? facts.Series.FirstOrDefault(series => series.Id == follows)?.Uid : null));
        return new FeedContent(outlet.Level == AccessLevel.Busy ? $"{calendar.Title} (busy times)" : calendar.Title, calendar, school.Revision, school.ChangedAt, [.. entries], root);
    }

    private static string ETag(string state) =>
        $"\"{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(state)))[..32]}\"";
}
