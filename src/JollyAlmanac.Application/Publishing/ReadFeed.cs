using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>A feed as it stands.</summary>
/// <param name="ETag">Changes with the bytes of the document, and only with them; quoted, strong.</param>
/// <param name="LastModified">When that was, to the second.</param>
/// <param name="FileName">A name to save it under.</param>
/// <param name="Body">The iCalendar document; null where the reader has this ETag already.</param>
public sealed record FeedAnswer(string ETag, Instant LastModified, string FileName, FeedBody? Body)
{
    /// <summary>The document as text; null where there is none.</summary>
    public string? Text => Body is null ? null : Encoding.UTF8.GetString(Body.Plain);
}

/// <summary>In which form a feed is read.</summary>
public enum FeedForm
{
    /// <summary>iCalendar (RFC 5545).</summary>
    Ics,
    /// <summary>jCal (RFC 7265).</summary>
    JCal,
    /// <summary>JSCalendar (RFC 8984).</summary>
    JSCalendar,
}

/// <summary>The finished bytes of a feed; the same packed, and in other forms, once somebody has asked for them so.</summary>
/// <param name="plain">The document in UTF-8.</param>
/// <param name="name">What the calendar is known by in its address.</param>
public sealed class FeedBody(byte[] plain, string name)
{
    private readonly Lazy<FeedBody> jcal = new(() => new FeedBody(JCal.Of(ICalendarReader.Read(plain).Calendars[0]), name));
    private readonly Lazy<FeedBody> jscalendar =
        new(() => new FeedBody(JSCalendar.Of(ICalendarReader.Read(plain).Calendars[0], $"{name}@jolly-almanac"), name));

    /// <summary>The same in that form, made of what this one says.</summary>
    public FeedBody As(FeedForm form) => form switch { FeedForm.JCal => jcal.Value, FeedForm.JSCalendar => jscalendar.Value, _ => this };

    private readonly Lazy<byte[]> gzip = new(() => Packed(plain, to => new GZipStream(to, CompressionLevel.SmallestSize)));
    private readonly Lazy<byte[]> brotli = new(() => Packed(plain, to => new BrotliStream(to, CompressionLevel.Optimal)));

    /// <summary>The document in UTF-8.</summary>
    public byte[] Plain => plain;

    /// <summary>The same in the coding <c>gzip</c> of RFC 9110 §8.4.1.3.</summary>
    public byte[] Gzip => gzip.Value;

    /// <summary>The same in the coding <c>br</c> of RFC 7932.</summary>
    public byte[] Brotli => brotli.Value;

    private static byte[] Packed(byte[] plain, Func<Stream, Stream> packing)
    {
        using var packed = new MemoryStream();
        using (var into = packing(packed)) into.Write(plain);
        return packed.ToArray();
    }
}

/// <summary>Reads a feed for whoever has its token. The finished bytes are kept while calendar and school stand the same.</summary>
public sealed class ReadFeed(AlmanacDatabase database, IClock clock) : IDisposable
{
    // Bytes of documents, at most, that are held ready.
    private const long MostBytes = 64 * 1024 * 1024;

    private static readonly Duration NoteEvery = Duration.FromMinutes(1);

    // By token hash and root: while nothing at all was written, an answer touches no file.
    private readonly MemoryCache known = new(new MemoryCacheOptions { SizeLimit = MostBytes, CompactionPercentage = 0.2 });

    private sealed record Known(long Epoch, OutletStanding Standing, FeedAnswer Answer);

    /// <summary>The feed; null for a token that is unknown, revoked or renewed.</summary>
    /// <param name="token">From the address.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="has">Whether the reader says it has this ETag.</param>
    public FeedAnswer? Do(string token, Uri root, Predicate<string> has)
    {
        if (token.Length != Secrets.TokenLength) return null;
        var hash = Secrets.HashOf(token);
        var key = (Convert.ToBase64String(hash), root);
        // Asked for before anything is read: what is read then is not older.
        var epoch = database.Epoch();
        if (!known.TryGetValue(key, out Known? found) || found!.Epoch != epoch)
        {
            var read = database.Read(stores => Read(stores, hash, root, found));
            if (read is null)
            {
                known.Remove(key);
                return null;
            }

            found = read with { Epoch = epoch };
            known.Set(key, found, new MemoryCacheEntryOptions { Size = found.Answer.Body!.Plain.Length * 5 + 200 });
        }

        Note(found.Standing);
        return has(found.Answer.ETag) ? found.Answer with { Body = null } : found.Answer;
    }

