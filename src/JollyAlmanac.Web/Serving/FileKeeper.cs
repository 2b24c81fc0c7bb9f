using JollyAlmanac.Application.Materials;

namespace JollyAlmanac.Web.Serving;

/// <summary>Looks every ten minutes for files that nothing refers to any more.</summary>
public sealed partial class FileKeeper(SendFiles files, ILogger<FileKeeper> log) : BackgroundService
{
    [LoggerMessage(LogLevel.Warning, "Files could not be tidied: {Reason}")]
    private static partial void NotTidied(ILogger log, string reason);

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMinutes(10));
        try
        {
            while (await timer.WaitForNextTickAsync(stoppingToken))
            {
                try
                {
                    files.Tidy();
                }
                catch (Exception failure) when (failure is not OperationCanceledException)
                {
                    // The next round tries again; no name of a file is told.
                    NotTidied(log, failure.GetType().Name);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // The server stops.
        }
    }
}
