using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using JollyAlmanac.Storage.Files;
using NodaTime;

namespace JollyAlmanac.Application.Materials;

/// <summary>A material as its keepers see it.</summary>
/// <param name="Material">The material.</param>
/// <param name="IsReleased">Those it is for have it now.</param>
/// <param name="From">From when on it is given, where that is still to come and known.</param>
/// <param name="Editions">How many contents it had before.</param>
public sealed record MaterialItem(Material Material, bool IsReleased, Instant? From, int Editions);

/// <summary>Materials that stand beside each other.</summary>
/// <param name="Spot">Where they hang.</param>
/// <param name="Kept">In their order.</param>
/// <param name="IsMissing">There is none for this session, where the others have some.</param>
public sealed record MaterialsThere(MaterialSpot Spot, ImmutableArray<MaterialItem> Kept, bool IsMissing);

/// <summary>The materials of one series.</summary>
/// <param name="Plan">Its sessions.</param>
/// <param name="Every">Those for every session.</param>
/// <param name="Sessions">The sessions that are shown, each with its own.</param>
/// <param name="Left">How many of its sessions are not shown.</param>
public sealed record MaterialsOnSeries(
    Plan Plan,
    MaterialsThere Every,
    ImmutableArray<MaterialsThere> Sessions,
    int Left
);

/// <summary>All materials of a calendar, for those who keep them.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Whole">Those for the whole calendar; null where they are not the viewer's to change.</param>
/// <param name="Series">The series that are the viewer's to change.</param>
/// <param name="Some">For whom things can be.</param>
/// <param name="Used">The bytes of the calendar's files.</param>
/// <param name="Limit">How much there may be.</param>
/// <param name="UsedInAll">The bytes of all files; null for who does not look after the school.</param>
public sealed record MaterialsView(
    School School,
    Instant Now,
    Calendar Calendar,
    MaterialsThere? Whole,
    ImmutableArray<MaterialsOnSeries> Series,
    AudienceChoices Some,
    long Used,
    UploadLimit Limit,
    long? UsedInAll
)
{
    /// <summary>The headings that there are, in their order.</summary>
    public IReadOnlyList<string> Headings { get; init; } = [];

    /// <summary>A material of another calendar that is to be copied here; null for none.</summary>
    public (Calendar From, Material Material)? Taken { get; init; }
}

/// <summary>One material, for those who keep it.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Kept">The material.</param>
/// <param name="Spot">Where it hangs; null where its session is gone.</param>
/// <param name="Places">Where it can hang.</param>
/// <param name="Editions">What it was before, the newest first.</param>
/// <param name="Some">For whom things can be.</param>
/// <param name="Others">Further calendars that it can be taken to.</param>
public sealed record MaterialView(
    School School,
    Instant Now,
    Calendar Calendar,
    MaterialItem Kept,
    MaterialSpot? Spot,
    ImmutableArray<MaterialSpot> Places,
    IReadOnlyList<Edition> Editions,
    AudienceChoices Some,
    IReadOnlyList<Calendar> Others
)
{
    /// <summary>The headings that there are, in their order.</summary>
    public IReadOnlyList<string> Headings { get; init; } = [];
}

/// <summary>Attaches materials, changes them, puts them in order and takes them off.</summary>
public sealed class EditMaterials(Gate gate, UploadLimit limit, FileVault vault)
{
    // Of a series that goes on for a year, those around today are what one works with.
    private const int Behind = 2,
        Ahead = 8;

    /// <summary>The longest heading.</summary>
    public const int LongestHeading = 80;

    /// <summary>The most that is attached in one go.</summary>
    public const int MostAtOnce = 60;

