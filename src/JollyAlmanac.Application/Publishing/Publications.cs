using System.Globalization;
using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Publishing;

/// <summary>What the form for a feed or an embed says, as typed.</summary>
/// <param name="Name">What its makers call it.</param>
/// <param name="Level">busy, outline or full.</param>
/// <param name="Descriptions">Show descriptions.</param>
/// <param name="Materials">Show materials that are for anyone.</param>
/// <param name="JoinLinks">Show short addresses.</param>
/// <param name="Sites">For an embed: the sites that may show it, one a line.</param>
/// <param name="Offered">For a feed: its address stands on the class page.</param>
public sealed record PublicationInput(
    string? Name,
    AccessLevel Level,
    bool Descriptions,
    bool Materials,
    bool JoinLinks,
    string? Sites = "",
    bool Offered = false
)
{
    /// <summary>For a feed: it reminds so many minutes before; empty for not at all.</summary>
    public string? Reminder { get; init; } = "";

    /// <summary>For a feed: cancelled sessions are left away.</summary>
    public bool DropsCancelled { get; init; }

    /// <summary>How a feed tells what is to be done.</summary>
    public TaskForm Tasks { get; init; }

    /// <summary>For a feed: only sessions of so many days back; empty for all.</summary>
    public string? DaysBack { get; init; } = "";

    /// <summary>For a feed: only sessions of so many days ahead; empty for all.</summary>
    public string? DaysAhead { get; init; } = "";

    /// <summary>What readers see it called; empty for the calendar's title.</summary>
    public string? Title { get; init; } = "";

    /// <summary>Its colour, by its name; empty for the calendar's.</summary>
    public string? Colour { get; init; } = "";

    /// <summary>For a feed: which calendars it tells beside its own.</summary>
    public PublicationScope Scope { get; init; }

    /// <summary>For a feed of a group's calendars: the group's id.</summary>
    public string? Group { get; init; } = "";

    /// <summary>For a feed: slugs of the calendars it tells beside its own.</summary>
    public IReadOnlyList<string>? Others { get; init; }

    /// <summary>For an embed: what it is.</summary>
    public EmbedShape Shape { get; init; }

    /// <summary>For an embed: how it looks.</summary>
    public EmbedLook Look { get; init; }

    /// <summary>For an embed: its text is larger than usual.</summary>
    public bool IsLarge { get; init; }

    /// <summary>For an embed: what its button says.</summary>
    public string? Button { get; init; } = "";

    /// <summary>For an embed: what stands beside its button.</summary>
    public EmbedIcon Icon { get; init; }

    /// <summary>For an embed: a line above what it shows.</summary>
    public string? Welcome { get; init; } = "";

    /// <summary>For an embed: the id of the material that is its picture; empty for none.</summary>
    public string? Picture { get; init; } = "";

    /// <summary>For an embed: how many sessions it tells at most; empty for the usual.</summary>
    public string? Count { get; init; } = "";

    /// <summary>For an embed: the IANA zone it tells times in; empty for the school's.</summary>
    public string? Zone { get; init; } = "";

    /// <summary>The form of an outlet.</summary>
    /// <param name="publication">The outlet.</param>
    /// <param name="slugs">The slugs of its further calendars.</param>
    public static PublicationInput Of(Publication publication, IReadOnlyList<string> slugs) =>
        new(
            publication.Name,
            publication.Level,
            publication.Choices.Descriptions,
            publication.Choices.Materials,
            publication.Choices.JoinLinks,
            string.Join('\n', publication.Sites.Select(site => site.Value)),
            publication.IsOffered
        )
        {
            Reminder = Text(publication.Options.Reminder),
            DropsCancelled = publication.Options.DropsCancelled,
            Tasks = publication.Options.Tasks,
            DaysBack = Text(publication.Options.DaysBack),
            DaysAhead = Text(publication.Options.DaysAhead),
            Title = publication.Options.Title,
            Colour = publication.Options.Colour?.ToString() ?? "",
            Scope = publication.Scope,
            Group = publication.Group?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
            Others = slugs,
            Shape = publication.Options.Shape,
            Look = publication.Options.Look,
            IsLarge = publication.Options.IsLarge,
            Button = publication.Options.Button,
            Icon = publication.Options.Icon,
            Welcome = publication.Options.Welcome,
            Picture = publication.Options.Picture?.ToString(CultureInfo.InvariantCulture) ?? "",
            Count = Text(publication.Options.Count),
            Zone = publication.Options.Zone,
        };

    private static string Text(int? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";
}

/// <summary>A feed or embed with its present token.</summary>
/// <param name="Outlet">The outlet.</param>
/// <param name="Token">The token.</param>
public sealed record PublicationWithToken(Publication Outlet, FeedToken Token)
{
    /// <summary>The last times that it was asked for, newest first.</summary>
    public IReadOnlyList<Fetch> Fetches { get; init; } = [];

    /// <summary>For an embed: the sites that showed it, the latest first.</summary>
    public IReadOnlyList<ShownOn> ShownOn { get; init; } = [];

    /// <summary>The further calendars that it tells now, by title.</summary>
    public IReadOnlyList<Calendar> Others { get; init; } = [];

    /// <summary>What changed on its calendar since it was asked for last, newest first; empty where it has all.</summary>
    public IReadOnlyList<string> NewsSince { get; init; } = [];
}

/// <summary>A session as a feed tells it.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Start">Its start.</param>
/// <param name="End">Its end.</param>
/// <param name="IsAllDay">It is a date.</param>
/// <param name="IsCancelled">It does not meet.</param>
public sealed record SessionDescription(
    string Title,
    LocalDateTime Start,
    LocalDateTime End,
    bool IsAllDay,
    bool IsCancelled
);

/// <summary>What a feed tells right now.</summary>
/// <param name="Count">How many sessions.</param>
/// <param name="Coming">The next few, each by the clock it is written in.</param>
/// <param name="Breaches">How many breaches of RFC 5545 there are in it.</param>
/// <param name="Kilobytes">How large it is.</param>
/// <param name="Newest">The newest change of the calendar's sessions, which is in it; null for none.</param>
public sealed record FeedTells(
    int Count,
    IReadOnlyList<SessionDescription> Coming,
    int Breaches,
    int Kilobytes,
    HistoryLine? Newest
)
{
    internal static Outcome<FeedTells> Of(byte[] bytes, HistoryLine? newest, Instant now)
    {
        var file = ICalendarReader.Read(bytes);
        var sessions = ICalendarSessions.Of(file, null, null, null).Sessions;
        return new Outcome<FeedTells>.Done(
            new FeedTells(
                sessions.Count,
                [
                    .. sessions
                        .Where(session => session.End.At > now)
                        .Take(6)
                        .Select(session => new SessionDescription(
                            session.Summary,
                            session.Start.Time,
                            session.End.Time,
                            session.Start.IsDate,
                            session.Status == "CANCELLED"
                        )),
                ],
                ICalendarCheck.Of(file).Count,
                Math.Max(1, bytes.Length / 1024),
                newest
            )
        );
    }
}

/// <summary>What the publishing page shows.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="OpenTo">Who may open the class page.</param>
/// <param name="Feeds">Its feeds.</param>
/// <param name="Embeds">Its embeds.</param>
/// <param name="Links">The join links of its series, for their join cards.</param>
public sealed record PublishingView(
    Calendar Calendar,
    Calendars.OpenTo OpenTo,
    IReadOnlyList<PublicationWithToken> Feeds,
    IReadOnlyList<PublicationWithToken> Embeds,
    IReadOnlyList<JoinLink> Links
)
{
    /// <summary>The notices that are up or are to go up.</summary>
    public IReadOnlyList<Notice> Notices { get; init; } = [];

    /// <summary>How many minutes before a session a new feed reminds, as the school has it; null for not at all.</summary>
    public int? Reminder { get; init; }

    /// <summary>How many people get its sessions by e-mail.</summary>
    public int ByMail { get; init; }

    /// <summary>The zone that its days and times are told in.</summary>
    public required DateTimeZone Zone { get; init; }

    /// <summary>The pictures that an embed can have above it.</summary>
    public IReadOnlyList<Material> Pictures { get; init; } = [];

    /// <summary>Further calendars that the viewer may publish: a feed may tell them, too.</summary>
    public IReadOnlyList<Calendar> Publishable { get; init; } = [];

    /// <summary>The groups whose calendars a feed may tell, by name; none but on the school's own calendar.</summary>
    public IReadOnlyList<Group> Groups { get; init; } = [];

    /// <summary>How many calendars there are of the department, or of the school, for one that stands for these.</summary>
    public int Within { get; init; }

    /// <summary>Whom a copy can go to by mail.</summary>
    public required AudienceChoices Readers { get; init; }

    /// <summary>Feeds and embeds that cannot be read as they are stored.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>Makes, renews and revokes feeds and embeds. For managers.</summary>
public sealed class Publications(Gate gate, Secrets secrets)
{
    /// <summary>All that is published of a calendar, with its addresses.</summary>
    public Outcome<PublishingView> Of(Viewer viewer, Slug slug) =>
        gate.Read<PublishingView>(Operation.ReadPublication, viewer, slug, at =>
        {
            var (stores, calendarContext) = (at.Stores, at.Context);
            var news = stores.History.Last(calendarContext.Calendar.Id, 50);
            var all = stores
                .Publications.Of(calendarContext.Calendar.Id)
                .Select(publication => new PublicationWithToken(publication, secrets.TokenOf(publication))
                {
                    Fetches = stores.Publications.FetchesOf(publication.Id, 5),
                    ShownOn =
                        publication.Kind == PublicationKind.Embed ? stores.Publications.ShownOn(publication.Id) : [],
                    Others =
                    [
                        .. FeedSource
                            .PartsOf(stores, publication)
                            .Select(part => part.Calendar)
                            .Where(one => one.Id != publication.Calendar),
                    ],
                    NewsSince = publication.LastFetchedAt is { } last
                        ?
                        [
                            .. news.Where(line => line.At > last && line.Subject == HistorySubject.Series)
                                .Select(line => line.Summary)
                                .Take(3),
                        ]
                        : [],
                })
                .ToLookup(one => one.Outlet.Kind);
            return new Outcome<PublishingView>.Done(
                new PublishingView(
                    calendarContext.Calendar,
                    Calendars.CalendarInput.OpenToOf(calendarContext.Grants),
                    [.. all[PublicationKind.Feed]],
                    [.. all[PublicationKind.Embed]],
                    LinkDoor.UsedOn(stores, stores.Series.Of(calendarContext.Calendar.Id))
                )
                {
                    Zone = calendarContext.School.Time.Zone,
                    Readers = AudienceReader.Choices(stores, calendarContext.Grants, []),
                    Reminder = stores.School.DefaultsOn(calendarContext.Calendar).FeedReminder,
                    ByMail = stores.Mailings.Of(calendarContext.Calendar.Id).Count,
                    Notices =
                    [
                        .. stores
                            .Notices.Of(calendarContext.Calendar.Id)
                            .Where(notice =>
                                notice.IsAhead(at.Now, calendarContext.School.Time.Zone)
                                || notice.IsUp(at.Now, calendarContext.School.Time.Zone, null)
                            ),
                    ],
                    Pictures = Pictures(stores, calendarContext.Calendar.Id),
                    Publishable =
                    [
                        .. CalendarContext
                            .CalendarsFor(stores, viewer, Permission.Publish)
                            .Where(calendar => calendar.Id != calendarContext.Calendar.Id)
                            .Take(MostChoices),
                    ],
                    Groups =
                        calendarContext.Calendar.Kind == CalendarKind.School
                            ? [.. stores.Groups.All().Take(MostChoices)]
                            : [],
                    Within =
                        calendarContext.Calendar.Kind == CalendarKind.Class
                            ? 0
                            : stores.Calendars.CountBeside(
                                calendarContext.Calendar.Id,
                                calendarContext.Calendar.Kind == CalendarKind.Department
                            ),
                    Unreadable =
                    [
                        .. stores.Unreadable.Where(one =>
                            one.Kind == UnreadableKind.Outlet && one.Calendar == calendarContext.Calendar.Id
                        ),
                    ],
                }
            );
        });

    /// <summary>What a feed tells a reader right now: read as they would read it.</summary>
    /// <param name="viewer">Who looks.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The feed.</param>
    /// <param name="readFeed">Reads feeds.</param>
    /// <param name="root">Where the almanac is reached.</param>
    public Outcome<FeedTells> Tells(Viewer viewer, Slug slug, PublicationId id, ReadFeed readFeed, Uri root) =>
        gate.Read<(FeedToken Token, HistoryLine? Newest, Instant Now)>(Operation.ReadPublication, viewer, slug, at =>
                at.Stores.Publications.Find(id) is { Kind: PublicationKind.Feed } publication
                && publication.Calendar == at.Calendar.Id
                    ? new Outcome<(FeedToken, HistoryLine?, Instant)>.Done(
                        (
                            secrets.TokenOf(publication),
                            at.Stores.History.Last(at.Calendar.Id, 20)
                                .FirstOrDefault(line => line.Subject == HistorySubject.Series),
                            at.Now
                        )
                    )
                    : new Outcome<(FeedToken, HistoryLine?, Instant)>.NotFound()
            )
            .Then(found =>
                readFeed.Look(found.Token, root) is not { } bytes
                    ? new Outcome<FeedTells>.NotFound()
                    : FeedTells.Of(bytes, found.Newest, found.Now)
            );

    /// <summary>Makes a feed or an embed.</summary>
    public Outcome<PublicationWithToken> Make(Viewer viewer, Slug slug, PublicationKind kind, PublicationInput input) =>
        gate.Write<PublicationWithToken>(Operation.MakePublication, viewer, slug, at => Make(at, kind, input));

    /// <summary>Makes a feed or an embed within an act that was let in.</summary>
    internal Outcome<PublicationWithToken> Make(AtCalendar at, PublicationKind kind, PublicationInput input)
    {
        var entry = new FormReader();
        if (Read(entry, at, kind, input, null) is not { } publication)
            return new Outcome<PublicationWithToken>.Refused(entry.Problems);
        var made = at.Stores.Publications.Add(publication, HashOf, at.Now);
        at.Note(
            HistorySubject.Outlet,
            made.Id.Value,
            $"made the {Word(kind)} {made.Name}",
            null,
            JsonSerializer.Serialize(input)
        );
        return WithToken(made);
    }

    /// <summary>Changes what an outlet is called and shows; its address stays.</summary>
    public Outcome<PublicationWithToken> Change(
        Viewer viewer,
        Slug slug,
        PublicationId id,
        PublicationInput input,
        int expectedVersion
    ) => gate.Write<PublicationWithToken>(Operation.ChangePublication, viewer, slug, id, expectedVersion, at =>
        {
            var entry = new FormReader();
            if (Read(entry, at, at.Outlet.Kind, input, at.Outlet) is not { } publication)
                return new Outcome<PublicationWithToken>.Refused(entry.Problems);
            if (!at.Stores.Publications.Change(publication, expectedVersion, at.Now))
                return at.Stale<PublicationWithToken>(HistorySubject.Outlet, id.Value);
            at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
            at.Note(
                HistorySubject.Outlet,
                id.Value,
                at.Outlet.Name == publication.Name
                    ? $"changed the {Word(publication.Kind)} {publication.Name}"
                    : $"changed the {Word(publication.Kind)} {at.Outlet.Name}, which is called {publication.Name} now",
                null,
                JsonSerializer.Serialize(input)
            );
            return WithToken(at.Stores.Publications.Find(id)!);
        });

    /// <summary>Lets an outlet show nothing for a while, or go on; its address stays.</summary>
    public Outcome<PublicationWithToken> Pause(
        Viewer viewer,
        Slug slug,
        PublicationId id,
        bool paused,
        int expectedVersion
    ) =>
        gate.Write<PublicationWithToken>(Operation.PausePublication, viewer, slug, id, expectedVersion, at =>
            Pause(at, paused)
        );

    /// <summary>Pauses or resumes within an act that was let in.</summary>
    internal Outcome<PublicationWithToken> Pause(AtPublication at, bool paused)
    {
        var id = at.Outlet.Id;
        if (!at.Stores.Publications.Pause(id, paused, at.Outlet.Version, at.Now))
            return at.Stale<PublicationWithToken>(HistorySubject.Outlet, id.Value);
        at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
        at.Note(
            HistorySubject.Outlet,
            id.Value,
            $"{(paused ? "paused" : "resumed")} the {Word(at.Outlet.Kind)} {at.Outlet.Name}"
        );
        return WithToken(at.Stores.Publications.Find(id)!);
    }

    private static Publication? Read(
        FormReader entry,
        AtCalendar at,
        PublicationKind kind,
        PublicationInput input,
        Publication? stored
    )
    {
        var isFeed = kind == PublicationKind.Feed;
        var name = entry.Line("Name", input.Name, "The name", 80, needed: false);
        // Nobody has to think of a name; the calendar's tells it from those of others.
        if (name.Length == 0)
            name = at.Calendar.ShortTitle;
        if (!Publication.MayHave(input.Level, at.Context.Level))
            entry.Wrong("Level", "Choose what it shows: busy times, an outline, or everything.");
        var sites = isFeed ? [] : ReadSites(entry, input.Sites);
        int? Number(string field, string? text, string called, int most) =>
            string.IsNullOrWhiteSpace(text) ? null : entry.Number(field, text.Trim(), called, 0, most);
        var options = new PublicationOptions
        {
            Title = entry.Line("Title", input.Title, "The title", 120, needed: false),
        };
        if (!string.IsNullOrEmpty(input.Colour))
        {
            if (Enum.TryParse<MarkColour>(input.Colour, out var colour) && Enum.IsDefined(colour))
                options = options with { Colour = colour };
            else
                entry.Wrong("Colour", "Choose a colour from the list.");
        }

        if (isFeed)
            options = options with
            {
                Reminder = Number("Reminder", input.Reminder, "The minutes before", PublicationOptions.LongestReminder),
                DropsCancelled = input.DropsCancelled,
                Tasks = Enum.IsDefined(input.Tasks) ? input.Tasks : TaskForm.Entries,
                DaysBack = Number("DaysBack", input.DaysBack, "The days back", PublicationOptions.MostDays),
                DaysAhead = Number("DaysAhead", input.DaysAhead, "The days ahead", PublicationOptions.MostDays),
            };
        else
            options = ReadEmbed(entry, at, input, options);
        var scope = isFeed && Enum.IsDefined(input.Scope) ? input.Scope : PublicationScope.Calendar;
        GroupId? group = null;
        if (scope == PublicationScope.Group)
        {
            // Groups are told of where the school is published, and nowhere else.
            group =
                at.Calendar.Kind != CalendarKind.School
                    ? null
                    : at
                        .Stores.Groups.All()
                        .FirstOrDefault(one => one.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Group)
                        ?.Id;
            if (group is null)
                entry.Wrong("Group", "Choose the group whose calendars it tells.");
        }
        else if (
            scope != PublicationScope.Calendar
            && scope
                != at.Calendar.Kind switch
                {
                    CalendarKind.School => PublicationScope.School,
                    CalendarKind.Department => PublicationScope.Department,
                    _ => PublicationScope.Calendar,
                }
        )
            entry.Wrong("Scope", "This calendar stands for nothing but itself. Choose further calendars by name.");
        var others = new List<CalendarId>();
        if (isFeed && scope == PublicationScope.Calendar && input.Others is { Count: > 0 } slugs)
        {
            var publishable = CalendarContext
                .CalendarsFor(at.Stores, at.Viewer, Permission.Publish)
                .ToDictionary(calendar => calendar.Slug.Value);
            foreach (var slug in slugs.Where(slug => slug != at.Calendar.Slug.Value).Distinct().Take(MostOthers + 1))
                if (publishable.TryGetValue(slug, out var calendar))
                    others.Add(calendar.Id);
                else if (
                    stored is not null
                    && at.Stores.Calendars.InUse(stored.Others).FirstOrDefault(one => one.Slug.Value == slug) is { } had
                )
                    others.Add(had.Id);
                else
                    entry.Wrong("Others", "One of these calendars is not yours to publish. Choose from the list.");
            if (others.Count > MostOthers)
                entry.Wrong("Others", $"A feed tells {MostOthers} further calendars at most.");
        }

        if (!entry.IsGood)
            return null;
        // An embed of the materials shows them, or it would show nothing.
        var materials = input.Materials || (!isFeed && input.Shape == EmbedShape.Materials);
        var choices = new ShowChoices(input.Descriptions, materials, input.JoinLinks, Public: true);
        var publication = (
            stored
            ?? new Publication(default, kind, at.Calendar.Id, name, input.Level, choices, [], 1, 1, at.Person, null)
        ) with
        {
            Name = name,
            Level = input.Level,
            Choices = choices,
            Sites = [.. sites],
            IsOffered = input.Offered && isFeed,
            Options = options,
            Scope = scope,
            Group = group,
            Others = [.. others.OrderBy(other => other.Value)],
        };
        // What it tells of further calendars hangs on who made it so: nobody widens what another's rights carry.
        return
            stored is not null
            && (publication.Level, publication.Choices, publication.Scope, publication.Group)
                == (stored.Level, stored.Choices, stored.Scope, stored.Group)
            && publication.Others.SequenceEqual(stored.Others)
            ? publication
            : publication with
            {
                MadeBy = at.Person,
            };
    }

    /// <summary>The most calendars that one feed tells beside its own, the first by title: a document of thousands is read by no
    /// program.</summary>
    public const int MostBeside = 300;

    private const int MostOthers = 40;

    // The most calendars or groups that a form offers to choose from.
    private const int MostChoices = 80;

    // Pictures of the whole class that anyone may open.
    private static List<Material> Pictures(Storage.Stores stores, CalendarId calendar) =>
        [
            .. CalendarFacts
                .Read(stores, calendar)
                .MaterialsOf.At(null, null)
                .Where(one =>
                    one is { Audience: MaterialAudience.Anyone, OnlyFor: null }
                    && one.Content is MaterialContent.StoredFile file
                    && FileKind.OfMediaType(file.MediaType).IsPicture
                ),
        ];

    private static PublicationOptions ReadEmbed(
        FormReader entry,
        AtCalendar at,
        PublicationInput input,
        PublicationOptions options
    )
    {
        var zone = string.IsNullOrWhiteSpace(input.Zone) ? null : ZoneText.Find(input.Zone);
        if (zone is null && !string.IsNullOrWhiteSpace(input.Zone))
            entry.Wrong(
                "Zone",
                $"{Wording.Quote(input.Zone)} is no zone of the IANA database. Write one like America/St_Johns."
            );
        if (!Enum.IsDefined(input.Shape))
            entry.Wrong("Shape", "Choose what it is from the list.");
        if (!Enum.IsDefined(input.Icon))
            entry.Wrong("Icon", "Choose what stands beside the button from the list.");
        long? picture = null;
        if (!string.IsNullOrEmpty(input.Picture))
        {
            picture = Pictures(at.Stores, at.Calendar.Id)
                .FirstOrDefault(one => one.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Picture)
                ?.Id.Value;
            if (picture is null)
                entry.Wrong(
                    "Picture",
                    "That picture is not there any more, or not for anyone. Choose another, or none."
                );
        }

        if (!Enum.IsDefined(input.Look))
            entry.Wrong("Look", "Choose how it looks from the list.");
        return options with
        {
            Shape = input.Shape,
            Look = input.Look,
            IsLarge = input.IsLarge,
            Icon = input.Icon,
            Picture = picture,
            Welcome = entry.Line(
                "Welcome",
                input.Welcome,
                "The line above it",
                PublicationOptions.LongestWelcome,
                needed: false
            ),
            Count = string.IsNullOrWhiteSpace(input.Count)
                ? null
                : entry.Number("Count", input.Count.Trim(), "How many sessions", 1, PublicationOptions.MostCount),
            DaysAhead = string.IsNullOrWhiteSpace(input.DaysAhead)
                ? null
                : entry.Number("DaysAhead", input.DaysAhead.Trim(), "The days ahead", 0, PublicationOptions.MostDays),
            Zone = zone?.Id ?? "",
            Button = entry.Line("Button", input.Button, "What the button says", 60, needed: false),
        };
    }

    /// <summary>Gives an outlet a new address; the old one is dead at once.</summary>
    public Outcome<PublicationWithToken> Renew(Viewer viewer, Slug slug, PublicationId id, int expectedVersion) =>
        gate.Write<PublicationWithToken>(Operation.RenewPublication, viewer, slug, id, expectedVersion, at =>
        {
            if (at.Stores.Publications.Renew(at.Outlet, expectedVersion, HashOf, at.Now) is not { } renewed)
                return at.Stale<PublicationWithToken>(HistorySubject.Outlet, id.Value);
            at.Note(HistorySubject.Outlet, id.Value, $"gave the {Word(at.Outlet.Kind)} {at.Outlet.Name} a new address");
            return WithToken(renewed);
        });

    /// <summary>Ends an outlet for good.</summary>
    public Outcome<PublicationWithToken> Revoke(Viewer viewer, Slug slug, PublicationId id, int expectedVersion) =>
        gate.Write<PublicationWithToken>(Operation.RevokePublication, viewer, slug, id, expectedVersion, Revoke);

    /// <summary>Ends an outlet for good within an act that was let in.</summary>
    internal Outcome<PublicationWithToken> Revoke(AtPublication at)
    {
        var id = at.Outlet.Id;
        if (!at.Stores.Publications.Revoke(at.Outlet, at.Outlet.Version, at.Now))
            return at.Stale<PublicationWithToken>(HistorySubject.Outlet, id.Value);
        at.Note(HistorySubject.Outlet, id.Value, $"turned off the {Word(at.Outlet.Kind)} {at.Outlet.Name}");
        return WithToken(at.Outlet);
    }

    /// <summary>Ends an outlet that cannot be read as it is stored, for good.</summary>
    public Outcome<bool> RevokeUnreadable(Viewer viewer, Slug slug, PublicationId id) =>
        gate.Write<bool>(Operation.RevokeUnreadablePublication, viewer, slug, at =>
        {
            if (
                at.Stores.Publications.Find(id) is not null
                || !at.Stores.Publications.RevokeUnreadable(id, at.Calendar.Id, at.Now)
            )
                return new Outcome<bool>.NotFound();
            at.Note(HistorySubject.Outlet, id.Value, "turned off an address that could not be read");
            return new Outcome<bool>.Done(true);
        });

    /// <summary>Lets a feed stand on the class page, or no longer.</summary>
    public Outcome<PublicationWithToken> Offer(
        Viewer viewer,
        Slug slug,
        PublicationId id,
        bool offered,
        int expectedVersion
    ) => gate.Write<PublicationWithToken>(Operation.OfferPublication, viewer, slug, id, expectedVersion, at =>
        {
            if (at.Outlet.Kind != PublicationKind.Feed)
                return Outcome.Because<PublicationWithToken>("", "Only a feed stands on the class page.");
            if (!at.Stores.Publications.Offer(id, offered, expectedVersion, at.Now))
                return at.Stale<PublicationWithToken>(HistorySubject.Outlet, id.Value);
            at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
            at.Note(
                HistorySubject.Outlet,
                id.Value,
                offered
                    ? $"put the feed {at.Outlet.Name} on the class page"
                    : $"took the feed {at.Outlet.Name} off the class page"
            );
            return WithToken(at.Stores.Publications.Find(id)!);
        });

    private byte[] HashOf(Publication publication) => Secrets.HashOf(secrets.TokenOf(publication));

    private Outcome<PublicationWithToken> WithToken(Publication publication) =>
        new Outcome<PublicationWithToken>.Done(new PublicationWithToken(publication, secrets.TokenOf(publication)));

    private static List<SiteOrigin> ReadSites(FormReader entry, string? text)
    {
        var lines = entry
            .Bounded("Sites", text, "The list of sites", 5_000)
            .Split(['\n', ',', ' '], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (lines.Length == 0)
            entry.Wrong("Sites", "Name the website that may show it, for example https://www.skerry.example.");
        if (lines.Length > 20)
            entry.Wrong("Sites", "An embed may be shown on 20 sites at most.");
        var sites = new List<SiteOrigin>();
        foreach (var line in lines.Take(20))
        {
            if (SiteOrigin.Read(line) is { } site)
                sites.Add(site);
            else
                entry.Wrong("Sites", $"{Wording.Quote(line)} is no website. Write it like https://www.skerry.example.");
        }

        return [.. sites.Distinct()];
    }

    private static string Word(PublicationKind kind) => kind == PublicationKind.Feed ? "feed" : "embed";
}
