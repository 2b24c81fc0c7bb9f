using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Formats;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.People;

/// <summary>What is chosen beside a list.</summary>
/// <param name="Role">What those are of whom the list does not say it.</param>
/// <param name="Group">The name of a group that all of them come into; empty for none.</param>
/// <param name="Kind">What that group stands for, where it is new.</param>
/// <param name="Columns">For a table: which column is which, in place of what their names say; null to go by the names.</param>
/// <param name="EndGone">Those who are gone leave, and who is missing from a group leaves it.</param>
/// <param name="Invite">Those who are new and have an address are invited.</param>
public sealed record RosterImportChoices(
    SchoolRole Role = SchoolRole.Student,
    string? Group = null,
    GroupKind Kind = GroupKind.ClassList,
    IReadOnlyDictionary<PeopleColumn, int>? Columns = null,
    bool EndGone = false,
    bool Invite = false
);

/// <summary>A list that is being reviewed.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Plan">What taking it in would do.</param>
/// <param name="Remarks">What was noticed in reading it.</param>
/// <param name="Doubles">How many lines said again what another had said.</param>
/// <param name="Table">For a table: the names of its columns; else empty.</param>
/// <param name="Columns">For a table: which column is which.</param>
/// <param name="HasGone">There are some who are gone, or missing from a group.</param>
/// <param name="Names">The names of those who are missing from a group.</param>
public sealed record RosterImportReview(
    long Id,
    RosterPlan Plan,
    ImmutableArray<string> Remarks,
    int Doubles,
    ImmutableArray<string> Table,
    IReadOnlyDictionary<PeopleColumn, int> Columns,
    bool HasGone,
    IReadOnlyDictionary<PersonId, string> Names
);

/// <summary>What taking a list in did.</summary>
/// <param name="New">How many nobody knew.</param>
/// <param name="Changed">How many are different now.</param>
/// <param name="Same">How many were known as they are.</param>
/// <param name="Gone">How many the list does not have any more: people, and members of its groups.</param>
/// <param name="Refused">The lines that were not taken in.</param>
/// <param name="Group">The group that all of them came into; null for none.</param>
/// <param name="Invited">How many were invited.</param>
public sealed record RosterImportResult(
    int New,
    int Changed,
    int Same,
    int Gone,
    ImmutableArray<RefusedLine> Refused,
    GroupId? Group,
    int Invited
)
{
    /// <summary>As JSON, for other programs: new, changed, same, gone, and refused with line, file and reason.</summary>
    public string ToJson() =>
        JsonSerializer.Serialize(
            new
            {
                @new = New,
                changed = Changed,
                same = Same,
                gone = Gone,
                refused = Refused.Select(line => new
                {
                    line = line.Line,
                    file = line.File,
                    reason = line.Reason,
                }),
            },
            Readable
        );

    /// <summary>For people.</summary>
    /// <param name="isDry">It was only looked at.</param>
    public string ToText(bool isDry) =>
        string.Join(
            '\n',
            [
                $"{New} new, {Changed} changed, {Same} the same, {Gone} gone, {Refused.Length} not understood.{(isDry ? " Nothing was kept." : "")}",
                .. Refused.Select(line =>
                    $"{(line.File.Length > 0 ? line.File + " " : "")}line {line.Line}: {line.Reason}"
                ),
            ]
        );

    private static readonly JsonSerializerOptions Readable = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };
}

/// <summary>
/// Brings people in: from a pasted list, a table, or the files of OneRoster. Always reviewed first; nobody is removed in silence; the
/// same list a second time changes nothing.
/// </summary>
public sealed class RosterImport(Gate gate, AlmanacDatabase database, IClock clock, Secrets secrets)
{
    private static readonly Duration Keeps = Duration.FromDays(1);

