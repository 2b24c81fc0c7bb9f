using JollyAlmanac.Application.Joining;
using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Keeping;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Formats.ICalendar;

namespace JollyAlmanac.Application.Publishing;

/// <summary>What the form for a feed or an embed says, as typed.</summary>
/// <param name="Name">What its makers call it.</param>
/// <param name="Level">busy, outline or full.</param>
/// <param name="Descriptions">Show descriptions.</param>
/// <param name="Materials">Show materials that are for anyone.</param>
/// <param name="JoinLinks">Show short addresses.</param>
/// <param name="Sites">For an embed: the sites that may show it, one a line.</param>
/// <param name="Offered">For a feed: its address stands on the class page.</param>
public sealed record OutletInput(string? Name, AccessLevel Level, bool Descriptions, bool Materials, bool JoinLinks, string? Sites = "",
    bool Offered = false);

/// <summary>A feed or embed with its present token.</summary>
public sealed record OutletWithToken(Outlet Outlet, string Token);

/// <summary>What the publishing page shows.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="OpenTo">Who may open the class page.</param>
/// <param name="Feeds">Its feeds.</param>
/// <param name="Embeds">Its embeds.</param>
/// <param name="Links">The join links of its series, for their join cards.</param>
public sealed record Publication(Calendar Calendar, Calendars.OpenTo OpenTo, IReadOnlyList<OutletWithToken> Feeds,
    IReadOnlyList<OutletWithToken> Embeds, IReadOnlyList<JoinLink> Links)
{
    /// <summary>Feeds and embeds that cannot be read as they are stored.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>Makes, renews and revokes feeds and embeds. For managers.</summary>
public sealed class Outlets(Gate gate, Secrets secrets)
{
    /// <summary>All that is published of a calendar, with its addresses.</summary>
    public Outcome<Publication> Of(Viewer viewer, string slug) => gate.Read<Publication>(Act.ReadPublication, viewer, slug, at =>
    {
        var (stores, setting) = (at.Stores, at.Setting);
        var all = stores.Outlets.Of(setting.Calendar.Id).Select(outlet => new OutletWithToken(outlet, secrets.TokenOf(outlet)))
            .ToLookup(one => one.Outlet.Kind);
        return new Outcome<Publication>.Done(new Publication(
            setting.Calendar, Calendars.CalendarInput.OpenToOf(setting.Grants), [.. all[OutletKind.Feed]], [.. all[OutletKind.Embed]],
            LinkDoor.UsedOn(stores, stores.Series.Of(setting.Calendar.Id)))
        {
            Unreadable = [.. stores.Unreadable.Where(one => one.Kind == UnreadableKind.Outlet && one.Calendar == setting.Calendar.Id)],
        });
    });

    /// <summary>
    /// A copy of the sessions of some days as a file. It does not follow changes, and says so, in every session, with where the live one
    /// is.
    /// </summary>
    /// <param name="viewer">Who makes it.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="level">busy, outline or full.</param>
    /// <param name="first">The first day, as typed.</param>
    /// <param name="last">The last day, as typed.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <returns>The iCalendar document.</returns>
    public Outcome<string> Copy(Viewer viewer, string slug, AccessLevel level, string? first, string? last, Uri root) =>
        gate.Write<string>(Act.CopyCalendar, viewer, slug, at =>
    {
        var entry = new Entry();
        var (begins, ends) = (entry.Day("First", first, "The first day"), entry.Day("Last", last, "The last day"));
        if (!Outlet.MayHave(level, at.Setting.Level))
            entry.Wrong("CopyLevel", "Choose what it shows: busy times, an outline, or everything.");
        if (ends < begins) entry.Wrong("Last", "The last day is before the first.");
        if (!entry.IsGood || begins is not { } from || ends is not { } to) return new Outcome<string>.Refused(entry.Problems);
        var (day, live) = (Wording.WithYear(at.Today), new Uri(root, $"c/{at.Calendar.Slug}"));
        var says = $"A copy of {day}. It does not follow changes; what is so now stands at {live}";
        var content = ReadFeed.Content(CalendarFacts.Read(at.Stores, at.Calendar.Id), at.School, at.Calendar, level,
            ShowChoices.Anyone, root,
            session => ExportCalendar.Within(session, from, to.PlusDays(1)));
        if (content.Entries.IsEmpty) return Outcome.Because<string>("First", "There is no session on these days.");
        at.Note(HistorySubject.Calendar, at.Calendar.Id.Value,
            $"made a copy of {Wording.WithYear(from)} to {Wording.WithYear(to)}: {level.ToString().ToLowerInvariant()}");
        return new Outcome<string>.Done(
            FeedDocument.Of(content with { Name = $"{at.Calendar.Title} (copy of {day})", Says = says, Footnote = says }));
    });

    /// <summary>Makes a feed or an embed.</summary>
    public Outcome<OutletWithToken> Make(Viewer viewer, string slug, OutletKind kind, OutletInput input) =>
        gate.Write<OutletWithToken>(Act.MakeOutlet, viewer, slug, at =>
    {
        var entry = new Entry();
        var name = entry.Line("Name", input.Name, "The name", 80, needed: true);
        if (!Outlet.MayHave(input.Level, at.Setting.Level))
            entry.Wrong("Level", "Choose what it shows: busy times, an outline, or everything.");
        var sites = kind == OutletKind.Embed ? ReadSites(entry, input.Sites) : [];
        if (!entry.IsGood) return new Outcome<OutletWithToken>.Refused(entry.Problems);
        var choices = new ShowChoices(input.Descriptions, input.Materials, input.JoinLinks, Public: true);
        var made = at.Stores.Outlets.Add(
            new Outlet(default, kind, at.Calendar.Id, name, input.Level, choices, [.. sites], 1, 1, at.Person,
            null) { IsOffered = input.Offered && kind == OutletKind.Feed }, HashOf, at.Now);
        at.Note(HistorySubject.Outlet, made.Id.Value, $"made the {Word(kind)} {name}", null, JsonSerializer.Serialize(input));
        return WithToken(made);
    });

    /// <summary>Gives an outlet a new address; the old one is dead at once.</summary>
    public Outcome<OutletWithToken> Renew(Viewer viewer, string slug, OutletId id, int expectedVersion) =>
        gate.Write<OutletWithToken>(Act.RenewOutlet, viewer, slug, id, expectedVersion, at =>
    {
        if (at.Stores.Outlets.Renew(at.Outlet, expectedVersion, HashOf, at.Now) is not { } renewed)
            return at.Stale<OutletWithToken>(HistorySubject.Outlet, id.Value);
        at.Note(HistorySubject.Outlet, id.Value, $"gave the {Word(at.Outlet.Kind)} {at.Outlet.Name} a new address");
        return WithToken(renewed);
    });

    /// <summary>Ends an outlet for good.</summary>
    public Outcome<OutletWithToken> Revoke(Viewer viewer, string slug, OutletId id, int expectedVersion) =>
        gate.Write<OutletWithToken>(Act.RevokeOutlet, viewer, slug, id, expectedVersion, at =>
    {
        if (!at.Stores.Outlets.Revoke(at.Outlet, expectedVersion, at.Now))
            return at.Stale<OutletWithToken>(HistorySubject.Outlet, id.Value);
        at.Note(HistorySubject.Outlet, id.Value, $"revoked the {Word(at.Outlet.Kind)} {at.Outlet.Name}");
        return WithToken(at.Outlet);
    });

    /// <summary>Ends an outlet that cannot be read as it is stored, for good.</summary>
    public Outcome<bool> RevokeUnreadable(Viewer viewer, string slug, OutletId id) =>
        gate.Write<bool>(Act.RevokeUnreadableOutlet, viewer, slug, at =>
    {
        if (at.Stores.Outlets.Find(id) is not null || !at.Stores.Outlets.RevokeUnreadable(id, at.Calendar.Id, at.Now))
            return new Outcome<bool>.NotFound();
        at.Note(HistorySubject.Outlet, id.Value, "revoked an address that could not be read");
        return new Outcome<bool>.Done(true);
    });

    /// <summary>Lets a feed stand on the class page, or no longer.</summary>
    public Outcome<OutletWithToken> Offer(Viewer viewer, string slug, OutletId id, bool offered, int expectedVersion) =>
        gate.Write<OutletWithToken>(Act.OfferOutlet, viewer, slug, id, expectedVersion, at =>
    {
        if (at.Outlet.Kind != OutletKind.Feed) return Outcome.Because<OutletWithToken>("", "Only a feed stands on the class page.");
        if (!at.Stores.Outlets.Offer(id, offered, expectedVersion, at.Now))
            return at.Stale<OutletWithToken>(HistorySubject.Outlet, id.Value);
        at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
        at.Note(HistorySubject.Outlet, id.Value, offered ? $"put the feed {at.Outlet.Name} on the class page"
            : $"took the feed {at.Outlet.Name} off the class page");
        return WithToken(at.Stores.Outlets.Find(id)!);
    });

    private byte[] HashOf(Outlet outlet) => Secrets.HashOf(secrets.TokenOf(outlet));

    private Outcome<OutletWithToken> WithToken(Outlet outlet) =>
        new Outcome<OutletWithToken>.Done(new OutletWithToken(outlet, secrets.TokenOf(outlet)));

    private static List<SiteOrigin> ReadSites(Entry entry, string? text)
    {
        var lines = entry.Bounded("Sites", text, "The list of sites", 5_000)
            .Split(['\n', ',', ' '], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (lines.Length == 0) entry.Wrong("Sites", "Name the website that may show it, for example https://www.skerry.example.");
        if (lines.Length > 20) entry.Wrong("Sites", "An embed may be shown on 20 sites at most.");
        var sites = new List<SiteOrigin>();
        foreach (var line in lines.Take(20))
        {
            if (SiteOrigin.Read(line) is { } site) sites.Add(site);
            else entry.Wrong("Sites", $"{Wording.Quote(line)} is no website. Write it like https://www.skerry.example.");
        }

        return [.. sites.Distinct()];
    }

    private static string Word(OutletKind kind) => kind == OutletKind.Feed ? "feed" : "embed";
}
