using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using NodaTime;

namespace JollyAlmanac.Application.Materials;

/// <summary>
/// Takes files in, whole or in parts, and keeps them for who sent them until they are attached. Nothing of a file that is refused, or
/// that nobody carries on with, stays.
/// </summary>
public sealed class SendFiles(
    Gate gate,
    AlmanacDatabase database,
    IClock clock,
    FileVault vault,
    UploadLimit limit,
    FileCheck check
)
{
    /// <summary>So long a file that is half in, or in and not attached, is kept.</summary>
    public static readonly Duration Waits = Duration.FromHours(24);

    /// <summary>So long what is taken off can come back; then its file goes.</summary>
    public static readonly Duration Grace = Duration.FromDays(30);

    // After nothing refers to a file any more: a form that was sent just then may mean it again.
    private static readonly Duration UnusedFor = Duration.FromHours(1);

    /// <summary>The most files that somebody has under way.</summary>
    public const int MostUnderWay = 60;

    /// <summary>Begins a file that comes in parts.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar it is for.</param>
    /// <param name="fileName">As the browser names it; only its last part is used.</param>
    /// <param name="size">In bytes.</param>
    public Outcome<UploadedFile> Begin(Viewer viewer, Slug slug, string? fileName, long size) =>
        Begin(viewer, slug, fileName, size, limit.InParts);

    private Outcome<UploadedFile> Begin(Viewer viewer, Slug slug, string? fileName, long size, long largest) =>
        gate.Write<UploadedFile>(Operation.SendFile, viewer, slug, at =>
        {
            var entry = new FormReader();
            var name = NameOf(entry, fileName);
            if (size == 0)
                entry.Wrong("Files", $"“{name}” is empty. Attach it again once it has something in it.");
            if (size > largest)
                entry.Wrong(
                    "Files",
                    $"“{name}” has {UploadLimit.InWords(size)}; a file may have {UploadLimit.InWords(largest)}. Make it smaller, or attach a link to it."
                );
            if (entry.IsGood && Quota(at.Stores, vault, limit, at.Calendar.Id, size) is { } full)
                entry.Wrong("Files", full);
            if (at.Stores.Uploads.Of(at.Person).Count >= MostUnderWay)
                entry.Wrong("Files", $"{MostUnderWay} of your files are under way already. Attach those first.");
            return !entry.IsGood
                ? new Outcome<UploadedFile>.Refused(entry.Problems)
                : new Outcome<UploadedFile>.Done(
                    at.Stores.Uploads.Add(
                        new UploadedFile(0, UploadKey.New(), at.Person, at.Calendar.Id, name, size, null),
                        at.Now
                    )
                );
        });

    /// <summary>How a file of somebody's stands: how much of it came; null where it is not theirs or not there any more.</summary>
    public (UploadedFile File, long Received)? Find(Viewer viewer, UploadKey key) =>
        database.Read(stores => Own(stores, viewer, key)) is { } upload
            ? (upload, upload.File is null ? vault.LengthOfPart(key) : upload.Size)
            : null;

    /// <summary>Takes the next part of a file; with the last one, the file is looked at and taken, or refused.</summary>
    /// <param name="viewer">Whose it is.</param>
    /// <param name="key">The file.</param>
    /// <param name="offset">Where in the file the part goes, in bytes.</param>
    /// <param name="part">The part; where its line is lost, what came is kept.</param>
    /// <param name="cancellation">The line is lost.</param>
    /// <returns>How much came so far. Stale where the part does not go on where the last one ended.</returns>
    public async Task<Outcome<long>> Add(
        Viewer viewer,
        UploadKey key,
        long offset,
        Stream part,
        CancellationToken cancellation
    )
    {
        if (viewer.LookedAtBy is not null)
            return new Outcome<long>.NotAllowed();
        if (Find(viewer, key) is not var (upload, received))
            return new Outcome<long>.NotFound();
        if (offset != received)
            return new Outcome<long>.Stale(null);
        if (upload.File is not null)
            return new Outcome<long>.Done(received);
        long length;
        try
        {
            (length, var isTooMuch) = await vault.AddToPart(key, offset, part, upload.Size - offset, cancellation);
            if (isTooMuch)
            {
                End(key);
                return Outcome.Because<long>(
                    "Files",
                    $"More came of “{upload.Name}” than it was said to have. Send it again."
                );
            }
        }
        catch (IOException failure) when (IsFull(failure))
        {
            return Outcome.Because<long>("Files", Full(upload.Name));
        }
        // Another request sends a part of the same file right now.
        catch (IOException)
        {
            return new Outcome<long>.Stale(null);
        }

        if (length < upload.Size)
        {
            database.Write(
                stores =>
                {
                    stores.Uploads.Touch(key, clock.GetCurrentInstant());
                    return true;
                },
                _ => true
            );
            return new Outcome<long>.Done(length);
        }

        return Take(upload).Select(taken => taken.Size);
    }

    /// <summary>Takes a file that came whole, with a form.</summary>
    public async Task<Outcome<UploadedFile>> Whole(
        Viewer viewer,
        Slug slug,
        Upload file,
        CancellationToken cancellation
    )
    {
        var begun = Begin(viewer, slug, file.FileName, file.Length, limit.Bytes);
        if (begun is not Outcome<UploadedFile>.Done { Value: var upload })
            return begun;
        await using var bytes = file.Open();
        var came = await Add(viewer, upload.Key, 0, bytes, cancellation);
        if (came.IsDone && Find(viewer, upload.Key) is { File: { File: not null } taken })
            return new Outcome<UploadedFile>.Done(taken);
        End(upload.Key);
        return came.Then(_ =>
            Outcome.Because<UploadedFile>("Files", $"Not all of “{upload.Name}” came. Send it again.")
        );
    }

    /// <summary>Ends a file that its sender does not want to attach after all.</summary>
    public bool Drop(Viewer viewer, UploadKey key)
    {
        if (viewer.LookedAtBy is not null || database.Read(stores => Own(stores, viewer, key)) is null)
            return false;
        End(key);
        return true;
    }

    /// <summary>
    /// Ends what nobody carried on with, and what was taken off long ago, and removes files that nothing refers to any more.
    /// </summary>
    /// <returns>How many files were removed.</returns>
    public int Tidy()
    {
        var now = clock.GetCurrentInstant();
        var old = database.Write(
            stores =>
            {
                stores.Materials.Forget(now - Grace);
                return stores.Uploads.EndOld(now - Waits);
            },
            _ => true
        );
        foreach (var key in old)
            vault.DropPart(key);
        vault.DropClaimed(DateTime.UtcNow - TimeSpan.FromHours(1));
        var (removed, noted) = (0, database.Read(stores => stores.Uploads.Unused()));
        foreach (var hash in vault.All().Union(noted.Keys).ToList())
        {
            // While this is written nobody attaches it: what is looked at here is so until it is gone.
            if (database.Read(stores => stores.Materials.Refers(hash)) && !noted.ContainsKey(hash))
                continue;
            database.Write(
                stores =>
                {
                    var isUsed = stores.Materials.Refers(hash);
                    var isDue = !isUsed && noted.TryGetValue(hash, out var since) && since <= now - UnusedFor;
                    stores.Uploads.Unused(hash, isUsed || isDue ? null : now);
                    if (!isDue)
                        return true;
                    vault.Remove(hash);
                    removed++;
                    return true;
                },
                _ => true
            );
        }

        return removed;
    }

    /// <summary>Reads the words of PDFs and documents that came since, one after another, so that they are found by what is in
    /// them.</summary>
    /// <param name="read">Reads those of the file at a path; they may be none.</param>
    /// <param name="stopping">Ends it; what was not read is read next time.</param>
    public async Task ReadWords(Func<string, CancellationToken, Task<string>> read, CancellationToken stopping)
    {
        while (database.Read(stores => stores.Uploads.Unread()) is { Count: > 0 } unread)
            foreach (var hash in unread)
            {
                var words = FormReader.Clean(
                    vault.Has(hash) ? await read(vault.PathOf(hash), stopping) : "",
                    keepLines: false
                );
                database.Write(
                    stores =>
                    {
                        stores.Uploads.Read(hash, words);
                        return true;
                    },
                    _ => true
                );
            }
    }

    /// <summary>Why so much more does not fit; null where it does.</summary>
    internal static string? Quota(Stores stores, FileVault vault, UploadLimit limit, CalendarId calendar, long more)
    {
        // Of what is under way, what has come counts: a file that was begun and never sent holds no room.
        long Came(IEnumerable<UploadedFile> uploads) =>
            uploads.Sum(one => one.File is null ? vault.LengthOfPart(one.Key) : one.Size);
        var underWay = stores.Uploads.UnderWay();
        var used = stores.Materials.BytesOf(calendar) + Came(underWay.Where(one => one.Calendar == calendar));
        if (used + more > limit.PerCalendar)
            return $"The files of this calendar have {UploadLimit.InWords(used)} of {UploadLimit.InWords(limit.PerCalendar)}; {UploadLimit.InWords(more)} more do not fit. Remove what is not needed any more, or attach a link.";
        return more > 0 && stores.Materials.BytesInAll() + Came(underWay) + more > limit.InAll
            ? $"The school's files have all the room there is ({UploadLimit.InWords(limit.InAll)}). Tell whoever runs the almanac, or attach a link."
            : null;
    }

    /// <summary>A file of somebody's that is in and was taken; null where there is none.</summary>
    internal static UploadedFile? Own(Stores stores, Viewer viewer, UploadKey key) =>
        stores.Uploads.Find(key) is { } upload && viewer.Person == upload.Person ? upload : null;

    // The last part of the name alone, as both kinds of systems part names.
    private static string NameOf(FormReader entry, string? fileName) =>
        entry.Line("Files", Path.GetFileName((fileName ?? "").Replace('\\', '/')), "A file's name", 150, needed: true);

    private Outcome<UploadedFile> Take(UploadedFile upload)
    {
        // Another request has the last part in hand, too: whoever is last with it takes the file.
        if (vault.Claim(upload.Key) is not { } claimed)
            return new Outcome<UploadedFile>.Stale(null);
        try
        {
            CheckedFile found;
            using (var bytes = vault.OpenPart(claimed))
            {
                if (bytes.Length != upload.Size)
                    return new Outcome<UploadedFile>.Stale(null);
                found = check.Of(bytes, upload.Name);
            }

            if (found.Kind is not { } kind)
            {
                End(upload.Key);
                return Outcome.Because<UploadedFile>("Files", found.Reason!);
            }

            var hash = vault.HashOfPart(claimed);
            var file = new MaterialContent.StoredFile(hash, upload.Name, kind.MediaType, upload.Size);
            return database.Write<Outcome<UploadedFile>>(
                stores =>
                {
                    if (stores.Uploads.Find(upload.Key) is not { } begun)
                        return new Outcome<UploadedFile>.NotFound();
                    if (begun.File is not null)
                        return new Outcome<UploadedFile>.Done(begun);
                    if (Quota(stores, vault, limit, upload.Calendar, upload.Size) is { } full)
                        return Outcome.Because<UploadedFile>("Files", full);
                    vault.Store(claimed, hash);
                    stores.Uploads.Taken(upload.Key, file, found.Words, clock.GetCurrentInstant());
                    return new Outcome<UploadedFile>.Done(upload with { File = file });
                },
                outcome => outcome.IsDone
            );
        }
        finally
        {
            vault.DropPart(claimed);
        }
    }

    private void End(UploadKey key)
    {
        database.Write(
            stores =>
            {
                stores.Uploads.End(key);
                return true;
            },
            _ => true
        );
        vault.DropPart(key.Value);
    }

    private static string Full(string name) =>
        $"There is no room left on the almanac's disk for “{name}”. Tell whoever runs the almanac; nothing of it is attached.";

    // No space left: ENOSPC, and as Windows has it.
    private static bool IsFull(IOException failure) => (failure.HResult & 0xFFFF) is 28 or 112;
}