    /// <summary>Takes a list for review.</summary>
    /// <param name="viewer">Who brings it.</param>
    /// <param name="text">What was pasted; empty where a file is given.</param>
    /// <param name="name">The file's name.</param>
    /// <param name="bytes">The file; null for none.</param>
    /// <returns>The id of its review.</returns>
    public Outcome<long> Begin(Viewer viewer, string? text, string? name, byte[]? bytes) =>
        gate.Write<long>(Operation.ImportRoster, viewer, at =>
        {
            Source source;
            try
            {
                var isTable = bytes is null && (text ?? "").Split('\n') is [var first, _, ..] && IsTable(first);
                if (bytes is null && string.IsNullOrWhiteSpace(text))
                    return Outcome.Because<long>("Text", "Paste the addresses, or choose a file.");
                if (bytes is null && text!.Length > 500_000)
                    return Outcome.Because<long>(
                        "Text",
                        "That is too much to paste. Save it as a CSV file, and choose that."
                    );
                source =
                    bytes is not null ? new Source(null, new(RosterFiles.Read(name ?? "", bytes)))
                    : isTable
                        ? new Source(
                            null,
                            new() { [""] = CsvTable.Read("", System.Text.Encoding.UTF8.GetBytes(text!)) }
                        )
                    : new Source(text, null);
            }
            catch (FormatException refusal)
            {
                return Outcome.Because<long>(bytes is null ? "Text" : "File", refusal.Message);
            }

            return new Outcome<long>.Done(
                at.Stores.RosterImports.Add(
                    RosterImportStore.People,
                    at.Person,
                    JsonSerializer.Serialize(source),
                    at.Now,
                    at.Now - Keeps
                )
            );
        });

    /// <summary>What taking a list in would do, by how everything stands now.</summary>
    public Outcome<RosterImportReview> Review(Viewer viewer, long id, RosterImportChoices choices) =>
        gate.Read<RosterImportReview>(Operation.ImportRoster, viewer, at =>
        {
            if (
                at.Stores.RosterImports.Find(RosterImportStore.People, id, at.Person, at.Now - Keeps) is not { } content
            )
                return new Outcome<RosterImportReview>.NotFound();
            var source = JsonSerializer.Deserialize<Source>(content)!;
            var (roster, columns) = Read(source, choices);
            var plan = Plan(at.Stores, roster, choices);
            var missing = plan.Groups.SelectMany(group => group.Missing).Distinct().ToList();
            return new Outcome<RosterImportReview>.Done(
                new RosterImportReview(
                    id,
                    plan,
                    roster.Remarks,
                    roster.Doubles,
                    source.Tables?.GetValueOrDefault("")?.Columns ?? [],
                    columns,
                    plan.Gone.Length > 0 || missing.Count > 0,
                    at.Stores.People.NamesOf(missing)
                )
            );
        });

    /// <summary>Takes a reviewed list in.</summary>
    public Outcome<RosterImportResult> SaveChoices(Viewer viewer, long id, RosterImportChoices choices) =>
        gate.Write<RosterImportResult>(Operation.ImportRoster, viewer, at =>
        {
            if (
                at.Stores.RosterImports.Find(RosterImportStore.People, id, at.Person, at.Now - Keeps) is not { } content
            )
                return new Outcome<RosterImportResult>.NotFound();
            var (roster, _) = Read(JsonSerializer.Deserialize<Source>(content)!, choices);
            try
            {
                var done = TakeIn(at.Stores, at.Person, at.Now, roster, choices, (looked, of) =>
                    underWay[id] = (looked, of)
                );
                at.Stores.RosterImports.Remove(id);
                return new Outcome<RosterImportResult>.Done(done);
            }
            finally
            {
                underWay.TryRemove(id, out _);
            }
        });

    /// <summary>How many people of how many were looked at, while a list is being taken in; not found while none is.</summary>
    public Outcome<(int Looked, int Of)> Progress(Viewer viewer, long id) =>
        gate.Read<(int, int)>(Operation.ImportRoster, viewer, at =>
            at.Stores.RosterImports.Find(RosterImportStore.People, id, at.Person, at.Now - Keeps) is not null
            && underWay.TryGetValue(id, out var progress)
                ? new Outcome<(int, int)>.Done(progress)
                : new Outcome<(int, int)>.NotFound()
        );

