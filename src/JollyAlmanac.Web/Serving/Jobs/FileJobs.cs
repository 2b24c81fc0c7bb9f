using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Materials;
using NodaTime;

namespace JollyAlmanac.Web.Serving.Jobs;

/// <summary>Deletes files that nothing refers to any more.</summary>
public sealed class FileCleanupJob(SendFiles files, AlmanacSettings settings, IClock clock, ILogger<FileCleanupJob> log)
    : PeriodicJob(Duration.FromMinutes(10), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Tidying files";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping)
    {
        files.Tidy();
        DataDirectory.Sweep(settings.DataDirectory);
        return Task.CompletedTask;
    }
}

/// <summary>Reads the words of PDFs and documents, so that they are found by them.</summary>
public sealed class DocumentTextJob(SendFiles files, IClock clock, ILogger<DocumentTextJob> log)
    : PeriodicJob(Duration.FromSeconds(5), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Words of documents";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping) => Read(stopping);

    /// <summary>Reads all that are there to be read.</summary>
    /// <param name="stopping">Signals that the server stops.</param>
    public Task Read(CancellationToken stopping) =>
        files.ReadWords((path, ending) => FileWorker.Words(path, FileWorker.Longest, ending), stopping);
}
