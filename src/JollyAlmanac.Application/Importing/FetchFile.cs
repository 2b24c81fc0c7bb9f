using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Storage.Materials;
using NodaTime;

namespace JollyAlmanac.Application.Importing;

/// <summary>A file that was fetched before, as a page shows it: not its whole address, which may be a key.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Host">Where it is.</param>
/// <param name="Asked">The school's date when it was asked for last.</param>
/// <param name="Since">The date since when it is as it is.</param>
public sealed record KnownFile(long Id, string Host, LocalDate Asked, LocalDate Since);

/// <summary>What was fetched.</summary>
/// <param name="Bytes">The file.</param>
/// <param name="Since">The date since when it is as it was the last time; null where it is new or another.</param>
public sealed record Fetched(byte[] Bytes, LocalDate? Since);

/// <summary>
/// Fetches a calendar file by its address, for a review like that of a file that is chosen, and knows the address from then on. Off
/// unless whoever runs the almanac says otherwise: there is no source then.
/// </summary>
public sealed class FetchFile(Gate gate, ImportFile import, IFileSource? source = null)
{
    private const int MostKnown = 12;

    // Whoever wants more of it in an hour tries out addresses.
    private readonly AttemptLimiter tries = new(most: 30, TimeSpan.FromHours(1));

    /// <summary>Whether files may be fetched here.</summary>
    public bool IsOn => source is not null;

    /// <summary>What the viewer, or whoever else works on all of a calendar, fetched for it before, the last first.</summary>
    public Outcome<IReadOnlyList<KnownFile>> Of(Viewer viewer, Slug slug) =>
        gate.Read<IReadOnlyList<KnownFile>>(Operation.FetchFile, viewer, slug, at =>
            Shown(at, at.Stores.FetchedFiles.Of(at.Calendar.Id).Where(MayAsk(at)))
        );

    /// <summary>What was fetched for the school's time before.</summary>
    public Outcome<IReadOnlyList<KnownFile>> OfSchool(Viewer viewer) =>
        gate.Read<IReadOnlyList<KnownFile>>(Operation.FetchHolidays, viewer, at =>
            Shown(at, at.Stores.FetchedFiles.Of(null))
        );

    private static Outcome<IReadOnlyList<KnownFile>> Shown(AtSchool at, IEnumerable<FetchedRow> rows) =>
        new Outcome<IReadOnlyList<KnownFile>>.Done([
            .. rows.Select(row => new KnownFile(
                row.Id,
                HostOf(row.Address),
                DateOf(at, row.FetchedAt),
                DateOf(at, row.ChangedAt)
            )),
        ]);

    private static LocalDate DateOf(AtSchool at, Instant moment) => moment.InZone(at.School.Time.Zone).Date;

    // An address may be a key to more than the viewer sees elsewhere: it is its bringer's, and theirs who may change everything here.
    private static Func<FetchedRow, bool> MayAsk(AtCalendar at) =>
        row => row.By == at.Person || at.Context.May(Permission.ChangeSeries);

    /// <summary>Fetches a file for a calendar.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="address">The address, as typed; empty where one that is known is asked again.</param>
    /// <param name="known">The id of one that is known; null for a new one.</param>
    /// <param name="cancellation">Ends the waiting.</param>
    /// <returns>The id of its review, and since when the file is as it was; null where it is new or another.</returns>
    public async Task<Outcome<(long Review, LocalDate? Since)>> Begin(
        Viewer viewer,
        Slug slug,
        string? address,
        long? known,
        CancellationToken cancellation
    )
    {
        var asked = gate.Read<Wanted>(Operation.FetchFile, viewer, slug, at =>
            Want(at.Stores.FetchedFiles, at.Stores.FetchedFiles.Of(at.Calendar.Id).Where(MayAsk(at)), address, known)
        );
        var got = await Get(viewer, asked, cancellation);
        return got.Then(file =>
            gate.Write<Fetched>(Operation.FetchFile, viewer, slug, at =>
                {
                    Store(at.Stores.FetchedFiles, at.Calendar.Id, at, file, MayAsk(at));
                    at.Note(HistorySubject.Calendar, at.Calendar.Id.Value, $"fetched a file from {file.Host}");
                    return new Outcome<Fetched>.Done(new Fetched(file.Bytes, file.DateOf(at)));
                })
                .Then(fetched =>
                    import.Begin(viewer, slug, null, file.Host, file.Bytes) switch
                    {
                        Outcome<long>.Refused refused => new Outcome<(long, LocalDate?)>.Refused([
                            .. refused.Problems.Select(problem => problem with { Field = "Address" }),
                        ]),
                        var begun => begun.Select(id => (id, fetched.Since)),
                    }
                )
        );
    }