    // Lists that are being taken in right now, by this process.
    private readonly ConcurrentDictionary<long, (int Looked, int Of)> underWay = [];

    /// <summary>Takes a roster in from a shell, in the name of the school's first coordinator, or says what that would do.</summary>
    /// <param name="path">A folder or zip of OneRoster's files, or a table of people.</param>
    /// <param name="choices">What is chosen beside it.</param>
    /// <param name="isDry">Nothing is kept.</param>
    /// <param name="progress">Is told now and then how many people of how many were looked at; null for nobody.</param>
    /// <exception cref="FormatException">Nothing can be read there, or there is no school yet; the message is for people.</exception>
    public RosterImportResult FromShell(
        string path,
        RosterImportChoices choices,
        bool isDry,
        Action<int, int>? progress = null
    )
    {
        var (roster, _) = Read(new Source(null, new(RosterFiles.ReadPath(path))), choices);
        return database.Write(
            stores =>
                stores.People.Coordinators() is [var first, ..]
                    ? TakeIn(stores, first, clock.GetCurrentInstant(), roster, choices, progress)
                    : throw new FormatException("No school is set up here yet."),
            _ => !isDry
        );
    }

    // A line of names of columns rather than of people: none of it is an address, and one says where those stand.
    private static bool IsTable(string first) =>
        !first.Contains('@', StringComparison.Ordinal)
        && PeopleTable.Match([.. first.Split([',', ';', '\t']).Select(name => name.Trim(' ', '"', '\r'))]) is var found
        && (found.ContainsKey(PeopleColumn.Email) || found.ContainsKey(PeopleColumn.Source));

    private static (Roster Roster, IReadOnlyDictionary<PeopleColumn, int> Columns) Read(
        Source source,
        RosterImportChoices choices
    )
    {
        var none = ImmutableDictionary<PeopleColumn, int>.Empty;
        if (source.Tables is null)
            return (Grouped(PeopleTable.Read(AddressList.Read(source.Text ?? "")), choices), none);
        if (!source.Tables.TryGetValue("", out var table))
            return (OneRoster.Read(source.Tables), none);
        // OneRoster's users alone, out of their zip.
        if (
            table.Columns.Any(column => column.Trim().Equals("sourcedId", StringComparison.OrdinalIgnoreCase))
            && table.Columns.Any(column => column.Trim().Equals("givenName", StringComparison.OrdinalIgnoreCase))
            && choices.Columns is null
        )
            return (OneRoster.Read(new Dictionary<string, Table> { ["users"] = table }) with { IsWhole = false }, none);
        var columns = choices.Columns ?? PeopleTable.Match(table.Columns);
        return (Grouped(PeopleTable.Read(table, columns), choices), columns);
    }

    private static Roster Grouped(Roster roster, RosterImportChoices choices) =>
        string.IsNullOrWhiteSpace(choices.Group)
            ? roster
            : roster with
            {
                Groups = roster.Groups.Add(
                    new RosterGroup(
                        "",
                        AddressList.Plain(choices.Group) is { Length: > RosterPlan.LongestName } longer
                            ? longer[..RosterPlan.LongestName]
                            : AddressList.Plain(choices.Group),
                        choices.Kind,
                        [.. Enumerable.Range(0, roster.People.Length)]
                    )
                ),
            };

    /// <summary>What taking a list in would do.</summary>
    internal static RosterPlan Plan(Stores stores, Roster roster, RosterImportChoices choices) =>
        RosterPlan.Of(
            roster,
            stores.People.Known(),
            stores.Groups.Known(),
            new RosterChoices(
                choices.Role,
                stores.People.HomeAddresses().Select(RosterPlan.DomainOf).ToHashSet(),
                Whole: true
            )
        );

