using JollyAlmanac.Application.Joining;
using NodaTime;

namespace JollyAlmanac.Web.Serving.Jobs;

/// <summary>Ends the rooms of sessions that are over, where each session has its own.</summary>
public sealed class RoomJob(RoomNews news, IClock clock, ILogger<RoomJob> log)
    : PeriodicJob(Duration.FromSeconds(30), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Ending rooms";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping) => news.Tidy(stopping);
}
