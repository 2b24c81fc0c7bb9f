using JollyAlmanac.Application.Joining;

namespace JollyAlmanac.Web.Serving;

/// <summary>Looks twice a minute whether a session's own room is to be ended.</summary>
public sealed partial class RoomKeeper(RoomNews news, ILogger<RoomKeeper> log) : BackgroundService
{
    [LoggerMessage(LogLevel.Warning, "Rooms could not be tidied: {Reason}")]
    private static partial void NotTidied(ILogger log, string reason);

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromSeconds(30));
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken))
            {
                try
                {
                    await news.Tidy(stoppingToken);
                }
                catch (Exception failure) when (failure is not OperationCanceledException)
                {
                    // The next round tries again; the message names no address.
                    NotTidied(log, failure.Message);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // The server stops.
        }
    }
}
