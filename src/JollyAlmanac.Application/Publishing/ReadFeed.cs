using System.Collections.Immutable;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
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

    /// <summary>When the time is taken alone (VFREEBUSY, RFC 5545 §3.6.4); the RFC's §8.1 has the ending.</summary>
    Ifb,

    /// <summary>A table, a row a session (RFC 4180).</summary>
    Csv,
}

/// <summary>The finished bytes of a feed; the same packed, and in other forms, once somebody has asked for them so.</summary>
/// <param name="plain">The document in UTF-8.</param>
/// <param name="name">What the calendar is known by in its address.</param>
public sealed class FeedBody(byte[] plain, string name)
{
    private readonly Lazy<FeedBody> jcal = new(() =>
        new FeedBody(JCal.Of(ICalendarReader.Read(plain).Calendars[0]), name)
    );
    private readonly Lazy<FeedBody> jscalendar = new(() =>
        new FeedBody(JSCalendar.Of(ICalendarReader.Read(plain).Calendars[0], $"{name}@jolly-almanac"), name)
    );

    private readonly Lazy<FeedBody> busy = new(() =>
        new FeedBody(Encoding.UTF8.GetBytes(FeedTable.BusyOf(ICalendarReader.Read(plain))), name)
    );
    private readonly Lazy<FeedBody> table = new(() => new FeedBody(FeedTable.Of(ICalendarReader.Read(plain)), name));

    /// <summary>The same in that form, made of what this one says.</summary>
    public FeedBody As(FeedForm form) =>
        form switch
        {
            FeedForm.JCal => jcal.Value,
            FeedForm.JSCalendar => jscalendar.Value,
            FeedForm.Ifb => busy.Value,
            FeedForm.Csv => table.Value,
            _ => this,
        };

    private readonly Lazy<byte[]> gzip = new(() =>
        Packed(plain, to => new GZipStream(to, CompressionLevel.SmallestSize))
    );
    private readonly Lazy<byte[]> brotli = new(() =>
        Packed(plain, to => new BrotliStream(to, CompressionLevel.Optimal))
    );

    /// <summary>The document in UTF-8.</summary>
    public byte[] Plain => plain;

    /// <summary>The same in the coding <c>gzip</c> of RFC 9110 §8.4.1.3.</summary>
    public byte[] Gzip => gzip.Value;

    /// <summary>The same in the coding <c>br</c> of RFC 7932.</summary>
    public byte[] Brotli => brotli.Value;

    private static byte[] Packed(byte[] plain, Func<Stream, Stream> packing)
    {
        using var packed = new MemoryStream();
        using (var into = packing(packed))
            into.Write(plain);
        return packed.ToArray();
    }
}

/// <summary>Reads a feed for whoever has its token. The finished bytes are kept while calendar and school stand the same.</summary>
public sealed class ReadFeed(AlmanacDatabase database, IClock clock) : IDisposable
{
    // Bytes of documents, at most, that are held ready.
    private const long MostBytes = 64 * 1024 * 1024;

    private static readonly Duration NoteEvery = Duration.FromMinutes(1);

    // Where the day matters, it begins on a half hour somewhere: asked for anew then, it is mostly as it was.
    private const long HalfHour = NodaConstants.TicksPerHour / 2;

    private readonly EpochCache<(string TokenHash, Uri Root), Known> known = new(database.Epoch, MostBytes);

    // Until: when next a material of it is given, or given no more.
    private sealed record Known(Instant Until, FeedSource Source, FeedAnswer Answer);

    /// <summary>The feed; null for a token that is unknown, revoked or renewed.</summary>
    /// <param name="token">From the address.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="has">Whether the reader says it has this ETag.</param>
    /// <param name="program">Which kind of program asks, for people.</param>
    public FeedAnswer? Do(FeedToken token, Uri root, Predicate<string> has, string program = "a program")
    {
        var hash = Secrets.HashOf(token);
        var key = (Convert.ToBase64String(hash), root);
        var now = clock.GetCurrentInstant();
        var halfHour = Instant.FromUnixTimeTicks((now.ToUnixTimeTicks() / HalfHour + 1) * HalfHour);
        if (
            known.Get(key, now, before =>
                database.Read(stores => Read(stores, hash, root, before, now)) is { } read
                    ? (read, Instant.Min(read.Until, halfHour), read.Answer.Body!.Plain.Length * 5 + 200)
                    : null
            )
            is not { } found
        )
            return null;
        var hasIt = has(found.Answer.ETag);
        Note(found.Source, new Fetch(now, program, hasIt ? 304 : 200, hasIt ? 0 : found.Answer.Body!.Plain.Length));
        return hasIt ? found.Answer with { Body = null } : found.Answer;
    }

