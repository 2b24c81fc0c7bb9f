using NodaTime;

namespace JollyAlmanac.Demo;

/// <summary>A clock that is set to a moment and runs on from there.</summary>
public sealed class DemoClock : IClock
{
    private Duration ahead;

    /// <summary>Sets it.</summary>
    public void Set(Instant moment) => ahead = moment - SystemClock.Instance.GetCurrentInstant();

    /// <inheritdoc />
    public Instant GetCurrentInstant() => SystemClock.Instance.GetCurrentInstant() + ahead;
}
