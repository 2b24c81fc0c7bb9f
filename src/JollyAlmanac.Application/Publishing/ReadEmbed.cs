using System.Collections.Immutable;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>The agenda panel of an embed.</summary>
/// <param name="Outlet">The embed.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Coming">The sessions that are not over, in order, a few weeks of them.</param>
public sealed record EmbedPanel(
    Publication Outlet,
    Calendar Calendar,
    School School,
    Instant Now,
    ImmutableArray<ShownSession> Coming
)
{
    /// <summary>The term, for one that shows it; null where the school has none.</summary>
    public TermSheet? Term { get; init; }

    /// <summary>The week, for one that shows it.</summary>
    public WeekSheet? Week { get; init; }

    /// <summary>The materials for every session, for one that shows them.</summary>
    public ImmutableArray<Material> Materials { get; init; } = [];

    /// <summary>What is to be done and not late, for one that shows the materials.</summary>
    public IReadOnlyList<ToBeDone> ToBeDone { get; init; } = [];

    /// <summary>The picture above it, as far as it may be seen; null for none.</summary>
    public Material? Picture { get; init; }

    /// <summary>The notices that are up, for one that shows them.</summary>
    public IReadOnlyList<ShownNotice> Notices { get; init; } = [];

    /// <summary>How the next session's door stands for anyone, for one that shows that; null where it has none that may be seen.</summary>
    public ShortAddress? Door { get; init; }

    /// <summary>The zone its times are told in.</summary>
    public DateTimeZone Zone => DateTimeZoneProviders.Tzdb.GetZoneOrNull(Outlet.Options.Zone) ?? School.Time.Zone;

    /// <summary>What it is called.</summary>
    public string Title => Outlet.Options.Title.Length > 0 ? Outlet.Options.Title : Calendar.Title;

    /// <summary>Its mark.</summary>
    public Mark Mark => Outlet.Options.Colour is { } colour ? Calendar.Mark with { Colour = colour } : Calendar.Mark;
}

/// <summary>Reads an embed for whoever has its token.</summary>
public sealed class ReadEmbed(AlmanacDatabase database, IClock clock, Doors doors) : IDisposable
{
    /// <summary>
    /// How all that the panel of a token shows stands: the same text means the same panel at the same moment. Null where nothing stands
    /// there.
    /// </summary>
    public string? StateVersionOf(FeedToken token)
    {
        var hash = Secrets.HashOf(token);
        return known.Get(Convert.ToBase64String(hash), Instant.MinValue, _ =>
            database.Read(stores => stores.Publications.StateVersionOf(PublicationKind.Embed, hash)) is { } at
                ? ($"{at.Id} {at.StateVersion} {at.School}", Instant.MaxValue, 1)
                : null
        );
    }

    private readonly EpochCache<string, string> known = new(database.Epoch, capacity: 4_000);

    /// <inheritdoc />
    public void Dispose() => known.Dispose();

    /// <summary>The panel; null for a token that is unknown, revoked or renewed.</summary>
    /// <param name="token">From the address.</param>
    /// <param name="asAgenda">Whatever it is, what comes next: for a picture of it.</param>
    public EmbedPanel? Do(FeedToken token, bool asAgenda = false)
    {
        var hash = Secrets.HashOf(token);
        var now = clock.GetCurrentInstant();
        return database.Read(stores =>
        {
            if (
                stores.Publications.Find(PublicationKind.Embed, hash) is not { } publication
                || stores.School.Find() is not { } school
            )
                return null;
            var calendar = stores.Calendars.Get(publication.Calendar);
            if (calendar.DeletedAt is not null)
                return null;
            if (!calendar.IsInUse || calendar.OpensOn is not null || publication.PausedAt is not null)
                return new EmbedPanel(publication, calendar, school, now, []);
            var facts = CalendarFacts.Read(stores, publication.Calendar);
            var show = facts.For(school.Time, now, publication.Level, publication.Choices, null);
            var plans = facts.PlansFor(school.Time, publication.Level, null);
            var today = now.InZone(school.Time.Zone).Date;
            var shape = asAgenda ? EmbedShape.Agenda : publication.Options.Shape;
            var until = shape == EmbedShape.Agenda ? publication.Options.DaysOn(today).To : null;
            var sessions = plans.SelectMany(plan => plan.Sessions).Where(session => session.IsVisible);
            ImmutableArray<ShownSession> coming = shape is EmbedShape.Agenda or EmbedShape.Next or EmbedShape.Button
                ?
                [
                    .. sessions
                        .Where(session => session.EndsAt > now && (until is not { } day || session.Day < day))
                        .OrderBy(session => session.StartsAt)
                        .Take(publication.Options.Count ?? PublicationOptions.UsualCount)
                        .Select(show)
                        .OfType<ShownSession>(),
                ]
                : [];
            var start = school.Time.WeekOf(today);
            return new EmbedPanel(publication, calendar, school, now, coming)
            {
                Term =
                    shape == EmbedShape.Term && school.Time.TermToShow(today) is { } term
                        ? TermSheet.Of(term, school.Time, plans, show, now)
                        : null,
                Week =
                    shape == EmbedShape.Week
                        ? WeekSheet.Of(
                            start,
                            school.Time,
                            [
                                .. sessions
                                    .Where(session => start <= session.Day && session.Day < start.PlusWeeks(1))
                                    .Select(show)
                                    .OfType<ShownSession>()
                                    .Select(shown => new WeekSession(calendar, shown, false, null, []))
                                    .OrderBy(one => one.Shown.Session.StartsAt),
                            ],
                            new Dictionary<PersonId, string>()
                        )
                        : null,
                Picture = facts.Materials.FirstOrDefault(one => one.Id.Value == publication.Options.Picture)
                    is { } picture
                    ? facts.Show(
                        school.Time,
                        now,
                        picture,
                        publication.Level,
                        publication.Choices with
                        {
                            Materials = true,
                        },
                        null
                    )
                    : null,
                Materials =
                    shape == EmbedShape.Materials
                        ? [.. facts.ForEverySession(school.Time, now, publication.Level, publication.Choices, null)]
                        : [],
                ToBeDone =
                    shape == EmbedShape.Materials
                        ? facts.ToBeDone(school.Time, now, now, publication.Level, publication.Choices, null)
                        : [],
                // Above an agenda, what is pinned stands first; a board of notices shows nothing else.
                Notices = shape is EmbedShape.Notices or EmbedShape.Agenda
                    ?
                    [
                        .. facts
                            .NoticesFor(school.Time, publication.Level, publication.Choices, null, now)
                            .Take(shape == EmbedShape.Agenda ? 2 : 12),
                    ]
                    : [],
                Door =
                    shape is EmbedShape.Next or EmbedShape.Button
                    && coming.FirstOrDefault(one => one.Session.IsHeld)?.Join is { } code
                        ? doors.Glance(code, new AtDoor(Viewer.Visitor))
                        : null,
            };
        });
    }
}
