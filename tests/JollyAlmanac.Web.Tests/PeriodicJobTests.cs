using JollyAlmanac.Web.Serving.Jobs;
using Microsoft.Extensions.Logging;
using Microsoft.Extensions.Logging.Abstractions;
using NodaTime;

namespace JollyAlmanac.Web.Tests;

/// <summary>Jobs of the server: each by itself, a failure logged whole and tried again.</summary>
public sealed class PeriodicJobTests
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    [Fact]
    public async Task One_that_fails_is_logged_whole_once_and_goes_well_again()
    {
        var log = new Logged();
        using var job = new Failing(log, fails: 3);
        await job.StartAsync(Stop);
        await job.Runs(6);
        await job.StopAsync(Stop);
        Assert.Equal(
            [
                nameof(InvalidTimeZoneException),
                nameof(InvalidTimeZoneException),
                nameof(InvalidTimeZoneException),
                null,
            ],
            job.Seen.Take(4).Select(run => run.Failure)
        );
        Assert.Null(job.Last!.Failure);
        Assert.True(job.Next > job.Last.At);
        var failure = Assert.Single(log.Failures);
        Assert.Equal("the third tide", failure.Message);
        Assert.Contains("Failing", failure.StackTrace, StringComparison.Ordinal);
    }

    [Fact]
    public async Task None_is_held_up_by_another()
    {
        using var failing = new Failing(NullLogger.Instance, fails: int.MaxValue);
        using var other = new Failing(NullLogger.Instance, fails: 0);
        await failing.StartAsync(Stop);
        await other.StartAsync(Stop);
        await Task.WhenAll(failing.Runs(3), other.Runs(3));
        Assert.NotNull(failing.Last!.Failure);
        Assert.Null(other.Last!.Failure);
    }

    // Fails so often, then goes well.
    private sealed class Failing(ILogger log, int fails)
        : PeriodicJob(Duration.FromMilliseconds(1), SystemClock.Instance, log)
    {
        private readonly SemaphoreSlim ran = new(0);
        private int runs;

        public override string Title => "Tides";

        /// <summary>How the run before went, from the second on.</summary>
        public List<JobRun> Seen { get; } = [];

        public async Task Runs(int count)
        {
            while (runs < count)
                await ran.WaitAsync(Stop);
        }

        protected override Task Run(CancellationToken stopping)
        {
            if (Last is { } last)
                Seen.Add(last);
            runs++;
            ran.Release();
            return runs <= fails ? throw new InvalidTimeZoneException("the third tide") : Task.CompletedTask;
        }
    }

    private sealed class Logged : ILogger
    {
        public List<Exception> Failures { get; } = [];

        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => null;

        public bool IsEnabled(LogLevel logLevel) => true;

        public void Log<TState>(
            LogLevel logLevel,
            EventId eventId,
            TState state,
            Exception? exception,
            Func<TState, Exception?, string> formatter
        )
        {
            if (exception is not null)
                Failures.Add(exception);
        }
    }
}
