using JollyAlmanac.Application.Sharing;
using NodaTime;

namespace JollyAlmanac.Web.Serving.Jobs;

/// <summary>Ends access whose last day is over and opens calendars whose day has come, where nobody asks for a page meanwhile.</summary>
public sealed class AccessJob(Share share, IClock clock, ILogger<AccessJob> log)
    : PeriodicJob(Duration.FromMinutes(1), clock, log)
{
    private readonly IClock clock = clock;

    /// <inheritdoc />
    public override string Title => "Access that begins and ends";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping)
    {
        share.EndWhatIsOver(clock.GetCurrentInstant());
        return Task.CompletedTask;
    }
}
