using System.Collections.Concurrent;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>
/// Notes on which of its sites an embed is shown. Most showings are answered without anything being read, so each site is noted once an
/// hour at most.
/// </summary>
public sealed class EmbedSightings(AlmanacDatabase database, IClock clock)
{
    private static readonly Duration Every = Duration.FromHours(1);

    private const int MostKnown = 10_000;

    private readonly ConcurrentDictionary<(FeedToken Token, string Site), Instant> noted = new();

    /// <summary>Notes that an embed is shown on a site; one that may not show it is none of its.</summary>
    /// <param name="token">The embed.</param>
    /// <param name="site">The origin of the page that frames it, as its browser tells.</param>
    public void Note(FeedToken token, Uri site)
    {
        var (now, origin) = (clock.GetCurrentInstant(), site.GetLeftPart(UriPartial.Authority));
        if (noted.TryGetValue((token, origin), out var last) && now - last < Every && now >= last)
            return;
        // Whoever makes tokens or sites up gains a question to the database each, and no place that grows.
        if (noted.Count >= MostKnown)
            noted.Clear();
        noted[(token, origin)] = now;
        var embed = database.Read(stores => stores.Publications.Find(PublicationKind.Embed, Secrets.HashOf(token)));
        if (
            embed?.Sites.FirstOrDefault(one => one.Value.Equals(origin, StringComparison.OrdinalIgnoreCase)) is
            { Value: { } known }
        )
            database.Note(stores => stores.Publications.NoteShown(embed.Id, known, now));
    }
}
