using JollyAlmanac.Application.Joining;
using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>What the form for a feed or an embed says, as typed.</summary>
/// <param name="Name">What its makers call it.</param>
/// <param name="Level">busy, outline or full.</param>
/// <param name="Descriptions">Show descriptions.</param>
/// <param name="Materials">Show materials that are for anyone.</param>
/// <param name="JoinLinks">Show short addresses.</param>
/// <param name="Sites">For an embed: the sites that may show it, one a line.</param>
/// <param name="Offered">For a feed: its address stands on the class page.</param>
public sealed record OutletInput(string? Name, AccessLevel Level, bool Descriptions, bool Materials, bool JoinLinks, string? Sites = "", bool Offered = false);

/// <summary>A feed or embed with its present token.</summary>
public sealed record OutletWithToken(Outlet Outlet, string Token);

/// <summary>What the publishing page shows.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="OpenTo">Who may open the class page.</param>
/// <param name="Feeds">Its feeds.</param>
/// <param name="Embeds">Its embeds.</param>
/// <param name="Links">The join links of its series, for their join cards.</param>
public sealed record Publication(Calendar Calendar, Calendars.OpenTo OpenTo, IReadOnlyList<OutletWithToken> Feeds, IReadOnlyList<OutletWithToken> Embeds, IReadOnlyList<JoinLink> Links)
{
    /// <summary>Feeds and embeds that cannot be read as they are stored.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>Makes, renews and revokes feeds and embeds. For managers.</summary>
public sealed class Outlets(AlmanacDatabase database, IClock clock, Secrets secrets)
{
    /// <summary>All that is published of a calendar, with its addresses.</summary>
    public Outcome<Publication> Of(Viewer viewer, string slug) => database.Read<Outcome<Publication>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<Publication>.NotFound();
        if (!setting.May(Deed.Publish)) return new Outcome<Publication>.NotAllowed();
        var all = stores.Outlets.Of(setting.Calendar.Id).Select(outlet => new OutletWithToken(outlet, secrets.TokenOf(outlet))).ToLookup(one => one.Outlet.Kind);
        return new Outcome<Publication>.Done(new Publication(
            setting.Calendar, Calendars.CalendarInput.OpenToOf(setting.Grants), [.. all[OutletKind.Feed]], [.. all[OutletKind.Embed]], LinkDoor.UsedOn(stores, stores.Series.Of(setting.Calendar.Id)))
        {
            Unreadable = [.. stores.Unreadable.Where(one => one.Kind == UnreadableKind.Outlet && one.Calendar == setting.Calendar.Id)],
        });
    });

    /// <summary>Makes a feed or an embed.</summary>
    public Outcome<OutletWithToken> Make(Viewer viewer, string slug, OutletKind kind, OutletInput input) => database.Write<Outcome<OutletWithToken>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<OutletWithToken>.NotFound();
        if (!setting.May(Deed.Publish) || viewer.Person is not { } person) return new Outcome<OutletWithToken>.NotAllowed();
        var entry = new Entry();
        var name = entry.Line("Name", input.Name, "The name", 80, needed: true);
        if (!Outlet.MayHave(input.Level, setting.Level)) entry.Wrong("Level", "Choose what it shows: busy times, an outline, or everything.");
        var sites = kind == OutletKind.Embed ? ReadSites(entry, input.Sites) : [];
        if (!entry.IsGood) return new Outcome<OutletWithToken>.Refused(entry.Problems);
        var now = clock.GetCurrentInstant();
        var choices = new ShowChoices(input.Descriptions, input.Materials, input.JoinLinks, Public: true);
        var made = stores.Outlets.Add(
            new Outlet(default, kind, setting.Calendar.Id, name, input.Level, choices, [.. sites], 1, 1, person, null) { IsOffered = input.Offered && kind == OutletKind.Feed }, one => Secrets.HashOf(secrets.TokenOf(one)), now);
        Note(stores, made, person, now, "MakeOutlet", $"made the {Word(kind)} {name}", JsonSerializer.Serialize(input));
        return new Outcome<OutletWithToken>.Done(new OutletWithToken(made, secrets.TokenOf(made)));
    }, outcome => outcome.IsDone);

    /// <summary>Gives an outlet a new address; the old one is dead at once.</summary>
    public Outcome<OutletWithToken> Renew(Viewer viewer, string slug, OutletId id, int expectedVersion) => Change(viewer, slug, id, (stores, outlet, person, now) =>
    {
        if (stores.Outlets.Renew(outlet, expectedVersion, one => Secrets.HashOf(secrets.TokenOf(one)), now) is not { } renewed) return null;
        Note(stores, renewed, person, now, "RenewOutlet", $"gave the {Word(outlet.Kind)} {outlet.Name} a new address", null);
        return renewed;
    });

    /// <summary>Ends an outlet for good.</summary>
    public Outcome<OutletWithToken> Revoke(Viewer viewer, string slug, OutletId id, int expectedVersion) => Change(viewer, slug, id, (stores, outlet, person, now) =>
    {
        if (!stores.Outlets.Revoke(outlet, expectedVersion, now)) return null;
        Note(stores, outlet, person, now, "RevokeOutlet", $"revoked the {Word(outlet.Kind)} {outlet.Name}", null);
        return outlet;
    });

    /// <summary>Ends an outlet that cannot be read as it is stored, for good.</summary>
    public Outcome<bool> RevokeUnreadable(Viewer viewer, string slug, OutletId id) => database.Write<Outcome<bool>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<bool>.NotFound();
        if (!setting.May(Deed.Publish) || viewer.Person is not { } person) return new Outcome<bool>.NotAllowed();
        var now = clock.GetCurrentInstant();
        if (stores.Outlets.Find(id) is not null || !stores.Outlets.RevokeUnreadable(id, setting.Calendar.Id, now)) return new Outcome<bool>.NotFound();
        stores.History.Add(now, person, setting.Calendar.Id, HistorySubject.Outlet, id.Value, "RevokeOutlet", "revoked an address that could not be read", null, null);
        return new Outcome<bool>.Done(true);
    }, outcome => outcome.IsDone);

    /// <summary>Lets a feed stand on the class page, or no longer.</summary>
    public Outcome<OutletWithToken> Offer(Viewer viewer, string slug, OutletId id, bool offered, int expectedVersion) => Change(viewer, slug, id, (stores, outlet, person, now) =>
    {
        if (outlet.Kind != OutletKind.Feed || !stores.Outlets.Offer(id, offered, expectedVersion, now)) return null;
        stores.Calendars.Touch(outlet.Calendar, now);
        Note(stores, outlet, person, now, "OfferOutlet", offered ? $"put the feed {outlet.Name} on the class page" : $"took the feed {outlet.Name} off the class page", null);
        return stores.Outlets.Find(id);
    });

    private Outcome<OutletWithToken> Change(Viewer viewer, string slug, OutletId id, Func<Stores, Outlet, Core.People.PersonId, Instant, Outlet?> change) =>
        database.Write<Outcome<OutletWithToken>>(stores =>
        {
            if (Setting.Find(stores, viewer, slug) is not { } setting || stores.Outlets.Find(id) is not { } outlet || outlet.Calendar != setting.Calendar.Id)
                return new Outcome<OutletWithToken>.NotFound();
            if (!setting.May(Deed.Publish) || viewer.Person is not { } person) return new Outcome<OutletWithToken>.NotAllowed();
            return change(stores, outlet, person, clock.GetCurrentInstant()) is { } changed
                ? new Outcome<OutletWithToken>.Done(new OutletWithToken(changed, secrets.TokenOf(changed)))
                : new Outcome<OutletWithToken>.Stale(stores.History.Newest(HistorySubject.Outlet, setting.Calendar.Id, id.Value));
        }, outcome => outcome.IsDone);

    private static List<SiteOrigin> ReadSites(Entry entry, string? text)
    {
        var lines = entry.Bounded("Sites", text, "The list of sites", 5_000).Split(['\n', ',', ' '], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (lines.Length == 0) entry.Wrong("Sites", "Name the website that may show it, for example https://www.skerry.example.");
        if (lines.Length > 20) entry.Wrong("Sites", "An embed may be shown on 20 sites at most.");
        var sites = new List<SiteOrigin>();
        foreach (var line in lines.Take(20))
        {
            if (SiteOrigin.Read(line) is { } site) sites.Add(site);
            else entry.Wrong("Sites", $"{Entry.Quote(line)} is no website. Write it like https://www.skerry.example.");
        }

        return [.. sites.Distinct()];
    }

    private static void Note(Stores stores, Outlet outlet, Core.People.PersonId by, Instant now, string act, string summary, string? after) =>
        stores.History.Add(now, by, outlet.Calendar, HistorySubject.Outlet, outlet.Id.Value, act, summary, null, after);

    private static string Word(OutletKind kind) => kind == OutletKind.Feed ? "feed" : "embed";
}