    /// <summary>The materials of a calendar.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="all">All sessions, not only those around today.</param>
    /// <param name="take">The key of a material of another calendar that is to be copied here; null for none.</param>
    public Outcome<MaterialsView> View(Viewer viewer, Slug slug, bool all = false, MaterialKey? take = null) =>
        gate.Read<MaterialsView>(Operation.SeeMaterials, viewer, slug, at =>
        {
            var (stores, school, now) = (at.Stores, at.School.Time, at.Now);
            var facts = CalendarFacts.Read(stores, at.Calendar.Id);
            var of = facts.MaterialsOf;
            var editions = stores.Materials.EditionsOn(at.Calendar.Id);
            MaterialsThere There(MaterialSpot spot, bool isMissing = false) =>
                new(
                    spot,
                    [
                        .. of.At(spot.Series?.Id, spot.Session)
                            .Select(one =>
                                Kept(one, spot.Session, now, school.Zone, editions.GetValueOrDefault(one.Id))
                            ),
                    ],
                    isMissing
                );
            var series = facts
                .Plans(school)
                .Where(plan => at.May(plan.Of))
                .Select(plan =>
                {
                    var missing = MissingMaterials.Of(plan, of, now);
                    var held = plan.Held.ToList();
                    var first = all
                        ? 0
                        : Math.Max(
                            0,
                            held.FindIndex(session => session.EndsAt > now) is var next && next < 0
                                ? held.Count - Behind
                                : next - Behind
                        );
                    var shown = held.Skip(first).Take(all ? int.MaxValue : Behind + Ahead).ToList();
                    return new MaterialsOnSeries(
                        plan,
                        There(new MaterialSpot(plan.Of, null)),
                        [
                            .. shown.Select(session =>
                                There(new MaterialSpot(plan.Of, session), missing.Contains(session))
                            ),
                        ],
                        held.Count - shown.Count
                    );
                })
                .ToImmutableArray();
            return new Outcome<MaterialsView>.Done(
                new MaterialsView(
                    at.School,
                    now,
                    at.Calendar,
                    at.Context.May(Permission.ChangeSeries) ? There(new MaterialSpot(null, null)) : null,
                    series,
                    AudienceReader.Choices(stores, at.Context.Grants, of.All.Select(one => one.OnlyFor)),
                    stores.Materials.BytesOf(at.Calendar.Id),
                    limit,
                    AccessRules.MayAtSchool(Permission.KeepSchool, viewer.Role) ? stores.Materials.BytesInAll() : null
                )
                {
                    Headings = of.Headings,
                    Taken =
                        take is { } key && Elsewhere(stores, viewer, key) is var (from, taken)
                            ? (from.Calendar, taken)
                            : null,
                }
            );
        });

    /// <summary>One material.</summary>
    public Outcome<MaterialView> One(Viewer viewer, Slug slug, long id) =>
        gate.Read<MaterialView>(Operation.SeeMaterials, viewer, slug, at =>
        {
            var facts = CalendarFacts.Read(at.Stores, at.Calendar.Id);
            if (Find(at, facts, id) is not { } material)
                return new Outcome<MaterialView>.NotFound();
            var (stores, school) = (at.Stores, at.School.Time);
            var plans = facts.Plans(school).Where(plan => at.May(plan.Of)).ToList();
            var session = facts.SessionOf(school, material);
            var editions = stores.Materials.EditionsOf(material.Id);
            return new Outcome<MaterialView>.Done(
                new MaterialView(
                    at.School,
                    at.Now,
                    at.Calendar,
                    Kept(material, session, at.Now, school.Zone, editions.Count),
                    material.ForSession is not null && session is not { IsHeld: true }
                        ? null
                        : new MaterialSpot(facts.Series.FirstOrDefault(one => one.Id == material.Series), session),
                    [
                        .. at.Context.May(Permission.ChangeSeries)
                            ? [new MaterialSpot(null, null)]
                            : ImmutableArray<MaterialSpot>.Empty,
                        .. plans.SelectMany(plan =>
                            plan.Held.Select(one => new MaterialSpot(plan.Of, one))
                                .Prepend(new MaterialSpot(plan.Of, null))
                        ),
                    ],
                    editions,
                    AudienceReader.Choices(stores, at.Context.Grants, [material.OnlyFor]),
                    [
                        .. CalendarContext
                            .CalendarsFor(stores, viewer, Permission.ChangeSeries)
                            .Where(other => other.Id != at.Calendar.Id),
                    ]
                )
                {
                    Headings = facts.MaterialsOf.Headings,
                }
            );
        });

