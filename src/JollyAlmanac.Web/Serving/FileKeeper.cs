using JollyAlmanac.Application.Materials;

namespace JollyAlmanac.Web.Serving;

/// <summary>Looks every ten minutes for files that nothing refers to any more.</summary>
public sealed partial class FileKeeper(SendFiles files, AlmanacSettings settings, ILogger<FileKeeper> log)
    : Rounds(TimeSpan.FromMinutes(10))
{
    [LoggerMessage(LogLevel.Warning, "Files could not be tidied: {Reason}")]
    private static partial void NotTidied(ILogger log, string reason);

    /// <inheritdoc />
    protected override Task Go(CancellationToken stopping)
    {
        files.Tidy();
        JollyAlmanac.Application.Keeping.DataDirectory.Sweep(settings.DataDirectory);
        return Task.CompletedTask;
    }

    // No name of a file is told.
    /// <inheritdoc />
    protected override void Failed(Exception failure) => NotTidied(log, failure.GetType().Name);
}
