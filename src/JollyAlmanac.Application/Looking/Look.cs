using System.Globalization;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Looking;

/// <summary>Reads what pages show, a file each. Whatever is read here went through <see cref="Redaction"/>.</summary>
public sealed partial class Look(
    Gate gate,
    AlmanacDatabase database,
    IClock clock,
    Doors doors,
    Switchboard switchboard,
    RoomProviders rooms,
    Secrets secrets,
    FileVault vault
) : IDisposable
{
    /// <inheritdoc />
    public void Dispose()
    {
        classPages.Dispose();
        cultures.Dispose();
        opened.Dispose();
    }

    /// <summary>The school, or null before the first run.</summary>
    public School? AtSchool() => database.Read(stores => stores.School.Find());

    /// <summary>
    /// The culture by which the school writes times and dates: by 12 or by 24 hours, the day or the month first. Read anew only when
    /// something was written.
    /// </summary>
    public CultureInfo Culture()
    {
        return cultures.Get(0, Instant.MinValue, _ =>
            (database.Read(stores => Culture(stores, null)), Instant.MaxValue, 1)
        )!;
    }

    /// <summary>The culture by which somebody reads: what they chose, and else the school's.</summary>
    public CultureInfo Culture(PersonId person) => database.Read(stores => Culture(stores, person));

    internal static CultureInfo Culture(Stores stores, PersonId? person)
    {
        var school = stores.School.Find();
        var (twelve, month) = person is { } one ? stores.People.WritingOf(one) : default;
        return Wording.Culture(twelve ?? school is { TwelveHours: true }, month ?? school is { Time.MonthFirst: true });
    }

    private readonly EpochCache<int, CultureInfo> cultures = new(database, capacity: 1);

    /// <summary>Somebody by their address, for the terminal of whoever has all the data anyway; null for nobody.</summary>
    public Viewer? AtPerson(string email) =>
        database.Read(stores =>
            stores.People.FindByEmail(email) is { } found ? stores.People.ViewerOf(found.Person.Id) : null
        );

    /// <summary>The ribbon of the term around today, over the viewer's own calendars or over one calendar; null without a term.</summary>
    public TermRibbon? AtRibbon(Viewer viewer, string? slug) =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var today = clock.GetCurrentInstant().InZone(school.Time.Zone).Date;
            if (school.Time.TermToShow(today) is not { } term)
                return null;
            var plans =
                slug is not null && CalendarContext.Find(stores, viewer, slug) is { } calendarContext
                    ? CalendarFacts
                        .Read(stores, calendarContext.Calendar.Id)
                        .PlansFor(school.Time, calendarContext.Level, viewer)
                    : Own(stores, viewer).SelectMany(own => own.Facts.PlansFor(school.Time, own.Level, viewer));
            return TermRibbon.Of(term, school.Time, plans, today);
        });

    /// <summary>Where the bytes of a file lie that somebody may open.</summary>
    public string PathOf(MaterialContent.StoredFile file) => vault.PathOf(file.Hash);

    /// <summary>Whether there was a material of that key that is taken off.</summary>
    public bool HadMaterial(string key) =>
        key.Length == Secrets.TokenLength && database.Read(stores => stores.Materials.WasThere(key));

    /// <summary>What a material was before, for those who may change it; null for anybody else.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="key">The material.</param>
    /// <param name="edition">Which of its contents, from 1.</param>
    public MaterialContent? AtEdition(Viewer viewer, string key, int edition) =>
        AtMaterial(viewer, key) is not { } material
            ? null
            : database.Read(stores =>
            {
                var series = material.Series is { } id ? stores.Series.Find(id) : null;
                return
                    viewer.Person is { } person
                    && AccessRules.May(
                        Permission.ChangeSeries,
                        AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(material.Calendar)),
                        series?.MadeBy == person
                    )
                    ? stores.Materials.EditionsOf(material.Id).FirstOrDefault(one => one.Number == edition)?.Content
                    : null;
            });

    /// <summary>The captions that stand beside a film or sound: of the same place, and of the same name; null for none.</summary>
    public Material? CaptionsOf(Viewer viewer, Material material) =>
        material.Content is not MaterialContent.StoredFile file ? null
        : database.Read(stores =>
            CalendarFacts
                .Read(stores, material.Calendar)
                .MaterialsOf.Beside(material)
                .FirstOrDefault(one =>
                    one.Content is MaterialContent.StoredFile { MediaType: "text/vtt" } captions
                    && string.Equals(
                        Path.GetFileNameWithoutExtension(captions.Name),
                        Path.GetFileNameWithoutExtension(file.Name),
                        StringComparison.OrdinalIgnoreCase
                    )
                )
        )
            is { } found
            ? AtMaterial(viewer, found.Key)
        : null;

    /// <summary>The small picture of a picture, made once; null where there is none to be had.</summary>
    /// <param name="file">The picture.</param>
    /// <param name="thumbnails">Makes it.</param>
    /// <param name="stopping">Ends the waiting.</param>
    public async Task<string?> SmallPictureOf(
        MaterialContent.StoredFile file,
        IThumbnails thumbnails,
        CancellationToken stopping
    )
    {
        if (!FileKind.OfMediaType(file.MediaType).IsPicture)
            return null;
        var path = vault.PictureOf(file.Hash);
        if (File.Exists(path))
            return path;
        if (await thumbnails.Of(vault.PathOf(file.Hash), stopping) is not { } picture)
            return null;
        vault.KeepPicture(file.Hash, picture);
        return path;
    }

    private const int MostOpened = 4_000;

    private readonly EpochCache<(PersonId?, PersonId?, string, string), Material> opened = new(database, MostOpened);

    /// <summary>A material for a viewer; null where it is not theirs to open. A film is asked for in many parts: read once for as long as
    /// nothing at all is written, and nothing of its calendar is given or given no more.</summary>
    public Material? AtMaterial(Viewer viewer, string key)
    {
        var now = clock.GetCurrentInstant();
        var known = (
            viewer.Person,
            viewer.LookedAtBy?.Person,
            string.Join(' ', viewer.Groups.Select(group => group.Value).Order()),
            key
        );
        return opened.Get(known, now, _ =>
            ReadMaterial(viewer, key, now) is var (material, until) ? (material, until, 1) : null
        );
    }

    private (Material Material, Instant Until)? ReadMaterial(Viewer viewer, string key, Instant now) =>
        database.Read<(Material, Instant)?>(stores =>
        {
            if (key.Length != Secrets.TokenLength || stores.Materials.Find(key) is not { } material)
                return null;
            if (stores.School.Find() is not { } school)
                return null;
            var grants = stores.Calendars.GrantsOf(material.Calendar);
            // What was in a class that is put away is there for those who were in it.
            if (!stores.Calendars.Get(material.Calendar).IsInUse && !CalendarContext.HadPart(viewer, grants))
                return null;
            var level = AccessRules.LevelOf(viewer, grants);
            var facts = CalendarFacts.Read(stores, material.Calendar);
            var series = facts.Series.FirstOrDefault(one => one.Id == material.Series);
            // What is on a series that cannot be read is nobody's to open.
            if (series is null && material.Series is not null)
                return null;
            if (!AccessRules.IsFor(series?.OnlyFor, level, viewer, material.Calendar))
                return null;
            var onIt = series is null ? level : Redaction.LevelOn(series, level, viewer);
            var isGiven = material.IsReleased(facts.SessionOf(school.Time, material), now, school.Time.Zone);
            // By its address alone, too, only those get it whom it is for.
            return
                Redaction.Show(material, isGiven, series, level, ShowChoices.Working, viewer) is { } shown
                && (
                    material.Audience == MaterialAudience.Anyone
                    || (viewer.Person is not null && AccessRules.May(Permission.SeeDetails, onIt))
                )
                ? (shown, facts.NextRelease(school.Time, now))
                : null;
        });

    // A calendar as a viewer stands to it; what stands on it is read when it is asked for.
    private sealed record Standing(Calendar Calendar, AccessLevel Level, Lazy<CalendarFacts> Read, bool IsOwn)
    {
        public CalendarFacts Facts => Read.Value;
    }

    // The viewer's own calendars: granted by name, or as a member of a class list.
    private static List<Standing> Own(Stores stores, Viewer viewer) =>
        Stand(stores, viewer, stores.Calendars.InUse(stores.Calendars.OwnOf(viewer))).FindAll(one => one.IsOwn);

    private static List<Standing> Stand(Stores stores, Viewer viewer, IReadOnlyList<Calendar> calendars)
    {
        var grants = stores.Calendars.GrantsFor(viewer, [.. calendars.Select(calendar => calendar.Id)]);
        var lists = stores.Groups.ClassLists([
            .. grants
                .SelectMany(group => group)
                .Select(grant => grant.To)
                .OfType<Grantee.OneGroup>()
                .Select(to => to.Group)
                .Distinct(),
        ]);
        return
        [
            .. calendars
                .Select(calendar => new Standing(
                    calendar,
                    AccessRules.LevelOf(viewer, grants[calendar.Id]),
                    new Lazy<CalendarFacts>(() => CalendarFacts.Read(stores, calendar.Id)),
                    AccessRules.IsOwn(viewer, grants[calendar.Id], lists)
                ))
                .Where(one => one.Level > AccessLevel.None),
        ];
    }
}