    /// <summary>Where several files would go on a series, by their names; nothing is attached yet.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="series">The series.</param>
    /// <param name="uploads">The keys of files that are in, in the order they were chosen in.</param>
    public Outcome<IReadOnlyList<(UploadedFile File, MatchedFile Dealt)>> Deal(
        Viewer viewer,
        Slug slug,
        SeriesId series,
        IReadOnlyList<UploadKey> uploads
    ) => gate.Read<IReadOnlyList<(UploadedFile, MatchedFile)>>(Operation.AttachMaterial, viewer, slug, at =>
        {
            var facts = CalendarFacts.Read(at.Stores, at.Calendar.Id);
            if (
                facts.Plans(at.School.Time).FirstOrDefault(one => one.Of.Id == series) is not { } plan
                || !at.May(plan.Of)
            )
                return new Outcome<IReadOnlyList<(UploadedFile, MatchedFile)>>.NotFound();
            var files = uploads
                .Take(MostAtOnce)
                .Select(key => SendFiles.Own(at.Stores, viewer, key))
                .OfType<UploadedFile>()
                .Where(file => file.File is not null && file.Calendar == at.Calendar.Id)
                .ToList();
            return new Outcome<IReadOnlyList<(UploadedFile, MatchedFile)>>.Done([
                .. files.Zip(
                    MaterialMatching.Of(
                        [.. files.Select(file => file.Name)],
                        [.. plan.Held],
                        at.Now,
                        facts.HasOwnMaterials
                    )
                ),
            ]);
        });

