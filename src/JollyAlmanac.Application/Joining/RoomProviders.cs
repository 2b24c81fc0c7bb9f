using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Joining;

/// <summary>The provider of this installation, where it has one, asked with patience that ends.</summary>
/// <param name="Provider">The provider, or null.</param>
/// <param name="Ticker">What the patience is measured by; the system's own where null.</param>
public sealed record RoomProviders(IRoomProvider? Provider, TimeProvider? Ticker = null)
{
    /// <summary>How long a provider is waited for: somebody stands before a page meanwhile.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(8);

    /// <summary>The provider that made a target, or null.</summary>
    internal IRoomProvider? Of(string name) => Provider?.Name == name ? Provider : null;

    /// <summary>How far a room that the provider makes reaches.</summary>
    internal LinkReach Reach => Provider?.ReachDays is { } days ? new LinkReach.Days(days) : new LinkReach.Unlimited();

    /// <summary>
    /// Asks a provider, for so long and no longer, and never within a reading or writing of the database, which would hold up the
    /// whole school.
    /// </summary>
    /// <exception cref="RoomProviderException">The provider could not, or did not answer in time.</exception>
    internal async Task<T> Ask<T>(
        IRoomProvider provider,
        Func<IRoomProvider, CancellationToken, Task<T>> ask,
        CancellationToken cancellation
    )
    {
        if (AlmanacDatabase.IsWithin)
            throw new InvalidOperationException("A provider of rooms was asked within a transaction.");
        using var ends = new CancellationTokenSource(Patience, Ticker ?? TimeProvider.System);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(ends.Token, cancellation);
        try
        {
            // Waited for by our own measure, too: a provider may not look at the token.
            return await ask(provider, either.Token).WaitAsync(either.Token);
        }
        catch (OperationCanceledException) when (ends.IsCancellationRequested && !cancellation.IsCancellationRequested)
        {
            throw new RoomProviderException(
                $"{provider.Name} did not answer in time. Nothing was changed; try again in a while."
            );
        }
    }

    /// <summary>Ends a room that is not needed any more. Where that fails, the provider's own rules for old rooms have to do.</summary>
    internal async Task Retire(IRoomProvider provider, string key, CancellationToken cancellation)
    {
        try
        {
            await Ask(
                provider,
                async (one, ends) =>
                {
                    await one.Retire(key, ends);
                    return true;
                },
                cancellation
            );
        }
        catch (RoomProviderException)
        {
            // What was to be done is done; a room that stays is no reason to say it was not.
        }
    }

    /// <summary>
    /// Has a room made and keeps it by an act, before whose write lock it is made, as a provider may be slow. Where the act keeps
    /// nothing, the room goes again.
    /// </summary>
    /// <param name="name">What the room is for.</param>
    /// <param name="field">The form field that is told of where the provider cannot, or there is none.</param>
    /// <param name="keep">The act.</param>
    /// <param name="cancellation">Ends the waiting for the provider.</param>
    internal async Task<Outcome<T>> WithRoom<T>(
        string name,
        string field,
        Func<JoinTarget, Outcome<T>> keep,
        CancellationToken cancellation
    )
    {
        if (Provider is null)
            return Outcome.Because<T>(field, "There is no provider here that makes rooms. Paste the address of one.");
        try
        {
            var target = await Make(Provider, name, cancellation);
            var outcome = keep(target);
            if (!outcome.IsDone)
                await Retire(Provider, target.Room, cancellation);
            return outcome;
        }
        catch (RoomProviderException failure)
        {
            return Outcome.Because<T>(field, failure.Message);
        }
    }

    /// <summary>Has a room made.</summary>
    /// <exception cref="RoomProviderException">The provider could not.</exception>
    internal async Task<JoinTarget> Make(IRoomProvider provider, string name, CancellationToken cancellation)
    {
        var room = await Ask(provider, (one, ends) => one.Make(name, ends), cancellation);
        return new JoinTarget(room.Address)
        {
            MeetingId = room.MeetingId,
            Passcode = room.Passcode,
            DialIn = room.DialIn,
            Provider = provider.Name,
            Room = room.Key,
        };
    }
}
