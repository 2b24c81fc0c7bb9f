using JollyAlmanac.Application.Joining;
using NodaTime;

namespace JollyAlmanac.Web.Serving.Jobs;

/// <summary>Ends the rooms of sessions that are over, where each session has its own, and those that were opened for a while.</summary>
public sealed class RoomJob(RoomNews news, OpenRoom openRoom, IClock clock, ILogger<RoomJob> log)
    : PeriodicJob(Duration.FromSeconds(30), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Ending rooms";

    /// <inheritdoc />
    protected override async Task Run(CancellationToken stopping)
    {
        await openRoom.Tidy(stopping);
        await news.Tidy(stopping);
    }
}