    /// <summary>Attaches files that are in, and a link.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="items">The files, each with where it goes; one without an upload is the link.</param>
    /// <param name="address">The link; empty for none.</param>
    /// <param name="details">What is said of all of them.</param>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> Attach(
        Viewer viewer,
        Slug slug,
        IReadOnlyList<AttachItem> items,
        string? address,
        MaterialDetails details
    ) => gate.Write<string>(Operation.AttachMaterial, viewer, slug, at =>
        {
            var entry = new FormReader();
            var facts = CalendarFacts.Read(at.Stores, at.Calendar.Id);
            var link = string.IsNullOrWhiteSpace(address) ? null : entry.Address("Address", address, "The link");
            if (items.Count > MostAtOnce)
                entry.Wrong("Files", $"These are {items.Count} files; {MostAtOnce} may come in one go.");
            var taken = new List<(MaterialSpot? Spot, MaterialContent Content, string Name, UploadedFile? File)>();
            foreach (var item in items.Take(MostAtOnce))
            {
                if (item.Upload is not { } key)
                {
                    if (link is not null)
                        taken.Add(
                            (
                                MaterialForm.Spot(entry, at, facts, "Place", item.Place),
                                new MaterialContent.Link(link),
                                details.IsRecording ? "Recording" : link.IdnHost,
                                null
                            )
                        );
                }
                else if (
                    SendFiles.Own(at.Stores, viewer, key) is { File: { } file } upload
                    && upload.Calendar == at.Calendar.Id
                    && vault.Has(file.Hash)
                )
                    taken.Add((MaterialForm.Spot(entry, at, facts, "Place", item.Place), file, file.Name, upload));
                else
                    entry.Wrong(
                        "Files",
                        "A file is not there any more: it was attached already, or waited for more than a day. Send it again."
                    );
            }

            if (entry.IsGood && taken.Count == 0)
                entry.Wrong("Files", "Choose a file, or paste a link.");
            var read = Details(entry, at, details, taken.TrueForAll(one => one.Spot?.Session is not null), null);
            if (details.IsRecording && taken.Exists(one => one.Spot is { Session: null }))
                entry.Wrong("IsRecording", "A recording is of one session. Choose the session it was made in.");
            if (SendFiles.Quota(at.Stores, vault, limit, at.Calendar.Id, 0) is { } full)
                entry.Wrong("Files", full);
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            var added = new List<Material>();
            foreach (var (spot, content, name, upload) in taken)
            {
                var material = read(
                    new Material(
                        default,
                        at.Calendar.Id,
                        spot!.Series?.Id,
                        spot.Session?.Original,
                        MaterialKey.New(),
                        name,
                        content,
                        MaterialAudience.Anyone
                    ),
                    taken.Count == 1
                );
                added.Add(
                    at.Stores.Materials.Add(
                        material,
                        at.Person,
                        at.Now,
                        upload is null ? "" : at.Stores.Uploads.WordsOf(upload.Key)
                    )
                );
                if (upload is not null)
                    at.Stores.Uploads.End(upload.Key);
            }

            var to = taken.Select(one => one.Spot!.InWords).Distinct().ToList();
            return Noted(
                at,
                [
                    .. added.Select(one =>
                        (MaterialState.Of(one, takenOff: true), MaterialState.Of(one, takenOff: false))
                    ),
                ],
                $"attached {(added.Count == 1 ? added[0].Title : Wording.Count(added.Count, "material", "materials"))} to {(to.Count > 3 ? Wording.Count(to.Count, "session", "sessions") : Wording.List(to))}"
            );
        });

    /// <summary>Changes what is said of a material, when and to whom it is given, and where it hangs.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The material.</param>
    /// <param name="place">Where it is to hang; null to leave it.</param>
    /// <param name="details">What is said of it.</param>
    /// <param name="version">The material's version that the form was made from.</param>
    public Outcome<string> Change(
        Viewer viewer,
        Slug slug,
        long id,
        string? place,
        MaterialDetails details,
        int version
    ) => Write(Operation.ChangeMaterial, viewer, slug, id, version, (at, facts, material) =>
        {
            var entry = new FormReader();
            var spot = place is null
                ? new MaterialSpot(
                    facts.Series.FirstOrDefault(one => one.Id == material.Series),
                    facts.SessionOf(at.School.Time, material)
                )
                : MaterialForm.Spot(entry, at, facts, "Place", place);
            var read = Details(entry, at, details, spot?.Session is not null, material.OnlyFor);
            if (details.IsRecording && spot is { Session: null })
                entry.Wrong("IsRecording", "A recording is of one session. Choose the session it was made in.");
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            var changed = read(material with { Title = NameOf(material.Content, material.IsRecording) }, true);
            if (place is not null)
                changed = changed with { Series = spot!.Series?.Id, ForSession = spot.Session?.Original };
            return Store(
                at,
                material,
                changed,
                $"changed {changed.Title}{(place is not null && (changed.Series, changed.ForSession) != (material.Series, material.ForSession) ? $", and moved it to {spot!.InWords}" : "")}"
            );
        });

    /// <summary>Gives a material now, that waited.</summary>
    public Outcome<string> Give(Viewer viewer, Slug slug, long id, int version) =>
        Write(Operation.GiveMaterial, viewer, slug, id, version, (at, _, material) =>
            Store(
                at,
                material,
                material with
                {
                    Release = Release.Now,
                    LastDay = material.LastDay < at.Today ? null : material.LastDay,
                },
                $"gave {material.Title}"
            )
        );

    /// <summary>Puts another file or link in a material's place; its address stays, and what it was is kept for its keepers.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The material.</param>
    /// <param name="upload">The key of a file that is in; null for a link.</param>
    /// <param name="address">The link.</param>
    /// <param name="version">The material's version that the form was made from.</param>
    public Outcome<string> Replace(
        Viewer viewer,
        Slug slug,
        long id,
        UploadKey? upload,
        string? address,
        int version
    ) => Write(Operation.ReplaceMaterial, viewer, slug, id, version, (at, _, material) =>
        {
            var entry = new FormReader();
            var file = upload is { } key ? SendFiles.Own(at.Stores, viewer, key) : null;
            var link =
                file is null && !string.IsNullOrWhiteSpace(address)
                    ? entry.Address("NewAddress", address, "The link")
                    : null;
            MaterialContent? content =
                link is not null ? new MaterialContent.Link(link)
                : file is { File: { } taken } && file.Calendar == at.Calendar.Id && vault.Has(taken.Hash) ? taken
                : null;
            if (entry.IsGood && content is null)
                entry.Wrong("NewFile", "Choose the file that takes its place, or paste a link.");
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            at.Stores.Materials.Replace(
                material,
                file is null ? "" : at.Stores.Uploads.WordsOf(file.Key),
                at.Person,
                at.Now
            );
            if (file is not null)
                at.Stores.Uploads.End(file.Key);
            // A title that somebody gave stays; one that was only the file's name goes on being so.
            var title =
                material.Title == NameOf(material.Content, material.IsRecording)
                    ? NameOf(content!, material.IsRecording)
                    : material.Title;
            return Store(
                at,
                material,
                material with
                {
                    Content = content!,
                    Title = title,
                    Edition = material.Edition + 1,
                },
                $"put a new version in the place of {material.Title}"
            );
        });

    /// <summary>Takes a material off; it can be undone until its file goes.</summary>
    public Outcome<string> Remove(Viewer viewer, Slug slug, long id, int version) =>
        Write(Operation.RemoveMaterial, viewer, slug, id, version, (at, _, material) =>
            Store(at, material, material, $"took {material.Title} off", takenOff: true)
        );

    /// <summary>Puts the materials that stand beside each other in an order.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="order">
    /// The ids of some of them, first to last: they take the places that they have among them, and the others keep theirs.
    /// </param>
    public Outcome<string> Order(Viewer viewer, Slug slug, IReadOnlyList<long> order) =>
        gate.Write<string>(Operation.OrderMaterials, viewer, slug, at =>
        {
            var facts = CalendarFacts.Read(at.Stores, at.Calendar.Id);
            var named = order.Distinct().Select(id => Find(at, facts, id)).ToList();
            if (named.Count == 0 || named.Contains(null))
                return new Outcome<string>.NotFound();
            var first = named[0]!;
            var beside = facts.MaterialsOf.Beside(first).ToList();
            if (named.Exists(one => !beside.Contains(one!)))
                return Outcome.Because<string>(
                    "",
                    "They do not stand beside each other any more. Look at the page again."
                );
            var next = new Queue<MaterialId>(named.Select(one => one!.Id));
            at.Stores.Materials.Order([.. beside.Select(one => named.Contains(one) ? next.Dequeue() : one.Id)]);
            at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
            at.Note(
                HistorySubject.Material,
                first.Id.Value,
                $"put the materials beside {first.Title} in another order"
            );
            return new Outcome<string>.Done("They stand in their new order.");
        });

    /// <summary>Copies a material of this or another calendar, or moves it here from another one.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar it goes to.</param>
    /// <param name="key">The key of the material.</param>
    /// <param name="place">Where it goes there.</param>
    /// <param name="move">It is taken off where it was.</param>
    public Outcome<string> Copy(Viewer viewer, Slug slug, MaterialKey key, string? place, bool move) =>
        gate.Write<string>(Operation.CopyMaterial, viewer, slug, at =>
        {
            if (Elsewhere(at.Stores, viewer, key) is not var (from, material))
                return new Outcome<string>.NotFound();
            var entry = new FormReader();
            var facts = CalendarFacts.Read(at.Stores, at.Calendar.Id);
            var spot = MaterialForm.Spot(entry, at, facts, "Place", place);
            var isHere = from.Calendar.Id == at.Calendar.Id;
            var size = !isHere && material.Content is MaterialContent.StoredFile file ? file.Size : 0;
            if (SendFiles.Quota(at.Stores, vault, limit, at.Calendar.Id, size) is { } full)
                entry.Wrong("Place", full);
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            // For whom it was there says nothing here; one that was for some goes to nobody before somebody says to whom.
            var waits = !isHere && material.OnlyFor is not null;
            var copy = at.Stores.Materials.Add(
                material with
                {
                    Calendar = at.Calendar.Id,
                    Series = spot!.Series?.Id,
                    ForSession = spot.Session?.Original,
                    Key = MaterialKey.New(),
                    OnlyFor = isHere ? material.OnlyFor : null,
                    IsRecording = material.IsRecording && spot.Session is not null,
                    Due = material.Due is Due.WithSession && spot.Session is null ? null : material.Due,
                    Release =
                        waits || (material.Release is Release.WithSession && spot.Session is null)
                            ? new Release.ByHand()
                            : material.Release,
                },
                at.Person,
                at.Now,
                at.Stores.Materials.WordsOf(material.Id)
            );
            if (move && from.Calendar.Id is var source)
            {
                if (!at.Stores.Materials.Change(material, takenOff: true, material.Version, at.Now))
                    return new Outcome<string>.Stale(null);
                at.Stores.Calendars.Touch(source, at.Now);
                at.Stores.History.Add(
                    at.Now,
                    at.Person,
                    source,
                    HistorySubject.Material,
                    material.Id.Value,
                    Operation.CopyMaterial.Name,
                    $"moved {material.Title} to {at.Calendar.Title}",
                    MaterialState.Write([MaterialState.Of(material, takenOff: false)]),
                    MaterialState.Write([MaterialState.Of(material, takenOff: true)])
                );
            }

            return Noted(
                at,
                [(MaterialState.Of(copy, takenOff: true), MaterialState.Of(copy, takenOff: false))],
                $"{(move ? "moved" : "copied")} {material.Title} {(isHere ? "" : $"from {from.Calendar.Title} ")}to {spot.InWords}{(waits ? "; it waits, as it was for some only" : "")}"
            );
        });

    // A material of any calendar that the viewer may change.
    private static (AtCalendar Calendar, Material Material)? Elsewhere(Stores stores, Viewer viewer, MaterialKey key)
    {
        if (stores.Materials.Find(key) is not { } material)
            return null;
        var slug = stores.Calendars.Get(material.Calendar).Slug;
        if (CalendarContext.Find(stores, viewer, slug) is not { } calendarContext)
            return null;
        var at = new AtCalendar(Operation.CopyMaterial, stores, viewer, calendarContext, default);
        return
            viewer.Person is not null
            && Find(at, CalendarFacts.Read(stores, material.Calendar), material.Id.Value) is not null
            ? (at, material)
            : null;
    }

    // One of the calendar's that the viewer may change; null for any other.
    private static Material? Find(AtCalendar at, CalendarFacts facts, long id) =>
        facts.Materials.FirstOrDefault(one => one.Id.Value == id) is not { } material ? null
        : material.Series is null
            ? at.Context.May(Permission.ChangeSeries) ? material
                : null
        : facts.Series.FirstOrDefault(one => one.Id == material.Series) is { } series && at.May(series) ? material
        : null;

    private Outcome<string> Write(
        Operation operation,
        Viewer viewer,
        Slug slug,
        long id,
        int version,
        Func<AtCalendar, CalendarFacts, Material, Outcome<string>> keep
    ) => gate.Write<string>(operation, viewer, slug, at =>
        {
            var facts = CalendarFacts.Read(at.Stores, at.Calendar.Id);
            return Find(at, facts, id) is not { } material ? new Outcome<string>.NotFound()
                : material.Version != version ? at.Stale<string>(HistorySubject.Material, id)
                : keep(at, facts, material);
        });

    private static Outcome<string> Store(
        AtCalendar at,
        Material before,
        Material after,
        string summary,
        bool takenOff = false
    ) =>
        at.Stores.Materials.Change(after, takenOff, before.Version, at.Now)
            ? Noted(at, [(MaterialState.Of(before, takenOff: false), MaterialState.Of(after, takenOff))], summary)
            : at.Stale<string>(HistorySubject.Material, before.Id.Value);

    private static Outcome<string> Noted(
        AtCalendar at,
        IReadOnlyList<(MaterialState Before, MaterialState After)> states,
        string summary
    )
    {
        at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
        at.Note(
            HistorySubject.Material,
            states[0].After.Id,
            summary,
            MaterialState.Write(states.Select(one => one.Before)),
            MaterialState.Write(states.Select(one => one.After))
        );
        return new Outcome<string>.Done(Wording.Capital(summary) + ".");
    }

    // What a form says of materials, to be put on each of them.
    private static Func<Material, bool, Material> Details(
        FormReader entry,
        AtCalendar at,
        MaterialDetails details,
        bool hasSession,
        Audience? stored
    )
    {
        var title = entry.Line("Title", details.Title, "The title", 200, needed: false);
        var note = entry.Lines("Note", details.Note, "The note", MaterialForm.LongestNote);
        var (release, last) = MaterialForm.Release(entry, details.Release ?? new ReleaseInput(), hasSession);
        var due = MaterialForm.Due(entry, details.Due ?? new DueInput(), hasSession);
        var heading = entry.Line("Heading", details.Heading, "The heading", LongestHeading, needed: false);
        var only = AudienceReader.Read(
            entry,
            "Only",
            details.Only ?? new AudienceInput(),
            at.Stores,
            at.Context.Grants,
            stored
        );
        return (material, isOne) =>
            material with
            {
                // A title is for one thing; several keep the names of their files.
                Title = isOne && title.Length > 0 ? title : material.Title,
                Note = note,
                Audience = details.PeopleOnly ? MaterialAudience.PeopleOfTheCalendar : MaterialAudience.Anyone,
                IsRecording = details.IsRecording,
                Release = release,
                LastDay = last,
                OnlyFor = only,
                Due = due,
                Heading = heading,
            };
    }

    private static MaterialItem Kept(
        Material material,
        Session? session,
        Instant now,
        DateTimeZone school,
        int editions
    ) =>
        new(
            material,
            material.IsReleased(session, now, school),
            material.Release.Moment(material.ForSession is null ? null : session, school) is { } from && from > now
                ? from
                : null,
            editions
        );

    private static string NameOf(MaterialContent content, bool isRecording) =>
        content switch
        {
            MaterialContent.StoredFile file => file.Name,
            // Where it lies says nothing of a recording; what it is does.
            MaterialContent.Link when isRecording => "Recording",
            MaterialContent.Link link => link.Address.IdnHost,
            _ => "",
        };
}
