namespace JollyAlmanac.Web.Serving;

/// <summary>Does something again and again while the server runs; what fails is tried again in the next round.</summary>
/// <param name="every">How often.</param>
public abstract class Rounds(TimeSpan every) : BackgroundService
{
    /// <summary>One round.</summary>
    protected abstract Task Go(CancellationToken stopping);

    /// <summary>Tells the log of a round that failed, without what is secret.</summary>
    protected abstract void Failed(Exception failure);

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(every);
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken))
            {
                try
                {
                    await Go(stoppingToken);
                }
                catch (Exception failure) when (failure is not OperationCanceledException)
                {
                    Failed(failure);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // The server stops.
        }
    }
}
