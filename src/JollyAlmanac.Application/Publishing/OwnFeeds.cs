using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Application.Publishing;

/// <summary>Somebody's own feed, for its page.</summary>
/// <param name="Feed">The feed; null where they have none.</param>
/// <param name="Token">Its present token; empty for none.</param>
/// <param name="Calendars">The calendars it tells, or would.</param>
public sealed record OwnFeedView(OwnFeed? Feed, FeedToken? Token, IReadOnlyList<Calendar> Calendars);

/// <summary>All that is somebody's own in one feed, for them alone: their classes as they may see them, whatever becomes of
/// these.</summary>
public sealed class OwnFeeds(Gate gate, Secrets secrets)
{
    /// <summary>How it stands.</summary>
    public Outcome<OwnFeedView> View(Viewer viewer) => gate.Read<OwnFeedView>(Operation.KeepOwnFeed, viewer, at =>
        {
            // The address is for its person's eyes alone, and for no one who looks as them.
            if (viewer.LookedAtBy is not null)
                return new Outcome<OwnFeedView>.NotAllowed();
            var feed = at.Stores.OwnFeeds.Of(at.Person);
            return new Outcome<OwnFeedView>.Done(
                new OwnFeedView(
                    feed,
                    feed is null ? null : secrets.TokenOf(feed),
                    [.. FeedSource.PartsOf(at.Stores, feed ?? New(at)).Select(part => part.Calendar)]
                )
            );
        });

    /// <summary>Makes it, or changes how it reminds.</summary>
    /// <param name="viewer">Whose.</param>
    /// <param name="reminder">Minutes before each session; empty for none.</param>
    /// <param name="version">The version the form was made from; 0 where there was none.</param>
    public Outcome<OwnFeed> Set(Viewer viewer, string? reminder, int version) =>
        gate.Write<OwnFeed>(Operation.KeepOwnFeed, viewer, at =>
        {
            var entry = new FormReader();
            int? minutes = string.IsNullOrWhiteSpace(reminder)
                ? null
                : entry.Number(
                    "Reminder",
                    reminder.Trim(),
                    "The minutes before",
                    0,
                    PublicationOptions.LongestReminder
                );
            if (!entry.IsGood)
                return new Outcome<OwnFeed>.Refused(entry.Problems);
            var feed = at.Stores.OwnFeeds.Of(at.Person);
            return Store(
                at,
                (feed ?? New(at)) with
                {
                    Options = new PublicationOptions { Reminder = minutes },
                },
                feed is null ? 0 : version,
                feed is null ? "made a feed of all their classes" : "changed the feed of all their classes"
            );
        });

    /// <summary>Gives it a new address; the old one is dead at once.</summary>
    public Outcome<OwnFeed> Renew(Viewer viewer, int version) =>
        gate.Write<OwnFeed>(Operation.KeepOwnFeed, viewer, at =>
            at.Stores.OwnFeeds.Of(at.Person) is not { } feed
                ? new Outcome<OwnFeed>.NotFound()
                : Store(
                    at,
                    feed with
                    {
                        Generation = feed.Generation + 1,
                    },
                    version,
                    "gave the feed of all their classes a new address"
                )
        );

    /// <summary>Ends it for good.</summary>
    public Outcome<bool> End(Viewer viewer, int version) => gate.Write<bool>(Operation.KeepOwnFeed, viewer, at =>
        {
            if (at.Stores.OwnFeeds.Of(at.Person) is null)
                return new Outcome<bool>.NotFound();
            if (!at.Stores.OwnFeeds.Remove(at.Person, version))
                return new Outcome<bool>.Stale(null);
            at.Note(HistorySubject.Person, at.Person.Value, "ended the feed of all their classes");
            return new Outcome<bool>.Done(true);
        });

    // A generation of its own for each, so that the address of an ended one never comes back.
    private static OwnFeed New(AtSchool at) =>
        new(at.Person, (int)(at.Now.ToUnixTimeSeconds() % int.MaxValue), new PublicationOptions(), 0, null);

    private Outcome<OwnFeed> Store(AtSchool at, OwnFeed feed, int version, string summary)
    {
        if (!at.Stores.OwnFeeds.Set(feed, Secrets.HashOf(secrets.TokenOf(feed)), version, at.Now))
            return new Outcome<OwnFeed>.Stale(null);
        at.Note(HistorySubject.Person, at.Person.Value, summary);
        return new Outcome<OwnFeed>.Done(at.Stores.OwnFeeds.Of(at.Person)!);
    }
}
