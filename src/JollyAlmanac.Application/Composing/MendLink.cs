using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;

namespace JollyAlmanac.Application.Composing;

/// <summary>Applies the remedy of a finding, if the finding still stands.</summary>
public sealed class MendLink(
    Gate gate,
    RoomProviders rooms,
    EditJoinLinks editJoinLinks,
    Switchboard switchboard,
    TestLink testLink,
    ChangeSession changeSession
)
{
    /// <summary>Applies a remedy.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="code">The link.</param>
    /// <param name="key">The remedy's key, as the finding offers it.</param>
    /// <param name="version">The version of the link that the offer was made from.</param>
    /// <param name="cancellation">For a test that asks over the network, and for a provider of rooms.</param>
    /// <returns>What was done, in a sentence.</returns>
    public async Task<Outcome<string>> Do(
        Viewer viewer,
        JoinCode code,
        string key,
        int version,
        CancellationToken cancellation
    )
    {
        var found = gate.Read<(LinkDoor Door, Remedy Remedy)>(Operation.MendJoinLink, viewer, code, at =>
            at.Link.Version != version ? at.Stale<(LinkDoor, Remedy)>()
            : switchboard
                .Notice(at.Stores, [at.Door], at.Now)
                .SelectMany(noted => noted.Finding.Remedies)
                .FirstOrDefault(one => one.Key == key)
                is { } offered
                ? new Outcome<(LinkDoor, Remedy)>.Done((at.Door, offered))
            : Outcome.Because<(LinkDoor, Remedy)>(
                "",
                "That is mended already, or no longer so. The notes are up to date now."
            )
        );
        if (found is not Outcome<(LinkDoor Door, Remedy Remedy)>.Done { Value: var (door, remedy) })
            return found.Select(_ => "");
        return remedy.Kind switch
        {
            RemedyKind.Test => await testLink.Do(viewer, code, cancellation),
            // Who is inside is told of first, as when it is renewed by hand.
            RemedyKind.Renew => (await editJoinLinks.Renew(viewer, code, sure: false, version, cancellation)).Select(
                _ => remedy.Says
            ),
            RemedyKind.OpenSessionLater => OpenLater(viewer, door, remedy),
            RemedyKind.OwnLink => await OwnLink(viewer, door, remedy, cancellation),
            RemedyKind.TakeOut => TakeOut(viewer, door, remedy),
            RemedyKind.EndWithTerm => EndWithTerm(viewer, door, remedy),
            RemedyKind.TakeLink => TakeLink(viewer, door, remedy),
            _ => Change(viewer, code, version, remedy),
        };
    }

    private Outcome<string> Change(Viewer viewer, JoinCode code, int version, Remedy remedy) =>
        gate.Write<string>(Operation.MendJoinLink, viewer, code, version, at =>
        {
            var link = at.Link;
            var changed = remedy.Kind switch
            {
                RemedyKind.OpenLater => link with
                {
                    Entry = link.Entry is EntryRule.Around around ? around with { Lead = remedy.Minutes } : link.Entry,
                },
                RemedyKind.OpenAround => link with { Entry = EntryRule.Usual },
                RemedyKind.RenewAfterEach => link with { RenewsAfterEach = true },
                RemedyKind.SharedOnPurpose => link with { IsSharedOnPurpose = true },
                _ => link with { IsPersonal = false },
            };
            return at.Store(
                    changed,
                    $"changed the join link {link.Name}: {char.ToLowerInvariant(remedy.Label[0])}{remedy.Label[1..]}"
                )
                .Select(_ => remedy.Says);
        });

    private Outcome<string> OpenLater(Viewer viewer, LinkDoor door, Remedy remedy)
    {
        var series = door.Series.First(one => one.Id == remedy.Series);
        // Its own rule as it is, but for when it opens.
        var session = door.Schedule.Held.First(one => one.IsKnownBy(remedy.Session!.Value));
        var late = ((session.Change?.Entry ?? door.Link.Entry) as EntryRule.Around)?.Late;
        return changeSession
            .SetEntry(
                viewer,
                door.CalendarOf(session).Slug,
                session.Key,
                new EntryRule.Around(remedy.Minutes, late),
                series.Version
            )
            .Select(_ => remedy.Says);
    }

    // A series of another calendar that uses the link is changed by those who may change it there.
    private Outcome<string> OnSeries(Viewer viewer, LinkDoor door, Remedy remedy, Func<AtSeries, Outcome<string>> keep)
    {
        var series = door.Series.First(one => one.Id == remedy.Series);
        var calendar = door.Users.First(user => user.Calendar.Id == series.Calendar).Calendar;
        return gate.Write(Operation.ChangeSeries, viewer, calendar.Slug, series.Id, series.Version, at =>
            keep(at with { Operation = Operation.MendJoinLink })
        );
    }

    private async Task<Outcome<string>> OwnLink(
        Viewer viewer,
        LinkDoor door,
        Remedy remedy,
        CancellationToken cancellation
    ) =>
        await rooms.WithRoom(
            door.Series.First(one => one.Id == remedy.Series).Title,
            "",
            target => OnSeries(viewer, door, remedy, at =>
                {
                    if (!at.Context.May(Permission.KeepJoinLinks))
                        return new Outcome<string>.NotAllowed();
                    var series = at.Series;
                    // It takes the door of the old link along, not its room, hosts or word.
                    var made = EditJoinLinks.Make(
                        at,
                        EditJoinLinks.Fresh(at.Stores, at.Calendar.Id, series.Title, at.Context.Grants) with
                        {
                            Code = at.Stores.JoinLinks.FreeCode(series.Title),
                            Entry = door.Link.Entry,
                            Audience = door.Link.Audience,
                            RenewsAfterEach = door.Link.RenewsAfterEach,
                            Reach = rooms.Reach,
                        },
                        target
                    );
                    var changed = series with
                    {
                        JoinLink = made.Id,
                        Changes =
                        [
                            .. series.Changes.Select(change =>
                                change.Link == door.Link.Id ? change with { Link = null } : change
                            ),
                        ],
                    };
                    return at.Store(changed, $"gave {series.Title} a join link of its own")
                        ? new Outcome<string>.Done($"{remedy.Says} It is {made.Code.Path}.")
                        : new Outcome<string>.Stale(null);
                }),
            cancellation
        );

    private Outcome<string> EndWithTerm(Viewer viewer, LinkDoor door, Remedy remedy) =>
        OnSeries(viewer, door, remedy, at => door.School.Time.TermToShow(at.Now.InZone(door.School.Time.Zone).Date)
                is not { } term
                ? new Outcome<string>.Stale(null)
            : at.Store(
                at.Series with
                {
                    Pattern = at.Series.Pattern with { Extent = new Extent.WithTerm(term.Id) },
                },
                $"ended {at.Series.Title} with the {term.Name}"
            )
                ? new Outcome<string>.Done(remedy.Says)
            : new Outcome<string>.Stale(null));

    // The series has no link yet, so the door does not know it.
    private Outcome<string> TakeLink(Viewer viewer, LinkDoor door, Remedy remedy) =>
        gate.Read<int>(
                Operation.ChangeSeries,
                viewer,
                door.Owner.Slug,
                remedy.Series!.Value,
                at => new Outcome<int>.Done(at.Series.Version)
            )
            .Then(version =>
                gate.Write<string>(Operation.ChangeSeries, viewer, door.Owner.Slug, remedy.Series!.Value, version, at =>
                    at.Store(
                        at.Series with
                        {
                            JoinLink = door.Link.Id,
                        },
                        $"gave {at.Series.Title} the join link {door.Link.Name}"
                    )
                        ? new Outcome<string>.Done(remedy.Says)
                        : new Outcome<string>.Stale(null)
                )
            );

    private Outcome<string> TakeOut(Viewer viewer, LinkDoor door, Remedy remedy) => OnSeries(viewer, door, remedy, at =>
        {
            var (stores, series) = (at.Stores, at.Series);
            var secrets = stores
                .JoinLinks.Secrets([door.Link.Id])[door.Link.Id]
                .Where(secret => secret.Length >= LinkFindings.ShortestSecret)
                .OrderByDescending(secret => secret.Length)
                .ToList();
            string Cleaned(string text) =>
                secrets.Aggregate(text, (left, secret) =>
                    left.Replace(
                        secret,
                        secret.StartsWith("http", StringComparison.OrdinalIgnoreCase)
                            ? door.Link.Code.Path
                            : "(see the join link)",
                        StringComparison.OrdinalIgnoreCase
                    )
                );
            var leaks = stores
                .Materials.Of(series.Calendar)
                .Where(material =>
                    material.Series == series.Id
                    && material.Content is MaterialContent.Link { Address: var address }
                    && secrets.Exists(secret =>
                        address.AbsoluteUri.Contains(secret, StringComparison.OrdinalIgnoreCase)
                    )
                )
                .ToList();
            if (leaks.Count > 0)
                stores.Materials.Remove(series.Id, [.. leaks.Select(material => material.Id)], at.Now);
            var changed = series with
            {
                Description = Cleaned(series.Description),
                Changes = [.. series.Changes.Select(change => change with { Note = Cleaned(change.Note) })],
            };
            return at.Store(changed, $"took the join details of {door.Link.Name} out of {series.Title}")
                ? new Outcome<string>.Done(remedy.Says)
                : new Outcome<string>.Stale(null);
        });
}