    /// <summary>The document as a reader has it, without being counted as one; null for no such feed.</summary>
    /// <param name="token">From the address.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    public byte[]? Look(FeedToken token, Uri root) =>
        database
            .Read(stores => Read(stores, Secrets.HashOf(token), root, null, clock.GetCurrentInstant()))
            ?.Answer.Body!.Plain;

    /// <inheritdoc />
    public void Dispose() => known.Dispose();

    // To the minute is enough to see that it is fetched, and spares a write each time.
    private void Note(FeedSource source, Fetch fetch)
    {
        if (
            source.LastFetchedAt is { } last
            && fetch.At - last is var since
            && since >= Duration.Zero
            && since < NoteEvery
        )
            return;
        database.Note(stores =>
        {
            if (source.Outlet is { } publication)
                stores.Publications.NoteFetch(publication, fetch);
            else
                stores.OwnFeeds.NoteFetch(source.Own!.Person, fetch.At);
        });
    }

    private static Known? Read(Stores stores, byte[] tokenHash, Uri root, Known? before, Instant now)
    {
        if (stores.School.Find() is not { } school)
            return null;
        var today = now.InZone(school.Time.Zone).Date;
        if (FeedSource.Find(stores, tokenHash, today) is not { } source)
            return null;
        if (before is not null && before.Source.Key == source.Key && now < before.Until)
            return before with { Source = source };
        Component document;
        Instant changedAt;
        var until = Instant.MaxValue;
        string name;
        if (source.Own is { } own)
        {
            (document, changedAt) = (
                Document(
                    stores,
                    school,
                    source.Parts!,
                    own.Options,
                    ShowChoices.SignedIn,
                    own.Options.Title.Length > 0 ? own.Options.Title : $"My classes at {school.Name}",
                    root,
                    today,
                    now,
                    LinkDays(stores, school, source.Parts!, root, today)
                ),
                now
            );
            until = Until(stores, school, source.Parts!, now);
            name = "my-classes";
        }
        else
        {
            if (stores.Publications.Find(PublicationKind.Feed, tokenHash) is not { } publication)
                return null;
            var calendar = stores.Calendars.Get(publication.Calendar);
            if (calendar.DeletedAt is not null)
                return null;
            var parts = source.Parts ?? FeedSource.PartsOf(stores, publication);
            document =
                publication.PausedAt is { } paused
                    ? Empty(
                        school,
                        calendar,
                        root,
                        "paused",
                        $"{calendar.Title} was paused here by its keepers on {Day(paused, school)}. It goes on when they say so."
                    )
                : calendar.ArchivedAt is { } away
                    ? Empty(
                        school,
                        calendar,
                        root,
                        "put away",
                        $"{calendar.Title} was archived by its keepers on {Day(away, school)}. Nothing more comes from it; you can end this subscription."
                    )
                : calendar.OpensOn is { } opens
                    ? Empty(
                        school,
                        calendar,
                        root,
                        "not open yet",
                        $"{calendar.Title} opens on {Wording.WithYear(opens)}. What it holds comes here by itself from then on."
                    )
                : Document(
                    stores,
                    school,
                    parts,
                    publication.Options,
                    publication.Choices,
                    NameOf(publication, calendar, school),
                    root,
                    today,
                    now
                );
            until = Until(stores, school, parts, now);
            changedAt = parts.Select(part => part.Calendar.ChangedAt).Append(calendar.ChangedAt).Max();
            name = calendar.Slug.Value;
        }

        var bytes = Encoding.UTF8.GetBytes(document.ToString());
        var (_, schoolChangedAt) = stores.School.Revision();
        var etag = $"\"{Convert.ToHexStringLower(SHA256.HashData(bytes))[..32]}\"";
        // A state that changes need not change a byte; then ETag and date stay, too.
        var modified =
            before is not null && before.Answer.ETag == etag
                ? before.Answer.LastModified
                : Instant.Max(changedAt, schoolChangedAt);
        return new Known(until, source, new FeedAnswer(etag, modified, name + ".ics", new FeedBody(bytes, name)));
    }

