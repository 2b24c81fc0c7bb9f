using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>Lets a look that comes often through now and then; at once where the clock was set back.</summary>
/// <param name="every">How long it waits after each.</param>
internal sealed class Pace(Duration every)
{
    private Instant? last;

    /// <summary>Whether it is time again; from then on the waiting begins anew.</summary>
    public bool IsDue(Instant now)
    {
        if (last is { } before && now - before < every && now >= before)
            return false;
        last = now;
        return true;
    }
}