    /// <summary>Fetches a file of days without class for the school's time.</summary>
    public async Task<Outcome<Fetched>> Holidays(
        Viewer viewer,
        string? address,
        long? known,
        CancellationToken cancellation
    )
    {
        var asked = gate.Read<Wanted>(Operation.FetchHolidays, viewer, at =>
            Want(at.Stores.FetchedFiles, at.Stores.FetchedFiles.Of(null), address, known)
        );
        var got = await Get(viewer, asked, cancellation);
        return got.Then(file => gate.Write<Fetched>(Operation.FetchHolidays, viewer, at =>
            {
                Store(at.Stores.FetchedFiles, null, at, file, _ => true);
                at.Note(HistorySubject.School, 1, $"fetched a file of days from {file.Host}");
                return new Outcome<Fetched>.Done(new Fetched(file.Bytes, file.DateOf(at)));
            }));
    }

    /// <summary>Forgets an address that a calendar's file was fetched by.</summary>
    public Outcome<string> Forget(Viewer viewer, Slug slug, long id) =>
        gate.Write<string>(Operation.FetchFile, viewer, slug, at =>
            at.Stores.FetchedFiles.Of(at.Calendar.Id).Where(MayAsk(at)).FirstOrDefault(one => one.Id == id) is { } row
                ? Forget(at, row, HistorySubject.Calendar, at.Calendar.Id.Value)
                : new Outcome<string>.NotFound()
        );

    /// <summary>Forgets an address that days without class were fetched by.</summary>
    public Outcome<string> ForgetHolidays(Viewer viewer, long id) =>
        gate.Write<string>(Operation.FetchHolidays, viewer, at =>
            at.Stores.FetchedFiles.Of(null).FirstOrDefault(one => one.Id == id) is { } row
                ? Forget(at, row, HistorySubject.School, 1)
                : new Outcome<string>.NotFound()
        );

    private static Outcome<string> Forget(AtSchool at, FetchedRow row, HistorySubject subject, long id)
    {
        at.Stores.FetchedFiles.Remove(row.Id);
        at.Note(subject, id, $"forgot the address of a file at {HostOf(row.Address)}");
        return new Outcome<string>.Done(HostOf(row.Address));
    }

    /// <summary>Why nothing is fetched from an address; null where it may be tried.</summary>
    internal static string? Refusal(Uri address) =>
        address.Scheme != Uri.UriSchemeHttps
            ? "It starts with http://, so on its way somebody could change what is in it. Take the address that starts with https://."
        : !address.IsDefaultPort ? $"It names the port {address.Port}; only the usual one is asked."
        : address.UserInfo.Length > 0
            ? "There is a name or password in it. Take it out; what needs a sign-in is not fetched."
        : OutsideHosts.NamesInside(address)
            ? $"Its host {address.IdnHost} lies inside the almanac’s own network, where nothing is fetched."
        : null;

    // What is to be asked for, and what is known of it.
    private sealed record Wanted(Uri Address, FetchedRow? Row, byte[] Content);

    private sealed record Got(Uri Address, byte[] Bytes, Instant? SameSince, string ETag, string LastModified)
    {
        public string Host => Address.IdnHost;

