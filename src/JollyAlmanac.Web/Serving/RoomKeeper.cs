using JollyAlmanac.Application.Joining;

namespace JollyAlmanac.Web.Serving;

/// <summary>Looks twice a minute whether a session's own room is to be ended.</summary>
public sealed partial class RoomKeeper(RoomNews news, ILogger<RoomKeeper> log) : Rounds(TimeSpan.FromSeconds(30))
{
    [LoggerMessage(LogLevel.Warning, "Rooms could not be tidied: {Reason}")]
    private static partial void NotTidied(ILogger log, string reason);

    /// <inheritdoc />
    protected override Task Go(CancellationToken stopping) => news.Tidy(stopping);

    // The message names no address.
    /// <inheritdoc />
    protected override void Failed(Exception failure) => NotTidied(log, failure.Message);
}