    private static Instant Until(Stores stores, Core.Terms.School school, IReadOnlyList<FeedPart> parts, Instant now) =>
        parts
            .Select(part => CalendarFacts.Read(stores, part.Calendar.Id).NextRelease(school.Time, now))
            .DefaultIfEmpty(Instant.MaxValue)
            .Min();

    private static string Day(Instant at, Core.Terms.School school) =>
        Wording.WithYear(at.InZone(school.Time.Zone).Date);

    private static Component Empty(Core.Terms.School school, Calendar calendar, Uri root, string why, string says) =>
        FeedDocument.ComponentOf(
            new FeedContent($"{calendar.Title} ({why})", calendar, school.Revision, school.ChangedAt, [], root, says)
        );

    private static string NameOf(Publication publication, Calendar calendar, Core.Terms.School school) =>
        publication.Options.Title.Length > 0
            ? publication.Options.Title
            : $"{(publication.Scope == PublicationScope.School ? school.Name : calendar.Title)}{(publication.Level == AccessLevel.Busy ? " (busy times)" : "")}";

    private static Component Document(
        Stores stores,
        Core.Terms.School school,
        IReadOnlyList<FeedPart> parts,
        PublicationOptions options,
        ShowChoices choices,
        string name,
        Uri root,
        LocalDate today,
        Instant now,
        ImmutableArray<DayEntry> days = default
    )
    {
        var (from, to) = options.DaysOn(today);
        Predicate<Session>? isWithin = options.IsByTheDay ? session => ExportCalendar.Within(session, from, to) : null;
        var contents = parts
            .Select(part =>
                Content(
                    CalendarFacts.Read(stores, part.Calendar.Id),
                    school,
                    part.Calendar,
                    part.Level,
                    choices,
                    now,
                    root,
                    isWithin,
                    part.Reader,
                    options.DropsCancelled
                ) with
                {
                    ToBeDone =
                        options.Tasks == TaskForm.None
                            ? []
                            :
                            [
                                .. ToBeDone(stores, school, part, choices, now)
                                    .Where(task =>
                                        (from is null || task.Due.Day >= from) && (to is null || task.Due.Day < to)
                                    ),
                            ],
                    AsTasks = options.Tasks == TaskForm.Tasks,
                    RemindsBeforeDoor = part.Reader is not null && part.Level >= AccessLevel.Editor,
                    Reminder = options.Reminder,
                    Page = part.Level > AccessLevel.Busy ? new Uri(root, $"c/{part.Calendar.Slug}") : null,
                    // Of several, each has its own: told apart at a glance.
                    Colour =
                        options.Colour is { } colour && parts.Count == 1 ? new Mark(colour, default).CssName : null,
                }
            )
            .ToList();
        // Of no calendar yet, it is there all the same, with nothing in it.
        if (contents.Count == 0)
            contents.Add(new FeedContent(name, stores.Calendars.All()[0], school.Revision, school.ChangedAt, [], root));
        return FeedDocument.ComponentOf(
            contents[0] with
            {
                Name = name,
                Days = days.IsDefault ? [] : days,
            },
            [.. contents.Skip(1)]
        );
    }