    /// <inheritdoc />
    public void Dispose() => known.Dispose();

    // To the minute is enough to see that it is fetched, and spares a write each time.
    private void Note(OutletStanding outlet)
    {
        var now = clock.GetCurrentInstant();
        if (outlet.LastFetchedAt is { } last && now - Instant.FromUnixTimeMilliseconds(last) is var since && since >= Duration.Zero
            && since < NoteEvery) return;
        database.Write(stores => { stores.Outlets.NoteFetch(new OutletId(outlet.Id), now); return true; }, kept => kept);
    }

    private static Known? Read(Stores stores, byte[] tokenHash, Uri root, Known? before)
    {
        if (stores.Outlets.StandingOf(OutletKind.Feed, tokenHash) is not { } standing) return null;
        if (before is not null && before.Standing with { LastFetchedAt = standing.LastFetchedAt } == standing)
            return before with { Standing = standing };
        if (stores.Outlets.Find(OutletKind.Feed, tokenHash) is not { } outlet) return null;
        var calendar = stores.Calendars.Get(outlet.Calendar);
        if (calendar.DeletedAt is not null) return null;
        var bytes = Encoding.UTF8.GetBytes(FeedDocument.Of(Content(stores, outlet, calendar, root)));
        var (_, schoolChangedAt) = stores.School.Revision();
        var etag = $"\"{Convert.ToHexStringLower(SHA256.HashData(bytes))[..32]}\"";
        // A state that changes need not change a byte; then ETag and date stay, too.
        var modified = before is not null && before.Answer.ETag == etag ? before.Answer.LastModified
            : Instant.Max(calendar.ChangedAt, schoolChangedAt);
        return new Known(0, standing, new FeedAnswer(etag, modified, calendar.Slug + ".ics", new FeedBody(bytes, calendar.Slug)));
    }

    private static FeedContent Content(Stores stores, Outlet outlet, Calendar calendar, Uri root)
    {
        var school = stores.School.Find()!;
        if (calendar.PutAwayAt is { } away)
        {
            var day = Wording.WithYear(away.InZone(school.Time.Zone).Date);
            return new FeedContent($"{calendar.Title} (put away)", calendar, school.Revision, school.ChangedAt, [], root,
                $"{calendar.Title} was put away by its keepers on {day}. Nothing more comes from it; you can end this subscription.");
        }

        return Content(CalendarFacts.Read(stores, calendar.Id), school, calendar, outlet.Level, outlet.Choices, root);
    }

    /// <summary>All that stands on a calendar, for a place that many read at that level.</summary>
    /// <param name="facts">What stands on it.</param>
    /// <param name="school">The school.</param>
    /// <param name="calendar">The calendar.</param>
    /// <param name="level">The level.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="root">Where the almanac is reached.</param>
    /// <param name="isWithin">Only those sessions; null for all.</param>
    internal static FeedContent Content(CalendarFacts facts, Core.Terms.School school, Calendar calendar, AccessLevel level,
        ShowChoices choices, Uri root, Predicate<Session>? isWithin = null)
    {
        var plans = facts.PlansFor(school.Time, level, null);
        if (isWithin is not null)
            plans = [.. plans.Select(plan => new Plan(plan.Of, [.. plan.Sessions.Where(session => isWithin(session))], []))];
        var forAll = facts.Materials.Where(material => material.ForSession is null).ToList();
        // A feed of busy times, too, names a session by where its pattern has it: else no reader finds the one that was moved.
        ShownSession? Show(Session session, IReadOnlyCollection<Core.Materials.Material> materials) =>
            Redaction.Show(session, level, choices, materials, facts.WayInto(session)) is { } shown
                ? shown with { Session = session } : null;
        var entries = plans.Where(plan => plan.Sessions.Length > 0).Select(plan => FeedEntry.Of(
            plan, school.Time, session => Show(session, forAll)!, session => Show(session, facts.Materials),
            plan.Of.Follows is { } follows ? facts.Series.FirstOrDefault(series => series.Id == follows)?.Uid : null));
        return new FeedContent(level == AccessLevel.Busy ? $"{calendar.Title} (busy times)" : calendar.Title, calendar,
            school.Revision, school.ChangedAt, [.. entries], root);
    }
}
