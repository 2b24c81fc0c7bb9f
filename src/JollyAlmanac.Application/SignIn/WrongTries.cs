using System.Threading.RateLimiting;

namespace JollyAlmanac.Application.SignIn;

/// <summary>
/// Counts wrong tries by where they come from, and says when there were too many. Right ones do not count, so a class that
/// comes in through one network address at nine is not held up.
/// </summary>
/// <param name="most">How many wrong tries one has in a window.</param>
/// <param name="window">How long it takes until they count anew.</param>
public sealed class WrongTries(int most, TimeSpan window) : IDisposable
{
    private readonly PartitionedRateLimiter<string> tries = PartitionedRateLimiter.Create<string, string>(key =>
        RateLimitPartition.GetFixedWindowLimiter(key, _ => new FixedWindowRateLimiterOptions { PermitLimit = most, Window = window, QueueLimit = 0 }));

    /// <summary>Whether there were too many from there.</summary>
    public bool AreTooMany(string key) => tries.GetStatistics(key) is { CurrentAvailablePermits: <= 0 };

    /// <summary>Counts one.</summary>
    public void Count(string key) => tries.AttemptAcquire(key).Dispose();

    /// <inheritdoc />
    public void Dispose() => tries.Dispose();
}
