using NodaTime;

namespace JollyAlmanac.Web.Serving.Jobs;

/// <summary>How a job went last.</summary>
/// <param name="At">When it began.</param>
/// <param name="Failure">Why it failed, by the exception's type; null where it went well.</param>
public sealed record JobRun(Instant At, string? Failure);

/// <summary>
/// Something that the server does again and again, on a schedule of its own. A run that fails is logged and tried again at the next
/// turn; no other job is held up by it.
/// </summary>
/// <param name="every">From the start of a run to the next one's; a run that takes longer is followed at once.</param>
/// <param name="clock">Tells when a run began.</param>
/// <param name="log">Where failures are logged.</param>
public abstract partial class PeriodicJob(Duration every, IClock clock, ILogger log) : BackgroundService
{
    private volatile JobRun? last;
    private string? logged;

    /// <summary>What it does, for coordinators; begins with a capital.</summary>
    public abstract string Title { get; }

    /// <summary>The last run that is over; null before the first is.</summary>
    public JobRun? Last => last;

    /// <summary>When it is next due; null before the first run is over.</summary>
    public Instant? Next => last?.At + every;

    /// <summary>Runs the job once.</summary>
    /// <param name="stopping">Signals that the server stops.</param>
    protected abstract Task Run(CancellationToken stopping);

    [LoggerMessage(LogLevel.Warning, "The job “{Title}” failed and is tried again")]
    private static partial void RunFailed(ILogger log, Exception failure, string title);

    /// <inheritdoc />
    protected sealed override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        // The server listens before the first run begins.
        await Task.Yield();
        using var timer = new PeriodicTimer(every.ToTimeSpan());
        try
        {
            do
            {
                var at = clock.GetCurrentInstant();
                try
                {
                    await Run(stoppingToken);
                    (last, logged) = (new JobRun(at, null), null);
                }
                catch (Exception failure)
                    when (failure is not OperationCanceledException || !stoppingToken.IsCancellationRequested)
                {
                    last = new JobRun(at, failure.GetType().Name);
                    // One that fails every few seconds in the same way is logged once.
                    if (logged == failure.Message)
                        continue;
                    logged = failure.Message;
                    RunFailed(log, failure, Title);
                }
            } while (await timer.WaitForNextTickAsync(stoppingToken));
        }
        catch (OperationCanceledException)
        {
            // The server stops; what waits is done after its next start.
        }
    }
}
