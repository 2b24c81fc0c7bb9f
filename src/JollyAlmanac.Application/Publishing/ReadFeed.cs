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
/// <param name="ETag">Changes with the bytes of the document, and only with them; quoted, strong.</param>
/// <param name="LastModified">When that was, to the second.</param>
/// <param name="FileName">A name to save it under.</param>
/// <param name="Text">The iCalendar document; null where the reader has this ETag already.</param>
public sealed record FeedAnswer(string ETag, Instant LastModified, string FileName, string? Text);

/// <summary>Reads a feed for whoever has its token.</summary>
public sealed class ReadFeed(AlmanacDatabase database, IClock clock)
{
    // Rises with the form of the document, so that readers take it anew after an upgrade.
    private const int DocumentForm = 3;

    private const int MostKept = 4_000;

    // The ETag of the bytes that a state gives. A state that changes need not change a byte; then the ETag stays, too.
    private readonly System.Collections.Concurrent.ConcurrentDictionary<string, string> tags = new(StringComparer.Ordinal);

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

    private (Outlet?, FeedAnswer?) Read(Stores stores, byte[] tokenHash, Uri root, Predicate<string> has)
    {
        if (stores.Outlets.Find(OutletKind.Feed, tokenHash) is not { } outlet) return (null, null);
        var calendar = stores.Calendars.Get(outlet.Calendar);
        if (calendar.DeletedAt is not null) return (null, null);
        var (schoolRevision, schoolChangedAt) = stores.School.Revision();
        var state = $"{DocumentForm} {outlet.Id.Value} {outlet.Version} {calendar.Revision} {schoolRevision} {root}";
        var modified = Instant.Max(calendar.ChangedAt, schoolChangedAt);
        var answer = new FeedAnswer("", modified, calendar.Slug + ".ics", null);
        if (tags.TryGetValue(state, out var known) && has(known)) return (outlet, answer with { ETag = known });
        var text = FeedDocument.Of(Content(stores, outlet, calendar, root));
        var etag = ETag(text);
        if (tags.Count >= MostKept) tags.Clear();
        tags[state] = etag;
        return (outlet, answer with { ETag = etag, Text = has(etag) ? null : text });
    }

    private static FeedContent Content(Stores stores, Outlet outlet, Calendar calendar, Uri root)
    {
        var school = stores.School.Find()!;
        if (calendar.PutAwayAt is { } away)
        {
            var day = Wording.WithYear(away.InZone(school.Time.Zone).Date);
            return new FeedContent($"{calendar.Title} (put away)", calendar, school.Revision, school.ChangedAt, [], root, $"{calendar.Title} was put away by its keepers on {day}. Nothing more comes from it; you can end this subscription.");
        }

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
