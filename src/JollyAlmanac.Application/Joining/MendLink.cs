using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>Applies the remedy of a finding, if the finding still stands.</summary>
public sealed class MendLink(AlmanacDatabase database, IClock clock, RoomProviders rooms, KeepLinks keepLinks, Switchboard switchboard, TestLink testLink, ChangeSession changeSession)
{
    /// <summary>Applies a remedy.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="code">The link.</param>
    /// <param name="key">The remedy's key, as the finding offers it.</param>
    /// <param name="version">The version of the link that the offer was made from.</param>
    /// <param name="cancellation">For a test that asks over the network.</param>
    /// <returns>What was done, in a sentence.</returns>
    public async Task<Outcome<string>> Do(Viewer viewer, JoinCode code, string key, int version, CancellationToken cancellation)
    {
        var (refusal, door, remedy) = database.Read(stores =>
        {
            var refused = KeepLinks.Find<string>(stores, viewer, code, Deed.KeepJoinLinks, out var found);
            return (refused, found, refused is null ? switchboard.Notice(stores, [found], clock.GetCurrentInstant()).SelectMany(noted => noted.Finding.Remedies).FirstOrDefault(one => one.Key == key) : null);
        });
        if (refusal is not null) return refusal;
        if (door.Link.Version != version) return new Outcome<string>.Stale(null);
        if (remedy is null) return new Outcome<string>.Refused([new Problem("", "That is mended already, or no longer so. The notes are up to date now.")]);
        try
        {
            return await Do(viewer, code, version, door, remedy, cancellation);
        }
        catch (RoomProviderException failure)
        {
            return new Outcome<string>.Refused([new Problem("", failure.Message)]);
        }
    }

    private async Task<Outcome<string>> Do(Viewer viewer, JoinCode code, int version, LinkDoor door, Remedy remedy, CancellationToken cancellation) =>
        remedy.Kind switch
        {
            RemedyKind.Test => await testLink.Do(viewer, code, cancellation),
            // Who is inside is told of first, as when it is renewed by hand.
            RemedyKind.Renew => keepLinks.Renew(viewer, code, sure: false, version).Select(_ => remedy.Says),
            RemedyKind.OpenSessionLater => OpenLater(viewer, door, remedy),
            RemedyKind.OwnLink => OwnLink(viewer, door, remedy),
            RemedyKind.TakeOut => TakeOut(viewer, code, remedy),
            _ => Change(viewer, code, version, remedy).Select(_ => remedy.Says),
        };

    private Outcome<JoinLink> Change(Viewer viewer, JoinCode code, int version, Remedy remedy) => database.Write<Outcome<JoinLink>>(stores =>
    {
        if (KeepLinks.Find<JoinLink>(stores, viewer, code, Deed.KeepJoinLinks, out var door) is { } refused) return refused;
        var link = door.Link;
        var changed = remedy.Kind switch
        {
            RemedyKind.OpenLater => link with { Entry = link.Entry is EntryRule.Around around ? around with { Lead = remedy.Minutes } : link.Entry },
            RemedyKind.RenewAfterEach => link with { RenewsAfterEach = true },
            RemedyKind.SharedOnPurpose => link with { IsSharedOnPurpose = true },
            _ => link with { IsPersonal = false },
        };
        return keepLinks.Keep(stores, door, changed, version, viewer.Person!.Value, "MendJoinLink", $"changed the join link {link.Name}: {char.ToLowerInvariant(remedy.Label[0])}{remedy.Label[1..]}");
    }, outcome => outcome.IsDone);

    private Outcome<string> OpenLater(Viewer viewer, LinkDoor door, Remedy remedy)
    {
        var series = door.Series.First(one => one.Id == remedy.Series);
        // Its own rule as it is, but for when it opens.
        var session = door.Schedule.Held.First(one => one.IsKnownBy(remedy.Session!.Value));
        var late = ((session.Change?.Entry ?? door.Link.Entry) as EntryRule.Around)?.Late;
        return changeSession.SetEntry(viewer, door.CalendarOf(session).Slug, session.Key, new EntryRule.Around(remedy.Minutes, late), series.Version).Select(_ => remedy.Says);
    }

