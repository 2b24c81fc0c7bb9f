using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.Files;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>Reads a material for whoever opens it by its address.</summary>
public sealed class MaterialQuery(AlmanacDatabase database, IClock clock, FileVault vault) : IDisposable
{
    /// <inheritdoc />
    public void Dispose() => opened.Dispose();

    /// <summary>Where the bytes of a file lie that somebody may open.</summary>
    public string PathOf(MaterialContent.StoredFile file) => vault.PathOf(file.Hash);

    /// <summary>Whether there was a material of that key that is taken off.</summary>
    public bool WasThere(MaterialKey key) => database.Read(stores => stores.Materials.WasThere(key));

    /// <summary>What a material was before, for those who may change it; null for anybody else.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="key">The material.</param>
    /// <param name="edition">Which of its contents, from 1.</param>
    public MaterialContent? FindEdition(Viewer viewer, MaterialKey key, int edition) =>
        Find(viewer, key) is not { } material
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
            ? Find(viewer, found.Key)
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

    private readonly EpochCache<(PersonId?, PersonId?, string, MaterialKey), Material> opened = new(
        database.Epoch,
        MostOpened
    );

    /// <summary>A material for a viewer; null where it is not theirs to open. A film is asked for in many parts: read once for as long as
    /// nothing at all is written, and nothing of its calendar is given or given no more.</summary>
    public Material? Find(Viewer viewer, MaterialKey key)
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

    private (Material Material, Instant Until)? ReadMaterial(Viewer viewer, MaterialKey key, Instant now) =>
        database.Read<(Material, Instant)?>(stores =>
        {
            if (stores.Materials.Find(key) is not { } material)
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
}