    // The last days of the rooms and passcodes that the feed's person keeps, where sessions come after them.
    private static ImmutableArray<DayEntry> LinkDays(
        Stores stores,
        Core.Terms.School school,
        IReadOnlyList<FeedPart> parts,
        Uri root,
        LocalDate today
    )
    {
        var kept = parts.Where(part => part.Level >= AccessLevel.Editor).ToList();
        return kept is not [{ Reader: { Person: { } person } reader }, ..]
            ? []
            :
            [
                .. LinkDoor
                    .Worked(stores, school, person, [.. kept.Select(part => part.Calendar.Id)])
                    .Where(door => !door.Link.LeadsNowhere && door.MayKeep(reader))
                    .SelectMany(door =>
                        new[]
                        {
                            (
                                door,
                                Last: door.Schedule.LastDay,
                                Key: "room",
                                Says: $"{door.Link.Name} runs out: put another room behind it"
                            ),
                            (
                                door,
                                Last: door.Schedule.PasscodeLastDay(school.PasscodeDays),
                                Key: "passcode",
                                Says: $"Change the passcode of {door.Link.Name}"
                            ),
                        }
                    )
                    .Where(one =>
                        one.Last is { } last
                        && last >= today
                        && one.door.Schedule.Held.Any(session => session.StartAtSchool.Date > last)
                    )
                    .Select(one => new DayEntry(
                        $"{one.Key}-{one.door.Link.Id.Value}-{one.Last:uuuuMMdd}@jolly-almanac",
                        one.Last!.Value,
                        one.Says,
                        new Uri(root, $"join-links/{one.door.Link.Code}/edit")
                    )),
            ];
    }

    // Also what was to be done and is late: a reader keeps what it is told.
    private static IReadOnlyList<ToBeDone> ToBeDone(
        Stores stores,
        Core.Terms.School school,
        FeedPart part,
        ShowChoices choices,
        Instant now
    ) =>
        CalendarFacts
            .Read(stores, part.Calendar.Id)
            .ToBeDone(school.Time, now, Instant.MinValue, part.Level, choices, part.Reader);

    /// <summary>All that stands on a calendar, for a place that many read at that level.</summary>
    /// <param name="facts">What stands on it.</param>
    /// <param name="school">The school.</param>
    /// <param name="calendar">The calendar.</param>
    /// <param name="level">The level.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="now">When: what is hidden until given is not in it.</param>
    /// <param name="root">Where the almanac is reached.</param>
    /// <param name="isWithin">Only those sessions; null for all.</param>
    /// <param name="reader">Who reads; null for a place that many read.</param>
    /// <param name="dropsCancelled">Cancelled sessions are left away rather than told.</param>
    internal static FeedContent Content(
        CalendarFacts facts,
        Core.Terms.School school,
        Calendar calendar,
        AccessLevel level,
        ShowChoices choices,
        Instant now,
        Uri root,
        Predicate<Session>? isWithin = null,
        Viewer? reader = null,
        bool dropsCancelled = false
    )
    {
        var plans = facts.PlansFor(school.Time, level, reader);
        if (isWithin is not null)
            plans =
            [
                .. plans.Select(plan => new Plan(plan.Of, [.. plan.Sessions.Where(session => isWithin(session))], [])),
            ];
        var all = facts.MaterialsAt(school.Time, now);
        var forAll = all.ForEvery;
        // A feed of busy times, too, names a session by where its pattern has it: else no reader finds the one that was moved.
        ShownSession? Show(Session session, Core.Materials.MaterialsAt materials) =>
            Redaction.Show(session, level, choices, materials, facts.WayInto(session), reader) is { } shown
                ? shown with
                {
                    Session = session,
                }
                : null;
        var entries = plans
            .Where(plan => plan.Sessions.Length > 0)
            .Select(plan =>
                FeedEntry.Of(
                    plan,
                    school.Time,
                    session => Show(session, forAll)!,
                    session => dropsCancelled && session.IsCancelled ? null : Show(session, all),
                    facts.HasOwnMaterials,
                    plan.Of.Follows is { } follows
                        ? facts.Series.FirstOrDefault(series => series.Id == follows)?.Uid
                        : null
                )
            );
        return new FeedContent(
            level == AccessLevel.Busy ? $"{calendar.Title} (busy times)" : calendar.Title,
            calendar,
            school.Revision,
            school.ChangedAt,
            [.. entries],
            root
        )
        {
            About = AccessRules.May(Permission.SeeDetails, level) && choices.Descriptions ? calendar.Description : "",
        };
    }
}