    /// <summary>Takes a list in, in the writing of another act.</summary>
    internal RosterImportResult TakeIn(
        Stores stores,
        PersonId by,
        Instant now,
        Roster roster,
        RosterImportChoices choices,
        Action<int, int>? progress = null
    )
    {
        var plan = Plan(stores, roster, choices);
        var ids = new PersonId[plan.Lines.Length];
        foreach (var (at, line) in plan.Lines.Index())
        {
            if (at % 500 == 0)
                progress?.Invoke(at, plan.Lines.Length);
            ids[at] = line.Known?.Id
                ?? stores.People.Add(
                    line.Name,
                    line.Email,
                    line.Role,
                    null,
                    Secrets.NewStamp(),
                    now,
                    line.Person.Source
                );
            if (line is { News: RosterNews.Changed, Known: { } known })
            {
                var source = line.Person.Source.Length > 0 ? line.Person.Source : null;
                if (
                    line.Name != known.Name
                    || line.Email != known.Email
                    || line.Role != known.Role
                    || (source is not null && source != known.Source)
                )
                    stores.People.Change(
                        known.Id,
                        line.Name,
                        line.Email,
                        line.Role,
                        stores.People.Get(known.Id)!.Version,
                        source
                    );
                if (known.HasLeft)
                    stores.People.SetEnd(known.Id, null, Secrets.NewStamp(), stores.People.Get(known.Id)!.Version);
            }
        }

        var gone = plan.Gone.Length;
        foreach (var group in plan.Groups)
        {
            var id = group.Known?.Id ?? stores.Groups.Add(group.Group.Name, group.Group.Kind, group.Group.Source);
            if (group.Known is { Source: "" } && group.Group.Source.Length > 0)
                stores.Groups.SetSource(id, group.Group.Source);
            stores.Groups.AddMembers(id, group.Added.Select(place => ids[place]));
            gone += group.Missing.Length;
            if (choices.EndGone)
                stores.Groups.RemoveMembers(id, group.Missing);
        }

        if (choices.EndGone)
            EndGone(stores, by, now, plan.Gone);
        var invited = choices.Invite ? Invite(stores, by, now, plan, ids) : 0;
        var (fresh, changed) = (plan.Count(RosterNews.New), plan.Count(RosterNews.Changed));
        if (!plan.IsNothing || (choices.EndGone && gone > 0))
            stores.History.Add(
                now,
                by,
                null,
                HistorySubject.School,
                0,
                Operation.ImportRoster.Name,
                $"brought a list in: {fresh} new, {changed} changed, {plan.Count(RosterNews.Same)} the same, {gone} gone{(choices.EndGone && gone > 0 ? " and ended" : "")}",
                null,
                null
            );
        return new RosterImportResult(
            fresh,
            changed,
            plan.Count(RosterNews.Same),
            gone,
            plan.Refused,
            string.IsNullOrWhiteSpace(choices.Group) ? null : stores.Groups.Named(plan.Groups[^1].Group.Name),
            invited
        );
    }

    // Who answers for something stays until it was given on, on their own page.
    private static void EndGone(Stores stores, PersonId by, Instant now, IEnumerable<KnownPerson> gone)
    {
        foreach (var person in gone)
        {
            if (
                person.Role == SchoolRole.Coordinator
                || EditPeople.LeavesSomething(stores, person.Id)
                || !EditPeople.Depart(stores, person.Id, stores.People.Get(person.Id)!.Version, now)
            )
                continue;
            stores.History.Add(
                now,
                by,
                null,
                HistorySubject.Person,
                person.Id.Value,
                Operation.EndPerson.Name,
                $"noted that {person.Name} has left: the list has them no longer",
                null,
                null
            );
        }
    }

    private int Invite(Stores stores, PersonId by, Instant now, RosterPlan plan, PersonId[] ids)
    {
        var invited = 0;
        foreach (
            var (line, id) in plan.Lines.Zip(ids).Where(one => one.First is { News: RosterNews.New, Email: not null })
        )
        {
            Invitations.Write(secrets, stores, id, InvitationPurpose.Join, by, now, Invitations.Lasts);
            invited++;
        }

        return invited;
    }

    private sealed record Source(string? Text, Dictionary<string, Table>? Tables);
}