        public LocalDate? DateOf(AtSchool at) => SameSince is { } since ? FetchFile.DateOf(at, since) : null;
    }

    private static Outcome<Wanted> Want(
        FetchedFileStore files,
        IEnumerable<FetchedRow> rows,
        string? typed,
        long? known
    )
    {
        Outcome<Wanted> Found(Uri address, FetchedRow? row) =>
            new Outcome<Wanted>.Done(new Wanted(address, row, row is null ? [] : files.ContentOf(row.Id)));
        if (known is { } id)
            return
                rows.FirstOrDefault(row => row.Id == id) is { } row
                && Uri.TryCreate(row.Address, UriKind.Absolute, out var stored)
                ? Found(stored, row)
                : new Outcome<Wanted>.NotFound();
        var text = (typed ?? "").Trim();
        // What calendar programs call a feed is fetched like any page.
        foreach (var scheme in new[] { "webcal://", "webcals://" })
            if (text.StartsWith(scheme, StringComparison.OrdinalIgnoreCase))
                text = "https://" + text[scheme.Length..];
        if (text.Length is 0 or > JoinTarget.Longest || !WebAddress.TryRead(text, out var read))
            return Outcome.Because<Wanted>(
                "Address",
                text.Length == 0
                    ? "Write the address of a file."
                    : "That is no address of a file. Write it like https://district.example/days.ics."
            );
        var address = new UriBuilder(read) { Fragment = "" }.Uri;
        if (Refusal(address) is { } refusal)
            return Outcome.Because<Wanted>("Address", refusal);
        return Found(address, rows.FirstOrDefault(row => row.Address == address.AbsoluteUri));
    }

    private async Task<Outcome<Got>> Get(Viewer viewer, Outcome<Wanted> asked, CancellationToken cancellation)
    {
        if (asked is not Outcome<Wanted>.Done { Value: var wanted })
            return asked.Then<Got>(_ => throw new InvalidOperationException());
        if (source is null)
            return Outcome.Because<Got>(
                "Address",
                "Files are not fetched by their address here. Save the file, and choose it."
            );
        if (viewer.LookedAtBy is not null)
            return new Outcome<Got>.NotAllowed();
        if (!tries.Take($"{viewer.Person?.Value}"))
            return Outcome.Because<Got>("Address", "That were 30 files within an hour. Wait a while before the next.");
        try
        {
            var before = wanted is { Row: { } row, Content.Length: > 0 }
                ? new FetchedFile(wanted.Content, row.ETag, row.LastModified)
                : null;
            var file = await source.Fetch(wanted.Address, before, cancellation);
            var bytes = file.Content ?? wanted.Content;
            var isSame = before is not null && bytes.AsSpan().SequenceEqual(wanted.Content);
            return new Outcome<Got>.Done(
                new Got(wanted.Address, bytes, isSame ? wanted.Row!.ChangedAt : null, file.ETag, file.LastModified)
            );
        }
        catch (FileSourceException failure)
        {
            return Outcome.Because<Got>("Address", failure.Message);
        }
    }

    private static void Store(
        FetchedFileStore files,
        Core.Calendars.CalendarId? calendar,
        AtSchool at,
        Got got,
        Func<FetchedRow, bool> may
    )
    {
        var rows = files.Of(calendar);
        // Somebody else's stays theirs.
        if (rows.FirstOrDefault(row => row.Address == got.Address.AbsoluteUri) is { } known && !may(known))
            return;
        files.Set(
            calendar,
            got.Address.AbsoluteUri,
            got.ETag,
            got.LastModified,
            got.Bytes,
            at.Person,
            at.Now,
            got.SameSince ?? at.Now
        );
        foreach (var old in files.Of(calendar).Skip(MostKnown))
            files.Remove(old.Id);
    }

    private static string HostOf(string address) =>
        Uri.TryCreate(address, UriKind.Absolute, out var read) ? read.IdnHost : "an address";
}