    private Outcome<string> OwnLink(Viewer viewer, LinkDoor door, Remedy remedy)
    {
        if (viewer.Person is not { } person) return new Outcome<string>.NotAllowed();
        return rooms.WithRoom(door.Series.First(one => one.Id == remedy.Series).Title, "", target => database.Write<Outcome<string>>(stores =>
        {
            if (stores.Series.Find(remedy.Series!.Value) is not { } series) return new Outcome<string>.NotFound();
            var calendar = stores.Calendars.Get(series.Calendar);
            if (Setting.Find(stores, viewer, calendar.Slug) is not { } setting || !setting.May(Deed.ChangeSeries, own: series.MadeBy == person) || !setting.May(Deed.KeepJoinLinks)) return new Outcome<string>.NotAllowed();
            var now = clock.GetCurrentInstant();
            // It takes the door of the old link along, not its room, hosts or word.
            var made = stores.JoinLinks.Add(KeepLinks.Fresh(calendar.Id, series.Title) with { Code = stores.JoinLinks.FreeCode(series.Title), Entry = door.Link.Entry, Audience = door.Link.Audience, RenewsAfterEach = door.Link.RenewsAfterEach, Reach = rooms.Reach }, target, person, now);
            KeepLinks.Note(stores, made, person, now, "AddJoinLink", $"made the join link {made.Name}");
            return Keep(stores, series, series with { JoinLink = made.Id, Changes = [.. series.Changes.Select(change => change.Link == door.Link.Id ? change with { Link = null } : change)] }, viewer,
                $"gave {series.Title} a join link of its own", $"{remedy.Says} It is {made.Code.Path}.");
        }, kept => kept.IsDone));
    }

    private Outcome<string> TakeOut(Viewer viewer, JoinCode code, Remedy remedy) => database.Write<Outcome<string>>(stores =>
    {
        if (KeepLinks.Find<string>(stores, viewer, code, Deed.KeepJoinLinks, out var door) is { } refused) return refused;
        if (stores.Series.Find(remedy.Series!.Value) is not { } series) return new Outcome<string>.NotFound();
        if (!AccessRules.May(Deed.ChangeSeries, AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(series.Calendar)), own: series.MadeBy == viewer.Person)) return new Outcome<string>.NotAllowed();
        var secrets = stores.JoinLinks.Secrets([door.Link.Id])[door.Link.Id].Where(secret => secret.Length >= LinkFindings.ShortestSecret).OrderByDescending(secret => secret.Length).ToList();
        string Cleaned(string text) => secrets.Aggregate(text, (left, secret) => left.Replace(secret, secret.StartsWith("http", StringComparison.OrdinalIgnoreCase) ? door.Link.Code.Path : "(see the join link)", StringComparison.OrdinalIgnoreCase));
        var leaks = stores.Materials.Of(series.Calendar).Where(material => material.Series == series.Id && material.Content is MaterialContent.Link { Address: var address } && secrets.Exists(secret => address.AbsoluteUri.Contains(secret, StringComparison.OrdinalIgnoreCase))).ToList();
        if (leaks.Count > 0) stores.Materials.TakeOff(series.Id, [.. leaks.Select(material => material.Id)], clock.GetCurrentInstant());
        return Keep(stores, series, series with { Description = Cleaned(series.Description), Changes = [.. series.Changes.Select(change => change with { Note = Cleaned(change.Note) })] }, viewer,
            $"took the way into {door.Link.Name} out of {series.Title}", remedy.Says);
    }, outcome => outcome.IsDone);

    private Outcome<string> Keep(Stores stores, Series before, Series after, Viewer viewer, string summary, string says)
    {
        var now = clock.GetCurrentInstant();
        var materials = stores.Materials.Of(before.Calendar);
        if (!stores.Series.Change(after with { ChangedAt = now }, before.Version)) return new Outcome<string>.Stale(null);
        stores.Calendars.Touch(before.Calendar, now);
        stores.History.Add(now, viewer.Person!.Value, before.Calendar, HistorySubject.Series, before.Id.Value, "MendJoinLink", summary,
            SeriesState.Write([SeriesState.Of(before, takenOff: false, materials)]), SeriesState.Write([SeriesState.Of(stores.Series.Find(before.Id)!, takenOff: false, materials)]));
        return new Outcome<string>.Done(says);
    }
}
